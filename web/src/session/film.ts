/** The whole film as it came over the wire: what shows in each of its frames, and its shots. */
import type { FilmLetter, FilmPart, HeardView } from "../wire/types";
import { floats } from "./plan";
import type { ShotPlan } from "./shotPlan";

export interface FilmPlan {
  frames: number;
  parts: readonly FilmPart[];
  /** For each frame the part below and the one above, -1 for none. */
  shown: Int16Array;
  /** How opaque the one above is in each frame. */
  there: Float32Array;
  /** What lies over each frame: red, green, blue and opacity, 0 to 1. */
  veil: Float32Array;
  heard: readonly HeardView[];
  /** The shots that have come, by their ids. */
  shots: ReadonlyMap<string, ShotPlan>;
}

/** The film as it is told anew; shots that are here already stay. */
export const filmFrom = (m: FilmLetter, before: FilmPlan | null): FilmPlan => ({
  frames: m.frames,
  parts: m.parts,
  shown: new Int16Array(m.shown.slice().buffer),
  there: floats(m.there),
  veil: floats(m.veil),
  heard: m.heard,
  shots: new Map([...(before?.shots ?? [])].filter(([id]) => m.parts.some((p) => p.shot === id))),
});

/** The film with one of its shots as it is now. */
export const withShot = (film: FilmPlan, id: string, shot: ShotPlan): FilmPlan => ({
  ...film,
  shots: new Map(film.shots).set(id, shot),
});

export const withoutShots = (film: FilmPlan, ids: readonly string[]): FilmPlan => ({
  ...film,
  shots: new Map([...film.shots].filter(([id]) => !ids.includes(id))),
});

/** A shot that shows in a frame of the film: which of its own frames, and how opaque. */
export interface FilmSheet {
  part: FilmPart;
  frame: number;
  opacity: number;
}

/** What lies over one another in a frame of the film, the lowest first. */
export function sheetsAt(film: FilmPlan, frame: number): FilmSheet[] {
  const at = Math.max(0, Math.min(frame, film.frames - 1));
  const [lower, upper] = [film.shown[2 * at]!, film.shown[2 * at + 1]!];
  return [lower, upper].flatMap((n, i) => {
    const part = film.parts[n];
    if (!part) return [];
    return [{ part, frame: part.first + at - part.start, opacity: i ? film.there[at]! : 1 }];
  });
}

/** The part that shows in a frame, of two the one that comes. */
export const partAt = (film: FilmPlan, frame: number): FilmPart | undefined => sheetsAt(film, frame).at(-1)?.part;

/** How many things are drawn in a frame. */
export const weightAt = (film: FilmPlan, frame: number): number =>
  sheetsAt(film, frame)
    .flatMap((s) => film.shots.get(s.part.shot)?.cels ?? [])
    .reduce((sum, cel) => sum + cel.drawn.items.length, 1);

/** Whether all that shows in a frame has come. */
export const cameAt = (film: FilmPlan, frame: number): boolean =>
  sheetsAt(film, frame).every((s) => film.shots.get(s.part.shot)?.here[s.frame]);
