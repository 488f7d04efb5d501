/** The keyboard of the Voice bench: digits and letters put mouths in, also while it plays. */
import { useMemo } from "react";
import { get, goTo, puppetOf, stop, submit, toggle, toKey, pickOut } from "../../session";
import { mergeEntry, splitEntry, tap } from "../../ribbon/entries";
import { toggleRange } from "../../ribbon/Ribbon";
import { useShortcuts, type Shortcut } from "../../ui/shortcuts";
import type { Exposed } from "../../wire/types";
import { keptHand, makeMouths, putMouth } from "./commands";
import { DIGITS } from "./MouthCard";

/** What keys put in: mouths, or boundaries of sounds tapped along. */
export type Typing = "mouths" | "sounds";

const mouths = () => Object.values(puppetOf(get())?.mouths?.mouths ?? {});

export function useVoiceKeys(exposed: Exposed | undefined, typing: Typing): void {
  const putting = useMemo<Shortcut[]>(() => {
    const letters = Object.entries(exposed?.letters ?? {});
    return [
      ...DIGITS.map((digit, n) => ({
        keys: [digit],
        does: n === 0 ? "Digits 1 to 0 put in the mouths of the grid, Shift with them the further ten" : undefined,
        run: () => {
          const mouth = mouths()[n];
          if (mouth) putMouth({ mouth: mouth.id });
        },
      })),
      ...letters.map(([letter, id], n) => ({
        keys: [letter],
        does: n === 0 ? "Letters put in the mouth of their sound: M, F, S, L, E, H, A, O, U; X rests" : undefined,
        run: () => (typing === "sounds" ? tap(TAPPED[letter] ?? "", keptHand().late) : putMouth({ mouth: id })),
      })),
    ];
  }, [exposed, typing]);
  useShortcuts(putting, true);
  const shortcuts = useMemo<Shortcut[]>(
    () => [
      { keys: [" "], does: "Play and pause", run: toggle },
      { keys: ["ArrowRight"], does: "Next frame", run: () => goTo(get().frame + 1) },
      { keys: ["ArrowLeft"], does: "Frame before", run: () => goTo(get().frame - 1) },
      { keys: ["Home"], does: "First frame", run: () => goTo(0) },
      { keys: ["End"], does: "Last frame", run: () => goTo((get().plan?.frames ?? 1) - 1) },
      { keys: ["."], does: "Next key", run: () => toKey(1) },
      { keys: [","], does: "Key before", run: () => toKey(-1) },
      { keys: ["ArrowDown"], does: "The next mouth of the set on this frame", run: () => putMouth({ by: 1 }) },
      { keys: ["ArrowUp"], does: "The mouth before it", run: () => putMouth({ by: -1 }) },
      { keys: ["Enter"], does: "Make the line's mouths", run: () => void makeMouths() },
      { keys: ["q"], does: "Play the selected word or sound round and round", run: toggleRange },
      { keys: ["/"], does: "Split the selected word or sound", run: splitEntry },
      {
        keys: ["Backspace", "Delete"],
        does: "Merge the selected word or sound with the one before, or remove the selected mouth",
        run: () => {
          const { entry, motion, keys } = get();
          if (entry) mergeEntry();
          else if (motion && keys.length) void submit({ do: "remove-keys", motion, keys });
        },
      },
      {
        keys: ["Escape"],
        does: "Stop, and select nothing",
        run: () => {
          stop();
          pickOut({ entry: null, keys: [], range: null });
        },
      },
    ],
    [],
  );
  useShortcuts(shortcuts);
}

/** The sound that a letter taps in. */
const TAPPED: Record<string, string> = {
  m: "M", b: "B", p: "P", f: "F", v: "V", s: "S", t: "T", k: "K", l: "L", e: "IY", i: "IH", h: "AH", a: "AA", o: "AO",
  u: "UW", w: "W", r: "R", x: "",
}; // prettier-ignore
