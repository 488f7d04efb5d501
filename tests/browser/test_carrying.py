"""Rows and cards are carried by a finger as by a mouse, lists still scroll, and Escape lets go of what is carried."""

from __future__ import annotations

import re
from collections.abc import Callable

from playwright.sync_api import CDPSession, Locator, Page, expect

from tests.browser.hands import document, drawn, eventually, saved, settle
from tests.conftest import Demo


def middle(thing: Locator) -> dict[str, float]:
    thing.scroll_into_view_if_needed()
    box = thing.bounding_box()
    assert box
    return {"x": box["x"] + box["width"] / 2, "y": box["y"] + box["height"] / 2}


class Finger:
    """A finger on a screen that is touched."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.touch: CDPSession = page.context.new_cdp_session(page)
        self.touch.send("Emulation.setTouchEmulationEnabled", {"enabled": True})

    def tell(self, what: str, *at: dict[str, float]) -> None:
        self.touch.send("Input.dispatchTouchEvent", {"type": what, "touchPoints": list(at)})

    def carry(self, thing: Locator, onto: Locator) -> None:
        start = middle(thing)
        self.tell("touchStart", start)
        # It stays for a moment, until what it holds is held.
        expect(self.page.locator(".carried span")).to_be_visible()
        end = middle(onto)
        for part in (0.5, 1.0, 1.0):
            self.tell("touchMove", {k: start[k] + part * (end[k] - start[k]) for k in start})
            settle(self.page)
        self.tell("touchEnd")
        expect(self.page.locator(".carried span")).to_have_count(0)


def test_a_finger_carries_pieces_joints_and_shots_and_scrolls_the_list(
    demo: Demo, new_page: Callable[..., Page]
) -> None:
    page = new_page()
    page.goto(demo.at("shots"))
    drawn(page)
    finger = Finger(page)
    order = lambda: document(page, demo.address, "production")["shots"]  # noqa: E731
    first, second, *others = order()
    cards = page.locator(".shot-card")
    finger.carry(cards.nth(1), cards.nth(0))
    saved(page)
    eventually(order, [second, first, *others])

    # One of the cast before another, though cards that are scrolled away lie beneath: what is seen there takes it.
    cast = page.locator(".shot-row:has(.name)")
    names = cast.locator(".name").all_inner_texts()
    start, end = middle(cast.nth(2).locator(".row-head")), middle(cast.nth(0).locator(".row-head"))
    page.mouse.move(start["x"], start["y"])
    page.mouse.down()
    page.mouse.move(end["x"], end["y"], steps=5)
    expect(cast.nth(0)).to_have_class(re.compile("dropping"))
    page.mouse.up()
    saved(page)
    expect(cast.locator(".name")).to_have_text([names[2], *names[:2], *names[3:]])

    page.goto(demo.at("pieces"))
    drawn(page)
    rows = page.get_by_role("grid", name="Pieces, front first").locator("[role=row]:has(.name)")
    third = rows.nth(2)
    name = third.locator(".name").inner_text()
    finger.carry(third, rows.nth(0))
    saved(page)
    expect(rows.nth(0).locator(".name")).to_have_text(name)

    # A finger that goes at once scrolls, and carries nothing.
    sheet = page.get_by_role("grid", name="Pieces, front first")
    names = rows.locator(".name").all_inner_texts()
    at = middle(rows.nth(3))
    finger.tell("touchStart", at)
    for n in range(1, 9):
        finger.tell("touchMove", {"x": at["x"], "y": at["y"] - 12 * n})
    finger.tell("touchEnd")
    eventually(lambda: sheet.evaluate("e => e.scrollTop") > 30, True)
    expect(page.locator(".carried span")).to_have_count(0)
    assert rows.locator(".name").all_inner_texts() == names


def test_escape_lets_go_of_what_is_carried_and_of_nothing_else(demo: Demo, new_page: Callable[..., Page]) -> None:
    page = new_page()
    page.goto(demo.at("pieces"))
    drawn(page)
    rows = page.get_by_role("grid", name="Pieces, front first").locator("[role=row]:has(.name)")
    rows.nth(1).click()
    expect(rows.nth(1)).to_have_attribute("aria-selected", "true")
    names = rows.locator(".name").all_inner_texts()
    start, end = middle(rows.nth(2)), middle(rows.nth(0))
    page.mouse.move(start["x"], start["y"])
    page.mouse.down()
    page.mouse.move(end["x"], end["y"], steps=4)
    expect(page.locator(".carried span")).to_have_text(names[2])
    expect(rows.nth(0)).to_have_class(re.compile("drop-above"))
    aloud = page.get_by_role("status").filter(has_text=names[2])
    expect(aloud).to_have_text(f"{names[2]} is carried.")
    page.keyboard.press("Escape")
    expect(aloud).to_have_text(f"{names[2]} is let go.")
    expect(page.locator(".carried span")).to_have_count(0)
    page.mouse.up()
    settle(page)
    assert rows.locator(".name").all_inner_texts() == names
    expect(rows.nth(1)).to_have_attribute("aria-selected", "true")
    # Let go, the next press is a press again, and a hand that slips two pixels too.
    page.mouse.move(start["x"], start["y"])
    page.mouse.down()
    page.mouse.move(start["x"] + 2, start["y"])
    page.mouse.up()
    expect(rows.nth(2)).to_have_attribute("aria-selected", "true")
