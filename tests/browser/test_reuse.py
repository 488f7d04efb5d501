"""A rig saved and put on other art, a puppet taken along, and motions done by another: by hand, and walked."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

import httpx
import numpy as np
import pytest
from playwright.sync_api import Page, expect

from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import Puppet
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.plan.ground_contact import tracks
from sorvan.core.plan.travel import ground_of
from sorvan.core.rig.anatomy import anatomy
from tests.browser.figures import porter
from tests.browser.hands import Stage, bench, document, drawn, eventually, saved, settle, snapshot
from tests.conftest import Service, change
from tests.interchange.art import svg
from tests.service.test_http import bring, documents

# A signalman with longer legs and a short trunk, drawn elsewhere on the page, in German words; he wears a cap.
PARTS = {
    "Oberarm links": (300, 196, 318, 262, "#446"), "Unterarm links": (301, 254, 317, 316, "#446"),
    "Oberschenkel links": (290, 322, 320, 470, "#345"), "Unterschenkel links": (293, 458, 317, 604, "#345"),
    "Fuß links": (286, 596, 352, 622, "#123"), "Becken": (278, 300, 336, 346, "#733"),
    "Oberkörper": (274, 186, 340, 314, "#a54"), "Kopf": (276, 108, 342, 194, "#da8"),
    "Oberschenkel rechts": (292, 322, 322, 470, "#567"), "Unterschenkel rechts": (295, 458, 319, 604, "#567"),
    "Fuß rechts": (288, 596, 354, 622, "#234"), "Oberarm rechts": (302, 196, 320, 262, "#9ac"),
    "Unterarm rechts": (303, 254, 319, 316, "#9ac"), "Mütze": (270, 94, 350, 122, "#c33"),
}  # fmt: skip
SIGNALMAN = svg(
    "".join(
        f'<g id="{name}"><rect x="{l}" y="{t}" width="{r - l}" height="{b - t}" rx="8" fill="{fill}"/></g>'
        for name, (l, t, r, b, fill) in PARTS.items()
    ),
    attributes='width="640" height="720" viewBox="0 0 640 720"',
)


@pytest.fixture
def walking(shared: Service) -> Iterator[tuple[httpx.Client, str]]:
    """A production with a porter that walks; the shelf is empty before and after."""
    production, client, _ = porter(shared)
    gait = {"kind": "gait", "id": "g", "name": "Walk"}
    assert change(client, production, {"do": "do-recipe", "motion": "m", "recipe": gait}).status_code == 200
    yield client, production
    for rig in client.get("/rigs").json():
        client.delete(f"/rigs/{rig['id']}")


@pytest.fixture
def other(walking: tuple[httpx.Client, str]) -> str:
    """Another production, with the signalman in loose pieces."""
    client, _ = walking
    production = client.post("/productions", json={"name": "Signal box"}).json()["id"]
    change(client, production, {"do": "add-puppet", "id": "s", "name": "Signalman"})
    assert bring(client, production, "s", SIGNALMAN, "signalman.svg").status_code == 200
    return str(production)


def steps(page: Page, service: Service, puppet: str, motion: str) -> tuple[Any, Any]:
    """In which frames each foot of what the page has stands, and how far it slides there."""
    held = Puppet.model_validate(document(page, service.address, "puppet", puppet))
    moved = Motion.model_validate(document(page, service.address, "motion", motion))
    ground, evaluation = ground_of(moved, held), Evaluation.full(held, moved)
    feet = tracks(evaluation, anatomy(held).legs)
    slides = [np.abs(t.slide(ground, moved.ground.runs, True)).max() for t in feet]
    return [int(t.stands(ground).sum()) for t in feet], slides


def test_a_saved_rig_is_put_on_other_art_and_walks(
    shared: Service, new_page: Callable[..., Page], walking: tuple[httpx.Client, str], other: str
) -> None:
    client, production = walking
    page = new_page()
    page.goto(f"{shared.address}/p/{production}/rig")
    page.get_by_role("button", name="Put this rig on the shelf").click()
    asked = page.get_by_role("dialog")
    asked.get_by_label("What it is called there").fill("Quay hand")
    asked.get_by_role("button", name="Put it there").click()
    expect(page.get_by_text("It is on the shelf")).to_be_visible()

    page.goto(f"{shared.address}/p/{other}/rig")
    page.get_by_role("button", name="Use a rig").click()
    sheet = page.get_by_role("dialog", name="A rig for “Signalman”")
    sheet.get_by_role("button", name="Quay hand 13 joints").click()
    expect(sheet.get_by_text("13 of 13 joints fit “Signalman”")).to_be_visible()
    expect(sheet.get_by_text("The rig has nothing for Mütze: hung where it seems to belong.")).to_be_visible()
    expect(sheet.get_by_role("img", name="Signalman doing walk")).to_be_visible()
    # One is told otherwise by hand, and told back.
    pick = sheet.get_by_role("combobox", name="What takes head")
    pick.select_option("nothing")
    expect(sheet.get_by_text("12 of 13 joints fit")).to_be_visible()
    expect(sheet.get_by_text("Nothing here for head.")).to_be_visible()
    pick.select_option("Kopf")
    expect(sheet.get_by_text("13 of 13 joints fit")).to_be_visible()
    before = documents(client, other)
    sheet.get_by_role("button", name="Put it on “Signalman”").click()
    expect(sheet).to_have_count(0)
    saved(page)
    puppet = document(page, shared.address, "puppet")
    names = {id: j["name"] for id, j in puppet["joints"].items()}
    hangs = {j["name"]: names.get(j.get("parent")) for j in puppet["joints"].values()}
    assert hangs["Unterschenkel rechts"] == "Oberschenkel rechts"
    assert hangs["Kopf"] == "Oberkörper" and hangs["Oberkörper"] == "Becken"
    assert hangs["Mütze"] == "Kopf"
    expect(page.get_by_text("No likely mistakes in the rig.")).to_be_visible()

    bench(page, "Motion")
    drawn(page)
    motion = document(page, shared.address, "motion")
    stands, slides = steps(page, shared, "s", motion["id"])
    assert min(stands) >= 12 and max(slides) < 0.6, "longer legs, and the feet still stand"
    # Looked at frame by frame: the soles are on the ground line, whatever the legs do.
    stage, lows = Stage(page), []
    for frame in range(1, 25, 4):
        box = page.get_by_label("Frame", exact=True)
        box.fill(str(frame))
        box.press("Enter")
        settle(page)
        lows.append(lowest(stage))
    assert max(lows) - min(lows) <= 3 and len(lows) == 6
    page.get_by_role("button", name="Undo: Put the rig of “Porter” on “Signalman”").click()
    eventually(lambda: documents(client, other) == before, True)


def lowest(stage: Stage) -> int:
    """The lowest row of pixels in which a shoe is seen."""
    pixels = stage.pixels().astype(int)
    dark = (pixels[:, :, :3].sum(axis=2) < 175) & (pixels[:, :, 2] >= pixels[:, :, 0])
    rows = np.flatnonzero(dark.sum(axis=1) > 12)
    return int(rows.max())


def test_a_puppet_is_taken_along_and_another_does_its_motions_by_keyboard(
    shared: Service, new_page: Callable[..., Page], walking: tuple[httpx.Client, str], other: str
) -> None:
    client, production = walking
    hangs = client.get(f"/productions/{other}/puppets/s/proposed-rig").json()["hangs"]
    change(client, other, {"do": "take-rig", "puppet": "s", "hung": [h["hung"] for h in hangs]})
    name = f"Porters {production[:6]}"
    change(client, production, {"do": "set-production", "name": name})
    page = new_page()
    page.goto(f"{shared.address}/p/{other}/motion")
    drawn(page)
    # The puppet, from the other production.
    page.get_by_role("button", name="Signalman", exact=True).press("Enter")
    page.get_by_role("menuitem", name="A puppet from elsewhere").press("Enter")
    sheet = page.get_by_role("dialog", name="A puppet from elsewhere")
    sheet.get_by_role("button", name=name, exact=True).press("Enter")
    sheet.get_by_role("button", name="Porter 13 joints").press("Enter")
    expect(sheet.get_by_role("img", name="Porter at rest")).to_be_visible()
    sheet.get_by_label("Name here").fill("Porter, on loan")
    sheet.get_by_role("button", name="Bring it in").press("Enter")
    expect(sheet).to_have_count(0)
    saved(page)
    expect(page.get_by_role("button", name="Porter, on loan", exact=True)).to_be_visible()
    docs = {d["id"]: d for d in snapshot(page, shared.address)["documents"]}
    porters = [d for d in docs.values() if d["kind"] == "puppet" and d["name"] == "Porter, on loan"]
    walks = [d for d in docs.values() if d["kind"] == "motion"]
    assert len(porters) == 1 and [w["puppet"] for w in walks] == [porters[0]["id"]]
    own = documents(client, production)
    assert {**porters[0], "id": "a", "name": "Porter"} == own["a"]
    assert {**walks[0], "id": "m", "puppet": "a"} == own["m"]

    # His walk, by the signalman.
    page.get_by_role("button", name="Porter, on loan", exact=True).press("Enter")
    page.get_by_role("menuitemradio", name="Signalman").press("Enter")
    page.get_by_role("button", name="No motion").press("Enter")
    page.get_by_role("menuitem", name="Motions of another puppet").press("Enter")
    sheet = page.get_by_role("dialog", name="Motions for “Signalman”")
    sheet.get_by_role("button", name="Porter, on loan 13 joints").press("Enter")
    expect(sheet.get_by_role("img", name="Signalman doing walk")).to_be_visible()
    sheet.get_by_role("button", name="Let it do 1 motion").press("Enter")
    expect(sheet).to_have_count(0)
    saved(page)
    motion = next(
        d for d in snapshot(page, shared.address)["documents"] if d["kind"] == "motion" and d["puppet"] == "s"
    )
    stands, slides = steps(page, shared, "s", motion["id"])
    assert min(stands) >= 12 and max(slides) < 0.6
    expect(page.get_by_label("Length")).to_have_value("24")
