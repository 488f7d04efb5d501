"""Two windows on one production, and a database that goes away under them."""

from __future__ import annotations

from collections.abc import Callable

from playwright.sync_api import Page, Route, expect

from sorvan.store.cluster import Cluster, start, stop
from tests.browser.hands import Stage, drawn, eventually, saved, settle
from tests.conftest import Service, change, until
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
        drawn(page)
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
    # Who came first is heard; who was cut off is told, and sees it.
    expect(other.get_by_role("alert")).to_contain_text("Another window changed the same thing")
    assert documents(shared.client(), production)["a"]["pieces"][wing_id(shared, production)]["name"] == "wing tip"
    for page in (one, other):
        expect(page.get_by_role("row", name="wing tip")).to_be_visible()


def test_nobody_leaves_by_mistake_while_changes_are_on_their_way(
    shared: Service, new_page: Callable[..., Page]
) -> None:
    production, page = gull(shared), new_page()
    page.goto(f"{shared.address}/p/{production}/pieces")
    page.get_by_role("row", name="wing").click()
    waiting: list[Route] = []
    page.route("**/changes", lambda route: waiting.append(route))
    for name in ("feather", "quill"):
        page.get_by_label("Name").fill(name)
        page.get_by_label("Name").press("Enter")
    assert held_back(page)
    # Staying, one goes on where one was, and both changes come to be.
    for _ in range(2):
        expect(page.locator(".saved")).not_to_contain_text("Saved")
        eventually(lambda: held_back(page) and len(waiting), 1)
        waiting.pop().continue_()
    expect(page.locator(".saved")).to_contain_text("Saved")
    assert documents(shared.client(), production)["a"]["pieces"][wing_id(shared, production)]["name"] == "quill"
    assert not held_back(page)


def test_a_file_that_is_dropped_beside_where_it_is_wanted_does_not_take_the_place_of_the_page(
    shared: Service, new_page: Callable[..., Page]
) -> None:
    page = new_page()
    page.goto(f"{shared.address}/p/{gull(shared)}/pieces")
    stopped = page.locator(".top").evaluate(
        """(top) => ["dragover", "drop"].map((type) => {
            const dataTransfer = new DataTransfer();
            dataTransfer.items.add(new File(["<svg/>"], "gull.svg", { type: "image/svg+xml" }));
            return !top.dispatchEvent(new DragEvent(type, { dataTransfer, bubbles: true, cancelable: true }));
        })"""
    )
    assert stopped == [True, True]


def held_back(page: Page) -> bool:
    """Whether a browser would ask before it leaves the page."""
    left = "new Event('beforeunload', { cancelable: true })"
    return bool(page.evaluate(f"!window.dispatchEvent({left})"))


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


def test_a_production_opens_where_one_worked_last_here_and_elsewhere(
    shared: Service, new_page: Callable[..., Page]
) -> None:
    production, client = gull(shared), shared.client()
    for id, name in (("m", "flap"), ("n", "glide")):
        change(client, production, {"do": "add-motion", "id": id, "puppet": "a", "name": name, "length": 24})
    page = new_page()
    page.goto(f"{shared.address}/p/{production}/motion")
    drawn(page)
    page.get_by_role("button", name="flap", exact=True).click()
    page.get_by_role("menuitemradio", name="glide").click()
    frame = page.get_by_label("Frame", exact=True)
    frame.fill("17")
    frame.press("Enter")
    settle(page)
    # Left in the middle, by going to the list of productions.
    page.goto(shared.address)
    until(lambda: client.get(f"/productions/{production}/lately").json()["frame"] == 16)
    # A browser that has never been here, as on another machine.
    other = new_page()
    other.goto(f"{shared.address}/p/{production}/motion")
    drawn(other)
    expect(other.get_by_role("button", name="glide", exact=True)).to_be_visible()
    expect(other.get_by_label("Frame", exact=True)).to_have_value("17")
