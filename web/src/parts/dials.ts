/** What the cards say of dials. */
import type { Dial } from "../wire/types";

/** Between which ends a dial is slid, in two hundred steps. */
export function rangeOf(dial: Dial): { min: number; max: number; step: number } {
  const { low: min = 0, high: max = 100 } = dial;
  return { min, max, step: (max - min) / 200 };
}
