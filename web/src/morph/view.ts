/** How drawings lie in the frames of the morph view, and which place of an outline is nearest to a pointer. */
import type { Becoming } from "../session/morphs";
import type { Point } from "../wire/types";

export interface Fit {
  scale: number;
  x: number;
  y: number;
}

/** A box as large as it can be, with air around, in a frame. */
export function fitted(box: readonly number[], width: number, height: number): Fit {
  const [l, t, r, b] = box as [number, number, number, number];
  const scale = Math.min((width - 44) / Math.max(r - l, 1), (height - 44) / Math.max(b - t, 1), 12);
  return { scale, x: width / 2 - ((l + r) / 2) * scale, y: height / 2 - ((t + b) / 2) * scale };
}

export const shown = (fit: Fit, [x, y]: Point): Point => [fit.x + x * fit.scale, fit.y + y * fit.scale];
export const placed = (fit: Fit, [x, y]: Point): Point => [(x - fit.x) / fit.scale, (y - fit.y) / fit.scale];

const at = (p: Float32Array, n: number): Point => [p[n * 2]!, p[n * 2 + 1]!];

function along(p: Float32Array, first: number, t: number): Point {
  const [a, b, c, d] = [at(p, first), at(p, first + 1), at(p, first + 2), at(p, first + 3)];
  const u = 1 - t;
  return [0, 1].map(
    (k) => u ** 3 * a[k]! + 3 * u * u * t * b[k]! + 3 * u * t * t * c[k]! + t ** 3 * d[k]!,
  ) as unknown as Point;
}

/**
 * The place of an outline of one of the drawings (0 or 1) that is nearest, and where that goes in the other: the n-th
 * curve becomes the n-th, as the core has cut them.
 */
export function nearest(b: Becoming, side: 0 | 1, from: Point): { here: Point; there: Point; off: number } | null {
  let found: { here: Point; there: Point; off: number } | null = null;
  for (const one of b.going) {
    if (one.first === null || one.second === null) continue;
    for (const [start, stop] of one.contours as [number, number][])
      for (let n = start; n + 3 < stop; n += 3)
        for (let k = 0; k <= 12; k++) {
          const here = along(b.ends[side], n, k / 12);
          const off = Math.hypot(here[0] - from[0], here[1] - from[1]);
          if (!found || off < found.off) found = { here, there: along(b.ends[1 - side]!, n, k / 12), off };
        }
  }
  return found;
}

/** The outline of one of what is going, as SVG path data, from points of all. */
export function outline(
  points: Float32Array,
  going: { contours: readonly (readonly number[])[]; closed: readonly boolean[] },
  to: (p: Point) => Point,
): string {
  return going.contours
    .map(([start, stop], k) => {
      const parts = [`M${to(at(points, start!)).join(" ")}`];
      for (let n = start! + 1; n + 2 < stop!; n += 3)
        parts.push(`C${[n, n + 1, n + 2].map((i) => to(at(points, i)).join(" ")).join(" ")}`);
      return parts.join("") + (going.closed[k] ? "Z" : "");
    })
    .join("");
}
