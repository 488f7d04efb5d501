import { describe, expect, it } from "vitest";
import type { Motion, Puppet } from "../wire/types";
import { keysIn, keysOfRow, placeIn, rowsOf, threadsOf } from "./threads";

const puppet = {
  joints: { hip: { name: "hip" }, arm: { name: "arm" }, hand: { name: "hand" } },
  dials: { lid: { name: "lid" } },
} as unknown as Puppet;
const channel = (joint: string, kind: string, ...frames: number[]) => [
  `${joint}.${kind}`,
  { joint, kind, keys: Object.fromEntries(frames.map((f) => [f, { value: [0] }])) },
];
const motion = {
  channels: Object.fromEntries([
    channel("hand", "turn", 10, 2),
    channel("arm", "turn", 0, 4, 8),
    channel("lid", "dial", 3),
    channel("hip", "move", 0),
    channel("puppet", "move", 0),
  ]),
} as unknown as Motion;
const limbs = { hip: "body", arm: "left arm", hand: "left arm", lid: "dials", puppet: "whole puppet" };
const threads = threadsOf(puppet, motion, ["hip", "arm", "hand"], limbs);
const named = (rows: ReturnType<typeof rowsOf>) =>
  rows.map((r) => (r.kind === "limb" ? r.limb : r.kind === "foot" ? `${r.joint} on the ground` : r.thread.id));
const look = { folded: new Set<string>(), sort: "figure" as const, only: null };

describe("the rows of the timing sheet", () => {
  it("follow the figure, each limb from its root outwards, keys in order", () => {
    expect(named(rowsOf(threads, look))).toEqual([
      "whole puppet", "puppet.move", "body", "hip.move", "left arm", "arm.turn", "hand.turn", "dials", "lid.dial",
    ]); // prettier-ignore
    expect(threads.find((t) => t.id === "hand.turn")?.frames).toEqual([2, 10]);
  });

  it("fold, filter, and sort by how many keys there are", () => {
    const rows = rowsOf(threads, { ...look, folded: new Set(["left arm"]) });
    expect(named(rows)).not.toContain("arm.turn");
    expect(rows.find((r) => r.kind === "limb" && r.folded)).toMatchObject({ frames: [0, 2, 4, 8, 10] });
    expect(named(rowsOf(threads, { ...look, only: new Set(["arm"]) }))).toEqual(["left arm", "arm.turn"]);
    expect(named(rowsOf(threads, { ...look, sort: "keys" }))[0]).toBe("left arm");
  });

  it("give the keys in a box, never those of folded threads", () => {
    const rows = rowsOf(threads, look);
    expect(keysIn(rows, 4, 6, 2, 8)).toEqual([
      { channel: "arm.turn", frame: 4 },
      { channel: "arm.turn", frame: 8 },
      { channel: "hand.turn", frame: 2 },
    ]);
    expect(keysIn(rowsOf(threads, { ...look, folded: new Set(["left arm"]) }), 0, 99, 0, 99).map((k) => k.channel)).toEqual([
      "puppet.move", "hip.move", "lid.dial",
    ]); // prettier-ignore
    expect(keysOfRow(rows[4]!)).toHaveLength(5);
  });

  it("find a place among sorted frames", () => {
    expect([0, 1, 2, 5, 9].map((f) => placeIn([1, 5, 8], f))).toEqual([0, 0, 1, 1, 3]);
  });
});
