"""The pose strip, the timing chart and the sheet's keyboard, as an animator uses them."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from tests.browser.hands import Sheet, Stage, document, drawn, saved, settle
from tests.browser.test_windows import gull
from tests.conftest import Service, change
from tests.interchange.art import svg
from tests.service.test_http import bring, documents


@pytest.fixture
def page(shared: Service, new_page: Callable[..., Page]) -> Page:
    """A gull with three labelled poses of body and wing."""
    production, client = gull(shared), shared.client()
    ids = {p["name"]: p["id"] for p in documents(client, production)["a"]["pieces"].values()}
    change(client, production, {"do": "add-motion", "id": "m", "puppet": "a", "name": "flap", "length": 24})
    keys = [
        {"joint": ids[name], "kind": "turn", "frame": f, "value": [v]}
        for f, v in ((0, 0), (8, 40), (16, -20))
        for name in ("body", "wing")
    ]
    change(client, production, {"do": "set-keys", "motion": "m", "keys": keys})
    for f, label in ((0, "folded"), (8, "up"), (16, "down")):
        change(client, production, {"do": "set-pose", "motion": "m", "frame": f, "text": label})
    opened = new_page()
    opened.goto(f"{shared.address}/p/{production}/motion")
    drawn(opened)
    return opened


def motion(page: Page, service: Service) -> dict[str, Any]:
    return document(page, service.address, "motion")


def poses(page: Page, service: Service) -> list[tuple[int, str]]:
    return [(int(f), p["label"]) for f, p in motion(page, service)["poses"].items()]


def pull_edge(page: Page, card: int, frames: float) -> None:
    box = page.locator(".pose-card").nth(card).bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] - 3, box["y"] + 40
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + frames * Sheet(page).step, y, steps=5)
    page.mouse.up()
    saved(page)


def test_poses_are_retimed_on_the_strip_and_undone_one_by_one(shared: Service, page: Page) -> None:
    start = motion(page, shared)
    pull_edge(page, 0, 4)
    assert poses(page, shared) == [(0, "folded"), (12, "up"), (20, "down")]
    follows = motion(page, shared)
    assert follows["length"] == 28
    page.get_by_role("button", name="next gives way").click()
    pull_edge(page, 1, -3)
    assert poses(page, shared) == [(0, "folded"), (12, "up"), (17, "down")]
    assert motion(page, shared)["length"] == 28
    # A card is taken by its face and put at the end; the keys on it go with it.
    face, last = page.locator(".pose-face").nth(1).bounding_box(), page.locator(".pose-card").nth(2).bounding_box()
    assert face is not None
    assert last is not None
    page.mouse.move(face["x"] + 12, face["y"] + 30)
    page.mouse.down()
    page.mouse.move(last["x"] + last["width"] - 8, face["y"] + 30, steps=6)
    page.mouse.up()
    saved(page)
    assert [label for _, label in poses(page, shared)] == ["folded", "down", "up"]
    for _ in range(3):
        page.locator(".stage").focus()
        page.keyboard.press("Control+z")
        saved(page)
    assert motion(page, shared) == start


def test_a_pose_is_copied_mirrored_broken_down_and_removed_as_a_whole(shared: Service, page: Page) -> None:
    page.get_by_role("button", name="up 8 fr, frame 9").click()
    page.keyboard.press("Control+c")
    frame = page.get_by_label("Frame", exact=True)
    frame.fill("21")
    frame.press("Enter")
    page.locator(".stage").focus()
    page.keyboard.press("Control+v")
    saved(page)
    assert poses(page, shared) == [(0, "folded"), (8, "up"), (16, "down"), (20, "up")]
    page.get_by_role("button", name="folded 8 fr, frame 1").click()
    # While it is slid the breakdown is seen on the stage, where it will be; and so it is, once it is put in.
    there = drawn(page).pixels()
    slider = page.get_by_role("slider", name="Breakdown at frame 5")
    slider.focus()
    for _ in range(5):
        page.keyboard.press("ArrowLeft")
    settle(page)
    tried = Stage(page).pixels()
    assert slider.input_value() == "25" and frame.input_value() == "5"
    assert not np.array_equal(tried, there)
    page.get_by_role("button", name="Put it in").click()
    saved(page)
    page.mouse.move(5, 5)
    page.locator(".stage").focus()
    settle(page)
    assert (np.abs(drawn(page).pixels().astype(int) - tried) > 40).any(axis=2).sum() < 400
    keys = [c["keys"]["4"]["value"] for c in motion(page, shared)["channels"].values()]
    assert keys == [[10], [10]]
    assert motion(page, shared)["poses"]["4"]["breakdown"] is True
    page.locator(".stage").focus()
    page.keyboard.press("Delete")
    expect(page.get_by_text("1 pose with 2 keys on 2 channels")).to_be_visible()
    saved(page)
    assert [f for f, _ in poses(page, shared)] == [0, 8, 16, 20]


def test_a_limb_is_timed_on_the_chart_by_dragging_ticks(shared: Service, page: Page) -> None:
    stage = Stage(page)
    Sheet(page).click("wing", "turn", 0)
    rung = page.get_by_role("slider", name="Frame 3", exact=True)
    box = rung.bounding_box()
    assert box is not None
    before = stage.pixels()
    span = 200 / 224 * (page.locator(".ladder").bounding_box() or {"width": 0})["width"]
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x - 0.15 * span, y, steps=4)
    page.mouse.up()
    saved(page)
    name = next(id for id, c in motion(page, shared)["channels"].items() if c["keys"]["0"]["ease"]["kind"] == "chart")
    ticks = dict(motion(page, shared)["channels"][name]["keys"]["0"]["ease"]["ticks"])
    # Eight frames to the next key: the second in-between lay at 25 % and was drawn back by 15; at the first it stops.
    assert ticks[0.25] == ticks[0.125] == pytest.approx(0.125)
    assert ticks[0.5] == pytest.approx(0.5)
    frame = page.get_by_label("Frame", exact=True)
    frame.fill("3")
    frame.press("Enter")
    settle(page)
    assert (stage.pixels() != before).any()
    page.get_by_label("Ticks snap to halves and thirds").click()
    page.get_by_role("slider", name="Frame 5", exact=True).press("Shift+ArrowRight")
    saved(page)
    ticks = dict(motion(page, shared)["channels"][name]["keys"]["0"]["ease"]["ticks"])
    assert ticks[0.5] == pytest.approx(0.625)
    page.get_by_label("Family").select_option("back")
    saved(page)
    assert motion(page, shared)["channels"][name]["keys"]["0"]["ease"]["family"] == "back"


def test_the_sheet_is_walked_and_its_keys_moved_by_the_keyboard_alone(shared: Service, page: Page) -> None:
    grid = page.get_by_role("grid", name="Keys by frame")
    grid.focus()
    cell = page.locator("#sheet-cell")
    page.keyboard.press("ArrowDown")
    expect(cell).to_contain_text("turn, frame 1: 0, even")
    page.keyboard.press("ArrowRight")
    expect(cell).to_contain_text("frame 9: 40")
    page.keyboard.press("Shift+ArrowRight")
    expect(page.get_by_role("button", name="Edit what is selected")).to_contain_text("2 keys")
    page.keyboard.press("Alt+ArrowRight")
    saved(page)
    moved = [sorted(map(int, c["keys"])) for c in motion(page, shared)["channels"].values()]
    assert sorted(moved) == [[0, 8, 16], [0, 9, 17]]
    edge = page.get_by_role("separator", name="Height of the timing panel")
    before = int(edge.get_attribute("aria-valuenow") or 0)
    edge.press("ArrowDown")
    assert int(edge.get_attribute("aria-valuenow") or 0) == before - 12
    stage = page.locator(".stage").bounding_box()
    assert stage is not None
    edge.press("End")
    tall = page.locator(".stage").bounding_box()
    assert tall is not None
    assert stage["height"] >= tall["height"] >= 360


def edit(page: Page, what: str) -> None:
    """Choose from the menu of what can be done to the selection."""
    page.get_by_role("button", name="Edit what is selected").click()
    page.get_by_role("menuitem", name=what).click()


def typed(page: Page, button: str, **numbers: str) -> None:
    """Fill the dialog that asks for numbers, and press its button."""
    dialog = page.get_by_role("dialog")
    for label, number in numbers.items():
        field = dialog.get_by_label(label.replace("_", " "))
        field.fill(number)
        field.press("Tab")
    dialog.get_by_role("button", name=button, exact=True).click()
    expect(dialog).to_be_hidden()
    saved(page)


def test_what_is_selected_is_scaled_delayed_baked_and_thinned_from_the_menu(shared: Service, page: Page) -> None:
    def wing() -> dict[str, Any]:
        found = motion(page, shared)["channels"]
        names = {j["id"]: j["name"] for j in document(page, shared.address, "puppet")["joints"].values()}
        return next(c for c in found.values() if names[c["joint"]] == "wing")

    def frames() -> list[int]:
        return sorted(map(int, wing()["keys"]))

    sheet = Sheet(page)
    sheet.name("wing", "turn").click()
    edit(page, "Scale in time…")
    typed(page, "Scale", To="125")
    assert frames() == [0, 10, 20]
    edit(page, "Delay…")
    typed(page, "Set", Late_by="1.5")
    assert wing()["delay"] == 1.5 and frames() == [0, 10, 20]
    expect(sheet.name("wing", "turn")).to_contain_text("+1.5")
    edit(page, "Write the delay into the keys")
    saved(page)
    assert wing()["delay"] == 0 and len(frames()) == 24
    sheet.name("wing", "turn").click()
    edit(page, "Thin out…")
    typed(page, "Thin", Within="0.2")
    assert 4 <= len(frames()) <= 8
    sheet.name("wing", "turn").click()
    edit(page, "Reverse in place")
    saved(page)
    assert wing()["keys"][str(min(frames()))]["value"][0] == pytest.approx(-20, abs=0.3)
    whole = sheet.area.get_attribute("data-step") or ""
    page.get_by_role("button", name="Wider frames").click()
    expect(sheet.area).not_to_have_attribute("data-step", whole)
    assert sheet.step > float(whole)
    page.get_by_role("button", name="Narrower frames").click()
    expect(sheet.area).to_have_attribute("data-step", whole)
    # Folded away, a limb shows its keys as one row, and none of them is selected any more.
    page.get_by_role("button", name="wing 1").click()
    expect(sheet.name("wing", "turn")).to_be_hidden()
    expect(page.get_by_role("button", name="Edit what is selected")).not_to_contain_text("keys")


PORTER = {
    # Name: what it hangs on, pivot, and its box.
    "pelvis": (None, (200, 200), (180, 180, 40, 40)),
    "spine": ("pelvis", (200, 195), (182, 90, 36, 105)),
    "head": ("spine", (200, 90), (180, 40, 40, 50)),
    **{
        f"{side} {name}": (f"{side} {above}" if above != "pelvis" else above, pivot, box)
        for side in ("near", "far")
        for name, above, pivot, box in (
            ("thigh", "pelvis", (200, 200), (190, 200, 20, 80)),
            ("shin", "thigh", (200, 280), (191, 280, 18, 80)),
            ("foot", "shin", (200, 360), (190, 360, 40, 20)),
        )
    },
}


def porter(service: Service) -> str:
    """A production with a plain figure in side view, linked by hand, and an empty motion."""
    client = service.client()
    production: str = client.post("/productions", json={"name": "Quay"}).json()["id"]
    change(client, production, {"do": "set-production", "width": 400, "height": 400})
    change(client, production, {"do": "add-puppet", "id": "w", "name": "Porter"})
    shapes = "".join(
        f'<g id="{name}"><rect x="{x}" y="{y}" width="{w}" height="{h}" fill="#c22"/></g>'
        for name, (_, _, (x, y, w, h)) in PORTER.items()
    )
    size = 'width="400" height="400" viewBox="0 0 400 400"'
    bring(client, production, "w", svg(shapes, attributes=size))
    ids = {p["name"]: p["id"] for p in documents(client, production)["w"]["pieces"].values()}
    for name, (above, (x, y), _) in PORTER.items():
        change(client, production, {"do": "set-pivot", "puppet": "w", "piece": ids[name], "x": x, "y": y})
        if above:
            change(client, production, {"do": "link-joint", "puppet": "w", "joint": ids[name], "parent": ids[above]})
    change(client, production, {"do": "add-motion", "id": "walk", "puppet": "w", "name": "walk", "length": 24})
    return production


def test_a_gait_is_planned_set_otherwise_and_taken_off_again(shared: Service, new_page: Callable[..., Page]) -> None:
    page = new_page()
    page.goto(f"{shared.address}/p/{porter(shared)}/motion")
    stage = drawn(page)
    page.get_by_role("button", name="Add a recipe").click()
    page.get_by_role("menuitem", name="Gait").click()
    saved(page)
    for label in ("contact", "down", "passing", "up"):
        expect(page.get_by_role("button", name=re.compile(rf"^{label} \d+ fr, frame"))).to_have_count(2)

    def lowest(frame: int) -> float:
        """The lowest row of the puppet's pixels, in stage units."""
        field = page.get_by_label("Frame", exact=True)
        field.fill(str(frame))
        field.press("Enter")
        settle(page)
        red = stage.pixels()[:, :, :3].astype(int)
        rows = (abs(red - [204, 34, 34]).max(axis=2) < 40).any(axis=1).nonzero()[0]
        scale, y = (float(stage.element.get_attribute(f"data-{k}") or 0) for k in ("scale", "y"))
        return float((rows.max() - y) / scale)  # the border is a pixel wide

    # Some foot stands on the ground line in every pose that is drawn.
    assert [lowest(frame) for frame in (1, 4, 7, 10, 13)] == pytest.approx([380] * 5, abs=1.5)
    bounce = page.get_by_role("slider", name="Bounce")
    # A name of the trade explains itself, also to who only hears the page.
    said = "How far the body rises and falls with each step"
    expect(page.get_by_role("textbox", name="Bounce")).to_have_accessible_description(said)
    expect(bounce).to_have_accessible_description(said)
    bounce.fill("9")
    bounce.press("Enter")
    saved(page)
    found = document(page, shared.address, "motion", "walk")
    assert next(iter(found["recipes"].values()))["bounce"] == 9
    assert found["cycle"] is True
    page.get_by_label("Preset").select_option("run")
    saved(page)
    expect(page.get_by_role("button", name=re.compile(r"^flight \d+ fr, frame"))).to_have_count(2)
    page.get_by_role("button", name="Take off Run").click()
    saved(page)
    assert document(page, shared.address, "motion", "walk")["channels"] == {}


def test_names_stay_beside_their_threads_when_a_key_walks_to_one_that_is_half_seen(shared: Service, page: Page) -> None:
    production = page.url.split("/p/")[1].split("/")[0]
    for frame in (0, 8):
        change(shared.client(), production, {"do": "key-pose", "motion": "m", "frame": frame})
    names = page.locator(".sheet-names .thread-name")
    expect(names).to_have_count(7)
    names.nth(0).focus()
    for _ in range(6):
        page.keyboard.press("ArrowDown")
    expect(names.last).to_be_focused()
    settle(page)
    first, second, last, threads = (
        e.bounding_box() for e in (names.nth(0), names.nth(1), names.last, page.locator(".threads"))
    )
    assert first and second and last and threads
    top = page.locator(".timing-body").evaluate("(e) => e.scrollTop")
    rows = page.locator(".threads").get_attribute("aria-rowcount")
    assert last["y"] == pytest.approx(threads["y"] + (int(rows or 0) - 1) * (second["y"] - first["y"]) - top, abs=1)
    # What is drawn is as large as it is shown.
    sheet = page.locator(".threads canvas")
    shown, around = sheet.bounding_box(), page.locator(".sheet-row").bounding_box()
    assert shown and around
    assert shown["height"] == pytest.approx(float(sheet.get_attribute("height") or 0), abs=1)
    assert shown["width"] == pytest.approx(float(sheet.get_attribute("width") or 0), abs=1)
    assert shown["y"] + shown["height"] == pytest.approx(around["y"] + around["height"], abs=1)
    # All names are one stop of the tab key, and one comes back to where one was; arrows fold a limb too.
    page.keyboard.press("Tab")
    expect(page.get_by_role("grid", name="Keys by frame")).to_be_focused()
    page.keyboard.press("Shift+Tab")
    expect(names.last).to_be_focused()
    for _ in range(6):
        page.keyboard.press("ArrowUp")
    expect(names.first).to_be_focused()
    page.keyboard.press("ArrowLeft")
    expect(names.first).to_have_attribute("aria-expanded", "false")
    page.keyboard.press("ArrowRight")
    expect(names.first).to_have_attribute("aria-expanded", "true")


def test_after_a_frame_is_typed_the_keys_are_the_benchs_and_go_from_card_to_card_or_key_to_key(
    shared: Service, page: Page
) -> None:
    production = page.url.split("/p/")[1].split("/")[0]
    wing = next(c["joint"] for c in motion(page, shared)["channels"].values())
    key = {"joint": wing, "kind": "turn", "frame": 4, "value": [9]}
    change(shared.client(), production, {"do": "set-keys", "motion": "m", "keys": [key]})
    settle(page)
    frame = page.get_by_label("Frame", exact=True)
    frame.fill("3")
    frame.press("Enter")
    page.keyboard.press(" ")
    expect(page.get_by_role("button", name="Pause")).to_be_visible()
    page.keyboard.press(" ")
    # What is no frame stays to be mended; one beyond the end is the last.
    for typed_, shown in (("3o", "3o"), ("30", "24")):
        frame.fill(typed_)
        frame.press("Enter")
        expect(frame).to_have_value(shown)
    page.keyboard.press("Home")
    seen = []
    for pressed in ("Period", "Period", "Comma", "Home", "Shift+Period", "Shift+Period", "Shift+Comma"):
        page.keyboard.press(pressed)
        settle(page)
        seen.append(frame.input_value())
    assert seen == ["9", "17", "9", "1", "5", "9", "5"]
