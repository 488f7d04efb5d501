import { afterEach, expect, it, vi } from "vitest";
import { whenIdle } from "./idle";

afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
  vi.resetModules();
});

it("does what waits one after the other, and not what was taken back", async () => {
  vi.useFakeTimers();
  const done: number[] = [];
  const stops = [1, 2, 3].map((n) => whenIdle(() => done.push(n)));
  stops[1]!();
  expect(done).toEqual([]);
  await vi.advanceTimersByTimeAsync(25);
  expect(done).toEqual([1]);
  await vi.advanceTimersByTimeAsync(100);
  expect(done).toEqual([1, 3]);
});

it("does what has waited for long even where no moment of the page is long enough", async () => {
  vi.useFakeTimers();
  vi.stubGlobal("requestIdleCallback", (work: (d: unknown) => void) =>
    setTimeout(() => work({ timeRemaining: () => 2, didTimeout: false }), 10),
  );
  vi.resetModules();
  const anew = await import("./idle");
  const done: number[] = [];
  for (const n of [1, 2]) anew.whenIdle(() => done.push(n));
  await vi.advanceTimersByTimeAsync(550);
  expect(done).toEqual([]);
  await vi.advanceTimersByTimeAsync(100);
  expect(done).toEqual([1, 2]);
});
