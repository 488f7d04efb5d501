import { expect, it } from "vitest";
import { figureAt } from "./naming";

it("names a figure by its file, or by the folder of its files, and not by one of many", () => {
  expect(figureAt(["ferryman.v2.svg"])).toBe("ferryman.v2");
  expect(figureAt(["boatboy/head.png"])).toBe("head");
  expect(figureAt(["boatboy/arms/upper.png", "boatboy/head.png"])).toBe("boatboy");
  expect(figureAt(["upper arm.png", "head.png"])).toBe("Puppet");
  expect(figureAt([".png"])).toBe("Puppet");
});
