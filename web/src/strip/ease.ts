/** The ease of a pose in small: how the values of its keys go on, as the core evaluated them. */
import type { Spaced } from "../session";
import { JUMPS } from "../sheet/threads";
import type { Motion } from "../wire/types";

/** The progress of the way from a pose to the next, if all its keys go the same way; null where they differ. */
export function easeOf(motion: Motion, spacing: Record<string, Spaced>, frame: number): number[] | null | undefined {
  let found: string | undefined;
  let progress: number[] | undefined;
  for (const [id, channel] of Object.entries(motion.channels ?? {})) {
    const key = channel.keys?.[String(frame)];
    if (!key || JUMPS.has(channel.kind)) continue;
    const ease = JSON.stringify(key.ease ?? { kind: "even" });
    if (found !== undefined && found !== ease) return null;
    found = ease;
    progress ??= spacing[id]?.gaps.find((g) => g[0] === frame)?.[2];
  }
  return progress;
}

/** A line through progress values, in a box of this size. */
export function curveThrough(progress: readonly number[], width: number, height: number): string {
  const all = [...progress, 1];
  const y = (p: number) => height - Math.max(-0.2, Math.min(1.2, p)) * height;
  return all
    .map((p, i) => `${i ? "L" : "M"}${((i / (all.length - 1)) * width).toFixed(1)} ${y(p).toFixed(1)}`)
    .join("");
}
