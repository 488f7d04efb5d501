"""The stage on whatever it is shown: a finer screen, a graphics card that goes away, a drawing that can't be drawn."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from playwright.sync_api import Browser, Page, Route, expect

from tests.browser.hands import Stage, drawn, eventually
from tests.conftest import CHROMIUM, CHROMIUM_FLAGS, Demo

SOFTWARE_CARD = ["--use-angle=swiftshader", "--enable-unsafe-swiftshader"]
"""WebGL on the processor: what `?card` asks for where there is no card."""


# A window that can be brought to another screen, as a browser tells a page of it (CSSOM View Module).
OTHER_SCREEN = """
(() => {
  let ratio = 1;
  const told = new Set();
  Object.defineProperty(window, "devicePixelRatio", { get: () => ratio });
  const usual = window.matchMedia.bind(window);
  window.matchMedia = (query) => {
    const found = usual(query);
    if (query.includes("resolution")) {
      found.addEventListener = (_, work) => void told.add(work);
      found.removeEventListener = (_, work) => void told.delete(work);
    }
    return found;
  };
  window.comesTo = (now) => {
    ratio = now;
    for (const work of [...told]) work();
  };
})();
"""


def fineness(page: Page, which: str) -> float:
    """Pixels of a canvas for one pixel of the page."""
    return float(page.locator(which).first.evaluate("(c) => c.width / c.getBoundingClientRect().width"))


def test_the_stage_and_thumbnails_are_as_fine_as_the_screen_that_the_window_comes_to(
    demo: Demo, new_page: Callable[..., Page]
) -> None:
    page = new_page()
    page.add_init_script(OTHER_SCREEN)
    page.goto(demo.at("motion"))
    drawn(page)
    expect(page.locator(".pose-card canvas").first).to_be_visible()
    for ratio in (1, 2):
        page.evaluate(f"window.comesTo({ratio})")
        for which in (".stage canvas", ".pose-card canvas"):
            eventually(lambda which=which: round(fineness(page, which), 2), ratio)
    # And what is seen is painted that fine: there are shades that four pixels alike would not have.
    card = page.locator(".pose-card canvas").first
    pixels = "(c) => [...c.getContext('2d').getImageData(0, 0, c.width, c.height).data]"

    def finer() -> bool:
        width, height = card.evaluate("(c) => [c.width, c.height]")
        seen = np.array(card.evaluate(pixels)).reshape(height, width, 4)
        return bool(seen.any()) and not np.array_equal(seen[:, 0:-1:2], seen[:, 1::2])

    eventually(finer, True)


def test_a_graphics_card_that_is_lost_leaves_a_stage_that_goes_on(demo: Demo, browser: Browser) -> None:
    flags = [flag for flag in CHROMIUM_FLAGS if flag != "--disable-gpu"]
    other = browser.browser_type.launch(executable_path=CHROMIUM, args=[*flags, *SOFTWARE_CARD])
    try:
        page = other.new_page(viewport={"width": 1280, "height": 800})
        page.goto(f"{demo.at('motion')}?card")
        drawn(page)
        on_card = "document.querySelector('.stage canvas').getContext('webgl2') !== null"
        assert page.evaluate(on_card), "it is drawn by a card"
        before = Stage(page).pixels()
        page.evaluate(
            """() => {
              const canvas = document.querySelector('.stage canvas');
              canvas.dataset.lost = '';
              canvas.getContext('webgl2').getExtension('WEBGL_lose_context').loseContext();
            }"""
        )
        # Another canvas takes its place; to ask what it is drawn by before it is drawn would settle that.
        expect(page.locator(".stage canvas[data-drawn]:not([data-lost])")).to_be_visible()
        assert not page.evaluate(on_card)
        drawn(page)
        after = Stage(page).pixels()
        assert np.mean(np.abs(after[:, :, :3].astype(int) - before[:, :, :3].astype(int))) < 1
        # And it goes on: another frame is another picture.
        page.get_by_label("Frame", exact=True).fill("20")
        page.get_by_label("Frame", exact=True).press("Enter")
        drawn(page)
        assert np.any(Stage(page).pixels() != after)
    finally:
        other.close()


def test_one_drawing_that_can_not_be_drawn_does_not_keep_the_rest_from_playing(
    demo: Demo, new_page: Callable[..., Page]
) -> None:
    page = new_page()
    broken: list[str] = []
    page.on("console", lambda said: broken.append(said.text) if said.type == "error" else None)

    def spoil(route: Route) -> None:
        answer = route.fetch()
        arts = answer.json()
        if spoiled:
            route.fulfill(response=answer)
            return
        spoiled.extend(arts)
        route.fulfill(
            response=answer, json={id: a | {"nodes": [{"kind": "shape", "outline": None}]} for id, a in arts.items()}
        )

    spoiled: list[str] = []
    page.route("**/arts?*", spoil)
    page.goto(demo.at("motion"))
    field = page.get_by_label("Frame", exact=True)
    # Pages are heard while something is asked of them.
    eventually(lambda: (page.evaluate("1"), len(spoiled) > 0)[1], True)
    eventually(lambda: (page.evaluate("1"), len(broken) > 0)[1], True)
    page.locator(".stage").focus()
    page.keyboard.press(" ")
    eventually(lambda: int(field.input_value()) > 5, True)
    page.keyboard.press(" ")
    assert len(broken) == 1 and "can't be drawn" in broken[0]
