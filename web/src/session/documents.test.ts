import { describe, expect, it } from "vitest";
import type { Document, Write } from "../wire/types";
import { begun, taken, written, type Change } from "./documents";

const quay = { kind: "production", id: "p", name: "Quay" } as Document;
const gull = {
  kind: "puppet",
  id: "a",
  name: "Gull",
  pieces: { wing: { id: "wing", name: "wing" } },
  order: ["wing"],
} as unknown as Document;
const start = () => begun({ seq: 4, documents: [quay, gull], undo: null, redo: null });
const rename = (seq: number, name: string): Change => ({
  seq,
  writes: [{ document: "a", path: ["name"], has: true, after: name }],
  undo: { seq, label: name },
  redo: null,
});
const name = (c: { documents: Record<string, Document> }) => (c.documents["a"] as { name: string }).name;

describe("writes", () => {
  it("change only what they touch, and leave everything else the same object", () => {
    const writes: Write[] = [{ document: "a", path: ["pieces", "wing", "name"], has: true, after: "tip" }];
    const before = start().documents;
    const after = written(before, writes);
    expect((after["a"] as never as { pieces: { wing: { name: string } } }).pieces.wing.name).toBe("tip");
    expect((before["a"] as never as { pieces: { wing: { name: string } } }).pieces.wing.name).toBe("wing");
    expect(after["p"]).toBe(quay);
    expect((after["a"] as { order: unknown }).order).toBe((gull as { order: unknown }).order);
  });

  it("put what comes before what it is to stand before, and last if that is gone", () => {
    const writes: Write[] = [
      { document: "a", path: ["pieces", "beak"], has: true, after: { id: "beak" }, next: "wing" },
      { document: "a", path: ["pieces", "eye"], has: true, after: { id: "eye" }, next: "gone" },
      { document: "b", path: [], has: true, after: { kind: "puppet", id: "b", name: "Bollard" }, next: "a" },
    ];
    const after = written(start().documents, writes);
    expect(Object.keys(after)).toEqual(["p", "b", "a"]);
    expect(Object.keys((after["a"] as never as { pieces: object }).pieces)).toEqual(["beak", "wing", "eye"]);
  });

  it("add and take away places and whole documents", () => {
    const ferry = { kind: "puppet", id: "f", name: "Ferry" };
    const after = written(start().documents, [
      { document: "a", path: ["pieces", "wing"], has: false },
      { document: "a", path: ["pieces", "tail"], has: true, after: { id: "tail" } },
      { document: "f", path: [], has: true, after: ferry },
      { document: "p", path: [], has: false },
    ]);
    expect(Object.keys((after["a"] as never as { pieces: object }).pieces)).toEqual(["tail"]);
    expect(Object.keys(after)).toEqual(["a", "f"]);
  });
});

describe("changes", () => {
  it("are taken up in their order, however they come, and each once", () => {
    let now = taken(start(), rename(6, "second"));
    expect([now.seq, name(now)]).toEqual([4, "Gull"]);
    now = taken(now, rename(7, "third"));
    now = taken(now, rename(5, "first"));
    expect([now.seq, name(now), now.undo?.label]).toEqual([7, "third", "third"]);
    expect(now.early).toEqual({});
    expect(taken(now, rename(6, "second"))).toBe(now);
  });

  it("leave nothing behind of what a snapshot does not have", () => {
    const now = begun({ seq: 9, documents: [quay], undo: null, redo: null });
    expect(Object.keys(now.documents)).toEqual(["p"]);
  });
});
