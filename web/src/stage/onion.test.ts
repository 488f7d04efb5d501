import { describe, expect, it } from "vitest";
import { skins } from "./onion";

const onion = { before: 2, after: 2, by: "frames" as const, every: 2 };
const at = (found: ReturnType<typeof skins>) => found.map((s) => s.frame * s.way);

describe("the frames of an onion skin", () => {
  it("lie on both sides, the farthest first, and end with the motion", () => {
    expect(at(skins(onion, 10, 24, false, []))).toEqual([-6, 14, -8, 12]);
    expect(at(skins(onion, 1, 24, false, []))).toEqual([5, 3]);
  });
  it("go round the seam of a cycle, each frame once", () => {
    expect(at(skins(onion, 1, 24, true, []))).toEqual([-21, 5, -23, 3]);
    const all = skins({ ...onion, before: 8, after: 8, every: 1 }, 0, 6, true, []);
    expect(new Set(all.map((s) => s.frame)).size).toBe(all.length);
    expect(all.some((s) => s.frame === 0)).toBe(false);
  });
  it("are poses where these are asked for", () => {
    const poses = [0, 6, 12, 18];
    expect(at(skins({ ...onion, by: "poses" }, 8, 24, false, poses))).toEqual([-0, 18, -6, 12]);
    expect(at(skins({ ...onion, by: "poses" }, 20, 24, true, poses))).toEqual([-12, 6, -18, 0]);
  });
});
