/** How one drawing becomes another, as it came over the wire. */
import type { LookAtMorph, Mark, MorphLetter, Point } from "../wire/types";
import { floats } from "./plan";

/** What is asked of it. */
export type Asked = Omit<LookAtMorph, "type" | "n">;

export interface Trouble {
  kind: MorphLetter["troubles"] extends (infer T)[] | undefined ? (T extends { kind: infer K } ? K : never) : never;
  going: number;
  amounts: Float32Array;
  worst: number;
  at: Point;
}

export interface Becoming {
  piece: string;
  first: string;
  second: string;
  /** What is drawn once points and looks are put in. */
  art: string;
  box: [number, number, number, number];
  count: number;
  /** The points in the first drawing and in the second, seen from their pivots. */
  ends: [Float32Array, Float32Array];
  parts: number;
  points: Float32Array;
  looks: Float32Array;
  going: MorphLetter["going"];
  met: { id: string; first: Point; second: Point }[];
  crossed: string[];
  shapes: [number, number];
  troubles: Trouble[];
  advice: { mark: Mark; before: number; after: number }[];
  measured: boolean;
}

export function morphFrom(m: MorphLetter): Becoming {
  const ends = floats(m.ends as unknown as Uint8Array);
  return {
    piece: m.piece,
    first: m.first,
    second: m.second,
    art: m.art,
    box: m.box,
    count: m.count,
    ends: [ends.subarray(0, m.count * 2), ends.subarray(m.count * 2)],
    parts: m.parts,
    points: floats(m.points as unknown as Uint8Array),
    looks: floats(m.looks as unknown as Uint8Array),
    going: m.going,
    met: m.met as Becoming["met"],
    crossed: m.crossed,
    shapes: m.shapes as [number, number],
    troubles: (m.troubles ?? []).map((t) => ({
      ...t,
      amounts: floats(t.amounts as unknown as Uint8Array),
      at: t.at as Point,
    })) as Becoming["troubles"],
    advice: (m.advice ?? []) as Becoming["advice"],
    measured: m.measured ?? false,
  };
}

/** The points and the look at one of the parts that were asked for. */
export function stepOf(b: Becoming, step: number): [Float32Array, Float32Array] {
  const at = Math.max(0, Math.min(step, b.parts - 1));
  const wide = b.parts ? b.looks.length / b.parts : 0;
  return [b.points.subarray(at * b.count * 2, (at + 1) * b.count * 2), b.looks.subarray(at * wide, (at + 1) * wide)];
}
