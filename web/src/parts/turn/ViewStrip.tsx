/** A puppet from all round: its views as small pictures, to choose one. */
import { useEffect, useState } from "react";
import { lookAtRest, useWorkshop, type Pose } from "../../session";
import { painter } from "../../stage/painter";
import { boxOf } from "../../stage/scene";
import { Painted } from "../../stage/Painted";
import { Row, Rows } from "../../ui/Rows";
import type { Dial, Puppet } from "../../wire/types";

const [W, H] = [62, 78];

interface Props {
  puppet: Puppet;
  dial: Dial;
  at: number;
  choose: (at: number) => void;
}

export function ViewStrip({ puppet, dial, at, choose }: Props) {
  const poses = useViews(puppet, dial);
  return (
    <Rows
      kind="cards"
      label="Views"
      className="drawing-grid"
      ids={(dial.stops ?? []).map((v) => String(v.at))}
      chosen={[String(at)]}
      choose={(id) => choose(Number(id))}
    >
      {(dial.stops ?? []).map((v) => (
        <Row
          key={v.at}
          id={String(v.at)}
          chosen={v.at === at}
          className="view"
          title={v.of != null ? `${v.name}: the view at ${v.of}° in the mirror` : v.name}
        >
          <ViewThumb pose={poses[v.at]} />
          <span className="name">{v.name || `${v.at}°`}</span>
        </Row>
      ))}
    </Rows>
  );
}

/** The puppet at rest in each of its views, each asked for when it is its turn. */
function useViews(puppet: Puppet, dial: Dial): Record<number, Pose> {
  const [poses, setPoses] = useState<Record<number, Pose>>({});
  const items = useWorkshop((w) => (w.plan?.puppet === puppet.id ? w.plan.drawn.items : null));
  useEffect(() => {
    if (!items) return undefined;
    let live = true;
    const ask = async () => {
      for (const { at } of dial.stops ?? []) {
        const found = await lookAtRest({ [`${dial.id}.dial`]: [at] }, () => live);
        if (!found) continue;
        await (await painter()).prepare(found.drawn.items);
        if (live) setPoses((before) => ({ ...before, [at]: found }));
      }
    };
    void ask();
    return () => {
      live = false;
    };
  }, [puppet, dial, items]);
  return poses;
}

function ViewThumb({ pose }: { pose: Pose | undefined }) {
  return (
    <Painted
      width={W}
      height={H}
      watch={[pose]}
      paint={(p) => {
        const frame = pose && { ...pose.drawn, at: 0 };
        const box = frame && boxOf(frame);
        if (!frame || !box) return null;
        const scale = Math.min((W - 4) / (box[2] - box[0]), (H - 4) / (box[3] - box[1]));
        return p.thumbnail(W, H, (c) => {
          c.translate(W / 2, H / 2);
          c.scale(scale, scale);
          c.translate(-(box[0] + box[2]) / 2, -(box[1] + box[3]) / 2);
          p.draw(c, frame);
        });
      }}
    />
  );
}
