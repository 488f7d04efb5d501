import { beforeEach, describe, expect, it, vi } from "vitest";
import type { Motion, Puppet } from "../wire/types";

const sent: unknown[] = [];
const state: Record<string, unknown> = {};
vi.mock("../session", () => ({
  get: () => state,
  pickOut: (part: object) => void Object.assign(state, part),
  goTo: (frame: number) => void (state.frame = frame),
  submit: (command: unknown) => {
    sent.push(command);
    return Promise.resolve(true);
  },
}));
const { feetOf, letGo, pullFoot } = await import("./feet");

const puppet = { joints: { near: { name: "near foot" }, far: { name: "far foot" }, hand: { name: "hand" } } };
const plant = (id: string, joint: string, start: number, frames: number) => ({
  id,
  joint,
  start,
  frames,
  place: [0, 0],
});
const motion = {
  id: "m",
  length: 24,
  cycle: true,
  plants: { b: plant("b", "near", 20, 8), a: plant("a", "near", 6, 4), h: plant("h", "hand", 2, 3) },
} as unknown as Motion;
const report = {
  motion: "m",
  ground: 600,
  slides: 0.5,
  tangles: {},
  findings: [],
  beside: {},
  feet: { far: {}, near: {} },
} as never;
const rows = feetOf(puppet as unknown as Puppet, motion, report, { near: "right leg", far: "left leg" });
const near = rows.find((r) => r.joint === "near")!;
const STEP = 10;
const time = {
  step: STEP,
  length: 24,
  frameAt: (x: number) => Math.max(0, Math.min(23, Math.floor(x / STEP))),
} as never;

/** Pull in the row from one frame's middle, or a place across, to another. */
function pull(from: number, to: number): unknown {
  sent.length = 0;
  const shown: unknown[] = [];
  const drag = pullFoot(near, motion, time, from, () => to, {
    show: (p) => shown.push(p),
    settle: () => shown.push(null),
  });
  if (to !== from) drag.move!({} as never);
  drag.end!({} as never);
  expect(shown.at(-1)).toBeNull();
  return sent[0];
}

beforeEach(() => {
  for (const key of Object.keys(state)) delete state[key];
});

describe("the rows of feet", () => {
  it("are there for every foot and for whatever is planted, with plants in order", () => {
    expect(rows.map((r) => [r.joint, r.limb])).toEqual([
      ["far", "left leg"],
      ["near", "right leg"],
      ["hand", "other parts"],
    ]);
    expect(near.frames).toEqual([6, 20]);
    expect(feetOf(puppet as unknown as Puppet, motion, null, {}).map((r) => r.joint)).toEqual(["near", "hand"]);
  });
});

describe("a hand on the row of a foot", () => {
  it("draws a plant over the frames that it passes, either way", () => {
    expect(pull(125, 165)).toMatchObject({ do: "plant-foot", joint: "near", start: 12, frames: 5 });
    expect(pull(165, 125)).toMatchObject({ do: "plant-foot", joint: "near", start: 12, frames: 5 });
  });
  it("moves a plant by its middle and changes its length by its ends", () => {
    const nudged = (end: string, by: number) => ({ do: "nudge-plant", motion: "m", id: "a", end, by });
    expect(pull(80, 100)).toEqual(nudged("both", 2));
    expect(pull(98, 128)).toEqual(nudged("end", 3));
    expect(pull(62, 42)).toEqual(nudged("start", -2));
    expect(pull(62, 400)).toEqual(nudged("start", 34));
  });
  it("takes hold of a plant round the seam on either side of it", () => {
    expect(pull(225, 245)).toEqual({ do: "nudge-plant", motion: "m", id: "b", end: "both", by: 2 });
    expect(pull(38, 58)).toEqual({ do: "nudge-plant", motion: "m", id: "b", end: "end", by: 2 });
  });
  it("that did not move goes to the frame, and selects what is there", () => {
    expect(pull(155, 155)).toBeUndefined();
    expect(state).toMatchObject({ frame: 15, plant: null, joint: "near" });
    expect(pull(75, 75)).toBeUndefined();
    expect(state).toMatchObject({ frame: 7, plant: "a" });
  });
  it("lets go what is selected", async () => {
    sent.length = 0;
    await letGo();
    expect(sent).toEqual([]);
    Object.assign(state, { motion: "m", plant: "a" });
    await letGo();
    expect(sent).toEqual([{ do: "remove-plants", motion: "m", ids: ["a"] }]);
  });
});
