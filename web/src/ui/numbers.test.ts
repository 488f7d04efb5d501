import { expect, it } from "vitest";
import { shownAs } from "./numbers";

it("counts frames from one, and says so", () => {
  const start = shownAs({ of: "Span.start" });
  expect([start.min, start.max, start.digits, start.unit]).toEqual([1, 20000, 0, "frame"]);
  expect([start.shown(11), start.meant(12), start.meant(12.4)]).toEqual([12, 11, 11]);
  const lasts = shownAs({ of: "Span.frames" });
  expect([lasts.min, lasts.max, lasts.unit, lasts.meant(5)]).toEqual([1, 20000, "frames", 5]);
});

it("shows what is untold, as many times as asked, without crumbs", () => {
  const soft = shownAs({ of: "Chain.soft", times: 100, unit: "%" });
  expect([soft.min, soft.max, soft.shown(undefined), soft.shown(0.07)]).toEqual([0, 50, 5, 7]);
  expect(soft.meant(29)).toBe(0.29);
});

it("keeps an end that is not reached out of reach by the finest step, and takes the narrower of two ends", () => {
  const width = shownAs({ of: "Reference.width" });
  expect([width.min, width.max]).toEqual([0.1, 100000]);
  expect(shownAs({ of: "Reference.width", digits: 0 }).min).toBe(1);
  const first = shownAs({ of: "Shot.first", max: 40, plus: 1 });
  expect([first.min, first.max]).toEqual([1, 41]);
});
