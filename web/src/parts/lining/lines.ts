/** Drawings laid over one another, and the guide lines that they are lined up by. */
import type { Drawing, Piece } from "../../wire/types";

export const [W, H] = [470, 380];

/** The guide lines of a drawing: the one that lies across tells how far down, the upright one how far to the right. */
export const LINES = ["guide", "upright"] as const;
export type Line = (typeof LINES)[number];
export const SAID: Record<Line, { label: string; field: string }> = {
  guide: { label: "Guide line", field: "Down" },
  upright: { label: "Upright guide line", field: "Right" },
};
export const lineOf = (d: Drawing, line: Line): number | null => d[line] ?? null;

/** What a hand has of the drawing that is lined up, and how far it has pulled (pixels). */
export interface Held {
  what: "drawing" | Line;
  dx: number;
  dy: number;
}

/** All drawings of a piece with their pivots on one spot: that is how they replace one another. */
export class Laid {
  readonly scale: number;
  /** Where that spot is seen. */
  readonly spot: readonly [number, number];

  constructor(
    piece: Piece,
    readonly drawing: Drawing,
    readonly held: Held | null,
  ) {
    const edges = [0, 1, 2, 3].map((i) => {
      const all = piece.drawings.map((d) => d.bounds[i]! - d.pivot[i % 2]!);
      return i < 2 ? Math.min(...all) : Math.max(...all);
    }) as [number, number, number, number];
    const [left, top, right, bottom] = edges;
    this.scale = Math.min((W - 60) / (right - left), (H - 60) / (bottom - top), 12);
    this.spot = [W / 2 - ((left + right) / 2) * this.scale, H / 2 - ((top + bottom) / 2) * this.scale];
  }

  private moved(d: Drawing): [number, number] {
    const { held, scale } = this;
    return held?.what === "drawing" && d.id === this.drawing.id ? [held.dx / scale, held.dy / scale] : [0, 0];
  }

  /** What takes a drawing to where it is seen. */
  place(d: Drawing): number[] {
    const [dx, dy] = this.moved(d);
    const [x, y] = this.spot;
    return [this.scale, 0, 0, this.scale, x + (dx - d.pivot[0]!) * this.scale, y + (dy - d.pivot[1]!) * this.scale];
  }

  /** Where a guide line is seen: how far down that across is, and how far to the right the upright one. */
  seen(d: Drawing, line: Line): number | null {
    const at = lineOf(d, line);
    const i = line === "guide" ? 1 : 0;
    return at === null ? null : this.spot[i] + (at - d.pivot[i]! + this.moved(d)[i]!) * this.scale;
  }

  /** How far a guide line of the drawing is pulled. */
  pulled(line: Line): number {
    return this.held?.what !== line ? 0 : line === "guide" ? this.held.dy : this.held.dx;
  }
}
