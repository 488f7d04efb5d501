import { describe, expect, it } from "vitest";
import type { DrawingPart } from "../../wire/types";
import { fateOf, join, labelOf, leaveOut, open } from "./choosing";

const part = (path: string, name = "", parts: DrawingPart[] = []): DrawingPart => ({
  path,
  name,
  kind: parts.length ? "group" : "path",
  hidden: false,
  shapes: 1,
  picture: "",
  parts,
});
const head = part("0/10", "head", [part("0/10/0"), part("0/10/1", "eye")]);
const body = part("0/2", "body");

describe("choosing what becomes a piece", () => {
  it("opens a group in the place where it was", () => {
    const start = join(join([], [body]), [head]);
    expect(start.map((c) => c.name)).toEqual(["body", "head"]);
    const opened = open(start, head);
    expect(opened.map((c) => c.parts)).toEqual([["0/2"], ["0/10/0"], ["0/10/1"]]);
    expect(fateOf(opened, "0/10").opened).toBe(true);
  });

  it("keeps what is left of a large group in its place and says how much it is", () => {
    const rest = { ...part("0/2/3+"), kind: "rest", shapes: 1101 };
    expect(labelOf(rest)).toBe("1,101 more shapes");
    const stones = part("0/2", "stones", [part("0/2/0"), rest]);
    expect(open([], stones).map((c) => c.name)).toEqual(["path 1", "the rest"]);
    expect(join([], [rest, part("0/2/0"), head])[0]!.parts).toEqual(["0/2/0", "0/2/3+", "0/10"]);
  });

  it("joins parts out of other pieces, from the back", () => {
    const joined = join(open([], head), [head.parts[1]!, body]);
    expect(joined).toEqual([
      { name: "eye", parts: ["0/2", "0/10/1"] },
      { name: "path 1", parts: ["0/10/0"] },
    ]);
    expect(fateOf(joined, "0/2")).toMatchObject({ own: true, opened: false });
  });

  it("takes a group whole again, and leaves out what is in one", () => {
    expect(join(open([], head), [head])).toEqual([{ name: "head", parts: ["0/10"] }]);
    expect(leaveOut(open([], head), [head])).toEqual([]);
    expect(leaveOut(join([], [head]), [head.parts[0]!])).toEqual([]);
  });
});
