/**
 * Drawing a shot: its cels from back to front, each where it is and as the camera sees it. `sorvan/picture/paint.py`
 * draws the same cels by the same steps; a test holds the two together.
 */
import type { Canvas } from "canvaskit-wasm";
import { after, inverse, placed, type Matrix } from "../geometry";
import type { Pose } from "../session/plan";
import type { Cel, ShotPlan } from "../session/shotPlan";
import type { Point } from "../wire/types";
import type { Painter } from "./painter";
import type { Frame } from "../session/frames";

const AS_IT_IS: Matrix = [1, 0, 0, 1, 0, 0];

const row = (block: Float32Array, frame: number): Float32Array => block.subarray(frame * 6, frame * 6 + 6);

/** What takes the stage to the picture in a frame, for what has this share in the camera's movement. */
export const viewAt = (plan: ShotPlan, frame: number, share = 100): Matrix => {
  const view = plan.views.get(share);
  return view ? row(view, frame) : AS_IT_IS;
};

/** What takes one of the cast to the stage in a frame. */
export const placeAt = (cel: Cel, frame: number, shifted: Point | null = null): Matrix => {
  const place = cel.place ? row(cel.place, frame) : AS_IT_IS;
  return shifted ? after([1, 0, 0, 1, shifted[0], shifted[1]], place) : place;
};

/** Which of its own frames one of the cast shows. */
export const ownAt = (cel: Cel, frame: number): number => cel.times?.[frame] ?? Math.min(frame, cel.own - 1);

export const frameOf = (cel: Cel, at: number): Frame => ({ ...cel.drawn, at });

const nine = (m: Matrix): number[] => [m[0]!, m[2]!, m[4]!, m[1]!, m[3]!, m[5]!, 0, 0, 1];

interface Look {
  /** What takes the picture to where it is drawn: nothing, or the whole stage from the camera's frame. */
  before?: Matrix;
  /** One of the cast, moved by a hand that has not let go yet. */
  shifted?: { cast: string; by: Point } | null;
  only?: string;
  /** One of the cast as a hand poses it just now. */
  pose?: Pose | null;
}

/** Draw a frame of a shot; the canvas is in units of the picture. */
export function drawCels(painter: Painter, canvas: Canvas, plan: ShotPlan, frame: number, look: Look = {}): void {
  const at = Math.max(0, Math.min(frame, plan.frames - 1));
  for (const cel of plan.cels) {
    if (cel.hidden || (look.only && look.only !== cel.cast)) continue;
    const fade = cel.fade?.[at] ?? 1;
    if (fade <= 0) continue;
    const by = look.shifted?.cast === cel.cast ? look.shifted.by : null;
    canvas.save();
    if (look.before) canvas.concat(nine(look.before));
    canvas.concat(nine(viewAt(plan, at, cel.share)));
    canvas.concat(nine(placeAt(cel, at, by)));
    const faded = fade < 1 ? new painter.kit.Paint() : null;
    if (faded) {
      faded.setAlphaf(fade);
      // Copies lie anywhere around what is copied.
      canvas.saveLayer(faded, cel.copies ? null : painter.allAround(frameOf(cel, ownAt(cel, at))));
      faded.delete();
    }
    if (cel.copies) drawCopies(painter, canvas, cel, ownAt(cel, at));
    else if (look.pose?.cast === cel.cast) painter.draw(canvas, { ...look.pose.drawn, at: 0 });
    else painter.draw(canvas, frameOf(cel, ownAt(cel, at)));
    if (faded) canvas.restore();
    canvas.restore();
  }
}

function drawCopies(painter: Painter, canvas: Canvas, cel: Cel, own: number): void {
  const { kit } = painter;
  const copies = cel.copies!;
  for (let n = 0; n < copies.ahead.length; n++) {
    const at = (own + copies.ahead[n]!) % cel.own;
    const seen = copies.opacity[n]! * copies.fade[at]!;
    if (seen <= 0) continue;
    const [r, g, b, amount] = copies.tints.subarray(n * 4, n * 4 + 4);
    canvas.save();
    canvas.concat(nine(row(copies.places, n)));
    const eighth = (v: number) => Math.round(v * 255) / 255;
    // There is no filter for a tint too weak to be told.
    const plain = seen === 1 && eighth(amount!) <= 0;
    if (!plain) {
      const paint = new kit.Paint();
      paint.setAlphaf(seen);
      if (eighth(amount!) > 0) {
        const colour = kit.Color4f(eighth(r!), eighth(g!), eighth(b!), eighth(amount!));
        const filter = kit.ColorFilter.MakeBlend(colour, kit.BlendMode.SrcATop);
        paint.setColorFilter(filter);
        filter.delete();
      }
      canvas.saveLayer(paint, painter.allAround(frameOf(cel, at)));
      paint.delete();
    }
    painter.draw(canvas, frameOf(cel, at));
    if (!plain) canvas.restore();
    canvas.restore();
  }
}

/** Who shows at a point of the picture, the foremost first. */
export function castAt(painter: Painter, plan: ShotPlan, frame: number, at: Point): string[] {
  const found: string[] = [];
  for (const cel of [...plan.cels].reverse()) {
    if (cel.hidden) continue;
    const back = inverse(after(viewAt(plan, frame, cel.share), placeAt(cel, frame)));
    const own = ownAt(cel, frame);
    const hit = (m: Matrix, n: number): boolean => {
      const [x, y] = placed(m, at);
      return painter.at(x, y, frameOf(cel, n), () => true).length > 0;
    };
    if (!cel.copies) {
      if (hit(back, own)) found.push(cel.cast);
      continue;
    }
    const { places, ahead } = cel.copies;
    const some = [...ahead.keys()].some((n) => hit(after(inverse(row(places, n)), back), (own + ahead[n]!) % cel.own));
    if (some) found.push(cel.cast);
  }
  return found;
}

/** The items that a shot draws. */
export const itemsIn = (plan: ShotPlan) => plan.cels.flatMap((c) => c.drawn.items);
