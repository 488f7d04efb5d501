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

/** Somebody who answers after a while, and only what was asked last; what is odd is refused. */
function newest(questions: Questions<string>) {
  let last = 0;
  return (what: string) => (n: number) => {
    if (last) questions.pass(last);
    last = n;
    setTimeout(() => {
      if (last !== n) return;
      last = 0;
      questions.settle(n, what === "odd" ? null : what);
    }, 5);
    return true;
  };
}

it("answers everybody where only the newest is answered, also while a hand asks in between", async () => {
  const questions = new Questions<string>();
  const ask = newest(questions);
  const names = Array.from({ length: 30 }, (_, n) => (n === 7 ? "odd" : `pose ${n}`));
  const hand = setInterval(() => void questions.ask(ask("hand")), 12);
  const found = await Promise.all(names.map((name) => questions.inTurn(ask(name), () => true, 1)));
  clearInterval(hand);
  expect(found).toEqual(names.map((name) => (name === "odd" ? null : name)));
});

it("does not wait for who does not look any more", async () => {
  const questions = new Questions<string>();
  let looks = true;
  const gone = questions.inTurn(
    () => false,
    () => looks,
    1,
  );
  const next = questions.inTurn(newest(questions)("here"), () => true, 1);
  setTimeout(() => (looks = false), 10);
  expect([await gone, await next]).toEqual([null, "here"]);
});
