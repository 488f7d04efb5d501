import { expect, test } from "vitest";
import type { Item, ShotChanged, ShotLetter, ShotPart } from "../wire/types";
import { shotFrom, withChanged, withShotPart } from "./shotPlan";

const bytes = (a: Float32Array): Uint8Array => new Uint8Array(a.buffer.slice(0));
const item = (piece: string, art: string): Item => ({
  puppet: "a",
  piece,
  arts: [art],
  boxes: [],
  hidden: false,
  opacity: 1,
  masks: [],
  rest: 0,
});
const FRAMES = 4;
const cel = (skirt: string) => ({
  cast: "c",
  puppet: "a",
  own: FRAMES,
  share: 100,
  hidden: false,
  items: [item("coat", "x"), item("skirt", skirt)],
  joints: ["body"],
  keyed: {},
});
const shot = shotFrom({
  type: "shot",
  target: { kind: "shot", shot: "s" },
  frames: FRAMES,
  cels: [cel("y")],
  views: {},
  aims: bytes(new Float32Array(4 * FRAMES)),
} as unknown as ShotLetter);

/** All frames, with the coat and the skirt on meshes of so many points, each number telling whose it is. */
const bends = (coat: number, skirt: number, own: number): ShotPart =>
  ({
    type: "shot-part",
    shot: "s",
    start: 0,
    stop: FRAMES,
    cels: {
      c: {
        matrices: bytes(new Float32Array(FRAMES * 12)),
        worlds: bytes(new Float32Array(FRAMES * 6)),
        points: [
          { item: 0, drawing: 0, count: coat, data: bytes(new Float32Array(FRAMES * coat * 2).fill(own)) },
          { item: 1, drawing: 0, count: skirt, data: bytes(new Float32Array(FRAMES * skirt * 2).fill(own + 1)) },
        ],
      },
    },
  }) as unknown as ShotPart;
const changed = (skirt: string) => ({ type: "shot-changed", shot: "s", cels: [cel(skirt)] }) as unknown as ShotChanged;

test("what is drawn otherwise bends otherwise, and nothing else does", () => {
  const before = withShotPart(shot, bends(3, 5, 10));
  const after = withChanged(before, changed("z"));
  // The coat is as it was; of the new skirt nothing is known yet.
  expect(after.cels[0]!.drawn.points.map((p) => [p.item, p.count])).toEqual([[0, 3]]);
  expect(withChanged(before, changed("y")).cels[0]!.drawn.points).toHaveLength(2);
});

test("a mesh of another size takes the place of the one before", () => {
  const now = withShotPart(withShotPart(shot, bends(3, 5, 10)), bends(3, 7, 20));
  const { points } = now.cels[0]!.drawn;
  expect(points.map((p) => [p.item, p.count, p.data.length, p.data[0]])).toEqual([
    [0, 3, FRAMES * 6, 20],
    [1, 7, FRAMES * 14, 21],
  ]);
});
