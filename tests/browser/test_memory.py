"""What the page takes it gives back: the painter's memory stays as it is, whatever is walked over and pulled at."""

from __future__ import annotations

from collections.abc import Callable

from playwright.sync_api import Page

from tests.browser.hands import Stage, bench, drawn, settle
from tests.conftest import SEARCHING, Demo

# Every memory that a module of the page has, and canvases with a context of the card.
LISTEN = """
window.memories = [];
for (const name of ['instantiate', 'instantiateStreaming']) {
  const real = WebAssembly[name];
  WebAssembly[name] = async function (...given) {
    const made = await real.apply(this, given);
    for (const held of Object.values((made.instance ?? made).exports))
      if (held instanceof WebAssembly.Memory) window.memories.push(held);
    return made;
  };
}
window.megabytes = () => window.memories.reduce((sum, m) => sum + m.buffer.byteLength, 0) / 1048576;
"""

# All benches one after the other, each until its stage is drawn, so many times.
ROUNDS = """async (rounds) => {
  const frame = () => new Promise((done) => requestAnimationFrame(done));
  const found = [];
  for (let n = 0; n < rounds; n++) {
    for (const tab of [...document.querySelectorAll('.tab')]) {
      tab.click();
      await frame();
      const end = performance.now() + 20000;
      const ready = () => document.querySelector('.render-grid, .stage canvas[data-drawn]');
      while (!ready() && performance.now() < end) await new Promise((done) => setTimeout(done, 10));
      if (!ready()) throw new Error(`${tab.textContent} was never drawn`);
      await frame();
    }
    found.push(window.megabytes());
  }
  return found;
}"""


def test_rounds_of_the_benches_and_a_thousand_movements_take_no_memory(
    demo: Demo, new_page: Callable[..., Page]
) -> None:
    page = new_page()
    page.add_init_script(LISTEN)
    page.goto(demo.at("pieces"))
    drawn(page)
    sizes = page.evaluate(ROUNDS, 100 if SEARCHING else 8)
    assert sizes[0] > 16, "the painter's memory is what is measured"
    assert sizes[-1] <= sizes[4] + 1, sizes
    # The canvases of benches that were left are gone, and so are their pixels.
    assert page.evaluate("document.querySelectorAll('canvas').length") < 40
    bench(page, "Motion")
    stage = drawn(page)
    x, y = Stage(page).place((640, 380))
    page.mouse.move(x, y)
    page.mouse.down()
    for n in range(1000 if SEARCHING else 120):
        page.mouse.move(x + 40 * ((n % 20) / 10 - 1), y + n % 7)
        if n == 60:
            early = page.evaluate("window.megabytes()")
    settle(page)
    assert stage.element.get_attribute("data-scale")
    page.keyboard.press("Escape")
    page.mouse.up()
    assert page.evaluate("window.megabytes()") <= early + 1
