import { expect, it } from "vitest";
import { spacedFrom, valuesIn } from "./spacing";

const bytes = (...numbers: number[]) => new Uint8Array(new Float64Array(numbers).buffer);

it("reads a channel by its own frames, also where the motion has grown meanwhile", () => {
  const move = spacedFrom({ gaps: [], frames: 3, values: bytes(1, 2, 3, 10, 20, 30) as never });
  expect([0, 2].map((frame) => valuesIn(move, frame))).toEqual([
    [1, 10],
    [3, 30],
  ]);
  // The plan came with 100 frames a moment ago, and the playhead stands at the last.
  expect(valuesIn(move, 99)).toEqual([3, 30]);
});
