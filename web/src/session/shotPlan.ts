/** A shot as it came over the wire: what each of its cast shows, where, and how the camera sees it. */
import { same, woven } from "./bent";
import type { Frames } from "./frames";
import type { CelView, HeardView, Posed, ShotChanged, ShotLetter, ShotPart, ShotTarget } from "../wire/types";
import { drawn, floats } from "./plan";

export interface CopiesDrawn {
  /** copies × 6 */
  places: Float32Array;
  ahead: Int32Array;
  opacity: Float32Array;
  /** copies × red green blue amount */
  tints: Float32Array;
  /** How opaque a copy is in the course of its loop. */
  fade: Float32Array;
}

/** What one of the cast shows. Frames that have not come yet are empty. */
export interface Cel {
  cast: string;
  puppet: string;
  joints: string[];
  own: number;
  share: number;
  hidden: boolean;
  drawn: Frames;
  worlds: Float32Array;
  place: Float32Array | null;
  times: Int32Array | null;
  fade: Float32Array | null;
  /** The values of the channels of its place, number by number over all frames. */
  keyed: Record<string, Float32Array>;
  copies: CopiesDrawn | null;
}

export interface ShotPlan {
  target: ShotTarget;
  frames: number;
  /** From back to front. */
  cels: Cel[];
  /** By the share in the camera's movement: what takes the stage to the picture, frames × 6. */
  views: ReadonlyMap<number, Float32Array>;
  /** How the camera is keyed: x, y, turn and zoom, each over all frames. */
  aims: Float32Array;
  heard: readonly HeardView[];
  /** By member and span: at which of the span's frames it begins again, and after how many once more. */
  rounds: ShotLetter["rounds"];
  /** One byte a frame: whether it has come. */
  here: Uint8Array;
}

const ints = (bytes: Uint8Array): Int32Array => new Int32Array(bytes.slice().buffer);

/** How those bend that are drawn as they were; of others it comes anew. */
const bentAsBefore = ({ items, points }: Frames, now: Frames["items"]): Frames["points"] =>
  points.filter((p) => JSON.stringify(items[p.item]) === JSON.stringify(now[p.item]));

function cel(view: CelView, before?: Cel): Cel {
  const { items, own } = view;
  const loop = view.loop ? drawn(items, view.loop) : null;
  // What it shows stays where only its place is new.
  const same = before && before.own === own && before.drawn.items.length === items.length;
  const empty: Frames = {
    items,
    matrices: new Float32Array(own * items.length * 6),
    shown: null,
    order: null,
    opacity: null,
    points: [],
  };
  return {
    cast: view.cast,
    puppet: view.puppet,
    joints: view.joints,
    own,
    share: view.share,
    hidden: view.hidden,
    drawn: loop ?? (same ? { ...before.drawn, items, points: bentAsBefore(before.drawn, items) } : empty),
    worlds: same ? before.worlds : new Float32Array(own * view.joints.length * 6),
    place: view.place ? floats(view.place) : null,
    times: view.times ? ints(view.times) : null,
    fade: view.fade ? floats(view.fade) : null,
    keyed: Object.fromEntries(Object.entries(bytesOf(view.keyed)).map(([id, data]) => [id, floats(data)])),
    copies: view.copies
      ? {
          places: floats(view.copies.places),
          ahead: ints(view.copies.ahead),
          opacity: floats(view.copies.opacity),
          tints: floats(view.copies.tints),
          fade: floats(view.copies.fade),
        }
      : null,
  };
}

/** Blocks of numbers by name: in JSON's types they are text, on this wire they are bytes. */
const bytesOf = (blocks: unknown): Record<string, Uint8Array> => (blocks ?? {}) as Record<string, Uint8Array>;

const viewsOf = (views: unknown): Map<number, Float32Array> =>
  new Map(Object.entries(bytesOf(views)).map(([share, data]) => [Number(share), floats(data)]));

export const shotFrom = (m: ShotLetter): ShotPlan => ({
  target: m.target,
  frames: m.frames,
  cels: m.cels.map((view) => cel(view)),
  views: viewsOf(m.views),
  aims: floats(m.aims),
  heard: m.heard ?? [],
  rounds: m.rounds,
  here: new Uint8Array(m.frames),
});

/** The plan with what is new of some of the cast, of the camera and of what is heard. */
export function withChanged(plan: ShotPlan, m: ShotChanged): ShotPlan {
  const cels = plan.cels.map((before) => {
    const view = m.cels.find((c) => c.cast === before.cast);
    return view ? cel(view, before) : before;
  });
  const views = m.views ? viewsOf(m.views) : plan.views;
  const aims = m.aims ? floats(m.aims) : plan.aims;
  return { ...plan, cels, views, aims, heard: m.heard ?? plan.heard, rounds: m.rounds ?? plan.rounds };
}

/** What every frame holds of something that has been as at rest until now. */
function everywhere<A extends Float32Array | Int16Array>(made: A, one: readonly number[]): A {
  for (let k = 0; k < made.length; k++) made[k] = one[k % one.length]!;
  return made;
}

/** Put some frames into a cel; its arrays are written where they stand. */
function put(before: Cel, posed: Posed, start: number, frames: number): Cel {
  const { items } = before.drawn;
  const part = drawn(items, posed);
  const count = items.length;
  const rest = items.map((i) => i.rest);
  const row = [...items.keys()];
  const some = <A extends Float32Array | Int16Array>(
    old: A | null,
    now: A | null,
    make: (length: number) => A,
    one: readonly number[],
  ): A | null => {
    if (!old && !now) return null;
    const whole = old ?? everywhere(make(before.own * count), one);
    whole.set(now ?? everywhere(make(frames * count), one), start * count);
    return whole;
  };
  before.drawn.matrices.set(part.matrices, start * count * 6);
  before.worlds.set(floats(posed.worlds), start * before.joints.length * 6);
  const points = [...before.drawn.points];
  for (const bent of part.points) {
    if (bent.frames) {
      const old = points.findIndex((p) => same(p, bent));
      points.splice(old < 0 ? points.length : old, old < 0 ? 0 : 1, woven(points[old], bent, start, frames));
      continue;
    }
    const at = points.findIndex((p) => p.item === bent.item && p.drawing === bent.drawing && !p.frames);
    let known = points[at];
    if (known?.count !== bent.count) {
      // A mesh of another size takes the place of the one before.
      known = { ...bent, data: new Float32Array(before.own * bent.count * 2) };
      points.splice(at < 0 ? points.length : at, at < 0 ? 0 : 1, known);
    }
    known.data.set(bent.data, start * bent.count * 2);
  }
  return {
    ...before,
    drawn: {
      ...before.drawn,
      shown: some(before.drawn.shown, part.shown, (n) => new Int16Array(n), rest),
      order: some(before.drawn.order, part.order, (n) => new Int16Array(n), row),
      opacity: some(
        before.drawn.opacity,
        part.opacity,
        (n) => new Float32Array(n),
        rest.map(() => 1),
      ),
      points,
    },
  };
}

/** The plan with frames that have come. */
export function withShotPart(plan: ShotPlan, m: ShotPart): ShotPlan {
  const cels = plan.cels.map((c) => (m.cels[c.cast] ? put(c, m.cels[c.cast]!, m.start, m.stop - m.start) : c));
  // Frames that come with all of the cast are there; one that was changed says nothing of the others.
  const all = plan.cels.every((c) => c.copies !== null || m.cels[c.cast] !== undefined);
  if (all) plan.here.fill(1, m.start, m.stop);
  return { ...plan, cels };
}
