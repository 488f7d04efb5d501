/** Points and matrices, once. A matrix is six numbers a b c d e f, as in SVG's `matrix()`; y points down. */
import type { Point } from "./wire/types";

export type Matrix = ArrayLike<number>;

export const minus = (a: Point, b: Point): Point => [a[0] - b[0], a[1] - b[1]];

/** A point so far from another, along an arrow taken so many times. */
export const along = (from: Point, way: Point, times: number): Point => [
  from[0] + way[0] * times,
  from[1] + way[1] * times,
];

export const middle = (a: Point, b: Point): Point => [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2];

export const length = (way: Point): number => Math.hypot(way[0], way[1]);

export const distance = (a: Point, b: Point): number => Math.hypot(a[0] - b[0], a[1] - b[1]);

/** An arrow made one unit long; one that is too short to point anywhere stays as it is. */
export function unit(way: Point): Point {
  const long = length(way);
  return long > 1e-9 ? [way[0] / long, way[1] / long] : way;
}

/** Where a matrix takes a point. */
export const placed = (m: Matrix, [x, y]: Point): Point => [
  m[0]! * x + m[2]! * y + m[4]!,
  m[1]! * x + m[3]! * y + m[5]!,
];

/** Where a matrix puts the origin. */
export const origin = (m: Matrix): Point => [m[4]!, m[5]!];

export const determinant = (m: Matrix): number => m[0]! * m[3]! - m[1]! * m[2]!;

/** The point that a matrix takes to this place; null if it flattens the plane. */
export function unplaced(m: Matrix, at: Point): Point | null {
  const det = determinant(m);
  if (Math.abs(det) < 1e-9) return null;
  const [dx, dy] = [at[0] - m[4]!, at[1] - m[5]!];
  return [(m[3]! * dx - m[2]! * dy) / det, (m[0]! * dy - m[1]! * dx) / det];
}

/** Two matrices as one: first `b`, then `a`. */
export const after = (a: Matrix, b: Matrix): number[] => [
  a[0]! * b[0]! + a[2]! * b[1]!,
  a[1]! * b[0]! + a[3]! * b[1]!,
  a[0]! * b[2]! + a[2]! * b[3]!,
  a[1]! * b[2]! + a[3]! * b[3]!,
  ...placed(a, [b[4]!, b[5]!]),
];

/** The matrix that takes back what another does. */
export function inverse(m: Matrix): number[] {
  const [a, b, c, d, e, f] = [m[0]!, m[1]!, m[2]!, m[3]!, m[4]!, m[5]!];
  const size = determinant(m);
  return [d / size, -b / size, -c / size, a / size, (c * f - d * e) / size, (b * e - a * f) / size];
}

/** A line through points, as SVG path data. */
export const pathThrough = (points: readonly Point[], closed = false): string =>
  `M${points.map((p) => p.join(" ")).join("L")}${closed ? "Z" : ""}`;
