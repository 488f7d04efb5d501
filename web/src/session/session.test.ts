import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { decode, encode } from "@msgpack/msgpack";
import type { Command } from "../wire/types";
import { Session } from "./session";

/** A service as far as a session can tell: sockets that are spoken to, and requests that wait for an answer. */
class FakeSocket {
  static OPEN = 1;
  static all: FakeSocket[] = [];
  readyState = 0;
  sent: { type: string; n?: number }[] = [];
  onopen = () => {};
  onmessage = (_: { data: ArrayBuffer }) => {};
  onclose = (_: { code: number }) => {};
  constructor(readonly address: string) {
    FakeSocket.all.push(this);
  }
  send(data: Uint8Array) {
    this.sent.push(decode(data) as { type: string });
  }
  open() {
    this.readyState = 1;
    this.onopen();
  }
  say(message: object) {
    const data = encode(message);
    this.onmessage({ data: data.buffer.slice(data.byteOffset, data.byteOffset + data.byteLength) as ArrayBuffer });
  }
  drop(code = 1006) {
    this.readyState = 3;
    this.onclose({ code });
  }
  close() {}
}

interface Request {
  path: string;
  body: { base: number; command: Command };
  answer(status: number, body: object): void;
}
let requests: Request[] = [];
/** Where one was last, and where one was since. */
let lately: object = {};
let kept: object[] = [];

beforeEach(() => {
  FakeSocket.all = [];
  requests = [];
  [lately, kept] = [{}, []];
  vi.stubGlobal("window", { addEventListener: () => undefined, removeEventListener: () => undefined });
  vi.stubGlobal("WebSocket", FakeSocket);
  vi.stubGlobal("location", { protocol: "http:", host: "quay" });
  vi.stubGlobal("document", { documentElement: { toggleAttribute: () => false } });
  vi.stubGlobal("fetch", (path: string, init?: RequestInit) => {
    if (path.endsWith("/lately")) {
      if (init) kept.push(JSON.parse(String(init.body)));
      return Promise.resolve(init ? new Response(null, { status: 204 }) : new Response(JSON.stringify(lately)));
    }
    if (!init) return Promise.resolve(new Response("[]"));
    return new Promise((answer) =>
      requests.push({
        path,
        body: JSON.parse(String(init.body)),
        answer: (status, body) => answer(new Response(JSON.stringify(body), { status })),
      }),
    );
  });
});
afterEach(() => {
  vi.unstubAllGlobals();
  vi.useRealTimers();
});

/** Let the time pass after which so many sockets have been tried. */
async function later(sockets: number): Promise<void> {
  expect(FakeSocket.all).toHaveLength(sockets - 1);
  await vi.runOnlyPendingTimersAsync();
  expect(FakeSocket.all).toHaveLength(sockets);
}

const settled = () => new Promise((done) => setTimeout(done, 0));
const rename: Command = { do: "set-puppet", puppet: "a", name: "Gull" };
const snapshot = (seq: number) => ({
  type: "snapshot",
  seq,
  documents: [{ kind: "production", id: "p", name: "Quay" }],
  undo: null,
  redo: null,
});
const changed = (seq: number, name: string) => ({
  type: "changed",
  seq,
  writes: [{ document: "p", path: ["name"], has: true, after: name }],
  undo: { seq, label: name },
  redo: null,
});
const pose = (n: number) => ({
  type: "pose",
  n,
  frame: 0,
  tried: { "a.turn": [n] },
  matrices: new Uint8Array(),
  worlds: new Uint8Array(),
});

function opened(id = "p") {
  const session = new Session(id);
  const socket = FakeSocket.all.at(-1)!;
  socket.open();
  socket.say(snapshot(4));
  return { session, socket };
}

it("sends a waiting change to the production it was made in, with what was seen then", async () => {
  const { session, socket } = opened("first");
  const [one, two] = [session.submit(rename), session.submit({ ...rename, name: "Herring gull" })];
  await settled();
  expect(requests).toHaveLength(1);
  // Another window does something, and this one goes on to another production, while both wait.
  socket.say(changed(5, "theirs"));
  session.close();
  const other = opened("second").session;
  requests[0]!.answer(200, { ...changed(6, "mine"), label: "Rename" });
  await settled();
  expect(requests.map((r) => [r.path, r.body.base])).toEqual([
    ["/api/productions/first/changes", 4],
    ["/api/productions/first/changes", 4],
  ]);
  requests[1]!.answer(200, { ...changed(7, "mine"), label: "Rename" });
  expect(await Promise.all([one, two])).toEqual([true, true]);
  expect(other.get().seq).toBe(4);
});

it("opens where one was last, without what is gone, and keeps where one stays", async () => {
  const docs = [
    { kind: "production", id: "p", name: "Quay" },
    ...["gull", "guard"].map((id) => ({ kind: "puppet", id, name: id })),
    ...["gull", "guard"].map((id) => ({ kind: "motion", id: `of-${id}`, name: id, puppet: id, length: 24 })),
  ];
  const whole = { ...snapshot(4), documents: docs };
  const at = async (place: object) => {
    lately = place;
    const session = new Session("p");
    const socket = FakeSocket.all.at(-1)!;
    socket.open();
    socket.say(whole);
    await settled();
    const { ready, puppet, motion, frame } = session.get();
    return { session, where: [ready, puppet, motion, frame] };
  };
  expect((await at({ puppet: "guard", motion: "of-guard", shot: null, frame: 9 })).where).toEqual([
    true,
    "guard",
    "of-guard",
    9,
  ]);
  expect((await at({ puppet: "guard", motion: "gone", shot: null, frame: 9 })).where).toEqual([
    true,
    "guard",
    "of-guard",
    0,
  ]);
  const { session, where } = await at({});
  expect(where).toEqual([true, "gull", "of-gull", 0]);
  vi.useFakeTimers();
  for (const frame of [3, 4, 5]) session.set({ frame });
  await vi.runAllTimersAsync();
  expect(kept).toEqual([{ puppet: "gull", motion: "of-gull", shot: null, frame: 5 }]);
  session.close();
  expect(kept).toHaveLength(1);
});

it("takes up an answer that overtakes a message, and drops no document", async () => {
  const { session, socket } = opened();
  const done = session.submit(rename);
  await settled();
  const ferry = {
    type: "changed",
    seq: 5,
    writes: [{ document: "f", path: [], has: true, after: { kind: "puppet", id: "f", name: "Ferry" } }],
    undo: null,
    redo: null,
  };
  requests[0]!.answer(200, { ...changed(6, "mine"), label: "Rename" });
  await done;
  expect(session.get().seq).toBe(4);
  socket.say(ferry);
  expect([session.get().seq, Object.keys(session.get().documents)]).toEqual([6, ["p", "f"]]);
});

it("forgets after a reconnection what is there no more", async () => {
  vi.useFakeTimers();
  const { session, socket } = opened();
  socket.say({
    type: "changed",
    seq: 5,
    writes: [{ document: "f", path: [], has: true, after: { kind: "puppet", id: "f", name: "Ferry" } }],
    undo: null,
    redo: null,
  });
  expect(session.get().puppet).toBe("f");
  socket.drop();
  expect(session.get().connected).toBe(false);
  await later(2);
  FakeSocket.all[1]!.open();
  FakeSocket.all[1]!.say(snapshot(6));
  expect([Object.keys(session.get().documents), session.get().puppet]).toEqual([["p"], null]);
});

it("tells a database that is away from a service that does not answer", async () => {
  vi.useFakeTimers();
  const { session, socket } = opened();
  const seen = () => [session.get().connected, session.get().database];
  socket.drop();
  expect(seen()).toEqual([false, true]);
  // The service answers, but has nothing to open.
  await later(2);
  FakeSocket.all[1]!.open();
  FakeSocket.all[1]!.say({ type: "database", here: false });
  FakeSocket.all[1]!.drop(4000);
  expect(seen()).toEqual([false, false]);
  // Now it is gone altogether.
  await later(3);
  FakeSocket.all[2]!.drop();
  expect(seen()).toEqual([false, true]);
  // And back, as its database is.
  await later(4);
  FakeSocket.all[3]!.open();
  FakeSocket.all[3]!.say(snapshot(4));
  expect(seen()).toEqual([true, true]);
});

it("leaves no tool waiting after a refusal, a lost connection or none", async () => {
  const { session, socket } = opened();
  const refused = session.tryPose(0, {});
  const lost = session.tryCommand(rename);
  const answered = session.tryPose(0, {});
  const [first, , third] = socket.sent.map((s) => s.n!);
  socket.say({ type: "refused", n: first, what: "Not like this.", where: "", remedy: "" });
  socket.say(pose(third!));
  socket.drop();
  expect(await refused).toBeNull();
  expect(await lost).toBeNull();
  expect((await answered)?.tried).toEqual({ "a.turn": [third] });
  expect(await session.tryPose(0, {})).toBeNull();
  expect(session.notices.store.getState().notices).toHaveLength(1);
});

it("keeps what a second hand tries while the first change is on its way", async () => {
  const { session, socket } = opened();
  const [first, second] = [{ tried: { a: [1] } }, { tried: { b: [2] } }] as never[];
  session.set({ pose: first });
  const done = session.submitTried(rename);
  await settled();
  requests[0]!.answer(200, { ...changed(5, "mine"), label: "Rename" });
  await settled();
  expect(session.get().pose).toBe(first);
  session.set({ pose: second });
  socket.say({ type: "settled", seq: 5 });
  expect(await done).toBe(true);
  expect(session.get().pose).toBe(second);
});

it("does not move the frame when another bench looks at the puppet at rest", () => {
  const { session, socket } = opened();
  session.set({ frame: 17 });
  const plan = {
    type: "plan",
    seq: 4,
    items: [],
    joints: [],
    matrices: new Uint8Array(),
    worlds: new Uint8Array(),
    rest: { matrices: new Uint8Array(), worlds: new Uint8Array() },
  };
  socket.say({ ...plan, frames: 1, target: { kind: "rest", puppet: "a" } });
  expect(session.get().frame).toBe(17);
  socket.say({ ...plan, frames: 12, target: { kind: "motion", motion: "m" } });
  expect(session.get().frame).toBe(11);
});

it("walks once, however quickly playing is stopped and started", () => {
  const { session } = opened();
  const steps: ((now: number) => void)[] = [];
  vi.stubGlobal("requestAnimationFrame", (step: (now: number) => void) => steps.push(step));
  session.set({ plan: { frames: 48 } as never });
  session.clock.play();
  session.clock.stop();
  session.clock.play();
  for (const step of steps.splice(0)) step(1000);
  expect(steps).toHaveLength(1);
});

it("lets an answer that comes after the trial was put back or made come too late", async () => {
  const { session, socket } = opened();
  const [late, later] = [session.tryPose(0, {}), session.tryPose(0, {})];
  session.putBack();
  const fresh = session.tryPose(0, {});
  for (const { n } of socket.sent) socket.say(pose(n!));
  expect(await Promise.all([late, later])).toEqual([null, null]);
  expect(await fresh).not.toBeNull();
});

it("lets an answer that comes after something else is watched come too late, and what waited is not asked", async () => {
  const { session, socket } = opened();
  const late = session.tryPose(0, {});
  const same = session.sameTrial();
  session.watch({ kind: "rest", puppet: "a" });
  const { n } = socket.sent.find((s) => s.type === "try-pose")!;
  socket.say(pose(n!));
  expect(await late).toBeNull();
  expect(same()).toBe(false);
});

it("tells where it is looked at in a long motion, in a production with a shot too", () => {
  const { session, socket } = opened();
  session.set({ shot: "s", bench: "motion", plan: { frames: 3, here: new Uint8Array([1, 0, 0]) } as never });
  session.set({ frame: 1 });
  expect(socket.sent.filter((s) => s.type === "playhead")).toEqual([{ type: "playhead", frame: 1 }]);
});
