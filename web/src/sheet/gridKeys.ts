/**
 * The keyboard on the timing sheet (WAI-ARIA Authoring Practices 1.2, “Grid”): one tab stop, left and right from
 * key to key, up and down from thread to thread; with Shift what is passed is taken in, with Alt the selected
 * keys move by a frame. Enter shows its frame.
 */
import { get, goTo, type KeyRef, pickOut, turnTo } from "../session";
import type { Motion } from "../wire/types";
import { land } from "./keys";
import { keysOfRow, placeIn, type Row } from "./threads";

export interface Cursor {
  row: number;
  frame: number;
}

interface Props {
  motion: Motion;
  rows: Row[];
  cursor: Cursor | null;
  setCursor: (cursor: Cursor | null) => void;
}

const framesIn = (row: Row): readonly number[] => (row.kind === "thread" ? row.thread.frames : row.frames);

/** The keys at the cursor: of a limb those of all its threads. */
const keysAt = (rows: Row[], { row, frame }: Cursor): KeyRef[] =>
  rows[row] ? keysOfRow(rows[row]).filter((k) => k.frame === frame) : [];

/** The nearest key before or after a frame. */
function beside(frames: readonly number[], frame: number, way: 1 | -1): number | undefined {
  const at = placeIn(frames, frame);
  return way < 0 ? frames[at - 1] : frames[frames[at] === frame ? at + 1 : at];
}

export function useGridKeys({ motion, rows, cursor, setCursor }: Props) {
  const go = (next: Cursor, extend: boolean): void => {
    setCursor(next);
    const row = rows[next.row];
    // On the row of a foot the plant that begins here is taken up.
    if (row?.kind === "foot")
      pickOut({ joint: row.joint, plant: row.plants.find((p) => p.start === next.frame)?.id ?? null });
    const found = keysAt(rows, next);
    const kept = extend ? get().keys.filter((k) => !found.some((f) => same(f, k))) : [];
    turnTo({ keys: [...kept, ...found], poses: [], frame: next.frame, playing: false });
  };
  const move = (by: number): void => {
    const { keys } = get();
    if (!keys.length) return;
    void land({ do: "move-keys", motion: motion.id, keys, by });
    if (cursor) setCursor({ ...cursor, frame: Math.max(0, Math.min(motion.length - 1, cursor.frame + by)) });
  };
  return {
    onFocus: () => {
      if (cursor || !rows.length) return;
      const frames = framesIn(rows[0]!);
      setCursor({ row: 0, frame: frames[0] ?? 0 });
    },
    onBlur: () => setCursor(null),
    onKeyDown: (event: React.KeyboardEvent) => {
      const here = cursor ?? { row: 0, frame: get().frame };
      const row = rows[here.row];
      if (!row) return;
      const acts: Record<string, () => void> = {
        ArrowLeft: () => {
          const found = beside(framesIn(row), here.frame, -1);
          if (event.altKey) move(-1);
          else if (found !== undefined) go({ ...here, frame: found }, event.shiftKey);
        },
        ArrowRight: () => {
          const found = beside(framesIn(row), here.frame, 1);
          if (event.altKey) move(1);
          else if (found !== undefined) go({ ...here, frame: found }, event.shiftKey);
        },
        ArrowUp: () => here.row > 0 && go({ ...here, row: here.row - 1 }, event.shiftKey),
        ArrowDown: () => here.row < rows.length - 1 && go({ ...here, row: here.row + 1 }, event.shiftKey),
        Home: () => go({ ...here, frame: framesIn(row)[0] ?? 0 }, event.shiftKey),
        End: () => go({ ...here, frame: framesIn(row).at(-1) ?? 0 }, event.shiftKey),
        Enter: () => goTo(here.frame),
      };
      const act = event.ctrlKey || event.metaKey ? undefined : acts[event.key];
      if (!act) return;
      event.preventDefault();
      event.stopPropagation();
      act();
    },
  };
}

const same = (a: KeyRef, b: KeyRef) => a.channel === b.channel && a.frame === b.frame;
