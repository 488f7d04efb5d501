import { expect, test } from "vitest";
import { along, determinant, distance, middle, minus, pathThrough, placed, unit, unplaced } from "./geometry";
import type { Point } from "./wire/types";

test("a matrix takes points where SVG's matrix() does, and back", () => {
  const m = new Float64Array([2, 1, -0.5, 3, 40, -7]);
  expect(placed(m, [0, 0])).toEqual([40, -7]);
  expect(placed(m, [1, 0])).toEqual([42, -6]);
  expect(placed(m, [0, 1])).toEqual([39.5, -4]);
  for (const p of [
    [0, 0],
    [3, -8],
    [1e4, 0.25],
  ] as Point[]) {
    const [x, y] = unplaced(m, placed(m, p))!;
    expect(x).toBeCloseTo(p[0], 8);
    expect(y).toBeCloseTo(p[1], 8);
  }
  expect(determinant(m)).toBe(6.5);
  expect(unplaced([1, 2, 2, 4, 0, 0], [3, 3])).toBeNull();
});

test("arrows and lines", () => {
  expect(minus([5, 1], [2, 3])).toEqual([3, -2]);
  expect(along([1, 1], [3, 4], 2)).toEqual([7, 9]);
  expect(middle([0, 0], [4, -2])).toEqual([2, -1]);
  expect(distance([1, 1], [4, 5])).toBe(5);
  expect(unit([3, 4])).toEqual([0.6, 0.8]);
  expect(unit([0, 0])).toEqual([0, 0]);
  expect(
    pathThrough([
      [0, 0],
      [4, 5.5],
    ]),
  ).toBe("M0 0L4 5.5");
  expect(
    pathThrough(
      [
        [0, 0],
        [4, 5],
        [1, 1],
      ],
      true,
    ),
  ).toBe("M0 0L4 5L1 1Z");
});
