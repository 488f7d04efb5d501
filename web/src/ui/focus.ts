/**
 * Focus that never falls to the page itself: when what has it is removed, the next row of its list takes it, or else
 * what is nearest around it.
 */

const REACHED = "button, a[href], input, select, textarea, [tabindex]";

/** What can take the focus in an element, the element itself included. */
function first(element: Element): HTMLElement | null {
  const all = [element, ...element.querySelectorAll(REACHED)].filter(
    (e): e is HTMLElement =>
      e instanceof HTMLElement &&
      e.matches(REACHED) &&
      // The edge of a column has keys of its own for what elsewhere moves through the frames.
      !e.matches(":disabled, [role=separator]") &&
      e.getClientRects().length > 0,
  );
  return all.find((e) => e.tabIndex >= 0) ?? all[0] ?? null;
}

interface Focused {
  element: HTMLElement;
  /** From the nearest around it outwards. */
  around: Element[];
  /** Its place among the rows of its list. */
  row: number;
}

function focusedOn(element: HTMLElement): Focused {
  const around: Element[] = [];
  for (let e = element.parentElement; e; e = e.parentElement) around.push(e);
  const row = element.closest("[data-row]");
  const list = row?.parentElement?.closest("[role=listbox], [role=tree]");
  return { element, around, row: row && list ? [...list.querySelectorAll("[data-row]")].indexOf(row) : -1 };
}

/** Who takes the focus of something that is gone; null if nothing around it can. */
export function heir({ around, row }: Focused): HTMLElement | null {
  const left = around.filter((e) => e.isConnected);
  const list = row >= 0 ? left.find((e) => e.matches("[role=listbox], [role=tree]")) : undefined;
  const rows = list ? [...list.querySelectorAll<HTMLElement>("[data-row]")] : [];
  if (rows.length) return rows[Math.min(row, rows.length - 1)]!;
  for (const e of left) {
    // What is anywhere on the bench is no neighbour.
    if (e.matches("main, body, html")) break;
    const found = first(e);
    if (found) return found;
  }
  return document.querySelector<HTMLElement>("h1");
}

const TYPED = "textarea, input:not([type=range], [type=checkbox], [type=radio], [type=file], [type=color])";

/**
 * Let what is typed be said before a hand that closes elsewhere does anything: it was meant for the frame and the thing
 * that were there when it was typed. Gives what ends that.
 */
export function fieldsFirst(): () => void {
  const leave = ({ target }: PointerEvent) => {
    const field = document.activeElement;
    if (field instanceof HTMLElement && field.matches(TYPED) && target instanceof Node && !field.contains(target))
      field.blur();
  };
  document.addEventListener("pointerdown", leave, true);
  return () => document.removeEventListener("pointerdown", leave, true);
}

/** Watch over the focus. Gives what ends that. */
export function keepFocus(): () => void {
  let held: Focused | null = null;
  const came = (event: FocusEvent) => {
    held = event.target instanceof HTMLElement ? focusedOn(event.target) : null;
  };
  const left = (event: FocusEvent) => {
    const element = event.target;
    // What is still there was left on purpose.
    if (!event.relatedTarget)
      setTimeout(() => {
        if (held?.element === element && held.element.isConnected) held = null;
      });
  };
  const watcher = new MutationObserver(() => {
    if (!held || held.element.isConnected || document.activeElement !== document.body) return;
    const lost = held;
    held = null;
    // A dialog that closes gives the focus back by itself.
    requestAnimationFrame(() => {
      if (document.activeElement === document.body) heir(lost)?.focus({ preventScroll: true });
    });
  });
  document.addEventListener("focusin", came);
  document.addEventListener("focusout", left);
  watcher.observe(document.body, { childList: true, subtree: true });
  return () => {
    watcher.disconnect();
    document.removeEventListener("focusin", came);
    document.removeEventListener("focusout", left);
  };
}
