/**
 * Playing: walking through the plan at the true rate, dropping frames before time. Where a line is heard the
 * picture follows the clock of the sound hardware, so that it never drifts from it; else the page's own.
 */
import type { Session } from "./session";
import type { Heard, Sounding } from "./sounding";
import { channelsOf, frameRate, linesOf, motionOf, shotOf, stretchOf, type State } from "./state";

/** Seconds before its beginning at which the next round is made ready. */
const AHEAD = 0.4;

/** The frames that play, the first of them played, and how fast. */
export interface Walk {
  first: number;
  end: number;
  start: number;
  perSecond: number;
  loop: boolean;
}

/** The frame that is due so many seconds (of the motion) after a walk began; null when it is over. */
export function frameDue(walk: Walk, seconds: number): number | null {
  const passed = walk.start + Math.floor(seconds * walk.perSecond + 1e-6);
  if (passed < walk.end) return Math.max(passed, walk.start);
  if (!walk.loop) return null;
  const round = walk.end - walk.first;
  return walk.first + ((passed - walk.first) % round);
}

/** Everything about what plays, and how, that is chosen. */
const whatPlays = (w: State): string => {
  const played = w.bench === "shots" ? [w.shot, w.wholeFilm] : w.motion;
  return JSON.stringify([played, stretchOf(w), w.speed, w.loop, frameRate(w)]);
};

export class Clock {
  /** The number of the walk going on: a walk that finds another number has been stopped. */
  private walk = 0;
  /** Frames past by the clock that is followed, since the frame that shows was due. */
  private late: () => number = () => 0;

  constructor(
    private readonly session: Session,
    private readonly sounding: Sounding,
  ) {}

  /** What is heard on the motion, or in the shot. */
  private heard(): Heard[] {
    const now = this.session.get();
    if (now.bench === "shots")
      return ((now.wholeFilm ? now.film : now.shotPlan)?.heard ?? []).map((h) => ({
        asset: h.asset,
        at: h.at,
        seconds: h.seconds,
        level: h.level,
        fadeIn: h.fade_in,
        fadeOut: h.fade_out,
        begins: h.begins ?? undefined,
        ends: h.ends ?? undefined,
      }));
    return linesOf(this.session.get()).flatMap(({ placed, voice }) =>
      voice.sound && !placed.mute
        ? [
            {
              asset: voice.sound.asset,
              at: placed.at,
              seconds: voice.sound.seconds,
              level: placed.level,
              fadeIn: placed.fade_in,
              fadeOut: placed.fade_out,
            },
          ]
        : [],
    );
  }

  play(): void {
    this.sounding.stop();
    const now = this.session.get();
    const { frame, speed } = now;
    const { frames, range } = stretchOf(now);
    if (frames < 2) {
      // What was chosen while something else played may be no motion at all.
      this.session.set({ playing: false });
      return;
    }
    const [first, end] = range ?? [0, frames];
    const start = frame < first || frame >= end - 1 ? first : frame;
    const walk = { first, end, start, perSecond: frameRate(now), loop: now.loop || now.range !== null };
    const number = ++this.walk;
    this.session.set({ playing: true, pose: null, frame: start });
    const lines = this.heard();
    if (!lines.length) {
      this.follow(number, walk, speed, performance.now() / 1000, () => performance.now() / 1000);
      return;
    }
    const goesOn = () => number === this.walk && this.session.get().playing;
    void this.sounding.ready(lines).then((ready) => {
      if (!goesOn()) return;
      if (!ready) {
        this.follow(number, walk, speed, performance.now() / 1000, () => performance.now() / 1000);
        // A long sound over a slow line joins where the picture is by then.
        void this.sounding.ready(lines, Infinity).then((there) => there && goesOn() && this.play());
        return;
      }
      const began = this.sounding.soon();
      const seconds = (walk.end - walk.start) / walk.perSecond;
      this.sounding.play(lines, { when: began, from: walk.start / walk.perSecond, seconds, speed });
      const round = (walk.end - walk.first) / walk.perSecond;
      const lasts = round / speed;
      let next = began + seconds / speed;
      this.follow(number, walk, speed, began, () => {
        const heardNow = this.sounding.now();
        if (heardNow === null) return null;
        while (walk.loop && heardNow + this.sounding.latency + AHEAD > next) {
          // A page that is hidden is not asked: rounds that have passed meanwhile are over, and of the one that goes on
          // what is left is heard.
          next += Math.floor(Math.max(0, heardNow - next) / lasts) * lasts;
          const passed = Math.max(0, heardNow - next);
          this.sounding.play(this.heard(), {
            when: next + passed,
            from: walk.first / walk.perSecond + passed * speed,
            seconds: round - passed * speed,
            speed,
          });
          next += lasts;
        }
        return heardNow;
      });
    });
  }

  /** Show the frames that are due, by a clock in seconds that said `began` at the beginning; null if it stands still. */
  private follow(number: number, walk: Walk, speed: number, began: number, clock: () => number | null): void {
    this.late = () => {
      const passed = walk.start + Math.max(0, (clock() ?? began) - began) * speed * walk.perSecond;
      const round = walk.end - walk.first;
      const due = passed < walk.end ? passed : walk.first + ((passed - walk.first) % round);
      return (due - this.session.get().frame + round) % round;
    };
    const chosen = whatPlays(this.session.get());
    const step = () => {
      const now = this.session.get();
      const { playing, frame } = now;
      const { frames } = stretchOf(now);
      if (number !== this.walk) return;
      if (!playing || !frames) {
        // Whoever said that it plays no more meant the sound too.
        this.sounding.stop();
        return;
      }
      // What has been taken the place of is not asked: it would get another round of itself ready.
      const said = chosen === whatPlays(now) ? clock() : null;
      if (said === null) {
        // Another speed, stretch or motion, or a device that hangs: it goes on from here as it is to now.
        this.play();
        return;
      }
      const due = frameDue(walk, Math.max(0, said - began) * speed);
      if (due === null) {
        this.sounding.stop();
        this.session.set({ frame: Math.min(walk.end, frames) - 1, playing: false });
        return;
      }
      const next = Math.min(due, frames - 1);
      if (next !== frame) this.session.set({ frame: next });
      requestAnimationFrame(step);
    };
    requestAnimationFrame(step);
  }

  /** By how many frames what shows is late, by the clock that playing follows. */
  get lateness(): number {
    return this.late();
  }

  stop(): void {
    this.walk++;
    this.sounding.stop();
    this.session.set({ playing: false });
  }

  toggle(): void {
    if (this.session.get().playing) this.stop();
    else this.play();
  }

  goTo(frame: number): void {
    this.walk++;
    this.sounding.stop();
    const now = this.session.get();
    const shot = now.wholeFilm ? now.film?.frames : shotOf(now)?.length;
    const long = now.bench === "shots" ? shot : (motionOf(now)?.length ?? now.plan?.frames);
    const last = (long ?? 1) - 1;
    this.session.set({ frame: Math.max(0, Math.min(last, frame)), playing: false, pose: null });
  }

  /** Go to a frame, and let a grain of what is heard there be heard. */
  scrub(frame: number): void {
    const before = this.session.get().frame;
    this.goTo(frame);
    const now = this.session.get();
    if (now.frame !== before) void this.sounding.grain(this.heard(), now.frame / frameRate(now));
  }

  /** The frames with keys of the motion or, of a shot, also those where somebody begins something; of the film those
   * where its shots begin. */
  private keyed(): number[] {
    const now = this.session.get();
    if (now.bench === "shots" && now.wholeFilm) return (now.film?.parts ?? []).map((p) => p.start);
    const shot = now.bench === "shots" ? shotOf(now) : undefined;
    const motion = now.bench === "shots" ? undefined : motionOf(now);
    const channels = Object.values(motion?.channels ?? {});
    const spans: number[] = [];
    if (shot) {
      channels.push(...[null, ...Object.keys(shot.cast ?? {})].flatMap((id) => Object.values(channelsOf(shot, id))));
      for (const c of Object.values(shot.cast ?? {}))
        if (c.kind === "member") spans.push(...Object.values(c.spans ?? {}).map((s) => s.start));
    }
    const keyed = channels.flatMap((c) => Object.keys(c.keys ?? {}).map(Number));
    return [...new Set([...keyed, ...spans])].sort((a, b) => a - b);
  }

  /** The next or previous frame on which anything shown has a key. */
  toKey(way: 1 | -1): void {
    this.toOneOf(this.keyed(), way);
  }

  /** The next or previous card of the motion; without cards the next or previous key. */
  toCard(way: 1 | -1): void {
    const cards = Object.keys(motionOf(this.session.get())?.poses ?? {}).map(Number);
    this.toOneOf(cards.length ? cards.sort((a, b) => a - b) : this.keyed(), way);
  }

  private toOneOf(frames: number[], way: 1 | -1): void {
    const here = this.session.get().frame;
    const found = way > 0 ? frames.find((f) => f > here) : frames.findLast((f) => f < here);
    if (found !== undefined) this.goTo(found);
  }
}
