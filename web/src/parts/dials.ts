/** What the cards say of dials. */
import type { Dial } from "../wire/types";

/** Between which ends a dial is slid, in steps that whole numbers are among. */
export function rangeOf(dial: Dial): { min: number; max: number; step: number } {
  const { low: min = 0, high: max = 100 } = dial;
  const span = max - min;
  return { min, max, step: span >= 50 ? 1 : span >= 5 ? 0.1 : 0.01 };
}
