/**
 * The timing sheet: a thread for every channel, a bead for every key (round when the way to the
 * next is drawn in between, square with a bar when it is held), and ticks where the in-betweens
 * really fall, so that crowding at a key looks like easing.
 */
import { useEffect, useMemo, useRef, useState } from "react";
import { useShallow } from "zustand/react/shallow";
import { distance } from "../geometry";
import { ROOT, type Channel, type Motion, type Puppet } from "../wire/types";
import { IconButton, SideMark } from "../ui/bits";
import { usePull, type Pull } from "../ui/pull";
import { treeRows } from "../parts/JointTree";
import { get, goTo, made, notify, set, submit, toggle, toKey, useWorkshop, type KeyRef } from "../session";

const ROW = 26;

/** Pixels a hand may stray and still only click. */
const SLACK = 3;

interface Box {
  x0: number;
  y0: number;
  x1: number;
  y1: number;
}

interface Thread {
  id: string;
  channel: Channel;
  name: string;
}

export const KINDS = {
  turn: "turn",
  move: "move",
  scale: "size",
  show: "drawing",
  reach: "reach",
  dial: "dial",
} as const;

/** What the owner of a channel is called. */
export function ownerName(puppet: Puppet, { joint, kind }: { joint: string; kind: Channel["kind"] }): string {
  if (joint === ROOT) return "Whole puppet";
  const owners = {
    show: puppet.pieces,
    reach: puppet.chains,
    dial: puppet.dials,
    turn: puppet.joints,
    move: puppet.joints,
    scale: puppet.joints,
  }[kind];
  return owners?.[joint]?.name ?? "?";
}

export function threadsOf(puppet: Puppet, motion: Motion): Thread[] {
  const order = [ROOT, ...treeRows(puppet).map((r) => r.joint.id)];
  const kinds = ["dial", "show", "reach", "move", "turn", "scale"];
  return Object.entries(motion.channels ?? {})
    .map(([id, channel]) => ({ id, channel, name: ownerName(puppet, channel) }))
    .sort(
      (a, b) =>
        order.indexOf(a.channel.joint) - order.indexOf(b.channel.joint) ||
        kinds.indexOf(a.channel.kind) - kinds.indexOf(b.channel.kind),
    );
}

const same = (a: KeyRef, b: KeyRef) => a.channel === b.channel && a.frame === b.frame;

export function TimingSheet({ puppet, motion, bar }: { puppet: Puppet; motion: Motion; bar?: React.ReactNode }) {
  const { spacing, keys, joint, loop, playing } = useWorkshop(
    useShallow((w) => ({ spacing: w.spacing, keys: w.keys, joint: w.joint, loop: w.loop, playing: w.playing })),
  );
  const threads = useMemo(() => threadsOf(puppet, motion), [puppet, motion]);
  const length = motion.length ?? 48;
  const body = useRef<HTMLDivElement>(null);
  const [room, setRoom] = useState(800);
  const [zoom, setZoom] = useState(1);
  useEffect(() => {
    const observer = new ResizeObserver(() => setRoom((body.current?.clientWidth ?? 1000) - 190));
    observer.observe(body.current!);
    return () => observer.disconnect();
  }, []);
  const step = Math.max(3, (room / (length + 0.5)) * zoom);
  const width = step * length;
  const x = (frame: number) => (frame + 0.5) * step;

  const [dragging, setDragging] = useState<{ by: number } | null>(null);
  const [box, setBox] = useState<Box | null>(null);
  const area = useRef<SVGSVGElement>(null);
  const place = (event: React.PointerEvent): [number, number] => {
    const around = area.current!.getBoundingClientRect();
    return [event.clientX - around.left, event.clientY - around.top];
  };
  const pullBeads = ([px]: [number, number], ref: KeyRef, add: boolean): Pull => {
    const held = keys.some((k) => same(k, ref));
    if (add) set({ keys: held ? keys.filter((k) => !same(k, ref)) : [...keys, ref] });
    else if (!held) set({ keys: [ref] });
    let by: number | null = null;
    return {
      move(event) {
        const [x] = place(event);
        if (by === null && Math.abs(x - px) <= SLACK) return;
        by = Math.round((x - px) / step);
        setDragging({ by });
      },
      end() {
        setDragging(null);
        if (by) void moveKeys(motion, by);
        if (by !== null || add) return;
        set({ keys: [ref] });
        goTo(ref.frame);
      },
      cancel: () => setDragging(null),
    };
  };
  const pullBox = ([px, py]: [number, number], add: boolean): Pull => {
    let drawn: Box | null = null;
    return {
      move(event) {
        const [x1, y1] = place(event);
        if (!drawn && distance([x1, y1], [px, py]) <= SLACK) return;
        drawn = { x0: px, y0: py, x1, y1 };
        setBox(drawn);
      },
      end() {
        setBox(null);
        if (drawn) {
          const found = keysIn(drawn);
          set({ keys: add ? [...keys, ...found.filter((f) => !keys.some((k) => same(k, f)))] : found });
          return;
        }
        if (!add) set({ keys: [] });
        goTo(Math.floor(px / step));
      },
      cancel: () => setBox(null),
    };
  };
  const keysIn = (box: Box): KeyRef[] => {
    const [l, r] = [Math.min(box.x0, box.x1), Math.max(box.x0, box.x1)];
    const [t, b] = [Math.min(box.y0, box.y1), Math.max(box.y0, box.y1)];
    return threads.flatMap((thread, row) => {
      const y = row * ROW + ROW / 2;
      if (y < t - 6 || y > b + 6) return [];
      return Object.keys(thread.channel.keys ?? {})
        .map(Number)
        .filter((f) => x(f) >= l && x(f) <= r)
        .map((frame) => ({ channel: thread.id, frame }));
    });
  };
  const pull = usePull<SVGSVGElement>((event) => {
    const bead = (event.target as Element).closest("[data-key]")?.getAttribute("data-key");
    const add = event.shiftKey || event.ctrlKey || event.metaKey;
    if (!bead) return pullBox(place(event), add);
    const cut = bead.lastIndexOf("@");
    return pullBeads(place(event), { channel: bead.slice(0, cut), frame: Number(bead.slice(cut + 1)) }, add);
  });

  return (
    <div className="sheet card-sheet">
      <div className="sheet-bar">
        <IconButton icon="skip-start-fill" label="To the start" keys="Home" onClick={() => goTo(0)} />
        <IconButton icon="chevron-bar-left" label="To the key before" keys="," onClick={() => toKey(-1)} />
        <IconButton
          icon={playing ? "pause-fill" : "play-fill"}
          label={playing ? "Pause" : "Play"}
          keys=" "
          onClick={toggle}
        />
        <IconButton icon="chevron-bar-right" label="To the next key" keys="." onClick={() => toKey(1)} />
        <IconButton icon="repeat" label="Play round and round" pressed={loop} onClick={() => set({ loop: !loop })} />
        <FrameField length={length} />
        {bar}
        <span className="flex-grow-1" />
        <IconButton
          icon="dash-lg"
          label="Narrower frames"
          disabled={zoom <= 1}
          onClick={() => setZoom(Math.max(1, zoom / 1.4))}
        />
        <IconButton icon="plus-lg" label="Wider frames" disabled={zoom > 12} onClick={() => setZoom(zoom * 1.4)} />
      </div>
      <div className="sheet-body" ref={body}>
        <div className="sheet-names">
          <div className="corner">
            {threads.length} {threads.length === 1 ? "thread" : "threads"}
          </div>
          {threads.map((t) => (
            <button
              key={t.id}
              type="button"
              className={`thread-name${joint === t.channel.joint ? " chosen" : ""}`}
              title={`Select all keys of ${t.name}, ${KINDS[t.channel.kind]}`}
              onClick={() =>
                set({
                  joint: t.channel.joint,
                  keys: Object.keys(t.channel.keys ?? {}).map((f) => ({ channel: t.id, frame: Number(f) })),
                })
              }
            >
              <SideMark side={puppet.joints?.[t.channel.joint]?.side ?? "centre"} />
              <span className="text-truncate">{t.name}</span>
              <span className="what">{KINDS[t.channel.kind]}</span>
            </button>
          ))}
        </div>
        <div style={{ minWidth: width, position: "relative" }}>
          <Ruler length={length} step={step} />
          <div className="threads">
            <svg
              ref={area}
              width={Math.max(width, room)}
              height={Math.max(threads.length * ROW, 179)}
              {...pull}
              role="img"
              aria-label="Keys by frame"
            >
              <rect
                x={width}
                y={0}
                width={Math.max(0, room - width)}
                height="100%"
                fill="var(--well)"
                fillOpacity={0.6}
              />
              {threads.map((t, row) => (
                <ThreadRow
                  key={t.id}
                  thread={t}
                  gaps={spacing[t.id]?.gaps ?? []}
                  y={row * ROW + ROW / 2}
                  x={x}
                  width={width}
                  length={length}
                  cycle={motion.cycle ?? false}
                  lit={joint === t.channel.joint}
                  selected={keys}
                  by={dragging?.by ?? 0}
                  step={step}
                />
              ))}
              {box && (
                <rect
                  x={Math.min(box.x0, box.x1)}
                  y={Math.min(box.y0, box.y1)}
                  width={Math.abs(box.x1 - box.x0)}
                  height={Math.abs(box.y1 - box.y0)}
                  fill="var(--violet)"
                  fillOpacity={0.12}
                  stroke="var(--violet)"
                  strokeDasharray="4 3"
                />
              )}
            </svg>
          </div>
          <Playhead x={x} />
          {!threads.length && (
            <p className="hint position-absolute" style={{ left: 16, top: 34 }}>
              No keys yet. Go to a frame and pull a piece on the stage: that keys it here.
            </p>
          )}
        </div>
      </div>
    </div>
  );
}

async function moveKeys(motion: Motion, by: number): Promise<void> {
  const done = await made({ do: "move-keys", motion: motion.id, keys: get().keys, by });
  if (done) set({ keys: done.keys ?? [] });
}

export async function removeKeys(motion: string, held: KeyRef[]): Promise<void> {
  if (!held.length) return;
  const channels = new Set(held.map((k) => k.channel)).size;
  if (await submit({ do: "remove-keys", motion, keys: held })) {
    notify(
      true,
      "Removed",
      `${held.length} ${held.length === 1 ? "key" : "keys"} on ${channels} ${channels === 1 ? "channel" : "channels"}. Undo brings them back.`,
    );
  }
}

function FrameField({ length }: { length: number }) {
  const frame = useWorkshop((w) => w.frame);
  const [text, setText] = useState<string | null>(null);
  return (
    <label className="d-flex align-items-center gap-1 ms-1">
      <span className="faint small">Frame</span>
      <input
        className="form-control form-control-sm frame"
        aria-label="Frame"
        inputMode="numeric"
        value={text ?? frame + 1}
        onChange={(e) => setText(e.target.value)}
        onBlur={() => setText(null)}
        onKeyDown={(e) => {
          if (e.key === "Enter" && text && Number.isInteger(Number(text))) {
            goTo(Number(text) - 1);
            setText(null);
          }
        }}
      />
      <span className="faint small">of {length}</span>
    </label>
  );
}

function Ruler({ length, step }: { length: number; step: number }) {
  const every = [1, 2, 4, 6, 12, 24, 48, 96, 240].find((n) => n * step >= 26) ?? 480;
  const scrub = (event: React.PointerEvent<HTMLDivElement>) =>
    goTo(Math.floor((event.clientX - event.currentTarget.getBoundingClientRect().left) / step));
  const pull = usePull<HTMLDivElement>((event) => {
    const before = get().frame;
    scrub(event);
    return { move: (e) => scrub(e as React.PointerEvent<HTMLDivElement>), cancel: () => goTo(before) };
  });
  const marks = [];
  for (let f = 0; f < length; f += every) marks.push(f);
  return (
    <div
      className="ruler"
      {...pull}
      role="slider"
      aria-label="Scrub"
      aria-valuemin={1}
      aria-valuemax={length}
      aria-valuenow={1}
      tabIndex={-1}
    >
      <svg width={step * length} height={24} style={{ display: "block" }}>
        {marks.map((f) => (
          <g key={f}>
            <line x1={(f + 0.5) * step} x2={(f + 0.5) * step} y1={17} y2={24} stroke="var(--faint)" />
            <text x={(f + 0.5) * step} y={14} textAnchor="middle" fontSize={11.5} fill="var(--ink)">
              {f + 1}
            </text>
          </g>
        ))}
      </svg>
    </div>
  );
}

function Playhead({ x }: { x: (f: number) => number }) {
  const frame = useWorkshop((w) => w.frame);
  return (
    <div
      style={{
        position: "absolute",
        top: 0,
        bottom: 0,
        left: 0,
        transform: `translateX(${x(frame) - 1}px)`,
        willChange: "transform",
        width: 2,
        background: "var(--violet)",
        pointerEvents: "none",
        zIndex: 2,
      }}
    >
      <div
        style={{
          position: "sticky",
          top: 0,
          marginLeft: -5,
          width: 12,
          height: 12,
          background: "var(--violet)",
          clipPath: "polygon(0 0,100% 0,100% 55%,50% 100%,0 55%)",
        }}
      />
    </div>
  );
}

interface RowProps {
  thread: Thread;
  gaps: [number, number, number[]][];
  y: number;
  x: (f: number) => number;
  width: number;
  length: number;
  cycle: boolean;
  lit: boolean;
  selected: KeyRef[];
  by: number;
  step: number;
}

function ThreadRow({ thread, gaps, y, x, width, length, cycle, lit, selected, by, step }: RowProps) {
  const entries = Object.entries(thread.channel.keys ?? {})
    .map(([f, k]) => [Number(f), k] as const)
    .sort((a, b) => a[0] - b[0]);
  const chosen = new Set(selected.filter((k) => k.channel === thread.id).map((k) => k.frame));
  const beyond = thread.channel.outside ?? "hold";
  const ticks = gaps
    .map(([from, to, progress]) =>
      progress
        .slice(1)
        .map((p) => `M${(x(from) + (x(to) - x(from)) * p).toFixed(1)} ${y + 1.5}v6.5`)
        .join(""),
    )
    .join("");
  const first = entries[0]?.[0] ?? 0;
  const last = entries[entries.length - 1]?.[0] ?? 0;
  // Strokes and fills are faded, never elements: each faded element would be a layer of its own for
  // the browser to put together again on every frame of playback.
  return (
    <g>
      {lit && <rect x={0} y={y - ROW / 2} width={width} height={ROW} fill="var(--violet)" fillOpacity={0.09} />}
      <line
        x1={0}
        x2={width}
        y1={y}
        y2={y}
        stroke="var(--card-edge)"
        strokeDasharray={cycle || beyond !== "hold" ? "2 4" : undefined}
      />
      {entries.length > 1 && (
        <line x1={x(first)} x2={x(last)} y1={y} y2={y} stroke="var(--ink)" strokeWidth={1.3} strokeOpacity={0.75} />
      )}
      <path d={ticks} stroke="var(--ink)" strokeWidth={1} strokeOpacity={0.6} />
      {beyond !== "hold" && !cycle && last < length - 1 && (
        <text x={Math.min(x(last) + 10, width - 14)} y={y - 3} fontSize={11} fill="var(--faint)">
          {
            { repeat: "↻ repeats", "repeat-and-add": "↻ repeats and adds", "back-and-forth": "⇄ back and forth" }[
              beyond
            ]
          }
        </text>
      )}
      {entries.map(([frame, key], i) => {
        const on = chosen.has(frame);
        const at = x(frame + (on ? by : 0));
        const held = key.ease?.kind === "hold";
        const next = entries[i + 1]?.[0];
        return (
          <g key={frame} opacity={frame >= length ? 0.35 : undefined}>
            {held && next !== undefined && (
              <rect
                x={x(frame)}
                y={y - 2.5}
                width={x(next) - x(frame)}
                height={5}
                rx={2}
                fill="var(--ink)"
                fillOpacity={0.45}
              />
            )}
            <g className="bead" data-key={`${thread.id}@${frame}`}>
              <title>{`${thread.name}, ${KINDS[thread.channel.kind]}: frame ${frame + 1}, ${key.value.map((v) => Number(v.toFixed(1))).join(" / ")}${thread.channel.kind === "turn" ? "°" : ""}`}</title>
              <rect
                x={at - Math.max(7, Math.min(9, step / 2))}
                y={y - 11}
                width={Math.max(14, Math.min(18, step))}
                height={22}
                fillOpacity={0.01}
              />
              {held ? (
                <rect
                  x={at - 5}
                  y={y - 5}
                  width={10}
                  height={10}
                  rx={1.5}
                  fill={on ? "var(--violet)" : "var(--card)"}
                  stroke={on ? "var(--violet)" : "var(--ink)"}
                  strokeWidth={2}
                />
              ) : (
                <circle
                  cx={at}
                  cy={y}
                  r={5.2}
                  fill={on ? "var(--violet)" : "var(--card)"}
                  stroke={on ? "var(--violet)" : "var(--ink)"}
                  strokeWidth={2}
                />
              )}
            </g>
          </g>
        );
      })}
    </g>
  );
}
