"""The Pieces bench by hand: layers, drawings lined up, masks, swatches, shapes, a new version, a reference."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from tests.browser.hands import Stage, bench, document, eventually, saved, settle
from tests.conftest import Service
from tests.interchange.art import openraster, patch, png

GREEN, BLUE, RED, YELLOW = (20, 160, 60), (30, 60, 200), (210, 30, 30), (230, 200, 40)
FACE = openraster(
    """<stack name="mouths"><layer name="open" src="open.png" x="600" y="400"/><layer name="shut" src="shut.png" x="600" y="404"/></stack>
    <layer name="pupil" src="pupil.png" x="560" y="240" opacity="1"/><layer name="eye" src="eye.png" x="540" y="220"/>
    <layer name="face" src="face.png" x="480" y="140"/>""",
    {
        "face.png": png(patch(320, 400, (0, 0, 320, 400), YELLOW)),
        "eye.png": png(patch(80, 60, (0, 0, 80, 60), GREEN)),
        "pupil.png": png(patch(90, 30, (0, 0, 90, 30), BLUE)),
        "open.png": png(patch(80, 60, (0, 0, 80, 60), RED)),
        "shut.png": png(patch(80, 20, (0, 0, 80, 20), RED)),
    },
    (1280, 720),
)


def give(page: Page, name: str, data: bytes) -> None:
    page.get_by_label("Art to bring in").set_input_files(
        {"name": name, "mimeType": "application/octet-stream", "buffer": data}
    )


def count(stage: Stage, rgb: tuple[int, int, int]) -> int:
    """How many square stage units show this colour."""
    pixels = stage.pixels()[:, :, :3].astype(int)
    scale = float(stage.element.get_attribute("data-scale") or 1)
    return round(int((np.abs(pixels - rgb).max(axis=2) < 12).sum()) / scale**2)


def pieces(page: Page, service: Service) -> dict[str, Any]:
    return {p["name"]: p for p in document(page, service.address, "puppet")["pieces"].values()}


def row(page: Page, name: str) -> Any:
    return page.get_by_role("grid", name="Pieces, front first").get_by_role("row", name=name)


def unfold(page: Page, title: str) -> None:
    """Open a card of the details, unless it is."""
    head = page.locator(".fold-head").filter(has_text=title)
    if head.get_attribute("aria-expanded") == "false":
        head.click()


def test_layers_become_a_face_with_a_masked_eye_and_two_mouths(fresh: tuple[Page, Service]) -> None:
    page, service = fresh
    give(page, "face.ora", FACE)
    expect(row(page, "face")).to_be_visible()
    saved(page)
    stage = Stage(page)
    assert (
        list(pieces(page, service))
        and document(page, service.address, "puppet")["order"][0] == pieces(page, service)["face"]["id"]
    )
    page.keyboard.press("Escape")
    eventually(lambda: abs(count(stage, BLUE) - 90 * 30) < 160, True)

    # The pupil slides under the eye's edge: masked, only what overlaps is seen.
    row(page, "pupil").click()
    unfold(page, "Masks")
    page.get_by_label("Show only inside of a piece").select_option(label="eye")
    saved(page)
    page.keyboard.press("Escape")
    eventually(lambda: abs(count(stage, BLUE) - 60 * 30) < 160, True)
    row(page, "pupil").click()
    page.get_by_label("Inside or outside").select_option("outside")
    saved(page)
    page.keyboard.press("Escape")
    eventually(lambda: abs(count(stage, BLUE) - 30 * 30) < 120, True)
    page.keyboard.press("Control+z")
    saved(page)

    # Where the mask hides it, the pupil is not picked: the face behind it is.
    stage.click((644, 262))
    expect(row(page, "face")).to_have_attribute("aria-selected", "true")

    # Two mouths in one piece, lined up by their upper lips.
    row(page, "shut").click()
    row(page, "open").click(modifiers=["Control"])
    unfold(page, "One piece, many drawings")
    page.get_by_role("button", name="Gather").click()
    saved(page)
    expect(row(page, "open")).to_have_count(0)
    row(page, "shut").click()
    page.get_by_role("button", name="Line up…").click()
    dialog = page.get_by_role("dialog")
    for name in ("open", "shut"):
        dialog.get_by_role("option", name=name).click()
        dialog.get_by_label("Guide line", exact=True).click()
        expect(dialog.get_by_label("Guide line", exact=True)).to_be_checked()
        saved(page)
    guides = {d["name"]: d["guide"] for d in pieces(page, service)["shut"]["drawings"]}
    assert guides["open"] == pytest.approx((400 * 2 + 460) / 3, abs=0.1)
    # Drag the guide of the open mouth down to its upper lip, at the top of the drawing plus five units.
    dialog.get_by_role("option", name="open").click()
    area = dialog.get_by_role("application").bounding_box()
    line = dialog.locator("svg line[stroke-width='2']").first.bounding_box()
    assert area and line
    middle = (area["x"] + area["width"] / 2, line["y"] + line["height"] / 2)
    page.mouse.move(*middle)
    page.mouse.down()
    page.mouse.move(middle[0], middle[1] - 40, steps=5)
    page.mouse.up()
    saved(page)
    assert {d["name"]: d["guide"] for d in pieces(page, service)["shut"]["drawings"]}["open"] < guides["open"] - 2
    dialog.get_by_role("option", name="shut").click()
    dialog.get_by_role("button", name="Line up by guide lines").click()
    saved(page)
    by_name = {d["name"]: d for d in pieces(page, service)["shut"]["drawings"]}
    heights = [d["guide"] - d["pivot"][1] for d in by_name.values()]
    assert heights[0] == pytest.approx(heights[1])
    # And across, by their upright lines.
    for name, across in (("open", "430"), ("shut", "433")):
        dialog.get_by_role("option", name=name).click()
        dialog.get_by_label("Upright guide line", exact=True).click()
        field = dialog.get_by_label("Right", exact=True)
        field.fill(across)
        field.press("Enter")
        saved(page)
    dialog.get_by_role("button", name="Line up by guide lines").click()
    saved(page)
    by_name = {d["name"]: d for d in pieces(page, service)["shut"]["drawings"]}
    across = [d["upright"] - d["pivot"][0] for d in by_name.values()]
    assert across[0] == pytest.approx(across[1])
    # Or by one edge: their lower ones come together, and across nothing moves.
    dialog.get_by_role("button", name="Line up by their bottom edges").click()
    saved(page)
    edged = {d["name"]: d for d in pieces(page, service)["shut"]["drawings"]}
    low = [d["bounds"][3] - d["pivot"][1] for d in edged.values()]
    assert low[0] == pytest.approx(low[1])
    assert [d["pivot"][0] for d in edged.values()] == [d["pivot"][0] for d in by_name.values()]
    page.keyboard.press("Control+z")
    dialog.get_by_role("button", name="Line up by guide lines").click()
    saved(page)
    page.keyboard.press("Escape")
    # A click shows the other one at rest.
    page.get_by_role("listbox", name="Drawings of this piece").get_by_role("option", name="open").click()
    saved(page)
    page.keyboard.press("Escape")
    eventually(lambda: abs(count(stage, RED) - 80 * 60) < 200, True)

    # In motion, a drawing is keyed like anything else.
    bench(page, "Motion")
    page.get_by_role("button", name="Start a motion").click()
    saved(page)
    stage = Stage(page)
    settle(page)
    frame = page.get_by_label("Frame", exact=True)
    for at, name in ((1, "open"), (9, "shut")):
        frame.fill(str(at))
        frame.press("Enter")
        page.get_by_role("treeitem").filter(has_text="shut").click()
        page.get_by_role("listbox", name="Drawing of shut at this frame").get_by_role("option", name=name).click()
        saved(page)
    page.keyboard.press("Escape")
    red: dict[int, int] = {}
    for at in (8, 9):
        frame.fill(str(at))
        frame.press("Enter")
        page.keyboard.press("Escape")
        settle(page)
        red[at] = count(stage, RED)
    assert red[8] == pytest.approx(80 * 60, rel=0.1) and red[9] == pytest.approx(80 * 20, rel=0.2)


QUAY = b"""<svg xmlns="http://www.w3.org/2000/svg" width="1280" height="720" viewBox="0 0 1280 720">
<g id="booth"><rect x="400" y="200" width="200" height="200" fill="#c02020"/></g>
<g id="roof"><rect x="380" y="160" width="240" height="40" fill="#c02020"/></g></svg>"""


def test_one_swatch_recolours_all_and_a_new_version_keeps_what_was_set(fresh: tuple[Page, Service]) -> None:
    page, service = fresh
    give(page, "quay.svg", QUAY)
    expect(row(page, "roof")).to_be_visible()
    saved(page)
    stage = Stage(page)
    for name, choice in (("booth", "a new swatch of this colour"), ("roof", "#c02020")):
        row(page, name).click()
        unfold(page, "Swatches")
        page.get_by_label("fill #c02020 is linked to").select_option(label=choice)
        saved(page)
    page.keyboard.press("Escape")
    page.locator(".swatch").click()
    page.get_by_role("textbox", name="Colour of #c02020").fill("#2020c0")
    saved(page)
    eventually(lambda: abs(count(stage, (0x20, 0x20, 0xC0)) - 240 * 40 - 200 * 200) < 1500, True)
    assert count(stage, (0xC0, 0x20, 0x20)) < 100

    # A correction on one of them leaves the other and the art alone.
    row(page, "roof").click()
    unfold(page, "Fade and colour")
    page.get_by_label("Brightness").fill("20")
    page.get_by_label("Brightness").press("Enter")
    saved(page)
    # Once to leave the field, once to let go of the roof.
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    eventually(lambda: abs(count(stage, (0x53, 0x53, 0xF3)) - 240 * 40) < 500, True)

    # A new version: looked at first, then taken; pivot and swatch stay.
    before = pieces(page, service)
    page.get_by_role("button", name="Bring in art").click()
    with page.expect_file_chooser() as chooser:
        page.get_by_text("New version of a file…").click()
    newer = QUAY.replace(b'height="200"', b'height="260"').replace(b'id="roof"', b'id="chimney"')
    chooser.value.set_files({"name": "quay.svg", "mimeType": "image/svg+xml", "buffer": newer})
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("booth")
    expect(dialog).to_contain_text("No longer in the file")
    assert pieces(page, service) == before
    dialog.get_by_role("button", name="Take the new version").click()
    expect(row(page, "chimney")).to_be_visible()
    saved(page)
    after = pieces(page, service)
    assert (
        after["booth"]["drawings"][0]["bounds"][3] == 460 and after["booth"]["swatches"] == before["booth"]["swatches"]
    )
    assert after["booth"]["drawings"][0]["pivot"] == before["booth"]["drawings"][0]["pivot"] and "roof" in after


def test_shapes_are_drawn_edited_and_laid_over_a_reference(fresh: tuple[Page, Service]) -> None:
    page, service = fresh
    stage = Stage(page)
    page.get_by_role("button", name="Polygon").click()
    for p in ((300, 200), (500, 200), (500, 400), (300, 400), (302, 202)):
        stage.click(p)
        settle(page)
    expect(row(page, "polygon")).to_be_visible()
    saved(page)
    shape = pieces(page, service)["polygon"]["drawings"][0]["shape"]
    assert shape["closed"] and len(shape["points"]) == 4
    fill = (0xC9, 0xA3, 0x6A)
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    eventually(lambda: abs(count(stage, fill) - 197 * 197) < 1500, True)

    # Points: one added on an edge and pulled out, then made smooth; one removed.
    row(page, "polygon").click()
    page.get_by_role("button", name="Edit the points").click()
    settle(page)
    stage.click((400, 200))
    saved(page)
    expect(page.locator("[data-handle^='point:']")).to_have_count(5)
    stage.drag((400, 200), (400, 120))
    saved(page)
    points = pieces(page, service)["polygon"]["drawings"][0]["shape"]["points"]
    assert (points[1]["x"], points[1]["y"]) == (pytest.approx(400, abs=2), pytest.approx(120, abs=2))
    eventually(lambda: abs(count(stage, fill) - 197 * 197 - 200 * 80 / 2) < 2500, True)
    page.get_by_role("button", name="Smooth", exact=True).click()
    saved(page)
    assert pieces(page, service)["polygon"]["drawings"][0]["shape"]["points"][1]["smooth"]
    page.get_by_role("button", name="Remove the selected point").click()
    saved(page)
    expect(page.locator("[data-handle^='point:']")).to_have_count(4)

    # A freehand outline that comes back to its start is closed, and has few points.
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Freehand").click()
    ring = [(900 + 120 * np.cos(a), 320 + 120 * np.sin(a)) for a in np.linspace(0, 2 * np.pi, 40)]
    stage.drag(ring[0], *ring[1:])
    expect(row(page, "outline")).to_be_visible()
    saved(page)
    outline = pieces(page, service)["outline"]["drawings"][0]["shape"]
    assert outline["closed"] and 6 <= len(outline["points"]) <= 34 and all(p["smooth"] for p in outline["points"])

    # A reference lies under it all, can be hidden, and no film shows it.
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    sheet = png(patch(1280, 720, (0, 600, 1280, 720), (0, 255, 0)))
    unfold(page, "Reference")
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Lay a picture…").click()
    chooser.value.set_files({"name": "sheet.png", "mimeType": "image/png", "buffer": sheet})
    expect(page.get_by_label("Opacity: 50 %")).to_be_visible()
    saved(page)
    mixed = (122, 244, 107)
    eventually(lambda: abs(count(stage, mixed) - 1280 * 120) < 9000, True)
    page.get_by_role("button", name="Hide the reference").click()
    saved(page)
    eventually(lambda: count(stage, mixed) < 200, True)
    assert len(document(page, service.address, "puppet")["reference"]["pictures"]) == 1


def test_the_other_side_shares_its_drawings_and_a_group_is_hidden_as_one(fresh: tuple[Page, Service]) -> None:
    page, service = fresh
    give(page, "face.ora", FACE)
    expect(row(page, "face")).to_be_visible()
    saved(page)
    stage = Stage(page)
    row(page, "eye").click()
    page.get_by_role("button", name="Make the other side, mirrored").click()
    saved(page)
    expect(row(page, "eye")).to_have_count(2)
    twins = [p for p in pieces(page, service).values() if "eye" in p["name"]]
    assert len({p["shared"] for p in twins}) == 1 and twins[0]["shared"]
    page.keyboard.press("Escape")
    before = count(stage, RED)
    assert before > 3000
    page.get_by_role("button", name="Hide the group mouths").click()
    saved(page)
    eventually(lambda: count(stage, RED) < 50, True)
    row(page, "mouths").first.click()
    expect(page.get_by_text("2 pieces selected")).to_be_visible()
    page.keyboard.press("i")
    eventually(lambda: count(stage, YELLOW) < 50 and count(stage, RED) > 3000, True)
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Lock the group mouths").click()
    page.get_by_role("button", name="Show the group mouths").click()
    saved(page)
    stage.click((640, 410))
    expect(row(page, "face")).to_have_attribute("aria-selected", "true")
