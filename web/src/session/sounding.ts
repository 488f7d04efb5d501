/**
 * What is heard: lines decoded once, and played by the clock of the sound hardware (Web Audio), which the picture
 * follows. Times are seconds.
 */
import { asset } from "../wire/http";

/** A line to be heard: which sound, when it begins, how loud, and how it fades. */
export interface Heard {
  asset: string;
  at: number;
  seconds: number;
  level: number;
  fadeIn: number;
  fadeOut: number;
  /** Only what lies between these is heard, if they are given. */
  begins?: number;
  ends?: number;
}

/** Lowest and highest sample of each stretch, at several zooms: pairs from -127 to 127. */
export interface Peaks {
  samples: number;
  zooms: { size: number; pairs: Int8Array }[];
}

export const SOUND_RATE = 48_000;
const ZOOMS = [256, 1024, 4096, 16384];
/** Seconds from asking until it is heard: time enough to get all sources ready. */
const SOON = 0.06;
/** Milliseconds for which the picture waits for its sound: a device that never starts must not keep it from playing. */
const PATIENCE = 1500;
/** Milliseconds for which the hardware's clock may say the same before it counts as standing still (a device that was
 * taken away, or hangs), and until the first look at whether it moves; later looks come ever less often. */
const STILL = 500;
const LOOK = 10;
/** Seconds that a grain lasts while scrubbing, and over which it comes and goes. */
const GRAIN = 0.09;
const EDGE = 0.008;

/** Peaks as they are kept: the number of samples, then for each zoom its pairs. */
export function readPeaks(data: ArrayBuffer): Peaks {
  const samples = new DataView(data).getUint32(0, true);
  let at = 4;
  const zooms = ZOOMS.map((size) => {
    const count = Math.ceil(samples / size);
    const pairs = new Int8Array(data, at, 2 * count);
    at += 2 * count;
    return { size, pairs };
  });
  return { samples, zooms };
}

/** For how long a line grows and dies away: never for longer than it is. */
const fades = (line: Heard): [number, number] => [
  Math.min(line.fadeIn, line.seconds),
  Math.min(line.fadeOut, line.seconds),
];

/** How loud a line is at a time of its own: its level, fading in and out. */
export function loudness(line: Heard, time: number): number {
  const full = 10 ** (line.level / 20);
  const [grows, dies] = fades(line);
  const into = grows > 0 ? Math.min(1, Math.max(0, time / grows)) : 1;
  const out = dies > 0 ? Math.min(1, Math.max(0, (line.seconds - time) / dies)) : 1;
  return full * into * out;
}

/** A stretch that plays: from when on the hardware's clock, from where in the motion, how long and how fast. */
interface Stretch {
  when: number;
  from: number;
  seconds: number;
  speed: number;
}

export class Sounding {
  private context: AudioContext | null = null;
  private readonly buffers = new Map<string, Promise<AudioBuffer>>();
  private readonly drawn = new Map<string, Promise<Peaks>>();
  private sources: AudioBufferSourceNode[] = [];
  private grains: AudioBufferSourceNode[] = [];
  /** What the hardware's clock said last, and when by the page's it began to. */
  private said = -1;
  private saidAt = 0;
  private moving: Promise<void> | null = null;

  private open(): AudioContext | null {
    if (typeof AudioContext === "undefined") return null;
    this.context ??= new AudioContext({ sampleRate: SOUND_RATE, latencyHint: "interactive" });
    return this.context;
  }

  /** What the hardware's clock says, less the time that sound takes to be heard; null while it stands still. */
  now(): number | null {
    const context = this.context;
    if (!context || context.state !== "running") return null;
    if (context.currentTime !== this.said) {
      this.said = context.currentTime;
      this.saidAt = performance.now();
    } else if (performance.now() - this.saidAt > STILL) return null;
    return context.currentTime - this.latency;
  }

  /** Once the hardware's clock has moved: a device may say that it runs while it hangs. */
  private moves(context: AudioContext): Promise<void> {
    const look = async (before: number): Promise<void> => {
      for (let wait = LOOK; context.currentTime === before && context.state !== "closed"; wait *= 1.5)
        await new Promise((done) => setTimeout(done, Math.min(wait, STILL)));
      this.moving = null;
    };
    this.moving ??= look(context.currentTime);
    return this.moving;
  }

  /** Get lines ready to be heard. False if they are not after so many milliseconds, or can't be. */
  async ready(lines: readonly Heard[], patience = PATIENCE): Promise<boolean> {
    const context = this.open();
    if (!context || !lines.length) return false;
    const running = context.state === "running" ? Promise.resolve() : context.resume();
    const moving = running.then(() => this.moves(context));
    const all = Promise.all([moving, ...lines.map((l) => this.buffer(context, l.asset))]);
    const there = all.then(() => context.state === "running").catch(() => false);
    if (patience === Infinity) return there;
    return Promise.race([there, new Promise<false>((done) => setTimeout(() => done(false), patience))]);
  }

  private buffer(context: AudioContext, id: string): Promise<AudioBuffer> {
    let found = this.buffers.get(id);
    if (!found) {
      found = asset(id)
        .then((answer) => answer.arrayBuffer())
        .then((data) => context.decodeAudioData(data));
      found.catch(() => this.buffers.delete(id));
      this.buffers.set(id, found);
    }
    return found;
  }

  /** The peaks of a sound. */
  peaks(id: string): Promise<Peaks> {
    let found = this.drawn.get(id);
    if (!found) {
      found = asset(id)
        .then((answer) => answer.arrayBuffer())
        .then(readPeaks);
      found.catch(() => this.drawn.delete(id));
      this.drawn.set(id, found);
    }
    return found;
  }

  /** When something that is asked for now can begin, by the hardware's clock. */
  soon(): number {
    return (this.context?.currentTime ?? 0) + SOON;
  }

  /** The delay between the hardware's clock and what is heard. */
  get latency(): number {
    return this.context ? this.context.outputLatency || this.context.baseLatency || 0 : 0;
  }

  /** Let a stretch of the motion be heard. Lines must be ready. */
  play(lines: readonly Heard[], stretch: Stretch): void {
    for (const line of lines) void this.start(line, stretch);
  }

  private async start(line: Heard, { when, from, seconds, speed }: Stretch): Promise<void> {
    const context = this.context;
    if (!context) return;
    // Where in the line the stretch begins; before it, the line waits.
    const first = Math.max(from, line.at, line.begins ?? -Infinity);
    const last = Math.min(from + seconds, line.at + line.seconds, line.ends ?? Infinity);
    const [offset, wait, left] = [first - line.at, (first - from) / speed, last - first];
    if (left <= 0) return;
    const known = this.buffers.get(line.asset);
    if (!known) return;
    const buffer = await known;
    const source = new AudioBufferSourceNode(context, { buffer, playbackRate: speed });
    const gain = new GainNode(context, { gain: 0 });
    source.connect(gain).connect(context.destination);
    this.shape(gain.gain, line, when + wait, offset, left, speed);
    source.onended = () => {
      this.sources = this.sources.filter((s) => s !== source);
      gain.disconnect();
    };
    this.sources.push(source);
    source.start(when + wait, offset, left);
  }

  /** The level of a line over the part of it that plays: at its corners, and evenly between them. */
  private shape(gain: AudioParam, line: Heard, when: number, offset: number, left: number, speed: number): void {
    const [grows, dies] = fades(line);
    const corners = [grows, line.seconds - dies].filter((c) => c > offset && c < offset + left);
    gain.setValueAtTime(loudness(line, offset), when);
    for (const time of [...corners, offset + left].sort((a, b) => a - b))
      gain.linearRampToValueAtTime(loudness(line, time), when + (time - offset) / speed);
  }

  /** A short grain of what is heard at a time of the motion. */
  async grain(lines: readonly Heard[], time: number): Promise<void> {
    const here = lines.filter(
      (l) =>
        time < Math.min(l.at + l.seconds, l.ends ?? Infinity) && time + GRAIN > Math.max(l.at, l.begins ?? -Infinity),
    );
    if (!here.length || !(await this.ready(here))) return;
    const context = this.context!;
    for (const old of this.grains.splice(0)) old.stop();
    for (const line of here) {
      const buffer = await this.buffers.get(line.asset)!;
      const offset = Math.max(0, time - line.at);
      const source = new AudioBufferSourceNode(context, { buffer });
      const gain = new GainNode(context, { gain: 0 });
      source.connect(gain).connect(context.destination);
      const [begin, full] = [context.currentTime, loudness(line, offset)];
      gain.gain.setValueAtTime(0, begin);
      gain.gain.linearRampToValueAtTime(full, begin + EDGE);
      gain.gain.setValueAtTime(full, begin + GRAIN - EDGE);
      gain.gain.linearRampToValueAtTime(0, begin + GRAIN);
      source.onended = () => gain.disconnect();
      this.grains.push(source);
      source.start(begin, offset, GRAIN);
    }
  }

  /** Silence. */
  stop(): void {
    for (const source of this.sources.splice(0)) {
      source.onended = null;
      source.stop();
      source.disconnect();
    }
  }

  close(): void {
    this.stop();
    void this.context?.close();
    this.context = null;
    this.buffers.clear();
    this.drawn.clear();
  }
}
