import { expect, it } from "vitest";
import { Questions } from "./questions";

it("answers, refuses and abandons, and never forgets a question", async () => {
  const told: boolean[] = [];
  const questions = new Questions<string>((waiting) => told.push(waiting));
  const sent: number[] = [];
  const ask = () => questions.ask((n) => sent.push(n) > 0);
  const [answered, refused, abandoned] = [ask(), ask(), ask()];
  questions.settle(sent[1]!, null);
  questions.settle(sent[0]!, "pose");
  questions.settle(99, "to a question nobody asked");
  questions.abandon();
  expect(await Promise.all([answered, refused, abandoned])).toEqual(["pose", null, null]);
  expect(told.at(-1)).toBe(false);
});

it("is settled at once where it could not be sent", async () => {
  expect(await new Questions<string>().ask(() => false)).toBeNull();
});
