/** Keys on the keyboard: one list, from which both the handling and the sheet of shortcuts are made. */
import { useEffect } from "react";

export interface Shortcut {
  /** As `KeyboardEvent.key`, with Ctrl+ or Shift+ in front. */
  keys: string[];
  /** What the sheet says; a key that another line already tells of has none. */
  does?: string;
  run: () => void;
}

const named: Record<string, string> = {
  " ": "Space",
  ArrowLeft: "←",
  ArrowRight: "→",
  ArrowUp: "↑",
  ArrowDown: "↓",
  Escape: "Esc",
  Delete: "Del",
};
export const spell = (key: string): string =>
  key
    .split("+")
    .map((part, i, all) =>
      part === "" && i === all.length - 1 ? "+" : (named[part] ?? (part.length === 1 ? part.toUpperCase() : part)),
    )
    .join(" ");

const typing = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement &&
  (target.isContentEditable ||
    (target.matches("input, select, textarea") &&
      !target.matches("input[type=checkbox], input[type=range], input[type=radio]")));

function spelled(event: KeyboardEvent): string {
  const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
  const shift = event.shiftKey && (event.key.length > 1 || /[a-z]/i.test(event.key));
  return `${event.ctrlKey || event.metaKey ? "Ctrl+" : ""}${shift ? "Shift+" : ""}${key}`;
}

const layers: Shortcut[][] = [];
export const allShortcuts = (): Shortcut[] => layers.flat().filter((s) => s.does);

export function useShortcuts(shortcuts: Shortcut[]): void {
  useEffect(() => {
    layers.push(shortcuts);
    const listen = (event: KeyboardEvent) => {
      if (document.querySelector(".modal.show")) return;
      if (typing(event.target)) {
        // Escape leaves the field, so that the keys are the bench's again.
        if (event.key === "Escape") (event.target as HTMLElement).blur();
        else return;
      }
      const pressed = spelled(event);
      // A focused button keeps Space and Enter for itself.
      if (
        (pressed === " " || pressed === "Enter") &&
        event.target instanceof HTMLElement &&
        event.target.matches("button, a, [role=option]")
      )
        return;
      const found = shortcuts.find((s) => s.keys.includes(pressed));
      if (!found) return;
      event.preventDefault();
      found.run();
    };
    // While the event is still on its way down: a dialog that closes by it must be seen open.
    window.addEventListener("keydown", listen, true);
    return () => {
      layers.splice(layers.indexOf(shortcuts), 1);
      window.removeEventListener("keydown", listen, true);
    };
  }, [shortcuts]);
}
