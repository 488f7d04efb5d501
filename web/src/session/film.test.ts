import { describe, expect, it } from "vitest";
import type { FilmLetter } from "../wire/types";
import { cameAt, filmFrom, partAt, sheetsAt, withoutShots, withShot } from "./film";
import type { ShotPlan } from "./shotPlan";

const bytes = (values: Int16Array | Float32Array): Uint8Array => new Uint8Array(values.buffer);

/** Two shots of four frames, the second dissolving from the first over two; the first plays from its third frame on. */
const letter = (more: Partial<FilmLetter> = {}): FilmLetter => ({
  type: "film",
  seq: 1,
  target: { kind: "film", seen_as: null },
  frames: 6,
  parts: [
    { shot: "a", start: 0, first: 2, frames: 4, over: 0, fade_in: 0, fade_out: 0 },
    { shot: "b", start: 2, first: 0, frames: 4, over: 2, fade_in: 0, fade_out: 0 },
  ],
  shown: bytes(new Int16Array([0, -1, 0, -1, 0, 1, 0, 1, 1, -1, 1, -1])),
  there: bytes(new Float32Array([1, 1, 1 / 3, 2 / 3, 1, 1])),
  veil: bytes(new Float32Array(24)),
  heard: [],
  ...more,
});

const shot = (here: number[]): ShotPlan => ({ frames: here.length, here: new Uint8Array(here) }) as unknown as ShotPlan;

describe("the film", () => {
  it("shows one shot, or two while they dissolve, each at its own frame", () => {
    const film = filmFrom(letter(), null);
    expect(sheetsAt(film, 1)).toEqual([{ part: film.parts[0], frame: 3, opacity: 1 }]);
    const [below, above] = sheetsAt(film, 3);
    expect([below!.frame, below!.opacity, above!.frame]).toEqual([5, 1, 1]);
    expect(above!.opacity).toBeCloseTo(2 / 3);
    expect(sheetsAt(film, 5)).toEqual([{ part: film.parts[1], frame: 3, opacity: 1 }]);
    // Beyond its end the last frame stays; without frames there is nothing.
    expect(sheetsAt(film, 99)).toEqual(sheetsAt(film, 5));
    expect(sheetsAt({ ...film, frames: 0, shown: new Int16Array(0) }, 0)).toEqual([]);
    expect([0, 2, 3, 5].map((f) => partAt(film, f)!.shot)).toEqual(["a", "b", "b", "b"]);
  });

  it("has come where all that shows has", () => {
    let film = withShot(filmFrom(letter(), null), "a", shot([0, 0, 1, 1, 1, 1]));
    expect([0, 1, 2, 4].map((f) => cameAt(film, f))).toEqual([true, true, false, false]);
    film = withShot(film, "b", shot([1, 0, 0, 0]));
    expect([0, 2, 3].map((f) => cameAt(film, f))).toEqual([true, true, false]);
    film = withoutShots(film, ["a"]);
    expect([0, 2].map((f) => cameAt(film, f))).toEqual([false, false]);
  });

  it("keeps shots that are here when it is told anew, and lets go of those that are not in it", () => {
    const both = ["a", "b"].reduce((f, id) => withShot(f, id, shot([1])), filmFrom(letter(), null));
    const one = filmFrom(
      letter({ parts: [{ shot: "b", start: 0, first: 0, frames: 6, over: 0, fade_in: 0, fade_out: 0 }] }),
      both,
    );
    expect([...one.shots.keys()]).toEqual(["b"]);
  });
});
