/**
 * The timing sheet: a thread for every channel, a bead for every key, and ticks where the in-betweens really
 * fall. It is one canvas, with a grid behind it for the keyboard and for those who can't see it.
 */
import { useShown } from "../ui/shown";
import { useLayoutEffect, useMemo, useRef, useState } from "react";
import { useShallow } from "zustand/react/shallow";
import { distance } from "../geometry";
import { get, goTo, useWorkshop, type KeyRef, pickOut } from "../session";
import { usePull, type Pull } from "../ui/pull";
import type { Motion, Puppet } from "../wire/types";
import { useTheme } from "../ui/tokens";
import { drawSheet, inkOf, ROW } from "./draw";
import { pullFoot, type Pulled } from "./feet";
import { useGridKeys, type Cursor } from "./gridKeys";
import { land } from "./keys";
import { Names } from "./Names";
import { byChannel, keysIn, keysOfRow, KINDS, placeIn, union, type Row } from "./threads";
import type { Timeline } from "./timeline";

/** Pixels a hand may stray and still only click, and that a bead is wide to it. */
const SLACK = 3;
const REACH = 8;

const same = (a: KeyRef, b: KeyRef) => a.channel === b.channel && a.frame === b.frame;

interface Props {
  puppet: Puppet;
  motion: Motion;
  rows: Row[];
  time: Timeline;
  top: number;
  height: number;
  fold: (limb: string) => void;
}

export function TimingSheet({ puppet, motion, rows, time, top, height, fold }: Props) {
  const { spacing, keys, joints, plant, report } = useWorkshop(
    useShallow((w) => ({ spacing: w.spacing, keys: w.keys, joints: w.joints, plant: w.plant, report: w.report })),
  );
  const { shown: pulled, ...foot } = useShown<Pulled | null>(null, motion);
  const canvas = useRef<HTMLCanvasElement>(null);
  const area = useRef<HTMLDivElement>(null);
  const box = useRef<HTMLDivElement>(null);
  const { shown: by, show: showBy, settle: settleBy } = useShown(0, motion);
  const [cursor, setCursor] = useState<Cursor | null>(null);
  const theme = useTheme();
  const ink = useMemo(() => inkOf(theme), [theme]);
  const selected = useMemo(() => byChannel(keys), [keys]);
  const poses = useMemo(() => Object.keys(motion.poses ?? {}).map(Number), [motion.poses]);

  useLayoutEffect(() => {
    const element = canvas.current;
    if (!element || time.room < 2 || height < 2) return;
    const ratio = window.devicePixelRatio || 1;
    const [w, h] = [Math.round(time.room * ratio), Math.round(height * ratio)];
    if (element.width !== w || element.height !== h) [element.width, element.height] = [w, h];
    const c = element.getContext("2d")!;
    c.setTransform(ratio, 0, 0, ratio, 0, 0);
    const cycle = motion.cycle;
    const lit = joints;
    const ground = {
      feet: report?.feet ?? {},
      slides: report?.slides ?? 0,
      plant,
      pulled,
      tangles: report?.tangles ?? {},
    };
    drawSheet(c, ink, { rows, time, top, height, spacing, selected, by, lit, cycle, poses, cursor, ...ground });
  }, [ink, rows, time, top, height, spacing, selected, by, joints, motion, poses, cursor, report, plant, pulled]);

  const place = (event: { clientX: number; clientY: number }): [number, number] => {
    const around = area.current!.getBoundingClientRect();
    return [event.clientX - around.left + time.scroll, event.clientY - around.top + top];
  };
  const pull = usePull<HTMLDivElement>((event) => {
    const at = place(event);
    const add = event.shiftKey || event.ctrlKey || event.metaKey;
    const row = rows[Math.floor(at[1] / ROW)];
    if (row?.kind === "foot") return pullFoot(row, motion, time, at[0], (e) => place(e)[0], foot);
    const frame = row && nearest(row, at[0], time);
    if (row && frame !== null && frame !== undefined) {
      if (row.kind === "limb") return row.folded ? pullLimb(row, frame, add) : null;
      return pullBeads(at, { channel: row.thread.id, frame }, add);
    }
    return pullBox(at, add);
  });

  const pullLimb = (row: Row, frame: number, add: boolean): Pull => {
    const found = keysOfRow(row).filter((k) => k.frame === frame);
    pickOut({ keys: add ? union(keys, found) : found, poses: [] });
    goTo(frame);
    return {};
  };
  const pullBeads = ([px]: [number, number], ref: KeyRef, add: boolean): Pull => {
    const held = selected.get(ref.channel)?.has(ref.frame) ?? false;
    if (add) pickOut({ keys: held ? keys.filter((k) => !same(k, ref)) : [...keys, ref], poses: [] });
    else if (!held) pickOut({ keys: [ref], poses: [] });
    let moved: number | null = null;
    return {
      move(event) {
        const [x] = place(event);
        if (moved === null && Math.abs(x - px) <= SLACK) return;
        moved = Math.round((x - px) / time.step);
        showBy(moved);
      },
      end() {
        settleBy(moved ? land({ do: "move-keys", motion: motion.id, keys: get().keys, by: moved }) : null);
        if (moved !== null || add) return;
        pickOut({ keys: [ref], poses: [] });
        goTo(ref.frame);
      },
      cancel: () => settleBy(),
    };
  };
  const pullBox = (from: [number, number], add: boolean): Pull => {
    let to: [number, number] | null = null;
    return {
      move(event) {
        const at = place(event);
        if (!to && distance(at, from) <= SLACK) return;
        to = at;
        showBox(box.current, from, to, time.scroll, top);
      },
      end() {
        showBox(box.current, null, null, 0, 0);
        if (to) {
          const [t, b] = [Math.min(from[1], to[1]), Math.max(from[1], to[1])];
          const [l, r] = [Math.min(from[0], to[0]), Math.max(from[0], to[0])];
          const middle = (y: number) => (y - ROW / 2) / ROW;
          const [first, last] = [Math.ceil(middle(t - 6)), Math.floor(middle(b + 6))];
          const found = keysIn(rows, first, last, Math.ceil(l / time.step - 0.5), Math.floor(r / time.step - 0.5));
          pickOut({ keys: add ? union(keys, found) : found, poses: [] });
          return;
        }
        if (!add) pickOut({ keys: [], poses: [] });
        goTo(time.frameAt(from[0]));
      },
      cancel: () => showBox(box.current, null, null, 0, 0),
    };
  };

  const grid = useGridKeys({ motion, rows, cursor, setCursor });
  return (
    <>
      <Names puppet={puppet} rows={rows} top={top} height={height} lit={joints} fold={fold} />
      <div
        ref={area}
        className="threads"
        role="grid"
        tabIndex={0}
        aria-label="Keys by frame"
        aria-rowcount={rows.length}
        aria-colcount={motion.length}
        aria-multiselectable
        data-step={time.step}
        data-scroll={time.scroll}
        aria-activedescendant={cursor ? "sheet-cell" : undefined}
        {...pull}
        {...grid}
      >
        <canvas ref={canvas} aria-hidden="true" />
        <div ref={box} className="box" hidden />
        <CursorCell rows={rows} cursor={cursor} selected={selected} />
      </div>
      {!rows.length && (
        <p className="hint no-keys">No keys yet. Go to a frame and pull a piece on the stage: that keys it here.</p>
      )}
    </>
  );
}

/** The frame of the row's key that is under a place across, if one is. */
function nearest(row: Row, x: number, time: Timeline): number | null {
  const frames = row.kind === "thread" ? row.thread.frames : row.frames;
  const at = x / time.step - 0.5;
  const i = placeIn(frames, at);
  const found = [frames[i - 1], frames[i]]
    .filter((f) => f !== undefined)
    .sort((a, b) => Math.abs(a - at) - Math.abs(b - at))[0];
  return found !== undefined && Math.abs(found - at) * time.step <= REACH ? found : null;
}

function showBox(
  element: HTMLDivElement | null,
  from: [number, number] | null,
  to: [number, number] | null,
  scroll: number,
  top: number,
): void {
  if (!element) return;
  element.hidden = !from || !to;
  if (!from || !to) return;
  const { style } = element;
  style.left = `${Math.min(from[0], to[0]) - scroll}px`;
  style.top = `${Math.min(from[1], to[1]) - top}px`;
  style.width = `${Math.abs(from[0] - to[0])}px`;
  style.height = `${Math.abs(from[1] - to[1])}px`;
}

/** The one cell of the grid that is there: the one that the keyboard is on, in words. */
function CursorCell({
  rows,
  cursor,
  selected,
}: {
  rows: Row[];
  cursor: Cursor | null;
  selected: ReadonlyMap<string, ReadonlySet<number>>;
}) {
  const row = cursor ? rows[cursor.row] : undefined;
  if (!cursor || !row) return null;
  let words =
    row.kind === "limb"
      ? row.limb
      : row.kind === "foot"
        ? `${row.name} on the ground`
        : `${row.thread.name}, ${KINDS[row.thread.channel.kind]}`;
  words += `, frame ${cursor.frame + 1}`;
  const key = row.kind === "thread" ? row.thread.channel.keys?.[String(cursor.frame)] : undefined;
  if (key) words += `: ${key.value.map((v) => Number(v.toFixed(2))).join(" and ")}, ${key.ease?.kind}`;
  else words += row.kind === "thread" ? ": no key" : "";
  const on = row.kind === "thread" && (selected.get(row.thread.id)?.has(cursor.frame) ?? false);
  return (
    <div role="row" aria-rowindex={cursor.row + 1} className="visually-hidden">
      <div role="gridcell" id="sheet-cell" aria-colindex={cursor.frame + 1} aria-selected={on}>
        {words}
      </div>
    </div>
  );
}
