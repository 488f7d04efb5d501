import { expect, it } from "vitest";
import { Recording } from "./capture";

it("keeps samples in the order of their times, from nought on, rounded", () => {
  const tape = new Recording();
  tape.add(0.013, [100.12345, 50]);
  tape.add(0.5, [101, 50]);
  tape.add(0.5, [102, 50]);
  tape.add(0.4, [103, 50]);
  tape.add(1.25006, [104.006, 51.999]);
  expect(tape.samples).toEqual([
    [0, 100.12, 50],
    [0.5, 101, 50],
    [1.2501, 104.01, 52],
  ]);
});
