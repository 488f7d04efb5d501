/** What is done to the keys that are selected on the sheet. */
import { get, made, motionOf, notify, submit, type KeyRef, pickOut, see } from "../session";
import type { Command } from "../wire/types";

/** Do a command on the selected keys; those that it puts elsewhere are selected there. */
export async function land(command: Command): Promise<void> {
  const done = await made(command);
  if (done?.keys?.length) pickOut({ keys: done.keys });
}

export const many = (count: number, noun: string): string => `${count} ${noun}${count === 1 ? "" : "s"}`;

export async function removeKeys(motion: string, keys: KeyRef[]): Promise<void> {
  if (!keys.length) return;
  const channels = new Set(keys.map((k) => k.channel)).size;
  if (await submit({ do: "remove-keys", motion, keys }))
    notify(true, "Removed", `${many(keys.length, "key")} on ${many(channels, "channel")}. Undo brings them back.`);
}

export async function removePoses(motion: string, frames: number[]): Promise<void> {
  const channels = Object.values(motionOf(get())?.channels ?? {}).map(
    (c) => frames.filter((f) => c.keys?.[String(f)]).length,
  );
  const [keys, on] = [channels.reduce((a, b) => a + b, 0), channels.filter(Boolean).length];
  if (await submit({ do: "remove-poses", motion, frames }))
    notify(
      true,
      "Removed",
      `${many(frames.length, "pose")} with ${many(keys, "key")} on ${many(on, "channel")}. Undo brings them back.`,
    );
}

/** Copy the selected poses, or else the selected keys. */
export function copy(): void {
  const { motion, keys, poses } = get();
  if (!motion || (!keys.length && !poses.length)) return;
  see({ clip: { motion, keys: poses.length ? [] : keys, poses } });
  notify(true, "Copied", poses.length ? many(poses.length, "pose") : many(keys.length, "key"));
}

/** Paste what was copied at the frame that shows. */
export function paste(how: { reverse?: boolean; mirrored?: boolean } = {}): void {
  const { clip, motion, frame } = get();
  if (!clip || !motion) return;
  if (clip.poses.length)
    void submit({
      do: "paste-poses",
      motion,
      source: clip.motion,
      frames: clip.poses,
      at: frame,
      mirrored: how.mirrored ?? false,
    });
  else void submit({ do: "paste-keys", motion, source: clip.motion, keys: clip.keys, at: frame, ...how });
}

/** What puts the keys that were copied onto other joints, each so many frames later than the one before. */
export function pasteOnto(joints: readonly string[], later: number): Command {
  const { clip, motion, frame } = get();
  return {
    do: "paste-keys",
    motion: motion!,
    source: clip!.motion,
    keys: clip!.keys,
    at: frame,
    onto: [...joints],
    later,
  };
}

/** The frames from the first to the last selected key. */
export function spanOf(keys: readonly KeyRef[]): [number, number] {
  const frames = keys.map((k) => k.frame);
  return [Math.min(...frames), Math.max(...frames)];
}

export const channelsOf = (keys: readonly KeyRef[]): string[] => [...new Set(keys.map((k) => k.channel))];
