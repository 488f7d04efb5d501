/** The ribbon: sound, words, sounds, mouths, blinks and accents of a motion's lines, all on the same frames. */
import { useShown } from "../ui/shown";
import { useRef, useState } from "react";
import {
  frameRate,
  get,
  goTo,
  keep,
  kept,
  submit,
  useLine,
  useWorkshop,
  linesOf,
  type Line,
  pickOut,
  see,
} from "../session";
import { Playhead, Ruler } from "../sheet/Ruler";
import { NAMES, useTimeline, useZoomingWheel, type Timeline } from "../sheet/timeline";
import { SpeedMenu, Transport, ZoomButtons } from "../sheet/Transport";
import { Button } from "react-bootstrap";
import { bring, SOUNDS } from "../parts/sounds";
import { IconButton } from "../ui/bits";
import { usePull } from "../ui/pull";
import type { Exposed, Motion, Puppet } from "../wire/types";
import { FaceRow, MouthRow } from "./MouthRow";
import { mergeEntry, splitEntry } from "./entries";
import { Tier } from "./Tier";
import { Waveform } from "./Waveform";
import { px } from "../ui/text";

const RULER = px(22);
const WAVE = px(64);
const MOUTHS = px(38);
const FACE = px(18);

export function Ribbon({ puppet, motion, exposed }: { puppet: Puppet; motion: Motion; exposed: Exposed | undefined }) {
  const scroller = useRef<HTMLDivElement>(null);
  const time = useTimeline(motion.length, scroller);
  const documents = useWorkshop((w) => w.documents);
  const line = useLine();
  const lines = linesOf({ documents, motion: motion.id });
  const rate = frameRate({ documents });
  const [snap, setSnap] = useState(() => kept("voice-snap") === "yes");
  useZoomingWheel(scroller, time);
  /** Sounds begin where they are dropped. */
  const drop = (event: React.DragEvent) => {
    if (!event.dataTransfer.files.length) return;
    event.preventDefault();
    event.stopPropagation();
    const x = event.clientX - scroller.current!.getBoundingClientRect().left - NAMES + time.scroll;
    void bring([...event.dataTransfer.files], motion.id, time.frameAt(x));
  };
  return (
    <div className="ribbon-panel card-sheet">
      <RibbonBar
        motion={motion}
        line={line}
        time={time}
        snap={snap}
        setSnap={(on) => {
          keep("voice-snap", on ? "yes" : "no");
          setSnap(on);
        }}
      />
      <div className="timing-body ribbon-body" ref={scroller} tabIndex={-1} onDrop={drop}>
        <div className="timing-window" style={{ height: RULER + WAVE + 26 + 26 + MOUTHS + FACE }}>
          <div className="ruler-row" style={{ height: RULER }}>
            <div className="corner">{line ? line.voice.name : "no line"}</div>
            <Ruler time={time} />
          </div>
          <Named name="Sound" height={WAVE}>
            <Waveform lines={lines} chosen={line?.placed.id ?? null} time={time} rate={rate} height={WAVE} />
            {lines.map((l) => (
              <Grip key={l.placed.id} line={l} time={time} rate={rate} height={WAVE} motion={motion} />
            ))}
          </Named>
          <Named name="Words" height={26}>
            {lines.map((l) => (
              <Tier key={l.placed.id} line={l} tier="words" time={time} rate={rate} snap={snap} />
            ))}
          </Named>
          <Named name="Sounds" height={26}>
            {lines.map((l) => (
              <Tier key={l.placed.id} line={l} tier="phones" time={time} rate={rate} snap={snap} />
            ))}
          </Named>
          <Named name="Mouths" height={MOUTHS}>
            {puppet.mouths && (
              <MouthRow
                puppet={puppet}
                motion={motion}
                chart={puppet.mouths}
                exposed={exposed}
                time={time}
                height={MOUTHS}
              />
            )}
          </Named>
          <Named name="Blinks, accents" height={FACE}>
            <FaceRow motion={motion} exposed={exposed} time={time} rate={rate} height={FACE} />
          </Named>
          {lines.length === 0 && <Empty motion={motion.id} />}
          <RangeShade time={time} />
          <Playhead time={time} top={0} />
        </div>
        <div className="track" style={{ width: NAMES + time.width }} />
      </div>
    </div>
  );
}

/** What the ribbon says while nobody speaks. */
function Empty({ motion }: { motion: string }) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <div className="ribbon-empty">
      <span className="faint">Nobody speaks here yet. Drop a recording on the ribbon, or</span>
      <Button size="sm" onClick={() => input.current?.click()}>
        Bring in a recording…
      </Button>
      <input
        ref={input}
        type="file"
        accept={SOUNDS}
        multiple
        hidden
        aria-label="Recordings"
        onChange={(e) => {
          if (e.target.files?.length) void bring([...e.target.files], motion);
          e.target.value = "";
        }}
      />
    </div>
  );
}

function Named({ name, height, children }: { name: string; height: number; children: React.ReactNode }) {
  return (
    <div className="ribbon-row" style={{ height }}>
      <div className="corner">{name}</div>
      <div className="lane">{children}</div>
    </div>
  );
}

/** The line as a whole: dragged to when it is to begin, and chosen by a click. */
function Grip({
  line,
  time,
  rate,
  height,
  motion,
}: {
  line: Line;
  time: Timeline;
  rate: number;
  height: number;
  motion: Motion;
}) {
  const chosen = useWorkshop((w) => w.line === line.placed.id);
  const { shown: by, show, settle } = useShown(0, line.placed);
  const at = line.placed.at;
  const pull = usePull<HTMLDivElement>((event) => {
    const begin = event.clientX;
    pickOut({ line: line.placed.id });
    return {
      move: (e) => show(Math.abs(e.clientX - begin) > 3 ? e.clientX - begin : 0),
      end: (e) => {
        const moved = e.clientX - begin;
        const later = moved / time.step / rate;
        const put = () => submit({ do: "nudge-sound", motion: motion.id, sound: line.placed.id, by: later });
        settle(Math.abs(moved) > 3 ? put() : null);
        if (Math.abs(moved) <= 3) {
          const lane = (e.target as HTMLElement).closest(".lane")?.getBoundingClientRect();
          if (lane) goTo(time.frameAt(e.clientX - lane.left + time.scroll));
        }
      },
      cancel: () => settle(),
    };
  });
  const x = at * rate * time.step - time.scroll + by;
  const seconds = line.voice.sound?.seconds ?? 0;
  if (!seconds) return null;
  return (
    <div
      className={`grip${chosen ? " chosen" : ""}`}
      style={{ left: x, width: seconds * rate * time.step, height }}
      title={`${line.voice.name}: drag to when it begins (now ${at.toFixed(3)} s)`}
      role="presentation"
      {...pull}
    >
      <span>{line.voice.name}</span>
    </div>
  );
}

function RangeShade({ time }: { time: Timeline }) {
  const range = useWorkshop((w) => w.range);
  if (!range) return null;
  const [a, b] = range.map((f) => f * time.step - time.scroll) as [number, number];
  return (
    <div className="range-shade" style={{ left: NAMES + Math.max(0, a), width: Math.max(0, b - Math.max(0, a)) }} />
  );
}

function RibbonBar({
  motion,
  line,
  time,
  snap,
  setSnap,
}: {
  motion: Motion;
  line: Line | undefined;
  time: Timeline;
  snap: boolean;
  setSnap: (on: boolean) => void;
}) {
  const range = useWorkshop((w) => w.range);
  const entry = useWorkshop((w) => w.entry);
  return (
    <div className="sheet-bar">
      <Transport length={motion.length} />
      <SpeedMenu />
      <IconButton
        icon="arrow-left-right"
        label={range ? "Play the whole motion again" : "Play only what is selected, round and round"}
        keys="q"
        pressed={range !== null}
        disabled={!range && !entry}
        onClick={() => toggleRange()}
      />
      <span className="divider" />
      <IconButton
        icon="magnet"
        label="Boundaries snap to frames"
        text="Snap"
        pressed={snap}
        onClick={() => setSnap(!snap)}
      />
      <IconButton
        icon="scissors"
        label="Split the selected word or sound at the frame that shows"
        keys="/"
        disabled={!entry || !line}
        onClick={() => splitEntry()}
      />
      <IconButton
        icon="union"
        label="Merge the selected word or sound with the one before"
        keys="Backspace"
        disabled={!entry || !line}
        onClick={() => mergeEntry()}
      />
      <span className="flex-grow-1" />
      <ZoomButtons time={time} />
    </div>
  );
}

/** Play what is selected round and round, or the whole motion again. */
export function toggleRange(): void {
  const now = get();
  if (now.range) {
    see({ range: null });
    return;
  }
  const line = linesOf(now).find((l) => l.placed.id === now.line);
  const { entry } = now;
  if (!line || !entry) return;
  const rate = frameRate(now);
  const entries = Object.entries(line.voice.chart?.[entry.tier] ?? {}).sort((a, b) => a[1].start - b[1].start);
  const n = entries.findIndex(([id]) => id === entry.id);
  const at = line.placed.at;
  const end = entries[n + 1]?.[1].start ?? line.voice.sound?.seconds ?? 0;
  const length = now.plan?.frames ?? 1;
  const first = Math.max(0, Math.floor((at + entries[n]![1].start) * rate));
  const last = Math.min(length, Math.max(first + 2, Math.ceil((at + end) * rate)));
  if (last > first) see({ range: [Math.min(first, last - 1), last] });
}
