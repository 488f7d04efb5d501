/** Frames of what will be rendered. */
import { useEffect, useState } from "react";
import { useProduction, useWorkshop } from "../../session";
import { painter } from "../../stage/painter";
import { Painted } from "../../ui/bits";

/** Frames of the range as they will be drawn: the first, the last, and some between. */
export function FrameStrip({ first, last }: { first: number; last: number }) {
  const plan = useWorkshop((w) => w.plan);
  const production = useProduction()!;
  const [drawn, setDrawn] = useState(0);
  const [w, h] = [296, Math.round((296 * (production.height ?? 720)) / (production.width ?? 1280))];
  useEffect(() => {
    if (plan)
      void painter().then((p) =>
        p.prepare([...plan.drawn.items, ...(plan.behind?.items ?? [])]).then(
          () => setDrawn((n) => n + 1),
          () => undefined,
        ),
      );
  }, [plan]);
  const count = Math.min(6, last - first + 1);
  const frames = Array.from({ length: count }, (_, i) =>
    count === 1 ? first : Math.round(first + ((last - first) * i) / (count - 1)),
  );
  if (!plan) return null;
  return (
    <div className="card-sheet p-2 strip" aria-label="Frames of the range">
      {frames.map((f) => (
        <figure key={f} className="m-0">
          <Painted
            width={w}
            height={h}
            watch={[plan, drawn, f, production.paper]}
            paint={(p) =>
              p.pixels(w, h, (c) => {
                c.clear(p.colour(production.paper ?? "#ffffffff"));
                c.scale(w / (production.width ?? 1280), h / (production.height ?? 720));
                if (plan.behind) p.draw(c, { ...plan.behind, at: 0 });
                p.draw(c, { ...plan.drawn, at: Math.min(f - 1, plan.frames - 1) });
              })
            }
          />
          <figcaption className="small faint text-center">frame {f}</figcaption>
        </figure>
      ))}
    </div>
  );
}
