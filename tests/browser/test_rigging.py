"""Rigging by hand: limbs that bend, wrong links mended, a sheet with a rolling foot, and reaching."""

from __future__ import annotations

import math
import re
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from tests.browser.hands import Stage, bench, carry, document, eventually, saved, settle
from tests.conftest import Service
from tests.interchange.art import patch, png

LIMBS = """<svg xmlns="http://www.w3.org/2000/svg" width="1280" height="720" viewBox="0 0 1280 720">
<g id="forearm"><rect x="380" y="180" width="200" height="40" rx="20" fill="#c05030"/></g>
<g id="upper arm"><rect x="200" y="180" width="200" height="40" rx="20" fill="#305080"/></g>
<g id="sleeve"><rect x="200" y="430" width="400" height="40" fill="#309060"/></g>
</svg>"""


def bring(page: Page, path: Path, piece: str) -> None:
    page.get_by_label("Art to bring in").set_input_files(path)
    expect(page.get_by_role("row", name=piece, exact=False).first).to_be_visible()
    saved(page)


def by_name(held: dict[str, Any]) -> dict[str, Any]:
    return {v["name"]: v for v in held.values()}


def puppet_of(page: Page, service: Service) -> dict[str, Any]:
    return document(page, service.address, "puppet")


def coloured(stage: Stage, rgb: tuple[int, int, int], within: int = 40) -> np.ndarray:
    """Where a colour shows on the stage: rows of x, y in stage units."""
    pixels = stage.pixels()[:, :, :3].astype(int)
    found = np.argwhere(np.abs(pixels - rgb).max(axis=2) < within)
    scale, x, y = (float(stage.element.get_attribute(f"data-{k}") or 0) for k in ("scale", "x", "y"))
    return (found[:, ::-1] - 1 - np.array([x, y])) / scale


def to_rig(page: Page) -> None:
    bench(page, "Rig")
    expect(page.get_by_text("What hangs on what")).to_be_visible()
    settle(page)


def rename(page: Page, label: str, name: str) -> None:
    field = page.get_by_label(label)
    field.fill(name)
    field.press("Enter")
    saved(page)


def draw_joints(page: Page, stage: Stage, names: list[str], places: list[tuple[float, float]]) -> None:
    """Click joints along a limb and name each."""
    for name, place in zip(names, places, strict=True):
        count = page.get_by_role("treeitem").count()
        stage.click(place)
        expect(page.get_by_role("treeitem")).to_have_count(count + 1)
        expect(page.get_by_label("Name of the joint")).to_have_value(re.compile(r"^joint \d+$"))
        saved(page)
        rename(page, "Name of the joint", name)


def test_an_arm_of_two_pictures_turns_at_its_elbow_and_one_of_one_picture_bends(
    fresh: tuple[Page, Service], tmp_path: Path
) -> None:
    page, service = fresh
    (tmp_path / "limbs.svg").write_text(LIMBS)
    bring(page, tmp_path / "limbs.svg", "sleeve")
    stage = Stage(page)
    # The elbow of the two pictures: the forearm's pin goes to where they overlap.
    page.get_by_role("row", name="forearm").click()
    settle(page)
    stage.pin((480, 200), (390, 200))
    saved(page)
    to_rig(page)
    stage = Stage(page)
    settle(page)
    stage.drag((500, 210), (260, 200))
    saved(page)

    # The one picture: three joints drawn over it, then it bends over those.
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Draw joints").click()
    draw_joints(page, stage, ["shoulder", "elbow", "wrist"], [(215, 450), (390, 450), (585, 450)])
    joints = by_name(puppet_of(page, service)["joints"])
    assert joints["elbow"]["parent"] == joints["shoulder"]["id"] and joints["wrist"]["parent"] == joints["elbow"]["id"]
    page.get_by_role("button", name="Link: drag").click()
    stage.click((300, 460))
    page.get_by_role("button", name="Bends", exact=True).click()
    saved(page)
    sleeve = by_name(puppet_of(page, service)["pieces"])["sleeve"]
    assert sleeve["attach"]["joints"] == [joints[n]["id"] for n in ("shoulder", "elbow", "wrist")]
    expect(page.locator("[data-cost]")).to_contain_text("ms a frame")

    # Both elbows are turned by about 90° and looked at.
    page.get_by_role("button", name="Try a pose").click()
    page.get_by_role("treeitem").filter(has_text="forearm").click()
    stage.drag((560, 195), (540, 290), (390, 370))
    forearm = coloured(stage, (0xC0, 0x50, 0x30))
    assert forearm[:, 1].max() == pytest.approx(390, abs=8) and np.ptp(forearm[:, 0]) < 60
    page.get_by_role("treeitem").filter(has_text="elbow").click()
    stage.drag((560, 452), (540, 360), (392, 282))
    page.keyboard.press("Shift")
    green = coloured(stage, (0x30, 0x90, 0x60))
    # Square at the elbow: the upper half lies as before, the lower half stands straight up.
    lower = green[(green[:, 1] > 300) & (green[:, 1] < 390) & (green[:, 0] > 340)]
    assert lower[:, 0].min() == pytest.approx(370, abs=6) and lower[:, 0].max() == pytest.approx(410, abs=6)
    upper = green[green[:, 0] < 300]
    assert upper[:, 1].min() == pytest.approx(430, abs=4) and upper[:, 1].max() == pytest.approx(470, abs=4)
    # A whole picture still: its area is kept within a tenth (in pixels, less what the pins hide).
    page.keyboard.press("Escape")
    before = puppet_of(page, service)
    expect(page.get_by_text("nothing of it is kept")).to_be_hidden()
    rest = coloured(stage, (0x30, 0x90, 0x60))
    assert len(green) == pytest.approx(len(rest), rel=0.1)
    assert puppet_of(page, service) == before


STICK: list[tuple[str, tuple[float, float], tuple[float, float]]] = [
    ("body", (620, 240), (660, 420)),
    ("head", (600, 150), (680, 230)),
    *((f"{s} {p}", (640 + w * (a[0] - 12), a[1]), (640 + w * (a[0] + 12), b)) for s, w in (("left", 1), ("right", -1)) for p, a, b in (
        ("upper arm", (60, 250), 330), ("forearm", (60, 326), 410), ("thigh", (20, 420), 520), ("shin", (20, 516), 620),
    )),
]  # fmt: skip


def test_a_stick_figure_drawn_here_is_hung_wrongly_found_mended_and_bends(fresh: tuple[Page, Service]) -> None:
    page, service = fresh
    stage = Stage(page)
    for i, (name, a, b) in enumerate(STICK):
        page.get_by_role("button", name="Rectangle: drag").click()
        stage.drag(a, ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2), b)
        saved(page)
        expect(page.get_by_role("grid", name="Pieces").get_by_role("row")).to_have_count(i + 1)
        rename(page, "Name", name)
    pieces = by_name(puppet_of(page, service)["pieces"])
    assert pieces["body"]["drawings"][0]["shape"]["kind"] == "rectangle"
    assert set(pieces) == {n for n, _, _ in STICK}

    # The skeleton on top: trunk first, then each limb from what is selected.
    to_rig(page)
    page.get_by_role("button", name="Draw joints").click()
    stage = Stage(page)
    settle(page)
    page.keyboard.press("Escape")
    draw_joints(page, stage, ["hips", "chest", "neck"], [(640, 415), (640, 260), (640, 232)])
    limbs = {
        "chest": [("left shoulder", (700, 255)), ("left elbow", (700, 328)), ("left wrist", (700, 405))],
        "hips": [("left hip", (664, 446)), ("left knee", (660, 518)), ("left ankle", (660, 612))],
    }
    for parent, line in limbs.items():
        for way in (1, -1):
            page.get_by_role("treeitem").filter(has_text=parent).first.click()
            names = [n if way > 0 else n.replace("left", "right") for n, _ in line]
            draw_joints(page, stage, names, [(640 + way * (x - 640), y) for _, (x, y) in line])
    joints = by_name(puppet_of(page, service)["joints"])
    assert joints["right elbow"]["side"] == "right" and joints["left ankle"]["parent"] == joints["left knee"]["id"]

    # Each piece rides on its joint.
    page.get_by_role("button", name="Link: drag").click()
    rides = {
        "body": "hips",
        "head": "neck",
        "upper arm": "shoulder",
        "forearm": "elbow",
        "thigh": "hip",
        "shin": "knee",
    }
    for name, a, b in STICK:
        side, _, part = name.rpartition(" ") if name.startswith(("upper", "forearm")) else name.partition(" ")
        side = name.split()[0] if name.split()[0] in ("left", "right") else ""
        part = name.removeprefix(f"{side} ")
        stage.click(((a[0] + b[0]) / 2 + (9 if part != "head" else 20), (a[1] + b[1]) / 2 + 12))
        page.get_by_label("Rides on").select_option(label=f"{side} {rides[part]}".strip())
        saved(page)
    puppet = puppet_of(page, service)
    assert {p["name"] for p in puppet["pieces"].values() if p["joint"] == p["id"]} == set()

    # Two links go wrong: an arm on the head, and a left shin on the right thigh.
    rows = page.get_by_role("treeitem")
    for child, parent in (("left shoulder", "neck"), ("left knee", "right hip")):
        rows.filter(has_text=child).click()
        page.get_by_label("Hangs on", exact=True).select_option(label=parent)
        saved(page)
    rows.filter(has_text="neck").first.click()
    page.get_by_label("Role").select_option("head")
    saved(page)
    expect(page.locator("[data-check='wrong-hold']")).to_be_visible()
    expect(page.locator("[data-check='wrong-side']")).to_be_visible()
    stays = page.locator("[data-check='wrong-side'] .btn").element_handle()
    for check in ("wrong-hold", "wrong-side"):
        assert stays.evaluate("e => e.isConnected"), "another is made only when the mistake is another"
        page.locator(f"[data-check='{check}'] .btn").click()
        # What is mended goes before the next is pressed: what stands below it moves up.
        expect(page.locator(f"[data-check='{check}']")).to_have_count(0)
    saved(page)
    expect(page.get_by_text("No likely mistakes")).to_be_visible()
    joints = by_name(puppet_of(page, service)["joints"])
    assert joints["left shoulder"]["parent"] == joints["chest"]["id"]
    assert joints["left knee"]["parent"] == joints["left hip"]["id"]

    # It bends at an elbow and a knee: what rides below turns, what is above stays.
    page.get_by_role("button", name="Try a pose").click()
    before = stage.pixels()
    rows.filter(has_text="left elbow").click()
    stage.drag((708, 390), (760, 370), (772, 330))
    rows.filter(has_text="right knee").click()
    stage.drag((612, 600), (560, 590), (530, 530))
    after = stage.pixels()
    box = stage.element.bounding_box()
    assert box

    def at(picture: np.ndarray, p: tuple[float, float]) -> list[int]:
        x, y = stage.place(p)
        found: list[int] = picture[int(y - box["y"]), int(x - box["x"])].tolist()
        return found

    # A place on the forearm, beside its strap, goes round the elbow with the hand that pulls it.
    elbow = np.array([700.0, 328.0])
    spot = np.array([709.0, 380.0])
    angle = math.atan2(330 - 328, 772 - 700) - math.atan2(390 - 328, 708 - 700)
    turn = np.array([[math.cos(angle), -math.sin(angle)], [math.sin(angle), math.cos(angle)]])
    there = tuple(elbow + turn @ (spot - elbow))
    fill = at(before, (709, 380))
    paper = at(before, (900, 380))
    assert at(before, (709, 380)) == fill and at(before, there) == paper
    assert at(after, (709, 380)) == paper and at(after, there)[2] < 140
    assert at(after, (709, 300)) == at(before, (709, 300)) and at(after, (652, 500)) == at(before, (652, 500))
    page.keyboard.press("Escape")


def test_a_leg_on_a_bend_sheet_rolls_over_heel_and_toe(fresh: tuple[Page, Service], tmp_path: Path) -> None:
    page, service = fresh
    leg = patch(1280, 720, (600, 120, 660, 560), (240, 130, 20)) | patch(
        1280, 720, (600, 540, 780, 600), (240, 130, 20)
    )
    (tmp_path / "leg.png").write_bytes(png(leg[:, :, :]))
    bring(page, tmp_path / "leg.png", "leg")
    page.get_by_role("button", name="Good").click()
    to_rig(page)
    stage = Stage(page)
    settle(page)
    page.get_by_role("button", name="Set handles").click()
    page.keyboard.press("Escape")
    page.keyboard.press("h")
    page.keyboard.down("Alt")
    stage.click((630, 300))
    page.keyboard.up("Alt")
    expect(page.get_by_text("How it rides")).to_be_visible()
    names = [
        ("hip", (630, 140)),
        ("knee", (630, 340)),
        ("heel", (612, 590)),
        ("toe", (768, 592)),
        ("ball", (720, 588)),
        ("ankle", (630, 545)),
    ]
    parents = {"heel": None, "toe": "heel", "ball": "toe", "ankle": "ball", "hip": None, "knee": None}
    for name, place in names:
        # Each is set on nothing, then hung where it belongs, so that the order does not matter.
        page.keyboard.down("Shift")
        stage.click(place)
        page.keyboard.up("Shift")
        expect(page.get_by_label("Name of the handle")).to_have_value(re.compile(r"^handle \d+$"))
        saved(page)
        rename(page, "Name of the handle", name)
        if parents[name]:
            page.get_by_label("Hangs on", exact=True).select_option(label=parents[name])
            saved(page)
    puppet = puppet_of(page, service)
    nodes = by_name(puppet["joints"])
    piece = next(iter(puppet["pieces"].values()))
    assert [n for i in piece["attach"]["handles"] for n, v in nodes.items() if v["id"] == i] == [n for n, _ in names]
    cost = page.locator("[data-cost]")
    expect(cost).to_contain_text("triangles")
    triangles = int(cost.inner_text().split()[0])
    # Finer costs more, and the count says so.
    slider = page.get_by_label("About")
    slider.fill("1200")
    slider.press("ArrowRight")
    slider.press("Enter")
    eventually(lambda: int(cost.inner_text().split()[0]) > 2 * triangles, True)
    saved(page)

    # Roll on the toe: the heel rises, the toe stays, hip and upper leg stay.
    page.get_by_role("button", name="Try a pose").click()
    settle(page)
    rest = coloured(stage, (240, 130, 20))
    page.get_by_role("treeitem").filter(has_text="toe").click()
    settle(page)
    knob = page.locator("[data-handle^='spin:']").bounding_box()
    assert knob
    centre = stage.place((768, 592))
    x, y = knob["x"] + knob["width"] / 2, knob["y"] + knob["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    a = math.radians(24)
    dx, dy = x - centre[0], y - centre[1]
    page.mouse.move(
        centre[0] + dx * math.cos(a) - dy * math.sin(a), centre[1] + dx * math.sin(a) + dy * math.cos(a), steps=10
    )
    settle(page)
    page.mouse.up()
    expect(page.get_by_text("nothing of it is kept")).to_be_visible()
    rolled = coloured(stage, (240, 130, 20))
    bottom = lambda p, left, right: p[(p[:, 0] > left) & (p[:, 0] < right)][:, 1].max()  # noqa: E731
    assert bottom(rest, 680, 700) - bottom(rolled, 680, 700) > 12, "the ball of the foot rises"
    assert bottom(rolled, 764, 774) == pytest.approx(bottom(rest, 764, 774), abs=7), "the toe stays"
    top = rolled[rolled[:, 1] < 200]
    assert top[:, 0].min() == pytest.approx(600, abs=4) and top[:, 0].max() == pytest.approx(660, abs=4)
    assert len(rolled) == pytest.approx(len(rest), rel=0.12)
    page.keyboard.press("Escape")
    assert puppet_of(page, service)["joints"] == puppet["joints"]

    # A handle with a patch turns what is around it: the top of the thigh with the hip, and nothing below the knee.
    page.keyboard.press("h")
    page.get_by_role("listbox", name="Handles of the sheet").get_by_role("option", name="hip").click()
    patch_of = page.get_by_label("Turns a patch of")
    patch_of.fill("45")
    patch_of.press("Enter")
    saved(page)
    (piece,) = puppet_of(page, service)["pieces"].values()
    assert piece["attach"]["turning"] == {nodes["hip"]["id"]: 45}
    expect(page.locator(f"[data-patch='{nodes['hip']['id']}']")).to_be_visible()
    page.get_by_role("button", name="Try a pose").click()
    settle(page)
    before = coloured(stage, (240, 130, 20))
    spin = page.get_by_label("Turn", exact=True)
    spin.fill("25")
    spin.press("Enter")
    settle(page)
    after = coloured(stage, (240, 130, 20))

    def tilt(p: Any) -> float:
        """How much lower the right end of the upper edge is than the left one."""
        right, left = (p[(p[:, 0] > x) & (p[:, 0] < x + 8)][:, 1].min() for x in (642, 610))
        return float(right - left)

    assert abs(tilt(before)) < 3 and tilt(after) > 8
    low = lambda p: p[p[:, 1] > 420]  # noqa: E731
    assert len(low(after)) == pytest.approx(len(low(before)), rel=0.01)
    page.keyboard.press("Escape")


LEG = """<svg xmlns="http://www.w3.org/2000/svg" width="1280" height="720" viewBox="0 0 1280 720">
<g id="hips"><rect x="560" y="160" width="160" height="60" fill="#806040"/></g>
<g id="thigh"><rect x="620" y="200" width="40" height="180" rx="18" fill="#305080"/></g>
<g id="shin"><rect x="622" y="360" width="36" height="180" rx="16" fill="#5080a0"/></g>
<g id="foot"><rect x="620" y="520" width="110" height="34" rx="10" fill="#d02020"/></g>
</svg>"""


def test_a_leg_goes_from_turned_to_reaching_and_then_stands_still_while_the_hips_move(
    fresh: tuple[Page, Service], tmp_path: Path
) -> None:
    page, service = fresh
    (tmp_path / "leg.svg").write_text(LEG)
    bring(page, tmp_path / "leg.svg", "hips")
    stage = Stage(page)
    for name, middle, pivot in (
        ("thigh", (640, 290), (640, 215)),
        ("shin", (640, 450), (652, 370)),
        ("foot", (675, 537), (640, 530)),
    ):
        page.get_by_role("row", name=name).click()
        settle(page)
        stage.pin(middle, pivot)
        saved(page)
    to_rig(page)
    rows = page.get_by_role("treeitem")
    for child, parent in (("foot", "shin"), ("shin", "thigh"), ("thigh", "hips")):
        carry(rows.filter(has_text=child), rows.filter(has_text=parent))
        saved(page)
    rows.filter(has_text="foot").click()
    # With one bone nothing can bend, and it says so before it is made.
    anchor = page.get_by_label("Anchor")
    alone = page.get_by_text("it turns towards the handle and can't bend")
    expect(alone).to_have_count(0)
    anchor.select_option(label="shin")
    expect(alone).to_contain_text("Only one bone lies between shin and foot")
    anchor.select_option(label="thigh")
    expect(alone).to_have_count(0)
    page.get_by_role("button", name="Let it reach").click()
    saved(page)
    puppet = puppet_of(page, service)
    chain = next(iter(puppet["chains"].values()))
    nodes = by_name(puppet["joints"])
    assert chain["joints"] == [nodes[n]["id"] for n in ("thigh", "shin", "foot")]
    handle = nodes["foot handle"]
    assert handle["world"] and handle["rest"]["y"] == pytest.approx(530, abs=2)

    # In motion: the leg starts turned, and over twenty frames comes to reach for its handle.
    bench(page, "Motion")
    page.get_by_role("button", name="Start a motion").click()
    saved(page)
    stage = Stage(page)
    frame = page.get_by_label("Frame", exact=True)

    def go(to: int) -> None:
        frame.fill(str(to))
        frame.press("Enter")
        settle(page)

    go(1)
    rows.filter(has_text="thigh").click()
    reach = page.get_by_label("thigh to foot")
    reach.fill("0")
    reach.press("Enter")
    saved(page)
    turn = page.get_by_label("Turn", exact=True)
    turn.fill("-35")
    turn.press("Enter")
    saved(page)
    go(21)
    reach.fill("100")
    reach.press("Enter")
    saved(page)
    # Half way both results are drawn over the leg.
    go(11)
    expect(page.locator("[data-ghost] path")).to_have_count(4)
    # From then on the hips move; the whole puppet too.
    go(21)
    rows.filter(has_text="hips").click()
    page.get_by_label("Across").fill("0")
    page.get_by_label("Across").press("Enter")
    saved(page)
    go(41)
    page.get_by_label("Across").fill("50")
    page.get_by_label("Across").press("Enter")
    saved(page)
    page.get_by_label("Down").fill("30")
    page.get_by_label("Down").press("Enter")
    saved(page)

    def foot() -> tuple[float, float]:
        red = coloured(stage, (0xD0, 0x20, 0x20), 24)
        return float(red[:, 0].min()), float(red[:, 1].max())

    seen: dict[int, tuple[float, float]] = {}
    for f in (1, 6, 11, 16, 21, 26, 31, 36, 41):
        go(f)
        seen[f] = foot()
    # Turned by 35° at first, the foot is well away from where it stands in the end.
    assert math.dist(seen[1], seen[21]) > 60
    steps = [math.dist(seen[a], seen[b]) for a, b in ((1, 6), (6, 11), (11, 16), (16, 21))]
    assert max(steps) < 0.5 * sum(steps), "no pop on the way"
    for f in (26, 31, 36, 41):
        assert seen[f] == pytest.approx(seen[21], abs=1.6), f"the foot stands at frame {f}"
    # With nothing selected no path lies over them.
    page.locator(".stage").focus()
    page.keyboard.press("Escape")
    go(41)
    hips = coloured(stage, (0x80, 0x60, 0x40))
    go(21)
    assert hips[:, 0].mean() - coloured(stage, (0x80, 0x60, 0x40))[:, 0].mean() == pytest.approx(50, abs=4)
