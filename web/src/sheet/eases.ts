/** The eases that are called by a name of their own. */
import type { Ease } from "../wire/types";
import type { Choice } from "../ui/Choices";

export const EASES: Choice<NonNullable<Ease>>[] = [
  { name: "Even", tip: "Equal steps", value: { kind: "even" } },
  { name: "Soft", tip: "Slow out of the key and into the next", value: { kind: "slow", out: 50, into: 50 } },
  { name: "Leave", tip: "Slow out of the key only", value: { kind: "slow", out: 60, into: 0 } },
  { name: "Arrive", tip: "Slow into the next key only", value: { kind: "slow", out: 0, into: 60 } },
  { name: "Hold", tip: "Stays until the next key", value: { kind: "hold" } },
];
