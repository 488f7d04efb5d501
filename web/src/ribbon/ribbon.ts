/** How a line's chart lies on the frames of the ribbon. */
import type { EntryRef, Line } from "../session";
import type { Timeline } from "../sheet/timeline";
import type { Phone, Word } from "../wire/types";

/** One entry of a tier, with when it ends (seconds of the line). */
export interface Span {
  id: string;
  start: number;
  end: number;
  text: string;
  sure: number;
  guessed: boolean;
}

const textOf = (entry: Word | Phone): string => ("text" in entry ? entry.text : (entry as Phone).label);

/** The entries of a tier in their order, each until the next begins. */
export function spansOf(line: Line, tier: EntryRef["tier"]): Span[] {
  const entries = Object.entries((line.voice.chart?.[tier] ?? {}) as Record<string, Word | Phone>).sort(
    (a, b) => a[1].start - b[1].start,
  );
  const end = line.voice.sound?.seconds ?? (entries.at(-1)?.[1].start ?? 0) + 0.2;
  return entries.map(([id, entry], n) => ({
    id,
    start: entry.start,
    end: entries[n + 1]?.[1].start ?? end,
    text: textOf(entry),
    sure: entry.sure,
    guessed: "guessed" in entry ? entry.guessed : false,
  }));
}

/** The spans that show in the window, and one on either side. */
export function inView(spans: readonly Span[], at: number, time: Timeline, rate: number): Span[] {
  const from = time.scroll / time.step / rate - at;
  const to = (time.scroll + time.room) / time.step / rate - at;
  return spans.filter((s) => s.end >= from && s.start <= to);
}

/** A stretch of one mouth as it is keyed: its frames, what shows, and whether the hand keyed it. */
export interface MouthRun {
  start: number;
  end: number;
  value: number;
  hand: boolean;
}

/** The keys of a mouth's channel as stretches. */
export function mouthRuns(
  keys: Record<string, { value: number[]; recipe?: string | null; hand?: boolean }>,
  length: number,
): MouthRun[] {
  const frames = Object.keys(keys)
    .map(Number)
    .filter((f) => f < length)
    .sort((a, b) => a - b);
  return frames.map((f, n) => {
    const key = keys[String(f)]!;
    return { start: f, end: frames[n + 1] ?? length, value: key.value[0]!, hand: !key.recipe || (key.hand ?? false) };
  });
}

/** Where a time of the motion (seconds) lies across the window. */
export const across = (seconds: number, time: Timeline, rate: number): number =>
  seconds * rate * time.step - time.scroll;
