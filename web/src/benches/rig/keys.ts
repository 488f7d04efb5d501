/** The keys of the Rig bench. */
import { useMemo } from "react";
import { get, putBack, set } from "../../session";
import { useShortcuts, type Shortcut } from "../../ui/shortcuts";
import { type Mode, removeJoint, unlink } from "./commands";

export function useRigKeys(to: (mode: Mode) => void): void {
  const shortcuts = useMemo<Shortcut[]>(
    () => [
      { keys: ["l"], does: "Link pieces", run: () => to("link") },
      { keys: ["j"], does: "Draw joints", run: () => to("joints") },
      { keys: ["h"], does: "Set handles", run: () => to("handles") },
      { keys: ["t"], does: "Try a pose", run: () => to("try") },
      { keys: ["u"], does: "Unlink the selected joint", run: unlink },
      { keys: ["Delete", "Backspace"], does: "Remove the selected joint or handle", run: removeJoint },
      {
        keys: ["i"],
        does: "Show the selected piece alone",
        run: () => set({ isolated: !get().isolated && get().pieces.length > 0 }),
      },
      {
        keys: ["Escape"],
        does: "Put the trial pose back, or select nothing",
        run: () => (get().pose ? putBack() : set({ joint: null, pieces: [] })),
      },
    ],
    [to],
  );
  useShortcuts(shortcuts);
}
