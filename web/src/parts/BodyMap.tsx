/** The puppet drawn small at rest with its joints: click a limb to select it; a dot marks what has a key here. */
import { useEffect, useMemo, useRef, useState } from "react";
import { ROOT } from "../wire/types";
import { painter } from "../stage/painter";
import { restBox, takeJoints, withJoint } from "../stage/scene";
import { useMotion, usePuppet, useWorkshop, pickOut } from "../session";
import { Painted } from "../stage/Painted";
import { useRoom } from "../ui/room";

export function BodyMap() {
  const puppet = usePuppet();
  const motion = useMotion();
  const plan = useWorkshop((w) => w.plan);
  const frame = useWorkshop((w) => (w.playing ? -1 : w.frame));
  const pieces = useWorkshop((w) => w.pieces);
  const joints = useWorkshop((w) => w.joints);
  const bench = useWorkshop((w) => w.bench);
  const [drawn, setDrawn] = useState(0);
  const hit = useRef<HTMLDivElement>(null);
  const [width, height] = useRoom(hit);
  const mine = plan && puppet && plan.puppet === puppet.id ? plan : null;
  const box = useMemo(() => (mine && puppet ? restBox(mine.rest.drawn) : null), [mine, puppet]);
  const fit = useMemo(() => {
    if (!box || width < 40 || height < 40) return null;
    const scale = Math.min((width - 28) / (box[2] - box[0]), (height - 20) / (box[3] - box[1]));
    return { scale, x: (width - (box[0] + box[2]) * scale) / 2, y: (height - (box[1] + box[3]) * scale) / 2 };
  }, [box, width, height]);

  useEffect(() => {
    if (mine) void painter().then((p) => p.prepare(mine.drawn.items).then(() => setDrawn((n) => n + 1)));
  }, [mine]);

  const keyed = useMemo(() => {
    if (bench !== "motion") return new Set<string>();
    return new Set(
      Object.values(motion?.channels ?? {})
        .filter((c) => c.keys?.[String(frame)])
        .map((c) => c.joint),
    );
  }, [motion, frame, bench]);

  if (!puppet || !mine || !fit) return <div className="body-map card-sheet" ref={hit} />;
  const place = (id: string): [number, number] | null => {
    const row = mine.joints.indexOf(id);
    if (row < 0) return null;
    return [mine.rest.worlds[row * 6 + 4]! * fit.scale + fit.x, mine.rest.worlds[row * 6 + 5]! * fit.scale + fit.y];
  };
  const choose = (event: React.MouseEvent) => {
    const around = hit.current!.getBoundingClientRect();
    const several = bench === "motion" && (event.shiftKey || event.ctrlKey || event.metaKey);
    const at = [
      (event.clientX - around.left - fit.x) / fit.scale,
      (event.clientY - around.top - fit.y) / fit.scale,
    ] as const;
    void painter().then((p) => {
      const found = p.at(at[0], at[1], { ...mine.rest.drawn, at: 0 }, () => true)[0];
      const joint = found && puppet.pieces?.[found.piece]?.joint;
      if (joint && several) takeJoints(withJoint(joint));
      else pickOut(found ? { pieces: [found.piece], joint: joint ?? null } : { pieces: [], joint: null });
    });
  };
  const all = Object.values(puppet.joints ?? {});
  // On a small figure the marks are small too.
  const k = Math.max(0.5, Math.min(1, height / 200));
  const chosen = new Set([...joints, ...pieces.map((id) => puppet.pieces?.[id]?.joint)]);
  return (
    // The tree below it does the same by keyboard.
    // eslint-disable-next-line jsx-a11y/click-events-have-key-events, jsx-a11y/no-noninteractive-element-interactions
    <div
      className="body-map card-sheet"
      ref={hit}
      onClick={choose}
      role="img"
      aria-label={`${puppet.name} at rest; click a limb to select it`}
    >
      <Painted
        width={width}
        height={height}
        watch={[mine.rest, drawn, fit]}
        paint={(p) =>
          p.thumbnail(width, height, (c) => {
            c.translate(fit.x, fit.y);
            c.scale(fit.scale, fit.scale);
            p.draw(c, { ...mine.rest.drawn, at: 0 });
          })
        }
      />
      <svg width={width} height={height} className="laid-over">
        {all.map((j) => {
          const [here, above] = [place(j.id), j.parent ? place(j.parent) : null];
          return (
            here &&
            above && (
              <line
                key={j.id}
                x1={above[0]}
                y1={above[1]}
                x2={here[0]}
                y2={here[1]}
                stroke="var(--bone)"
                strokeOpacity={0.55}
                strokeWidth={1.3}
              />
            )
          );
        })}
        {all.map((j) => {
          const here = place(j.id);
          if (!here) return null;
          const on = chosen.has(j.id);
          return (
            <g key={j.id}>
              {keyed.has(j.id) && (
                <circle
                  cx={here[0]}
                  cy={here[1]}
                  r={6.2 * k}
                  fill="var(--violet)"
                  stroke="var(--halo)"
                  strokeWidth={1.2 * k}
                />
              )}
              <circle
                cx={here[0]}
                cy={here[1]}
                r={(on ? 4.4 : 2.4) * k}
                fill={on ? "var(--halo)" : "var(--bone)"}
                stroke={on ? "var(--held)" : `var(--${j.side})`}
                strokeWidth={(on ? 2.4 : 1.3) * k}
              />
            </g>
          );
        })}
        {keyed.has(ROOT) && (
          <rect
            x={width / 2 - 5}
            y={height - 11}
            width={10}
            height={5}
            rx={2}
            fill="var(--violet)"
            stroke="var(--halo)"
          />
        )}
      </svg>
    </div>
  );
}
