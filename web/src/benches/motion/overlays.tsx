/** What lies over the stage of the Motion bench: pins to pull, and the mark of the puppet as a whole. */
import { useShallow } from "zustand/react/shallow";
import { pathThrough, placed } from "../../geometry";
import { motionOf, sizeOf, useWorkshop } from "../../session";
import { corners, jointMatrix, jointPlace, pieceOn, sceneAt, type Scene } from "../../stage/scene";
import { Diamond, Ghosts } from "../../stage/Skeleton";
import { ROOT, type Point, type Puppet } from "../../wire/types";

type ToScreen = (p: Point) => Point;

export function Posing({ puppet, to, whole }: { puppet: Puppet; to: ToScreen; whole: boolean }) {
  const { plan, pose, frame, joint, playing } = useWorkshop(
    useShallow((w) => ({ plan: w.plan, pose: w.pose, frame: w.frame, joint: w.joint, playing: w.playing })),
  );
  const scene = sceneAt(plan, pose, frame);
  if (!scene || playing || plan?.puppet !== puppet.id) return null;
  const chosen = joint && joint !== ROOT ? joint : null;
  // What a dial moves is posed with the dial: its pins would only cover the face.
  const dialled = new Set(
    Object.values(puppet.dials ?? {}).flatMap((d) =>
      (d.stops ?? []).flatMap((s) => Object.keys(s.values ?? {}).map((c) => c.slice(0, c.lastIndexOf(".")))),
    ),
  );
  const joints = Object.values(puppet.joints ?? {}).filter((j) => j.id === chosen || !dialled.has(j.id));
  const piece = chosen ? pieceOn(chosen) : null;
  const around = piece ? corners(scene, puppet, piece)?.map(to) : null;
  return (
    <>
      {around && !pose && (
        <>
          <path className="halo" d={pathThrough(around, true)} />
          <path className="outline" d={pathThrough(around, true)} strokeDasharray="7 3" />
        </>
      )}
      <GroundLine to={to} />
      <Ghosts puppet={puppet} to={to} />
      {joints.map((j) => {
        const found = jointPlace(scene, j.id);
        if (!found) return null;
        const [x, y] = to(found);
        const on = chosen === j.id || (whole && !j.parent);
        if (j.handle)
          return <Diamond key={j.id} joint={j} at={[x, y]} on={on} matrix={jointMatrix(scene, j.id)!} to={to} />;
        return (
          <g key={j.id} className={on ? "chosen" : ""} data-handle={`joint:${j.id}`} pointerEvents="all" cursor="grab">
            <title>{j.name}</title>
            <circle cx={x} cy={y} r={8} fillOpacity={0.01} />
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
      {(whole || joint === ROOT) && <GroundMark puppet={puppet} scene={scene} to={to} />}
    </>
  );
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
