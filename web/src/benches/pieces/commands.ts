/** What the Pieces bench does to pieces, by button or by key. */
import { freshId, gathered, get, puppetOf, submit, pickOut, touchUp } from "../../session";
import { painter } from "../../stage/painter";
import { pieceMatrix, sceneNow } from "../../stage/scene";
import { drawReference } from "../../stage/painting";
import type { Tool } from "../../stage/tool";
import type { ShapeKind } from "../../stage/tools/draw";
import type { Touching } from "../../stage/tools/touch";
import { middle, placed, unplaced } from "../../geometry";
import { shownDrawing } from "../../parts/shownDrawing";
import type { Piece, Point, Puppet, HalfPlace, RetouchedPart } from "../../wire/types";

export type Mode = "place" | "points" | ShapeKind | Touching;

const shift = gathered((dx, dy, of) => {
  const [puppet, ...pieces] = of.split(" ");
  return submit({ do: "shift-pieces", puppet: puppet!, pieces, dx, dy });
});

const shiftPoint = gathered((dx, dy, of) => {
  const [puppet, piece, point] = of.split(" ");
  return submit({
    do: "edit-shape",
    puppet: puppet!,
    piece: piece!,
    edit: "shift",
    point: Number(point),
    at: [dx, dy],
  });
});

export const nudge = (dx: number, dy: number) => {
  const { puppet, pieces } = get();
  if (puppet && pieces.length) shift([puppet, ...pieces].join(" "), dx, dy);
};

/** The points of a shape drawn here, on the stage. */
export function pointsOf(puppet: Puppet, piece: Piece): Point[] {
  const scene = sceneNow();
  const m = scene && get().plan?.puppet === puppet.id && pieceMatrix(scene, piece.id);
  const { shape } = shownDrawing(piece);
  return m && shape ? shape.points.map((p) => placed(m, [p.x, p.y])) : [];
}

const shapeChosen = () => {
  const puppet = puppetOf(get());
  const piece = puppet?.pieces?.[get().pieces[0] ?? ""];
  return puppet && piece ? { puppet, piece, points: pointsOf(puppet, piece) } : null;
};

export const movePoint = async (point: number, at: HalfPlace): Promise<boolean> => {
  const chosen = shapeChosen();
  if (!chosen) return false;
  return submit({ do: "edit-shape", puppet: chosen.puppet.id, piece: chosen.piece.id, edit: "move", point, at });
};

/** Another point of the shape, halfway from one to the next. */
export const addPoint = async (after: number): Promise<boolean> => {
  const chosen = shapeChosen();
  const [one, other] = [chosen?.points[after], chosen?.points[(after + 1) % chosen.points.length]];
  if (!chosen || !one || !other) return false;
  return submit({
    do: "edit-shape",
    puppet: chosen.puppet.id,
    piece: chosen.piece.id,
    edit: "add",
    at: middle(one, other),
  });
};

export const shove = ({ corner, part }: Held, dx: number, dy: number): void => {
  const { puppet, pieces } = get();
  const piece = puppetOf(get())?.pieces?.[pieces[0] ?? ""];
  if (puppet && piece && part !== null) shiftPart([puppet, piece.id, shownDrawing(piece).id, part].join(" "), dx, dy);
  else if (puppet && piece && corner !== null) shiftPoint([puppet, piece.id, corner].join(" "), dx, dy);
  else nudge(dx, dy);
};

export const remove = () => {
  const { puppet, pieces } = get();
  if (puppet && pieces.length) void submit({ do: "remove-pieces", puppet, pieces });
};

export const mirror = () => {
  const { puppet, pieces } = get();
  if (!puppet || !pieces.length) return;
  const ids = Object.fromEntries(pieces.map((p) => [p, freshId()]));
  void submit({ do: "mirror-pieces", puppet, ids, share: true }).then(
    (done) => done && pickOut({ pieces: Object.values(ids) }),
  );
};

/** A plain copy of what is selected, beside it; the copy is in hand then. */
export const copy = () => {
  const { puppet, pieces } = get();
  if (!puppet || !pieces.length) return;
  const ids = Object.fromEntries(pieces.map((p) => [p, freshId()]));
  void submit({ do: "copy-pieces", puppet, ids }).then((done) => done && pickOut({ pieces: Object.values(ids) }));
};

export const step = (to: "front" | "back") => {
  const { puppet, pieces } = get();
  if (puppet && pieces[0]) void submit({ do: "step-piece", puppet, piece: pieces[0], to });
};

/** To the very front or back, in the order that they have among themselves. */
export const outermost = (to: "front" | "back") => {
  const { puppet, pieces } = get();
  const front = puppetOf(get())?.order?.at(-1);
  if (puppet && pieces.length)
    void submit({ do: "order-pieces", puppet, pieces, in_front_of: to === "front" ? front : null });
};

interface Shown<Kind extends Mode> {
  kind: Kind;
  icon: string;
  label: string;
  keys: string;
}

export const SHAPES: Shown<ShapeKind>[] = [
  { kind: "rectangle", icon: "square", label: "Rectangle: drag from corner to corner (Shift: a square)", keys: "r" },
  { kind: "ellipse", icon: "circle", label: "Ellipse: drag (Shift: a circle)", keys: "e" },
  { kind: "polygon", icon: "pentagon", label: "Polygon: click corners, then the first one again", keys: "p" },
  { kind: "freehand", icon: "pencil", label: "Freehand outline: draw round and back to the start", keys: "f" },
];

const POINTS: Shown<"points"> = {
  kind: "points",
  icon: "bounding-box-circles",
  label: "Edit the points of a shape drawn here: drag them, click the line to add one",
  keys: "o",
};

export const TOUCHES: Shown<Touching>[] = [
  { kind: "eraser", icon: "eraser", label: "Eraser: drag over what should go from the selected piece", keys: "w" },
  { kind: "brush", icon: "brush", label: "Brush: draw a line on the selected piece", keys: "b" },
  { kind: "parts", icon: "puzzle", label: "Parts of a drawing: drag one of the selected piece", keys: "u" },
];
/** What one draws and touches up with, as the tools lie beside one another. */
export const TOOLS: Shown<Mode>[] = [...SHAPES, POINTS, ...TOUCHES];

export const touching = (mode: Mode): Touching | null => TOUCHES.find((t) => t.kind === mode)?.kind ?? null;
export const shaping = (mode: Mode): ShapeKind | null => SHAPES.find((s) => s.kind === mode)?.kind ?? null;

/** The part of what a piece shows that a hand takes: the one that is chosen, or else the foremost. */
export function partAt(
  piece: string,
  parts: readonly RetouchedPart[],
  chosen: RetouchedPart | undefined,
  at: Point,
): RetouchedPart | undefined {
  const scene = sceneNow();
  const m = scene && pieceMatrix(scene, piece);
  const inner = m && unplaced(m, at);
  const holds = ({ box }: RetouchedPart) =>
    !!inner && box[0]! <= inner[0] && inner[0] <= box[2]! && box[1]! <= inner[1] && inner[1] <= box[3]!;
  if (chosen && holds(chosen)) return chosen;
  return [...parts].reverse().find((p) => !p.change.out && holds(p));
}

const shiftPart = gathered((dx, dy, of) => {
  const [puppet, piece, drawing, part] = of.split(" ");
  return touchUp({
    puppet: puppet!,
    piece: piece!,
    drawing: drawing!,
    touch: { edit: "shift", part: Number(part), by: [dx, dy] },
  });
});

/** What the arrows move: the chosen point of a shape, the chosen part of a drawing, or else the chosen pieces. */
export interface Held {
  corner: number | null;
  part: number | null;
}

/** Take a colour from the stage, the picture under the work included, into a new swatch. */
async function pickColour(at: Point): Promise<void> {
  const p = await painter();
  const puppet = puppetOf(get());
  const scene = sceneNow();
  const colour = p.colourAt(at[0], at[1], (c) => {
    if (puppet?.reference && !puppet.reference.hidden)
      drawReference(p, c, { ...puppet.reference, opacity: 1 }, get().frame, () => undefined);
    if (scene) p.draw(c, scene.frame);
  });
  if (colour) await submit({ do: "set-swatch", swatch: { id: freshId(), name: colour, colour: `${colour}ff` } });
}

export const dropper: Tool = {
  begin(hand) {
    void pickColour(hand.at);
    return null;
  },
};
