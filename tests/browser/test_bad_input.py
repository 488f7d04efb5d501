"""Bad files brought in by hand: the page says what is wrong and nothing changes."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from playwright.sync_api import Page, expect
from sqlalchemy import Engine, update

from sorvan.store import log
from sorvan.store.tables import documents
from tests.browser.hands import bench, document, saved, snapshot
from tests.browser.test_windows import gull
from tests.conftest import Service
from tests.core.test_documents import quay
from tests.interchange import hurtful
from tests.interchange.art import svg
from tests.interchange.test_hostile import BAD

SHOWN = [
    "truncated PNG",
    "script",
    "outside picture",
    "deep nesting",
    "entity bomb",
    "40,000 pixels square",
    "empty",
    "wrong type",
]


@pytest.fixture
def page(shared: Service, new_page: Callable[..., Page]) -> Page:
    opened = new_page()
    opened.goto(f"{shared.address}/p/{gull(shared)}/pieces")
    expect(opened.get_by_role("row", name="wing")).to_be_visible()
    return opened


def test_each_bad_file_gets_its_message_and_changes_nothing(shared: Service, page: Page) -> None:
    before = snapshot(page, shared.address)
    for name in SHOWN:
        data, words, _ = BAD[name]
        page.get_by_label("Art to bring in").set_input_files(
            {"name": f"{name}.svg", "mimeType": "image/svg+xml", "buffer": data or b""}
        )
        alert = page.get_by_role("alert").last
        expect(alert).to_contain_text(words)
        alert.get_by_role("button", name="Close").click()
    assert snapshot(page, shared.address) == before


def test_a_drawing_without_names_is_offered_shape_by_shape(page: Page) -> None:
    bare = svg('<circle cx="20" cy="20" r="9"/><rect x="50" y="50" width="9" height="9"/>')
    page.get_by_label("Art to bring in").set_input_files(
        {"name": "bare.svg", "mimeType": "image/svg+xml", "buffer": bare}
    )
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("Nothing in this drawing is named")
    dialog.get_by_role("button", name="Bring in 2 pieces").click()
    expect(page.get_by_role("row", name="circle 1")).to_be_visible()
    saved(page)


def test_numbers_that_make_no_sense_are_marked_and_not_sent(shared: Service, page: Page) -> None:
    page.get_by_role("row", name="wing").click()
    before = snapshot(page, shared.address)
    field = page.get_by_role("textbox", name="Across")
    field.fill("twelve")
    field.press("Enter")
    expect(field).to_have_attribute("aria-invalid", "true")
    width = page.get_by_role("textbox", name="Width")
    width.fill("0")
    width.press("Enter")
    expect(page.locator(f"#{field.get_attribute('aria-describedby')}")).to_have_text("A number is needed.")
    expect(page.get_by_role("alert").filter(has_text="can't be scaled to nothing")).to_be_visible()
    # The reason stands until it is put right, or dropped.
    field.focus()
    field.press("Escape")
    expect(field).to_have_attribute("aria-invalid", "false")
    assert snapshot(page, shared.address) == before


def test_an_import_is_followed_from_every_bench_and_cancelled(page: Page) -> None:
    art = page.get_by_label("Art to bring in")
    art.set_input_files(
        {"name": "fog.svg", "mimeType": "image/svg+xml", "buffer": hurtful.FILES["turbulence"]()},
    )
    expect(page.get_by_text("Reading what comes in…")).to_be_visible()
    bench(page, "Rig")
    expect(page.get_by_role("heading", level=1)).to_contain_text("Rig")
    page.get_by_role("button", name="Cancel").press("Enter")
    expect(page.get_by_text("Reading what comes in…")).to_be_hidden()
    saved(page)
    expect(page.get_by_role("alert")).to_have_count(0)
    expect(page.get_by_role("treeitem", name="pier")).to_have_count(0)
    bench(page, "Pieces")
    expect(page.get_by_role("heading", level=1)).to_contain_text("Pieces")
    two = svg('<path d="M0 0H30V30z"/><path d="M50 0H80V30z"/>')
    art.set_input_files({"name": "buoys.svg", "mimeType": "image/svg+xml", "buffer": two})
    bench(page, "Rig")
    dialog = page.get_by_role("dialog", name="What becomes a piece")
    dialog.get_by_role("button", name="Bring in 2 pieces").click()
    expect(page.get_by_role("treeitem", name="path 2")).to_be_visible()


def test_a_spoiled_production_opens_and_says_what_it_left_out(
    serve: Callable[..., Service], engine: Engine, new_page: Callable[..., Page]
) -> None:
    whole = quay()
    log.create(engine, whole)
    body = whole.puppet("a").model_dump(mode="json")
    body["pieces"]["tip"]["masks"] = [{"piece": "gone"}]
    with engine.begin() as db:
        db.execute(update(documents).where(documents.c.id == "a").values(body=body))
    service, page = serve(), new_page()
    page.goto(f"{service.address}/p/p/pieces")
    alert = page.get_by_role("alert").filter(has_text="Opened, but not all of it")
    expect(alert).to_contain_text("The puppet “Gull”: the piece “piece tip” › masks was cut from 1 to 0.")
    page.get_by_role("row", name="piece tip").click()
    page.get_by_role("textbox", name="Name", exact=True).fill("Tip of the wing")
    page.get_by_role("textbox", name="Name", exact=True).press("Enter")
    saved(page)
    assert document(page, service.address, "puppet")["pieces"]["tip"]["name"] == "Tip of the wing"
