"""Acts of a hand, counted in the page: presses and drags, keys, values typed, files dropped, choices of a list."""

from __future__ import annotations

from playwright.sync_api import Page

COUNTING = """
window.acts = [];
const act = (what, on) => window.acts.push(what + " " + (on?.getAttribute?.("aria-label") || on?.textContent || on?.id || "")
  .trim().replace(/\\s+/g, " ").slice(0, 40));
const written = (e) => e.matches?.("input:not([type=checkbox]):not([type=radio]):not([type=range]):not([type=file]), textarea");
let dirty = null;
addEventListener("pointerdown", (e) => {
  if (e.button === 0 && !e.target.closest?.("select")) act("press", e.target.closest?.("button, [role], label, .stage") ?? e.target);
}, true);
addEventListener("input", (e) => { if (written(e.target)) dirty = e.target; }, true);
addEventListener("focusout", (e) => { if (dirty === e.target) { dirty = null; act("type", e.target); } }, true);
addEventListener("change", (e) => {
  if (e.target.matches("select")) { act("open", e.target); act("choose", e.target); }
  if (e.target.matches("input[type=file]")) act("drop", e.target);
}, true);
addEventListener("keydown", (e) => {
  if (["Shift", "Control", "Alt", "Meta"].includes(e.key)) return;
  if (!written(e.target)) return act("key " + e.key, null);
  if (e.key === "Enter" && dirty === e.target) { dirty = null; act("type", e.target); }
}, true);
"""
"""A value typed counts once, with the Enter that ends it; a list twice, since one opens it and chooses."""


def counting(page: Page) -> None:
    """Count from the next page on."""
    page.add_init_script(COUNTING)


def counted(page: Page, task: str, at_most: int) -> None:
    """Say how many acts a task took, and hold it to what it took before."""
    acts: list[str] = page.evaluate("window.acts")
    print(f"\nacts: {task}: {len(acts)} (held to {at_most})")
    assert len(acts) <= at_most, "\n".join(acts)
