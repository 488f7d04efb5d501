/** Playing: walking through the plan at the true rate, dropping frames before time. */
import type { Session } from "./session";
import { motionOf, productionOf } from "./state";

export class Clock {
  /** The number of the walk going on: a walk that finds another number has been stopped. */
  private walk = 0;

  constructor(private readonly session: Session) {}

  play(): void {
    const { plan, frame } = this.session.get();
    if (!plan || plan.frames < 2) return;
    const rate = productionOf(this.session.get())?.rate ?? { numerator: 24, denominator: 1 };
    const perSecond = (rate.numerator ?? 24) / (rate.denominator ?? 1);
    const start = frame >= plan.frames - 1 ? 0 : frame;
    const walk = ++this.walk;
    let began: number | null = null;
    this.session.set({ playing: true, pose: null, frame: start });
    const step = (now: number) => {
      const { plan, playing, loop, frame } = this.session.get();
      if (walk !== this.walk || !playing || !plan) return;
      began ??= now;
      const passed = start + Math.floor(((now - began) / 1000) * perSecond + 1e-6);
      if (passed >= plan.frames && !loop) {
        this.session.set({ frame: plan.frames - 1, playing: false });
        return;
      }
      const next = passed % plan.frames;
      if (next !== frame) this.session.set({ frame: next });
      requestAnimationFrame(step);
    };
    requestAnimationFrame(step);
  }

  stop(): void {
    this.walk++;
    this.session.set({ playing: false });
  }

  toggle(): void {
    if (this.session.get().playing) this.stop();
    else this.play();
  }

  goTo(frame: number): void {
    this.walk++;
    const now = this.session.get();
    const last = (motionOf(now)?.length ?? now.plan?.frames ?? 1) - 1;
    this.session.set({ frame: Math.max(0, Math.min(last, frame)), playing: false, pose: null });
  }

  /** The next or previous frame on which anything shown has a key. */
  toKey(way: 1 | -1): void {
    const motion = motionOf(this.session.get());
    if (!motion) return;
    const keyed = Object.values(motion.channels ?? {}).flatMap((c) => Object.keys(c.keys ?? {}).map(Number));
    const frames = [...new Set(keyed)].sort((a, b) => a - b);
    const here = this.session.get().frame;
    const found = way > 0 ? frames.find((f) => f > here) : frames.findLast((f) => f < here);
    if (found !== undefined) this.goTo(found);
  }
}
