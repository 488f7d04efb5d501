/** What lies over the stage of the Shots bench: the camera's frame, guides, and the way that somebody goes. */
import type { ReactElement } from "react";
import { get, shotOf, sizeOf, type Cel } from "../../session";
import { after, inverse, placed } from "../../geometry";
import { placeAt, viewAt } from "../../stage/cels";
import type { Member, Point, Shot } from "../../wire/types";
import { Pins } from "../../stage/Skeleton";
import { memberOf } from "./commands";
import { jointInPicture, posed } from "./posing";
import { toOverlay, type Aim } from "./tools";

interface Props {
  to: (p: Point) => Point;
  scale: number;
  /** The camera's frame, and a point of a way, as a hand pulls them just now. */
  pulled: Aim | null;
  wayPulled: { n: number; at: Point } | null;
}

const line = (points: readonly Point[]): string => points.map((p) => p.map((v) => v.toFixed(1)).join(",")).join(" ");

export function Overlay({ to, scale, pulled, wayPulled }: Props): ReactElement {
  const now = get();
  const { shotPlan, frame, through, picked } = now;
  const shot = shotOf(now);
  const [width, height] = sizeOf(now);
  const member = memberOf(shot);
  const cel = member ? shotPlan?.cels.find((c) => c.cast === member.id) : undefined;
  return (
    <>
      {!through && shotPlan && (
        <CameraFrame
          to={to}
          width={width}
          height={height}
          pulled={pulled}
          back={inverse(viewAt(shotPlan, Math.min(frame, shotPlan.frames - 1)))}
          picked={picked?.kind === "camera"}
        />
      )}
      {!through && shotPlan && picked?.kind === "camera" && (
        <CameraWay to={to} width={width} height={height} aims={shotPlan.aims} frames={shotPlan.frames} shot={shot} />
      )}
      {through && <Guides to={to} width={width} height={height} />}
      <Posed to={to} />
      {member && cel && !now.posing && <Way member={member} cel={cel} to={to} scale={scale} pulled={wayPulled} />}
    </>
  );
}

/** The joints of who is posed. */
function Posed({ to }: { to: Props["to"] }) {
  const found = posed();
  const { documents, joint, shotPlan, frame, through } = get();
  const puppet = found && documents[found.member.puppet];
  if (!found || puppet?.kind !== "puppet" || !shotPlan) return null;
  const out = through ? null : inverse(viewAt(shotPlan, Math.min(frame, shotPlan.frames - 1)));
  const all = Object.values(puppet.joints ?? {});
  const held = new Set(all.map((j) => j.parent));
  // A pin that only carries a loose piece is in the way.
  const nodes = all.filter((j) => j.id === joint || j.parent || j.handle || held.has(j.id));
  const matrix = (id: string) => {
    const m = jointInPicture(found.cel, id);
    return m && out ? after(out, m) : m;
  };
  return <Pins puppet={puppet} nodes={nodes} matrix={matrix} to={to} chosen={[joint]} links={0.6} />;
}

const AS_IT_IS = [1, 0, 0, 1, 0, 0];

function corners(width: number, height: number, m: ArrayLike<number>): Point[] {
  const all: Point[] = [
    [0, 0],
    [width, 0],
    [width, height],
    [0, height],
  ];
  return all.map((p) => placed(m, p));
}

/** The six numbers of the frame of a camera with such an aim. */
function framed(aim: Aim, width: number, height: number): number[] {
  const [cos, sin] = [Math.cos((aim.turn * Math.PI) / 180) / aim.zoom, Math.sin((aim.turn * Math.PI) / 180) / aim.zoom];
  const [cx, cy] = [width / 2, height / 2];
  const [mx, my] = [cx + aim.move[0], cy + aim.move[1]];
  return [cos, sin, -sin, cos, mx - (cos * cx - sin * cy), my - (sin * cx + cos * cy)];
}

function CameraFrame({
  to,
  width,
  height,
  pulled,
  back,
  picked,
}: {
  to: Props["to"];
  width: number;
  height: number;
  pulled: Aim | null;
  back: number[];
  picked: boolean;
}) {
  const m = pulled ? framed(pulled, width, height) : back;
  const points = corners(width, height, m).map(to);
  const middle = to(placed(m, [width / 2, height / 2]));
  const [tl, tr] = [points[0]!, points[1]!];
  const top: Point = [(tl[0] + tr[0]) / 2, (tl[1] + tr[1]) / 2];
  const up = Math.hypot(top[0] - middle[0], top[1] - middle[1]) || 1;
  const knob: Point = [top[0] + ((top[0] - middle[0]) / up) * 22, top[1] + ((top[1] - middle[1]) / up) * 22];
  return (
    <g className={`camera-frame${picked ? " chosen" : ""}`}>
      <polygon points={line(points)} />
      <line x1={top[0]} y1={top[1]} x2={knob[0]} y2={knob[1]} />
      <circle className="knob" cx={knob[0]} cy={knob[1]} r={7} data-handle="frame:turn" />
      {points.map((p, n) => (
        <rect
          key={n}
          className="corner-grip"
          x={p[0] - 6}
          y={p[1] - 6}
          width={12}
          height={12}
          data-handle="frame:zoom"
        />
      ))}
      <g data-handle="frame:move" className="middle-grip">
        <circle cx={middle[0]} cy={middle[1]} r={13} data-handle="frame:move" />
        <path d={`M${middle[0] - 7},${middle[1]}h14M${middle[0]},${middle[1] - 7}v14`} data-handle="frame:move" />
      </g>
    </g>
  );
}

/** Where the middle of the camera's frame is in each frame, crowded where it is slow, and where it is keyed. */
function CameraWay({
  to,
  width,
  height,
  aims,
  frames,
  shot,
}: {
  to: Props["to"];
  width: number;
  height: number;
  aims: Float32Array;
  frames: number;
  shot: Shot | undefined;
}) {
  const at = (f: number): Point => to([width / 2 + aims[f]!, height / 2 + aims[frames + f]!]);
  const all = Array.from({ length: frames }, (_, f) => at(f));
  const keys = Object.keys(shot?.camera?.channels?.["camera.move"]?.keys ?? {}).map(Number);
  if (all.every((p) => Math.hypot(p[0] - all[0]![0], p[1] - all[0]![1]) < 1)) return null;
  return (
    <g className="camera-way">
      <polyline points={line(all)} />
      {all.map((p, f) => (
        <circle key={f} className="dot" cx={p[0]} cy={p[1]} r={1.6} />
      ))}
      {keys
        .filter((f) => f < frames)
        .map((f) => (
          <circle key={`key${f}`} className="key" cx={all[f]![0]} cy={all[f]![1]} r={4} />
        ))}
    </g>
  );
}

/** Lines that help to frame: thirds, or the area that every screen shows. */
function Guides({ to, width, height }: { to: Props["to"]; width: number; height: number }) {
  const { guides } = get();
  if (guides === "none") return null;
  if (guides === "thirds")
    return (
      <g className="guides">
        {[1, 2].map((n) => (
          <polyline key={`x${n}`} points={line([to([(width * n) / 3, 0]), to([(width * n) / 3, height])])} />
        ))}
        {[1, 2].map((n) => (
          <polyline key={`y${n}`} points={line([to([0, (height * n) / 3]), to([width, (height * n) / 3])])} />
        ))}
      </g>
    );
  if (typeof guides === "number") {
    const [w, h] = guides > width / height ? [width, width / guides] : [height * guides, height];
    const [x, y] = [(width - w) / 2, (height - h) / 2];
    const outer = line([...corners(width, height, AS_IT_IS), [0, 0] as Point].map(to));
    const inner = line(
      [[x, y] as Point, [x, y + h] as Point, [x + w, y + h] as Point, [x + w, y] as Point, [x, y] as Point].map(to),
    );
    const [a, b] = [to([x, y]), to([x + w, y + h])];
    return (
      <g className="guides">
        <path className="outside" fillRule="evenodd" d={`M${outer}ZM${inner}Z`} />
        <rect x={a[0]} y={a[1]} width={b[0] - a[0]} height={b[1] - a[1]} />
      </g>
    );
  }
  return (
    <g className="guides">
      {[0.9, 0.8].map((part) => {
        const [x, y] = [(width * (1 - part)) / 2, (height * (1 - part)) / 2];
        const [a, b] = [to([x, y]), to([width - x, height - y])];
        return <rect key={part} x={a[0]} y={a[1]} width={b[0] - a[0]} height={b[1] - a[1]} />;
      })}
    </g>
  );
}

/** Where somebody stands in each frame, as dots, and the points of its way. */
function Way({
  member,
  cel,
  to,
  pulled,
}: {
  member: Member;
  cel: Cel;
  to: Props["to"];
  scale: number;
  pulled: Props["wayPulled"];
}) {
  const { shotPlan, frame, documents } = get();
  const puppet = documents[member.puppet];
  if (!shotPlan || puppet?.kind !== "puppet") return null;
  const [ox, oy] = puppet.origin ?? [0, 0];
  const stands = (f: number): Point => {
    const m = placeAt(cel, f);
    return toOverlay(placed(m, [ox!, oy!]), cel.share);
  };
  const at = to(stands(Math.min(frame, shotPlan.frames - 1)));
  const dots: Point[] = [];
  for (let f = 0; f < shotPlan.frames; f++) {
    const p = to(stands(f));
    const last = dots.at(-1);
    if (!last || Math.hypot(p[0] - last[0], p[1] - last[1]) > 1.5) dots.push(p);
  }
  const way = (member.travel?.way ?? []).map((p, n): Point => {
    const [x, y] = pulled?.n === n ? pulled.at : (p.at as Point);
    return to(toOverlay([member.at[0] + x, member.at[1] + y], cel.share));
  });
  return (
    <g className="shot-way">
      {dots.length > 1 && dots.map((p, n) => <circle key={n} className="dot" cx={p[0]} cy={p[1]} r={1.6} />)}
      {way.length > 1 && <polyline points={line(way)} />}
      {way.map((p, n) => (
        <rect
          key={n}
          className="via"
          x={p[0] - 6}
          y={p[1] - 6}
          width={12}
          height={12}
          transform={`rotate(45 ${p[0]} ${p[1]})`}
          data-handle={`via:${n}`}
        />
      ))}
      <path className="stands" d={`M${at[0] - 16},${at[1]}h32M${at[0]},${at[1] - 5}v10`} />
    </g>
  );
}
