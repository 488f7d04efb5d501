/** The skeleton over the figure: straps of paper for links, pins for joints, diamonds for handles, wedges for limits. */
import type { ReactNode } from "react";
import { useShallow } from "zustand/react/shallow";
import { along, distance, minus, origin, pathThrough, placed, unit } from "../geometry";
import type { Joint, Point, Puppet } from "../wire/types";
import { get, useWorkshop } from "../session";
import { shownOnly } from "./moment";
import { jointMatrix, jointPlace, marked, sceneAt, type Scene } from "./scene";
import type { Reaching } from "./tools/link";

interface Props {
  puppet: Puppet;
  to: (p: Point) => Point;
  reaching?: Reaching | null;
  /** How strongly links are drawn. */
  links?: number;
  limits?: boolean;
  /** Whether pins that only carry a loose piece are shown. They are in the way where joints are drawn. */
  loose?: boolean;
}

export function Skeleton({ puppet, to, reaching = null, links = 1, limits = false, loose = true }: Props) {
  const { plan, pose, joint, frame } = useWorkshop(
    useShallow((w) => ({
      plan: w.plan,
      pose: w.pose,
      joint: w.joint,
      frame: w.frame,
      unseen: w.unseen,
      isolated: w.isolated,
    })),
  );
  const scene = sceneAt(plan, pose, frame);
  if (!scene || plan?.puppet !== puppet.id) return null;
  const place = (id: string) => {
    const found = jointPlace(scene, id);
    return found && to(found);
  };
  const all = Object.values(puppet.joints ?? {}).filter(marked(puppet, shownOnly(get())));
  const held = new Set(all.map((j) => j.parent));
  const nodes = loose
    ? all
    : all.filter(
        (j) => j.id === joint || j.parent || j.handle || held.has(j.id) || puppet.pieces?.[j.id]?.joint !== j.id,
      );
  const chosen = joint ? puppet.joints?.[joint] : undefined;
  return (
    <>
      <Pins
        puppet={puppet}
        nodes={nodes}
        matrix={(id) => jointMatrix(scene, id)}
        to={to}
        chosen={[joint, reaching?.over ?? null]}
        links={links}
      >
        {limits && chosen?.limits && <Wedge scene={scene} joint={chosen} puppet={puppet} to={to} />}
      </Pins>
      {reaching && place(reaching.from) && (
        <g pointerEvents="none">
          <path
            d={`M${place(reaching.from)!.join(" ")}L${to(reaching.to).join(" ")}`}
            stroke="var(--halo)"
            strokeWidth={6}
            strokeLinecap="round"
          />
          <path
            d={`M${place(reaching.from)!.join(" ")}L${to(reaching.to).join(" ")}`}
            stroke="var(--held)"
            strokeWidth={3}
            strokeDasharray="8 5"
            strokeLinecap="round"
          />
          {reaching.over && (
            <text
              x={to(reaching.to)[0] + 14}
              y={to(reaching.to)[1] - 10}
              fontSize={14}
              fill="var(--held)"
              stroke="var(--halo)"
              strokeWidth={4}
              paintOrder="stroke"
            >
              hang on {puppet.joints?.[reaching.over]?.name}
            </text>
          )}
        </g>
      )}
    </>
  );
}

/** Joints as pins and handles as diamonds, linked by straps, each where its transform to the stage puts it. */
export function Pins({
  puppet,
  nodes,
  matrix,
  to,
  chosen,
  links = 1,
  children,
}: {
  puppet: Puppet;
  nodes: readonly Joint[];
  matrix: (joint: string) => ArrayLike<number> | null;
  to: (p: Point) => Point;
  chosen: readonly (string | null)[];
  links?: number;
  /** Between links and pins. */
  children?: ReactNode;
}) {
  const place = (id: string): Point | null => {
    const m = puppet.joints?.[id] ? matrix(id) : null;
    return m && to(origin(m));
  };
  return (
    <>
      {nodes.map((j) => {
        const [here, above] = [place(j.id), j.parent ? place(j.parent) : null];
        if (!here || !above) return null;
        return j.handle ? (
          <line
            key={`${j.id}-link`}
            x1={above[0]}
            y1={above[1]}
            x2={here[0]}
            y2={here[1]}
            stroke="var(--rust)"
            strokeOpacity={0.5 * links}
            strokeWidth={1.5}
            strokeDasharray="3 4"
            pointerEvents="none"
          />
        ) : (
          <Strap key={`${j.id}-link`} from={above} to={here} fill={`var(--${j.side})`} opacity={links} />
        );
      })}
      {children}
      {nodes.map((j) => {
        const [here, m] = [place(j.id), matrix(j.id)];
        if (!here || !m) return null;
        const on = chosen.includes(j.id);
        return j.handle ? (
          <Diamond key={j.id} joint={j} at={here} on={on} matrix={m} to={to} />
        ) : (
          <Pin key={j.id} joint={j} at={here} on={on} />
        );
      })}
    </>
  );
}

function Pin({ joint, at, on }: { joint: Joint; at: Point; on: boolean }) {
  return (
    <g data-handle={`joint:${joint.id}`} cursor="pointer" className={on ? "chosen" : ""} pointerEvents="all">
      <title>{joint.name}</title>
      <circle cx={at[0]} cy={at[1]} r={10} fillOpacity={0.01} />
      {on && <circle cx={at[0]} cy={at[1]} r={9.5} fill="none" stroke="var(--halo)" strokeWidth={4} />}
      <circle
        className="pin-dot"
        cx={at[0]}
        cy={at[1]}
        r={on ? 6.5 : 4.6}
        style={{ stroke: on ? undefined : `var(--${joint.side})` }}
      />
    </g>
  );
}

/** A handle: a diamond to move, and, when chosen, a knob on a stalk to turn it. */
export function Diamond({
  joint,
  at,
  on,
  matrix: m,
  to,
}: {
  joint: Joint;
  at: Point;
  on: boolean;
  matrix: ArrayLike<number>;
  to: (p: Point) => Point;
}) {
  // Where its own right points on the screen.
  const way = minus(to(placed(m, [1, 0])), to(origin(m)));
  const knob = along(at, unit(way), 34);
  const size = on ? 9 : 7;
  return (
    <>
      {on && (
        <>
          <line
            x1={at[0]}
            y1={at[1]}
            x2={knob[0]}
            y2={knob[1]}
            stroke="var(--halo)"
            strokeWidth={4}
            pointerEvents="none"
          />
          <line
            x1={at[0]}
            y1={at[1]}
            x2={knob[0]}
            y2={knob[1]}
            stroke="var(--rust)"
            strokeWidth={1.6}
            pointerEvents="none"
          />
          <g data-handle={`spin:${joint.id}`} pointerEvents="all" cursor="grab">
            <title>Turn {joint.name}</title>
            <circle cx={knob[0]} cy={knob[1]} r={10} fillOpacity={0.01} />
            <circle cx={knob[0]} cy={knob[1]} r={4.5} fill="var(--halo)" stroke="var(--rust)" strokeWidth={2} />
          </g>
        </>
      )}
      <g data-handle={`joint:${joint.id}`} pointerEvents="all" cursor="move">
        <title>{joint.name}</title>
        <circle cx={at[0]} cy={at[1]} r={11} fillOpacity={0.01} />
        <path
          d={`M${at[0]} ${at[1] - size}l${size} ${size}l${-size} ${size}l${-size} ${-size}Z`}
          fill={on ? "var(--rust)" : "var(--bone)"}
          stroke={on ? "var(--halo)" : "var(--rust)"}
          strokeWidth={on ? 2.5 : 2}
        />
      </g>
    </>
  );
}

/** The range a joint may turn in, from its rest: drag either end. */
function Wedge({ scene, joint, puppet, to }: { scene: Scene; joint: Joint; puppet: Puppet; to: (p: Point) => Point }) {
  const at = jointPlace(scene, joint.id);
  const away = at && restDirection(scene, puppet, joint.id);
  if (!at || away === null) return null;
  const [x, y] = to(at);
  const r = 58;
  const { low, high } = joint.limits!;
  const end = (degrees: number): Point => [
    x + r * Math.cos(away + (degrees * Math.PI) / 180),
    y + r * Math.sin(away + (degrees * Math.PI) / 180),
  ];
  const [a, b] = [end(low), end(high)];
  const whole = high - low >= 360;
  return (
    <>
      {whole ? (
        <circle cx={x} cy={y} r={r} fill="var(--violet)" fillOpacity={0.14} pointerEvents="none" />
      ) : (
        <path
          d={`M${x} ${y}L${a.join(" ")}A${r} ${r} 0 ${high - low > 180 ? 1 : 0} 1 ${b.join(" ")}Z`}
          fill="var(--violet)"
          fillOpacity={0.2}
          stroke="var(--violet)"
          strokeWidth={1.4}
          pointerEvents="none"
        />
      )}
      <line
        x1={x}
        y1={y}
        x2={x + r * Math.cos(away)}
        y2={y + r * Math.sin(away)}
        stroke="var(--halo)"
        strokeWidth={1.4}
        strokeDasharray="3 3"
        pointerEvents="none"
      />
      {(
        [
          ["low", a],
          ["high", b],
        ] as const
      ).map(([which, p]) => (
        <g key={which} data-handle={`limit-${which}:${joint.id}`} pointerEvents="all" cursor="grab">
          <title>{which === "low" ? "Furthest turn one way" : "Furthest turn the other way"}</title>
          <circle cx={p[0]} cy={p[1]} r={10} fillOpacity={0.01} />
          <circle cx={p[0]} cy={p[1]} r={5} fill="var(--halo)" stroke="var(--violet)" strokeWidth={2.2} />
        </g>
      ))}
    </>
  );
}

/** The direction (radians) in which a joint's bone points on the stage with the joint itself at rest. */
function restDirection(scene: Scene, puppet: Puppet, id: string): number | null {
  const { rig } = get();
  const parent = puppet.joints?.[id]?.parent;
  const degrees = rig?.puppet === puppet.id ? rig.directions[id] : undefined;
  const on = parent ? jointMatrix(scene, parent) : scene.worlds.subarray(scene.worldOffset, scene.worldOffset + 6);
  if (degrees === undefined || !on) return null;
  const way: Point = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)];
  const [x, y] = minus(placed(on, way), origin(on));
  return Math.atan2(y, x);
}

/** A link as a strap of paper: broad at the joint it hangs on, narrow where it hangs. */
function Strap({ from, to, fill, opacity }: { from: Point; to: Point; fill: string; opacity: number }) {
  if (distance(from, to) < 2) return null;
  const [dx, dy] = unit(minus(to, from));
  const side: Point = [-dy, dx];
  const d = pathThrough(
    [along(from, side, 4.6), along(to, side, 1.15), along(to, side, -1.15), along(from, side, -4.6)],
    true,
  );
  // A dark edge and a light one: it is seen on any art.
  return (
    <g pointerEvents="none" strokeLinejoin="round">
      <path d={d} fill="none" stroke="var(--outline)" strokeOpacity={0.85 * opacity} strokeWidth={3.4} />
      <path
        d={d}
        fill={fill}
        fillOpacity={0.78 * opacity}
        stroke="var(--bone)"
        strokeOpacity={opacity}
        strokeWidth={1.4}
      />
    </g>
  );
}

/** A limb as it is when only turned and when only reaching, while it is between the two. */
export function Ghosts({ puppet, to, always = false }: { puppet: Puppet; to: (p: Point) => Point; always?: boolean }) {
  const { plan, pose, frame } = useWorkshop(useShallow((w) => ({ plan: w.plan, pose: w.pose, frame: w.frame })));
  const scene = sceneAt(plan, pose, frame);
  if (!scene || plan?.puppet !== puppet.id) return null;
  return (
    <>
      {Object.values(puppet.chains ?? {}).map((chain) => {
        const found = scene.reached[chain.id];
        const blend = found?.blend[scene.reachedAt] ?? 100;
        if (!found || (!always && (blend <= 0 || blend >= 100))) return null;
        const count = chain.joints.length;
        const line = (data: Float32Array) =>
          "M" +
          Array.from({ length: count }, (_, k) => {
            const at = (scene.reachedAt * count + k) * 2;
            return to([data[at]!, data[at + 1]!]).join(" ");
          }).join("L");
        return (
          <g
            key={chain.id}
            pointerEvents="none"
            fill="none"
            strokeLinejoin="round"
            strokeLinecap="round"
            data-ghost={chain.id}
          >
            <path d={line(found.turned)} stroke="var(--halo)" strokeWidth={5} strokeOpacity={0.8} />
            <path d={line(found.turned)} stroke="var(--centre)" strokeWidth={2} strokeDasharray="2 5" />
            <path d={line(found.reached)} stroke="var(--halo)" strokeWidth={5} strokeOpacity={0.8} />
            <path d={line(found.reached)} stroke="var(--rust)" strokeWidth={2} strokeDasharray="7 4" />
          </g>
        );
      })}
    </>
  );
}
