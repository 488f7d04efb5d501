"""A figure that nobody prepared: taken apart, joined, rigged as proposed and by hand, posed and rendered."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Callable
from itertools import pairwise

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from sorvan.interchange.files import read_file
from sorvan.interchange.imported import Imported
from sorvan.interchange.pictures import decode
from tests.browser.hands import Stage, bench, document, drawn, saved, settle
from tests.conftest import Service, change
from tests.interchange.art import drawn as drawn_alone
from tests.interchange.art import png
from tests.loose_figures import ENGLISH, biped, told
from tests.service.test_http import fetched

FIGURE = biped(told({}, ENGLISH))
NUMBER = {name: n for n, name in enumerate(FIGURE.sizes)}
"""Where each part lies in the drawing."""


@pytest.fixture
def page(shared: Service, new_page: Callable[..., Page]) -> Page:
    client = shared.client()
    production = client.post("/productions", json={"name": "Quay"}).json()["id"]
    change(client, production, {"do": "set-production", "width": 600, "height": 700})
    opened = new_page()
    opened.goto(f"{shared.address}/p/{production}/pieces")
    return opened


def wrapped() -> bytes:
    """The figure as one group whose parts have no names, and two mouths, one of them hidden."""
    inner = FIGURE.svg(named=False).decode()
    head, body = inner.split('700">', 1)
    mouths = (
        '<g id="mouth A"><path d="M280 150h40v8h-40z" fill="#802020"/></g>'
        '<g id="mouth B" display="none"><path d="M282 146h36v16h-36z" fill="#a02020"/></g>'
    )
    return f'{head}700"><g id="ferryman">{body.removesuffix("</svg>")}</g>{mouths}</svg>'.encode()


def test_a_figure_in_one_group_is_taken_apart_rigged_posed_and_rendered(shared: Service, page: Page) -> None:
    page.get_by_role("button", name="Bring in art").click()
    with page.expect_file_chooser() as asked:
        page.get_by_role("menuitem", name="A drawing, part by part").click()
    asked.value.set_files({"name": "ferryman.svg", "mimeType": "image/svg+xml", "buffer": wrapped()})
    dialog = page.get_by_role("dialog", name="What becomes a piece")
    expect(dialog.get_by_role("heading", name="3 pieces")).to_be_visible()
    # The group is opened, and the pelvis and the trunk become one piece.
    dialog.get_by_role("checkbox", name="ferryman").check()
    dialog.get_by_role("button", name="Open").click()
    expect(dialog.get_by_role("heading", name="18 pieces")).to_be_visible()
    for part in ("pelvis", "torso"):
        dialog.locator(f'[data-part="0/{NUMBER[part]}"] input').check()
    dialog.get_by_role("button", name="Join into one piece").click()
    expect(dialog.get_by_role("heading", name="17 pieces")).to_be_visible()
    dialog.get_by_label("Name of piece 1", exact=True).fill("trunk")
    dialog.get_by_role("button", name="Bring in 17 pieces").click()
    page.get_by_role("dialog").get_by_role("button", name="Good").click()
    saved(page)
    puppet = document(page, shared.address, "puppet")
    by_name = {p["name"]: p for p in puppet["pieces"].values()}
    assert len(by_name) == 17 and by_name["mouth B"]["hidden"] and not by_name["mouth A"]["hidden"]
    art = shared.client().get(f"/assets/{by_name['trunk']['drawings'][0]['art']}").json()
    assert len(art["nodes"]) == 2

    bench(page, "Rig")
    offer = page.locator('[data-check="alternates"]')
    offer.get_by_role("button", name="Gather them into one piece").click()
    saved(page)
    puppet = document(page, shared.address, "puppet")
    assert [len(p["drawings"]) for p in puppet["pieces"].values() if p["name"] == "mouth A"] == [2]

    page.get_by_role("button", name="Propose a rig").click()
    limb = page.locator('[data-limb="left arm"]')
    expect(limb).to_contain_text("%")
    looked = Stage(page).pixels()
    limb.get_by_role("checkbox").uncheck()
    page.get_by_role("button", name="Take what is ticked").click()
    saved(page)
    puppet = document(page, shared.address, "puppet")
    # What is the figure's left lies to the right on the paper.
    arm = [f"group {NUMBER[part] + 1}" for part in ("left upper arm", "left lower arm", "left hand")]
    joints = {j["name"]: j for j in puppet["joints"].values()}
    assert {name for name, j in joints.items() if not j.get("parent")} == {*arm, "trunk"}
    thigh = joints[f"group {NUMBER['left thigh'] + 1}"]
    assert (thigh["role"], thigh["side"]) == ("thigh", "left")
    settle(page)
    drawn(page)
    # The refused limb is linked by hand: from the hand to the forearm, and on to the trunk.
    stage = Stage(page)
    places = [(406, 430), (396, 372), (368, 282), (285, 320)]
    for child, parent in pairwise(places):
        stage.drag(child, parent)
        saved(page)
    puppet = document(page, shared.address, "puppet")
    names = {id: j["name"] for id, j in puppet["joints"].items()}
    hangs = {j["name"]: names.get(j.get("parent") or "") for j in puppet["joints"].values()}
    assert [hangs[name] for name in reversed(arm)] == [arm[1], arm[0], "trunk"]
    page.mouse.move(5, 5)
    assert looked.shape == stage.pixels().shape

    client, production = shared.client(), page.url.split("/p/")[1].split("/")[0]
    change(client, production, {"do": "add-motion", "id": "m", "puppet": puppet["id"], "name": "wave", "length": 2})
    keys = [{"joint": thigh["id"], "kind": "turn", "frame": f, "value": [v]} for f, v in ((0, 0), (1, -60))]
    assert change(client, production, {"do": "set-keys", "motion": "m", "keys": keys}).status_code == 200
    with zipfile.ZipFile(io.BytesIO(fetched(client, production, {"motion": "m", "format": "png"}))) as file:
        rest, kicked = (decode(file.read(name), name).astype(int) for name in sorted(file.namelist()))
    # The leg kicks out to the figure's left, about its hip, and all else stays.
    moved = np.abs(rest - kicked).max(axis=2) > 24
    ys, xs = np.nonzero(moved)
    assert xs.max() > 480 and ys.min() > 360
    assert not moved[:, :280].any()


def pictures() -> list[dict[str, object]]:
    """Each part of the figure as a picture of the whole stage."""
    found = read_file(FIGURE.svg(), "figure.svg")
    return [
        {
            "name": f"{piece.name}.png",
            "mimeType": "image/png",
            "buffer": png(drawn_alone(Imported("one", (600, 700), [piece], dict(found.assets)), 700)[:, :600]),
        }
        for piece in found.pieces
    ]


def test_a_figure_of_pictures_is_rigged_as_proposed(shared: Service, page: Page) -> None:
    page.get_by_label("Art to bring in").set_input_files(pictures())
    page.get_by_role("dialog").get_by_role("button", name="Good").click(timeout=60_000)
    saved(page)
    bench(page, "Rig")
    page.get_by_role("button", name="Propose a rig").click()
    page.get_by_role("button", name="Take it all").click()
    saved(page)
    expect(page.get_by_role("button", name="Propose a rig")).to_have_count(0)
    puppet = document(page, shared.address, "puppet")
    names = {id: j["name"] for id, j in puppet["joints"].items()}
    hangs = {j["name"]: names[j["parent"]] for j in puppet["joints"].values() if j.get("parent")}
    # The trunk and the hips may carry one another.
    wanted = {name: on for name, on in FIGURE.hangs.items() if {name, on} != {"torso", "pelvis"}}
    assert {name: hangs.get(name) for name in wanted} == wanted
    assert len(hangs) == len(puppet["joints"]) - 1
    place = Stage(page)
    knee = puppet["joints"][next(id for id, name in names.items() if name == "left shin")]
    assert knee["limits"]["high"] - knee["limits"]["low"] > 150
    page.keyboard.press("Control+z")
    saved(page)
    assert not any(j.get("parent") for j in document(page, shared.address, "puppet")["joints"].values())
    assert place.pixels().any()
