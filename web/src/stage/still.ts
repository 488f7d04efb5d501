/** Under a hand most of a puppet often stays where it is: what lies behind all that moves is painted once. */
import type { Canvas, Image, Surface } from "canvaskit-wasm";
import { changedIn } from "./bent";
import { drawingOf, nthOf, opacityOf } from "./painter";
import type { Frame } from "../session/frames";

/** Fewer items than these are drawn as fast as a picture of them. */
const LEAST = 6;

/** How many items, from the back, are the same in two frames. What is masked or bent counts as moved. */
export function stillIn(a: Frame, b: Frame): number {
  const count = b.items.length;
  if (a.items !== b.items) return 0;
  for (let n = 0; n < count; n++) {
    const i = nthOf(b, n);
    if (nthOf(a, n) !== i || opacityOf(a, i) !== opacityOf(b, i) || b.items[i]!.masks.length) return n;
    const drawing = drawingOf(b, i);
    if (drawingOf(a, i) !== drawing || changedIn(b.points, i, drawing, b.at)) return n;
    if (changedIn(a.points, i, drawing, a.at)) return n;
    for (let k = 0; k < 6; k++)
      if (a.matrices[(a.at * count + i) * 6 + k] !== b.matrices[(b.at * count + i) * 6 + k]) return n;
  }
  return count;
}

/** A picture of the ground with all that has not moved from one frame to the next. */
export class Still {
  private image: Image | null = null;
  private frame: Frame | null = null;
  private last: Frame | null = null;
  private count = 0;
  private ground: unknown = null;

  /**
   * Paint what stands still of a frame onto the ground, which is already painted; `ground` stands for it: another
   * ground is another picture. Returns how many items, from the back, are painted by that.
   */
  draw(surface: Surface, canvas: Canvas, ground: unknown, frame: Frame, items: (from: number, to: number) => void) {
    if (ground !== this.ground) this.clear();
    this.ground = ground;
    const last = this.last;
    this.last = frame;
    if (this.image && this.frame && stillIn(this.frame, frame) >= this.count) {
      canvas.drawImage(this.image, 0, 0);
      return this.count;
    }
    const count = last ? stillIn(last, frame) : 0;
    this.forget();
    if (count < LEAST) return 0;
    items(0, count);
    surface.flush();
    this.image = surface.makeImageSnapshot();
    this.frame = frame;
    this.count = count;
    return count;
  }

  private forget(): void {
    this.image?.delete();
    this.image = this.frame = null;
    this.count = 0;
  }

  /** Nothing is under a hand any more. */
  clear(): void {
    this.forget();
    this.last = this.ground = null;
  }
}
