/** What the Voice bench does, by button or by key. */
import {
  frameRate,
  freshId,
  get,
  keep,
  keptFields,
  linesOf,
  motionOf,
  notify,
  pickOut,
  see,
  submit,
  subscribe,
} from "../../session";
import { channelOf } from "../../ribbon/MouthRow";
import type { Exposed, Mouth, MouthChart } from "../../wire/types";

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

/** The mood that holds at a frame. */
export function moodAt(exposed: Exposed | undefined, frame: number): string {
  const frames = Object.keys(exposed?.moods ?? {})
    .map(Number)
    .filter((f) => f <= frame);
  return frames.length ? exposed!.moods[String(Math.max(...frames))]! : PLAIN;
}

/** What shows a mouth in a mood. */
export const valueOf = (mouth: Mouth, mood: string): number | undefined =>
  mouth.shows?.[mood]?.[0] ?? mouth.shows?.[PLAIN]?.[0];

/** Put a mouth on the frame that shows, or, while it plays, on the one that the hand meant; or the one so many places
 * after it in the set. */
export function putMouth(which: { mouth: string } | { by: number }): void {
  const now = get();
  const motion = motionOf(now);
  if (!motion) return;
  const frame = Math.max(0, now.frame - (now.playing ? Math.round(keptHand().late * now.speed) : 0));
  void submit({ do: "put-mouth", motion: motion.id, frame, ...which });
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

/** Resolves once the sounds of a line are found, or it is known that they are not; with false if meanwhile nobody waits
 * for it any more. */
const soundsFound = (line: string, voice: string): Promise<boolean> =>
  new Promise((done) => {
    see({ mouthsWait: line });
    const stop = subscribe((now) => {
      const waits = now.mouthsWait === line;
      if (waits && now.listening[voice]) return;
      stop();
      if (waits) see({ mouthsWait: null });
      done(waits);
    });
  });

/** Make the mouths of the line that is worked on, or make them again; where its sounds are just being found, after that.
 * Asked again, that is let be. */
export async function makeMouths(): Promise<void> {
  const { motion, line, mouthsWait, listening } = get();
  const found = linesOf(get()).find((l) => l.placed.id === line);
  if (!motion || !line) return;
  if (mouthsWait === line) return see({ mouthsWait: null });
  if (found && listening[found.voice.id]) {
    if (!(await soundsFound(line, found.voice.id))) return;
    const voice = get().documents[found.voice.id];
    // Why it has no sounds has been told.
    if (voice?.kind !== "voice" || !Object.keys(voice.chart?.phones ?? {}).length) return;
  }
  if (!(await submit({ do: "make-mouths", motion, sound: line, id: freshId() }))) return;
  const made = Object.values(motionOf(get())?.recipes ?? {});
  pickOut({ recipe: made.find((r) => r.kind === "mouths" && r.sound === line)?.id ?? null });
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
  if (await submit({ do: "add-voice", id, name: "Test line", motion: motion.id, placed, at, test: true })) {
    pickOut({ line: placed, entry: null });
    await makeMouths();
  }
}
