/** What the Motion bench does to a motion, by button or by key. */
import {
  get,
  made,
  madeTried,
  notify,
  putBack,
  submit,
  submitTried,
  tryOut,
  tryPose,
  valuesIn,
  see,
} from "../../session";
import { ROOT, type ChannelKind } from "../../wire/types";

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

/** Key what is tried, and the joints in hand in all that they can do. */
export async function keyTried(): Promise<void> {
  const { pose, joints, motion } = get();
  const frame = pose?.frame ?? get().frame;
  const tried = pose?.tried ?? {};
  if (!motion) return;
  if (!joints.length && !Object.keys(tried).length)
    return notify(false, "Nothing is in hand", "Select a joint first, or key the whole pose with Shift K.");
  if (!joints.length) return void (await key(tried, frame));
  const ack = await madeTried({ do: "key-joints", motion, joints, frame, tried });
  if (ack?.seq) notify(true, "Keyed", ack.label);
}

/** Put the joints in hand, or these, back to rest at the frame that shows; everything with none. What is tried of them is
 * put back too. */
export async function toRest(joints: string[] | null = get().joints): Promise<void> {
  const { motion, frame, pose } = get();
  if (!motion || joints?.length === 0) return;
  const ours = (channel: string) => !joints || joints.includes(channel.slice(0, channel.lastIndexOf(".")));
  const tried = Object.entries(pose?.tried ?? {});
  const left = tried.filter(([channel]) => !ours(channel));
  const back = left.length < tried.length;
  if (back) putBack();
  const ack = await made({ do: "rest-joints", motion, joints, frame });
  if (ack && !ack.seq && !back) notify(true, "At rest already", `At frame ${frame + 1}.`);
  if (!left.length || !back) return;
  const still = await tryPose(frame, Object.fromEntries(left));
  if (still) tryOut({ pose: still });
}

/** Give the other side what the joints in hand hold at the frame that shows, or swap the two. */
export function toOtherSide(swap: boolean): void {
  const { motion, frame, joints } = get();
  if (motion && joints.length) void submit({ do: "mirror-joints", motion, joints, frame, swap });
}

/** Key the whole pose, with what is tried, and say what that was. */
export async function keyWholePose(): Promise<void> {
  const { pose, motion } = get();
  if (!motion) return;
  const ack = await madeTried({ do: "key-pose", motion, frame: pose?.frame ?? get().frame, tried: pose?.tried ?? {} });
  if (ack?.seq) notify(true, "Keyed", ack.label);
}

/** Let limbs that are pulled begin at the selected joint, or by themselves again. */
export function beginLimbs(): void {
  const { limbBegins, joint } = get();
  see({ limbBegins: limbBegins || joint === ROOT ? null : joint });
}

/** Get ready to capture, or leave it. */
export function toggleCapture(): void {
  const { capture, motion } = get();
  if (!motion) return;
  see({ capture: capture ? null : { what: "place", speed: 100, countIn: true, count: null } });
}
