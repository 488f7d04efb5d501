/** Drawing simple shapes: drag a rectangle or an ellipse, click the corners of a polygon, or draw by hand. */
import type { Command, Point } from "../../api/types";
import { freshId, get, set, submitTried, tryCommand } from "../../state/workshop";
import { Newest, type Hand, type Tool } from "../tool";

export type ShapeKind = "rectangle" | "ellipse" | "polygon" | "freehand";

export interface ShapeWishes {
  kind: ShapeKind;
  fill: string | null;
  stroke: string | null;
  width: number;
  smoothing: number;
  /** The corners so far, for the overlay. */
  show(points: Point[], over: Point | null): void;
  puppet(): Promise<string | null>;
}

export class DrawTool implements Tool {
  private points: Point[] = [];
  private closing = false;
  private readonly newest = new Newest();

  constructor(private readonly wishes: ShapeWishes) {}

  begin(hand: Hand): boolean {
    set({ pieces: [] });
    if (this.wishes.kind === "polygon") {
      // Clicking the first corner again closes the polygon.
      const first = this.points[0];
      this.closing = this.points.length > 2 && !!first && Math.hypot(hand.at[0] - first[0], hand.at[1] - first[1]) * hand.scale < 9;
      if (!this.closing) this.points.push(hand.at);
      this.wishes.show(this.points, null);
    } else this.points = [hand.at];
    return true;
  }

  private command(puppet: string, id: string, closed: boolean): Command {
    const { kind, fill, stroke, width, smoothing } = this.wishes;
    return { do: "draw-shape", puppet, id, name: kind === "freehand" ? "outline" : kind, kind, points: this.points, closed, fill, stroke, width, smoothing };
  }

  move(hand: Hand): void {
    const { kind } = this.wishes;
    if (kind === "polygon") {
      this.points[this.points.length - 1] = hand.at;
      this.wishes.show(this.points, null);
      return;
    }
    if (kind === "freehand") {
      const last = this.points[this.points.length - 1]!;
      if (Math.hypot(hand.at[0] - last[0], hand.at[1] - last[1]) * hand.scale >= 2) this.points.push(hand.at);
      this.wishes.show(this.points, null);
      return;
    }
    const first = this.points[0]!;
    let [x, y] = hand.at;
    if (hand.shift) {
      // As wide as it is high.
      const side = Math.max(Math.abs(x - first[0]), Math.abs(y - first[1]));
      [x, y] = [first[0] + Math.sign(x - first[0]) * side, first[1] + Math.sign(y - first[1]) * side];
    }
    this.points = [first, [x, y]];
    const puppet = get().puppet;
    if (!puppet) return;
    const command = this.command(puppet, "try-shape", true);
    this.newest.ask((done) =>
      tryCommand(command, (pose) => {
        if (this.points.length) set({ pose });
        done();
      }),
    );
  }

  end(hand: Hand, moved: boolean): void {
    if (this.wishes.kind === "polygon") {
      if (this.closing) this.finish(true);
      return;
    }
    this.newest.forget();
    if (!moved || this.points.length < 2) return this.cancel();
    const [a, b] = [this.points[0]!, this.points[this.points.length - 1]!];
    // A hand-drawn line that comes back to its beginning is a closed outline.
    const closed = this.wishes.kind !== "freehand" || Math.hypot(a[0] - b[0], a[1] - b[1]) * hand.scale < 24;
    if (closed && this.wishes.kind === "freehand") this.points.pop();
    this.finish(closed);
  }

  /** Make what was drawn a piece; a polygon that was not closed stays a line of corners. */
  finish(closed: boolean): void {
    const points = this.points;
    if (points.length < 2) return this.cancel();
    void this.wishes.puppet().then((puppet) => {
      if (!puppet) return;
      const id = freshId();
      this.points = points;
      const command = this.command(puppet, id, closed);
      this.points = [];
      this.wishes.show([], null);
      void submitTried(command).then((done) => done && set({ pieces: [id] }));
    });
  }

  cancel(): void {
    this.points = [];
    this.newest.forget();
    this.wishes.show([], null);
    set({ pose: null });
  }
}
