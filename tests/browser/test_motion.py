"""The Rig and Motion benches by hand: linking, the whole puppet, typed values, cycles, several windows of time."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from tests.browser.hands import Sheet, Stage, bench, carry, document, drawn, eventually, saved, settle
from tests.browser.test_pieces import red_box
from tests.browser.test_windows import gull
from tests.conftest import Service, change
from tests.service.test_http import documents


@pytest.fixture
def page(shared: Service, new_page: Callable[..., Page]) -> Page:
    """The Motion bench with a linked gull and an empty motion of 24 frames."""
    production, client = gull(shared), shared.client()
    ids = {p["name"]: p["id"] for p in documents(client, production)["a"]["pieces"].values()}
    change(client, production, {"do": "link-joint", "puppet": "a", "joint": ids["wing"], "parent": ids["body"]})
    change(client, production, {"do": "set-puppet", "puppet": "a", "origin": [50, 90]})
    change(client, production, {"do": "add-motion", "id": "m", "puppet": "a", "name": "flap", "length": 24})
    opened = new_page()
    opened.goto(f"{shared.address}/p/{production}/motion")
    drawn(opened)
    return opened


def channels(page: Page, service: Service) -> dict[str, Any]:
    """The motion's channels by joint name and kind."""
    joints = document(page, service.address, "puppet")["joints"]
    found = document(page, service.address, "motion")["channels"].values()
    return {f"{joints[c['joint']]['name'] if c['joint'] in joints else 'puppet'}.{c['kind']}": c for c in found}


def seen(stage: Stage) -> tuple[float, float, float, float]:
    """The box of the wing with nothing selected, so that no outline covers its edge."""
    stage.element.click(position={"x": 6, "y": 6})
    settle(stage.page)
    return red_box(stage)


def go(page: Page, frame: int) -> None:
    field = page.get_by_label("Frame", exact=True)
    field.fill(str(frame))
    field.press("Enter")
    settle(page)


def test_the_whole_puppet_is_moved_by_pulling_any_piece(shared: Service, page: Page) -> None:
    stage = Stage(page)
    page.keyboard.press("w")
    page.keyboard.press("m")
    stage.drag((72, 52), (82, 32))
    saved(page)
    (key,) = channels(page, shared)["puppet.move"]["keys"].values()
    assert key["value"] == pytest.approx([10, -20], abs=0.4)
    eventually(lambda: red_box(stage), pytest.approx((50, 25, 90, 35), abs=0.8))


def test_typed_values_make_keys_and_blocks_of_time_hold_between_them(shared: Service, page: Page) -> None:
    stage = Stage(page)
    page.get_by_role("treeitem").filter(has_text="wing").click()
    for frame, turn in ((1, "0"), (13, "90")):
        go(page, frame)
        field = page.get_by_role("textbox", name="Turn")
        field.fill(turn)
        field.press("Enter")
        saved(page)
    go(page, 7)
    # Half way by even steps: 45 degrees about the pin at (60, 50).
    half = (40 / 2 + 10 / 2) / 2**0.5
    eventually(lambda: seen(stage), pytest.approx((60 - half, 50 - half, 60 + half, 50 + half), abs=0.8))
    Sheet(page).click("wing", "turn", 0)
    page.get_by_role("group", name="Way to the next").get_by_text("Hold").click()
    saved(page)
    go(page, 12)
    eventually(lambda: seen(stage), pytest.approx((40, 45, 80, 55), abs=0.8))
    go(page, 13)
    eventually(lambda: seen(stage), pytest.approx((55, 30, 65, 70), abs=0.8))
    assert channels(page, shared)["wing.turn"]["keys"]["0"]["ease"] == {"kind": "hold"}


def test_a_motion_grows_under_a_keyed_joint_that_is_selected(shared: Service, page: Page) -> None:
    page.get_by_role("treeitem").filter(has_text="wing").click()
    turn, length = page.get_by_role("textbox", name="Turn"), page.get_by_role("textbox", name="Length")
    for frame, value in ((1, "10"), (24, "40")):
        go(page, frame)
        turn.fill(value)
        turn.press("Enter")
        saved(page)
    length.fill("30")
    length.press("Enter")
    expect(page.get_by_label("Frame", exact=True)).to_have_value("24")
    expect(turn).to_have_value("40")
    go(page, 30)
    expect(turn).to_have_value("40")
    for key, frames in (("Control+z", "24"), ("Control+Shift+z", "30")):
        page.locator(".stage").focus()
        page.keyboard.press(key)
        expect(length).to_have_value(frames)
        go(page, 12)
        expect(turn).to_have_value("24.3")
    assert document(page, shared.address, "motion")["length"] == 30


def test_repeat_and_cycle_carry_the_keys_on(shared: Service, page: Page) -> None:
    stage = Stage(page)
    page.get_by_role("treeitem").filter(has_text="wing").click()
    for frame, turn in ((1, "0"), (5, "90"), (9, "0")):
        go(page, frame)
        page.get_by_role("textbox", name="Turn").fill(turn)
        page.get_by_role("textbox", name="Turn").press("Enter")
        saved(page)
    upright, level = (55, 30, 65, 70), (40, 45, 80, 55)
    go(page, 21)
    eventually(lambda: seen(stage), pytest.approx(level, abs=0.8))
    Sheet(page).name("wing", "turn").click()
    page.get_by_label("Beyond the keys").select_option("repeat")
    saved(page)
    settle(page)
    eventually(lambda: seen(stage), pytest.approx(upright, abs=0.8))
    page.get_by_role("textbox", name="Length").fill("8")
    page.get_by_role("textbox", name="Length").press("Enter")
    saved(page)
    page.get_by_label("last leads to first").click()
    saved(page)
    motion = document(page, shared.address, "motion")
    assert (motion["length"], motion["cycle"]) == (8, True)
    assert len(channels(page, shared)["wing.turn"]["keys"]) == 3, "the key beyond the end is kept"


def test_the_whole_pose_is_keyed_at_once_on_an_empty_motion_with_nothing_selected(shared: Service, page: Page) -> None:
    go(page, 20)
    page.locator(".stage").click(position={"x": 6, "y": 6})
    page.keyboard.press("Shift+k")
    expect(page.locator(".notice")).to_contain_text("Key the whole pose at frame 20: 4 threads")
    saved(page)
    found = channels(page, shared)
    assert {name: sorted(c["keys"], key=int) for name, c in found.items()} == {
        name: ["0", "19"] for name in ("puppet.move", "puppet.turn", "body.turn", "wing.turn")
    }
    expect(page.locator(".pose-card")).to_have_count(1)


def test_what_is_pulled_first_later_leaves_the_first_frame_as_it_was(shared: Service, page: Page) -> None:
    stage = Stage(page)
    before = seen(stage)
    go(page, 13)
    page.get_by_role("treeitem").filter(has_text="wing").click()
    page.get_by_role("textbox", name="Turn").fill("90")
    page.get_by_role("textbox", name="Turn").press("Enter")
    saved(page)
    go(page, 1)
    eventually(lambda: seen(stage), pytest.approx(before, abs=0.8))
    page.keyboard.press("Control+z")
    saved(page)
    assert channels(page, shared) == {}, "one step to undo"


def test_keys_go_onto_the_joints_in_hand_each_later_than_the_one_before(shared: Service, page: Page) -> None:
    client, production = shared.client(), page.url.split("/p/")[1].split("/")[0]
    wing = next(j["id"] for j in document(page, shared.address, "puppet")["joints"].values() if j["name"] == "wing")
    keys = [{"joint": wing, "kind": "turn", "frame": f, "value": [v]} for f, v in ((0, 0), (4, 30))]
    change(client, production, {"do": "set-keys", "motion": "m", "keys": keys})
    Sheet(page).name("wing", "turn").click()
    edit = page.get_by_role("button", name="Edit what is selected")
    edit.click()
    page.get_by_role("menuitem", name="Copy").click()
    row = page.get_by_role("treeitem")
    row.filter(has_text="body").click()
    row.filter(has_text="wing").click(modifiers=["Control"])
    go(page, 10)
    edit.click()
    page.get_by_role("menuitem", name="Paste onto 2 joints in hand…").click()
    page.get_by_label("Each later by").fill("3")
    page.get_by_role("dialog").get_by_role("button", name="Paste").click()
    saved(page)
    found = channels(page, shared)
    assert {int(f): k["value"][0] for f, k in found["body.turn"]["keys"].items()} == {0: 0, 9: 0, 13: 30}
    assert {int(f): k["value"][0] for f, k in found["wing.turn"]["keys"].items()} == {0: 0, 4: 30, 12: 0, 16: 30}


def test_a_dialog_from_a_menu_has_the_caret_and_a_refusal_goes_with_its_reason(page: Page) -> None:
    page.get_by_role("button", name="flap", exact=True).click()
    page.get_by_role("menuitem", name="Rename…").click()
    expect(page.get_by_role("dialog").get_by_label("Name")).to_be_focused()
    # What is typed at once takes the place of what stood there.
    page.keyboard.type("wave")
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="wave", exact=True)).to_be_visible()
    page.get_by_role("button", name="wave", exact=True).click()
    page.get_by_role("menuitem", name="New motion…").click()
    expect(page.get_by_role("dialog").get_by_label("Name")).to_be_focused()
    page.keyboard.type("glide")
    expect(page.get_by_role("dialog").get_by_label("Name")).to_have_value("glide")
    page.keyboard.press("Escape")
    refused = page.get_by_role("alert")

    def take_out(frames: str) -> None:
        page.get_by_role("button", name=re.compile(r"^Edit\b")).click()
        page.get_by_role("menuitem", name="Put in or take out frames").click()
        expect(page.get_by_role("dialog").get_by_label("Frames")).to_be_focused()
        page.keyboard.type(frames)
        page.keyboard.press("Enter")

    take_out("-100")
    expect(refused).to_be_visible()
    take_out("-2")
    expect(refused).to_have_count(0)
    take_out("-100")
    expect(refused).to_be_visible()
    bench(page, "Rig")
    expect(refused).to_have_count(0)


def test_links_are_made_and_taken_back_in_every_way_and_nothing_moves(shared: Service, page: Page) -> None:
    bench(page, "Rig")
    stage, rows = drawn(page), page.get_by_role("treeitem")
    before = red_box(stage)

    def hangs_on() -> str | None:
        joints = document(page, shared.address, "puppet")["joints"]
        parent = next(j["parent"] for j in joints.values() if j["name"] == "wing")
        return joints[parent]["name"] if parent else None

    rows.filter(has_text="wing").click()
    page.keyboard.press("u")
    saved(page)
    assert hangs_on() is None
    carry(rows.filter(has_text="wing"), rows.filter(has_text="body"))
    saved(page)
    assert hangs_on() == "body"
    carry(rows.filter(has_text="wing"), rows.filter(has_text="Whole puppet"))
    saved(page)
    assert hangs_on() is None
    page.get_by_label("Hangs on", exact=True).select_option("body")
    saved(page)
    assert hangs_on() == "body"
    eventually(lambda: red_box(stage), pytest.approx(before, abs=0.01))
    # In a trial the wing follows the body, and goes back with it.
    page.get_by_role("button", name="Try a pose").click()
    page.get_by_role("button", name="Pull to move").click()
    stage.drag((15, 50), (15, 70))
    eventually(lambda: red_box(stage)[1], pytest.approx(before[1] + 20, abs=0.8))
    page.keyboard.press("Escape")
    settle(page)
    eventually(lambda: red_box(stage), pytest.approx(before, abs=0.01))
    expect(page.get_by_role("button", name="Undo: Link “wing” to “body”")).to_be_enabled()
