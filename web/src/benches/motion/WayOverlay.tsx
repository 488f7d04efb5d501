/** The path of the selected joint: a dot a frame, so that its spacing is seen, and its keys to be pulled. */
import { useEffect } from "react";
import { useShallow } from "zustand/react/shallow";
import { distance, pathThrough, placed } from "../../geometry";
import { lookAtWay, useWorkshop } from "../../session";
import { ROOT, type Point, type Puppet, type WayKey } from "../../wire/types";

type ToScreen = (p: Point) => Point;

/** Ask for the path of what is selected while it is to be seen. */
export function useWay(motion: string | undefined): void {
  const { joint, on, plan } = useWorkshop(
    useShallow((w) => ({ joint: w.joint, on: w.wayShown, plan: w.plan?.target })),
  );
  useEffect(() => {
    if (motion) lookAtWay(on ? joint : null);
  }, [motion, joint, on, plan]);
}

export function WayOverlay({ puppet, to }: { puppet: Puppet; to: ToScreen }) {
  const { plan, trial, joint, frame, way, on, pulled } = useWorkshop(
    useShallow((w) => ({
      plan: w.plan,
      trial: w.trial,
      joint: w.joint,
      frame: w.frame,
      way: w.way,
      on: w.wayShown,
      pulled: w.pulledWay,
    })),
  );
  if (!on || !joint || !plan || plan.puppet !== puppet.id || plan.target.kind !== "motion") return null;
  const source = trial ?? plan;
  const row = joint === ROOT ? 0 : plan.joints.indexOf(joint);
  if (row < 0) return null;
  const places = Array.from({ length: source.frames }, (_, f): Point => {
    const at = (f * plan.joints.length + row) * 6;
    const m = source.worlds.subarray(at, at + 6);
    return to(joint === ROOT ? (placed(m, puppet.origin as Point) as Point) : [m[4]!, m[5]!]);
  });
  const keys = way?.joint === joint ? way.keys : [];
  return (
    <g className="way">
      <path className="halo" d={pathThrough(places, false)} fill="none" />
      <path className="line" d={pathThrough(places, false)} fill="none" />
      {places.map(([x, y], f) => (
        <circle key={f} className={f === frame ? "now" : "dot"} cx={x} cy={y} r={f === frame ? 4 : 2.2} />
      ))}
      {keys.map((k) => (
        <KeyMark key={k.frame} k={k} to={to} pulled={pulled} />
      ))}
    </g>
  );
}

interface MarkProps {
  k: WayKey;
  to: ToScreen;
  pulled: { frame: number; end: "before" | "after" | null; at: Point } | null;
}

function KeyMark({ k, to, pulled }: MarkProps) {
  const mine = pulled?.frame === k.frame ? pulled : null;
  const [x, y] = to(mine && !mine.end ? mine.at : (k.at as Point));
  const ends = (["before", "after"] as const).flatMap((end) => {
    const at = mine?.end === end ? mine.at : (k[end] as Point | null | undefined);
    if (!at) return [];
    const place = to(at);
    // A handle of no length would lie under its key: it stands out a little, to be pulled.
    const short = distance(place, [x, y]) < 10 && mine?.end !== end;
    return [{ end, at: short ? ([x + (end === "before" ? -22 : 22), y] as Point) : place }];
  });
  return (
    <>
      {ends.map(({ end, at }) => (
        <g key={end} data-handle={`way:${k.frame}:${end}`} pointerEvents="all" cursor="grab">
          <title>Drag to shape the path; with Alt this side alone</title>
          <path className="arm" d={`M${x} ${y}L${at[0]} ${at[1]}`} />
          <circle cx={at[0]} cy={at[1]} r={9} fillOpacity={0.01} />
          <circle className="end" cx={at[0]} cy={at[1]} r={3.6} />
        </g>
      ))}
      <g data-handle={`way:${k.frame}`} pointerEvents="all" cursor="grab">
        <title>{`Key at frame ${k.frame + 1}: drag to move it`}</title>
        <rect x={x - 9} y={y - 9} width={18} height={18} fillOpacity={0.01} />
        <rect className="key" x={x - 4.5} y={y - 4.5} width={9} height={9} rx={k.before ? 4.5 : 1} />
      </g>
    </>
  );
}
