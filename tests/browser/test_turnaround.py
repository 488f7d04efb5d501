"""A whole task: a head that turns from left to right, its parting on its own side."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
from playwright.sync_api import Page, expect

from tests.browser.figures import porter
from tests.browser.hands import Stage, bench, document, drawn, eventually, open_bench, saved
from tests.browser.test_tasks import go, joint, opened
from tests.conftest import Service, change

# A head seen from the front, and from the side looking right; a parting at its left side (the viewer's right), which
# from that side is a wide stroke, and from the other a bare crown.
ART = """<svg xmlns="http://www.w3.org/2000/svg" width="1280" height="720">
<g id="head front"><rect x="540" y="200" width="200" height="240" fill="#d8a080"/></g>
<g id="head side"><path d="M560 200H700L760 330L700 440H560Z" fill="#c08060"/></g>
<g id="collar front"><rect x="600" y="440" width="80" height="30" fill="#806040"/></g>
<g id="collar side"><rect x="620" y="440" width="50" height="30" fill="#806040"/></g>
<g id="parting"><rect x="680" y="180" width="20" height="60" fill="#2040c0"/></g>
<g id="broad stroke"><rect x="600" y="180" width="60" height="60" fill="#3060e0"/></g>
<g id="crown"><rect x="600" y="180" width="60" height="30" fill="#208040"/></g></svg>"""


def colours(page: Page, *places: tuple[float, float]) -> list[tuple[int, ...]]:
    """What is at these places of the stage."""
    stage = Stage(page)
    pixels, box = stage.pixels(), stage.element.bounding_box()
    assert box is not None
    found = []
    for place in places:
        x, y = stage.place(place)
        found.append(tuple(int(v) for v in pixels[round(y - box["y"]), round(x - box["x"])][:3]))
    return found


def near(found: tuple[int, ...], wanted: str) -> bool:
    return all(abs(found[k] - int(wanted[1 + 2 * k : 3 + 2 * k], 16)) < 8 for k in range(3))


def row(page: Page, name: str) -> None:
    page.get_by_role("row", name=name).first.click()


def test_a_head_turns_with_its_parting_on_its_own_side(fresh: tuple[Page, Service], tmp_path: Path) -> None:
    page, service = fresh
    (tmp_path / "head.svg").write_text(ART)
    page.get_by_label("Art to bring in").set_input_files(tmp_path / "head.svg")
    # What is named by views is offered as such.
    expect(page.get_by_text("Pieces are named by views: front, side.")).to_be_visible()
    page.get_by_role("button", name="Make views of them").click()
    saved(page)
    expect(page.get_by_role("row", name="crown")).to_be_visible()
    page.get_by_role("row", name="parting").first.click()
    for name in ("broad stroke", "crown"):
        page.get_by_role("row", name=name).first.click(modifiers=["Control"])
    page.get_by_role("button", name="One piece, many drawings").click()
    page.get_by_role("button", name="Gather", exact=True).click()
    saved(page)
    assert len(document(page, service.address, "puppet")["pieces"]) == 3
    open_bench(page, "Rig")
    views = page.get_by_role("listbox", name="Views")
    views.get_by_role("option", name="side").click()
    joint(page, "parting")
    page.get_by_label("Drawing of parting in this view").select_option("broad stroke")
    saved(page)
    eventually(lambda: near(colours(page, (745, 330))[0], "#c08060"), True)
    assert near(colours(page, (630, 200))[0], "#3060e0")

    # The second half in one step: the head looks left, and so far its parting has changed sides with it.
    page.get_by_role("button", name="Make the second half").click()
    saved(page)
    views.get_by_role("option", name="side flipped").click()
    eventually(
        lambda: any(near(c, "#c08060") for c in colours(page, (535, 330), (500, 330), (520, 330), (545, 330))), True
    )
    # What must not flip gets a drawing of its own there: seen from its right side the crown is bare.
    page.get_by_label("Drawing of parting in this view").select_option("crown")
    saved(page)
    dial = next(iter(document(page, service.address, "puppet")["dials"].values()))
    assert [(s["at"], s["of"], s["flips"]) for s in dial["stops"]] == [
        (0, None, False),
        (90, None, False),
        (270, 90, True),
    ]
    own = dial["stops"][2]["values"]
    assert len(own) == 1, "all but the parting goes along with the first half"
    # Later changes in the first half carry over.
    views.get_by_role("option", name="side", exact=True).first.click()
    page.get_by_label("In front by").fill("-1.5")
    page.get_by_label("In front by").press("Enter")
    saved(page)

    # Turned in a motion, from left over front to right.
    bench(page, "Motion")
    page.get_by_role("button", name="Start a motion").click()
    for frame, value in ((0, 270), (24, 450)):
        go(page, frame)
        page.get_by_label("turn, in degrees").fill(str(value))
        page.get_by_label("turn, in degrees").press("Enter")
        saved(page)
    channels = document(page, service.address, "motion")["channels"]
    held = next(c for c in channels.values() if c["kind"] == "dial")
    assert {int(f): k["value"][0] for f, k in held["keys"].items()} == {0: 270, 24: 450}
    # Looking left: a bare crown. From the front and from the right: the parting.
    for frame, wanted, missing in ((0, "#208040", "#3060e0"), (24, "#3060e0", "#208040")):
        go(page, frame)
        spots = [(x, 188.0) for x in range(520, 780, 10)]
        eventually(lambda s=spots, w=wanted: any(near(c, w) for c in colours(page, *s)), True)
        assert not any(near(c, missing) for c in colours(page, *spots))


def feet(page: Page) -> float:
    """How far the two feet are apart on the stage, by where most of what is painted in their colours is (pixels)."""
    pixels = Stage(page).pixels().astype(int)
    middles = []
    for wanted in ("#334455", "#223344"):
        colour = [int(wanted[k : k + 2], 16) for k in (1, 3, 5)]
        xs = np.nonzero(np.abs(pixels[..., :3] - colour).max(axis=2) < 5)[1]
        middles.append(float(np.median(xs)) if len(xs) else 0.0)
    return middles[0] - middles[1]


def test_a_walk_from_the_side_is_seen_from_three_quarters(shared: Service, new_page: Callable[..., Page]) -> None:
    """Planned where it is seen from the side, it plays where it is turned; posed it can be only where it is made."""
    production, client, ids = porter(shared)
    narrow = {f"{ids[f'{side} foot']}.scale": [0.7071, 1.0] for side in ("near", "far")}
    dial = {"id": "t", "name": "turn", "low": 0, "high": 360, "turns": True, "stops": [
        {"at": 0, "name": "front"}, {"at": 45, "name": "three-quarter", "values": narrow}, {"at": 90, "name": "side"},
    ]}  # fmt: skip
    assert change(client, production, {"do": "set-dial", "puppet": "a", "dial": dial}).is_success
    page = opened(new_page, shared, production)
    bench(page, "Motion")
    expect(page.get_by_label("Made for")).to_have_value("")
    page.get_by_role("button", name="Add a recipe").click()
    page.get_by_role("menuitem", name="Gait").click()
    saved(page)
    # It is planned in the view for it, and the motion is made for that.
    expect(page.get_by_label("Made for")).to_have_value("90")
    expect(page.get_by_label("turn, in degrees")).to_have_value("90")
    drawn(page)
    eventually(lambda: abs(feet(page)) > 50, True)
    wide = feet(page)
    go(page, 0)
    page.get_by_label("turn, in degrees").fill("45")
    page.get_by_label("turn, in degrees").press("Enter")
    saved(page)
    # Seen from half way to the front the step is the cosine of 45° as wide.
    eventually(lambda: abs(feet(page) / wide - 0.707) < 0.03, True)

    # Where it is only looked at, no hand can pull.
    Stage(page).drag((634, 300), (700, 320))
    expect(page.get_by_text("Turn it back to pose it, or make the motion for any view.")).to_be_visible()
    notices = page.locator(".notice").get_by_role("button", name="Close")
    while notices.count():
        notices.first.click()
    chest = f"{ids['chest']}.turn"
    before = document(page, shared.address, "motion")["channels"].get(chest)
    page.get_by_label("Made for").select_option("any view, as it looks")
    saved(page)
    eventually(lambda: abs(feet(page) / wide - 1) < 0.1, True)
    Stage(page).drag((634, 300), (700, 320))
    saved(page)
    assert document(page, shared.address, "motion")["channels"][chest] != before
