/** What lies over the stage of the Pieces bench: handles of pieces, points of shapes, the line being drawn. */
import { useEffect, useState } from "react";
import { useShallow } from "zustand/react/shallow";
import { along, distance, middle, minus, pathThrough, placed, unit } from "../../geometry";
import { shownDrawing } from "../../parts/shownDrawing";
import { useWorkshop } from "../../session";
import { painter } from "../../stage/painter";
import { corners, pieceMatrix, sceneAt } from "../../stage/scene";
import type { Pen } from "../../parts/TouchUpCard";
import type { Touching } from "../../stage/tools/touch";
import type { Piece, Point, Puppet } from "../../wire/types";

type ToScreen = (p: Point) => Point;

/** The line of a shape being drawn, with its corners where they can be clicked. */
export function DrawnLine({ points, corners, to }: { points: Point[]; corners: boolean; to: ToScreen }) {
  if (!points.length) return null;
  const d = pathThrough(points.map(to));
  return (
    <>
      <path d={d} className="halo" />
      <path d={d} className="outline" />
      {corners &&
        points.map((p, i) => (
          <circle
            key={i}
            cx={to(p)[0]}
            cy={to(p)[1]}
            r={i ? 3.5 : 6}
            fill="var(--halo)"
            stroke="var(--held)"
            strokeWidth={2}
          />
        ))}
    </>
  );
}

/** The line that an eraser or a brush goes along, as wide as it is. */
export function Stroke({ points, way, pen, to }: { points: Point[]; way: Touching; pen: Pen; to: ToScreen }) {
  if (!points.length || way === "parts") return null;
  const [first] = points;
  const width = to([first![0] + pen[way], first![1]])[0] - to(first!)[0];
  const on = points.length > 1 ? points : [first!, first!];
  return (
    <path
      d={pathThrough(on.map(to))}
      className={`touch-line ${way}`}
      strokeWidth={width}
      style={way === "brush" ? { stroke: pen.colour.slice(0, 7) } : undefined}
    />
  );
}

/** The box of a part of a drawing, carried by so much. */
export function PartBox({
  puppet,
  piece,
  box,
  by,
  to,
}: {
  puppet: Puppet;
  piece: Piece;
  box: readonly number[];
  by: Point;
  to: ToScreen;
}) {
  const { plan, pose } = useWorkshop(useShallow((w) => ({ plan: w.plan, pose: w.pose })));
  const scene = sceneAt(plan, pose, 0);
  const m = scene && plan?.puppet === puppet.id && pieceMatrix(scene, piece.id);
  if (!m) return null;
  const [l, t, r, b] = box as [number, number, number, number];
  const around: Point[] = [
    [l, t],
    [r, t],
    [r, b],
    [l, b],
  ];
  const d = pathThrough(
    around.map((p) => to(along(placed(m, p), by, 1))),
    true,
  );
  return (
    <>
      <path d={d} className="halo" />
      <path d={d} className="outline dashed" />
    </>
  );
}

/** The points of a shape drawn here, and its line to click for another. */
export function ShapePoints({
  puppet,
  piece,
  to,
  corner,
}: {
  puppet: Puppet;
  piece: Piece;
  to: (p: Point) => Point;
  corner: { point: number | null; at: Point | null };
}) {
  const { plan, pose } = useWorkshop(useShallow((w) => ({ plan: w.plan, pose: w.pose })));
  const [outline, setOutline] = useState("");
  const scene = sceneAt(plan, pose, 0);
  const drawn = scene?.items.find((i) => i.piece === piece.id);
  const art = drawn?.arts[drawn.rest];
  useEffect(() => {
    // A drawing left behind by the drag can arrive after the one that replaced it.
    let wanted = true;
    if (art)
      void painter().then((p) =>
        p.prepare([{ arts: [art] }]).then(() => {
          if (wanted) setOutline(p.outlineOf(art));
        }),
      );
    return () => {
      wanted = false;
    };
  }, [art]);
  const m = scene && pieceMatrix(scene, piece.id);
  const shape = shownDrawing(piece).shape;
  if (!m || !shape || plan?.puppet !== puppet.id) return null;
  const [o, x, y] = [to([0, 0]), to([1, 0]), to([0, 1])];
  const view = `matrix(${x[0] - o[0]} ${x[1] - o[1]} ${y[0] - o[0]} ${y[1] - o[1]} ${o[0]} ${o[1]})`;
  return (
    <>
      <g transform={`${view} matrix(${[...m].join(" ")})`}>
        <path
          d={outline}
          data-handle="edge:"
          fill="none"
          stroke="var(--halo)"
          strokeOpacity={0.01}
          strokeWidth={16}
          vectorEffect="non-scaling-stroke"
          pointerEvents="stroke"
          cursor="copy"
        />
        <path
          d={outline}
          fill="none"
          stroke="var(--halo)"
          strokeWidth={3.5}
          vectorEffect="non-scaling-stroke"
          pointerEvents="none"
        />
        <path
          d={outline}
          fill="none"
          stroke="var(--held)"
          strokeWidth={1.6}
          vectorEffect="non-scaling-stroke"
          pointerEvents="none"
        />
      </g>
      {shape.points.map((p, i) => {
        const on = corner.point === i;
        const [px, py] = to(on && corner.at ? corner.at : placed(m, [p.x, p.y]));
        return (
          <g key={i} data-handle={`point:${i}`} pointerEvents="all" cursor="move">
            <circle cx={px} cy={py} r={10} fillOpacity={0.01} />
            {p.smooth ? (
              <circle
                cx={px}
                cy={py}
                r={5}
                fill={on ? "var(--held)" : "var(--halo)"}
                stroke="var(--held)"
                strokeWidth={2}
              />
            ) : (
              <rect
                x={px - 4.5}
                y={py - 4.5}
                width={9}
                height={9}
                fill={on ? "var(--held)" : "var(--halo)"}
                stroke="var(--held)"
                strokeWidth={2}
              />
            )}
          </g>
        );
      })}
    </>
  );
}

export function Handles({ puppet, to }: { puppet: Puppet; to: (p: Point) => Point }) {
  const { plan, pose, pieces, frame } = useWorkshop(
    useShallow((w) => ({ plan: w.plan, pose: w.pose, pieces: w.pieces, frame: w.frame })),
  );
  const scene = sceneAt(plan, pose, frame);
  if (!scene || plan?.puppet !== puppet.id) return null;
  const places = pose?.places ?? plan?.places ?? {};
  const swinging = pose !== null && Object.keys(pose.tried).length > 0;
  return (
    <>
      {!swinging &&
        (puppet.order ?? []).map((id) => {
          const place = places[id];
          if (!place || pieces.includes(id) || puppet.pieces?.[id]?.hidden) return null;
          const [x, y] = to([place[0], place[1]]);
          return (
            <circle
              key={id}
              cx={x}
              cy={y}
              r={2.6}
              fill="var(--bone)"
              stroke="var(--outline)"
              strokeWidth={1}
              opacity={0.8}
            />
          );
        })}
      {pieces.map((id) => {
        const around = corners(scene, puppet, id)?.map(to);
        const place = places[id];
        if (!around || !place) return null;
        const d = pathThrough(around, true);
        const [tl, tr, br, bl] = around as [Point, Point, Point, Point];
        const single = pieces.length === 1 && !swinging;
        return (
          <g key={id} className="chosen">
            <path className="halo" d={d} />
            <path className="outline" d={d} strokeDasharray="7 3" />
            {single && <Grips piece={id} around={[tl, tr, br, bl]} pin={to([place[0], place[1]])} />}
          </g>
        );
      })}
    </>
  );
}

/** Screen pixels across below which a piece is too small to be taken hold of beside what stands on it. */
const SMALL = 64;
/** From the edge of a piece to the knobs beside it, and of a small one from its corners to the grips (screen pixels). */
const STEM = 24;
const OFF = 8;

/**
 * What one selected piece is turned, sized and pinned by. On a small one all of it stands outside, so that the piece
 * itself moves wherever it is taken hold of.
 */
function Grips({ piece, around, pin }: { piece: string; around: [Point, Point, Point, Point]; pin: Point }) {
  const [tl, tr, br, bl] = around;
  const [top, bottom, centre] = [middle(tl, tr), middle(bl, br), middle(tl, br)];
  const knob = along(top, unit(minus(top, centre)), STEM);
  const small = Math.min(distance(tl, tr), distance(tl, bl)) < SMALL;
  const held = small ? along(bottom, unit(minus(bottom, centre)), STEM) : pin;
  const ends = small ? around.map((c) => along(c, unit(minus(c, centre)), OFF)) : around;
  return (
    <>
      <line x1={top[0]} y1={top[1]} x2={knob[0]} y2={knob[1]} stroke="var(--held)" strokeWidth={1.4} />
      <path
        data-handle={`turn:${piece}`}
        cursor="grab"
        pointerEvents="all"
        transform={`translate(${knob[0]} ${knob[1]})`}
        d="M0-7A7 7 0 1 1 0 7A7 7 0 1 1 0-7Z"
        fill="var(--halo)"
        stroke="var(--held)"
        strokeWidth={2}
      />
      <path
        transform={`translate(${knob[0]} ${knob[1]})`}
        d="M-3 1A3.2 3.2 0 1 1 2 2.4"
        fill="none"
        stroke="var(--held)"
        strokeWidth={1.5}
        pointerEvents="none"
      />
      {ends.map((c, i) => (
        <path
          key={i}
          data-handle={`scale:${piece}`}
          cursor="nwse-resize"
          pointerEvents="all"
          transform={`translate(${c[0]} ${c[1]})`}
          d="M0-6L6 0L0 6L-6 0Z"
          fill="var(--halo)"
          stroke="var(--held)"
          strokeWidth={1.8}
        />
      ))}
      {small && (
        <g pointerEvents="none">
          <line x1={pin[0]} y1={pin[1]} x2={held[0]} y2={held[1]} stroke="var(--held)" strokeWidth={1.4} />
          <circle cx={pin[0]} cy={pin[1]} r={3} fill="var(--held)" stroke="var(--halo)" strokeWidth={1} />
        </g>
      )}
      <g data-handle={`pin:${piece}`} cursor="move" pointerEvents="all" transform={`translate(${held[0]} ${held[1]})`}>
        <title>Drag to move the pin</title>
        <circle r={11} fill="var(--halo)" fillOpacity={0.01} />
        <circle className="pin-dot" r={6.5} />
        <path d="M-10 0H-4M4 0H10M0-10V-4M0 4V10" stroke="var(--held)" strokeWidth={1.6} />
      </g>
    </>
  );
}

/** Where the axis of the other side is for what is selected, of a hand that carries it or as the service tells. */
export function useAxis(puppet: Puppet | undefined): number | undefined {
  return useWorkshop((w) => {
    const first = puppet?.order?.find((id) => w.pieces.includes(id));
    const told = w.rig?.puppet === puppet?.id ? w.rig?.middles[first ?? ""] : undefined;
    return w.axisAt ?? told;
  });
}

/** The line in which the other side of what is selected would be made, with a grip to carry it by, `top` units down. */
export function Axis({
  puppet,
  to,
  top,
  height,
}: {
  puppet: Puppet;
  to: (p: Point) => Point;
  top: number;
  height: number;
}) {
  const at = useAxis(puppet);
  const posing = useWorkshop((w) => w.pose !== null);
  if (at === undefined || posing) return null;
  const [[x, first], [, last], [, grip]] = [to([at, Math.min(top, 0)]), to([at, height]), to([at, top])];
  return (
    <g className="axis" data-axis={at}>
      <path d={`M${x} ${first}V${last}`} />
      <g data-handle="axis" pointerEvents="all" cursor="ew-resize">
        <title>Axis of the other side</title>
        <rect x={x - 14} y={grip} width={28} height={20} fillOpacity={0.01} stroke="none" />
        <path className="grip" d={`M${x - 4} ${grip + 4}l-6 6 6 6ZM${x + 4} ${grip + 4}l6 6 -6 6Z`} />
      </g>
    </g>
  );
}
