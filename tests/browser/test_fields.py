"""Fields, sliders and drags: what shows while it moves commits once, and Escape drops it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from tests.browser.hands import Sheet, Stage, document, drawn, eventually, saved, settle, snapshot
from tests.browser.test_motion import channels, go
from tests.browser.test_windows import gull
from tests.conftest import Service, change
from tests.service.test_http import documents

ODD = [1.23456789012345, 9.87654321098765]
"""Numbers that a float32 can't hold."""


@pytest.fixture
def page(shared: Service, new_page: Callable[..., Page]) -> Page:
    """The Motion bench with a gull whose wing has a dial, another drawing, and some keys."""
    production, client = gull(shared), shared.client()
    ids = {p["name"]: p["id"] for p in documents(client, production)["a"]["pieces"].values()}
    wing = ids["wing"]
    dial = {"id": "d", "name": "lift", "stops": [{"at": 0}, {"at": 100, "values": {f"{wing}.turn": [90]}}]}
    art = documents(client, production)["a"]["pieces"][ids["body"]]["drawings"][0]
    commands: list[dict[str, Any]] = [
        {"do": "link-joint", "puppet": "a", "joint": wing, "parent": ids["body"]},
        {"do": "set-dial", "puppet": "a", "dial": dial},
        {"do": "add-drawings", "puppet": "a", "piece": wing, "drawings": [{**art, "id": "other"}]},
        {"do": "add-motion", "id": "m", "puppet": "a", "name": "flap", "length": 24},
    ]
    keys = [{"joint": wing, "kind": "move", "frame": f, "value": ODD} for f in (0, 8)]
    keys += [{"joint": wing, "kind": "show", "frame": f, "value": [0]} for f in (0, 8)]
    commands.append({"do": "set-keys", "motion": "m", "keys": keys})
    for command in commands:
        assert change(client, production, command).status_code == 200
    opened = new_page()
    opened.goto(f"{shared.address}/p/{production}/motion")
    drawn(opened)
    return opened


def seq(page: Page, service: Service) -> int:
    return int(snapshot(page, service.address)["seq"])


def frame(page: Page) -> str:
    return page.get_by_label("Frame", exact=True).input_value()


def test_a_slider_keeps_its_keys_and_keys_once(shared: Service, page: Page) -> None:
    before = seq(page, shared)
    dial = page.get_by_label("lift at this frame")
    dial.focus()
    page.keyboard.press("Tab")
    page.keyboard.press("Shift+Tab")
    for key in ("ArrowRight", "ArrowRight", "End", "Home", "ArrowRight"):
        page.keyboard.press(key)
    settle(page)
    assert float(dial.input_value()) == 1 and frame(page) == "1"
    page.keyboard.press("Escape")
    settle(page)
    assert float(dial.input_value()) == 0 and seq(page, shared) == before, "nothing was keyed on the way"
    page.keyboard.press("End")
    page.keyboard.press("Enter")
    saved(page)
    assert seq(page, shared) == before + 1
    motion = document(page, shared.address, "motion")
    assert motion["channels"]["d.dial"]["keys"]["0"]["value"] == [100]
    page.locator(".stage").focus()
    page.keyboard.press("Alt+ArrowRight")
    assert frame(page) == "1", "Alt with an arrow is the browser's"
    page.keyboard.press("ArrowRight")
    assert frame(page) == "2"


def test_escape_drops_what_was_typed_and_lets_nothing_else_go(shared: Service, page: Page) -> None:
    page.get_by_role("treeitem").filter(has_text="wing").click()
    before = seq(page, shared)
    field = page.get_by_role("textbox", name="Turn")
    field.fill("77")
    field.press("Escape")
    assert field.input_value() == "0"
    expect(page.get_by_role("heading", name="wing at frame 1")).to_be_visible()
    saved(page)
    assert seq(page, shared) == before


def test_a_typed_number_leaves_its_neighbour_exactly_as_it_was(shared: Service, page: Page) -> None:
    page.get_by_role("treeitem").filter(has_text="wing").click()
    page.get_by_role("textbox", name="Across").fill("5")
    page.get_by_role("textbox", name="Across").press("Enter")
    saved(page)
    assert channels(page, shared)["wing.move"]["keys"]["0"]["value"] == [5, ODD[1]]
    page.goto(page.url.replace("/motion", "/pieces"))
    Stage(page)
    page.get_by_role("row", name="wing").first.click()
    id = next(p["id"] for p in document(page, shared.address, "puppet")["pieces"].values() if p["name"] == "wing")
    place = {"do": "place-piece", "puppet": "a", "piece": id, "x": ODD[0], "y": ODD[1], "angle": 0, "sx": 1, "sy": 1}
    change(shared.client(), page.url.split("/p/")[1].split("/")[0], place)
    expect(page.get_by_role("textbox", name="Down")).to_have_value("9.9")
    page.get_by_role("textbox", name="Across").fill("5")
    page.get_by_role("textbox", name="Across").press("Enter")
    saved(page)
    puppet = document(page, shared.address, "puppet")
    body = puppet["joints"][puppet["joints"][id]["parent"]]["rest"]
    rest = puppet["joints"][id]["rest"]
    assert body["y"] + rest["y"] == pytest.approx(ODD[1], abs=1e-12)


def test_a_number_goes_to_the_frame_it_was_typed_for(shared: Service, page: Page) -> None:
    page.get_by_role("treeitem").filter(has_text="wing").click()
    go(page, 5)
    page.get_by_role("textbox", name="Turn").fill("40")
    # The hand goes straight to another frame.
    box = page.get_by_role("slider", name="Ruler").bounding_box()
    assert box is not None
    page.mouse.click(box["x"] + 12.5 * Sheet(page).step, box["y"] + 8)
    saved(page)
    assert frame(page) == "13"
    keys = channels(page, shared)["wing.turn"]["keys"]
    assert keys["4"]["value"] == [40] and "12" not in keys


def test_an_arrow_that_is_held_is_one_change_and_no_step_is_lost(shared: Service, page: Page) -> None:
    page.get_by_role("treeitem").filter(has_text="wing").click()
    page.evaluate(
        """() => { const send = window.fetch;
            window.fetch = async (...a) => { if (a[1]) await new Promise((d) => setTimeout(d, 300)); return send(...a); } }"""
    )
    before, turn = seq(page, shared), page.get_by_role("textbox", name="Turn")
    turn.focus()
    for _ in range(3):
        page.keyboard.down("ArrowUp")
    page.keyboard.up("ArrowUp")
    # Two more before the first has come back.
    page.keyboard.press("ArrowUp")
    page.keyboard.press("Shift+ArrowDown")
    assert turn.input_value() == "-6"
    eventually(lambda: channels(page, shared).get("wing.turn", {}).get("keys", {}).get("0", {}).get("value"), [-6])
    saved(page)
    assert seq(page, shared) == before + 3 and turn.input_value() == "-6"


def test_enter_in_a_field_that_was_not_touched_keys_exactly_what_is_there(shared: Service, page: Page) -> None:
    page.get_by_role("treeitem").filter(has_text="wing").click()
    go(page, 9)
    expect(page.get_by_role("textbox", name="Across")).to_have_value("1.2")
    page.get_by_role("textbox", name="Across").press("Enter")
    saved(page)
    assert channels(page, shared)["wing.move"]["keys"]["8"]["value"] == ODD


def test_a_drawing_is_never_added_up(page: Page) -> None:
    def offered(kind: str) -> list[str]:
        Sheet(page).click("wing", kind, 8)
        return [str(o.get_attribute("value")) for o in page.get_by_label("Beyond the keys").locator("option").all()]

    assert "repeat-and-add" not in offered("drawing")
    assert "repeat-and-add" in offered("place")


def test_a_bead_let_go_of_by_escape_or_lost_goes_nowhere(shared: Service, page: Page) -> None:
    before = seq(page, shared)
    sheet = Sheet(page)
    sheet.pull("wing", "place", 8, 12)
    page.keyboard.press("Escape")
    page.mouse.up()
    sheet.pull("wing", "place", 8, 12)
    page.evaluate(
        "document.querySelector('.threads').dispatchEvent("
        "new PointerEvent('pointercancel', {pointerId: 1, bubbles: true}))"
    )
    page.mouse.up()
    saved(page)
    assert seq(page, shared) == before
    sheet.drag("wing", "place", 8, 12)
    saved(page)
    assert sorted(channels(page, shared)["wing.move"]["keys"]) == ["0", "12"]


def test_escape_during_a_drag_lets_go_of_the_drag_and_keeps_the_selection(shared: Service, page: Page) -> None:
    stage, before = Stage(page), seq(page, shared)
    go(page, 20)
    page.get_by_role("treeitem").filter(has_text="wing").click()
    page.mouse.move(*stage.place((70, 60)))
    page.mouse.down()
    page.mouse.move(*stage.place((60, 80)), steps=5)
    page.keyboard.press("Escape")
    page.mouse.move(*stage.place((50, 90)), steps=3)
    page.mouse.up()
    settle(page)
    assert seq(page, shared) == before
    expect(page.get_by_role("heading", name="wing at frame 20")).to_be_visible()


def test_a_cross_that_is_put_away_lets_go_and_the_hand_takes_hold_again(shared: Service, page: Page) -> None:
    stage, before = Stage(page), seq(page, shared)
    go(page, 20)
    page.locator(".stage").focus()
    for key in ("x", "Enter", "ArrowRight", "x"):
        page.keyboard.press(key)
    settle(page)
    assert seq(page, shared) == before
    stage.drag((72, 60), (62, 80))
    saved(page)
    assert seq(page, shared) == before + 1 and "19" in channels(page, shared)["wing.turn"]["keys"]


def test_two_quick_pulls_make_both_keys(shared: Service, page: Page) -> None:
    """The second begins before the first has come back from the service."""
    stage = Stage(page)
    go(page, 15)
    page.evaluate(
        """() => { const send = window.fetch;
            window.fetch = async (...a) => { if (a[1]) await new Promise((d) => setTimeout(d, 700)); return send(...a); } }"""
    )
    mouse = page.mouse
    for start, end in (((72, 60), (62, 80)), ((15, 50), (15, 70))):
        mouse.move(*stage.place(start))
        mouse.down()
        mouse.move(*stage.place(end), steps=5)
        settle(page)
        mouse.up()
    eventually(lambda: {"wing.turn", "body.turn"} <= set(channels(page, shared)), True)
    saved(page)
    found = channels(page, shared)
    assert "14" in found["wing.turn"]["keys"] and "14" in found["body.turn"]["keys"]


def test_a_colour_is_one_change_and_a_polygon_outlives_it(fresh: tuple[Page, Service]) -> None:
    page, service = fresh
    stage = Stage(page)
    page.get_by_role("button", name="Polygon").click()
    expect(page.get_by_role("textbox", name="Fill colour")).to_be_visible()
    for corner in ((300, 200), (500, 200)):
        stage.click(corner)
        settle(page)
    before = snapshot(page, service.address)["seq"]
    picker = page.get_by_role("textbox", name="Fill colour")
    for colour in ("#112233", "#445566", "#778899"):
        # The hand wanders over the picker: the page hears of every movement.
        picker.evaluate(
            """(e, c) => { Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value").set.call(e, c);
                e.dispatchEvent(new Event("input", { bubbles: true })) }""",
            colour,
        )
    picker.evaluate("(e) => e.dispatchEvent(new Event('change', { bubbles: true }))")
    stage.click((400, 400))
    stage.click((300, 200))
    saved(page)
    (piece,) = document(page, service.address, "puppet")["pieces"].values()
    shape = piece["drawings"][0]["shape"]
    corners = [n for p in shape["points"] for n in (p["x"], p["y"])]
    assert corners == pytest.approx([300, 200, 500, 200, 400, 400], abs=3)
    assert shape["fill"] == "#778899ff"
    drawn = snapshot(page, service.address)["seq"]
    assert drawn - before <= 2, "a puppet and a shape: choosing a colour for what is not there yet changes nothing"
    page.locator(".stage").focus()
    page.keyboard.press("e")
    expect(page.get_by_role("button", name="Ellipse")).to_have_attribute("aria-pressed", "true")
    page.keyboard.press("v")
    page.get_by_role("row", name="polygon").click()
    picker = page.get_by_role("textbox", name="Fill colour")
    for colour in ("#aa0000", "#bb0000", "#cc0000"):
        picker.evaluate(
            """(e, c) => { Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value").set.call(e, c);
                e.dispatchEvent(new Event("input", { bubbles: true })) }""",
            colour,
        )
    picker.evaluate("(e) => e.dispatchEvent(new Event('change', { bubbles: true }))")
    saved(page)
    assert snapshot(page, service.address)["seq"] == drawn + 1
    (piece,) = document(page, service.address, "puppet")["pieces"].values()
    assert piece["drawings"][0]["shape"]["fill"] == "#cc0000ff"


def test_a_frame_rate_that_is_chosen_is_taken(fresh: tuple[Page, Service]) -> None:
    page, service = fresh

    def choose(rate: str) -> None:
        page.get_by_title("Production settings").click()
        page.get_by_label("Frame rate").select_option(label=f"{rate} frames a second")

    def per_second() -> dict[str, int]:
        found: dict[str, int] = document(page, service.address, "production")["rate"]
        return found

    # Nothing lasts yet: there is nothing to ask.
    choose("12")
    saved(page)
    assert per_second() == {"numerator": 12, "denominator": 1}
    page.get_by_role("button", name="Done").click()
    production, client = page.url.split("/p/")[1].split("/")[0], service.client()
    change(client, production, {"do": "add-puppet", "id": "a", "name": "Gull"})
    change(client, production, {"do": "add-motion", "id": "m", "puppet": "a", "name": "flap", "length": 24})
    # Now it is asked what becomes of the frames; without an answer everything lasts as long as before.
    choose("24")
    expect(page.get_by_role("group", name="Another frame rate")).to_be_visible()
    page.get_by_role("button", name="Done").click()
    saved(page)
    assert per_second() == {"numerator": 24, "denominator": 1}
    assert document(page, service.address, "motion")["length"] == 48
