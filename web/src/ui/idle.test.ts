import { expect, it, vi } from "vitest";
import { whenIdle } from "./idle";

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
  vi.useRealTimers();
});
