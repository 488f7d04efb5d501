import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { patiently, sendTurn, ServiceError, session, signIn } from "./http";

let user: string | null = null;
let asked: string[] = [];

beforeEach(() => {
  vi.stubGlobal("window", new EventTarget());
  asked = [];
  vi.stubGlobal("fetch", async (path: string, init?: RequestInit) => {
    asked.push(path);
    if (path === "/api/session" && init?.method === "POST")
      user = (JSON.parse(init.body as string) as { name: string }).name;
    else if (path !== "/api/session" && user === null) return new Response('{"status":401}', { status: 401 });
    return new Response(JSON.stringify({ sign_in: true, user, seq: 7 }));
  });
});
afterEach(() => vi.unstubAllGlobals());

const undone = () => patiently(() => sendTurn("p", "undo", { id: "1", window: "w", target: 3 }));

it("keeps what waits while nobody is signed in any more, and sends it when the same person is again", async () => {
  user = "Ada";
  await session();
  user = null;
  let done: unknown = null;
  const sent = undone().then((ack) => (done = ack));
  await session();
  await new Promise((go) => setTimeout(go, 5));
  expect(done).toBeNull();
  await signIn("Ada", "…");
  expect(await sent).toMatchObject({ seq: 7 });
  expect(asked.filter((path) => path.endsWith("undo"))).toHaveLength(2);
});

it("does not send what one person did once another has signed in", async () => {
  user = "Ada";
  await session();
  user = null;
  const sent = expect(undone()).rejects.toBeInstanceOf(ServiceError);
  await new Promise((go) => setTimeout(go, 5));
  await signIn("Dov", "…");
  await sent;
  expect(asked.filter((path) => path.endsWith("undo"))).toHaveLength(1);
});
