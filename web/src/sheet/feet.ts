/** Feet on the timing sheet: where they are planted, where they stand, and how far they slide. */
import { get, goTo, submit, type Verdict, pickOut } from "../session";
import { freshId } from "../wire/ids";
import type { Motion, Plant, Puppet } from "../wire/types";
import type { Pull } from "../ui/pull";
import type { Ink } from "./draw";
import type { Timeline } from "./timeline";

export interface FootRow {
  kind: "foot";
  joint: string;
  name: string;
  limb: string;
  plants: Plant[];
  /** Where plants begin. */
  frames: number[];
}

/** A row for every foot, and for whatever else is planted. */
export function feetOf(
  puppet: Puppet,
  motion: Motion,
  report: Verdict | null,
  limbs: Record<string, string>,
): FootRow[] {
  const plants = Object.values(motion.plants ?? {});
  const feet = report?.motion === motion.id ? Object.keys(report.feet) : [];
  return [...new Set([...feet, ...plants.map((p) => p.joint)])]
    .filter((joint) => puppet.joints?.[joint])
    .map((joint) => {
      const own = plants.filter((p) => p.joint === joint).sort((a, b) => a.start - b.start);
      return {
        kind: "foot",
        joint,
        name: puppet.joints![joint]!.name,
        limb: limbs[joint] ?? "other parts",
        plants: own,
        frames: own.map((p) => p.start),
      };
    });
}

/** A planted stretch while a hand pulls on it. */
export interface Pulled {
  joint: string;
  /** The plant that is changed; none is named while a new one is drawn. */
  plant: string | null;
  start: number;
  frames: number;
}

/** Units a frame of slide that fill a row. */
const FULL = 5;

/** The stretches of frames that a plant fills; one that goes round a cycle's seam is two. */
function stretches(start: number, frames: number, length: number, cycle: boolean): [number, number][] {
  const end = start + frames;
  return cycle && end > length
    ? [
        [start, length],
        [0, end - length],
      ]
    : [[start, Math.min(end, length)]];
}

export function drawFoot(
  c: CanvasRenderingContext2D,
  ink: Ink,
  row: FootRow,
  y: number,
  shown: {
    time: Timeline;
    cycle: boolean;
    feet: Verdict["feet"];
    slides: number;
    plant: string | null;
    pulled: Pulled | null;
    from: number;
    to: number;
  },
) {
  const { time, cycle, feet, slides, from, to } = shown;
  const foot = feet[row.joint];
  const last = Math.min(to, time.length - 1);
  if (foot)
    for (let f = Math.max(0, from); f <= last; f++) {
      if (!foot.stands[f]) continue;
      c.fillStyle = `${ink.ink}70`;
      c.fillRect(f * time.step, y + 8, time.step, 2.5);
      const slide = foot.slide[f]!;
      if (slide < 0.05) continue;
      const high = Math.max(1.5, Math.min(1, slide / FULL) * 15);
      c.fillStyle = slide > slides ? ink.warn : `${ink.ink}60`;
      c.fillRect(f * time.step + 0.5, y + 8 - high, Math.max(1, time.step - 1), high);
    }
  const bars = row.plants.map((p) =>
    shown.pulled?.plant === p.id ? { ...p, start: shown.pulled.start, frames: shown.pulled.frames } : p,
  );
  if (shown.pulled?.joint === row.joint && !shown.pulled.plant)
    bars.push({ ...shown.pulled, id: "", place: [0, 0] } as unknown as Plant);
  for (const p of bars)
    for (const [first, end] of stretches(p.start, p.frames, time.length, cycle)) {
      const on = p.id === shown.plant || p.id === "";
      c.fillStyle = on ? `${ink.violet}38` : `${ink.ink}1c`;
      c.strokeStyle = on ? ink.violet : ink.ink;
      c.lineWidth = on ? 1.6 : 1.1;
      c.beginPath();
      c.roundRect(first * time.step + 1.5, y - 7, (end - first) * time.step - 3, 14, 3);
      c.fill();
      c.stroke();
    }
}

/** What a hand on a foot's row begins: a plant moved or made longer, or a new one drawn. */
export function pullFoot(
  row: FootRow,
  motion: Motion,
  time: Timeline,
  x: number,
  xOf: (event: React.PointerEvent) => number,
  { show, settle }: { show: (pulled: Pulled | null) => void; settle: (done?: Promise<unknown>) => void },
): Pull {
  const { length = 1, cycle = false } = motion;
  const at = time.frameAt(x);
  const over = row.plants.find((p) =>
    stretches(p.start, p.frames, length, cycle).some(([a, b]) => x >= a * time.step - 3 && x <= b * time.step + 3),
  );
  if (over) pickOut({ plant: over.id, joint: row.joint, keys: [], poses: [] });
  const end = over ? over.start + over.frames : 0;
  const edge = (frame: number) => Math.abs(x - (frame % (length + 1)) * time.step) < 6;
  const right = over && (edge(end) || (end > length && edge(end - length)));
  const left = over && !right && edge(over.start);
  let now: Pulled | null = null;
  let gone = 0;
  return {
    move(event) {
      const by = (gone = Math.round((xOf(event) - x) / time.step));
      if (!now && !by) return;
      if (!over) {
        const to = Math.max(0, Math.min(length - 1, at + by));
        now = { joint: row.joint, plant: null, start: Math.min(at, to), frames: Math.abs(to - at) + 1 };
      } else {
        const wrap = (f: number) => (cycle ? ((f % length) + length) % length : Math.max(0, Math.min(length - 1, f)));
        const part = { joint: row.joint, plant: over.id };
        if (right) now = { ...part, start: over.start, frames: Math.max(1, over.frames + by) };
        else if (left) {
          const kept = Math.max(cycle ? -Infinity : -over.start, Math.min(by, over.frames - 1));
          now = { ...part, start: wrap(over.start + kept), frames: over.frames - kept };
        } else now = { ...part, start: wrap(over.start + by), frames: over.frames };
      }
      show(now);
    },
    end() {
      if (!now) {
        settle();
        goTo(at);
        if (!over) pickOut({ plant: null, joint: row.joint, keys: [], poses: [] });
        return;
      }
      const end = right ? "end" : left ? "start" : "both";
      settle(
        now.plant
          ? submit({ do: "nudge-plant", motion: motion.id, id: now.plant, end, by: gone })
          : plant(motion.id, row.joint, now.start, now.frames),
      );
    },
    cancel: () => settle(),
  };
}

/** Plant a joint for some frames where it is at the first of them, and select that. */
export async function plant(motion: string, joint: string, start: number, frames: number): Promise<void> {
  const id = freshId();
  if (await submit({ do: "plant-foot", motion, id, joint, start, frames })) pickOut({ plant: id, joint });
}

export async function letGo(): Promise<void> {
  const { motion, plant: id } = get();
  if (motion && id) await submit({ do: "remove-plants", motion, ids: [id] });
}
