/** What the Motion bench does to a motion, by button or by key. */
import { freshId, get, motionOf, set, submit, submitTried } from "../../session";
import type { ChannelKind } from "../../wire/types";

/** Key values at a frame, and keep showing them until the plan has them. */
export function key(values: Record<string, number[]>, frame: number): Promise<boolean> {
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
  const { spacing, plan } = get();
  const found = spacing[channel];
  if (!found || !plan) return null;
  return Array.from({ length: found.values.length / plan.frames }, (_, i) => found.values[i * plan.frames + frame]!);
}

/** Key what is tried; with `whole`, also every channel that has keys anywhere. */
export function keyPose(whole: boolean): void {
  const { pose, joint, motion } = get();
  const frame = pose?.frame ?? get().frame;
  const tried = { ...pose?.tried };
  if (!Object.keys(tried).length && joint && (!whole || !Object.keys(motionOf(get())?.channels ?? {}).length))
    tried[`${joint}.turn`] = valuesAt(`${joint}.turn`, frame) ?? [0];
  if (motion && whole) void submitTried({ do: "key-pose", motion, frame, tried });
  else void key(tried, frame);
}

/** Get ready to capture, or leave it. */
export function toggleCapture(): void {
  const { capture, motion } = get();
  if (!motion) return;
  set({ capture: capture ? null : { what: "place", speed: 100, countIn: true, count: null } });
}

export async function addMotion(puppet: string, name: string): Promise<void> {
  const id = freshId();
  if (await submit({ do: "add-motion", id, puppet, name, length: 48, cycle: false }))
    set({ motion: id, frame: 0, keys: [] });
}
