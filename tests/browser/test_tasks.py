"""Whole tasks on the Motion bench, as an animator does them, measured on what was keyed and drawn."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import Puppet
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.plan.ground_contact import tracks
from sorvan.core.rig.anatomy import anatomy
from tests.browser.figures import ball, porter
from tests.browser.hands import Sheet, Stage, document, drawn, eventually, saved, settle
from tests.browser.test_strip import edit, typed
from tests.conftest import Service, change


def motion(page: Page, service: Service, id: str = "m") -> dict[str, Any]:
    return document(page, service.address, "motion", id)


def evaluated(page: Page, service: Service) -> Evaluation:
    """The motion as it is stored, evaluated."""
    puppet = Puppet.model_validate(document(page, service.address, "puppet", "a"))
    return Evaluation.full(puppet, Motion.model_validate(motion(page, service)))


def go(page: Page, frame: int) -> None:
    """Show a frame (from 0)."""
    field = page.get_by_label("Frame", exact=True)
    field.fill(str(frame + 1))
    field.press("Enter")
    settle(page)


def put(page: Page, label: str, value: float) -> None:
    """Enter a number into a field of the details."""
    field = page.get_by_label(label, exact=True).first
    field.fill(f"{value:g}")
    field.press("Enter")
    saved(page)


def joint(page: Page, name: str) -> None:
    """Select a joint in the tree."""
    row = page.get_by_role("treeitem").filter(has=page.get_by_title(name, exact=True))
    row.first.click()


def opened(new_page: Callable[..., Page], service: Service, production: str) -> Page:
    page = new_page()
    page.goto(f"{service.address}/p/{production}/motion")
    drawn(page)
    return page


def red(page: Page) -> tuple[float, float, float]:
    """Of what is red on the stage: how many pixels, its lowest row and its height, in stage units."""
    stage = Stage(page)
    scale = float(stage.element.get_attribute("data-scale") or 1)
    pixels = stage.pixels().astype(int)
    share = np.clip((pixels[:, :, 0] - np.maximum(pixels[:, :, 1], pixels[:, :, 2]) - 40) / 144, 0, 1)
    rows = np.flatnonzero(share.sum(axis=1) > 2)
    return float(share.sum()) / scale**2, float(rows.max()) / scale, float(rows.max() - rows.min() + 1) / scale


def test_a_ball_bounces_slow_at_the_top_and_loops_without_a_seam(
    shared: Service, new_page: Callable[..., Page]
) -> None:
    production, _ = ball(shared)
    page = opened(new_page, shared, production)
    joint(page, "ball")
    put(page, "Down", 0)
    go(page, 12)
    put(page, "Down", -300)
    for frame, slow in ((0, "in"), (12, "out")):
        Sheet(page).click("ball", "place", frame)
        page.get_by_label("Family").select_option("quadratic")
        saved(page)
        page.get_by_label("Slow", exact=True).select_option(slow)
        saved(page)
    page.get_by_role("button", name="Add a recipe").click()
    page.get_by_role("menuitem").filter(has_text="Squash and stretch").click()
    saved(page)
    e = evaluated(page, shared)
    world = e.worlds[1]
    height = 620 - world[5]
    frames = np.arange(24)
    up = frames / 12
    wanted = 300 * np.where(frames <= 12, 1 - (1 - up) ** 2, 1 - (up - 1) ** 2)
    assert np.abs(height - wanted).max() < 1e-6
    area = world[0] * world[3] - world[1] * world[2]
    assert np.abs(area - 1).max() < 0.01
    assert world[3].min() < 0.85 and world[3].max() > 1.05, "it is flat where it strikes and long where it is fast"
    # Round the seam it goes on falling as it rose: no picture is shown twice, no step is out of line.
    steps = np.diff(np.concatenate([height, height[:2]]))
    assert abs(steps[23] + steps[0]) < 1e-6 and abs(steps[23]) > 20
    expect(page.get_by_text("No likely mistakes in the motion.")).to_be_visible()
    # Nothing of the overlay may lie over the ball while its pixels are counted.
    Stage(page).click((100, 650))
    looks = {}
    for frame in (0, 3, 12):
        go(page, frame)
        looks[frame] = red(page)
    pixels = [area for area, _, _ in looks.values()]
    assert max(pixels) < 1.02 * min(pixels) and abs(pixels[0] - math.pi * 60**2) < 0.04 * math.pi * 60**2
    assert looks[0][1] - looks[12][1] == pytest.approx(300, abs=4)
    assert looks[0][2] < 0.9 * looks[12][2] < 0.97 * looks[3][2]


POSES = {
    # frame: thigh, shin, foot of the near side and of the far side, hips down; contact, down, passing, up
    0: ((-20, 5, 12), (18, 10, -20), 9),
    3: ((-14, 16, -2), (12, 30, -30), 16),
    6: ((-2, 6, -4), (-8, 56, -10), 5),
    9: ((9, 4, -10), (-24, 40, 4), 3),
}


def test_a_walk_by_hand_from_four_poses_is_mirrored_to_eight_its_head_a_frame_late(
    shared: Service, new_page: Callable[..., Page]
) -> None:
    production, _, ids = porter(shared)
    page = opened(new_page, shared, production)
    parts = [f"{side} {part}" for side in ("near", "far") for part in ("thigh", "shin", "foot")]
    for name in (*parts, "near upper arm", "far upper arm", "head"):
        joint(page, name)
        for frame, (near, far, _) in POSES.items():
            swing = {"near upper arm": -near[0], "far upper arm": -far[0], "head": 0.3 * (frame - 4)}
            go(page, frame)
            put(page, "Turn", {**dict(zip(parts, (*near, *far), strict=True)), **swing}[name])
    joint(page, "hips")
    for frame, (_, _, down) in POSES.items():
        go(page, frame)
        put(page, "Down", down)
    page.get_by_role("button", name="Make cards of the keys").click()
    saved(page)
    assert len(motion(page, shared)["poses"]) == 4
    edit(page, "Make the second half from the first")
    saved(page)
    made = motion(page, shared)
    assert sorted(map(int, made["poses"])) == [0, 3, 6, 9, 12, 15, 18, 21]
    near, far = (made["channels"][f"{ids[f'{side} thigh']}.turn"]["keys"] for side in ("near", "far"))
    assert [near[str(f + 12)]["value"] for f in POSES] == [far[str(f)]["value"] for f in POSES]
    before = evaluated(page, shared).keyed[f"{ids['head']}.turn"][0]
    Sheet(page).name("head", "turn").click()
    edit(page, "Delay…")
    typed(page, "Set", Late_by="1")
    late = evaluated(page, shared).keyed[f"{ids['head']}.turn"][0]
    assert np.array_equal(late, np.roll(before, 1))
    assert sorted(map(int, motion(page, shared)["poses"])) == [0, 3, 6, 9, 12, 15, 18, 21], "its poses stay whole"
    # The page has seen that the feet skate, and mends it.
    skating = page.locator(".finding[data-check='foot slide']")
    expect(skating).to_contain_text("walks on the spot")
    skating.get_by_role("button", name="Match the ground to the stride").click()
    saved(page)
    e = evaluated(page, shared)
    assert e.motion is not None
    assert e.motion.ground.runs < -5
    feet = {t.joint: t for t in tracks(e, anatomy(e.puppet).legs)}
    for plant in e.motion.plants.values():
        row = np.arange(plant.start, plant.start + plant.frames) % 24
        heel, toe = (
            np.abs(np.diff(p[row].real) - e.motion.ground.runs) for p in (feet[plant.joint].heel, feet[plant.joint].toe)
        )
        assert np.minimum(heel, toe).max() < 0.1
    expect(skating).to_have_count(0)
    page.locator(".stage").focus()
    page.keyboard.press("Control+z")
    saved(page)
    assert not motion(page, shared)["plants"]


def test_a_planned_run_is_retimed_and_its_hand_made_arms_stay(shared: Service, new_page: Callable[..., Page]) -> None:
    production, _, ids = porter(shared)
    page = opened(new_page, shared, production)
    page.get_by_role("button", name="Add a recipe").click()
    page.get_by_role("menuitem").filter(has_text="Gait").click()
    saved(page)
    page.get_by_label("Preset").select_option("run")
    saved(page)
    run = motion(page, shared)
    assert run["length"] == 16 and {"contact", "flight"} <= {p["label"] for p in run["poses"].values()}
    arm = f"{ids['near forearm']}.turn"
    joint(page, "near forearm")
    frames = sorted(map(int, run["channels"][arm]["keys"]))[:2]
    for frame, angle in zip(frames, (-95, -40), strict=True):
        go(page, frame)
        put(page, "Turn", angle)
    slots = {k["slot"]: k["value"] for k in motion(page, shared)["channels"][arm]["keys"].values() if k["hand"]}
    # While the slider moves the whole cycle is seen as it would be; nothing is keyed until it is let go.
    before = motion(page, shared)
    slider = page.get_by_role("slider", name="Frames a cycle")
    box = slider.bounding_box()
    assert box is not None
    x = lambda v: box["x"] + 8 + (v - 8) / 40 * (box["width"] - 16)  # noqa: E731
    page.mouse.move(x(16), box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(x(13), box["y"] + box["height"] / 2, steps=3)
    settle(page)
    assert motion(page, shared) == before
    page.mouse.up()
    saved(page)
    put(page, "Frames a cycle", 12)
    eventually(lambda: motion(page, shared)["length"], 12)
    retimed = motion(page, shared)
    kept = {k["slot"]: k["value"] for k in retimed["channels"][arm]["keys"].values() if k["hand"]}
    assert kept == slots and [-95] in kept.values()
    assert max(map(int, retimed["channels"][arm]["keys"])) < 12
    e = evaluated(page, shared)
    both_up = np.all([650 - t.lowest > 0 for t in tracks(e, anatomy(e.puppet).legs)], axis=0)
    ground = e.motion.ground.level if e.motion else None
    assert ground is not None
    lowest = np.array([t.lowest for t in tracks(e, anatomy(e.puppet).legs)])
    assert lowest.max() < ground + 0.5 and both_up.any()
    assert ((ground - lowest) > 1).all(axis=0).any(), "both feet leave the ground"


def test_a_figure_of_eight_is_captured_and_redone_at_a_coarser_tolerance(
    shared: Service, new_page: Callable[..., Page]
) -> None:
    production, client = ball(shared)
    # Longer than the hand takes.
    change(client, production, {"do": "set-motion", "motion": "m", "length": 120})
    page = opened(new_page, shared, production)
    joint(page, "ball")
    page.locator(".stage").focus()
    page.keyboard.press("r")
    page.get_by_label("count in").uncheck()
    stage = Stage(page)
    # The page's time moves with the hand, a display frame at a time, however long one takes here.
    page.clock.install()
    page.clock.pause_at(page.evaluate("Date.now() + 1000"))
    page.mouse.move(*stage.place((900, 200)))
    page.mouse.down()
    for i in range(120):
        u = 2 * math.pi * i / 119
        page.mouse.move(*stage.place((900 + 150 * math.sin(u), 200 + 70 * math.sin(2 * u))))
        page.clock.run_for(16)
    expect(page.get_by_role("button", name="Capture", exact=False).first).to_be_visible()
    page.mouse.up()
    page.clock.resume()
    saved(page)
    eventually(lambda: len(motion(page, shared)["recipes"]), 1)
    recipe = next(iter(motion(page, shared)["recipes"].values()))
    assert recipe["kind"] == "capture" and len(recipe["samples"]) > 20
    channel = lambda: next(iter(motion(page, shared)["channels"].values()))  # noqa: E731
    first = channel()["keys"]["0"]["value"]
    assert first == [0, 0], "it goes on from where the ball is, wherever the hand began"
    across = [k["value"][0] for k in channel()["keys"].values()]
    assert max(across) > 120
    put(page, "Smoothed over", 0)
    put(page, "Within", 1)
    fine = channel()["keys"]
    put(page, "Within", 12)
    coarse = channel()["keys"]
    assert len(coarse) < len(fine)
    told = next(iter(motion(page, shared)["recipes"].values()))
    assert (told.get("smooth"), told["tolerance"]) == (0, 12) and told["samples"] == recipe["samples"]
    # What it comes to is within the tolerance of the raw recording at every frame.
    e = evaluated(page, shared)
    samples = np.array(recipe["samples"])
    at = np.arange(min(120, int(samples[-1, 0]) + 1))
    hand = np.interp(at, samples[:, 0], samples[:, 1]) + 1j * np.interp(at, samples[:, 0], samples[:, 2])
    path = e.worlds[1][4] + 1j * e.worlds[1][5]
    assert np.abs((path[at] - path[0]) - (hand - hand[0])).max() < 12.5
    page.get_by_label("Keys", exact=True).select_option("every")
    saved(page)
    put(page, "A key every", 3)
    assert {int(f) % 3 for f in channel()["keys"] if int(f) != max(map(int, channel()["keys"]))} == {0}


def test_a_foot_is_planted_on_the_sheet_and_its_slide_is_seen(shared: Service, new_page: Callable[..., Page]) -> None:
    production, client, ids = porter(shared, cycle=False)
    keys = [
        {"joint": ids["hips"], "kind": "move", "frame": f, "value": [x, 14]} for f, x in ((0, 0), (12, 30), (23, 0))
    ]
    change(client, production, {"do": "set-keys", "motion": "m", "keys": keys})
    page = opened(new_page, shared, production)
    foot = page.get_by_title("near foot on the ground", exact=False)
    foot.scroll_into_view_if_needed()
    row, area = foot.bounding_box(), page.get_by_role("grid", name="Keys by frame").bounding_box()
    assert row is not None
    assert area is not None
    y, step = row["y"] + row["height"] / 2, Sheet(page).step
    at = lambda f: area["x"] + (f + 0.5) * step  # noqa: E731
    page.mouse.move(at(4), y)
    page.mouse.down()
    page.mouse.move(at(17), y, steps=5)
    page.mouse.up()
    saved(page)
    plant = next(iter(motion(page, shared)["plants"].values()))
    assert (plant["joint"], plant["start"], plant["frames"]) == (ids["near foot"], 4, 14)
    e = evaluated(page, shared)
    track = next(t for t in tracks(e, anatomy(e.puppet).legs) if t.joint == ids["near foot"])
    assert np.abs(track.heel[4:18] - track.heel[4]).max() < 1e-3
    # Its end is pulled farther, and it is let go again by the keyboard.
    page.mouse.move(at(17.5) - 2, y)
    page.mouse.down()
    page.mouse.move(at(20.5), y, steps=4)
    page.mouse.up()
    saved(page)
    assert next(iter(motion(page, shared)["plants"].values()))["frames"] == 17
    page.locator(".stage").focus()
    page.keyboard.press("Delete")
    saved(page)
    assert not motion(page, shared)["plants"]


def test_a_path_is_smoothed_and_pulled_on_the_stage_over_its_onion_skin(
    shared: Service, new_page: Callable[..., Page]
) -> None:
    production, _ = ball(shared)
    page = opened(new_page, shared, production)
    joint(page, "ball")
    go(page, 0)
    put(page, "Across", -300)
    go(page, 12)
    put(page, "Across", 300)
    go(page, 12)
    bare = Stage(page).pixels()
    page.locator(".stage").focus()
    page.keyboard.press("o")
    settle(page)
    skinned = Stage(page).pixels()
    assert (np.abs(skinned.astype(int) - bare.astype(int)).max(axis=2) > 20).sum() > 500, (
        "earlier and later frames show"
    )
    page.keyboard.press("o")
    settle(page)
    # The key at frame 13 is pulled up by its mark, and the handle of its path out of the line.
    stage = Stage(page)
    stage.drag((940, 620), (940, 560), (940, 470))
    saved(page)
    channel = lambda: next(iter(motion(page, shared)["channels"].values()))  # noqa: E731
    eventually(lambda: math.dist(channel()["keys"]["12"]["value"], (300, -150)) < 4, True)
    Sheet(page).name("ball", "place").click()
    edit(page, "Smooth path")
    saved(page)
    assert channel()["keys"]["12"]["tangents"] is not None
    ends = page.locator("[data-handle='way:12:after'] circle.end")
    expect(ends).to_be_visible()
    box = ends.bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + 3, box["y"] + 3)
    page.mouse.down()
    page.mouse.move(box["x"] + 3, box["y"] - 77, steps=5)
    settle(page)
    page.mouse.up()
    saved(page)
    held = channel()["keys"]["12"]["tangents"]
    before, after = complex(*held["before"]), complex(*held["after"])
    assert after.imag < -60 and abs((before / after).imag) < 0.01 * abs(before / after), "both sides stay in line"


def test_what_is_in_front_and_how_opaque_are_keyed_by_themselves(
    shared: Service, new_page: Callable[..., Page]
) -> None:
    production, client, ids = porter(shared, cycle=False)
    turn = [{"joint": ids["near upper arm"], "kind": "turn", "frame": f, "value": [v]} for f, v in ((0, 0), (20, 30))]
    change(client, production, {"do": "set-keys", "motion": "m", "keys": turn})
    page = opened(new_page, shared, production)
    stage = Stage(page)
    go(page, 10)
    page.get_by_role("treeitem").filter(has=page.get_by_title("near upper arm", exact=True)).first.click()
    stage.click((634, 180))
    page.get_by_role("button", name="In front head").click()
    page.get_by_role("button", name="Where head lies from this frame on").click()
    page.get_by_role("menuitem", name="Behind everything").click()
    saved(page)
    e = evaluated(page, shared)
    head = e.puppet.order.index(ids["head"])
    assert e.places.order[0, 10:].tolist() == [head] * 14 and (e.places.order[:, 0] == np.arange(13)).all()
    put(page, "Opacity", 40)
    shown = evaluated(page, shared)
    assert shown.places.opacity[head, 10:] == pytest.approx(0.4)
    assert shown.places.opacity[head, 0] == 1, "before, it is as it was"
    # Retiming what moves leaves what shows.
    made = motion(page, shared)
    opacity = made["channels"][f"{ids['head']}.opacity"]["keys"]
    Sheet(page).drag("near upper arm", "turn", 20, 16)
    saved(page)
    now = motion(page, shared)["channels"]
    assert now[f"{ids['head']}.opacity"]["keys"] == opacity and "16" in now[f"{ids['near upper arm']}.turn"]["keys"]


def test_a_pose_goes_into_the_book_and_comes_back_for_a_limb(shared: Service, new_page: Callable[..., Page]) -> None:
    production, client, ids = porter(shared, cycle=False)
    keys = [
        {"joint": ids[name], "kind": "turn", "frame": f, "value": [v if f == 0 else 0]}
        for f in (0, 10)
        for name, v in (("head", 18), ("near upper arm", -70), ("near forearm", -50))
    ]
    change(client, production, {"do": "set-keys", "motion": "m", "keys": keys})
    page = opened(new_page, shared, production)
    go(page, 0)
    book = page.get_by_role("button", name="Pose book")
    if book.get_attribute("aria-expanded") == "false":
        book.click()
    page.get_by_role("button", name="Keep this pose…").click()
    page.get_by_label("Name").fill("salute")
    page.keyboard.press("Enter")
    saved(page)
    card = page.get_by_role("option", name="salute")
    expect(card).to_be_visible()
    eventually(
        lambda: card.locator("canvas").evaluate(
            "c => c.getContext('2d').getImageData(0, 0, c.width, c.height).data.some((v) => v > 0)"
        ),
        True,
    )
    joint(page, "near forearm")
    go(page, 10)
    if card.get_attribute("aria-selected") == "false":
        card.click()
    page.get_by_label("right arm").check()
    put(page, "Part of it", 50)
    page.get_by_role("button", name="Put at frame 11").click()
    saved(page)
    now = motion(page, shared)["channels"]
    assert now[f"{ids['near forearm']}.turn"]["keys"]["10"]["value"] == [-25]
    assert now[f"{ids['near upper arm']}.turn"]["keys"]["10"]["value"] == [-35]
    assert now[f"{ids['head']}.turn"]["keys"]["10"]["value"] == [0]

    # Whole, with its sides swapped: seen on the stage while its part is slid, and so once it is put.
    go(page, 18)
    page.get_by_label("right arm").uncheck()
    page.get_by_label("swapped").check()
    put(page, "Part of it", 100)
    before = drawn(page).pixels()
    slider = page.get_by_role("slider", name="Part of the pose")
    slider.focus()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowLeft")
    settle(page)
    tried = Stage(page).pixels()
    differ = lambda one, other: (np.abs(one.astype(int) - other) > 40).any(axis=2).sum()  # noqa: E731
    assert differ(tried, before) > 600
    page.get_by_role("button", name="Put at frame 19").click()
    saved(page)
    put_in = drawn(page).pixels()
    assert differ(put_in, tried) < differ(put_in, before) / 3
    now = motion(page, shared)["channels"]
    at = lambda name: now[f"{ids[name]}.turn"]["keys"]["18"]["value"]  # noqa: E731
    assert (at("far upper arm"), at("far forearm"), at("head")) == ([-70], [-50], [18])
    # A second one looks as it is, and not as the first.
    page.get_by_role("button", name="Keep this pose…").click()
    page.get_by_role("textbox", name="Name").fill("other arm")
    page.keyboard.press("Enter")
    saved(page)
    looks = "c => Array.from(c.getContext('2d').getImageData(0, 0, c.width, c.height).data)"
    seen = lambda name: page.get_by_role("option", name=name).locator("canvas").evaluate(looks)  # noqa: E731
    eventually(lambda: any(seen("other arm")), True)
    assert np.count_nonzero(np.abs(np.array(seen("other arm")) - np.array(seen("salute"))) > 60) > 40


def test_a_copied_pose_is_pasted_with_its_sides_swapped(shared: Service, new_page: Callable[..., Page]) -> None:
    production, client, ids = porter(shared, cycle=False)
    turns = {"near upper arm": -70, "far upper arm": 40, "near thigh": -30, "far thigh": 25, "head": 12}
    keys = [{"joint": ids[n], "kind": "turn", "frame": 0, "value": [v]} for n, v in turns.items()]
    change(client, production, {"do": "set-keys", "motion": "m", "keys": keys})
    change(client, production, {"do": "set-pose", "motion": "m", "frame": 0, "text": "step"})
    page = opened(new_page, shared, production)
    page.get_by_role("button", name="step 24 fr, frame 1").click()
    page.keyboard.press("Control+c")
    go(page, 12)
    page.locator(".stage").focus()
    before = drawn(page).pixels()
    page.keyboard.press("Control+Shift+v")
    saved(page)
    now = motion(page, shared)
    there = {
        n: c["keys"]["12"]["value"]
        for n in ids
        for i, c in now["channels"].items()
        if i == f"{ids[n]}.turn" and "12" in c["keys"]
    }
    # From the side it is the other leg that goes in front, and the other arm that swings; the head nods as it did.
    assert there == {
        "far upper arm": [-70],
        "near upper arm": [40],
        "far thigh": [-30],
        "near thigh": [25],
        "head": [12],
    }
    assert now["poses"]["12"]["label"] == "step"
    assert (np.abs(drawn(page).pixels().astype(int) - before) > 40).any(axis=2).sum() > 600
