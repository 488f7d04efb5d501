/** A channel as evaluated: where its in-betweens fall, and what it is at every frame. */
import type { Gap, SpacedView } from "../wire/types";
import { doubles } from "./plan";

export interface Spaced {
  gaps: Gap[];
  /** Frames that `values` holds of each number: its own, since the plan may be of another length already. */
  frames: number;
  values: Float64Array;
}

export const spacedFrom = ({ gaps, frames, values }: SpacedView): Spaced => ({ gaps, frames, values: doubles(values) });

/** The channel's numbers at a frame; beyond what has come, those of the last frame that has. */
export function valuesIn({ frames, values }: Spaced, frame: number): number[] {
  const at = Math.min(frame, frames - 1);
  return Array.from({ length: values.length / frames }, (_, i) => values[i * frames + at]!);
}
