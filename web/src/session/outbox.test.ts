import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { ServiceError } from "../wire/http";
import { mustStay, Outbox, type Saved } from "./outbox";

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

function made() {
  const told: Saved[] = [];
  const away = vi.fn();
  return { told, away, outbox: new Outbox({ saved: (s) => told.push(s), away }) };
}

test("work is done one piece after the other, also after one that failed", async () => {
  const { outbox } = made();
  const order: string[] = [];
  const slow = outbox.put(async () => {
    await new Promise((go) => setTimeout(go, 50));
    order.push("slow");
    throw new Error("no");
  });
  const quick = outbox.put(async () => void order.push("quick"));
  const refused = expect(slow).rejects.toThrow("no");
  await vi.advanceTimersByTimeAsync(60);
  await refused;
  await quick;
  expect(order).toEqual(["slow", "quick"]);
});

test("what finds nobody is sent again until there is an answer", async () => {
  const { outbox, told, away } = made();
  let tries = 0;
  const sent = outbox.put(() =>
    outbox.insist(async () => {
      tries += 1;
      if (tries < 4) throw new ServiceError({ status: 503, title: "Away", detail: "Away.", kind: "database-away" });
      return "made";
    }),
  );
  await vi.advanceTimersByTimeAsync(60_000);
  expect(await sent).toBe("made");
  expect(tries).toBe(4);
  expect(told[0]).toBe("saving");
  expect(told).toContain("waiting");
  expect(told.at(-1)).toBe("saved");
  expect(away).toHaveBeenCalled();
});

test("what was done just now is not saved, before anything of it is sent", async () => {
  const { outbox, told } = made();
  const sent = outbox.put(() => Promise.resolve());
  expect([told, mustStay()]).toEqual([["saving"], true]);
  await sent;
  await vi.advanceTimersByTimeAsync(1);
  expect(told).toEqual(["saving", "saved"]);
});

test("a refusal is an answer", async () => {
  const { outbox, told } = made();
  const refused = new ServiceError({ status: 422, title: "No", detail: "No." });
  const sent = expect(outbox.put(() => outbox.insist(() => Promise.reject(refused)))).rejects.toBe(refused);
  await vi.advanceTimersByTimeAsync(10);
  await sent;
  expect(told).toEqual(["saving", "saved"]);
});

test("once nobody looks, what is on its way is still sent, and nobody is told", async () => {
  const { outbox, told } = made();
  let done = false;
  const sent = outbox.put(async () => {
    await new Promise((go) => setTimeout(go, 20));
    await outbox.insist(async () => void (done = true));
  });
  outbox.close();
  await vi.advanceTimersByTimeAsync(30);
  await sent;
  expect(done).toBe(true);
  expect(told).toEqual(["saving"]);
});

test("it is saved when the last of what waits is, and until then nobody should leave", async () => {
  const { outbox, told } = made();
  const slowly = () => outbox.insist(() => new Promise((go) => setTimeout(go, 50)));
  const both = Promise.all([outbox.put(slowly), outbox.put(slowly)]);
  await vi.advanceTimersByTimeAsync(60);
  expect([told, mustStay()]).toEqual([["saving"], true]);
  await vi.advanceTimersByTimeAsync(60);
  await both;
  expect([told.at(-1), mustStay()]).toEqual(["saved", false]);
});

test("an errand waits for what was made before it, and holds up nothing but the next", async () => {
  const { outbox } = made();
  const order: string[] = [];
  const takes = (name: string, long: number) => async () => {
    await new Promise((go) => setTimeout(go, long));
    order.push(name);
  };
  const all = [
    outbox.put(takes("before", 20)),
    outbox.errand(takes("long errand", 100)),
    outbox.errand(takes("short errand", 1)),
    outbox.put(takes("after", 5)),
  ];
  await vi.advanceTimersByTimeAsync(200);
  await Promise.all(all);
  expect(order).toEqual(["before", "after", "long errand", "short errand"]);
});
