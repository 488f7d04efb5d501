"""The whole job by hand: bring art in, link it, pose it, play it, render it, and look at the film."""

from __future__ import annotations

import math
from collections.abc import Callable
from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest
from playwright.sync_api import Page, expect

from tests.browser.hands import Sheet, Stage, bench, carry, document, eventually, saved, settle
from tests.conftest import Service

# A gull's wing: an upper part, a lower part, and a red tip to look for in the film.
ART = """<svg xmlns="http://www.w3.org/2000/svg" width="640" height="360" viewBox="0 0 640 360">
<g id="body"><ellipse cx="200" cy="180" rx="70" ry="45" fill="#e8e4da"/></g>
<g id="upper wing"><rect x="230" y="160" width="130" height="40" rx="20" fill="#9fb4c7"/></g>
<g id="lower wing"><rect x="330" y="164" width="130" height="32" rx="16" fill="#6f8aa3"/></g>
<g id="tip"><circle cx="470" cy="180" r="22" fill="#ff0000"/></g>
</svg>"""
SHOULDER, ELBOW, WRIST, TIP = (250.0, 180.0), (345.0, 180.0), (450.0, 180.0), (470.0, 180.0)
RED = np.array([255, 0, 0])


def turned(point: tuple[float, float], about: tuple[float, float], degrees: float) -> tuple[float, float]:
    a = math.radians(degrees)
    x, y = point[0] - about[0], point[1] - about[1]
    return about[0] + x * math.cos(a) - y * math.sin(a), about[1] + x * math.sin(a) + y * math.cos(a)


def red_middle(picture: np.ndarray) -> tuple[float, float]:
    """The middle of what is red."""
    red = (picture[:, :, 0] > 170) & (picture[:, :, 1] < 90) & (picture[:, :, 2] < 90)
    assert red.sum() > 200, "no red is to be seen"
    ys, xs = np.nonzero(red)
    return float(xs.mean()) + 0.5, float(ys.mean()) + 0.5


@pytest.fixture
def started(serve: Callable[..., Service], new_page: Callable[..., Page], tmp_path: Path) -> tuple[Page, Service]:
    service, page = serve(), new_page()
    (tmp_path / "wing.svg").write_text(ART)
    page.goto(service.address)
    page.get_by_role("button", name="New production").click()
    page.get_by_label("Name").fill("Gull over the quay")
    page.get_by_role("dialog").get_by_role("button", name="New production").click()
    expect(page.get_by_text("Bring in your art")).to_be_visible()
    page.get_by_text("Gull over the quay").click()
    for label, value in (("Stage width", "640"), ("Stage height", "360")):
        page.get_by_label(label).fill(value)
        page.get_by_label(label).press("Enter")
    page.get_by_role("button", name="Done").click()
    saved(page)
    page.get_by_label("Art to bring in").set_input_files(tmp_path / "wing.svg")
    expect(page.get_by_role("row", name="tip")).to_be_visible()
    saved(page)
    return page, service


def test_from_art_to_film(started: tuple[Page, Service], tmp_path: Path) -> None:
    page, service = started
    stage = Stage(page)
    settle(page)

    # Pivots, by carrying each pin from the middle of its piece.
    for name, middle, pivot in (
        ("upper wing", (295, 180), SHOULDER),
        ("lower wing", (395, 180), ELBOW),
        ("tip", TIP, WRIST),
    ):
        page.get_by_role("row", name=name).click()
        expect(page.locator("[data-handle^='pin:']")).to_be_visible()
        settle(page)
        stage.pin(middle, pivot)
        saved(page)
    puppet = document(page, service.address, "puppet")
    by_name = {p["name"]: p for p in puppet["pieces"].values()}
    for name, pivot in (("upper wing", SHOULDER), ("lower wing", ELBOW), ("tip", WRIST)):
        assert by_name[name]["drawings"][0]["pivot"] == pytest.approx(pivot, abs=1.5)
        assert by_name[name]["fit"]["angle"] == 0

    # Links: on the figure for two, in the list for the third; a loop is refused with its reason.
    bench(page, "Rig")
    stage = Stage(page)
    settle(page)
    stage.drag((480, 188), (400, 180))
    saved(page)
    stage.drag((400, 190), (300, 175))
    saved(page)
    rows = page.get_by_role("treeitem")
    carry(rows.filter(has_text="upper wing"), rows.filter(has_text="body"))
    saved(page)
    joints = document(page, service.address, "puppet")["joints"]
    hangs = {j["name"]: joints[j["parent"]]["name"] if j["parent"] else None for j in joints.values()}
    assert hangs == {"body": None, "upper wing": "body", "lower wing": "upper wing", "tip": "lower wing"}
    carry(rows.filter(has_text="body"), rows.filter(has_text="tip"))
    expect(page.get_by_role("alert")).to_contain_text("“tip” already hangs on it")
    page.get_by_role("alert").get_by_role("button", name="Close").click()

    # A trial pose leaves no trace.
    before = document(page, service.address, "puppet")
    page.get_by_role("button", name="Try a pose").click()
    stage.drag((300, 180), (280, 240))
    expect(page.get_by_text("nothing of it is kept")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_text("nothing of it is kept")).to_be_hidden()
    assert document(page, service.address, "puppet") == before

    # Three key poses: at rest, wing up, wing folded; then an ease and a hold.
    bench(page, "Motion")
    page.get_by_role("button", name="Start a motion").click()
    saved(page)
    stage = Stage(page)
    page.keyboard.press("Home")
    page.get_by_text("upper wing", exact=True).first.click()
    page.keyboard.press("k")
    saved(page)
    frame = page.get_by_label("Frame", exact=True)
    frame.fill("13")
    frame.press("Enter")
    stage.drag((300, 180), turned((300, 180), SHOULDER, -40))
    saved(page)
    frame.fill("25")
    frame.press("Enter")
    settle(page)
    at = turned((390, 180), SHOULDER, -40)
    elbow = turned(ELBOW, SHOULDER, -40)
    stage.drag(at, turned(at, elbow, 60))
    saved(page)

    motion = document(page, service.address, "motion")
    names = {j["id"]: j["name"] for j in joints.values()}
    keyed = {(names[c["joint"]], c["kind"]): c["keys"] for c in motion["channels"].values()}
    assert keyed[("upper wing", "turn")]["0"]["value"] == [0]
    up = keyed[("upper wing", "turn")]["12"]["value"][0]
    fold = keyed[("lower wing", "turn")]["24"]["value"][0]
    assert up == pytest.approx(-40, abs=2)
    assert fold == pytest.approx(60, abs=2)
    upper = next(c["joint"] for c in motion["channels"].values() if names[c["joint"]] == "upper wing")
    lower = next(c["joint"] for c in motion["channels"].values() if names[c["joint"]] == "lower wing")

    Sheet(page).click("upper wing", "turn", 0)
    page.get_by_role("group", name="Way to the next").get_by_text("Soft").click()
    saved(page)
    page.get_by_role("textbox", name="Slow out").fill("80")
    page.get_by_role("textbox", name="Slow out").press("Enter")
    saved(page)
    # The folded pose is held from a key at the start, so that the wing folds all at once.
    page.keyboard.press("Home")
    page.get_by_text("lower wing", exact=True).first.click()
    page.get_by_role("textbox", name="Turn").fill("0")
    page.get_by_role("textbox", name="Turn").press("Enter")
    saved(page)
    Sheet(page).click("lower wing", "turn", 0)
    page.get_by_role("group", name="Way to the next").get_by_text("Hold").click()
    saved(page)
    motion = document(page, service.address, "motion")
    assert motion["channels"][f"{upper}.turn"]["keys"]["0"]["ease"] == {"kind": "slow", "out": 80, "into": 50}
    assert motion["channels"][f"{lower}.turn"]["keys"]["0"]["ease"] == {"kind": "hold"}

    # Playing moves the playhead, and stopping stops it.
    page.locator(".stage").click(position={"x": 5, "y": 5})
    page.keyboard.press("Home")
    page.keyboard.press("Space")
    expect(frame).not_to_have_value("1")
    page.keyboard.press("Space")
    stopped = frame.input_value()
    for _ in range(10):
        settle(page)
        assert frame.input_value() == stopped

    # Blocking holds the poses without touching the keys.
    page.keyboard.press("b")
    frame.fill("12")
    frame.press("Enter")
    settle(page)
    expect(page.get_by_text("Blocking: poses are held")).to_be_visible()
    page.keyboard.press("Escape")
    expected = stage.place(TIP)
    box = stage.element.bounding_box()
    assert box is not None
    wanted = pytest.approx((expected[0] - box["x"], expected[1] - box["y"]), abs=2)
    eventually(lambda: red_middle(stage.pixels()), wanted)
    assert document(page, service.address, "motion") == motion
    page.keyboard.press("b")

    # Render, fetch, and look at the film.
    bench(page, "Render")
    page.get_by_label("To frame").fill("30")
    page.get_by_label("To frame").press("Enter")
    page.get_by_role("button", name="Render", exact=True).click()
    expect(page.locator('[data-state="done"]')).to_be_visible(timeout=60_000)
    with page.expect_download() as fetched:
        page.get_by_role("link", name="Fetch").click()
    film = tmp_path / "film.mp4"
    fetched.value.save_as(film)
    with av.open(str(film)) as opened:
        stream = opened.streams.video[0]
        assert (stream.width, stream.height, stream.average_rate) == (640, 360, 24)
        frames = [f.to_ndarray(format="rgb24") for f in opened.decode(stream)]
    assert len(frames) == 30
    eased = slow_halfway(80, 50)
    for number, (shoulder_turn, elbow_turn) in ((0, (0, 0)), (6, (up * eased, 0)), (24, (up, fold))):
        hand = turned(turned(TIP, ELBOW, elbow_turn), SHOULDER, shoulder_turn)
        assert red_middle(frames[number]) == pytest.approx(hand, abs=1.6), f"frame {number + 1}"


def slow_halfway(out: float, into: float) -> float:
    """Progress of the CSS cubic-bezier(out, 0, 1-into, 1) at half time, by stepping along the curve."""
    x1, x2 = out / 100, 1 - into / 100
    s = np.linspace(0, 1, 200_001)
    x = 3 * x1 * s * (1 - s) ** 2 + 3 * x2 * s**2 * (1 - s) + s**3
    y = 3 * s**2 * (1 - s) + s**3
    return float(np.interp(0.5, x, y))


def test_everything_survives_a_restart_and_can_be_undone(started: tuple[Page, Service]) -> None:
    page, service = started
    untouched: dict[str, Any] = document(page, service.address, "puppet")
    page.get_by_role("row", name="tip").click()
    for _ in range(3):
        page.keyboard.press("ArrowRight")
        saved(page)
    page.keyboard.press("Shift+ArrowDown")
    saved(page)
    tip = next(p["joint"] for p in untouched["pieces"].values() if p["name"] == "tip")
    rest = document(page, service.address, "puppet")["joints"][tip]["rest"]
    assert (rest["x"], rest["y"]) == (TIP[0] + 3, TIP[1] + 10)

    service.kill()
    expect(page.get_by_text("Sorvan does not answer")).to_be_visible()
    service.start()
    expect(page.get_by_text("Sorvan does not answer")).to_be_hidden(timeout=20_000)
    undo = page.get_by_role("button", name="Undo: Move “tip”")
    for _ in range(4):
        undo.click()
        saved(page)
    assert document(page, service.address, "puppet") == untouched
    page.keyboard.press("Control+y")
    saved(page)
    assert document(page, service.address, "puppet")["joints"][tip]["rest"]["x"] == TIP[0] + 1
