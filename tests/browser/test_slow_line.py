"""A whole task where the line is slow and the database goes away: nothing snaps back, and nothing is lost."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from sorvan.store.cluster import Cluster, start, stop
from tests.browser.figures import ball
from tests.browser.hands import VIEW, drawn, saved, settle
from tests.browser.test_tasks import go
from tests.conftest import Service
from tests.service.test_http import change, documents

SLOWLY = """
(() => {
  const later = (work) => setTimeout(work, 200);
  const ask = window.fetch;
  window.fetch = (...given) => new Promise((done, failed) => later(() => ask(...given).then(done, failed)));
  const send = WebSocket.prototype.send;
  WebSocket.prototype.send = function (data) {
    later(() => this.readyState === WebSocket.OPEN && send.call(this, data));
  };
})();
"""
"""A line on which everything that is sent takes 200 ms."""

FRAMES = "async () => { for (let n = 0; n < 4; n++) await new Promise(requestAnimationFrame); }"


def test_over_a_slow_line_and_while_the_database_is_away_nothing_snaps_back_and_nothing_is_lost(
    serve: Callable[..., Service], new_page: Callable[..., Page], cluster: Cluster
) -> None:
    """A pose at three frames, pulled, typed and stepped; the last of it and more besides while nothing can be kept."""
    service = serve()
    production, client = ball(service)
    page = new_page()
    page.add_init_script(SLOWLY)
    page.goto(f"{service.address}/p/{production}/motion")
    stage = drawn(page)

    def looked() -> list[float]:
        found: list[float] = stage.element.evaluate(VIEW)
        return found[2:]

    def ball_at() -> tuple[float, float]:
        """Where the red is, in stage units."""
        while True:
            # A stage that changes its size meanwhile is looked at again: what is seen and where belong together.
            before, seen = looked(), stage.pixels()
            if before == looked():
                break
        scale, left, top = before
        red = (seen[:, :, 0] > 150) & (seen[:, :, 1] < 90) & (seen[:, :, 2] < 90)
        assert red.any()
        y, x = np.argwhere(red).mean(axis=0)
        return (x - left) / scale, (y - top) / scale

    def carried(frame: int, by: float) -> None:
        """Go to a frame and pull the ball up by so many units; it stays where the hand left it, all the while."""
        go(page, frame)
        x, y = ball_at()
        # Beside the middle, where the path of the ball does not lie.
        stage.drag((x + 36, y + 22), (x + 36, y + 22 - by))
        # With its first keys the panel below grows, and the stage gives way before it is drawn anew.
        page.evaluate(FRAMES)
        for _ in range(8):
            assert ball_at()[1] == pytest.approx(y - by, abs=4), "it snapped back"
            settle(page)

    page.get_by_role("button", name="Pull to move").click()
    carried(0, 40)
    carried(6, 200)
    saved(page)
    stop(cluster)
    try:
        carried(12, 30)
        expect(page.get_by_text("The database is away")).to_be_visible()
        expect(page.locator(".saved")).to_contain_text("Waiting to save")
        # More is done meanwhile, and waits its turn.
        page.get_by_label("Length", exact=True).fill("36")
        page.get_by_label("Length", exact=True).press("Enter")
        put_down = page.get_by_role("textbox", name="Turn").first
        put_down.fill("45")
        put_down.press("Enter")
        expect(page.locator(".saved")).to_contain_text("Waiting to save")
    finally:
        start(cluster)
    saved(page)
    held = next(d for d in documents(client, production).values() if d["kind"] == "motion")
    keys = {id: {int(f): k["value"] for f, k in c["keys"].items()} for id, c in held["channels"].items()}
    moved = next(k for id, k in keys.items() if id.endswith(".move"))
    turned = next(k for id, k in keys.items() if id.endswith(".turn"))
    assert held["length"] == 36 and sorted(moved) == [0, 6, 12]
    assert [moved[f][1] for f in (0, 6, 12)] == pytest.approx([-40, -240, -40 - 200 * 12 / 18 - 30], abs=1)
    assert turned[12] == [45]


def test_what_is_moved_along_a_row_stays_there_until_it_is_settled(
    serve: Callable[..., Service], new_page: Callable[..., Page]
) -> None:
    service = serve()
    production, client = ball(service)
    motion = next(d for d in documents(client, production).values() if d["kind"] == "motion")
    for command in (
        {"do": "add-shot", "id": "s", "name": "The quay", "length": 96},
        {"do": "bring-on", "shot": "s", "id": "c", "puppet": motion["puppet"]},
        {"do": "add-span", "shot": "s", "cast": "c", "id": "p", "motion": motion["id"], "frame": 10},
    ):
        assert change(client, production, command).status_code == 200
    span = documents(client, production)["s"]["cast"]["c"]["spans"]["p"]
    page = new_page()
    page.add_init_script(SLOWLY)
    page.goto(f"{service.address}/p/{production}/shots")
    drawn(page)
    bar = page.locator(".span-bar")
    box = bar.bounding_box()
    assert box is not None
    page.evaluate(
        """() => {
          window.seen = [];
          const look = () => {
            window.seen.push(document.querySelector(".span-bar").getBoundingClientRect().left);
            requestAnimationFrame(look);
          };
          look();
        }"""
    )
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 120, y, steps=6)
    page.mouse.up()
    saved(page)
    seen = page.evaluate("window.seen")
    assert seen[-1] == pytest.approx(box["x"] + 120, abs=12)
    assert np.diff(seen).min() >= -0.5, "it snapped back"
    after = documents(client, production)["s"]["cast"]["c"]["spans"]["p"]
    assert after["start"] == span["start"] + round(120 / (box["width"] / span["frames"]))
