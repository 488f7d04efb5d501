"""What is done before the first of it was answered holds: in every panel, as it is typed and stepped."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

import pytest
from playwright.sync_api import Page, Route, expect

from tests.browser.hands import document, drawn, eventually, open_bench, saved
from tests.browser.test_shots import frame
from tests.conftest import Demo


@contextmanager
def unanswered(page: Page) -> Iterator[None]:
    """Nothing that is changed meanwhile is answered, or even comes to the service, before the end."""
    waiting: list[Route] = []
    answered = False

    def hold(route: Route) -> None:
        if answered:
            route.continue_()
        else:
            waiting.append(route)

    page.route("**/changes", hold)
    yield
    expect(page.locator(".saved")).not_to_contain_text("Saved")
    assert len(waiting) == 1, "the next waits for the answer to the one before"
    answered = True
    waiting[0].continue_()
    saved(page)
    page.unroute("**/changes", hold)


def typed(page: Page, **numbers: float) -> None:
    """Type into fields one after the other, by their ids."""
    for id, number in numbers.items():
        field = page.locator(f"#{id.replace('_', '-')}")
        field.fill(str(number))
        field.press("Enter")


@pytest.fixture
def at_work(demo: Demo, new_page: Callable[..., Page]) -> Callable[[str], Page]:
    page = new_page()

    def opened(bench: str) -> Page:
        page.goto(demo.at(bench))
        drawn(page)
        return page

    return opened


def test_in_shots(demo: Demo, at_work: Callable[[str], Page]) -> None:
    page = at_work("shots")
    page.get_by_role("listbox", name="Shots").get_by_role("option").nth(1).click()
    drawn(page)

    def shot() -> dict[str, Any]:
        return document(page, demo.address, "shot", "along")

    # One of the cast: where it stands, by numbers and in steps; how it is carried.
    page.locator(".row-head .name", has_text="Conductor").click()
    before = shot()["cast"]["she"]
    with unanswered(page):
        typed(page, c_x=300, c_y=610, c_scale=80)
        page.get_by_label("Mirror").click()
        typed(page, t_gone=40)
    she = shot()["cast"]["she"]
    assert (she["at"], she["scale"], she["mirror"]) == ([300, 610], 0.8, not before["mirror"])
    assert she["travel"] == before["travel"] | {"gone": 40}
    page.locator(".stage").focus()
    with unanswered(page):
        for key in ("Shift+ArrowRight", "Shift+ArrowRight", "Shift+ArrowDown"):
            page.keyboard.press(key)
    assert shot()["cast"]["she"]["at"] == [320, 620]

    # What she does: by numbers, and in steps of a frame.
    span = next(s for s in shot()["cast"]["she"]["spans"].values() if s["start"] == 0)
    name = document(page, demo.address, "motion", span["motion"])["name"]
    page.get_by_role("button", name=f"{name} from frame 1 ").click()
    with unanswered(page):
        typed(page, n_speed=90, n_first=3)
        page.get_by_label("Backwards").click()
    now = shot()["cast"]["she"]["spans"][span["id"]]
    assert (now["speed"], now["first"], now["reverse"]) == (90, 2, True)
    bar = page.get_by_role("button", name=f"{name} 90 % reversed from frame 1 ")
    with unanswered(page):
        for _ in range(3):
            bar.press("Alt+Shift+ArrowLeft")
    assert shot()["cast"]["she"]["spans"][span["id"]]["frames"] == span["frames"] - 3

    # The camera, keyed across and down; what is heard; how it begins.
    page.get_by_role("button", name="Camera", exact=True).click()
    frame(page, 10)
    with unanswered(page):
        typed(page, a_x=25, a_y=12)
    assert shot()["camera"]["channels"]["camera.move"]["keys"]["9"]["value"] == [25, 12]
    page.get_by_role("button", name="from 0.00 seconds").first.click()
    with unanswered(page):
        typed(page, o_level=-3, o_in=0.5, o_at=0.25)
        page.locator(".sound-bar.chosen").press("Alt+ArrowRight")
    heard = next(s for s in shot()["sounds"].values() if s["level"] == -3)
    assert (heard["fade_in"], heard["at"]) == (0.5, pytest.approx(0.25 + 1 / 24, abs=1e-3))


def test_on_puppets_and_lines(demo: Demo, at_work: Callable[[str], Page]) -> None:
    page = at_work("pieces")

    def puppet() -> dict[str, Any]:
        return document(page, demo.address, "puppet", "conductor")

    page.get_by_role("row", name="satchel").click()
    page.get_by_role("button", name="Fade and colour").click()
    with unanswered(page):
        typed(page, look_opacity=80, look_brightness=10, look_contrast=-5)
        typed(page, piece_x=500, piece_angle=12)
    satchel = puppet()["pieces"]["c-satchel"]
    assert satchel["opacity"] == 0.8
    assert (satchel["colour"]["brightness"], satchel["colour"]["contrast"]) == (10, -5)
    expect(page.locator("#piece-x")).to_have_value("500")
    expect(page.locator("#piece-angle")).to_have_value("12")

    open_bench(page, "Rig")
    page.get_by_role("button", name="look", exact=True).click()
    with unanswered(page):
        typed(page, dial_low=-90, dial_high=120, dial_rest=4)
    look = puppet()["dials"]["look"]
    assert (look["low"], look["high"], look["rest"], len(look["stops"])) == (-90, 120, 4, 3)

    open_bench(page, "Voice")
    page.get_by_role("button", name="Lift the lantern and wave").first.click()
    page.get_by_role("menuitemradio", name="Call the last ferry").click()
    page.get_by_role("button", name="How it is heard").click()
    with unanswered(page):
        typed(page, line_level=-4, line_in=0.2)
    eventually(
        lambda: [
            (s["level"], s["fade_in"])
            for s in document(page, demo.address, "motion", "call")["sounds"].values()
            if s["level"]
        ],
        [(-4, 0.2)],
    )
