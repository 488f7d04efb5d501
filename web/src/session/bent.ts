/** Drawings whose points lie elsewhere from frame to frame: they bend, or become others. */
import type { BentPoints } from "../wire/types";

export interface Bent {
  item: number;
  drawing: number;
  count: number;
  /** Where the points lie, rows × count × 2, in drawing units. */
  data: Float32Array;
  /** The frames of the rows, rising; null where there is a row for every frame. */
  frames: Int32Array | null;
  /** What it looks like, so many numbers a row; null where that does not change. */
  looks: Float32Array | null;
}

const bytes = <A>(of: { new (buffer: ArrayBufferLike): A }, data: Uint8Array): A => new of(data.slice().buffer);

export const bentFrom = (p: BentPoints): Bent => ({
  item: p.item,
  drawing: p.drawing,
  count: p.count,
  data: bytes(Float32Array, p.data),
  frames: p.frames ? bytes(Int32Array, p.frames) : null,
  looks: p.looks ? bytes(Float32Array, p.looks) : null,
});

export const same = (a: Bent, b: Bent): boolean => a.item === b.item && a.drawing === b.drawing;

/** A drawing that becomes another, with what has come of `frames` frames from `start` on in place of what was there. */
export function woven(before: Bent | undefined, now: Bent, start: number, frames: number): Bent {
  const [size, wide] = [now.count * 2, now.frames!.length ? now.looks!.length / now.frames!.length : 0];
  const rows: { at: number; data: Float32Array; looks: Float32Array }[] = [];
  const take = (of: Bent, shift: number, keep: (at: number) => boolean): void => {
    const own = of.frames!.length ? of.looks!.length / of.frames!.length : wide;
    of.frames!.forEach((frame, row) => {
      if (!keep(frame + shift)) return;
      const data = of.data.subarray(row * size, (row + 1) * size);
      rows.push({ at: frame + shift, data, looks: of.looks!.subarray(row * own, (row + 1) * own) });
    });
  };
  // Of a drawing that has other points now nothing can be kept.
  if (before?.frames && before.count === now.count) take(before, 0, (at) => at < start || at >= start + frames);
  take(now, start, () => true);
  rows.sort((a, b) => a.at - b.at);
  const [data, looks] = [
    new Float32Array(rows.length * size),
    new Float32Array(rows.reduce((n, r) => n + r.looks.length, 0)),
  ];
  let at = 0;
  rows.forEach((row, n) => {
    data.set(row.data, n * size);
    looks.set(row.looks, at);
    at += row.looks.length;
  });
  return { ...now, data, looks, frames: Int32Array.from(rows.map((r) => r.at)) };
}
