"""Whole tasks with drawings that become others: steam that rises round a loop, a mouth that blends while it speaks."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from numpy.typing import NDArray
from playwright.sync_api import Page, expect

from sorvan.core.morph.colours import oklab, srgb
from sorvan.demo.steam import MOUTH, crease, plume
from sorvan.interchange.pictures import decode
from tests.browser.hands import Sheet, Stage, bench, document, eventually, saved
from tests.browser.test_tasks import go, joint
from tests.browser.test_voice import MOUTHS, at_frame, by_number, keys, opened, porter, shown, told, with_line
from tests.conftest import Service
from tests.service.test_http import documents, fetched

__all__ = ["told"]
RISES = 0.6
"""By how much of a billow the steam has risen from one drawing to the next: more than half, so that what is nearest
lies lower."""


def steam(folder: Path) -> Path:
    """Three plumes, one further up than the other, and the whistle that they come from."""
    plumes = "".join(f'<g id="plume {n + 1}"><path d="{plume(n * RISES % 1)}" fill="#f4ecdf"/></g>' for n in range(3))
    art = '<rect id="r" x="620" y="520" width="40" height="120" fill="#c8942f"/>'
    path = folder / "whistle.svg"
    path.write_text(
        f'<svg xmlns="http://www.w3.org/2000/svg" width="1280" height="720">{plumes}<g id="whistle">{art}</g></svg>'
    )
    return path


def pictures(service: Service, production: str) -> list[NDArray[np.uint8]]:
    """The motion's frames as they are rendered, with nothing behind."""
    motion = next(id for id, d in documents(service.client(), production).items() if d["kind"] == "motion")
    asked = {"motion": motion, "format": "png", "clear": True}
    with zipfile.ZipFile(io.BytesIO(fetched(service.client(), production, asked))) as file:
        return [decode(file.read(name), name) for name in sorted(file.namelist())]


def rise(frames: list[NDArray[np.uint8]], apart: int) -> list[int]:
    """By how many pixels the left edge of the steam goes up over so many frames, beginning at each of them: how far one
    must be shifted to lie best on the other, round the loop."""
    edges = [np.argmax(f[:, :, 3] > 128, axis=1).astype(float)[240:500] for f in frames]
    found = []
    for k, edge in enumerate(edges):
        later = edges[(k + apart) % len(edges)]
        off = {dy: np.abs(edge[40:-40] - later[40 - dy : len(later) - 40 - dy]).mean() for dy in range(-36, 37)}
        found.append(min(off, key=lambda dy: off[dy]))
    return found


def test_steam_in_three_drawings_rises_round_a_loop(fresh: tuple[Page, Service], tmp_path: Path) -> None:
    page, service = fresh
    page.get_by_label("Art to bring in").set_input_files(steam(tmp_path))
    expect(page.get_by_role("row", name="plume 3")).to_be_visible()
    saved(page)
    # The three are drawings of one piece.
    page.get_by_role("row", name="plume 1").click()
    for name in ("plume 2", "plume 3"):
        page.get_by_role("row", name=name).click(modifiers=["Control"])
    page.get_by_role("button", name="One piece, many drawings").click()
    page.get_by_role("button", name="Gather", exact=True).click()
    saved(page)

    bench(page, "Motion")
    page.get_by_role("button", name="Start a motion").click()
    page.get_by_label("Length").fill("36")
    page.get_by_label("Length").press("Enter")
    page.get_by_label("Cycle").click()
    saved(page)
    joint(page, "plume 1")
    for frame, name in ((0, "plume 1"), (12, "plume 2"), (24, "plume 3")):
        go(page, frame)
        page.get_by_role("option", name=name).click()
        saved(page)
    sheet = Sheet(page)
    sheet.name("plume 1", "drawing").click()
    page.get_by_role("button", name="Morph", exact=True).click()
    saved(page)
    production = page.url.split("/p/")[1].split("/")[0]
    assert min(rise(pictures(service, production), 3)) < 0, "by itself it sinks somewhere"

    # Four marks from each drawing to the next: on either side two folds rise to where they are then.
    for n in range(3):
        sheet.click("plume 1", "drawing", 12 * n)
        page.get_by_role("button", name="Match marks and ways").click()
        dialog = page.get_by_role("dialog")
        expect(dialog.locator(".morph-row:not([data-busy])")).to_be_visible()
        now, then = n * RISES % 1, (n + 1) % 3 * RISES % 1
        for side in (-1, 1):
            rises = (then - now) % 1
            low = 1 if crease(2 + now + rises, side)[0] < 0.93 else 0
            for fold in (low, low + 1):
                mark(page, 0, crease(fold + now, side)[1])
                pull(page, 1, crease(fold + now + rises, side)[1])
        expect(dialog.locator(".mark-row")).to_have_count(4)
        expect(dialog.get_by_text("goes against the rest")).to_have_count(0)
        dialog.get_by_role("button", name="Done").click()
    held = next(p for p in document(page, service.address, "puppet")["pieces"].values() if len(p["drawings"]) == 3)
    assert [len(m["marks"]) for m in held["morphs"].values()] == [4, 4, 4]
    frames = pictures(service, production)
    up = rise(frames, 3)
    assert min(up) > 0, f"it rises in every frame, round the seam too: {up}"
    steps = [
        np.abs(a[:, :, 3].astype(int) - b[:, :, 3]).mean()
        for a, b in zip(frames, [*frames[1:], frames[0]], strict=True)
    ]
    assert max(steps) < 3 * float(np.median(steps)), "nothing jumps, least of all at the seam"
    # It goes on coming out of the whistle.
    for f in frames:
        row = np.flatnonzero(f[512, :, 3] > 128)
        assert row[0] < MOUTH[0] - 4 and row[-1] > MOUTH[0] + 4
        assert row[-1] - row[0] < 80


def at(page: Page, which: int, place: tuple[float, float]) -> tuple[float, float]:
    """Where a place of the first or the second drawing (its own units) lies on the screen."""
    area = page.get_by_role("dialog").locator(".lineup.morph:not(.between)").nth(which)
    box = area.bounding_box()
    assert box is not None
    scale, x, y = (float(area.get_attribute(f"data-{k}") or 0) for k in ("scale", "x", "y"))
    return box["x"] + x + place[0] * scale, box["y"] + y + place[1] * scale


def mark(page: Page, which: int, place: tuple[float, float]) -> None:
    """Set a mark by a click on the outline."""
    count = page.locator(".mark-row").count()
    page.mouse.click(*at(page, which, place))
    expect(page.locator(".mark-row")).to_have_count(count + 1)
    saved(page)
    expect(page.locator(".morph-row:not([data-busy])")).to_be_visible()


def pull(page: Page, which: int, place: tuple[float, float]) -> None:
    """Pull the newest mark to a place."""
    count = page.locator(".mark-row").count()
    sign = (
        page.get_by_role("dialog").locator(".lineup.morph:not(.between)").nth(which).locator(f"[data-mark='{count}']")
    )
    box = sign.bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(*at(page, which, place), steps=6)
    page.mouse.up()
    saved(page)
    expect(page.locator(".morph-row:not([data-busy])")).to_be_visible()


def test_in_betweens_are_kept_and_held_and_troubles_lead_to_their_frame(
    fresh: tuple[Page, Service], tmp_path: Path
) -> None:
    page, service = fresh
    art = """<svg xmlns="http://www.w3.org/2000/svg" width="400" height="300">
<g id="low"><path d="M100 200H200V250H100Z" fill="#336699"/></g><g id="high"><path d="M100 100H300V250H100Z" fill="#993366"/></g></svg>"""
    (tmp_path / "box.svg").write_text(art)
    page.get_by_label("Art to bring in").set_input_files(tmp_path / "box.svg")
    expect(page.get_by_role("row", name="high")).to_be_visible()
    saved(page)
    page.get_by_role("row", name="low").click()
    page.get_by_role("row", name="high").click(modifiers=["Control"])
    page.get_by_role("button", name="One piece, many drawings").click()
    page.get_by_role("button", name="Gather", exact=True).click()
    saved(page)
    # On the Pieces bench the same view: pulled crosswise, the marks turn the box over, and that is told.
    page.get_by_role("row", name="low").first.click()
    page.get_by_role("button", name="Morph…").click()
    dialog = page.get_by_role("dialog")
    expect(dialog.locator(".morph-row:not([data-busy])")).to_be_visible()
    expect(dialog.get_by_text("Nothing: no outline")).to_be_visible()
    # Both hang by the pivot of the first.
    for here, there in (((100.0, 200.0), (300.0, 250.0)), ((200.0, 250.0), (100.0, 100.0))):
        mark(page, 0, here)
        pull(page, 1, there)
    trouble = dialog.get_by_role("button", name="Shape 1 shrinks").or_(
        dialog.get_by_role("button", name="Shape 1 crosses itself")
    )
    trouble.first.click()
    expect(dialog.locator("svg .morph-bad").first).to_be_attached()
    dialog.get_by_role("button", name="Turn", exact=True).click()
    expect(dialog.get_by_text("Shape 1 shrinks")).to_have_count(0)
    for _ in range(2):
        dialog.get_by_role("button", name="Remove mark 1").click()
        saved(page)
    expect(dialog.get_by_text("Nothing: no outline")).to_be_visible()
    dialog.get_by_role("button", name="Straight").click()
    saved(page)
    dialog.get_by_role("button", name="Done").click()

    bench(page, "Motion")
    page.get_by_role("button", name="Start a motion").click()
    joint(page, "low")
    for frame, name in ((0, "low"), (12, "high")):
        go(page, frame)
        page.get_by_role("option", name=name).click()
        saved(page)
    sheet = Sheet(page)
    sheet.click("low", "drawing", 0)
    page.get_by_role("button", name="Morph", exact=True).click()
    saved(page)
    go(page, 6)
    page.get_by_role("button", name="Keep this in-between").click()
    saved(page)
    held = next(iter(document(page, service.address, "puppet")["pieces"].values()))
    assert len(held["drawings"]) == 3
    made = held["drawings"][2]
    l, t, r, b = made["bounds"]
    assert (r - l, b - t) == (pytest.approx(150, abs=0.2), pytest.approx(100, abs=0.2))
    assert made["shape"] is not None
    half = srgb((oklab(np.array([0x33, 0x66, 0x99]) / 255) + oklab(np.array([0x99, 0x33, 0x66]) / 255)) / 2) * 255
    fill = [int(made["shape"]["fill"][i : i + 2], 16) for i in (1, 3, 5)]
    assert fill == pytest.approx(half, abs=1.01)
    # It is a drawing like any other: its points can be edited.
    channel = next(iter(document(page, service.address, "motion")["channels"].values()))
    assert {int(f): k["value"][0] for f, k in channel["keys"].items()} == {0: 0, 6: 2, 12: 1}
    page.keyboard.press("Control+z")
    saved(page)
    sheet.click("low", "drawing", 0)
    page.get_by_role("button", name="Every…").click()
    page.get_by_role("dialog").get_by_label("On every").fill("4")
    page.get_by_role("dialog").get_by_role("button", name="Make drawings").click()
    saved(page)
    channel = next(iter(document(page, service.address, "motion")["channels"].values()))
    assert sorted(map(int, channel["keys"])) == [0, 4, 8, 12]
    assert all(not k.get("change") for k in channel["keys"].values())


def test_a_mouth_becomes_the_next_while_the_voice_plays(
    shared: Service, new_page: Callable[..., Page], told: Path
) -> None:
    production, mouth = porter(shared)
    page = opened(new_page, shared, production)
    page.get_by_role("button", name="Make the chart").click()
    with_line(page, told)
    page.get_by_role("button", name="Make mouths").click()
    saved(page)
    made, names = keys(page, shared, mouth), by_number(page, shared, mouth)
    page.get_by_role("button", name="The set:").click()
    page.get_by_label("Blend into the next over").fill("2")
    page.get_by_label("Blend into the next over").press("Enter")
    saved(page)
    page.keyboard.press("Escape")
    frames = sorted(f for f in made if f and at_frame(made, f - 1) != made[f]["value"][0])
    frame = next(f for f in frames if not {f + 1, f + 2} & set(frames))
    one, two = names[at_frame(made, frame - 1)], names[made[frame]["value"][0]]
    levels = [np.array([int(MOUTHS[m][i : i + 2], 16) for i in (1, 3, 5)]) / 255 for m in (one, two)]
    third, more = (srgb(oklab(levels[0]) * (1 - t) + oklab(levels[1]) * t) * 255 for t in (1 / 3, 2 / 3))

    def colour() -> NDArray[np.float64]:
        stage = Stage(page)
        x, y = stage.place((160, 120))
        box = stage.element.bounding_box()
        assert box is not None
        found: NDArray[np.float64] = stage.pixels()[round(y - box["y"]), round(x - box["x"])][:3].astype(float)
        return found

    for at_, wanted in ((frame, third), (frame + 1, more)):
        go(page, at_)
        eventually(lambda wanted=wanted: bool(np.abs(colour() - wanted).max() < 4), True)
    go(page, frame + 2)
    eventually(lambda: shown(page), two)

    # While it plays the mouth is seen on its way. The sound's clock is the test's: it goes on by a fifth of a frame with
    # each picture of the page, however slow the machine is, and a pixel of the stage is looked at in each.
    go(page, max(frame - 12, 0))
    page.keyboard.press("Escape")
    stage = Stage(page)
    x, y = stage.place((160, 120))
    box = stage.element.bounding_box()
    assert box is not None
    page.evaluate(
        """([x, y, wanted]) => {
          const canvas = document.querySelector('.stage canvas');
          const probe = document.createElement('canvas');
          probe.width = probe.height = 1;
          const c = probe.getContext('2d', { willReadFrequently: true });
          const ratio = canvas.width / canvas.clientWidth;
          window.nearest = wanted.map(() => 255);
          let heard = 100;
          Object.defineProperty(BaseAudioContext.prototype, 'currentTime', { get: () => heard });
          const look = () => {
            heard += 1 / 120;
            c.drawImage(canvas, Math.round(x * ratio), Math.round(y * ratio), 1, 1, 0, 0, 1, 1);
            const seen = c.getImageData(0, 0, 1, 1).data;
            wanted.forEach((colour, n) => {
              const apart = Math.max(...colour.map((level, k) => Math.abs(level - seen[k])));
              window.nearest[n] = Math.min(window.nearest[n], apart);
            });
            requestAnimationFrame(look);
          };
          document.activeElement?.blur();
          look();
        }""",
        [x - box["x"], y - box["y"], [third.tolist(), more.tolist()]],
    )
    page.keyboard.press(" ")
    expect(page.get_by_role("button", name="Pause")).to_be_visible()
    # both in-betweens are seen while it speaks
    eventually(lambda: max(page.evaluate("window.nearest")) < 6, True)
    page.keyboard.press(" ")
