/** What is done to the selected entry of the chart, by button or by key. */
import { frameRate, freshId, get, linesOf, notify, submit, type Line, pickOut } from "../session";

/** The line that is worked on, and the selected entry of its chart. */
export function selected(): { line: Line; entry: NonNullable<ReturnType<typeof get>["entry"]> } | null {
  const now = get();
  const line = linesOf(now).find((l) => l.placed.id === now.line);
  return line && now.entry ? { line, entry: now.entry } : null;
}

/** The time of a line that the shown frame begins at (seconds). */
export const timeHere = (line: Line): number => get().frame / frameRate(get()) - line.placed.at;

/** Cut the selected entry in two at the frame that shows, or, if that lies outside, in its middle. */
export function splitEntry(): void {
  const found = selected();
  if (!found) return;
  const { line, entry } = found;
  const row = Object.entries(line.voice.chart?.[entry.tier] ?? {}).sort((a, b) => a[1].start - b[1].start);
  const n = row.findIndex(([id]) => id === entry.id);
  const start = row[n]![1].start;
  const end = row[n + 1]?.[1].start ?? line.voice.sound?.seconds ?? start + 0.2;
  const here = timeHere(line);
  const id = freshId();
  const at = here > start + 0.005 && here < end - 0.005 ? here : (start + end) / 2;
  void submit({ do: "split-entry", voice: line.voice.id, tier: entry.tier, entry: entry.id, new: id, at }).then(
    (done) => {
      if (done) pickOut({ entry: { tier: entry.tier, id } });
    },
  );
}

/** Let the one before go on over the selected entry. */
export function mergeEntry(): void {
  const found = selected();
  if (!found) return;
  const { line, entry } = found;
  const row = Object.entries(line.voice.chart?.[entry.tier] ?? {}).sort((a, b) => a[1].start - b[1].start);
  const before = row[row.findIndex(([id]) => id === entry.id) - 1];
  if (!before) {
    notify(false, "Nothing to merge with", "The first entry has none before it.");
    return;
  }
  void submit({ do: "merge-entry", voice: line.voice.id, tier: entry.tier, entry: entry.id }).then((done) => {
    if (done) pickOut({ entry: { tier: entry.tier, id: before[0] } });
  });
}

/** Let a sound begin at the frame that is heard, as when somebody taps along. */
export function tap(label: string, delay: number): void {
  const now = get();
  const line = linesOf(now).find((l) => l.placed.id === now.line);
  if (!line) return;
  const at = Math.max(0, (now.frame - (now.playing ? delay : 0)) / frameRate(now) - line.placed.at);
  void submit({ do: "put-entry", voice: line.voice.id, tier: "phones", entry: freshId(), at, called: label });
}
