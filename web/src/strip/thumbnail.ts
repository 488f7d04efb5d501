/** A pose in small, drawn by the painter of the stage. */
import type { Cards, Plan } from "../session";
import type { Painter } from "../stage/painter";
import type { Frame } from "../session/frames";
import { boxOf, type Box } from "../stage/scene";

/** The widest that a thumbnail is. */
export const WIDEST = 96;

const made = new WeakMap<Plan["drawn"], Map<string, ImageData | null>>();

/** The same again where it has been drawn before. */
export function thumbnail(
  painter: Painter,
  plan: Plan,
  cards: Cards | null,
  frame: number,
  poses: readonly number[],
  width: number,
  height: number,
): ImageData | null {
  if (!painter.has(plan.drawn.items)) return paintedThumbnail(painter, plan, cards, frame, poses, width, height);
  const of = cards?.drawn ?? plan.drawn;
  const known = made.get(of) ?? made.set(of, new Map()).get(of)!;
  const key = `${frame} ${width} ${height} ${poses.join()}`;
  if (!known.has(key)) known.set(key, paintedThumbnail(painter, plan, cards, frame, poses, width, height));
  return known.get(key)!;
}

/**
 * The pixels of a frame's puppet in the middle of a thumbnail. All poses are drawn at one scale, at which the
 * highest and the widest of them fit.
 */
function paintedThumbnail(
  painter: Painter,
  plan: Plan,
  cards: Cards | null,
  frame: number,
  poses: readonly number[],
  width: number,
  height: number,
): ImageData | null {
  if (frame >= plan.frames) return null;
  /** A pose as it is keyed, whatever of it comes late. */
  const pose = (frame: number): Frame => {
    const n = cards?.frames.indexOf(frame) ?? -1;
    return n < 0 ? { ...plan.drawn, at: frame } : { ...cards!.drawn, at: n };
  };
  const boxes = poses.filter((f) => f < plan.frames).map((f) => boxOf(pose(f)));
  const box = boxOf(pose(frame));
  if (!box) return null;
  const most = (size: (b: Box) => number) => Math.max(1, ...boxes.map((b) => (b ? size(b) : 0)));
  const scale = Math.min((0.95 * height) / most((b) => b[3] - b[1]), (0.95 * WIDEST) / most((b) => b[2] - b[0]));
  return painter.thumbnail(width, height, (canvas) => {
    canvas.translate(width / 2, height / 2);
    canvas.scale(scale, scale);
    canvas.translate(-(box[0] + box[2]) / 2, -(box[1] + box[3]) / 2);
    painter.draw(canvas, pose(frame));
  });
}
