/** The keys of the Pieces bench. */
import { useMemo } from "react";
import { get, pickOut } from "../../session";
import type { DrawTool } from "../../stage/tools/draw";
import { swing } from "../../stage/tools/place";
import { useShortcuts, type Shortcut } from "../../ui/shortcuts";
import type { Puppet } from "../../wire/types";
import { copy, type Held, mirror, type Mode, outermost, remove, SHAPES, shove, step, TOUCHES } from "./commands";

export type PointEdit = "remove" | "corner" | "smooth";

interface Keys {
  puppet: Puppet | undefined;
  drawer: DrawTool | null;
  /** Whether Escape has a tool to leave. */
  leave: boolean;
  to: (mode: Mode) => void;
  held: Held;
  editPoint: (edit: PointEdit) => void;
}

export function usePiecesKeys({ puppet, drawer, leave, to, held, editPoint }: Keys): void {
  const shortcuts = useMemo<Shortcut[]>(
    () => [
      {
        keys: ["ArrowLeft"],
        does: "Move pieces, or the selected point or part, a unit left (Shift: ten)",
        run: () => shove(held, -1, 0),
      },
      { keys: ["ArrowRight"], does: "Move one unit right", run: () => shove(held, 1, 0) },
      { keys: ["ArrowUp"], does: "Move one unit up", run: () => shove(held, 0, -1) },
      { keys: ["ArrowDown"], does: "Move one unit down", run: () => shove(held, 0, 1) },
      { keys: ["Shift+ArrowLeft"], run: () => shove(held, -10, 0) },
      { keys: ["Shift+ArrowRight"], run: () => shove(held, 10, 0) },
      { keys: ["Shift+ArrowUp"], run: () => shove(held, 0, -10) },
      { keys: ["Shift+ArrowDown"], run: () => shove(held, 0, 10) },
      { keys: ["v"], does: "Place pieces", run: () => to("place") },
      ...SHAPES.map((s) => ({ keys: [s.keys], does: `Draw: ${s.kind}`, run: () => to(s.kind) })),
      ...TOUCHES.map((t) => ({ keys: [t.keys], does: t.label.split(":")[0]!, run: () => to(t.kind) })),
      { keys: ["o"], does: "Edit the points of a drawn shape", run: () => to("points") },
      { keys: ["c"], does: "Make the selected point a corner", run: () => editPoint("corner") },
      { keys: ["s"], does: "Make the selected point smooth", run: () => editPoint("smooth") },
      {
        keys: ["t"],
        does: "Try the turn of the selected piece",
        run: () => get().pieces[0] && swing(get().pieces[0]!),
      },
      { keys: ["m"], does: "Make the other side, mirrored", run: mirror },
      { keys: ["Ctrl+d"], does: "Make a plain copy, with its pins, links and bends", run: copy },
      { keys: ["Shift+PageUp"], does: "One step to the front", run: () => step("front") },
      { keys: ["Shift+PageDown"], does: "One step to the back", run: () => step("back") },
      { keys: ["Alt+PageUp"], does: "To the very front", run: () => outermost("front") },
      { keys: ["Alt+PageDown"], does: "To the very back", run: () => outermost("back") },
      {
        keys: ["Delete", "Backspace"],
        does: "Remove the selected point or pieces",
        run: () => (held.corner !== null ? editPoint("remove") : remove()),
      },
      { keys: ["Ctrl+a"], does: "Select all pieces", run: () => pickOut({ pieces: [...(puppet?.order ?? [])] }) },
      { keys: ["Enter"], does: "End an open polygon", run: () => drawer?.finish() },
      {
        keys: ["Escape"],
        does: "Leave the tool, or select nothing",
        run: () => {
          drawer?.drop();
          if (leave) to("place");
          else pickOut({ pieces: [], isolated: false, pose: null });
        },
      },
    ],
    [puppet, drawer, leave, to, held, editPoint],
  );
  useShortcuts(shortcuts);
}
