/** Keys on the keyboard: one list, from which both the handling and the sheet of shortcuts are made. */
import { useEffect } from "react";
import { heard, keysOf } from "./ownKeys";

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
      !target.matches("input[type=checkbox], input[type=range], input[type=radio], input[type=color]")));

const SLIDING = ["ArrowLeft", "ArrowRight", "ArrowUp", "ArrowDown", "Home", "End", "PageUp", "PageDown", "Enter"];

const DELETES = "[data-row], .stage, .stage-cell, .timing, .rows-cell, .ribbon-cell, h1";

/** Keys that what has the focus keeps for itself (WAI-ARIA patterns of slider, radio group, button, option). */
function keeps(target: EventTarget | null, pressed: string): boolean {
  if (!(target instanceof HTMLElement)) return false;
  // Only what lies on the bench can be deleted from: a row, the stage, the sheet; not a button of a panel.
  if (/(Delete|Backspace)$/.test(pressed) && target !== document.body && !target.closest(DELETES)) return true;
  if (target.matches("input[type=range], input[type=radio], [role=slider]"))
    return SLIDING.includes(pressed.replace("Shift+", ""));
  if (target.matches("input[type=checkbox], input[type=color]")) return pressed === " " || pressed === "Enter";
  return target.matches("button, a, summary, [role=option]") && (pressed === " " || pressed === "Enter");
}

/** On a layout without Latin letters a key is told by its place. */
function letter(event: KeyboardEvent): string {
  const key = event.key.toLowerCase();
  const placed = /^Key([A-Z])$/.exec(event.code)?.[1]?.toLowerCase();
  return placed && key.charCodeAt(0) > 127 ? placed : key;
}

/** With Shift these make another sign on each layout, and are told by their place; where they themselves need Shift, they
 * are what they are. */
const SIGNS: Record<string, string> = { Comma: ",", Period: "." };

export function spelled(event: KeyboardEvent): string {
  const sign = event.shiftKey && event.key !== "," && event.key !== "." ? SIGNS[event.code] : undefined;
  const key = sign ?? (event.key.length === 1 ? letter(event) : event.key);
  const shift = event.shiftKey && (!!sign || event.key.length > 1 || /[a-z]/i.test(event.key));
  const control = event.ctrlKey || event.metaKey;
  return `${control ? "Ctrl+" : ""}${event.altKey ? "Alt+" : ""}${shift ? "Shift+" : ""}${key}`;
}

const layers: Shortcut[][] = [];
export const allShortcuts = (): Shortcut[] => layers.flat().filter((s) => s.does);

/** The key that does now what this one came to do. */
export const keyNow = (key: string): string => {
  const found = layers.flat().find((s) => s.does && s.keys.includes(key));
  return found ? keysOf(found)[0]! : key;
};

const held: (() => void)[] = [];

/** While something is held, Escape lets go of it and of nothing else. Gives back what ends the holding. */
export function holding(cancel: () => void): () => void {
  held.push(cancel);
  return () => {
    const at = held.lastIndexOf(cancel);
    if (at >= 0) held.splice(at, 1);
  };
}

/** Whether a dialog or a menu was open when the key went down: by its handling it may have closed. */
let dialog = false;

/** The last thing held is let go of by Escape. */
function letGo(event: KeyboardEvent): void {
  dialog = document.querySelector(".modal.show, .dropdown-menu.show") !== null;
  const cancel = event.key === "Escape" ? held.at(-1) : undefined;
  if (!cancel) return;
  event.preventDefault();
  event.stopImmediatePropagation();
  cancel();
}
// Before everybody else: whoever listens for Escape must not hear the one that ends a drag.
if (typeof window !== "undefined") window.addEventListener("keydown", letGo, true);

/** Leave a field with what it held before; its keys are the bench's again. */
function drop(field: HTMLInputElement): void {
  if (field.defaultValue !== undefined) field.value = field.defaultValue;
  field.blur();
}

/** `first`: they come before those of the page around the bench, as where a bench has another use for the digits. */
export function useShortcuts(shortcuts: Shortcut[], first = false): void {
  useEffect(() => {
    layers.push(shortcuts);
    const listen = (event: KeyboardEvent) => {
      if (dialog || event.defaultPrevented) return;
      if (typing(event.target)) {
        if (event.key === "Escape") drop(event.target as HTMLInputElement);
        return;
      }
      const pressed = spelled(event);
      if (keeps(event.target, pressed)) return;
      const found = shortcuts.find((s) => keysOf(s).includes(pressed));
      if (!found || !heard(pressed)) return;
      event.preventDefault();
      if (first) event.stopPropagation();
      found.run();
    };
    // On its way back up: a field or slider that means something by a key has the first word.
    // What comes first hears of it at the document, below the window where all others listen.
    const where: EventTarget = first ? document : window;
    where.addEventListener("keydown", listen as EventListener);
    return () => {
      layers.splice(layers.indexOf(shortcuts), 1);
      where.removeEventListener("keydown", listen as EventListener);
    };
  }, [shortcuts, first]);
}
