"""Lists, trees and menus by keyboard alone, with the roles that assistive technology looks for."""

from __future__ import annotations

import re
from collections.abc import Callable
from datetime import UTC, datetime, timedelta

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.browser.hands import saved
from tests.browser.test_windows import gull
from tests.conftest import Service, change
from tests.service.test_http import documents


@pytest.fixture
def production(shared: Service) -> str:
    """A gull of four pieces, wing, tail and beak each on the body, and a tip on the wing."""
    id = gull(shared)
    client = shared.client()
    body = next(i for i, p in documents(client, id)["a"]["pieces"].items() if p["name"] == "body")
    joints = [{"id": n, "name": n, "at": [10 * i, 0], "parent": p} for i, (n, p) in enumerate(
        (("tail", body), ("tip", "tail"), ("beak", body))
    )]  # fmt: skip
    assert change(client, id, {"do": "add-joints", "puppet": "a", "joints": joints}).status_code == 200
    return id


def focused(page: Page) -> Locator:
    return page.locator(":focus")


def test_a_list_is_one_tab_stop_and_is_walked_by_arrows(
    shared: Service, production: str, new_page: Callable[..., Page]
) -> None:
    page = new_page()
    page.goto(f"{shared.address}/p/{production}/pieces")
    rows = page.get_by_role("row")
    expect(rows).to_have_count(2)
    expect(page.get_by_role("grid", name="Pieces")).to_have_attribute("aria-multiselectable", "true")
    assert rows.evaluate_all("rows => rows.map(r => r.tabIndex)") == [0, -1]
    before = documents(shared.client(), production)["a"]
    rows.first.focus()
    page.keyboard.press("ArrowDown")
    expect(rows.nth(1)).to_be_focused()
    chosen = page.locator('[role="row"][aria-selected="true"]')
    expect(chosen).to_have_count(1)
    page.keyboard.press("Shift+ArrowUp")
    expect(chosen).to_have_count(2)
    page.keyboard.press(" ")
    expect(rows.nth(0)).to_have_attribute("aria-selected", "false")
    expect(rows.nth(1)).to_have_attribute("aria-selected", "true")
    page.keyboard.press("Control+ArrowDown")
    expect(rows.nth(1)).to_be_focused()
    page.keyboard.press("Home")
    expect(rows.nth(0)).to_be_focused()
    expect(rows.nth(0)).to_have_attribute("aria-selected", "true")
    assert rows.evaluate_all("rows => rows.map(r => r.tabIndex)") == [0, -1]
    # What walks the list moves no piece; a step to the right are the buttons of a row, and a step to the left the row.
    page.keyboard.press("ArrowRight")
    expect(focused(page)).to_have_attribute("aria-label", re.compile("^Hide "))
    page.keyboard.press("ArrowRight")
    expect(focused(page)).to_have_attribute("aria-label", re.compile("^Lock "))
    page.keyboard.press("ArrowDown")
    expect(rows.nth(1)).to_be_focused()
    page.keyboard.press("Home")
    page.keyboard.press("ArrowLeft")
    expect(rows.nth(0)).to_be_focused()
    assert documents(shared.client(), production)["a"] == before
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Enter")
    saved(page)
    expect(focused(page)).to_have_attribute("aria-label", re.compile("^Show "))
    before = documents(shared.client(), production)["a"]
    # A row chosen by hand leaves the keys to the bench: they move the piece.
    rows.nth(1).click()
    page.keyboard.press("ArrowDown")
    saved(page)
    assert documents(shared.client(), production)["a"] != before


def test_a_tree_is_walked_along_what_hangs_on_what(
    shared: Service, production: str, new_page: Callable[..., Page]
) -> None:
    page = new_page()
    page.goto(f"{shared.address}/p/{production}/rig")
    tree = page.get_by_role("tree", name="What hangs on what")
    tail, tip = tree.get_by_role("treeitem", name="tail"), tree.get_by_role("treeitem", name="tip")
    expect(tip).to_be_visible()
    tail.click()
    expect(tail).not_to_be_focused()
    expect(tail).to_have_attribute("aria-selected", "true")
    tail.focus()
    assert tree.locator('[tabindex="0"]').count() == 1
    page.keyboard.press("ArrowRight")
    expect(tip).to_be_focused()
    expect(tip).to_have_attribute("aria-selected", "true")
    assert int(tip.get_attribute("aria-level") or 0) == int(tail.get_attribute("aria-level") or 0) + 1
    page.keyboard.press("ArrowRight")
    expect(tip).to_be_focused()
    page.keyboard.press("ArrowLeft")
    expect(tail).to_be_focused()
    # What is open is folded first, and what is folded is opened first.
    expect(tail).to_have_attribute("aria-expanded", "true")
    page.keyboard.press("ArrowLeft")
    expect(tail).to_have_attribute("aria-expanded", "false")
    expect(tip).to_have_count(0)
    page.keyboard.press("ArrowRight")
    expect(tip).to_be_visible()
    expect(tail).to_be_focused()
    page.keyboard.press("ArrowLeft")
    page.keyboard.press("ArrowLeft")
    expect(tree.get_by_role("treeitem", name="body")).to_be_focused()
    # Letters go to what begins with them; the same again to the next.
    now = datetime.now(UTC)
    page.clock.set_fixed_time(now)
    page.keyboard.press("t")
    expect(tail).to_be_focused()
    # After a while they begin anew. However long the machine takes, by this clock it is a moment or a minute.
    page.clock.set_fixed_time(now + timedelta(seconds=60))
    page.keyboard.type("bea")
    expect(tree.get_by_role("treeitem", name="beak")).to_be_focused()
    page.keyboard.press("Home")
    expect(tree.get_by_role("treeitem", name="Whole puppet")).to_be_focused()


def test_a_menu_is_opened_walked_and_left_by_keys(
    shared: Service, production: str, new_page: Callable[..., Page]
) -> None:
    page = new_page()
    page.goto(f"{shared.address}/p/{production}/pieces")
    button = page.get_by_role("button", name="Bring in art")
    expect(button).to_have_attribute("aria-haspopup", "menu")
    button.focus()
    page.keyboard.press("Enter")
    items = page.get_by_role("menu").get_by_role("menuitem")
    expect(items).to_have_count(5)
    expect(items.first).to_be_focused()
    page.keyboard.press("ArrowDown")
    expect(focused(page)).to_have_text("A folder of pictures…")
    page.keyboard.press("Escape")
    expect(page.get_by_role("menu")).to_have_count(0)
    expect(button).to_be_focused()
    # Choosing among several: each entry says whether it is the one.
    page.get_by_role("button", name="Gull").press("Enter")
    expect(page.get_by_role("menuitemradio", checked=True)).to_have_count(1)
