import { afterEach, expect, it, vi } from "vitest";
import { freshId, uniqueId } from "./ids";

afterEach(() => vi.unstubAllGlobals());

it("makes ids on a page that was opened under another name, over plain HTTP", () => {
  // There a browser has this of `crypto`, and nothing else (W3C Secure Contexts).
  const { crypto } = globalThis;
  vi.stubGlobal("crypto", { getRandomValues: (given: Uint8Array) => crypto.getRandomValues(given) });
  const ids = Array.from({ length: 1000 }, freshId);
  expect(ids.every((id) => /^[0-9a-f]{12}$/.test(id))).toBe(true);
  expect(new Set(ids).size).toBe(1000);
  expect(uniqueId()).toMatch(/^[0-9a-f]{32}$/);
});
