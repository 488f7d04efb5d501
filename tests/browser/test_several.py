"""Several joints in hand at once: taken in every way, keyed, eased, put back to rest and given to the other side."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pytest
from playwright.sync_api import Locator, Page, expect

from tests.browser.figures import porter
from tests.browser.hands import Sheet, Stage, saved, settle
from tests.browser.test_tasks import evaluated, go, joint, motion, opened
from tests.conftest import Service, change

LEGS = [f"{side} {part}" for side in ("near", "far") for part in ("thigh", "shin", "foot")]


def in_hand(page: Page) -> list[str]:
    """What the tree says is taken, in its order."""
    rows = page.get_by_role("tree", name="What hangs on what").get_by_role("treeitem", selected=True)
    return [row.locator(".name").inner_text() for row in rows.all()]


def row(page: Page, name: str) -> Locator:
    return page.get_by_role("treeitem").filter(has=page.get_by_title(name, exact=True)).first


def test_joints_are_taken_together_and_what_is_done_is_done_to_all(
    shared: Service, new_page: Callable[..., Page]
) -> None:
    production, client, ids = porter(shared)
    turns = {"near thigh": 30, "far thigh": -10, "near shin": 20, "near foot": -15, "far upper arm": 12}
    keys = [
        {"joint": ids[name], "kind": "turn", "frame": frame, "value": [value * frame / 12]}
        for name, value in turns.items()
        for frame in (0, 12)
    ]
    change(client, production, {"do": "set-keys", "motion": "m", "keys": keys})
    page = opened(new_page, shared, production)
    go(page, 12)
    posed = evaluated(page, shared)

    # In the tree: one, those up to another, one more, one less.
    row(page, "near thigh").click()
    row(page, "near foot").click(modifiers=["Shift"])
    assert in_hand(page) == ["near thigh", "near shin", "near foot"]
    row(page, "far thigh").click(modifiers=["Control"])
    assert in_hand(page) == ["near thigh", "near shin", "near foot", "far thigh"]
    row(page, "near shin").click(modifiers=["Control"])
    row(page, "far thigh").click(modifiers=["Control"])
    assert in_hand(page) == ["near thigh", "near foot"]
    expect(page.get_by_role("heading", name="2 joints at frame 13")).to_be_visible()

    # K keys them in turn and place, and says how much that is; nothing moves.
    page.locator(".stage").focus()
    page.keyboard.press("k")
    expect(page.get_by_text("Key 2 joints at frame 13: 4 threads")).to_be_visible()
    saved(page)
    keyed = {id for id, c in motion(page, shared)["channels"].items() if "12" in c["keys"] and id.endswith("move")}
    assert keyed == {f"{ids[name]}.move" for name in ("near thigh", "near foot")}
    assert np.allclose(evaluated(page, shared).worlds, posed.worlds)

    # Back to rest, all of them in one step: those and nothing else.
    page.keyboard.press("Shift+r")
    saved(page)
    now = motion(page, shared)["channels"]
    value = {name: now[f"{ids[name]}.turn"]["keys"]["12"]["value"][0] for name in turns}
    assert value == {**turns, "near thigh": 0, "near foot": 0}
    page.keyboard.press("Control+z")
    saved(page)
    assert np.allclose(evaluated(page, shared).worlds, posed.worlds)

    # The whole leg, of which one joint is in hand; then the other side gets what it holds.
    joint(page, "near foot")
    page.get_by_role("button", name="Back to rest", exact=True).click()
    page.get_by_role("menuitem", name="The whole right leg").click()
    saved(page)
    now = motion(page, shared)["channels"]
    assert [now[f"{ids[f'near {p}']}.turn"]["keys"]["12"]["value"][0] for p in ("thigh", "shin", "foot")] == [0, 0, 0]
    assert now[f"{ids['far thigh']}.turn"]["keys"]["12"]["value"] == [-10]
    page.locator(".stage").focus()
    page.keyboard.press("Control+z")
    saved(page)
    row(page, "near thigh").click()
    row(page, "near shin").click(modifiers=["Control"])
    page.get_by_role("button", name="The other side").click()
    page.get_by_role("menuitem", name="Gets what this side holds").click()
    saved(page)
    now = motion(page, shared)["channels"]
    both = {name: now[f"{ids[name]}.turn"]["keys"]["12"]["value"][0] for name in LEGS if f"{ids[name]}.turn" in now}
    assert both == {"near thigh": 30, "near shin": 20, "near foot": -15, "far thigh": 30, "far shin": 20}

    # The gaps at the frame of all of them get one ease.
    go(page, 6)
    page.get_by_role("button", name="Keys of what is in hand").click()
    page.get_by_role("menuitem", name="Ease the gaps at this frame").click()
    page.get_by_role("group", name="Way to the next").get_by_text("Hold").click()
    saved(page)
    now = motion(page, shared)["channels"]
    held = {id for id, c in now.items() if c["keys"].get("0", {}).get("ease", {}).get("kind") == "hold"}
    assert held == {f"{ids[n]}.{k}" for n, k in (("near thigh", "turn"), ("near shin", "turn"), ("near thigh", "move"))}


def test_joints_are_taken_by_a_box_by_clicks_by_names_and_all_keys_at_once(
    shared: Service, new_page: Callable[..., Page]
) -> None:
    production, client, ids = porter(shared)
    keys = [
        {"joint": ids[name], "kind": "turn", "frame": frame, "value": [frame]}
        for name in ("near thigh", "far thigh")
        for frame in (0, 8)
    ]
    change(client, production, {"do": "set-keys", "motion": "m", "keys": keys})
    page = opened(new_page, shared, production)
    stage = Stage(page)
    places = {}
    for name in LEGS:
        box = page.locator(f"[data-handle='joint:{ids[name]}']").bounding_box()
        assert box is not None
        places[name] = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    # A box from empty paper round both ankles; while it is drawn it is seen.
    feet = [places["near foot"], places["far foot"]]
    left, top = min(x for x, _ in feet) - 90, min(y for _, y in feet) - 6
    right, bottom = max(x for x, _ in feet) + 12, max(y for _, y in feet) + 8
    page.mouse.move(left, top)
    page.mouse.down()
    page.mouse.move(right, bottom, steps=4)
    drawn_box = page.locator("[data-boxed]").bounding_box()
    assert drawn_box is not None and drawn_box["width"] == pytest.approx(right - left, abs=2)
    page.mouse.up()
    expect(page.locator("[data-boxed]")).to_have_count(0)
    assert sorted(in_hand(page)) == ["far foot", "near foot"]
    # A click with Shift takes one more, and lets go of it again; a click on empty paper lets go of all.
    page.keyboard.down("Shift")
    page.mouse.click(*places["near thigh"])
    assert sorted(in_hand(page)) == ["far foot", "near foot", "near thigh"]
    page.mouse.click(*places["near foot"])
    assert sorted(in_hand(page)) == ["far foot", "near thigh"]
    page.keyboard.up("Shift")
    saved(page)
    assert motion(page, shared)["channels"].keys() == {f"{ids[n]}.turn" for n in ("near thigh", "far thigh")}
    stage.element.click(position={"x": 6, "y": 40})
    assert in_hand(page) == []
    # Names on the sheet take their joints and keys, with Ctrl several.
    sheet = Sheet(page)
    sheet.name("near thigh", "turn").click()
    sheet.name("far thigh", "turn").click(modifiers=["Control"])
    assert sorted(in_hand(page)) == ["far thigh", "near thigh"]
    expect(page.get_by_role("button", name="Edit what is selected")).to_contain_text("4 keys")
    stage.element.click(position={"x": 6, "y": 40})
    sheet.area.click(position={"x": 300, "y": 4})
    expect(page.get_by_role("button", name="Edit what is selected")).not_to_contain_text("keys")
    # All keys at once, and they move together.
    page.keyboard.press("Control+a")
    expect(page.get_by_role("button", name="Edit what is selected")).to_contain_text("4 keys")
    page.keyboard.press("Alt+ArrowRight")
    saved(page)
    settle(page)
    assert {tuple(map(int, c["keys"])) for c in motion(page, shared)["channels"].values()} == {(1, 9)}
    # On a ring the gap before the first key is the one that leads over the end.
    go(page, 0)
    row(page, "near thigh").click()
    page.get_by_role("button", name="Keys of what is in hand").click()
    page.get_by_role("menuitem", name="Ease the gaps at this frame").click()
    expect(page.get_by_role("button", name="Edit what is selected")).to_contain_text("1 key")
