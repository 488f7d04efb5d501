"""Two windows on one production, and a database that goes away under them."""

from __future__ import annotations

from collections.abc import Callable

from playwright.sync_api import Page, expect

from sorvan.store.cluster import Cluster, start, stop
from tests.browser.hands import Stage, eventually, saved, settle
from tests.conftest import Service, change
from tests.service.test_http import GULL, bring, documents


def gull(service: Service) -> str:
    client = service.client()
    production: str = client.post("/productions", json={"name": "Quay"}).json()["id"]
    change(client, production, {"do": "set-production", "width": 100, "height": 100})
    change(client, production, {"do": "add-puppet", "id": "a", "name": "Gull"})
    bring(client, production, "a", GULL)
    return production


def test_a_second_window_sees_changes_live_and_overwrites_nothing(
    shared: Service, new_page: Callable[..., Page]
) -> None:
    production = gull(shared)
    one, other = new_page(), new_page()
    for page in (one, other):
        page.goto(f"{shared.address}/p/{production}/pieces")
        expect(page.get_by_role("row", name="wing")).to_be_visible()
        settle(page)
    one.get_by_role("row", name="wing").click()
    settle(one)
    Stage(one).drag((72, 50), (72, 80))
    saved(one)
    settle(other)
    x, y = (round(v) for v in stage_pixel(other, (70, 82)))
    # The other window shows the wing where it was moved to.
    eventually(lambda: Stage(other).pixels()[y, x, :3].tolist(), [255, 0, 0])

    # The other window is cut off, and both rename the wing meanwhile.
    other.context.set_offline(True)
    other.route("**/changes", lambda route: route.abort())
    other.get_by_role("row", name="wing").click()
    other.get_by_label("Name").fill("feather")
    other.get_by_label("Name").press("Enter")
    expect(other.locator(".saved")).to_contain_text("Waiting to save")
    other.evaluate("window.dispatchEvent(new Event('offline'))")
    one.get_by_label("Name").fill("wing tip")
    one.get_by_label("Name").press("Enter")
    saved(one)
    other.context.set_offline(False)
    other.unroute("**/changes")
    other.get_by_text("Saved").wait_for()
    settle(other)
    name = documents(shared.client(), production)["a"]["pieces"][wing_id(shared, production)]["name"]
    shown = other.get_by_role("row", name=name)
    expect(shown).to_be_visible()
    if name == "wing tip":
        expect(other.get_by_role("alert")).to_contain_text("Another window changed the same thing")


def wing_id(service: Service, production: str) -> str:
    pieces = documents(service.client(), production)["a"]["pieces"].values()
    return next(str(p["id"]) for p in pieces if p["name"] != "body")


def stage_pixel(page: Page, at: tuple[float, float]) -> tuple[float, float]:
    stage = Stage(page)
    box = stage.element.bounding_box()
    assert box is not None
    x, y = stage.place(at)
    return x - box["x"], y - box["y"]


def test_while_the_database_is_away_the_page_says_so_and_keeps_the_edit(
    serve: Callable[..., Service], new_page: Callable[..., Page], cluster: Cluster
) -> None:
    service = serve()
    production, page = gull(service), new_page()
    page.goto(f"{service.address}/p/{production}/pieces")
    page.get_by_role("row", name="wing").click()
    saved(page)
    stop(cluster)
    try:
        expect(page.get_by_text("The database is away")).to_be_visible()
        page.get_by_label("Name").fill("feather")
        page.get_by_label("Name").press("Enter")
        expect(page.locator(".saved")).to_contain_text("Waiting to save")
    finally:
        start(cluster)
    expect(page.get_by_text("The database is away")).to_be_hidden()
    expect(page.locator(".saved")).to_contain_text("Saved")
    names = [p["name"] for p in documents(service.client(), production)["a"]["pieces"].values()]
    assert sorted(names) == ["body", "feather"]
