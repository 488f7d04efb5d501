/** What is drawn in the frames of a motion or a shot. */
import type { Item } from "../wire/types";
import type { Bent } from "./bent";

/** What is drawn over some frames: matrices are frames × items × 6, `shown` frames × items. */
export interface Frames {
  items: readonly Item[];
  matrices: Float32Array;
  /** Which drawing of each item; null where all is as at rest. */
  shown: Int16Array | null;
  /** Which item is the n-th from the back; null where they lie in their own order. */
  order: Int16Array | null;
  /** The part of its own opacity that each item has; null where all have all of it. */
  opacity: Float32Array | null;
  points: readonly Bent[];
}

/** One of those frames. */
export interface Frame extends Frames {
  at: number;
}
