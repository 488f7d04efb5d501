/** Frames of what will be rendered. */
import { useEffect, useState } from "react";
import { useProduction, useWorkshop } from "../../session";
import { painter } from "../../stage/painter";
import { Painted } from "../../stage/Painted";
import { frameOf } from "../../wire/http";
import type { What } from "./what";

/** Frames as they will be drawn: the first, the last, and some between. */
export function FrameStrip({ what, looks }: { what: What; looks: string }) {
  const { first, last } = what;
  const production = useProduction()!;
  const count = Math.min(6, last - first + 1);
  const frames = Array.from({ length: count }, (_, i) =>
    count === 1 ? first : Math.round(first + ((last - first) * i) / (count - 1)),
  );
  const [w, h] = [296, Math.round((296 * production.height) / production.width)];
  return (
    <div className="card-sheet p-2 strip" aria-label="Frames of the range">
      {frames.map((f) => (
        <figure key={f} className="m-0">
          {what.order.motion ? (
            <Drawn frame={f} width={w} height={h} />
          ) : (
            <img src={frameOf(production.id, what.order.shot ?? null, f, looks)} alt="" className="w-100 rounded-1" />
          )}
          <figcaption className="small faint text-center">frame {f}</figcaption>
        </figure>
      ))}
    </div>
  );
}

/** A frame of the motion that is watched. */
function Drawn({ frame, width, height }: { frame: number; width: number; height: number }) {
  const plan = useWorkshop((w) => w.plan);
  const production = useProduction()!;
  const [drawn, setDrawn] = useState(0);
  useEffect(() => {
    if (plan)
      void painter().then((p) =>
        p.prepare([...plan.drawn.items, ...(plan.behind?.items ?? [])]).then(
          () => setDrawn((n) => n + 1),
          () => undefined,
        ),
      );
  }, [plan]);
  return (
    <Painted
      width={width}
      height={height}
      watch={[plan, drawn, frame, production.paper]}
      paint={(p) =>
        plan &&
        p.thumbnail(width, height, (c) => {
          c.clear(p.colour(production.paper));
          c.scale(width / production.width, height / production.height);
          if (plan.behind) p.draw(c, { ...plan.behind, at: 0 });
          p.draw(c, { ...plan.drawn, at: Math.min(frame - 1, plan.frames - 1) });
        })
      }
    />
  );
}
