import { expect, test } from "vitest";
import { gathered } from "./gathered";

test("steps made while one is on its way become one, and others keep their turn", async () => {
  const sent: string[] = [];
  let answer: () => void = () => {};
  const step = gathered((dx, dy, of) => {
    sent.push(`${of} ${dx} ${dy}`);
    return new Promise<void>((done) => (answer = done));
  });
  const answered = async () => {
    answer();
    await new Promise((done) => setTimeout(done));
  };
  for (let n = 0; n < 10; n++) step("hat", 1, 0);
  expect(sent).toEqual(["hat 1 0"]);
  step("scarf", 0, 2);
  step("hat", 0, -3);
  await answered();
  await answered();
  await answered();
  expect(sent).toEqual(["hat 1 0", "hat 9 0", "scarf 0 2", "hat 0 -3"]);
  await answered();
  step("hat", 5, 5);
  expect(sent.at(-1)).toBe("hat 5 5");
});
