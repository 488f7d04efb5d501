"""Versions of a drawing made here: a copy is wiped, drawn on and its parts changed, and the first stays."""

from __future__ import annotations

from typing import Any

import pytest
from playwright.sync_api import Page, expect

from tests.browser.hands import Stage, document, saved
from tests.conftest import Service
from tests.interchange.art import svg

FACE, LIPS, TEETH = (0xE0, 0xB0, 0x80), (0x80, 0x20, 0x30), (0xF0, 0xF0, 0xF0)
MOUTH = svg(
    '<g id="face"><rect x="440" y="160" width="400" height="400" fill="#e0b080"/></g>'
    '<g id="mouth"><rect x="540" y="400" width="200" height="80" fill="#802030"/>'
    '<rect x="560" y="410" width="160" height="20" fill="#f0f0f0"/></g>',
    attributes='width="1280" height="720" viewBox="0 0 1280 720"',
)


def test_an_open_mouth_is_made_a_shut_one_and_both_stay(fresh: tuple[Page, Service]) -> None:
    page, service = fresh
    page.locator("input[type=file]").first.set_input_files(
        {"name": "mouth.svg", "mimeType": "image/svg+xml", "buffer": MOUTH}
    )
    page.get_by_role("row", name="mouth").click()
    saved(page)
    stage = Stage(page)

    def seen(x: float, y: float) -> tuple[int, ...]:
        """The colour at a place of the stage."""
        place, box = stage.place((x, y)), stage.element.bounding_box()
        assert box is not None
        pixel = stage.pixels()[round(place[1] - box["y"]), round(place[0] - box["x"])]
        return tuple(int(v) for v in pixel[:3])

    def drawings() -> list[dict[str, Any]]:
        pieces = document(page, service.address, "puppet")["pieces"]
        found: list[dict[str, Any]] = next(p["drawings"] for p in pieces.values() if p["name"] == "mouth")
        return found

    # The eraser goes along the lower lip of a copy.
    page.get_by_role("button", name="Touch up").click()
    page.get_by_role("button", name="copy the drawing").click()
    saved(page)
    first, second = drawings()
    assert (second["name"], second["art"]) == ("mouth 2", first["art"])
    page.get_by_role("button", name="Eraser").click()
    page.get_by_label("Line width").fill("40")
    page.keyboard.press("Enter")
    stage.drag((500, 465), (780, 465))
    expect(page.get_by_role("option", name="wiped line 1")).to_be_visible()
    assert [seen(640, y) for y in (405, 420, 438, 450, 475)] == [LIPS, TEETH, LIPS, FACE, FACE]

    # A line is drawn in its place, and taken back again.
    page.get_by_role("button", name="Brush").click()
    page.get_by_label("Line width").fill("8")
    page.keyboard.press("Enter")
    stage.drag((560, 470), (720, 470))
    expect(page.get_by_role("option", name="drawn line 2")).to_be_visible()
    assert seen(640, 470) not in (FACE, LIPS, TEETH)
    page.get_by_role("option", name="drawn line 2").click()
    page.get_by_role("button", name="Take line 2 back").click()
    expect(page.get_by_role("option", name="drawn line 2")).to_have_count(0)
    assert seen(640, 470) == FACE

    # The teeth are carried down, then by an arrow, made narrower, and then left out.
    page.get_by_role("button", name="Parts of a drawing").click()
    stage.drag((640, 420), (640, 428))
    saved(page)
    expect(page.get_by_role("option", name="part 2")).to_have_attribute("aria-selected", "true")
    page.locator(".stage").focus()
    page.keyboard.press("Shift+ArrowDown")
    saved(page)
    assert float(page.get_by_label("Down by").input_value()) == pytest.approx(18, abs=0.6)
    assert [seen(640, y) for y in (415, 440)] == [LIPS, TEETH]
    page.get_by_label("Size").fill("50")
    page.keyboard.press("Enter")
    saved(page)
    assert [seen(x, 438) for x in (590, 640, 690)] == [LIPS, TEETH, LIPS]
    page.get_by_role("button", name="Leave part 2 out").click()
    expect(page.get_by_role("option", name="part 2, left out")).to_be_visible()
    assert seen(640, 438) == LIPS

    # The first is as it came; the second can be that again, and undone what was done to it.
    kept, shut = drawings()
    assert kept == first and shut["retouch"]["of"] == first["art"] != shut["art"]
    page.get_by_role("button", name="Put it back as it was").click()
    expect(page.get_by_role("button", name="Put it back as it was")).to_have_count(0)
    assert seen(640, 450) == LIPS
    assert drawings()[1]["art"] == first["art"]
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("button", name="Put it back as it was")).to_be_visible()
    assert drawings()[1]["art"] == shut["art"]
