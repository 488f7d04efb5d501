"""Every bench for every hand and eye: by keys alone, heard, and without what WCAG calls serious."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

from playwright.sync_api import Page, expect

from tests.browser.hands import bench, drawn, eventually, open_bench, saved, settle
from tests.browser.test_lists import production as production
from tests.browser.test_looks import unfold
from tests.conftest import ROOT, SEARCHING, Demo, Service
from tests.service.test_http import documents

__all__ = ["production"]
AXE = ROOT / "web/node_modules/axe-core/axe.min.js"
RULES = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]
BENCHES = ("Pieces", "Rig", "Motion", "Voice", "Shots", "Render")


def serious(page: Page, within: str | None = None) -> list[str]:
    """What axe finds that is serious or worse, in the theme that shows, and of what depends on colour in the other one too:
    which rule, and where first."""
    if not page.evaluate("() => 'axe' in window"):
        page.evaluate(AXE.read_text())
    found: list[dict[str, Any]] = page.evaluate(
        """async ([within, rules]) => {
          const root = document.documentElement, theme = root.dataset.bsTheme ?? 'light';
          const said = { resultTypes: ['violations'], preload: false };
          const all = await axe.run(within ?? document, { ...said, runOnly: rules });
          root.dataset.bsTheme = theme === 'dark' ? 'light' : 'dark';
          const colours = await axe.run(within ?? document, { ...said, runOnly: { type: 'rule', values: ['color-contrast'] } });
          root.dataset.bsTheme = theme;
          return [...all.violations, ...colours.violations];
        }""",
        [within, RULES],
    )
    return [
        f"{v['id']} at {n['target'][0]}: {n['html'][:160]}"
        for v in found
        if v["impact"] in ("serious", "critical")
        for n in v["nodes"][:3]
    ]


# How far two colours are apart for the eye (WCAG 2.2, "contrast ratio"), and what an element lies on.
CONTRAST = """
  const read = (c) => {
    const probe = document.createElement('canvas').getContext('2d', { willReadFrequently: true });
    probe.fillStyle = c;
    probe.fillRect(0, 0, 1, 1);
    return [...probe.getImageData(0, 0, 1, 1).data];
  };
  const known = (window.levels ??= new Map());
  const levels = (c) => known.get(c) ?? known.set(c, read(c)).get(c);
  const light = (c) => [0.2126, 0.7152, 0.0722].reduce((sum, part, i) => {
    const v = c[i] / 255;
    return sum + part * (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4);
  }, 0);
  const ground = (e) => {
    for (let at = e; at; at = at.parentElement) {
      const c = levels(getComputedStyle(at).backgroundColor);
      if (c[3] > 250) return c;
    }
    return [255, 255, 255, 255];
  };
  const apart = (x, y) => (Math.max(x, y) + 0.05) / (Math.min(x, y) + 0.05);
"""

# Fields, switches and sliders whose edge stands out from what lies around it by less than 3 to 1 (WCAG 1.4.11).
PALE = (
    "() => {"
    + CONTRAST
    + """
  const found = [];
  for (const e of document.querySelectorAll('input:not([type=range]):not([type=file]), select, textarea, .btn-outline-primary')) {
    if (!e.getBoundingClientRect().width || e.disabled || e.matches('.visually-hidden')) continue;
    const style = getComputedStyle(e);
    const [around, own] = [ground(e.parentElement), ground(e)].map(light);
    const edge = parseFloat(style.borderTopWidth) > 0 ? light(levels(style.borderTopColor)) : own;
    if (Math.max(apart(edge, around), apart(own, around)) < 3)
      found.push(`${e.tagName} ${e.id || e.getAttribute('aria-label')}: ${style.borderTopColor}`);
  }
  return found.slice(0, 6);
}"""
)

# What has the focus, and what is wrong with how it shows: it has no ring, or one that is hard to see on its ground.
RING = (
    "() => {"
    + CONTRAST
    + """
  const e = document.activeElement;
  if (!e || e === document.body) return null;
  (window.stops ??= []).push(e);
  const seen = [e, null, '::after', '::-webkit-slider-thumb'].flatMap((part) => {
    const style = part === e ? getComputedStyle(e) : part && getComputedStyle(e, part);
    if (!style || style.outlineStyle === 'none' || parseFloat(style.outlineWidth) < 2) return [];
    const ring = levels(style.outlineColor);
    return ring[3] < 250 ? [] : [apart(light(ring), light(ground(e.parentElement)))];
  });
  const name = `${e.tagName} ${e.className} ${e.getAttribute('aria-label') || e.innerText?.slice(0, 20) || e.id}`;
  return [name, Math.max(0, ...seen) >= 3];
}"""
)


OTHER_LIGHT = """() => {
  const root = document.documentElement;
  root.dataset.bsTheme = root.dataset.bsTheme === 'dark' ? 'light' : 'dark';
}"""


def in_both(page: Page, script: str) -> list[Any]:
    """What a script gives in one theme and in the other."""
    return page.evaluate(  # type: ignore[no-any-return]
        f"""() => {{
          const root = document.documentElement, theme = root.dataset.bsTheme ?? 'light', found = [];
          for (const shown of [theme, theme === 'dark' ? 'light' : 'dark']) {{
            root.dataset.bsTheme = shown;
            found.push(({script})());
          }}
          root.dataset.bsTheme = theme;
          return found;
        }}"""
    )


def test_no_bench_has_a_serious_barrier(demo: Demo, new_page: Callable[..., Page]) -> None:
    page = new_page()
    page.goto(demo.address)
    expect(page.get_by_text("Last ferry at nine").first).to_be_visible()
    assert serious(page) == []
    page.get_by_text("Last ferry at nine").first.click()
    for name in BENCHES:
        open_bench(page, name)
        assert serious(page) == [], name
        assert in_both(page, PALE) == [[], []], name


def test_whatever_has_the_focus_is_seen_to_have_it(demo: Demo, new_page: Callable[..., Page]) -> None:
    page = new_page()
    page.goto(demo.address)
    page.get_by_text("Last ferry at nine").first.click()

    def walked(key: str) -> tuple[int, list[str]]:
        """From before the first to after the last: how many stops there are, and which are hard to see."""
        stops, faint = 0, []
        page.evaluate("window.stops = []")
        while stops < 150:
            page.keyboard.press(key)
            found = page.evaluate(RING)
            if found is None:
                break
            stops += 1
            faint += [found[0]] * (not found[1])
        return stops, faint

    for name in BENCHES:
        open_bench(page, name)
        stops, faint = walked("Tab")
        assert not faint and 10 < stops < 150, name
        # The same stops in the other light, the focus put on each: after a key it shows as one shows that a key moved it.
        page.evaluate(OTHER_LIGHT)
        again = page.evaluate(f"() => window.stops.map((e) => {{ e.focus(); return ({RING})(); }})")
        assert len(again) == stops and [stop for stop in again if not (stop and stop[1])] == [], name
        if SEARCHING or name == "Motion":
            back, faint = walked("Shift+Tab")
            assert not faint and back >= stops, name


def test_no_menu_and_no_dialog_has_a_serious_barrier(demo: Demo, new_page: Callable[..., Page]) -> None:
    page = new_page()
    page.goto(demo.address)
    dialog = page.get_by_role("dialog")

    def look(what: str) -> None:
        expect(dialog).to_be_visible()
        # It has a name, holds the focus, and gives it back to the page.
        assert dialog.evaluate("d => d.contains(document.activeElement)"), what
        expect(dialog).to_have_accessible_name(re.compile(".+"))
        assert serious(page, ".modal.show") == [], what
        page.keyboard.press("Escape")
        expect(dialog).to_have_count(0)

    page.get_by_role("button", name="New production").click()
    look("a new production")
    page.get_by_text("Last ferry at nine").first.click()
    for name in BENCHES:
        open_bench(page, name)
        menus = page.locator("[aria-haspopup=menu]:visible:not(:disabled)")
        for n in range(menus.count()):
            button = menus.nth(n)
            what = f"{name}: {button.get_attribute('aria-label') or button.inner_text()}"
            button.focus()
            page.keyboard.press("Enter")
            menu = page.locator(".dropdown-menu.show")
            expect(menu).to_be_visible()
            assert serious(page, ".dropdown-menu.show") == [], what
            page.keyboard.press("Escape")
            expect(menu).to_have_count(0)
            expect(button).to_be_focused()
    page.keyboard.press("?")
    look("the sheet of keys")
    page.get_by_role("button", name="Settings of the production").or_(page.locator(".top .title")).first.click()
    look("the settings")
    bench(page, "Pieces")
    page.get_by_role("row", name="mouth").click()
    for label, what in (("Line up…", "lining up"), ("Morph…", "morphing")):
        page.get_by_role("button", name=label).click()
        look(what)
    bench(page, "Motion")
    unfold(page, "Pose book")
    page.get_by_role("button", name="Keep this pose…").click()
    look("keeping a pose")
    page.get_by_role("button", name=re.compile(r"^Edit\b")).click()
    page.get_by_role("menuitem", name="Put in or take out frames").click()
    look("asking for numbers")
    bench(page, "Pieces")
    expect(page.get_by_role("heading", level=1)).to_contain_text("Pieces")
    # Nothing in it is named: what there is to bring in is asked about.
    buoy = b"<svg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 90 40'><path d='M0 0H30V30z'/><path d='M50 0H80V30z'/></svg>"
    page.get_by_label("Art to bring in").set_input_files(
        {"name": "buoy.svg", "mimeType": "image/svg+xml", "buffer": buoy}
    )
    look("the report of an import")
    page.goto(demo.address)
    page.get_by_role("button", name="Remove Last ferry at nine").click()
    look("removing a production")
    expect(page.get_by_text("Last ferry at nine").first).to_be_visible()


def test_a_bench_says_what_it_is_and_takes_the_focus(demo: Demo, new_page: Callable[..., Page]) -> None:
    page = new_page()
    page.goto(demo.address)
    page.get_by_text("Last ferry at nine").first.click()
    bench(page, "Motion")
    drawn(page)
    heading = page.get_by_role("heading", level=1)
    expect(heading).to_be_focused()
    expect(heading).to_have_text(re.compile("^Motion, .+"))
    expect(page).to_have_title(re.compile("^Motion, .+, Last ferry at nine, Sorvan$"))
    assert page.get_by_role("main").count() == 1
    # The tab key finds the way past the top first.
    page.reload()
    drawn(page)
    page.keyboard.press("Tab")
    skip = page.get_by_role("link", name="Skip to the Motion bench")
    expect(skip).to_be_focused()
    box = skip.bounding_box()
    assert box is not None and box["y"] >= 0, "it is seen while it has the focus"
    page.keyboard.press("Enter")
    expect(heading).to_be_focused()


def test_a_production_that_is_not_there_says_so(shared: Service, new_page: Callable[..., Page]) -> None:
    page = new_page()
    page.goto(f"{shared.address}/p/nowhere/motion")
    expect(page.get_by_role("heading", name="There is no such production")).to_be_visible()
    page.get_by_role("link", name="All productions").click()
    expect(page.get_by_role("button", name="New production")).to_be_visible()


def test_a_list_walked_over_by_keys_changes_nothing_until_enter(
    shared: Service, production: str, new_page: Callable[..., Page]
) -> None:
    client = shared.client()
    page = new_page()
    page.goto(f"{shared.address}/p/{production}/rig")
    page.get_by_role("treeitem").filter(has=page.get_by_title("body", exact=True)).first.click()
    side = page.get_by_label("Side", exact=True)
    before = documents(client, production)["a"]
    held = side.input_value()
    side.focus()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("ArrowDown")
    walked = side.input_value()
    assert walked != held
    assert documents(client, production)["a"] == before, "walked over, nothing is changed"
    page.keyboard.press("Escape")
    assert side.input_value() == held
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Enter")
    saved(page)
    assert documents(client, production)["a"] != before
    # The name of a joint: Escape drops what was typed.
    name = page.get_by_label("Name of the joint")
    name.fill("something else")
    name.press("Escape")
    expect(name).to_have_value("body")
    # What hangs on a joint can't carry it.
    hung = page.get_by_label("Hangs on")
    names = {p["name"]: p for p in documents(client, production)["a"]["joints"].values()}
    below = [n for n, j in names.items() if j["parent"] == names["body"]["id"]]
    offered = hung.locator("option").all_inner_texts()
    assert not set(below) & set(offered) and "body" not in offered


def test_the_focus_goes_on_where_something_is_removed(
    shared: Service, production: str, new_page: Callable[..., Page]
) -> None:
    page = new_page()
    page.goto(f"{shared.address}/p/{production}/pieces")
    rows = page.get_by_role("grid", name="Pieces").get_by_role("row")
    expect(rows).to_have_count(2)
    rows.first.focus()
    page.keyboard.press("Enter")
    # From a button of a panel nothing on the bench is deleted.
    page.get_by_role("button", name="centre", exact=True).first.focus()
    page.keyboard.press("Delete")
    saved(page)
    expect(rows).to_have_count(2)
    rows.first.focus()
    page.keyboard.press("Delete")
    saved(page)
    expect(rows).to_have_count(1)
    expect(rows.first).to_be_focused()


def test_single_keys_can_be_changed_and_switched_off(
    shared: Service, production: str, new_page: Callable[..., Page]
) -> None:
    page = new_page()
    page.goto(f"{shared.address}/p/{production}/pieces")
    ellipse, rectangle = (page.get_by_role("button", name=re.compile(f"^{n}")) for n in ("Ellipse", "Rectangle"))
    expect(ellipse).to_be_visible()
    page.keyboard.press("e")
    expect(ellipse).to_have_attribute("aria-pressed", "true")
    page.keyboard.press("v")
    # Another key for it; one that is taken is not given twice.
    page.keyboard.press("?")
    line = page.get_by_role("dialog").get_by_role("row").filter(has_text="Draw: ellipse")
    line.get_by_role("button", name="E", exact=True).click()
    page.keyboard.press("?")
    expect(page.get_by_role("dialog").get_by_role("status")).to_contain_text("Choose another key")
    line.get_by_role("button", name="E", exact=True).click()
    page.keyboard.press("9")
    expect(line.get_by_role("button", name="9", exact=True)).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_be_hidden()
    page.keyboard.press("e")
    expect(ellipse).to_have_attribute("aria-pressed", "false")
    page.keyboard.press("9")
    expect(ellipse).to_have_attribute("aria-pressed", "true")
    page.keyboard.press("v")
    # Switched off no single key does anything, and the browser keeps that.
    page.keyboard.press("?")
    page.get_by_label("Single keys do something by themselves").uncheck()
    page.keyboard.press("Escape")
    page.reload()
    expect(ellipse).to_be_visible()
    page.keyboard.press("9")
    page.keyboard.press("r")
    settle(page)
    for button in (ellipse, rectangle):
        expect(button).to_have_attribute("aria-pressed", "false")


def test_the_page_is_as_the_system_asks(shared: Service, production: str, new_page: Callable[..., Page]) -> None:
    page = new_page()
    page.emulate_media(color_scheme="dark", reduced_motion="reduce", forced_colors="active")
    page.goto(f"{shared.address}/p/{production}/pieces")
    button = page.get_by_role("button", name=re.compile("^Ellipse"))
    expect(button).to_be_visible()

    def style(name: str) -> str:
        return str(button.evaluate("(e, name) => getComputedStyle(e)[name]", name))

    theme = "document.documentElement.dataset.bsTheme"
    assert page.evaluate(theme) == "dark"
    assert float(style("transitionDuration").removesuffix("s")) < 0.001
    assert style("borderTopStyle") == "solid", "in the system's colours a button has an edge"
    # The system turns light, and so does the page; what the user chose here goes before that.
    page.emulate_media(color_scheme="light")
    eventually(lambda: page.evaluate(theme), "light")
    page.get_by_role("button", name="Dim workshop").click()
    page.emulate_media(color_scheme="dark")
    page.emulate_media(color_scheme="light")
    page.reload()
    expect(button).to_be_visible()
    assert page.evaluate(theme) == "dark"
