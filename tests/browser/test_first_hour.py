"""The tasks of the first hour as a newcomer does them, from an empty list of productions on, with every act counted."""

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
from tests.browser.acts import counted, counting
from tests.browser.hands import Sheet, Stage, bench, document, drawn, eventually, saved, settle
from tests.conftest import Service

Page_ = Callable[..., Page]


def begun(service: Service, new_page: Page_, name: str) -> Page:
    """A new production, by hand."""
    page = new_page()
    counting(page)
    page.goto(service.address)
    page.get_by_role("button", name="New production").click()
    page.get_by_label("Name").fill(name)
    page.get_by_role("dialog").get_by_role("button", name="New production").click()
    expect(page.get_by_text("Bring in your art")).to_be_visible()
    settle(page)
    return page


def typed(page: Page, label: str, value: str) -> None:
    field = page.get_by_label(label, exact=True).first
    field.fill(value)
    field.press("Enter")
    saved(page)


def stored(page: Page, service: Service) -> Evaluation:
    """The motion as it is stored, evaluated."""
    puppet = Puppet.model_validate(document(page, service.address, "puppet"))
    return Evaluation.full(puppet, Motion.model_validate(document(page, service.address, "motion")))


BALL = (
    '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 1280 720" width="1280" height="720">'
    '<g id="ball"><circle cx="400" cy="600" r="50" fill="#d03020"/></g></svg>'
)


def test_a_ball_with_ease_squash_and_loop(shared: Service, new_page: Page_) -> None:
    page = begun(shared, new_page, "Ball")
    art = {"name": "ball.svg", "mimeType": "image/svg+xml", "buffer": BALL.encode()}
    page.get_by_label("Art to bring in").set_input_files(art)
    expect(page.get_by_role("row", name="ball")).to_be_visible()
    saved(page)
    bench(page, "Motion")
    page.get_by_role("button", name="Start a motion").click()
    saved(page)
    page.get_by_label("Cycle").check()
    saved(page)
    typed(page, "Length", "24")
    # On the ground at the start, up in the middle.
    page.keyboard.press("m")
    drawn(page)
    stage = Stage(page)
    stage.click((400, 600))
    page.keyboard.press("k")
    saved(page)
    typed(page, "Frame", "13")
    settle(page)
    stage.drag((400, 600), (400, 300))
    saved(page)
    print(page.evaluate("window.acts"))
    counted(page, "a ball with ease, squash and loop", 20)
