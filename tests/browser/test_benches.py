"""The benches at 1280 by 800: nothing clipped, all frequent acts on keys, picking by what is seen."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from playwright.sync_api import Page, expect

from tests.browser.hands import Sheet, bench, document, drawn, saved, settle
from tests.browser.test_windows import gull
from tests.conftest import Demo, Service, change
from tests.interchange.art import svg
from tests.service.test_http import bring


def test_every_bench_fits_its_window(demo: Demo, new_page: Callable[..., Page]) -> None:
    page = new_page()
    page.goto(demo.address)
    page.get_by_role("button", name="Open Last ferry at nine").click()
    for name in ("Pieces", "Rig", "Motion", "Voice", "Shots", "Render"):
        bench(page, name)
        settle(page) if name == "Render" else drawn(page)
        outside = page.evaluate(
            """() => [...document.querySelectorAll('button, input, select, a, h2')].filter((e) => {
                 const b = e.getBoundingClientRect();
                 // What scrolls by itself counts by its own edges.
                 const panel = e.closest('aside.right');
                 if (panel && panel.getBoundingClientRect().bottom <= innerHeight && b.right <= innerWidth + 1 && b.left >= -1) return false;
                 if (!b.width || e.closest('.list, .sheet-names, .pose-strip, .shot-window, .visually-hidden-file') || e.matches('.visually-hidden-file')) return false;
                 return b.right > innerWidth + 1 || b.left < -1 || b.bottom > innerHeight + 1 || b.top < -1;
               }).map((e) => e.outerHTML.slice(0, 120))"""
        )
        assert outside == [], name
        covered = page.evaluate(
            """() => [...document.querySelectorAll('.top button, .top a, .stage-bar button, .sheet-bar button')].filter((e) => {
                 const b = e.getBoundingClientRect();
                 const top = document.elementFromPoint(b.x + b.width / 2, b.y + b.height / 2);
                 return b.width && !e.disabled && !e.contains(top);
               }).map((e) => e.outerHTML.slice(0, 120))"""
        )
        assert covered == [], name
        assert page.evaluate(
            "document.documentElement.scrollHeight <= innerHeight && document.documentElement.scrollWidth <= innerWidth"
        )


def test_another_puppet_comes_to_the_bench_with_its_motion(demo: Demo, new_page: Callable[..., Page]) -> None:
    page = new_page()
    page.goto(demo.at("motion"))
    drawn(page)
    page.get_by_role("complementary", name="Puppet").get_by_role("button", name="Conductor").click()
    page.get_by_role("menuitemradio", name="Gull").click()
    expect(page.get_by_role("button", name="wings down 8 fr, frame 9")).to_be_visible()
    expect(Sheet(page).name("body", "turn")).to_contain_text("+2")


def test_the_demo_plays_every_frame_in_order(demo: Demo, new_page: Callable[..., Page]) -> None:
    page = new_page()
    page.clock.install()
    page.goto(demo.at("motion"))
    drawn(page)
    page.clock.pause_at(page.evaluate("Date.now() + 1000"))
    page.keyboard.press("Space")
    shown = page.get_by_label("Frame", exact=True)
    frames: list[int] = []
    # The page's time moves by two display frames at a time, however long drawing one takes here.
    for _ in range(75):
        page.clock.run_for(32)
        frames.append(int(shown.input_value()) - 1)
    steps = np.diff(frames) % 48
    assert set(steps) <= {0, 1}
    # At 1000/24 ms a frame.
    assert abs(steps.sum() - 74 * 32 * 24 / 1000) < 2


def test_the_sheet_of_shortcuts_tells_of_keys_that_work(demo: Demo, new_page: Callable[..., Page]) -> None:
    page = new_page()
    page.goto(demo.at("motion"))
    drawn(page)
    page.keyboard.press("?")
    dialog = page.get_by_role("dialog")
    for words in ("Play or pause", "Key the whole pose", "Undo", "Go to the Rig bench"):
        expect(dialog).to_contain_text(words)
    page.keyboard.press("Escape")
    expect(dialog).to_be_hidden()
    frame = page.get_by_label("Frame", exact=True)
    for key, shown in (
        ("ArrowRight", "2"),
        ("Shift+ArrowRight", "12"),
        ("End", "48"),
        ("Shift+Comma", "44"),
        (",", "41"),
        ("Home", "1"),
        (".", "7"),
    ):
        page.keyboard.press(key)
        expect(frame).to_have_value(shown)
    page.keyboard.press("2")
    expect(page.get_by_text("What hangs on what")).to_be_visible()


def test_trying_without_keying_is_shown_and_leaves_the_keys(demo: Demo, new_page: Callable[..., Page]) -> None:
    page = new_page()
    page.goto(demo.at("motion"))
    stage = drawn(page)
    before = document(page, demo.address, "motion", "wave")
    page.keyboard.press("a")
    stage.drag((640, 350), (700, 340))
    expect(page.get_by_text("Tried, not keyed")).to_be_visible()
    assert document(page, demo.address, "motion", "wave") == before
    page.keyboard.press("k")
    saved(page)
    expect(page.get_by_text("Tried, not keyed")).to_be_hidden()
    after = document(page, demo.address, "motion", "wave")
    assert after != before
    page.keyboard.press("Control+z")
    saved(page)
    assert document(page, demo.address, "motion", "wave") == before


def test_a_click_picks_what_is_seen_and_the_next_click_what_lies_behind(
    shared: Service, new_page: Callable[..., Page]
) -> None:
    production = gull(shared)
    ring = svg('<g id="ring"><path fill-rule="evenodd" d="M0 0H100V100H0zM20 20H80V80H20z" fill="#06c"/></g>')
    bring(shared.client(), production, "a", ring)
    page = new_page()
    page.goto(f"{shared.address}/p/{production}/pieces")
    stage = drawn(page)

    chosen = page.locator('[role="row"][aria-selected="true"] .name')

    stage.click((5, 50))
    expect(chosen).to_have_text(["ring"])
    stage.click((70, 50))  # inside the ring's hole: its empty box lets the pointer through
    expect(chosen).to_have_text(["wing"])
    stage.click((45, 50))
    settle(page)
    expect(chosen).to_have_text(["wing"])
    stage.click((45, 50))
    expect(chosen).to_have_text(["body"])
    stage.click((50, 30))
    expect(chosen).to_have_count(0)
    page.get_by_role("button", name="Lock ring").click()
    saved(page)
    stage.click((5, 50))
    settle(page)
    expect(chosen).to_have_count(0)


def test_keys_are_selected_moved_and_removed_on_the_sheet(shared: Service, new_page: Callable[..., Page]) -> None:
    production, client = gull(shared), shared.client()
    change(
        client, production, {"do": "add-motion", "id": f"m{production}", "puppet": "a", "name": "flap", "length": 24}
    )
    motion = f"m{production}"
    pieces = next(d for d in client.get(f"/productions/{production}").json()["documents"] if d["kind"] == "puppet")[
        "pieces"
    ]
    ids = {p["name"]: p["id"] for p in pieces.values()}
    keys = [{"joint": ids[n], "kind": "turn", "frame": f, "value": [f]} for n in ("body", "wing") for f in (2, 8)]
    change(client, production, {"do": "set-keys", "motion": motion, "keys": keys})
    page = new_page()
    page.goto(f"{shared.address}/p/{production}/motion")
    drawn(page)
    sheet = Sheet(page)
    sheet.drag("wing", "turn", 8, 13)
    saved(page)
    found = document(page, shared.address, "motion")["channels"]
    assert sorted(found[f"{ids['wing']}.turn"]["keys"]) == ["0", "13", "2"]
    assert found[f"{ids['wing']}.turn"]["keys"]["13"]["value"] == [8]
    # A box over both threads takes the four keys that lie in it; deleting says how many, and undo brings them back.
    sheet.box(sheet.bead("body", "turn", 1), sheet.bead("wing", "turn", 14))
    page.keyboard.press("Delete")
    expect(page.get_by_text("4 keys on 2 channels")).to_be_visible()
    saved(page)
    left = document(page, shared.address, "motion")["channels"].values()
    assert [[*c["keys"]] for c in left] == [["0"], ["0"]], "what held the first frame stays"
    page.keyboard.press("Control+z")
    saved(page)
    assert document(page, shared.address, "motion")["channels"] == found
