"""What a user does with hands and eyes, for the browser tests."""

from __future__ import annotations

import io
import time
from collections.abc import Callable
from typing import Any

import numpy as np
import skia
from numpy.typing import NDArray
from playwright.sync_api import Locator, Page, expect

from tests.conftest import PATIENCE

Point = tuple[float, float]


def listen(page: Page) -> None:
    """Write down on the page, as `started`, every sound that begins: when by the sound's clock, from which second of
    it, for how many, how fast, and what the clock said."""
    page.add_init_script(
        "window.started = []; const start = AudioBufferSourceNode.prototype.start;"
        "AudioBufferSourceNode.prototype.start = function (...given) {"
        " window.started.push([...given, this.playbackRate.value, this.context.currentTime]);"
        " return start.apply(this, given); };"
    )


def got_ready(page: Page) -> None:
    """Play until what is to be heard here has come over the wire, and stop again: from now on it begins at once."""
    page.evaluate("window.started = []")
    page.keyboard.press("Home")
    page.keyboard.press(" ")
    eventually(lambda: len(played(page)) > 0, True)
    page.keyboard.press(" ")
    page.evaluate("window.started = []")


def played(page: Page) -> list[list[float]]:
    """What `listen` wrote down of what is played: not the short grains that are heard as the frame is moved."""
    return [found for found in page.evaluate("window.started") if found[2] > 0.1]


VIEW = """(e) => {
  const { x, y } = e.getBoundingClientRect();
  return [x, y, ...["scale", "x", "y"].map((of) => Number(e.dataset[of]))];
}"""
"""Where a stage is on the screen, and how it is looked at."""


class Stage:
    """The stage on the page, spoken to in stage units."""

    def __init__(self, page: Page, seen: bool = False) -> None:
        self.page = page
        self.element = page.locator(".stage")
        if not seen:
            expect(self.element).to_be_visible()

    def place(self, at: Point) -> Point:
        left, top, scale, x, y = self.element.evaluate(VIEW)
        # The border is outside the client area that stage coordinates count from.
        return left + 1 + x + at[0] * scale, top + 1 + y + at[1] * scale

    def click(self, at: Point) -> None:
        self.page.mouse.click(*self.place(at))

    def drag(self, start: Point, *via: Point) -> None:
        mouse = self.page.mouse
        mouse.move(*self.place(start))
        mouse.down()
        for point in via:
            mouse.move(*self.place(point), steps=6)
        settle(self.page)
        mouse.up()

    def pin(self, start: Point, to: Point) -> None:
        """Carry the pin of the selected piece from one place to another, by whatever it is held by."""
        box, scale = self.page.locator("[data-handle^='pin:']").bounding_box(), self.element.get_attribute("data-scale")
        assert box is not None
        x, y, k = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2, float(scale or 0)
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        self.page.mouse.move(x + (to[0] - start[0]) * k, y + (to[1] - start[1]) * k, steps=6)
        settle(self.page)
        self.page.mouse.up()

    def pixels(self) -> NDArray[np.uint8]:
        """What the stage looks like, RGBA, once everything on it has been drawn."""
        drawn(self.page)
        return decoded(self.element.screenshot())


class Sheet:
    """The timing sheet on the page, spoken to by thread and frame (from 0)."""

    def __init__(self, page: Page) -> None:
        self.page, self.area = page, page.get_by_role("grid", name="Keys by frame")
        expect(self.area).to_be_visible()

    def name(self, name: str, kind: str) -> Locator:
        """What stands before a thread."""
        return self.page.get_by_title(f"Select all keys of {name}, {kind}", exact=True)

    @property
    def step(self) -> float:
        """Screen pixels of a frame."""
        return float(self.area.get_attribute("data-step") or 0)

    def bead(self, name: str, kind: str, frame: float) -> Point:
        """Where on the screen a frame of a thread is."""
        row, box = self.name(name, kind).bounding_box(), self.area.bounding_box()
        assert row is not None
        assert box is not None
        scroll = float(self.area.get_attribute("data-scroll") or 0)
        return box["x"] + (frame + 0.5) * self.step - scroll, row["y"] + row["height"] / 2

    def click(self, name: str, kind: str, frame: int) -> None:
        self.page.mouse.click(*self.bead(name, kind, frame))

    def pull(self, name: str, kind: str, frame: int, to: int) -> None:
        """Take hold of a bead and move to another frame, and hold on."""
        x, y = self.bead(name, kind, frame)
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        self.page.mouse.move(x + (to - frame) * self.step, y, steps=5)

    def drag(self, name: str, kind: str, frame: int, to: int) -> None:
        self.pull(name, kind, frame, to)
        self.page.mouse.up()

    def box(self, start: Point, end: Point) -> None:
        """Draw a box from one place on the screen to another."""
        self.page.mouse.move(*start)
        self.page.mouse.down()
        self.page.mouse.move(*end, steps=5)
        self.page.mouse.up()


def drawn(page: Page) -> Stage:
    """The stage, once everything on it has been drawn."""
    page.evaluate(QUIET, [1000 * PATIENCE, "", ".stage canvas[data-drawn]"])
    return Stage(page, seen=True)


QUIET = """async ([patience, said, there]) => {
  const end = performance.now() + patience;
  const still = () =>
    !document.documentElement.hasAttribute("data-asking") &&
    (!there || document.querySelector(there)) &&
    (!said || document.querySelector(".saved")?.textContent.includes(said));
  // What was answered may ask or save anew.
  for (let quiet = 0; quiet < 4; ) {
    if (performance.now() > end) throw new Error("it never came to be so");
    await new Promise(requestAnimationFrame);
    quiet = quiet < 2 || still() ? quiet + 1 : 2;
  }
}"""
"""Looks at every frame of the page itself whether it has come to rest: asked from here, each look would come late."""


def settle(page: Page) -> None:
    """Wait until what was asked over the socket has been answered and drawn."""
    page.evaluate(QUIET, [1000 * PATIENCE, "", ""])


def eventually(look: Callable[[], Any], wanted: Any) -> None:
    """What is seen becomes what is wanted, however busy the machine."""
    end = time.monotonic() + PATIENCE
    while (found := look()) != wanted and time.monotonic() < end:
        time.sleep(0.03)
    assert found == wanted, f"{found!r} is not {wanted!r}"


def saved(page: Page) -> None:
    """Wait until every change is on disk."""
    page.evaluate(QUIET, [1000 * PATIENCE, "Saved", ""])


def decoded(png: bytes) -> NDArray[np.uint8]:
    """The pixels of a PNG, RGBA."""
    return np.asarray(skia.Image.open(io.BytesIO(png)).toarray(colorType=skia.kRGBA_8888_ColorType))


def carry(thing: Locator, onto: Locator) -> None:
    """Drag a card or a row onto another. What lies under the pointer is only found once both rest, and the page is
    told of it once more before letting go, as by any hand."""
    mouse = thing.page.mouse
    thing.hover()
    mouse.down()
    for _ in range(2):
        onto.hover()
        settle(thing.page)
    mouse.up()


def bench(page: Page, name: str) -> None:
    """Go to a bench by its tab."""
    page.get_by_role("navigation", name="Benches").get_by_text(name).click()


def open_bench(page: Page, name: str) -> None:
    """Go to a bench by its tab, until all is there that it shows."""
    bench(page, name)
    expect(page.get_by_role("heading", level=1)).to_contain_text(name)
    if name == "Render":
        expect(page.locator(".render-grid")).to_be_visible()
        settle(page)
    else:
        drawn(page)


def snapshot(page: Page, address: str) -> dict[str, Any]:
    """The production that the page shows, as the service has it."""
    production = page.url.split("/p/")[1].split("/")[0]
    found: dict[str, Any] = page.request.get(f"{address}/api/productions/{production}").json()
    return found


def document(page: Page, address: str, kind: str, id: str | None = None) -> dict[str, Any]:
    """The production's one document of a kind, or the one with this id."""
    return next(d for d in snapshot(page, address)["documents"] if d["kind"] == kind and id in (None, d["id"]))
