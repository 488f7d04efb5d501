/** What the Motion bench does to a motion, by button or by key. */
import { get, madeTried, notify, submitTried, valuesIn, see } from "../../session";
import type { ChannelKind } from "../../wire/types";

/** Key values at a frame, and keep showing them until the plan has them. */
export function key(values: Record<string, (number | null)[]>, frame: number): Promise<boolean> {
  const motion = get().motion;
  const keys = Object.entries(values).map(([channel, value]) => {
    const cut = channel.lastIndexOf(".");
    return { joint: channel.slice(0, cut), kind: channel.slice(cut + 1) as ChannelKind, frame, value };
  });
  if (!motion || !keys.length) return Promise.resolve(false);
  return submitTried({ do: "set-keys", motion, keys });
}

/** Channel values at a frame as the core evaluated them. */
export function valuesAt(channel: string, frame: number): number[] | null {
  const spaced = get().spacing[channel];
  return spaced ? valuesIn(spaced, frame) : null;
}

/** Key what is tried, or the turn of the selected joint. */
export function keyTried(): void {
  const { pose, joint } = get();
  const frame = pose?.frame ?? get().frame;
  const tried = { ...pose?.tried };
  if (!Object.keys(tried).length && joint) tried[`${joint}.turn`] = valuesAt(`${joint}.turn`, frame) ?? [0];
  void key(tried, frame);
}

/** Key the whole pose, with what is tried, and say what that was. */
export async function keyWholePose(): Promise<void> {
  const { pose, motion } = get();
  if (!motion) return;
  const ack = await madeTried({ do: "key-pose", motion, frame: pose?.frame ?? get().frame, tried: pose?.tried ?? {} });
  if (ack?.seq) notify(true, "Keyed", ack.label);
}

/** Get ready to capture, or leave it. */
export function toggleCapture(): void {
  const { capture, motion } = get();
  if (!motion) return;
  see({ capture: capture ? null : { what: "place", speed: 100, countIn: true, count: null } });
}
