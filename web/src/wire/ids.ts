/**
 * Ids, made here. `crypto.randomUUID` exists only on this machine's own address and over TLS (W3C Secure Contexts);
 * `getRandomValues` is there on every page.
 */
const hex = (bytes: number): string =>
  Array.from(crypto.getRandomValues(new Uint8Array(bytes)), (byte) => byte.toString(16).padStart(2, "0")).join("");

/** An id of something in a production: 12 letters. */
export const freshId = (): string => hex(6);

/** An id that is unlike any other anywhere: of a window, of a change. 32 letters. */
export const uniqueId = (): string => hex(16);
