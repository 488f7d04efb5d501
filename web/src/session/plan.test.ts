import { expect, test } from "vitest";
import type { Item, Part, PlanLetter, PoseLetter } from "../wire/types";
import { planFrom, poseFrom, withPart } from "./plan";

const bytes = (a: Float32Array | Int16Array): Uint8Array => new Uint8Array(a.buffer.slice(0));
const item = (piece: string, rest = 0): Item => ({
  puppet: "a",
  piece,
  arts: ["x", "y"],
  boxes: [],
  hidden: false,
  opacity: 1,
  masks: [],
  rest,
});

/** Frames of numbers that tell where they belong: hundreds the frame, units the place in it. */
const counted = (frames: number, each: number, add = 0): Float32Array =>
  Float32Array.from({ length: frames * each }, (_, i) => Math.floor(i / each) * 100 + (i % each) + add);

function letter(frames: number, shown?: Int16Array): PlanLetter {
  const rest = { matrices: bytes(counted(1, 12)), worlds: bytes(counted(1, 18)) };
  return {
    type: "plan",
    seq: 3,
    target: { kind: "motion", motion: "m" },
    puppet: "a",
    frames,
    items: [item("body"), item("mouth", 1)],
    joints: ["puppet", "body", "mouth"],
    matrices: bytes(counted(frames, 12)),
    worlds: bytes(counted(frames, 18)),
    ...(shown ? { shown: bytes(shown) } : {}),
    reached: { c: [bytes(counted(frames, 6)), bytes(counted(frames, 6, 0.5)), bytes(counted(frames, 1))] },
    points: [{ item: 0, drawing: 0, count: 2, data: bytes(counted(frames, 4)) }],
    rest,
    places: { body: [1, 2, 3, 0, 1, 1] },
  } as unknown as PlanLetter;
}

function part(start: number, stop: number, given: object = {}): Part {
  const frames = stop - start;
  return {
    type: "part",
    seq: 4,
    start,
    stop,
    matrices: bytes(counted(frames, 12, 7000)),
    worlds: bytes(counted(frames, 18, 7000)),
    reached: { c: [bytes(counted(frames, 6, 7000)), bytes(counted(frames, 6, 7000)), bytes(counted(frames, 1, 7000))] },
    points: [{ item: 0, drawing: 0, count: 2, data: bytes(counted(frames, 4, 7000)) }],
    ...given,
  } as unknown as Part;
}

test("a part takes the place of its own frames and of no others", () => {
  const plan = planFrom(letter(6));
  const now = withPart(plan, part(2, 4));
  for (const [before, after, each] of [
    [plan.drawn.matrices, now.drawn.matrices, 12],
    [plan.worlds, now.worlds, 18],
    [plan.reached.c!.turned, now.reached.c!.turned, 6],
    [plan.reached.c!.blend, now.reached.c!.blend, 1],
    [plan.drawn.points[0]!.data, now.drawn.points[0]!.data, 4],
  ] as const) {
    expect([...after.subarray(0, 2 * each)]).toEqual([...before.subarray(0, 2 * each)]);
    expect([...after.subarray(4 * each)]).toEqual([...before.subarray(4 * each)]);
    expect(after[2 * each]).toBe(7000);
    expect(after[3 * each]).toBe(7100);
  }
  // What was there is not touched: somebody may still be drawing it.
  expect(plan.worlds[2 * 18]).toBe(200);
  expect(now.drawn.items).toBe(plan.drawn.items);
});

test("drawings that show are written out only where they differ from rest", () => {
  const plan = planFrom(letter(4));
  expect(plan.drawn.shown).toBeNull();
  expect(withPart(plan, part(1, 2)).drawn.shown).toBeNull();
  const other = withPart(plan, part(1, 3, { shown: bytes(Int16Array.from([0, 0, 1, 1])) }));
  expect([...other.drawn.shown!]).toEqual([0, 1, 0, 0, 1, 1, 0, 1]);
  // A part that says nothing of drawings shows them as at rest.
  expect([...withPart(other, part(2, 3)).drawn.shown!]).toEqual([0, 1, 0, 0, 0, 1, 0, 1]);
});

test("a pose says only what differs from the plan", () => {
  const plan = planFrom(letter(4));
  const said = {
    type: "pose",
    n: 1,
    frame: 2,
    tried: { "body.turn": [4] },
    matrices: bytes(counted(1, 12)),
    worlds: bytes(counted(1, 18)),
  };
  const plain = poseFrom(said as unknown as PoseLetter, plan);
  expect(plain.drawn.items).toBe(plan.drawn.items);
  expect(plain.joints).toBe(plan.joints);
  expect(plain.places).toBe(plan.places);
  expect(plain.limits).toEqual({});
  const more = { ...said, joints: ["puppet"], items: [item("wall")], limits: { knee: [-5, 40] } };
  const other = poseFrom(more as unknown as PoseLetter, plan);
  expect([other.joints, other.drawn.items[0]!.piece, other.limits.knee]).toEqual([["puppet"], "wall", [-5, 40]]);
  expect(poseFrom(said as unknown as PoseLetter, null).joints).toEqual([]);
});

test("a plan that comes in parts is in the end the plan that comes whole", () => {
  const whole = planFrom(letter(6));
  const cut = (start: number, stop: number, given: object) => {
    const some = (a: Float32Array, each: number) => bytes(a.slice(start * each, stop * each));
    const [limb, points] = [whole.reached.c!, whole.drawn.points[0]!];
    return {
      ...given,
      matrices: some(whole.drawn.matrices, 12),
      worlds: some(whole.worlds, 18),
      reached: { c: [some(limb.turned, 6), some(limb.reached, 6), some(limb.blend, 1)] },
      points: [{ item: 0, drawing: 0, count: 2, data: some(points.data, 4) }],
    };
  };
  const first = planFrom(cut(2, 4, { ...letter(6), sent: [2, 4] }) as unknown as PlanLetter);
  expect([...first.here!]).toEqual([0, 0, 1, 1, 0, 0]);
  expect(first.drawn.matrices.subarray(0, 12)).toEqual(new Float32Array(12));
  const shown = bytes(Int16Array.of(1, 0, 0, 1));
  const last = withPart(first, cut(4, 6, { type: "part", seq: 3, start: 4, stop: 6, shown }) as unknown as Part);
  const all = withPart(last, cut(0, 2, { type: "part", seq: 3, start: 0, stop: 2 }) as unknown as Part);
  expect([...all.here!]).toEqual([1, 1, 1, 1, 1, 1]);
  expect(all.drawn.matrices).toEqual(whole.drawn.matrices);
  expect(all.worlds).toEqual(whole.worlds);
  expect(all.reached).toEqual(whole.reached);
  expect(all.drawn.points[0]!.data).toEqual(whole.drawn.points[0]!.data);
  // What only some parts tell of is as at rest in the others.
  expect([...all.drawn.shown!]).toEqual([0, 1, 0, 1, 0, 1, 0, 1, 1, 0, 0, 1]);
});
