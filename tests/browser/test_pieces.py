"""The Pieces bench by hand: several pictures, the other side, order, hiding, showing alone, typed places."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from tests.browser.hands import Stage, carry, document, drawn, eventually, saved, settle
from tests.browser.test_windows import gull
from tests.conftest import Service
from tests.interchange.art import png, svg
from tests.interchange.test_pictures import photograph
from tests.service.test_http import bring


@pytest.fixture
def page(shared: Service, new_page: Callable[..., Page]) -> Page:
    opened = new_page()
    opened.goto(f"{shared.address}/p/{gull(shared)}/pieces")
    expect(opened.get_by_role("row", name="wing")).to_be_visible()
    drawn(opened)
    return opened


def reds(page: Page) -> int:
    """Pixels of the stage in the wing's own red."""
    p = Stage(page).pixels()
    return int(((p[:, :, 0] > 240) & (p[:, :, 1] < 12) & (p[:, :, 2] < 12)).sum())


def test_coming_nearer_goes_to_what_is_in_hand(page: Page) -> None:
    """By keys and by the button what is in hand comes to the middle of the stage, from wherever it lay."""
    stage = Stage(page)

    def away() -> float:
        """How far the middle of the wing is from that of the stage, in pixels."""
        p = stage.pixels()
        y, x = np.nonzero((p[:, :, 0] > 240) & (p[:, :, 1] < 12) & (p[:, :, 2] < 12))
        return float(np.hypot((x.min() + x.max() - p.shape[1]) / 2, (y.min() + y.max() - p.shape[0]) / 2))

    page.get_by_role("row", name="wing").click()
    page.locator(".stage").focus()
    page.mouse.move(*stage.place((0, 0)))
    page.mouse.wheel(0, 700)
    settle(page)
    before, scale = away(), float(stage.element.get_attribute("data-scale") or 0)
    page.keyboard.press("+")
    page.keyboard.press("+")
    page.get_by_role("button", name="Nearer").click()
    settle(page)
    assert float(stage.element.get_attribute("data-scale") or 0) == pytest.approx(scale * 1.25**3, rel=0.01)
    assert before > 60 and away() < before / 6


def names(page: Page, service: Service) -> list[str]:
    """The pieces from back to front."""
    puppet = document(page, service.address, "puppet")
    return [puppet["pieces"][id]["name"] for id in puppet["order"]]


def test_several_pictures_come_in_at_once_each_where_it_stood(shared: Service, page: Page) -> None:
    files = []
    for name, rows in (("lamp.png", slice(10, 30)), ("rope.png", slice(60, 90))):
        pixels = np.zeros((100, 100, 4), np.uint8)
        pixels[rows, 20:40] = (0, 120, 60, 255)
        files.append({"name": name, "mimeType": "image/png", "buffer": png(pixels)})
    page.get_by_label("Art to bring in").set_input_files(files)
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("lamp.png: an empty margin was trimmed (100 × 100 → 20 × 20 px).")
    dialog.get_by_role("button", name="Good").click()
    saved(page)
    pieces = {p["name"]: p for p in document(page, shared.address, "puppet")["pieces"].values()}
    joints = document(page, shared.address, "puppet")["joints"]
    for name, middle in (("lamp", (30, 20)), ("rope", (30, 75))):
        rest = joints[pieces[name]["joint"]]["rest"]
        assert (rest["x"], rest["y"]) == middle


def test_a_photograph_is_dropped_behind_and_lies_upright(fresh: tuple[Page, Service]) -> None:
    page, service = fresh
    dropped = page.evaluate_handle(
        """(bytes) => { const data = new DataTransfer();
          data.items.add(new File([new Uint8Array(bytes)], 'harbour.JPG', { type: 'image/jpeg' })); return data; }""",
        list(photograph(6)),
    )
    page.dispatch_event(".stage", "drop", {"dataTransfer": dropped, "bubbles": True, "cancelable": True})
    expect(page.get_by_role("row", name="harbour")).to_be_visible()
    saved(page)
    (piece,) = document(page, service.address, "puppet")["pieces"].values()
    assert piece["drawings"][0]["bounds"] == [0, 0, 40, 60]
    page.locator(".stage").focus()
    page.keyboard.press("Escape")
    settle(page)
    seen = drawn(page).pixels()
    red, blue = ((seen[:, :, c] > 180) & (seen[:, :, 2 - c] < 40) for c in (0, 2))
    assert red.sum() > 100 and blue.sum() > 100
    assert np.argwhere(red)[:, 0].max() <= np.argwhere(blue)[:, 0].min() + 2


def test_the_other_side_is_a_mirrored_copy_with_a_name_and_side_of_its_own(shared: Service, page: Page) -> None:
    page.get_by_role("row", name="wing").click()
    page.get_by_label("Name").fill("left wing")
    page.get_by_label("Name").press("Enter")
    saved(page)
    page.get_by_role("group", name="Side").get_by_text("left", exact=True).click()
    saved(page)
    page.keyboard.press("m")
    expect(page.get_by_role("row", name="right wing")).to_be_visible()
    saved(page)
    puppet = document(page, shared.address, "puppet")
    by_name = {p["name"]: p for p in puppet["pieces"].values()}
    one, other = by_name["left wing"], by_name["right wing"]
    assert other["side"] == "right"
    assert other["drawings"] == one["drawings"], "both sides share the artwork"
    assert other["fit"]["sx"] == -one["fit"]["sx"]
    x = {n: puppet["joints"][by_name[n]["joint"]]["rest"]["x"] for n in by_name}
    # The body is the one centre piece, so the middle is its pin.
    assert x["left wing"] + x["right wing"] == pytest.approx(2 * x["body"])


def test_the_line_of_the_other_side_is_shown_carried_typed_and_kept(shared: Service, page: Page) -> None:
    def puppet() -> dict[str, Any]:
        return document(page, shared.address, "puppet")

    def at(name: str) -> float:
        held = puppet()
        joint = next(p["joint"] for p in held["pieces"].values() if p["name"] == name)
        return float(held["joints"][joint]["rest"]["x"])

    expect(page.locator("[data-axis]")).to_have_count(0)
    page.get_by_role("row", name="wing").click()
    line = page.locator("[data-axis]")
    expect(line).to_have_attribute("data-axis", f"{at('body'):g}")
    # Carried by its grip: it goes along with the hand, and stays where it is let go.
    stage = Stage(page)
    grip = page.locator("[data-handle=axis]").bounding_box()
    assert grip is not None
    x, y = grip["x"] + grip["width"] / 2, grip["y"] + grip["height"] / 2
    scale = float(stage.element.get_attribute("data-scale") or 0)
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 30 * scale, y, steps=5)
    expect(line).to_have_attribute("data-axis", f"{at('body') + 30:g}")
    page.mouse.up()
    saved(page)
    assert puppet()["axis"] == at("body") + 30
    # Typed, kept over a reload, and what the other side is made in.
    page.get_by_label("Axis", exact=True).fill(f"{at('body') + 50:g}")
    page.get_by_label("Axis", exact=True).press("Enter")
    saved(page)
    page.reload()
    page.get_by_role("row", name="wing").click()
    expect(page.get_by_label("Axis", exact=True)).to_have_value(f"{at('body') + 50:g}")
    page.get_by_role("button", name="Make the other side", exact=True).click()
    expect(page.get_by_role("row", name="right wing").or_(page.get_by_role("row", name="left wing"))).to_be_visible()
    saved(page)
    made = next(p["name"] for p in puppet()["pieces"].values() if p["name"] not in ("wing", "body"))
    assert at("wing") + at(made) == pytest.approx(2 * (at("body") + 50))
    # What was there is now of the other side.
    sides = {p["name"]: p["side"] for p in puppet()["pieces"].values()}
    assert {sides["wing"], sides[made]} == {"left", "right"} and made.startswith(sides[made])
    page.get_by_role("button", name="In the middle again").click()
    saved(page)
    assert puppet()["axis"] is None


def test_order_is_changed_by_dragging_and_by_keys_and_shows_on_the_stage(shared: Service, page: Page) -> None:
    before = reds(page)
    carry(page.get_by_role("row", name="wing"), page.get_by_role("row", name="wing"))
    carry(page.get_by_role("row", name="body"), page.get_by_role("row", name="wing"))
    saved(page)
    assert names(page, shared) == ["wing", "body"]
    settle(page)
    # The body now covers a part of the wing.
    eventually(lambda: 0 < reds(page) < before, True)
    page.get_by_role("row", name="body").click()
    page.keyboard.press("Shift+PageDown")
    saved(page)
    assert names(page, shared) == ["body", "wing"]


def test_hidden_pieces_go_from_the_stage_and_isolated_ones_stand_alone(page: Page) -> None:
    eventually(lambda: reds(page) > 500, True)
    page.get_by_role("button", name="Hide wing").click()
    saved(page)
    eventually(lambda: reds(page), 0)
    page.get_by_role("button", name="Show wing").click()
    saved(page)
    page.get_by_role("row", name="body").click()
    page.keyboard.press("i")
    settle(page)
    eventually(lambda: reds(page), 0)
    page.keyboard.press("i")
    settle(page)
    eventually(lambda: reds(page) > 500, True)


def test_a_small_piece_moves_wherever_it_is_taken_hold_of_and_its_pin_by_its_grip(shared: Service, page: Page) -> None:
    client, production = shared.client(), page.url.split("/p/")[1].split("/")[0]
    mouth = svg('<g id="mouth"><rect x="20" y="20" width="4" height="2" fill="#0a0"/></g>')
    bring(client, production, "a", mouth, "mouth.svg")
    page.get_by_role("row", name="mouth").click()
    settle(page)
    stage = Stage(page)

    def place() -> tuple[float, float, tuple[float, float]]:
        """Where the mouth's pin is, and where the middle of the mouth is seen."""
        puppet = document(page, shared.address, "puppet")
        piece = next(p for p in puppet["pieces"].values() if p["name"] == "mouth")
        rest = puppet["joints"][piece["joint"]]["rest"]
        seen = stage.pixels().astype(int)
        ys, xs = np.nonzero((seen[:, :, 1] > 140) & (seen[:, :, 0] < 60) & (seen[:, :, 2] < 60))
        at = stage.element.bounding_box()
        assert at is not None and len(xs)
        left, top = stage.place((0, 0))
        scale = float(stage.element.get_attribute("data-scale") or 0)
        middle = (float(xs.mean()) + 0.5 + at["x"] - left) / scale, (float(ys.mean()) + 0.5 + at["y"] - top) / scale
        return rest["x"], rest["y"], middle

    x, y, middle = place()
    assert middle == pytest.approx((22, 21), abs=0.3)
    # From its very middle, where its pin is: the piece goes, and the pin with it.
    stage.drag((22, 21), (42, 31))
    saved(page)
    moved = place()
    assert moved[:2] == pytest.approx((x + 20, y + 10), abs=0.2) and moved[2] == pytest.approx((42, 31), abs=0.4)
    # By its grip below, the pin alone.
    grip = page.locator("[data-handle^='pin:']").bounding_box()
    assert grip is not None
    page.mouse.move(grip["x"] + grip["width"] / 2, grip["y"] + grip["height"] / 2)
    page.mouse.down()
    page.mouse.move(grip["x"] + grip["width"] / 2 + 40, grip["y"] + grip["height"] / 2, steps=6)
    settle(page)
    page.mouse.up()
    saved(page)
    scale = float(stage.element.get_attribute("data-scale") or 0)
    eventually(lambda: place()[0], pytest.approx(moved[0] + 40 / scale, abs=0.3))
    eventually(lambda: place()[2], pytest.approx((42, 31), abs=0.4))


def test_typed_places_and_pulled_handles_agree(page: Page) -> None:
    page.get_by_role("row", name="wing").click()
    settle(page)
    turn = page.get_by_role("textbox", name="Turn")
    turn.fill("90")
    turn.press("Enter")
    saved(page)
    stage = Stage(page)
    # Turned by a quarter about its middle at (60, 50), the wing is ten wide and forty tall.
    eventually(lambda: red_box(stage), pytest.approx((55, 30, 65, 70), abs=0.6))
    knob = page.locator("[data-handle^='turn:']").bounding_box()
    assert knob is not None
    middle = stage.place((60, 50))
    page.mouse.move(knob["x"] + knob["width"] / 2, knob["y"] + knob["height"] / 2)
    page.mouse.down()
    page.keyboard.down("Shift")
    page.mouse.move(middle[0], middle[1] - 150, steps=6)
    settle(page)
    page.mouse.up()
    page.keyboard.up("Shift")
    saved(page)
    expect(turn).to_have_value("0")
    page.keyboard.press("Control+z")
    saved(page)
    expect(turn).to_have_value("90")


def red_box(stage: Stage) -> tuple[float, float, float, float]:
    """The box of the red pixels, in stage units."""
    pixels = stage.pixels()
    red = (pixels[:, :, 0] > 240) & (pixels[:, :, 1] < 12) & (pixels[:, :, 2] < 12)
    ys, xs = np.nonzero(red)
    box = stage.element.bounding_box()
    assert box is not None
    left, top = (v - o for v, o in zip(stage.place((0, 0)), (box["x"], box["y"]), strict=True))
    scale = stage.place((1, 0))[0] - stage.place((0, 0))[0]
    return (
        (xs.min() - left) / scale,
        (ys.min() - top) / scale,
        (xs.max() + 1 - left) / scale,
        (ys.max() + 1 - top) / scale,
    )


def test_several_pieces_are_bound_coloured_and_put_to_an_end_at_once_and_one_fills_the_stage(
    fresh: tuple[Page, Service],
) -> None:
    page, service = fresh
    boxes = {
        "sky": (100, 100, 200, 160),
        "crate": (300, 300, 400, 400),
        "lid": (300, 280, 400, 300),
        "rope": (500, 300, 520, 460),
    }
    art = "".join(
        f'<g id="{name}"><rect x="{l}" y="{t}" width="{r - l}" height="{b - t}" fill="{"#b07030" if name in ("crate", "lid") else "#3070b0"}"/></g>'
        for name, (l, t, r, b) in boxes.items()
    )
    page.get_by_label("Art to bring in").set_input_files(
        {"name": "quay.svg", "mimeType": "image/svg+xml", "buffer": svg(art)}
    )
    expect(page.get_by_role("row", name="rope")).to_be_visible()
    saved(page)

    def puppet() -> dict[str, Any]:
        return document(page, service.address, "puppet")

    def by_name() -> dict[str, dict[str, Any]]:
        return {p["name"]: p for p in puppet()["pieces"].values()}

    # Crate and lid: one colour of both becomes a swatch of the palette, which then changes both.
    page.get_by_role("row", name="crate").click()
    page.get_by_role("row", name="lid").click(modifiers=["Control"])
    page.get_by_role("button", name="Swatches").click()
    page.get_by_label("fill #b07030 is linked to").select_option("+")
    saved(page)
    page.get_by_role("button", name="#b07030", exact=True).click()
    page.get_by_role("textbox", name="Colour of #b07030").fill("#20c040")
    saved(page)
    stage = Stage(page)
    painted = stage.pixels()
    assert not (painted[:, :, :3] == (0xB0, 0x70, 0x30)).all(axis=2).any()
    # Both ride on the rope's joint, in one step.
    page.get_by_label("Ride on").select_option("rope")
    saved(page)
    assert {by_name()[n]["joint"] for n in ("crate", "lid")} == {by_name()["rope"]["joint"]}
    # To the very back in one step, as they lay among themselves.
    page.get_by_role("button", name="Order, from the back to the front").click()
    page.get_by_role("menuitem", name="To the very back").click()
    saved(page)
    assert names(page, service) == ["crate", "lid", "sky", "rope"]
    page.locator(".stage").focus()
    page.keyboard.press("Alt+PageUp")
    saved(page)
    assert names(page, service) == ["sky", "rope", "crate", "lid"]
    page.keyboard.press("Control+z")
    saved(page)

    # A plain copy of both lies beside them, is in hand, and hangs as they do.
    page.get_by_role("row", name="crate").click()
    page.get_by_role("row", name="lid").click(modifiers=["Control"])
    page.locator(".stage").focus()
    page.keyboard.press("Control+d")
    expect(page.get_by_role("row", name="crate 2")).to_have_attribute("aria-selected", "true")
    saved(page)
    held = by_name()
    assert held["crate 2"]["joint"] == held["crate"]["joint"]
    assert held["crate 2"]["fit"]["x"] - held["crate"]["fit"]["x"] == pytest.approx(24)
    page.keyboard.press("Delete")
    saved(page)

    # The sky covers the stage: 100 by 60 on 1280 by 720 grows 12.8-fold, and what is over it on the stage is cut off.
    page.get_by_role("row", name="sky").click()
    page.get_by_role("button", name="Cover the stage").click()
    saved(page)
    eventually(lambda: [round(by_name()["sky"]["fit"][k], 3) for k in ("sx", "sy")], [12.8, 12.8])
    stage.element.focus()
    for _ in range(8):
        page.keyboard.press("-")
    page.keyboard.press("Escape")
    settle(page)
    pixels = stage.pixels()
    box = stage.element.bounding_box()
    assert box is not None
    for corner in ((15, 15), (1265, 15), (15, 705), (1265, 705)):
        x, y = stage.place(corner)
        assert tuple(pixels[round(y - box["y"]), round(x - box["x"]), :3]) == (0x30, 0x70, 0xB0)
    page.get_by_role("row", name="sky").click()
    page.get_by_role("button", name="Fit on the stage").click()
    saved(page)
    eventually(lambda: round(by_name()["sky"]["fit"]["sx"], 3), 12.0)
