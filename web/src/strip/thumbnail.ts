/** A pose in small, drawn by the painter of the stage. */
import type { Plan } from "../session";
import type { Painter } from "../stage/painter";
import { boxOf, type Box } from "../stage/scene";

/** The widest that a thumbnail is. */
export const WIDEST = 96;

/**
 * The pixels of a frame's puppet in the middle of a thumbnail. All poses are drawn at one scale, at which the
 * highest and the widest of them fit.
 */
export function thumbnail(
  painter: Painter,
  plan: Plan,
  frame: number,
  poses: readonly number[],
  width: number,
  height: number,
): ImageData | null {
  if (frame >= plan.frames) return null;
  const boxes = poses.filter((f) => f < plan.frames).map((at) => boxOf({ ...plan.drawn, at }));
  const box = boxOf({ ...plan.drawn, at: frame });
  if (!box) return null;
  const most = (size: (b: Box) => number) => Math.max(1, ...boxes.map((b) => (b ? size(b) : 0)));
  const scale = Math.min((0.95 * height) / most((b) => b[3] - b[1]), (0.95 * WIDEST) / most((b) => b[2] - b[0]));
  return painter.pixels(width, height, (canvas) => {
    canvas.translate(width / 2, height / 2);
    canvas.scale(scale, scale);
    canvas.translate(-(box[0] + box[2]) / 2, -(box[1] + box[3]) / 2);
    painter.draw(canvas, { ...plan.drawn, at: frame });
  });
}
