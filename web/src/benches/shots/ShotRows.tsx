/** The rows of a shot on its frames: the camera, each of the cast with what it does when, and what is heard. */
import { useRef, useState } from "react";
import {
  channelsOf,
  frameRate,
  get,
  goTo,
  playedOf,
  set,
  submit,
  useWorkshop,
  type Line,
  type ShotKeyRef,
} from "../../session";
import { Waveform } from "../../ribbon/Waveform";
import { Playhead, Ruler } from "../../sheet/Ruler";
import { useTimeline, useZoomingWheel, type Timeline } from "../../sheet/timeline";
import { Edge, useHeight } from "../../ui/Edge";
import { usePull } from "../../ui/pull";
import type { CastOf, HeardSound, Shot } from "../../wire/types";
import { KINDS, ownerName } from "../../sheet/threads";
import { calledOf, keysOn, PLACE } from "./commands";
import { RowsBar } from "./RowsBar";
import { SpanBar } from "./SpanBar";

const RULER = 22;
export const ROW = 28;
const UPPER = 20;
/** Pixels down of a thread of keys. */
const THREAD = 20;

const most = () => Math.round(window.innerHeight * 0.55);

export function ShotRows({ shot }: { shot: Shot }) {
  const scroller = useRef<HTMLDivElement>(null);
  const time = useTimeline(shot.length ?? 72, scroller);
  const held = useHeight("shot-rows", 250, 140, most);
  useZoomingWheel(scroller, time);
  const front = [...(shot.order ?? [])].reverse();
  const rows = [...new Set(Object.values(shot.sounds ?? {}).map((s) => s.row ?? 0))].sort((a, b) => a - b);
  return (
    <section className="rows-cell" aria-label="Rows of the shot">
      <Edge label="Height of the rows" held={held} />
      <div className="shot-rows card-sheet" style={{ height: held.height }}>
        <RowsBar shot={shot} time={time} />
        <div className="timing-body" ref={scroller} tabIndex={-1}>
          <div className="timing-window shot-window">
            <div className="ruler-row" style={{ height: RULER }}>
              <div className="corner">front to back</div>
              <Ruler time={time} />
            </div>
            <CameraRow shot={shot} time={time} />
            {front.map((id, n) => (
              <CastRow key={id} shot={shot} cast={shot.cast![id]!} n={n} count={front.length} time={time} />
            ))}
            {rows.map((row) => (
              <SoundRow key={row} shot={shot} row={row} time={time} />
            ))}
            <Played shot={shot} time={time} />
            <Playhead time={time} top={0} />
          </div>
          <div style={{ width: 190 + time.width, height: 1 }} />
        </div>
      </div>
    </section>
  );
}

/** What of the shot does not play is shaded. */
function Played({ shot, time }: { shot: Shot; time: Timeline }) {
  const [first, stop] = playedOf(shot);
  const shade = (from: number, to: number) => {
    const [a, b] = [Math.max(0, from * time.step - time.scroll), to * time.step - time.scroll];
    return b > a ? <div className="unplayed" style={{ left: 190 + a, width: b - a }} /> : null;
  };
  return (
    <>
      {first > 0 && shade(0, first)}
      {stop < (shot.length ?? 72) && shade(stop, shot.length ?? 72)}
    </>
  );
}

function CameraRow({ shot, time }: { shot: Shot; time: Timeline }) {
  const chosen = useWorkshop((w) => w.picked?.kind === "camera");
  return (
    <div className={`shot-row${chosen ? " chosen" : ""}`} style={{ height: ROW }}>
      <button
        type="button"
        className="row-head"
        aria-pressed={chosen}
        onClick={() => set({ picked: { kind: "camera" }, shotKeys: [] })}
      >
        <i className="bi bi-camera-video" aria-hidden="true" />
        <span className="flex-grow-1 text-truncate">Camera</span>
        {shot.camera?.shake && <span className="faint small">shakes</span>}
      </button>
      <div className="lane" role="presentation" onPointerDown={() => set({ picked: { kind: "camera" }, shotKeys: [] })}>
        <Beads shot={shot} cast={null} time={time} middle={ROW / 2} />
      </div>
    </div>
  );
}

function CastRow({
  shot,
  cast,
  n,
  count,
  time,
}: {
  shot: Shot;
  cast: CastOf;
  n: number;
  count: number;
  time: Timeline;
}) {
  const chosen = useWorkshop(
    (w) =>
      (w.picked?.kind === "cast" && w.picked.id === cast.id) ||
      (w.picked?.kind === "span" && w.picked.cast === cast.id),
  );
  const spans = cast.kind === "member" ? Object.values(cast.spans ?? {}) : [];
  const highest = Math.max(0, ...spans.map((s) => s.row ?? 0));
  const keyed = Object.keys(channelsOf(shot, cast.id)).length > 0;
  const [opened, setOpened] = useState(false);
  const puppet = useWorkshop((w) => w.documents[cast.puppet]);
  const threads = opened ? Object.entries(channelsOf(shot, cast.id)) : [];
  const own = ROW + highest * UPPER + (keyed ? 8 : 0);
  const height = own + threads.length * THREAD;
  const pick = () => set({ picked: { kind: "cast", id: cast.id }, shotKeys: [] });
  const order = [...(shot.order ?? [])].reverse();
  /** Put it so many rows nearer to the front. */
  const move = (by: number) => {
    const others = order.filter((id) => id !== cast.id);
    const at = Math.max(0, Math.min(others.length, n + by));
    // Who stands right in front of it: rows go from front to back.
    void submit({ do: "order-cast", shot: shot.id, cast: cast.id, behind: others[at - 1] ?? null });
  };
  return (
    <div
      className={`shot-row${chosen ? " chosen" : ""}`}
      style={{ height }}
      onDragOver={(e) => e.dataTransfer.types.includes("text/x-cast") && e.preventDefault()}
      onDrop={(e) => {
        const dragged = e.dataTransfer.getData("text/x-cast");
        if (!dragged || dragged === cast.id) return;
        e.preventDefault();
        const others = order.filter((id) => id !== dragged);
        const from = order.indexOf(dragged);
        const at = others.indexOf(cast.id) + (from < n ? 1 : 0);
        void submit({ do: "order-cast", shot: shot.id, cast: dragged, behind: others[at - 1] ?? null });
      }}
    >
      <div
        className="row-head"
        style={{ height: own }}
        draggable
        onDragStart={(e) => e.dataTransfer.setData("text/x-cast", cast.id)}
      >
        <button
          type="button"
          className="eye"
          aria-label={`${cast.hidden ? "Show" : "Hide"} ${calledOf(cast)}`}
          onClick={() => void submit({ do: "set-cast", shot: shot.id, cast: cast.id, hidden: !cast.hidden })}
        >
          <i className={`bi bi-eye${cast.hidden ? "-slash" : ""}`} aria-hidden="true" />
        </button>
        <button
          type="button"
          className="name"
          aria-pressed={chosen}
          onClick={pick}
          onKeyDown={(e) => {
            if (!e.altKey || (e.key !== "ArrowUp" && e.key !== "ArrowDown")) return;
            e.preventDefault();
            e.stopPropagation();
            move(e.key === "ArrowUp" ? -1 : 1);
          }}
          title={`${calledOf(cast)}, ${n + 1} of ${count} from the front: drag, or Alt with the arrows, to put it nearer or farther`}
        >
          {calledOf(cast)}
        </button>
        {keyed && (
          <button
            type="button"
            className="eye"
            aria-label={`Threads of the keys of ${calledOf(cast)}`}
            aria-expanded={opened}
            onClick={() => setOpened(!opened)}
          >
            <i className={`bi bi-chevron-${opened ? "down" : "right"}`} aria-hidden="true" />
          </button>
        )}
        {cast.kind === "copies" && <span className="faint small">× {cast.count}</span>}
        {cast.kind === "member" && cast.travel && <i className="bi bi-signpost" title="Carried by its feet" />}
        {(cast.share ?? 100) !== 100 && <span className="faint small">{cast.share} %</span>}
      </div>
      <div className="lane" role="presentation" onPointerDown={pick}>
        {spans.map((span) => (
          <SpanBar
            key={span.id}
            cast={cast.id}
            span={span}
            time={time}
            top={(highest - (span.row ?? 0)) * UPPER + 3}
            height={(span.row ?? 0) === 0 ? ROW - 6 : UPPER - 3}
          />
        ))}
        {keyed && !opened && <Beads shot={shot} cast={cast.id} time={time} middle={own - 6} />}
        {threads.map(([id], i) => (
          <Beads key={id} shot={shot} cast={cast.id} channel={id} time={time} middle={own + (i + 0.5) * THREAD} />
        ))}
      </div>
      {threads.map(([id, c], i) => (
        <span key={id} className="thread-of text-truncate" style={{ top: own + i * THREAD, height: THREAD }}>
          {c.joint === PLACE || puppet?.kind !== "puppet" ? "Its place" : ownerName(puppet, c)}
          <span className="faint"> {KINDS[c.kind]}</span>
        </span>
      ))}
    </div>
  );
}

/** The keys of the camera, or of one of the cast: one bead for all that lie on a frame. */
function Beads({
  shot,
  cast,
  channel,
  time,
  middle,
}: {
  shot: Shot;
  cast: string | null;
  /** Only those of this channel, as a thread. */
  channel?: string;
  time: Timeline;
  middle: number;
}) {
  const chosen = useWorkshop((w) => w.shotKeys);
  const all = channelsOf(shot, cast);
  const channels = channel ? { [channel]: all[channel]! } : all;
  const frames = [...new Set(Object.values(channels).flatMap((c) => Object.keys(c.keys ?? {}).map(Number)))].sort(
    (a, b) => a - b,
  );
  return (
    <>
      {frames.map((f) => (
        <Bead
          key={f}
          shot={shot}
          keys={keysOn(shot, cast, f).filter((k) => !channel || k.channel === channel)}
          frame={f}
          time={time}
          middle={middle}
          chosen={chosen.some((k) => k.cast === cast && k.frame === f && (!channel || k.channel === channel))}
        />
      ))}
    </>
  );
}

function Bead({
  shot,
  keys,
  frame,
  time,
  middle,
  chosen,
}: {
  shot: Shot;
  keys: ShotKeyRef[];
  frame: number;
  time: Timeline;
  middle: number;
  chosen: boolean;
}) {
  const cast = keys[0]?.cast ?? null;
  const bead = useRef<HTMLButtonElement>(null);
  const choose = () => set({ shotKeys: keys, picked: cast === null ? { kind: "camera" } : { kind: "cast", id: cast } });
  const by = (e: { clientX: number }, from: number) => Math.round((e.clientX - from) / time.step);
  const move = (frames: number) => {
    if (!frames) return;
    void submit({ do: "move-shot-keys", shot: shot.id, keys, by: frames });
    set({ shotKeys: keys.map((k) => ({ ...k, frame: Math.max(0, k.frame + frames) })) });
  };
  const pull = usePull<HTMLButtonElement>((event) => {
    event.stopPropagation();
    const from = event.clientX;
    choose();
    const shift = (frames: number) => {
      if (bead.current) bead.current.style.transform = `translateX(${frames * time.step}px)`;
    };
    return {
      move: (e) => shift(by(e, from)),
      end: (e) => {
        shift(0);
        if (by(e, from)) move(by(e, from));
        else goTo(frame);
      },
      cancel: () => shift(0),
    };
  });
  const x = time.x(frame) - time.scroll;
  if (x < -8 || x > time.room + 8) return null;
  const held = keys.some((k) => channelsOf(shot, cast)[k.channel]?.keys?.[String(frame)]?.ease?.kind === "hold");
  const what = cast === null ? "Camera" : keys.every((k) => k.channel.startsWith(`${PLACE}.`)) ? "Place" : "Pose";
  return (
    <button
      ref={bead}
      type="button"
      className={`shot-bead${chosen ? " chosen" : ""}${held ? " held" : ""}`}
      style={{ left: x - 6, top: middle - 6 }}
      aria-label={`${what} key at frame ${frame + 1}`}
      aria-pressed={chosen}
      onKeyDown={(e) => {
        if (e.key === "Enter") {
          choose();
          goTo(frame);
        } else if (e.altKey && (e.key === "ArrowLeft" || e.key === "ArrowRight")) move(e.key === "ArrowLeft" ? -1 : 1);
        else return;
        e.preventDefault();
        e.stopPropagation();
      }}
      {...pull}
    />
  );
}

function SoundRow({ shot, row, time }: { shot: Shot; row: number; time: Timeline }) {
  const documents = useWorkshop((w) => w.documents);
  const picked = useWorkshop((w) => (w.picked?.kind === "sound" ? w.picked.id : null));
  const rate = frameRate({ documents });
  const sounds = Object.values(shot.sounds ?? {}).filter((s) => (s.row ?? 0) === row);
  const lines: Line[] = sounds.flatMap((placed) => {
    const voice = documents[placed.voice];
    return voice?.kind === "voice" ? [{ placed, voice }] : [];
  });
  return (
    <div className="shot-row sound" style={{ height: 34 }}>
      <div className="row-head">
        <i className="bi bi-volume-up" aria-hidden="true" />
        <span className="flex-grow-1 text-truncate">Sound {row + 1}</span>
      </div>
      <div className="lane">
        <Waveform lines={lines} chosen={picked} time={time} rate={rate} height={34} />
        {lines.map((l) => (
          <SoundBar key={l.placed.id} shot={shot} line={l} time={time} rate={rate} chosen={picked === l.placed.id} />
        ))}
      </div>
    </div>
  );
}

function SoundBar({
  shot,
  line,
  time,
  rate,
  chosen,
}: {
  shot: Shot;
  line: Line;
  time: Timeline;
  rate: number;
  chosen: boolean;
}) {
  const bar = useRef<HTMLButtonElement>(null);
  const placed = line.placed as HeardSound;
  const at = placed.at ?? 0;
  const put = (seconds: number) =>
    void submit({
      do: "place-heard",
      shot: shot.id,
      sound: { ...placed, at: Math.round(seconds * 1000) / 1000 },
    });
  const pull = usePull<HTMLButtonElement>((event) => {
    event.stopPropagation();
    const from = event.clientX;
    set({ picked: { kind: "sound", id: placed.id }, shotKeys: [] });
    const shift = (pixels: number) => {
      if (bar.current) bar.current.style.transform = `translateX(${pixels}px)`;
    };
    return {
      move: (e) => shift(e.clientX - from),
      end: (e) => {
        shift(0);
        const moved = e.clientX - from;
        if (Math.abs(moved) > 3) put(at + moved / time.step / rate);
      },
      cancel: () => shift(0),
    };
  });
  const seconds = line.voice.sound?.seconds ?? 0;
  return (
    <button
      ref={bar}
      type="button"
      className={`sound-bar${chosen ? " chosen" : ""}`}
      style={{ left: at * rate * time.step - time.scroll, width: Math.max(6, seconds * rate * time.step) }}
      aria-label={`${line.voice.name}, from ${at.toFixed(2)} seconds`}
      aria-pressed={chosen}
      onKeyDown={(e) => {
        if (!e.altKey || (e.key !== "ArrowLeft" && e.key !== "ArrowRight")) return;
        e.preventDefault();
        e.stopPropagation();
        put(at + (e.key === "ArrowLeft" ? -1 : 1) / rate);
      }}
      onClick={() => get().picked?.kind !== "sound" && set({ picked: { kind: "sound", id: placed.id } })}
      {...pull}
    >
      <span>{line.voice.name}</span>
    </button>
  );
}
