/** What lies over the stage of the Motion bench: pins to pull, and the mark of the puppet as a whole. */
import type { ReactNode } from "react";
import { useShallow } from "zustand/react/shallow";
import { pathThrough, placed } from "../../geometry";
import { get, motionOf, sizeOf, useWorkshop } from "../../session";
import { shownOnly } from "../../stage/moment";
import { corners, jointMatrix, jointPlace, pieceOn, pinned, sceneAt, type Scene } from "../../stage/scene";
import { Diamond, Ghosts } from "../../stage/Skeleton";
import { ROOT, type Point, type Puppet } from "../../wire/types";

type ToScreen = (p: Point) => Point;

interface Props {
  puppet: Puppet;
  to: ToScreen;
  whole: boolean;
  /** Over the pins, and under the handles, which can always be grasped. */
  children?: ReactNode;
}

export function Posing({ puppet, to, whole, children }: Props) {
  const { plan, pose, frame, taken, playing, boxed, begins } = useWorkshop(
    useShallow((w) => ({
      plan: w.plan,
      pose: w.pose,
      frame: w.frame,
      taken: w.joints,
      playing: w.playing,
      boxed: w.boxed,
      begins: w.limbBegins,
      unseen: w.unseen,
      isolated: w.isolated,
    })),
  );
  const scene = sceneAt(plan, pose, frame);
  if (!scene || playing || plan?.puppet !== puppet.id) return null;
  const only = shownOnly(get());
  const chosen = new Set(taken.filter((id) => id !== ROOT));
  const joints = [...new Set([...pinned(puppet, only), ...taken.flatMap((id) => puppet.joints?.[id] ?? [])])];
  const outlines = [...chosen].flatMap((id) => {
    const piece = pieceOn(id);
    const around = piece ? corners(scene, puppet, piece)?.map(to) : null;
    return around ? [pathThrough(around, true)] : [];
  });
  return (
    <>
      {outlines.length > 0 && !pose && (
        <>
          <path className="halo" d={outlines.join("")} />
          <path className="outline" d={outlines.join("")} strokeDasharray="7 3" />
        </>
      )}
      <GroundLine to={to} />
      <Ghosts puppet={puppet} to={to} />
      {joints.map((j) => {
        const found = jointPlace(scene, j.id);
        if (!found) return null;
        const [x, y] = to(found);
        const on = chosen.has(j.id) || (whole && !j.parent);
        if (j.handle) return null;
        return (
          <g key={j.id} className={on ? "chosen" : ""} data-handle={`joint:${j.id}`} pointerEvents="all" cursor="grab">
            <title>{j.name}</title>
            <circle cx={x} cy={y} r={8} fillOpacity={0.01} />
            {j.id === begins && <path className="begins" d={`M${x - 12} ${y - 12}h24v24h-24Z`} />}
            {on && <circle cx={x} cy={y} r={8.5} fill="none" stroke="var(--halo)" strokeWidth={3.5} />}
            <circle
              className="pin-dot"
              cx={x}
              cy={y}
              r={on ? 5.6 : 3}
              style={{ stroke: on ? undefined : `var(--${j.side})`, strokeWidth: on ? undefined : 1.2 }}
            />
          </g>
        );
      })}
      {children}
      {joints.map((j) => {
        const found = j.handle && jointPlace(scene, j.id);
        const on = chosen.has(j.id) || (whole && !j.parent);
        return (
          found && <Diamond key={j.id} joint={j} at={to(found)} on={on} matrix={jointMatrix(scene, j.id)!} to={to} />
        );
      })}
      {(whole || taken.includes(ROOT)) && <GroundMark puppet={puppet} scene={scene} to={to} />}
      {boxed && <BoxOver from={to(boxed[0])} to={to(boxed[1])} />}
    </>
  );
}

/** The box that a hand draws round what it takes. */
function BoxOver({ from, to }: { from: Point; to: Point }) {
  const [x, y] = [Math.min(from[0], to[0]), Math.min(from[1], to[1])];
  const [width, height] = [Math.abs(to[0] - from[0]), Math.abs(to[1] - from[1])];
  return <rect className="boxed" data-boxed x={x} y={y} width={width} height={height} />;
}

/** Where the puppet stands: the mark by which all of it is pulled. */
function GroundMark({ puppet, scene, to }: { puppet: Puppet; scene: Scene; to: ToScreen }) {
  const whole = scene.worlds.subarray(scene.worldOffset, scene.worldOffset + 6);
  const [x, y] = to(placed(whole, puppet.origin as Point));
  return (
    <g data-handle={`joint:${ROOT}`} pointerEvents="all" cursor="grab">
      <path d={`M${x - 34} ${y}h68`} stroke="var(--halo)" strokeWidth={6} strokeLinecap="round" />
      <path d={`M${x - 34} ${y}h68`} stroke="var(--held)" strokeWidth={2.6} strokeLinecap="round" />
      <rect
        x={x - 8}
        y={y - 8}
        width={16}
        height={16}
        rx={3}
        transform={`rotate(45 ${x} ${y})`}
        fill="var(--halo)"
        stroke="var(--held)"
        strokeWidth={2.4}
      />
    </g>
  );
}

/** Every how many units the ground is marked. */
const MARK = 60;

/** The ground, with marks that go by as it runs. */
function GroundLine({ to }: { to: ToScreen }) {
  const { ground, frame, runs, width } = useWorkshop(
    useShallow((w) => ({
      ground: w.report?.motion === w.motion ? w.report?.ground : undefined,
      frame: w.frame,
      runs: motionOf(w)?.ground?.runs ?? 0,
      width: sizeOf(w)[0],
    })),
  );
  if (ground === undefined) return null;
  const shift = (((runs * frame) % MARK) + MARK) % MARK;
  const marks = Array.from({ length: Math.ceil(width / MARK) }, (_, i) => i * MARK + shift).filter((x) => x <= width);
  const [left, right] = [to([0, ground]), to([width, ground])];
  const d = marks.map((x) => `M${to([x, ground]).join(" ")}l-4 6`).join("");
  return (
    <path className="ground-line" d={`M${left.join(" ")}L${right.join(" ")}${d}`} fill="none" pointerEvents="none" />
  );
}
