/** What changes of drawings that bend, or become others, in a frame. */
import type { Bent } from "../session/bent";
import { Changed } from "./art";

/** Which row is a frame's; -1 if none is. */
function rowOf(bent: Bent, at: number): number {
  const { frames } = bent;
  if (!frames) return at;
  let [low, high] = [0, frames.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (frames[middle]! < at) low = middle + 1;
    else high = middle;
  }
  return frames[low] === at ? low : -1;
}

/** What changes of an item's drawing in a frame; null for one that stays as it is. */
export function changedIn(all: readonly Bent[], item: number, drawing: number, at: number): Float32Array[] | null {
  for (const bent of all) {
    if (bent.item !== item || bent.drawing !== drawing) continue;
    const row = rowOf(bent, at);
    if (row < 0) return null;
    const size = bent.count * 2;
    const points = bent.data.subarray(row * size, (row + 1) * size);
    if (!bent.looks) return [points];
    const wide = bent.looks.length / bent.frames!.length;
    return [points, bent.looks.subarray(row * wide, (row + 1) * wide)];
  }
  return null;
}

/** The same, ready to be handed out. */
export function changing(all: readonly Bent[], item: number, drawing: number, at: number): Changed | null {
  const found = changedIn(all, item, drawing, at);
  return found && new Changed(found[0]!, found[1] ?? null);
}
