import { afterEach, expect, it, vi } from "vitest";
import { keep, kept, keptFields } from "./kept";

afterEach(() => vi.unstubAllGlobals());

it("lets the page start where nothing may be stored: all is as it comes", () => {
  const blocked = () => {
    throw new DOMException("The operation is insecure.", "SecurityError");
  };
  vi.stubGlobal("localStorage", { getItem: blocked, setItem: blocked });
  keep("theme", "dark");
  expect(kept("theme")).toBeNull();
  expect(keptFields("onion", { on: false })).toEqual({ on: false });
});

it("keeps what is chosen, by name, where it may", () => {
  const store = new Map<string, string>();
  vi.stubGlobal("localStorage", {
    getItem: (name: string) => store.get(name) ?? null,
    setItem: (name: string, value: string) => void store.set(name, value),
  });
  keep("onion", JSON.stringify({ on: true }));
  expect(keptFields("onion", { on: false, every: 2 })).toEqual({ on: true, every: 2 });
  expect([...store.keys()]).toEqual(["sorvan-onion"]);
});
