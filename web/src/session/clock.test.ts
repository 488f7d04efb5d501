import { afterEach, expect, it, vi } from "vitest";
import { Clock, frameDue, type Walk } from "./clock";
import type { Session } from "./session";
import known from "./heard.known.json";
import { Sounding, loudness, readPeaks, type Heard } from "./sounding";
import { blank, type State } from "./state";

const NTSC = 24000 / 1001;
afterEach(() => vi.unstubAllGlobals());

it("shows the frame that is due, goes round, and ends", () => {
  const walk: Walk = { first: 10, end: 20, start: 15, perSecond: 24, loop: true };
  expect([0, 1 / 24, 4.9 / 24, 5 / 24, 14.9 / 24, 15 / 24].map((s) => frameDue(walk, s))).toEqual([
    15, 16, 19, 10, 19, 10,
  ]);
  expect(frameDue({ ...walk, loop: false }, 5 / 24)).toBeNull();
  expect(frameDue({ ...walk, loop: false }, 4.9 / 24)).toBe(19);
});

it("at 24000/1001 the frame after five minutes is the frame of that time, to the last", () => {
  const walk: Walk = { first: 0, end: 20000, start: 0, perSecond: NTSC, loop: false };
  for (let n = 0; n < 7200; n += 7) {
    // Whole frames in exact arithmetic: frame n is shown from n·1001/24000 s on.
    expect(frameDue(walk, (n * 1001) / 24000)).toBe(n);
    expect(frameDue(walk, ((n + 1) * 1001) / 24000 - 1e-4)).toBe(n);
  }
});

/** A session with one line, and a sound device whose clock runs otherwise than the page's. */
function playing(speed: number, range: [number, number] | null = null) {
  const state = {
    ...blank("p"),
    plan: { frames: 8000 },
    speed,
    range,
    loop: range !== null,
    frame: range?.[0] ?? 100,
    motion: "m",
    documents: {
      p: { kind: "production", id: "p", name: "Quay", rate: { numerator: 24000, denominator: 1001 } },
      m: {
        kind: "motion",
        id: "m",
        name: "m",
        puppet: "a",
        length: 8000,
        sounds: { s: { id: "s", voice: "v", at: 1.5 } },
      },
      v: { kind: "voice", id: "v", name: "v", sound: { asset: "a", peaks: "b", seconds: 400 } },
    },
  } as unknown as State;
  let now = state;
  const session = { get: () => now, set: (given: Partial<State>) => void (now = { ...now, ...given }) };
  let device = 3;
  let silenced = 0;
  const heard: { when: number; from: number; seconds: number; speed: number }[] = [];
  let come: () => void = () => {};
  const loaded = new Promise<boolean>((done) => (come = () => done(true)));
  let [late, hangs] = [false, false];
  const sounding = {
    ready: (_: Heard[], patience?: number) =>
      late ? (patience ? loaded : Promise.resolve(false)) : Promise.resolve(true),
    soon: () => device + 0.06,
    now: () => (hangs ? null : device - 0.02),
    latency: 0.02,
    play: (_: Heard[], stretch: (typeof heard)[number]) => void heard.push(stretch),
    stop: () => void (silenced += 1),
  };
  let step: (() => void) | null = null;
  vi.stubGlobal("requestAnimationFrame", (work: () => void) => void (step = work));
  let here = 0;
  vi.stubGlobal("performance", { now: () => here * 1000 });
  const clock = new Clock(session as unknown as Session, sounding as unknown as Sounding);
  return {
    clock,
    heard,
    frame: () => now.frame,
    playing: () => now.playing,
    silenced: () => silenced,
    set: session.set,
    /** Its sound is long on its way, or its device stands still; and then it comes. */
    isLate: () => void (late = true),
    hangs: () => void (late = hangs = true),
    comes: async () => {
      late = hangs = false;
      come();
      await ready();
    },
    /** The page's clock goes on alone, and the page paints. */
    alone: (seconds: number) => {
      here = seconds;
      step?.();
    },
    /** The device's clock goes on, and the page paints. */
    at: (seconds: number) => {
      device = seconds;
      step?.();
    },
  };
}

/** Play, until the sounds are ready. */
async function playsOn(clock: Clock): Promise<void> {
  clock.play();
  await ready();
}

const ready = async (): Promise<void> => {
  await Promise.resolve();
  await Promise.resolve();
};

it.each([1, 0.5])("follows the device's clock and never the page's, at %f of full speed", async (speed) => {
  const { clock, heard, at, frame } = playing(speed);
  await playsOn(clock);
  expect(heard).toEqual([{ when: 3.06, from: 100 / NTSC, seconds: 7900 / NTSC, speed }]);
  for (const passed of [0, 0.01, 0.5, 7, 61.3, 299.9]) {
    at(3.06 + 0.02 + passed / speed);
    // What is heard is so far behind the device's clock as it says; the frame is the one of what is heard.
    expect(frame()).toBe(100 + Math.floor(passed * NTSC + 1e-6));
  }
});

it("plays without a sound that is on its way, and with it from where the picture is once it is there", async () => {
  const { clock, heard, at, frame, playing: plays, isLate, comes, set } = playing(1);
  isLate();
  await playsOn(clock);
  expect([heard, plays()]).toEqual([[], true]);
  set({ frame: 130 });
  await comes();
  expect(heard).toEqual([{ when: 3.06, from: 130 / NTSC, seconds: 7870 / NTSC, speed: 1 }]);
  at(3.06 + 0.02 + 1);
  expect(frame()).toBe(130 + Math.floor(NTSC));
});

it("goes on without a device that hangs or was taken away, and with it from where the picture is once it is back", async () => {
  const { clock, heard, at, alone, frame, playing: plays, hangs, comes } = playing(1);
  await playsOn(clock);
  at(3.08 + 24.2 / NTSC);
  hangs();
  alone(0);
  await ready();
  expect([frame(), plays()]).toEqual([124, true]);
  alone(10.2 / NTSC);
  expect(frame()).toBe(134);
  expect(heard).toHaveLength(1);
  await comes();
  expect(heard[1]).toMatchObject({ from: 134 / NTSC });
  at(3.08 + 24.2 / NTSC + 0.08 + 5.2 / NTSC);
  expect(frame()).toBe(139);
});

it("takes a clock that says the same for long for one that hangs, until it moves", async () => {
  vi.useFakeTimers();
  const device = { state: "running", currentTime: 2, outputLatency: 0.5, resume: () => Promise.resolve() };
  vi.stubGlobal("AudioContext", function () {
    return device;
  });
  vi.stubGlobal("fetch", () => Promise.resolve(new Response(new ArrayBuffer(0))));
  Object.assign(device, { decodeAudioData: () => Promise.resolve({}) });
  const sounding = new Sounding();
  const line: Heard = { asset: "a", at: 0, seconds: 1, level: 0, fadeIn: 0, fadeOut: 0 };
  const asked = [sounding.ready([line]), sounding.ready([line], Infinity)] as const;
  let there: boolean | null = null;
  void asked[1].then((said) => (there = said));
  await vi.advanceTimersByTimeAsync(5000);
  expect([await asked[0], there]).toEqual([false, null]);
  device.currentTime = 2.1;
  await vi.advanceTimersByTimeAsync(500);
  expect([there, sounding.now()]).toEqual([true, 1.6]);
  await vi.advanceTimersByTimeAsync(400);
  expect(sounding.now()).toBe(1.6);
  await vi.advanceTimersByTimeAsync(400);
  expect(sounding.now()).toBeNull();
  device.currentTime = 2.2;
  expect(sounding.now()).toBeCloseTo(1.7);
  vi.useRealTimers();
});

it("does not take up a sound that comes when nothing plays any more", async () => {
  const { clock, heard, playing: plays, isLate, comes } = playing(1);
  isLate();
  await playsOn(clock);
  clock.stop();
  await comes();
  expect([heard, plays()]).toEqual([[], false]);
});

it("gets each round of a loop ready before the last has ended, to begin when it ends", async () => {
  const { clock, heard, at, frame } = playing(1, [240, 264]);
  await playsOn(clock);
  const round = 24 / NTSC;
  at(3.06 + 0.02 + round - 0.3);
  expect(heard.map((s) => s.when)).toEqual([3.06, 3.06 + round]);
  expect(heard[1]).toMatchObject({ from: 240 / NTSC, seconds: round });
  at(3.06 + 0.02 + round + 0.5 / NTSC);
  expect(frame()).toBe(240);
  at(3.06 + 0.02 + 2.5 * round);
  expect(heard.length).toBeGreaterThanOrEqual(3);
  expect(frame()).toBe(252);
});

it("after a while unseen goes on in the round that is due, and plays none of those that have passed", async () => {
  const { clock, heard, at, frame } = playing(1, [240, 264]);
  await playsOn(clock);
  const round = 24 / NTSC;
  at(3.06 + 0.02 + 30.25 * round);
  expect(heard).toHaveLength(2);
  expect(heard[1]!.when).toBeCloseTo(3.06 + 30.25 * round);
  expect(heard[1]!.from).toBeCloseTo(246 / NTSC);
  expect(heard[1]!.seconds).toBeCloseTo(0.75 * round);
  expect(frame()).toBe(246);
});

it("gets no round ready of what something else has taken the place of", async () => {
  const { clock, heard, at, set } = playing(1, [240, 264]);
  await playsOn(clock);
  set({ speed: 0.5 });
  at(3.08 + 24 / NTSC - 0.3);
  await ready();
  expect(heard.map((s) => s.speed)).toEqual([1, 0.5]);
});

it.each([
  [{ speed: 0.5 }, { speed: 0.5, seconds: 7876 / NTSC }],
  [{ range: [110, 200] as [number, number] }, { speed: 1, seconds: 76 / NTSC }],
])("takes up %o from where it is while it plays", async (given, wanted) => {
  const { clock, heard, at, set, silenced, frame } = playing(1);
  await playsOn(clock);
  at(3.08 + 24.2 / NTSC);
  expect(frame()).toBe(124);
  const before = silenced();
  set(given);
  at(3.08 + 24.4 / NTSC);
  await ready();
  expect(silenced()).toBeGreaterThan(before);
  expect(heard).toHaveLength(2);
  expect(heard[1]).toMatchObject({ from: 124 / NTSC, ...wanted });
});

it("plays the sound of another motion that is chosen while it plays, and no more of the first", async () => {
  const { clock, heard, at, set, silenced } = playing(1);
  await playsOn(clock);
  at(4);
  const before = silenced();
  set({ motion: "n", plan: { frames: 50 } as State["plan"] });
  at(4.1);
  await ready();
  expect(silenced()).toBeGreaterThan(before);
  expect(heard).toHaveLength(1);
});

it("plays no more where what is chosen meanwhile has one frame", async () => {
  const { clock, at, set, playing: plays } = playing(1);
  await playsOn(clock);
  set({ motion: "n", plan: { frames: 1 } as State["plan"] });
  at(4);
  expect(plays()).toBe(false);
});

it("is silent as soon as anybody says that it plays no more", async () => {
  const { clock, at, set, silenced, frame } = playing(1);
  await playsOn(clock);
  at(4);
  const here = frame();
  const before = silenced();
  set({ playing: false });
  at(5);
  expect([frame(), silenced() - before]).toEqual([here, 1]);
});

it("stops at the end, and silently", async () => {
  const { clock, at, frame, playing: plays } = playing(1);
  await playsOn(clock);
  at(3.06 + 0.02 + 8000 / NTSC);
  expect([frame(), plays()]).toEqual([7999, false]);
});

it("plays a line as loud as a film has it", () => {
  expect(known.length).toBeGreaterThan(4);
  for (const { what, level, fade_in, fade_out, seconds, heard } of known) {
    const line: Heard = { asset: "a", at: 0, seconds, level, fadeIn: fade_in, fadeOut: fade_out };
    for (const [time, gain] of heard) expect(loudness(line, time!), what).toBeCloseTo(gain!, 5);
    if (fade_in) expect(loudness(line, 0), what).toBe(0);
    if (fade_out) expect(loudness(line, seconds), what).toBe(0);
  }
});

it("reads peaks at all their zooms", () => {
  const samples = 5000;
  const counts = [256, 1024, 4096, 16384].map((size) => Math.ceil(samples / size));
  const data = new ArrayBuffer(4 + counts.reduce((sum, n) => sum + 2 * n, 0));
  new DataView(data).setUint32(0, samples, true);
  new Int8Array(data, 4).set([-5, 7]);
  const peaks = readPeaks(data);
  expect(peaks.samples).toBe(samples);
  expect(peaks.zooms.map((z) => z.pairs.length / 2)).toEqual(counts);
  expect([...peaks.zooms[0]!.pairs.subarray(0, 2)]).toEqual([-5, 7]);
});
