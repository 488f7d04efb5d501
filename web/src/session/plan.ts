/** The plan as it came over the wire: decoded, and patched by the parts that follow. */
import { bentFrom, same, woven } from "./bent";
import type { Frames } from "./frames";
import type {
  CardsLetter,
  Drawn,
  Item,
  Part,
  Places,
  PlanLetter,
  PoseLetter,
  Target,
  TriedLetter,
} from "../wire/types";

/** For each limb that reaches: frames × joints × x y when only turned and only reaching, and the blend in percent. */
export type Reached = Record<string, { turned: Float32Array; reached: Float32Array; blend: Float32Array }>;

export interface Plan {
  drawn: Frames;
  frames: number;
  joints: string[];
  /** frames × joints × 6 */
  worlds: Float32Array;
  reached: Reached;
  rest: { drawn: Frames; worlds: Float32Array };
  behind: Frames | null;
  target: Target;
  /** The puppet that the hand poses. */
  puppet: string;
  places: Places;
  /** The limb that each thing that can be keyed belongs to. */
  limbs: Record<string, string>;
  /** Of what comes part by part, one byte a frame: whether it has come. Its arrays are written where they stand. */
  here: Uint8Array | null;
}

/** One frame as tried. */
export interface Pose {
  frame: number;
  drawn: Frames;
  joints: string[];
  worlds: Float32Array;
  reached: Reached;
  tried: Record<string, number[]>;
  /** In a shot, whose pose it is. */
  cast: string | null;
  places: Places;
  /** Limits (degrees) that a tried command changes. */
  limits: Record<string, [number, number]>;
}

export interface Cards {
  frames: number[];
  drawn: Frames;
}

/** All frames of a motion as a tried command would leave it. */
export interface Trial {
  drawn: Frames;
  frames: number;
  worlds: Float32Array;
  reached: Reached;
}

export const doubles = (bytes: Uint8Array): Float64Array => new Float64Array(bytes.slice().buffer);
export const floats = (bytes: Uint8Array): Float32Array => new Float32Array(bytes.slice().buffer);

export function drawn(items: readonly Item[], m: Drawn): Frames {
  return {
    items,
    matrices: floats(m.matrices),
    shown: m.shown ? new Int16Array(m.shown.slice().buffer) : null,
    order: m.order ? new Int16Array(m.order.slice().buffer) : null,
    opacity: m.opacity ? floats(m.opacity) : null,
    points: (m.points ?? []).map(bentFrom),
  };
}

const reachedIn = (m: Drawn): Reached =>
  Object.fromEntries(
    Object.entries(m.reached ?? {}).map(([id, [turned, reached, blend]]) => [
      id,
      { turned: floats(turned), reached: floats(reached), blend: floats(blend) },
    ]),
  );

export function planFrom(m: PlanLetter): Plan {
  if (!m.sent) return wholeFrom(m);
  const [start, stop] = m.sent;
  return withPart(roomFor(wholeFrom(m), m.frames, stop - start), { ...m, type: "part", start, stop });
}

/** Room for all frames of a plan of which some have come: those are a measure of how much each needs. */
function roomFor(some: Plan, frames: number, count: number): Plan {
  const wide = (part: Float32Array) => new Float32Array((part.length / count) * frames);
  const empty = { frames: new Int32Array(0), looks: new Float32Array(0), data: new Float32Array(0) };
  const points = some.drawn.points.map((b) => (b.frames ? { ...b, ...empty } : { ...b, data: wide(b.data) }));
  const limbs = Object.entries(some.reached).map(([id, r]) => {
    return [id, { turned: wide(r.turned), reached: wide(r.reached), blend: wide(r.blend) }] as const;
  });
  return {
    ...some,
    drawn: { ...some.drawn, matrices: wide(some.drawn.matrices), shown: null, order: null, opacity: null, points },
    worlds: wide(some.worlds),
    reached: Object.fromEntries(limbs),
    here: new Uint8Array(frames),
  };
}

const wholeFrom = (m: PlanLetter): Plan => ({
  drawn: drawn(m.items, m),
  frames: m.frames,
  joints: m.joints,
  worlds: floats(m.worlds),
  reached: reachedIn(m),
  rest: { drawn: drawn(m.items, m.rest), worlds: floats(m.rest.worlds) },
  behind: m.behind ? drawn(m.behind.items, m.behind) : null,
  target: m.target,
  puppet: m.puppet,
  places: m.places ?? {},
  limbs: m.limbs ?? {},
  here: null,
});

/** A pose; in a shot that of one of the cast, which shows these `items`. */
export const poseFrom = (m: PoseLetter, plan: Plan | null, items?: readonly Item[]): Pose => ({
  frame: m.frame,
  tried: m.tried,
  cast: m.cast ?? null,
  drawn: drawn(m.items ?? items ?? plan?.drawn.items ?? [], m),
  joints: m.joints ?? plan?.joints ?? [],
  worlds: floats(m.worlds),
  reached: reachedIn(m),
  places: m.places ?? plan?.places ?? {},
  limits: (m.limits ?? {}) as Pose["limits"],
});

/** The poses as they are keyed, one after the other, where some channels come late. */
export const cardsFrom = (m: CardsLetter, plan: Plan | null): Cards | null =>
  m.frames.length ? { frames: m.frames, drawn: drawn(plan?.drawn.items ?? [], m) } : null;

export const trialFrom = (m: TriedLetter, plan: Plan | null): Trial => ({
  drawn: drawn(plan?.drawn.items ?? [], m),
  frames: m.frames,
  worlds: floats(m.worlds),
  reached: reachedIn(m),
});

/** An array of frames with some of them replaced, from frame `start` on; the very array, if it may be written into. */
function patched<A extends Float32Array | Int16Array>(
  before: A,
  part: A,
  start: number,
  frames: number,
  inPlace: boolean,
): A {
  const whole = inPlace ? before : (before.slice() as A);
  whole.set(part, (start * before.length) / frames);
  return whole;
}

/** What every frame holds, written out, of something that is as at rest in all of them. */
function everywhere<A extends Float32Array | Int16Array>(
  of: { new (length: number): A },
  one: number[],
  frames: number,
): A {
  const made = new of(frames * one.length);
  for (let k = 0; k < made.length; k++) made[k] = one[k % one.length]!;
  return made;
}

/** The plan with some frames worked out anew. */
export function withPart(plan: Plan, m: Part): Plan {
  const { start } = m;
  const part = drawn(plan.drawn.items, m);
  const over = <A extends Float32Array | Int16Array>(before: A, now: A): A =>
    patched(before, now, start, plan.frames, plan.here !== null);
  plan.here?.fill(1, start, m.stop);
  const { items } = plan.drawn;
  /** Some frames of what may be left out where it is as at rest. */
  const some = <A extends Float32Array | Int16Array>(
    of: { new (length: number): A },
    before: A | null,
    now: A | null,
    rest: number[],
  ): A | null =>
    before || now
      ? over(before ?? everywhere(of, rest, plan.frames), now ?? everywhere(of, rest, m.stop - start))
      : null;
  const at = items.map((i) => i.rest);
  const shown = some(Int16Array, plan.drawn.shown, part.shown, at);
  const order = some(Int16Array, plan.drawn.order, part.order, [...at.keys()]);
  const opacity = some(
    Float32Array,
    plan.drawn.opacity,
    part.opacity,
    at.map(() => 1),
  );
  const points = plan.drawn.points.map((b) => {
    const now = part.points.find((p) => same(p, b));
    if (now?.frames) return woven(b, now, start, m.stop - start);
    return now ? { ...b, data: over(b.data, now.data) } : b;
  });
  const limbs = Object.entries(reachedIn(m)).map(([id, r]) => {
    const old = plan.reached[id];
    if (!old) return [id, r] as const;
    return [
      id,
      { turned: over(old.turned, r.turned), reached: over(old.reached, r.reached), blend: over(old.blend, r.blend) },
    ] as const;
  });
  return {
    ...plan,
    drawn: { ...plan.drawn, matrices: over(plan.drawn.matrices, part.matrices), shown, order, opacity, points },
    worlds: over(plan.worlds, floats(m.worlds)),
    reached: { ...plan.reached, ...Object.fromEntries(limbs) },
  };
}
