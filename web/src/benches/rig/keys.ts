/** The keys of the Rig bench. */
import { useMemo } from "react";
import { get, putBack, pickOut } from "../../session";
import { useShortcuts, type Shortcut } from "../../ui/shortcuts";
import { type Mode, moveJoint, removeJoint, unlink } from "./commands";

const ARROWS = [
  ["Left", "left", -1, 0],
  ["Right", "right", 1, 0],
  ["Up", "up", 0, -1],
  ["Down", "down", 0, 1],
] as const;

export function useRigKeys(mode: Mode, to: (mode: Mode) => void): void {
  const drawing = mode === "joints" || mode === "handles";
  const shortcuts = useMemo<Shortcut[]>(
    () => [
      { keys: ["l"], does: "Link pieces", run: () => to("link") },
      { keys: ["j"], does: "Draw joints", run: () => to("joints") },
      { keys: ["h"], does: "Set handles", run: () => to("handles") },
      { keys: ["t"], does: "Try a pose", run: () => to("try") },
      ...ARROWS.flatMap(([arrow, way, dx, dy]) => [
        {
          keys: [`Arrow${arrow}`],
          does: `Move the selected joint a unit ${way}, where joints are drawn (Shift: ten)`,
          run: () => drawing && moveJoint(dx, dy),
        },
        { keys: [`Shift+Arrow${arrow}`], run: () => drawing && moveJoint(10 * dx, 10 * dy) },
      ]),
      { keys: ["u"], does: "Unlink the selected joint", run: unlink },
      { keys: ["Delete", "Backspace"], does: "Remove the selected joint or handle", run: removeJoint },
      {
        keys: ["Escape"],
        does: "Put the trial pose back, or select nothing",
        run: () => (get().pose ? putBack() : pickOut({ joint: null, pieces: [] })),
      },
    ],
    [to, drawing],
  );
  useShortcuts(shortcuts);
}
