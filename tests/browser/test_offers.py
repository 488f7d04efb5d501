"""Art whose names tell no side: offered as twins, named by one press, taken back by one."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from playwright.sync_api import Page, expect

from tests.browser.hands import Stage, document, drawn, eventually, saved, settle
from tests.conftest import Service, change
from tests.interchange.art import svg
from tests.loose_figures import strider
from tests.service.test_http import bring

BUOY = svg(
    '<g id="mast"><rect x="44" y="20" width="12" height="70" fill="#c33"/></g>'
    '<g id="lamp"><circle cx="50" cy="14" r="9" fill="#fd6"/></g>'
    '<g id="fin"><path d="M44 50H14L44 74Z" fill="#246"/></g>'
    '<g id="fin copy"><path d="M56 50H86L56 74Z" fill="#246"/></g>'
    '<g id="plank 7"><rect x="20" y="80" width="16" height="14" fill="#484"/></g>'
    '<g id="plank 9"><rect x="64" y="80" width="16" height="14" fill="#484"/></g>'
)


@pytest.fixture
def page(shared: Service, new_page: Callable[..., Page]) -> Page:
    client = shared.client()
    production = client.post("/productions", json={"name": "Quay"}).json()["id"]
    change(client, production, {"do": "set-production", "width": 100, "height": 100})
    change(client, production, {"do": "add-puppet", "id": "a", "name": "Buoy"})
    bring(client, production, "a", BUOY)
    opened = new_page()
    opened.goto(f"{shared.address}/p/{production}/rig")
    expect(opened.get_by_role("treeitem", name="fin copy")).to_be_visible()
    return opened


def test_pieces_that_mirror_one_another_are_offered_as_twins_and_named_at_one_press(
    shared: Service, page: Page
) -> None:
    def names() -> list[str]:
        return sorted(p["name"] for p in document(page, shared.address, "puppet")["pieces"].values())

    before = names()
    offer = page.locator('[data-check="nameless-twins"]')
    expect(offer).to_contain_text("“fin copy” and “fin”")
    expect(offer).to_contain_text("“plank 9” and “plank 7”")
    looked = drawn(page).pixels()
    offer.get_by_role("button", name="Name them left and right").click()
    saved(page)
    # What lies to the left on the paper is the figure's right.
    assert names() == ["lamp", "left fin", "left plank", "mast", "right fin", "right plank"]
    expect(offer).to_have_count(0)
    expect(page.get_by_role("treeitem", name="left fin").get_by_role("img", name="left")).to_be_visible()
    joints = document(page, shared.address, "puppet")["joints"]
    sides = {j["name"]: (j.get("side"), j["rest"]["x"] < 50) for j in joints.values()}
    assert (sides["right fin"], sides["left fin"]) == (("right", True), ("left", False))
    settle(page)
    eventually(lambda: bool((Stage(page).pixels() == looked).mean() > 0.99), True)  # naming moves nothing
    page.keyboard.press("Control+z")
    eventually(names, before)
    expect(offer).to_have_count(1)


def test_what_a_proposal_can_not_tell_is_asked_and_hung_as_it_is_answered(
    shared: Service, new_page: Callable[..., Page]
) -> None:
    client = shared.client()
    production = client.post("/productions", json={"name": "Strider"}).json()["id"]
    change(client, production, {"do": "add-puppet", "id": "a", "name": "Strider"})
    bring(client, production, "a", strider("CS", 20).svg())
    page = new_page()
    page.goto(f"{shared.address}/p/{production}/rig")
    page.get_by_role("button", name="Propose a rig").click()
    first, second = (page.get_by_role("group", name=f"What {name} hangs on") for name in ("calf", "calf 2"))
    expect(page.locator("[data-proposed] .open")).to_have_text(["1", "2"])
    # What is looked at is shown on the figure before it is said.
    first.get_by_role("button", name="near upper leg").hover()
    expect(page.locator("[data-proposed] .tried")).to_be_visible()
    # With the one answered the other is clear.
    first.get_by_role("button", name="near upper leg").click()
    expect(second).to_have_count(0)
    expect(page.locator("[data-proposed] .open")).to_have_text(["1"])
    page.get_by_role("button", name="Take it all").click()
    saved(page)
    joints = document(page, shared.address, "puppet")["joints"]
    names = {j["id"]: j["name"] for j in joints.values()}
    assert {j["name"]: names.get(j["parent"]) for j in joints.values()} == {
        "far upper leg": "body",
        "near upper leg": "body",
        "calf": "near upper leg",
        "calf 2": "far upper leg",
        "shoe": "calf",
        "shoe 2": "calf 2",
        "head": "body",
        "body": None,
    }
