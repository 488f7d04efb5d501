"""The page at every size and with large letters: nothing is cut off, nothing lies over another, everything is reached."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from bench.scenes import production as many
from sorvan.core.model.documents import Documents
from sorvan.demo.quay import build
from sorvan.interchange.archive import KeptFiles, write_archive
from tests.browser.hands import Stage, bench, drawn, eventually, open_bench, settle
from tests.conftest import Demo, Service, change

BENCHES = ("Pieces", "Rig", "Motion", "Voice", "Shots", "Render")

# What can be used or read and is cut off by the window or by what it lies in, what does not fit into itself without
# saying so, and what lies under something else where nothing scrolls to it.
TROUBLE = r"""() => {
  const found = [];
  const said = (e) => `${e.tagName.toLowerCase()} “${(e.getAttribute('aria-label') || e.textContent || e.id).slice(0, 50)}”`;
  if (document.documentElement.scrollWidth > innerWidth) found.push('the page is wider than the window');
  // What goes along the frames of a sheet is as long as they are.
  const framed = '.sheet-row, .strip-row, .ruler-row, .shot-rows, .ribbon, .rows-area, svg, .pose-card, .tiers';
  for (const e of document.querySelectorAll('button, a, input, select, textarea, label, h2, p, [role=option], [role=row], [role=treeitem]')) {
    const box = e.getBoundingClientRect();
    if (!box.width || !box.height || getComputedStyle(e).visibility === 'hidden') continue;
    if (e.closest(`${framed}, [aria-hidden=true], .visually-hidden, .visually-hidden-focusable, .visually-hidden-file`)) continue;
    let holder = e.parentElement;
    while (holder !== document.body && getComputedStyle(holder).overflowX === 'visible') holder = holder.parentElement;
    const right = holder === document.body ? innerWidth : holder.getBoundingClientRect().right;
    if (box.right > right + 1.5) found.push(`${said(e)} is cut off at the right by ${Math.round(box.right - right)}`);
    if (e.matches('.num input') && box.width < 34) found.push(`${said(e)} is only ${Math.round(box.width)} wide`);
    if (box.left < -1.5) found.push(`${said(e)} begins left of the window`);
    const style = getComputedStyle(e);
    if (e.matches('button, a') && e.scrollWidth > e.clientWidth + 2 && style.textOverflow !== 'ellipsis' && style.display !== 'inline')
      found.push(`${said(e)} needs ${e.scrollWidth} of ${e.clientWidth}`);
    if (e.matches('button, input, select, a') && !e.disabled) {
      const [x, y] = [(box.left + box.right) / 2, (box.top + box.bottom) / 2];
      let scroller = e.parentElement;
      while (scroller !== document.body && getComputedStyle(scroller).overflowY === 'visible') scroller = scroller.parentElement;
      const seen = scroller.getBoundingClientRect();
      // What lies across the end of what scrolls is scrolled to.
      if (y < seen.top + 1 || y > seen.bottom - 1) continue;
      const at = x > 0 && y > 0 && x < innerWidth && y < innerHeight ? document.elementFromPoint(x, y) : e;
      if (at && !e.contains(at) && !at.contains(e) && !e.labels?.[0]?.contains(at) && !at.closest('.top'))
        found.push(`${said(e)} lies under ${said(at)}`);
    }
  }
  return found.slice(0, 12);
}"""


def renamed(thing: Any) -> Any:
    """The same with names of eighty letters."""
    if isinstance(thing, dict):
        return {
            k: f"{v} of the last ferry that leaves the small quay at nine in the evening, if it does"[
                : 60 if "at" in thing else 80
            ]
            if k == "name" and isinstance(v, str) and v
            else renamed(v)
            for k, v in thing.items()
        }
    return [renamed(v) for v in thing] if isinstance(thing, list) else thing


def loaded(service: Service, documents: Documents, kept: KeptFiles) -> str:
    archive = {"file": ("long.zip", write_archive(documents, kept))}
    return str(service.client().post("/productions/archive", files=archive).json()["id"])


@pytest.fixture(scope="module")
def long_names(shared: Service) -> str:
    documents, kept = build()
    said = Documents(
        {id: type(d).model_validate(renamed(d.model_dump(mode="json"))) for id, d in documents.by_id.items()}
    )
    return loaded(shared, said, kept)


@pytest.fixture(scope="module")
def two_hundred(shared: Service) -> str:
    return loaded(shared, *many(200, 24))


FITTED = "([w, size]) => innerWidth === w && getComputedStyle(document.documentElement).fontSize === size"
SIZES = {
    "usual": (1280, 800, 16),
    "larger": (1440, 900, 16),
    "small": (1024, 768, 16),
    "zoomed to 200 %": (640, 400, 16),
    "text at 200 %": (1280, 800, 32),
}


@pytest.mark.parametrize("production", ("long_names", "two_hundred"))
def test_nothing_is_cut_off_or_covered(
    shared: Service, new_page: Callable[..., Page], production: str, request: pytest.FixtureRequest
) -> None:
    """Of a production with long names everywhere, and of one with a puppet of two hundred pieces."""
    page = new_page()
    fonts = page.context.new_cdp_session(page)
    page.goto(f"{shared.address}/p/{request.getfixturevalue(production)}/pieces")
    for name in BENCHES if production == "long_names" else BENCHES[:3]:
        open_bench(page, name)
        for size, (width, height, text) in SIZES.items():
            page.set_viewport_size({"width": width, "height": height})
            fonts.send("Page.setFontSizes", {"fontSizes": {"standard": text, "fixed": text}})
            page.wait_for_function(FITTED, arg=[width, f"{text}px"])
            settle(page)
            assert page.evaluate(TROUBLE) == [], f"{name}, {size}"


def test_columns_are_moved_by_keys_folded_and_kept(demo: Demo, new_page: Callable[..., Page]) -> None:
    page = new_page()
    page.goto(demo.at("pieces"))
    drawn(page)

    def wide(side: str) -> float:
        box = page.locator(f"aside.{side}").bounding_box()
        return box["width"] if box else 0

    edge = page.get_by_role("separator", name="Width of the left column")
    start, room = wide("left"), Stage(page).element.evaluate("e => e.clientWidth")
    edge.focus()
    for _ in range(3):
        page.keyboard.press("ArrowRight")
    eventually(lambda: wide("left"), start + 36)
    assert Stage(page).element.evaluate("e => e.clientWidth") == room - 36
    assert edge.get_attribute("aria-valuenow") == str(round(start + 36))
    page.keyboard.press("Home")
    eventually(lambda: wide("left"), 150)
    page.keyboard.press("ArrowRight")
    page.reload()
    drawn(page)
    assert wide("left") == 162, "it is kept"
    # Dragged by hand, on the other side; folded away, and brought back as it was.
    edge = page.get_by_role("separator", name="Width of the right column")
    box = edge.bounding_box()
    assert box is not None
    before = wide("right")
    page.mouse.move(box["x"] + 4, box["y"] + 200)
    page.mouse.down()
    page.mouse.move(box["x"] - 56, box["y"] + 200, steps=4)
    page.mouse.up()
    eventually(lambda: wide("right"), before + 60)
    edge.focus()
    page.keyboard.press("Enter")
    expect(page.locator("aside.right")).to_be_hidden()
    page.keyboard.press("Enter")
    eventually(lambda: wide("right"), before + 60)
    # Another bench has widths of its own.
    bench(page, "Rig")
    drawn(page)
    assert wide("left") == start


def test_what_is_chosen_on_the_stage_is_seen_in_the_list_and_notices_cover_nothing(
    demo: Demo, new_page: Callable[..., Page]
) -> None:
    page = new_page()
    page.goto(demo.at("pieces"))
    drawn(page)
    # Of thirty pieces some twenty are in sight, with their whole names and a picture each.
    rows = page.locator("aside.left [role=row]")
    sizes = rows.evaluate_all("all => all.map((e) => e.getBoundingClientRect()).filter((b) => b.bottom < innerHeight)")
    assert len(sizes) >= 18
    cut = "all => all.filter((e) => e.scrollWidth > e.clientWidth).map((e) => e.textContent)"
    assert page.locator("aside.left [role=row] .name").evaluate_all(cut) == ["right upper arm"]
    shoe = page.get_by_role("row", name="left shoe")
    expect(shoe).not_to_be_in_viewport()
    stage = Stage(page)
    stage.click((690, 622))
    chosen = page.locator('[role="row"][aria-selected="true"]')
    expect(chosen).to_have_count(1)
    expect(chosen).to_be_in_viewport()
    expect(chosen).to_contain_text("shoe")
    # All that can be said of a piece has room too.
    for fold in page.locator("aside.right .fold-head[aria-expanded=false]").all()[::-1]:
        fold.click()
    expect(page.locator("aside.right .fold-head[aria-expanded=false]")).to_have_count(0)
    assert page.evaluate(TROUBLE) == []
    # Copied is told in a notice, which lies over nothing that can be used.
    bench(page, "Motion")
    drawn(page)
    page.locator(".pose-card").first.click()
    page.keyboard.press("Control+c")
    notice = page.locator(".toasts .notice")
    expect(notice).to_be_visible()
    assert page.evaluate(TROUBLE) == []
    page.keyboard.press("Escape")
    expect(notice).to_have_count(0)


def test_the_picture_has_room_and_the_joints_too(demo: Demo, new_page: Callable[..., Page]) -> None:
    page = new_page()
    page.goto(demo.at("motion"))
    stage = drawn(page).element

    def high(selector: str) -> float:
        box = page.locator(selector).bounding_box()
        assert box is not None
        return box["height"]

    # A motion with much in it: eight joints in sight, and the panel below less than half.
    rows = page.get_by_role("tree", name="What hangs on what")
    seen = rows.evaluate(
        """(list) => { const box = list.getBoundingClientRect(); return [...list.querySelectorAll('[data-row]')]
          .filter((r) => r.getBoundingClientRect().bottom <= box.bottom + 1).length; }"""
    )
    assert seen >= 8
    assert high(".timing") < 0.4 * 800
    # A new one leaves the room to the picture; with its first keys it is as high as they need, and then as it was.
    client = demo.client()
    puppet = client.get(f"/productions/{demo.production}").json()["documents"]
    conductor = next(d for d in puppet if d["id"] == "conductor")
    change(
        client, demo.production, {"do": "add-motion", "id": "new", "puppet": "conductor", "name": "New", "length": 24}
    )
    page.get_by_role("button", name="Lift the lantern and wave").click()
    page.get_by_role("menuitemradio", name="New", exact=True).click()
    drawn(page)
    assert high(".stage") >= 0.6 * 800
    empty = high(".timing")
    joints = list(conductor["joints"])[:2]
    keys = [{"joint": j, "kind": "turn", "frame": 0, "value": [3]} for j in joints]
    change(client, demo.production, {"do": "set-keys", "motion": "new", "keys": keys})
    eventually(lambda: high(".timing") > empty, True)
    few = high(".timing")
    # Until somebody drags its edge: then it stays so.
    edge = page.get_by_role("separator", name="Height of the timing panel")
    edge.focus()
    page.keyboard.press("ArrowUp")
    eventually(lambda: high(".timing"), pytest.approx(few + 12, abs=1))
    # An upright stage stands beside the panels, nearly as high as the window.
    change(client, demo.production, {"do": "set-production", "width": 720, "height": 1280})
    for name in ("Motion", "Shots"):
        open_bench(page, name)
        eventually(lambda: float(stage.get_attribute("data-scale") or 0) > 0.44, True)
