"""Pulling on parts of limbs: what hangs between goes along, and what is in front is what a hand takes."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from playwright.sync_api import Page, expect

from sorvan.core.geometry import Affine, Point
from sorvan.core.plan.evaluate import Evaluation
from tests.browser.figures import porter
from tests.browser.hands import Stage, bench, saved, settle
from tests.browser.test_tasks import evaluated, go, joint, motion, opened
from tests.conftest import Service, change
from tests.service.test_http import documents


def world(at: Evaluation, joint: str, frame: int) -> Affine:
    return Affine(*at.worlds[at.rig.row[joint], :, frame].tolist())


def turned(page: Page, service: Service, frame: int) -> set[str]:
    """The threads that have a key here, by id."""
    return {id for id, c in motion(page, service)["channels"].items() if str(frame) in c["keys"]}


def test_a_limb_goes_along_with_what_is_pulled_of_it_and_the_piece_in_front_is_taken(
    shared: Service, new_page: Callable[..., Page]
) -> None:
    production, client, ids = porter(shared)
    page = opened(new_page, shared, production)
    stage = Stage(page)
    go(page, 12)
    rest = evaluated(page, shared)

    def pull(name: str, held: Point, to: Point) -> Evaluation:
        """Pull a piece by a place of it, and look where that place has come to."""
        before = evaluated(page, shared)
        inside = world(before, ids[name], 12).inverse().place(held)
        stage.drag(held, to)
        saved(page)
        after = evaluated(page, shared)
        assert math.dist(world(after, ids[name], 12).place(inside), to) < 2.5
        return after

    # A foot, with nothing prepared: thigh and shin turn, the knee goes forward, the foot stays flat, and frame 1 as it was.
    page.keyboard.press("l")
    after = pull("near foot", (670, 622), (720, 560))
    legs = {f"{ids[n]}.turn" for n in ("near thigh", "near shin", "near foot")}
    assert turned(page, shared, 12) == legs
    knee = world(after, ids["near shin"], 12)
    hip, ankle = world(after, ids["near thigh"], 12), world(after, ids["near foot"], 12)
    # In front of the line from hip to ankle, for one who faces right.
    assert (ankle.e - hip.e) * (knee.f - hip.f) < (knee.e - hip.e) * (ankle.f - hip.f)
    assert np.allclose((ankle.a, ankle.b), (1, 0), atol=1e-3)
    assert np.allclose(after.worlds[:, :, 0], rest.worlds[:, :, 0])
    page.keyboard.press("Control+z")
    saved(page)

    # A hand: the elbow goes back. From the chest on, that leans along.
    pull("near forearm", (640, 345), (690, 330))
    arm = {f"{ids[n]}.turn" for n in ("near upper arm", "near forearm")}
    assert turned(page, shared, 12) == arm
    page.keyboard.press("Control+z")
    saved(page)
    joint(page, "chest")
    page.get_by_role("button", name="Let pulled limbs begin at “chest”").click()
    expect(page.get_by_role("button", name="Pulled limbs begin at “chest”")).to_be_visible()
    pull("near forearm", (640, 345), (700, 300))
    assert turned(page, shared, 12) == arm | {f"{ids['chest']}.turn"}
    page.keyboard.press("Control+z")
    saved(page)
    joint(page, "head")
    stage.drag((640, 345), (690, 330))
    saved(page)
    page.keyboard.press("Shift+l")
    page.keyboard.press("Control+z")
    saved(page)

    # What is selected in the list, but hidden where the hand closes, is not what moves: what is in front is.
    page.keyboard.press("t")
    joint(page, "far thigh")
    stage.drag((636, 440), (660, 440))
    saved(page)
    assert turned(page, shared, 12) == {f"{ids['near thigh']}.turn"}
    page.keyboard.press("Control+z")
    saved(page)
    # Reached through it by clicking again, it is meant, wherever it is taken.
    stage.click((636, 440))
    stage.click((636, 440))
    expect(page.get_by_role("treeitem", selected=True).locator(".name")).to_have_text("far thigh")
    stage.drag((634, 460), (600, 460))
    saved(page)
    assert turned(page, shared, 12) == {f"{ids['far thigh']}.turn"}

    # A handle lies over the dots of its own path, and can be grasped.
    page.keyboard.press("Control+z")
    saved(page)
    reach = {"do": "add-reach", "puppet": "a", "id": "c", "name": "arm", "anchor": ids["near upper arm"]}
    change(client, production, {**reach, "end": ids["near forearm"], "handle": "h"})
    keys = [{"joint": "h", "kind": "move", "frame": f, "value": [f, 0]} for f in (0, 12, 20)]
    change(client, production, {"do": "set-keys", "motion": "m", "keys": keys})
    settle(page)
    joint(page, "near forearm handle")
    expect(page.locator(".way .key")).to_have_count(3)
    at = world(evaluated(page, shared), "h", 12)
    page.keyboard.press("t")
    stage.drag((at.e, at.f), (at.e - 30, at.f - 10))
    saved(page)
    held = motion(page, shared)["channels"]["h.move"]["keys"]["12"]["value"]
    assert np.allclose(held, [12 - 30, -10], atol=1.5)


def test_what_is_hidden_for_the_moment_is_out_of_sight_and_out_of_reach_and_stays_in_the_film(
    shared: Service, new_page: Callable[..., Page]
) -> None:
    production, client, ids = porter(shared)
    page = opened(new_page, shared, production)
    stage = Stage(page)

    def seen(*places: Point) -> list[str]:
        pixels, box = stage.pixels(), stage.element.bounding_box()
        assert box is not None
        at = [stage.place(p) for p in places]
        return ["#" + bytes(pixels[round(y - box["y"]), round(x - box["x"]), :3]).hex() for x, y in at]

    near, far, head, paper = (640, 455), (655, 615), (630, 190), (900, 300)
    assert seen(near, head) == ["#667788", "#ddaa88"]
    (empty,) = seen(paper)
    whole = client.get(f"/productions/{production}").json()["seq"]
    pins = page.locator("[data-handle^='joint:']").count()

    # The near leg goes, with shin and foot and their pins; what is behind it is seen, and is what a hand takes.
    joint(page, "near thigh")
    page.get_by_role("button", name="Hide what is selected, for the moment").click()
    told = page.get_by_role("button", name="3 pieces hidden for the moment: show all")
    expect(told).to_be_visible()
    expect(page.locator("[data-handle^='joint:']")).to_have_count(pins - 3)
    assert seen(near, far, head) == ["#556677", "#223344", "#ddaa88"]
    stage.drag((634, 470), (600, 470))
    saved(page)
    assert turned(page, shared, 0) == {f"{ids['far thigh']}.turn"}
    page.keyboard.press("Control+z")
    saved(page)
    # It is this window's way of looking: nothing of it is in the production, and another bench shows it too.
    held = client.get(f"/productions/{production}").json()
    assert held["seq"] == whole + 2 and not any(
        p["hidden"] for p in documents(client, production)["a"]["pieces"].values()
    )
    # A line is looked at whole, in close-up.
    bench(page, "Voice")
    expect(told).to_be_hidden()
    whole_stage = page.get_by_role("button", name="The whole stage")
    if whole_stage.count():
        whole_stage.click()
    assert seen(head, near) == ["#ddaa88", "#667788"]
    bench(page, "Rig")
    expect(told).to_be_visible()
    told.click()
    expect(told).to_be_hidden()
    bench(page, "Motion")
    assert seen(near) == ["#667788"]

    # Alone, with what hangs on it; by keys.
    joint(page, "chest")
    stage.element.focus()
    page.keyboard.press("i")
    assert seen((610, 250), head, near) == ["#aa5544", "#ddaa88", empty]
    page.keyboard.press("i")
    assert seen(near) == ["#667788"]

    # What lies outside the picture.
    joint(page, "head")
    page.keyboard.press("m")
    stage.drag(head, (630, -30))
    saved(page)
    outside = (630, -20)
    assert seen(outside) == ["#ddaa88"]
    page.get_by_role("button", name="What lies outside the picture shows").click()
    assert seen(outside) != ["#ddaa88"]
    page.get_by_role("button", name="What lies outside the picture is hidden").click()
    assert seen(outside) == ["#ddaa88"]
