import { expect, it } from "vitest";
import type { Line } from "../session";
import type { Peaks } from "../session/sounding";
import type { Timeline } from "../sheet/timeline";
import { inView, mouthRuns, spansOf } from "./ribbon";
import { columns } from "./Waveform";

const line = {
  placed: { id: "s", voice: "v", at: 2 },
  voice: {
    id: "v",
    sound: { seconds: 1.5 },
    chart: {
      words: { w1: { start: 0.5, text: "gull", sure: 0.2, guessed: true }, w0: { start: 0, text: "" } },
      phones: { p0: { start: 0, label: "" }, p1: { start: 0.5, label: "G" }, p2: { start: 0.6, label: "AH1" } },
    },
  },
} as unknown as Line;

it("gives each entry its end, in their order", () => {
  expect(spansOf(line, "phones").map((s) => [s.text, s.start, s.end])).toEqual([
    ["", 0, 0.5],
    ["G", 0.5, 0.6],
    ["AH1", 0.6, 1.5],
  ]);
  expect(spansOf(line, "words")[1]).toMatchObject({ text: "gull", sure: 0.2, guessed: true, end: 1.5 });
});

it("shows only what lies in the window", () => {
  const time = { scroll: 600, room: 40, step: 10 } as Timeline;
  // From frame 60 to 64 at 24 a second: 0.5 to 0.67 s of the line.
  expect(inView(spansOf(line, "phones"), 2, time, 24).map((s) => s.id)).toEqual(["p0", "p1", "p2"]);
  expect(inView(spansOf(line, "phones"), 2, { ...time, scroll: 640 }, 24).map((s) => s.id)).toEqual(["p2"]);
});

it("reads keys as stretches, the hand's apart", () => {
  const keys = {
    "8": { value: [2], recipe: "r" },
    "0": { value: [0], recipe: "r" },
    "12": { value: [2], recipe: "r", hand: true },
    "40": { value: [1] },
  };
  expect(mouthRuns(keys, 30)).toEqual([
    { start: 0, end: 8, value: 0, hand: false },
    { start: 8, end: 12, value: 2, hand: false },
    { start: 12, end: 30, value: 2, hand: true },
  ]);
});

it("draws the lowest and highest sample under each pixel, and nothing outside the sound", () => {
  const pairs = new Int8Array(400).map((_, n) => (n % 2 ? 100 : -50));
  pairs[2 * 30] = -127;
  const peaks: Peaks = { samples: 200 * 256, zooms: [{ size: 256, pairs }] };
  const found = columns(peaks, -0.1, 0.01, 140);
  expect(Number.isNaN(found[0]!)).toBe(true);
  expect(found[2 * 12 + 1]).toBeCloseTo(100 / 127);
  const at = Math.floor((0.1 + (30 * 256) / 48000) / 0.01);
  expect(Math.min(found[2 * at]!, found[2 * (at + 1)]!)).toBeCloseTo(-1);
  expect(Number.isNaN(found[2 * 139]!)).toBe(true);
});
