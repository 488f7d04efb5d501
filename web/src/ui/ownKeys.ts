/** The user's own keys, kept by the browser: other keys for what shortcuts do, and whether single letters do anything. */
import { keep, kept } from "../kept";
import type { Shortcut } from "./shortcuts";

const LETTERS = "letter-keys";
const OWN = "own-keys";

let own: Record<string, string> | null = null;

function ownKeys(): Record<string, string> {
  if (!own) {
    try {
      own = JSON.parse(kept(OWN) ?? "{}") as Record<string, string>;
    } catch {
      own = {};
    }
  }
  return own;
}

/** Whether a single key by itself does anything: who speaks to the machine may say letters that are meant for no bench. */
export const lettersHeard = (): boolean => kept(LETTERS) !== "off";
export const hearLetters = (on: boolean): void => keep(LETTERS, on ? "on" : "off");

/** Whether a key that was pressed counts. */
export const heard = (pressed: string): boolean => !/^[^ ]$/.test(pressed) || lettersHeard();

/** The keys of a shortcut: the user's own, or those that it comes with. */
export const keysOf = (s: Shortcut): string[] => {
  const key = s.does && ownKeys()[s.does];
  return key ? [key] : s.keys;
};

/** Give what a shortcut does another key, or with null the one that it came with. */
export function setKey(does: string, key: string | null): void {
  const now = { ...ownKeys() };
  if (key) now[does] = key;
  else delete now[does];
  own = now;
  keep(OWN, JSON.stringify(now));
}

export const changed = (does: string): boolean => ownKeys()[does] !== undefined;
