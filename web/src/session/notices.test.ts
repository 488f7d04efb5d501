import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { ServiceError } from "../wire/http";
import { makeNotices } from "./notices";

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

const shown = (n: ReturnType<typeof makeNotices>) => n.store.getState().notices.map((s) => s.title);

test("good news goes by itself and bad news stays until it is sent away", () => {
  const n = makeNotices();
  n.notify(true, "Removed", "3 keys");
  n.notify(false, "Refused", "No");
  expect(shown(n)).toEqual(["Removed", "Refused"]);
  vi.advanceTimersByTime(6000);
  expect(shown(n)).toEqual(["Refused"]);
  n.dismiss(n.store.getState().notices[0]!.id);
  expect(shown(n)).toEqual([]);
});

test("the same refusal is told once, and never more than three at a time", () => {
  const n = makeNotices();
  for (let i = 0; i < 5; i++) n.notify(false, "Refused", "No");
  expect(shown(n)).toEqual(["Refused"]);
  for (const title of ["a", "b", "c"]) n.notify(false, title, "…");
  expect(shown(n)).toEqual(["a", "b", "c"]);
});

test("what was refused goes with the next thing that is done, what came meanwhile and what lasts stays", () => {
  const n = makeNotices();
  n.notify(false, "Not all could be opened", "Two drawings", [], true);
  n.notify(false, "Refused", "No");
  const before = n.newest();
  n.notify(false, "Refused too", "No");
  n.past(before);
  expect(shown(n)).toEqual(["Not all could be opened", "Refused too"]);
  n.past();
  expect(shown(n)).toEqual(["Not all could be opened"]);
});

test("a problem says where it is once, both sides of a conflict, and what to do", () => {
  const n = makeNotices();
  const conflict = {
    status: 409,
    title: "Changed in the meantime",
    detail: "Another window changed the same thing.",
    where: "wing",
    mine: "Turn “wing”",
    theirs: ["Move “wing”"],
    remedy: "Look again.",
  };
  n.tell(new ServiceError(conflict));
  n.tell(new ServiceError({ status: 422, title: "No", detail: "“wing” is gone.", where: "wing" }));
  n.tell("a thing");
  const [first, second, third] = n.store.getState().notices;
  expect(first!.text).toBe("wing: Another window changed the same thing.");
  expect(first!.more).toEqual(["Yours: Turn “wing”", "The other window: Move “wing”", "Look again."]);
  expect(second!.text).toBe("“wing” is gone.");
  expect(third!.text).toBe("a thing");
});
