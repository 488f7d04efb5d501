/** What the Voice bench does, by button or by key. */
import {
  frameRate,
  freshId,
  get,
  keptFields,
  keep,
  linesOf,
  motionOf,
  notify,
  puppetOf,
  submit,
  pickOut,
} from "../../session";
import { mostOf } from "../../ui/numbers";
import { channelOf } from "../../ribbon/MouthRow";
import type { Mouth, MouthChart } from "../../wire/types";

/** How mouths that are put in by hand behave. */
export interface Hand {
  /** Frames that a hand comes late while it plays. */
  late: number;
  /** Pixels across of a mouth in the grid. */
  size: number;
}
const HAND: Hand = { late: 3, size: 78 };
export const keptHand = (): Hand => keptFields("voice-hand", HAND);
export const keepHand = (hand: Hand): void => keep("voice-hand", JSON.stringify(hand));

export const PLAIN = "plain";

/** The mood that holds at a frame, by the recipe of the line that began last. */
export function moodAt(frame: number): string {
  const now = get();
  const motion = motionOf(now);
  const time = frame / frameRate(now);
  const begins = (sound: string) => motion?.sounds?.[sound]?.at ?? 0;
  const recipe = Object.values(motion?.recipes ?? {})
    .flatMap((r) => (r.kind === "mouths" && begins(r.sound) <= time + 0.2 ? [r] : []))
    .sort((a, b) => begins(b.sound) - begins(a.sound))[0];
  if (!recipe) return PLAIN;
  const frames = Object.keys(recipe.moods ?? {})
    .map(Number)
    .filter((f) => f <= frame);
  return frames.length ? recipe.moods![String(Math.max(...frames))]! : PLAIN;
}

/** What shows a mouth in a mood. */
export const valueOf = (mouth: Mouth, mood: string): number | undefined =>
  mouth.shows?.[mood]?.[0] ?? mouth.shows?.[PLAIN]?.[0];

/** Put a mouth on the frame that shows, or, while it plays, on the one that the hand meant. */
export function putMouth(mouth: Mouth): void {
  const now = get();
  const [motion, chart] = [motionOf(now), puppetOf(now)?.mouths];
  if (!motion || !chart) return;
  const frame = Math.max(0, now.frame - (now.playing ? Math.round(keptHand().late * now.speed) : 0));
  const value = valueOf(mouth, moodAt(frame));
  if (value === undefined) {
    notify(false, mouth.name, "Nothing shows this mouth yet: drag a drawing onto it.");
    return;
  }
  const channel = channelOf(chart);
  const cut = channel.lastIndexOf(".");
  void submit({
    do: "set-keys",
    motion: motion.id,
    keys: [
      {
        joint: channel.slice(0, cut),
        kind: channel.slice(cut + 1) as "show" | "dial",
        frame,
        value: [value],
        ease: { kind: "hold" },
      },
    ],
  });
}

/** The mouth that shows at the frame that shows. */
export function mouthNow(chart: MouthChart): Mouth | null {
  const now = get();
  const keys = motionOf(now)?.channels?.[channelOf(chart)]?.keys ?? {};
  const frames = Object.keys(keys)
    .map(Number)
    .filter((f) => f <= now.frame);
  if (!frames.length) return null;
  const value = keys[String(Math.max(...frames))]!.value[0]!;
  return (
    Object.values(chart.mouths ?? {}).find((m) => Object.values(m.shows ?? {}).some((v) => v.includes(value))) ?? null
  );
}

/** The next or previous mouth of the set on the frame that shows. */
export function stepMouth(way: 1 | -1): void {
  const chart = puppetOf(get())?.mouths;
  if (!chart) return;
  const all = Object.values(chart.mouths ?? {});
  const at = all.findIndex((m) => m.id === mouthNow(chart)?.id);
  const next = all[(at + way + all.length) % all.length];
  if (next) putMouth(next);
}

/** Make the mouths of the line that is worked on, or make them again. */
export async function makeMouths(): Promise<void> {
  const now = get();
  const motion = motionOf(now);
  const line = linesOf(now).find((l) => l.placed.id === now.line);
  if (!motion || !line) return;
  const known = Object.values(motion.recipes ?? {}).find((r) => r.kind === "mouths" && r.sound === line.placed.id);
  const id = known?.id ?? freshId();
  const length = Math.ceil((line.placed.at + (line.voice.sound?.seconds ?? 0)) * frameRate(now)) + 6;
  // A line that is longer than its motion would be cut off: the motion is made as long as it, when it is new.
  if (!known && length > motion.length && !motion.cycle)
    await submit({ do: "set-motion", motion: motion.id, length: Math.min(length, mostOf("Motion.length")) });
  const done = known
    ? await submit({ do: "change-recipe", motion: motion.id, recipe: id })
    : await submit({ do: "begin-recipe", motion: motion.id, id, kind: "mouths", sound: line.placed.id });
  if (done) pickOut({ recipe: id });
}

/** Say from which frame on a mood holds. */
export function setMood(mood: string): void {
  const now = get();
  const motion = motionOf(now);
  const recipe = Object.values(motion?.recipes ?? {}).find((r) => r.kind === "mouths" && r.sound === now.line);
  if (!motion || recipe?.kind !== "mouths") {
    notify(false, "No mouths yet", "Make the line's mouths first; moods are kept with them.");
    return;
  }
  void submit({
    do: "change-recipe",
    motion: motion.id,
    recipe: recipe.id,
    given: { moods: { [String(now.frame)]: mood } },
  });
}

/** A line without sound that speaks every mouth of the set once. */
export async function testLine(): Promise<void> {
  const now = get();
  const motion = motionOf(now);
  if (!motion) return;
  const [id, placed] = [freshId(), freshId()];
  const at = now.frame / frameRate(now);
  const rate = frameRate(now);
  const needed = now.frame + Math.ceil(4.6 * rate);
  if (needed > motion.length) await submit({ do: "set-motion", motion: motion.id, length: needed });
  if (await submit({ do: "add-voice", id, name: "Test line", motion: motion.id, placed, at, test: true })) {
    pickOut({ line: placed, entry: null });
    await makeMouths();
  }
}
