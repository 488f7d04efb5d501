import { describe, expect, it } from "vitest";
import { marksEvery } from "../sheet/timeline";
import type { Motion } from "../wire/types";
import { curveThrough, easeOf } from "./ease";
import { cardsOf } from "./PoseStrip";

const key = (ease: unknown) => ({ value: [0], ease });
const motion = {
  length: 20,
  poses: { "12": { label: "up", breakdown: false }, "0": { label: "down", breakdown: true }, "30": {} },
  channels: {
    "arm.turn": { joint: "arm", kind: "turn", keys: { "0": key({ kind: "even" }), "12": key({ kind: "hold" }) } },
    "leg.turn": { joint: "leg", kind: "turn", keys: { "0": key({ kind: "even" }), "12": key({ kind: "even" }) } },
    "hand.show": { joint: "hand", kind: "show", keys: { "0": key({ kind: "hold" }) } },
  },
} as unknown as Motion;
const gaps: [number, number, number[]][] = [[0, 12, [0, 0.5]]];
const spacing = { "arm.turn": { gaps, frames: 1, values: new Float64Array() } };

describe("the pose strip", () => {
  it("has a card a pose, each until the next, none beyond the motion's end", () => {
    expect(cardsOf(motion)).toEqual([
      { frame: 0, end: 12, label: "down", breakdown: true },
      { frame: 12, end: 20, label: "up", breakdown: false },
    ]);
  });

  it("shows an ease only where all keys of the pose go on alike, whatever drawings do", () => {
    expect(easeOf(motion, spacing, 0)).toEqual([0, 0.5]);
    expect(easeOf(motion, spacing, 12)).toBeNull();
    expect(easeOf(motion, spacing, 5)).toBeUndefined();
  });

  it("draws it from the lower left to the upper right", () => {
    expect(curveThrough([0, 0.5], 10, 8)).toBe("M0.0 8.0L5.0 4.0L10.0 0.0");
  });
});

describe("the ruler", () => {
  it("is marked as often as there is room for the numbers", () => {
    expect([40, 16, 6, 2, 0.01].map(marksEvery)).toEqual([1, 2, 6, 24, 2400]);
  });
});
