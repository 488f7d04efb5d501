/** Playing: walking through the plan at the true rate, dropping frames before time. */
import { get, motionOf, productionOf, set } from "./workshop";

export function play(): void {
  const { plan } = get();
  if (!plan || plan.frames < 2) return;
  const rate = productionOf(get())?.rate ?? { numerator: 24, denominator: 1 };
  const perSecond = (rate.numerator ?? 24) / (rate.denominator ?? 1);
  const start = get().frame >= plan.frames - 1 ? 0 : get().frame;
  let began: number | null = null;
  set({ playing: true, pose: null, frame: start });
  const step = (now: number) => {
    const { plan, playing, loop } = get();
    if (!playing || !plan) return;
    began ??= now;
    const passed = start + Math.floor(((now - began) / 1000) * perSecond + 1e-6);
    if (passed >= plan.frames && !loop) {
      set({ frame: plan.frames - 1, playing: false });
      return;
    }
    const frame = passed % plan.frames;
    if (frame !== get().frame) set({ frame });
    requestAnimationFrame(step);
  };
  requestAnimationFrame(step);
}

export const stop = (): void => set({ playing: false });
export const toggle = (): void => (get().playing ? stop() : play());

export function goTo(frame: number): void {
  const last = (motionOf(get())?.length ?? get().plan?.frames ?? 1) - 1;
  set({ frame: Math.max(0, Math.min(last, frame)), playing: false, pose: null });
}

/** The next or previous frame on which anything shown has a key. */
export function toKey(way: 1 | -1): void {
  const motion = motionOf(get());
  if (!motion) return;
  const frames = [...new Set(Object.values(motion.channels ?? {}).flatMap((c) => Object.keys(c.keys ?? {}).map(Number)))].sort((a, b) => a - b);
  const here = get().frame;
  const found = way > 0 ? frames.find((f) => f > here) : frames.findLast((f) => f < here);
  if (found !== undefined) goTo(found);
}
