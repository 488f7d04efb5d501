/** A pose in small, drawn by the painter of the stage. */
import { placed } from "../geometry";
import type { Plan } from "../session";
import { drawingOf, type Painter } from "../stage/painter";
import { restBox, type Box } from "../stage/scene";

/** The middle across of what shows in a frame. */
function middleOf(plan: Plan, frame: number, height: number): number {
  let [l, r] = [Infinity, -Infinity];
  const { items, matrices } = plan.drawn;
  const drawn = { ...plan.drawn, at: frame };
  items.forEach((item, i) => {
    const box = item.boxes[drawingOf(drawn, i)];
    if (!box || item.hidden) return;
    const m = matrices.subarray((frame * items.length + i) * 6, (frame * items.length + i) * 6 + 6);
    const [x] = placed(m, [(box[0]! + box[2]!) / 2, (box[1]! + box[3]!) / 2]);
    [l, r] = [Math.min(l, x), Math.max(r, x)];
  });
  return r >= l ? (l + r) / 2 : height / 2;
}

const boxes = new WeakMap<object, Box | null>();

/** The pixels of a frame's puppet: as high as at rest with some air, in the middle of what shows. */
export function thumbnail(
  painter: Painter,
  plan: Plan,
  frame: number,
  width: number,
  height: number,
): ImageData | null {
  if (frame >= plan.frames) return null;
  let box = boxes.get(plan.rest);
  if (box === undefined) boxes.set(plan.rest, (box = restBox(plan.rest.drawn)));
  if (!box) return null;
  const tall = (box[3] - box[1]) * 1.2;
  const scale = height / Math.max(tall, (box[2] - box[0]) * 0.6);
  const x = middleOf(plan, frame, tall);
  return painter.pixels(width, height, (canvas) => {
    canvas.translate(width / 2, height / 2);
    canvas.scale(scale, scale);
    canvas.translate(-x, -(box[1] + box[3]) / 2);
    painter.draw(canvas, { ...plan.drawn, at: frame });
  });
}
