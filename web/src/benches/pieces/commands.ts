/** What the Pieces bench does to pieces, by button or by key. */
import { freshId, gathered, get, puppetOf, submit, pickOut } from "../../session";
import { painter } from "../../stage/painter";
import { pieceMatrix, sceneNow } from "../../stage/scene";
import { drawReference } from "../../stage/painting";
import type { Tool } from "../../stage/tool";
import type { ShapeKind } from "../../stage/tools/draw";
import { middle, placed } from "../../geometry";
import { shownDrawing } from "../../parts/shownDrawing";
import type { Piece, Point, Puppet, HalfPlace } from "../../wire/types";

export type Mode = "place" | "points" | ShapeKind;

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

/** The arrows move the chosen point of a shape, or the chosen pieces. */
export const shove = (point: number | null, dx: number, dy: number): void => {
  const { puppet, pieces } = get();
  if (point === null) nudge(dx, dy);
  else if (puppet && pieces[0]) shiftPoint([puppet, pieces[0], point].join(" "), dx, dy);
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

export const SHAPES: { kind: ShapeKind; icon: string; label: string; keys: string }[] = [
  { kind: "rectangle", icon: "square", label: "Rectangle: drag from corner to corner (Shift: a square)", keys: "r" },
  { kind: "ellipse", icon: "circle", label: "Ellipse: drag (Shift: a circle)", keys: "e" },
  { kind: "polygon", icon: "pentagon", label: "Polygon: click corners, then the first one again", keys: "p" },
  { kind: "freehand", icon: "pencil", label: "Freehand outline: draw round and back to the start", keys: "f" },
];

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
