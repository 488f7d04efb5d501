/** The bottom of the Motion bench: what plays, the pose strip, and the timing sheet, on the same frames. */
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { get, keep, keptFields, useWorkshop, pickOut } from "../../session";
import { EditMenu } from "../../sheet/EditMenu";
import { Playhead, Ruler } from "../../sheet/Ruler";
import { ROW, RULER } from "../../sheet/draw";
import { feetOf } from "../../sheet/feet";
import { keysOfRow, rowsOf, threadsOf, type Row } from "../../sheet/threads";
import { NAMES, useTimeline, useZoomingWheel } from "../../sheet/timeline";
import { TimingSheet } from "../../sheet/TimingSheet";
import { Transport, ZoomButtons } from "../../sheet/Transport";
import { PoseStrip, STRIP } from "../../strip/PoseStrip";
import { StripHead } from "../../strip/StripHead";
import { Edge, useExtent } from "../../ui/Edge";
import { IconButton } from "../../ui/bits";
import { useShortcuts, type Shortcut } from "../../ui/shortcuts";
import type { Motion, Puppet } from "../../wire/types";

/** Pixels that the stage with its bar, the top and the edge keep for themselves, whatever the panel wants. */
const KEPT = 52 + 8 + 44 + 366 + 12;
const BAR = 39;
const most = () => Math.max(BAR + 40, window.innerHeight - KEPT);

/** Of how many rows there is room until the panel is set by hand: few rows leave the room to the stage, which does not
 * shrink with each that is added. */
const roomFor = (rows: number): number => (rows === 0 ? 2 : rows <= 4 ? 4 : 6.4);

/** Open the timing chart of a pose. */
const chart = (frame: number) => pickOut({ poses: [frame], keys: [] });

export function Timing({ puppet, motion }: { puppet: Puppet; motion: Motion }) {
  const [open, setOpen] = useKept<Open>("timing", { strip: true, sheet: true });
  const [look, setLook] = useKept<Look>("sheet", { sort: "figure", filter: false, follow: true });
  const scroller = useRef<HTMLDivElement>(null);
  const time = useTimeline(motion.length, scroller);
  useZoomingWheel(scroller, time);
  const { rows, fold } = useRows(puppet, motion, look.sort, look.filter);
  const [top, setTop] = useState(0);
  const above = (open.strip ? STRIP : 0) + RULER;
  const held = useExtent("height-timing", BAR + above + roomFor(rows.length) * ROW, BAR + 64, most);
  const height = open.sheet ? Math.max(0, time.tall - above) : 0;
  const panel = open.sheet ? held.size : BAR + above + 4;

  return (
    <>
      {open.sheet && <Edge label="Height of the timing panel" held={held} />}
      <div className="timing card-sheet" style={{ height: panel }}>
        <SheetBar puppet={puppet} motion={motion} open={open} setOpen={setOpen} look={look} setLook={setLook}>
          <ZoomButtons time={time} />
        </SheetBar>
        <div className="timing-body" ref={scroller} tabIndex={-1} onScroll={(e) => setTop(e.currentTarget.scrollTop)}>
          <div className="timing-window" style={{ height: time.tall }}>
            {open.strip && (
              <div className="strip-row" style={{ height: STRIP }}>
                <StripHead motion={motion} follow={look.follow} setFollow={(follow) => setLook({ ...look, follow })} />
                <PoseStrip motion={motion} time={time} follow={look.follow} chart={chart} />
              </div>
            )}
            <div className="ruler-row" style={{ height: RULER }}>
              <div className="corner">{open.sheet ? said(rows) : ""}</div>
              <Ruler time={time} />
            </div>
            {open.sheet && (
              <div className="sheet-row" style={{ height: height }}>
                <TimingSheet
                  puppet={puppet}
                  motion={motion}
                  rows={rows}
                  time={time}
                  top={top}
                  height={height}
                  fold={fold}
                />
              </div>
            )}
            <Playhead time={time} top={open.strip ? STRIP : 0} />
          </div>
          <div
            style={{
              width: NAMES + time.width,
              height: open.sheet ? Math.max(1, rows.length * ROW + 4 - height) : 1,
            }}
          />
        </div>
      </div>
    </>
  );
}

interface Open {
  strip: boolean;
  sheet: boolean;
}

interface Look {
  sort: "figure" | "keys";
  filter: boolean;
  follow: boolean;
}

interface BarProps {
  puppet: Puppet;
  motion: Motion;
  open: Open;
  setOpen: (next: Open) => void;
  look: Look;
  setLook: (next: Look) => void;
  children: React.ReactNode;
}

/** What plays, what is done with keys, and what of the timing is shown. */
function SheetBar({ puppet, motion, open, setOpen, look, setLook, children }: BarProps) {
  return (
    <div className="sheet-bar">
      <Transport length={motion.length} cards />
      <span className="divider" />
      <EditMenu puppet={puppet} motion={motion} />
      <span className="flex-grow-1" />
      <IconButton
        icon="card-image"
        label="Show the pose strip"
        text="Poses"
        pressed={open.strip}
        onClick={() => setOpen({ ...open, strip: !open.strip })}
      />
      <IconButton
        icon="list-nested"
        label="Show the timing sheet"
        text="Threads"
        pressed={open.sheet}
        onClick={() => setOpen({ ...open, sheet: !open.sheet })}
      />
      <span className="divider" />
      <IconButton
        icon="funnel"
        label="Only the threads of what is selected"
        pressed={look.filter}
        onClick={() => setLook({ ...look, filter: !look.filter })}
      />
      <IconButton
        icon="sort-down"
        label="What has the most keys first"
        pressed={look.sort === "keys"}
        onClick={() => setLook({ ...look, sort: look.sort === "keys" ? "figure" : "keys" })}
      />
      {children}
    </div>
  );
}

const said = (rows: Row[]): string => {
  const threads = rows.reduce((n, r) => n + (r.kind === "limb" ? r.threads.length : 0), 0);
  return `${threads} ${threads === 1 ? "thread" : "threads"}`;
};

/** The rows of the sheet; keys of threads that are folded or filtered away are not selected any more. */
function useRows(puppet: Puppet, motion: Motion, sort: "figure" | "keys", filter: boolean) {
  const limbs = useWorkshop((w) => w.plan?.limbs);
  const joints = useWorkshop((w) => w.plan?.joints);
  const taken = useWorkshop((w) => w.joints);
  const pieces = useWorkshop((w) => w.pieces);
  const report = useWorkshop((w) => w.report);
  const [folded, setFolded] = useState<ReadonlySet<string>>(new Set());
  const threads = useMemo(() => threadsOf(puppet, motion, joints ?? [], limbs ?? {}), [puppet, motion, joints, limbs]);
  const only = useMemo(() => {
    if (!filter || (!taken.length && !pieces.length)) return null;
    const mine = new Set(taken.flatMap((id) => limbs?.[id] ?? []));
    const near = Object.keys(limbs ?? {}).filter((id) => mine.has(limbs![id]!));
    return new Set([...taken, ...pieces, ...near]);
  }, [filter, taken, pieces, limbs]);
  const feet = useMemo(() => feetOf(puppet, motion, report, limbs ?? {}), [puppet, motion, report, limbs]);
  const rows = useMemo(() => rowsOf(threads, { folded, sort, only }, feet), [threads, folded, sort, only, feet]);
  useEffect(() => {
    const shown = new Set(rows.flatMap((r) => (r.kind === "thread" ? [r.thread.id] : [])));
    const { keys } = get();
    const left = keys.filter((k) => shown.has(k.channel));
    if (left.length < keys.length) pickOut({ keys: left });
  }, [rows]);
  const selecting = useMemo<Shortcut[]>(
    () => [
      {
        keys: ["Ctrl+a"],
        does: "Select all keys on the sheet",
        run: () => pickOut({ keys: rows.flatMap((r) => (r.kind === "thread" ? keysOfRow(r) : [])), poses: [] }),
      },
    ],
    [rows],
  );
  useShortcuts(selecting);
  const fold = useCallback(
    (limb: string) =>
      setFolded((before) => {
        const next = new Set(before);
        if (!next.delete(limb)) next.add(limb);
        return next;
      }),
    [],
  );
  return { rows, fold };
}

/** Settings of the bench that the browser keeps. */
function useKept<T extends object>(name: string, start: T): [T, (next: T) => void] {
  const [value, setValue] = useState<T>(() => keptFields(name, start));
  return [
    value,
    (next) => {
      keep(name, JSON.stringify(next));
      setValue(next);
    },
  ];
}
