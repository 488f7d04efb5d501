import { expect, test } from "vitest";
import { clicking, type Hand, hitOf, Newest } from "./tool";

const hand: Hand = { at: [0, 0], hit: null, shift: false, alt: false, adds: false, scale: 1 };

test("what an element says of itself becomes a hit of its own kind, and nonsense none", () => {
  expect(hitOf("joint:knee")).toEqual({ kind: "joint", joint: "knee" });
  expect(hitOf("spin:h1")).toEqual({ kind: "spin", joint: "h1" });
  expect(hitOf("limit-low:knee")).toEqual({ kind: "limit", end: "low", joint: "knee" });
  expect(hitOf("limit-high:knee")).toEqual({ kind: "limit", end: "high", joint: "knee" });
  expect(hitOf("scale:arm")).toEqual({ kind: "scale", piece: "arm" });
  expect(hitOf("point:12")).toEqual({ kind: "point", point: 12 });
  expect(hitOf("edge:")).toEqual({ kind: "edge" });
  expect([hitOf("lamp:x"), hitOf(""), hitOf(null), hitOf(undefined)]).toEqual([null, null, null, null]);
});

test("a click that moved is none", () => {
  let clicks = 0;
  const drag = clicking(() => clicks++);
  drag.end(hand, true);
  drag.cancel();
  expect(clicks).toBe(0);
  drag.end(hand, false);
  expect(clicks).toBe(1);
});

test("of questions asked meanwhile only the newest is asked, and none that was forgotten", async () => {
  const newest = new Newest();
  const asked: number[] = [];
  const open: (() => void)[] = [];
  const question = (n: number) => () => {
    asked.push(n);
    return new Promise<void>((go) => open.push(go));
  };
  for (const n of [1, 2, 3, 4]) newest.ask(question(n));
  expect(asked).toEqual([1]);
  open.shift()!();
  await Promise.resolve();
  await new Promise((go) => setTimeout(go));
  expect(asked).toEqual([1, 4]);
  newest.ask(question(5));
  newest.forget();
  let still = false;
  const over = newest.still().then(() => (still = true));
  await new Promise((go) => setTimeout(go));
  expect(still).toBe(false);
  open.shift()!();
  await over;
  expect(asked).toEqual([1, 4]);
});
