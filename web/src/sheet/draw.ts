/** The timing sheet on its canvas: only the rows and frames in the window. */
import type { Gap } from "../wire/types";
import type { Verdict, Spaced } from "../session";
import { drawFoot, type Pulled } from "./feet";
import { JUMPS, placeIn, type Row, type Thread } from "./threads";
import type { Timeline } from "./timeline";
import { px } from "../ui/text";
import { token } from "../ui/tokens";

export const ROW = px(24);
export const RULER = px(22);

/** What a drawing of the sheet shows besides the rows. */
export interface Shown {
  rows: readonly Row[];
  time: Timeline;
  top: number;
  height: number;
  spacing: Record<string, Spaced>;
  selected: ReadonlyMap<string, ReadonlySet<number>>;
  /** Frames by which the selected beads are being dragged. */
  by: number;
  lit: readonly string[];
  cycle: boolean;
  poses: readonly number[];
  /** The row and frame that the keyboard is on. */
  cursor: { row: number; frame: number } | null;
  feet: Verdict["feet"];
  slides: number;
  plant: string | null;
  /** By channel of drawings that become others: how bad the worst is in each frame. */
  tangles: Verdict["tangles"];
  /** The planted stretch that a hand pulls on. */
  pulled: Pulled | null;
}

export interface Ink {
  ink: string;
  faint: string;
  card: string;
  edge: string;
  well: string;
  violet: string;
  warn: string;
}

/** The colours of a theme, which is the page's. */
export const inkOf = (_theme: string): Ink => ({
  ink: token("ink"),
  faint: token("faint"),
  card: token("card"),
  edge: token("card-edge"),
  well: token("well"),
  violet: token("violet"),
  warn: token("rust"),
});

/** A colour of the theme, `#rrggbb`, let through by so many percent. */
const faded = (colour: string, part: number): string =>
  `${colour}${Math.round(part * 2.55)
    .toString(16)
    .padStart(2, "0")}`;

export function drawSheet(c: CanvasRenderingContext2D, ink: Ink, s: Shown): void {
  const { time, rows, top, height } = s;
  const [left, right] = [time.scroll, time.scroll + time.room];
  c.clearRect(0, 0, time.room, height);
  c.save();
  c.translate(-left, -top);
  grid(c, ink, s, left, right);
  const first = Math.max(0, Math.floor(top / ROW));
  const last = Math.min(rows.length - 1, Math.ceil((top + height) / ROW));
  const [from, to] = [Math.floor(left / time.step) - 1, Math.ceil(right / time.step) + 1];
  for (let r = first; r <= last; r++) {
    const y = r * ROW + ROW / 2;
    const row = rows[r]!;
    if (row.kind === "limb") limb(c, ink, s, row, y, from, to);
    else if (row.kind === "foot") drawFoot(c, ink, row, y, { ...s, from, to });
    else thread(c, ink, s, row.thread, y, from, to);
  }
  if (s.cursor) {
    c.strokeStyle = ink.violet;
    c.setLineDash([3, 2]);
    c.strokeRect(time.x(s.cursor.frame) - 9, s.cursor.row * ROW + 1.5, 18, ROW - 3);
    c.setLineDash([]);
  }
  c.restore();
}

/** Poses as upright lines, and what lies beyond the motion's end. */
function grid(c: CanvasRenderingContext2D, ink: Ink, { time, top, height, poses }: Shown, left: number, right: number) {
  c.strokeStyle = ink.edge;
  c.lineWidth = 1;
  c.beginPath();
  for (const frame of poses) {
    const x = Math.round(frame * time.step) + 0.5;
    if (x < left - 1 || x > right) continue;
    c.moveTo(x, top);
    c.lineTo(x, top + height);
  }
  c.stroke();
  if (right > time.width) {
    c.fillStyle = faded(ink.well, 70);
    c.fillRect(time.width, top, right - time.width, height);
  }
}

type LimbRow = Extract<Row, { kind: "limb" }>;

function limb(c: CanvasRenderingContext2D, ink: Ink, s: Shown, row: LimbRow, y: number, from: number, to: number) {
  c.fillStyle = faded(ink.well, 80);
  c.fillRect(s.time.scroll, y - ROW / 2, s.time.room, ROW);
  if (!row.folded) return;
  c.fillStyle = faded(ink.ink, 45);
  for (let i = placeIn(row.frames, from); i < row.frames.length && row.frames[i]! <= to; i++) {
    const x = s.time.x(row.frames[i]!);
    c.beginPath();
    c.moveTo(x, y - 4);
    c.lineTo(x + 4, y);
    c.lineTo(x, y + 4);
    c.lineTo(x - 4, y);
    c.fill();
  }
}

function thread(c: CanvasRenderingContext2D, ink: Ink, s: Shown, t: Thread, y: number, from: number, to: number) {
  const { time, spacing, selected, cycle } = s;
  const { frames, channel } = t;
  if (s.lit.includes(channel.joint)) {
    c.fillStyle = faded(ink.violet, 9);
    c.fillRect(time.scroll, y - ROW / 2, time.room, ROW);
  }
  const beyond = channel.outside;
  c.strokeStyle = ink.edge;
  c.lineWidth = 1;
  c.setLineDash(cycle || beyond !== "hold" ? [2, 4] : []);
  line(c, Math.max(0, time.scroll), Math.min(time.width, time.scroll + time.room), y);
  c.setLineDash([]);
  if (frames.length > 1) {
    c.strokeStyle = faded(ink.ink, 75);
    c.lineWidth = 1.3;
    line(c, time.x(Math.max(frames[0]!, from)), time.x(Math.min(frames[frames.length - 1]!, to)), y);
  }
  ticks(c, ink, time, spacing[t.id]?.gaps ?? [], y, from, to);
  const own = selected.get(t.id);
  const start = Math.max(0, placeIn(frames, from) - 1);
  const grain = grainOf(c);
  for (let i = start; i < frames.length && frames[i]! <= to; i++) {
    const frame = frames[i]!;
    const key = channel.keys![String(frame)]!;
    const change = key.change ?? "hold";
    const held = key.ease?.kind === "hold" || (JUMPS.has(channel.kind) && change !== "morph");
    const next = frames[i + 1] ?? (cycle && frames.length > 1 ? frames[0]! + time.length : undefined);
    if (next !== undefined && change !== "hold") (change === "cut" ? cut : lens)(c, ink, s, t.id, frame, next, y);
    else if (held && frames[i + 1] !== undefined) {
      c.fillStyle = faded(ink.ink, 45);
      c.fillRect(time.x(frame), y - 2.5, time.x(frames[i + 1]!) - time.x(frame), 5);
    }
    const on = own?.has(frame) ?? false;
    const look = { held, on, made: Boolean(key.recipe && !key.hand) };
    bead(c, ink, grain, time.x(frame + (on ? s.by : 0)), y, look, frame >= time.length);
  }
}

/** One drawing becoming the next: it thins out as the other swells. Below, where that goes wrong, how badly. */
function lens(
  c: CanvasRenderingContext2D,
  ink: Ink,
  { time, tangles }: Shown,
  id: string,
  frame: number,
  next: number,
  y: number,
) {
  const [a, b] = [time.x(frame) + 5, Math.min(time.x(next), time.width + 5) - 5];
  if (b <= a) return;
  c.fillStyle = faded(ink.ink, 34);
  c.beginPath();
  c.moveTo(a, y - 5);
  c.lineTo(b, y);
  c.lineTo(a, y + 5);
  c.moveTo(b, y - 5);
  c.lineTo(a, y);
  c.lineTo(b, y + 5);
  c.fill();
  const bad = tangles[id];
  if (!bad) return;
  c.fillStyle = ink.warn;
  for (let f = frame + 1; f < next && f < time.length; f++) {
    const tall = Math.ceil(5 * Math.min(1, bad[f] ?? 0));
    c.fillRect(time.x(f) - time.step / 2, y + ROW / 2 - 1 - tall, Math.max(time.step - 1, 1), tall);
  }
}

/** One drawing making room for the next half way. */
function cut(
  c: CanvasRenderingContext2D,
  ink: Ink,
  { time, spacing }: Shown,
  id: string,
  frame: number,
  next: number,
  y: number,
) {
  const gap = spacing[id]?.gaps.find((g) => g[0] === frame);
  const half = frame + Math.max(1, gap?.[2].findIndex((p) => p >= 0.5) ?? (next - frame) / 2);
  const [a, m, b] = [time.x(frame), time.x(half) - time.step / 2, Math.min(time.x(next), time.width)];
  c.fillStyle = faded(ink.ink, 45);
  c.fillRect(a, y - 4, m - a, 3);
  c.fillRect(m, y + 1, b - m, 3);
  c.fillRect(m - 1, y - 6, 2, 12);
}

function line(c: CanvasRenderingContext2D, x0: number, x1: number, y: number) {
  if (x1 <= x0) return;
  c.beginPath();
  c.moveTo(x0, y);
  c.lineTo(x1, y);
  c.stroke();
}

/** Where the in-betweens really fall: crowding at a key looks like easing. */
function ticks(
  c: CanvasRenderingContext2D,
  ink: Ink,
  time: Timeline,
  gaps: Gap[],
  y: number,
  from: number,
  to: number,
) {
  c.strokeStyle = faded(ink.ink, 60);
  c.lineWidth = 1;
  c.beginPath();
  for (const [start, end, progress] of gaps) {
    if (end < from || start > to) continue;
    const span = time.x(end) - time.x(start);
    // Ticks closer than a pixel or two would only be a smear.
    if (span / progress.length < 2.5) continue;
    for (let i = 1; i < progress.length; i++) {
      const x = time.x(start) + span * progress[i]!;
      c.moveTo(x, y + 2);
      c.lineTo(x, y + 7.5);
    }
  }
  c.stroke();
}

/** A key: round when the way on is drawn in between, square when it is held; hollow paper when the hand
 * made it, with a dot in it when a recipe did. */
interface Look {
  held: boolean;
  on: boolean;
  made: boolean;
}

/** How many pixels of the display one of the page is, and how far the sheet is pushed. */
interface Grain {
  scale: number;
  dx: number;
  dy: number;
}

function grainOf(c: CanvasRenderingContext2D): Grain {
  const { a: scale, e, f } = c.getTransform();
  return { scale, dx: e / scale, dy: f / scale };
}

/** Half the side of a stamped bead: what is drawn of it and a hair. */
const HALF = 7;
const stamps = new WeakMap<Ink, Map<string, OffscreenCanvas>>();

/** A bead is stamped, not drawn: there are thousands of them, and only eight kinds. */
function bead(c: CanvasRenderingContext2D, ink: Ink, grain: Grain, x: number, y: number, look: Look, beyond: boolean) {
  const { scale, dx, dy } = grain;
  let known = stamps.get(ink);
  if (!known) stamps.set(ink, (known = new Map()));
  const name = `${scale} ${Number(look.held)}${Number(look.on)}${Number(look.made)}`;
  let stamp = known.get(name);
  if (!stamp) known.set(name, (stamp = stamped(ink, look, scale)));
  c.globalAlpha = beyond ? 0.35 : 1;
  // On whole pixels of the display, as the stamp was made: between two it would blur.
  const on = (v: number) => Math.round((v - HALF) * scale) / scale;
  c.drawImage(stamp, on(x + dx) - dx, on(y + dy) - dy, stamp.width / scale, stamp.height / scale);
  c.globalAlpha = 1;
}

function stamped(ink: Ink, { held, on, made }: Look, scale: number): OffscreenCanvas {
  const side = Math.ceil(2 * HALF * scale);
  const stamp = new OffscreenCanvas(side, side);
  const c = stamp.getContext("2d")!;
  c.scale(scale, scale);
  c.translate(HALF, HALF);
  c.fillStyle = on ? ink.violet : ink.card;
  c.strokeStyle = on ? ink.violet : ink.ink;
  c.lineWidth = 1.8;
  c.beginPath();
  if (held) c.rect(-4.5, -4.5, 9, 9);
  else c.arc(0, 0, 4.8, 0, 7);
  c.fill();
  c.stroke();
  if (made) {
    c.fillStyle = on ? ink.card : ink.ink;
    c.beginPath();
    c.arc(0, 0, 1.6, 0, 7);
    c.fill();
  }
  return stamp;
}
