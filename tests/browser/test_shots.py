"""Whole tasks on the Shots bench: from puppets to a film of three shots, measured on the film that was fetched."""

from __future__ import annotations

import time
from collections.abc import Callable
from itertools import pairwise
from pathlib import Path
from typing import Any

import av
import numpy as np
from playwright.sync_api import Page, expect

from sorvan.core.model.voice import SOUND_RATE
from sorvan.picture.sound import samples_of
from tests.browser.hands import (
    Stage,
    bench,
    carry,
    document,
    drawn,
    eventually,
    got_ready,
    listen,
    played,
    saved,
    settle,
    snapshot,
)
from tests.conftest import Demo, Service, change
from tests.interchange.noises import lag
from tests.picture.test_sound import heard

MARK = (255, 0, 255)


def prepared(service: Demo, new_page: Callable[..., Page]) -> tuple[Page, Any]:
    """The demo without its film, and a mark on the conductor's near shoe that nothing else has."""
    client = service.client()
    shots = client.get(f"/productions/{service.production}").json()["documents"][0]["shots"]
    change(client, service.production, {"do": "remove-shots", "shots": shots})
    pieces = next(
        d for d in client.get(f"/productions/{service.production}").json()["documents"] if d["id"] == "conductor-side"
    )["pieces"]
    shoe = next(p["id"] for p in pieces.values() if p["name"] == "near shoe")
    mark = {"colour": {"tint": "#ff00ffff", "amount": 100}}
    change(client, service.production, {"do": "set-look", "puppet": "conductor-side", "pieces": [shoe], **mark})
    page = new_page()
    listen(page)
    page.goto(service.at("shots"))
    return page, client


def bring(page: Page, name: str) -> None:
    page.get_by_role("button", name="Bring in a puppet or a set").click()
    page.get_by_role("menuitem", name=name, exact=True).click()
    saved(page)


def do(page: Page, motion: str) -> None:
    page.get_by_role("button", name="Let it do a motion from the frame that shows").click()
    page.get_by_role("menuitem", name=motion).click()
    saved(page)


def nothing(page: Page) -> None:
    """Pick nothing: the details are the shot's."""
    page.locator(".stage").focus()
    page.keyboard.press("Escape")
    expect(page.locator("#s-name")).to_be_visible()


def number(page: Page, id: str, value: float) -> None:
    field = page.locator(f"#{id}")
    field.fill(str(value))
    field.press("Enter")
    saved(page)


def frame(page: Page, n: int) -> None:
    """Go to a frame, from 1."""
    page.get_by_label("Frame", exact=True).fill(str(n))
    page.get_by_label("Frame", exact=True).press("Enter")
    page.locator(".stage").focus()
    settle(page)


def shot(page: Page, service: Service, n: int) -> dict[str, Any]:
    """The n-th shot of the film, from 1."""
    id = document(page, service.address, "production")["shots"][n - 1]
    return document(page, service.address, "shot", id)


def member(held: dict[str, Any], puppet: str) -> dict[str, Any]:
    return next(c for c in held["cast"].values() if c["puppet"] == puppet)


def test_three_shots_from_blocking_to_a_film(demo: Demo, new_page: Callable[..., Page], tmp_path: Path) -> None:
    service = demo
    page, _ = prepared(service, new_page)

    # She walks in: brought in, pulled to the left of the stage, carried by her feet.
    page.get_by_role("button", name="Make the first shot").click()
    drawn(page)
    bring(page, "Gull")
    number(page, "c-share", 40)
    number(page, "c-y", 300)
    do(page, "Fly over the quay")
    bring(page, "Conductor from the side")
    stage = Stage(page)
    at = member(shot(page, service, 1), "conductor-side")["at"]
    stage.drag((at[0], at[1] - 250), (at[0] - 300, at[1] - 240), (at[0] - 520, at[1] - 225))
    saved(page)
    moved = member(shot(page, service, 1), "conductor-side")["at"]
    assert abs(moved[0] - (at[0] - 520)) < 3 and abs(moved[1] - (at[1] + 25)) < 3
    do(page, "Walk to the ferry")
    expect(page.get_by_text("walks on the spot")).to_have_count(0)
    nothing(page)
    expect(page.get_by_text("walks on the spot")).to_be_visible(timeout=15_000)
    page.get_by_text("walks on the spot").click()
    page.locator("#t-kind").select_option("straight")
    saved(page)
    nothing(page)
    expect(page.get_by_text("walks on the spot")).to_be_hidden(timeout=15_000)
    # The camera: keyed by numbers at the first frame, by pulling its frame on the whole stage at the last.
    page.locator("#s-length").fill("60")
    page.locator("#s-length").press("Enter")
    saved(page)
    page.get_by_role("button", name="Camera", exact=True).click()
    number(page, "a-x", -140)
    frame(page, 60)
    page.locator(".stage").focus()
    page.keyboard.press("t")
    settle(page)
    middle = page.locator("[data-handle='frame:move']").first.bounding_box()
    assert middle is not None
    x, y = middle["x"] + middle["width"] / 2, middle["y"] + middle["height"] / 2
    scale = float(page.locator(".stage").get_attribute("data-scale") or 0)
    page.mouse.move(x, y)
    page.mouse.down()
    page.keyboard.down("Shift")
    page.mouse.move(x + 220 * scale, y + 3, steps=6)
    page.keyboard.up("Shift")
    page.keyboard.down("Shift")
    page.mouse.move(x + 240 * scale, y + 3, steps=3)
    page.mouse.up()
    page.keyboard.up("Shift")
    saved(page)
    aims = shot(page, service, 1)["camera"]["channels"]["camera.move"]["keys"]
    assert aims["0"]["value"] == [-140, 0] and abs(aims["59"]["value"][0] - 100) < 2 and aims["59"]["value"][1] == 0
    page.keyboard.press("t")

    # A line in close-up: its mouth is the motion's, and it is heard in step.
    page.keyboard.press("n")
    expect(page.locator(".shot-card")).to_have_count(2)
    drawn(page)
    bring(page, "Conductor")
    do(page, "Call the last ferry")
    page.get_by_role("button", name="Camera", exact=True).click()
    number(page, "a-zoom", 200)
    number(page, "a-y", -170)

    # She runs off the stage.
    nothing(page)
    page.keyboard.press("n")
    expect(page.locator(".shot-card")).to_have_count(3)
    drawn(page)
    bring(page, "Conductor from the side")
    number(page, "c-x", 700)
    page.locator("#t-kind").select_option("straight")
    saved(page)
    do(page, "Run, it leaves at nine")
    nothing(page)
    page.locator("#s-length").fill("40")
    page.locator("#s-length").press("Enter")
    saved(page)

    # A new shot plays what it holds. Back to blocking and on to final: the same keys, held poses first, which card,
    # stage and the Render bench say, and everything in the end.
    cards = page.locator(".shot-card")
    for n in range(3):
        cards.nth(n).click()
        drawn(page)
        nothing(page)
        expect(cards.nth(n).get_by_text("final")).to_be_visible()
        expect(page.get_by_role("note")).to_have_count(0)
        page.locator("#s-pass").select_option("blocking")
        saved(page)
        expect(cards.nth(n).get_by_text("blocking, poses held")).to_be_visible()
        expect(page.get_by_role("note")).to_contain_text("poses are held, in the film too")
    page.get_by_role("note").get_by_role("button", name="Let it move").click()
    expect(page.get_by_role("note")).to_have_count(0)
    expect(cards.nth(2).get_by_text("final", exact=True)).to_be_visible()
    bench(page, "Render")
    expect(page.get_by_role("note")).to_contain_text("2 shots in the blocking pass")
    page.get_by_role("note").get_by_role("button", name="Let them move").click()
    expect(page.get_by_role("note")).to_have_count(0)
    bench(page, "Shots")
    for n in range(3):
        cards.nth(n).click()
        drawn(page)
        nothing(page)
        expect(cards.nth(n).get_by_text("final", exact=True)).to_be_visible()
        expect(page.get_by_text("No likely mistakes in this shot.")).to_be_visible(timeout=20_000)
    page.get_by_role("button", name="Blocking", exact=True).click()
    settle(page)
    page.get_by_role("button", name="Final", exact=True).click()
    settle(page)

    frames = 60 + 72 + 40
    spoken = document(
        page,
        service.address,
        "motion",
        next(iter(member(shot(page, service, 2), "conductor")["spans"].values()))["motion"],
    )
    _the_film_plays_over_its_cuts(page, frames, next(iter(spoken["sounds"].values()))["at"])
    bench(page, "Render")
    expect(page.locator("#r-what")).to_have_value("film")
    expect(page.get_by_text(f"{frames} frames at 24 a second")).to_be_visible(timeout=15_000)
    page.get_by_role("button", name="Render", exact=True).click()
    expect(page.locator("[data-state=done]")).to_be_visible(timeout=120_000)
    with page.expect_download() as download:
        page.get_by_role("link", name="Fetch").click()
    path = tmp_path / "film.mp4"
    download.value.save_as(path)

    with av.open(str(path)) as film:
        pictures = [f.reformat(format="rgb24", src_colorspace=1).to_ndarray() for f in film.decode(video=0)]
    assert len(pictures) == frames
    _the_shoe_stands_still(pictures[:60])
    _the_camera_frames_what_it_was_aimed_at(pictures)
    # The line begins with the motion, in the second shot.
    sound, seconds = heard(path)
    assert abs(seconds - frames / 24) < 0.05
    documents = snapshot(page, service.address)["documents"]
    placed = next(d for d in documents if d["id"] == "call")["sounds"]["call"]
    asset = next(d for d in documents if d["id"] == "line-call")["sound"]["asset"]
    line = samples_of(page.request.get(f"{service.address}/api/assets/{asset}").body())[:, 0]
    begins = round((60 / 24 + placed["at"]) * SOUND_RATE)
    part = line[: 2 * SOUND_RATE]
    assert abs(lag(sound[: begins + 2 * SOUND_RATE], part) - begins) <= 2


def _marked(picture: np.ndarray) -> np.ndarray:
    """Where the mark is: rows of x and y."""
    r, g, b = (picture[:, :, i].astype(int) for i in range(3))
    y, x = np.nonzero((r > 120) & (b > 120) & (g < 90) & (abs(r - b) < 60))
    return np.stack([x, y], axis=1)


def _the_film_plays_over_its_cuts(page: Page, frames: int, at: float) -> None:
    """From the third shot into the film, where that is; over the first cut with the line that begins `at`
    so many seconds after it; and from
    a shot of the film into the shot."""
    page.get_by_role("button", name="Whole film").click()
    expect(page.get_by_text(f"of {frames}", exact=True)).to_be_visible()
    expect(page.locator(".film-place")).to_have_text("3 · Shot 3")
    field = page.get_by_label("Frame", exact=True)
    assert 60 + 72 < int(field.input_value()) <= frames
    # What had the focus is gone with the shot's bench; the keys of the film work at once.
    page.keyboard.press("Home")
    expect(field).to_have_value("1")
    expect(page.get_by_text("No likely mistakes in shots, motions or rigs.")).to_be_visible(timeout=15_000)
    got_ready(page)
    frame(page, 55)
    drawn(page)
    expect(page.locator(".film-place")).to_have_text("1 · Shot 1")
    page.keyboard.press(" ")
    expect(page.locator(".film-place")).to_have_text("2 · Shot 2")
    eventually(lambda: int(field.input_value()) > 64, True)
    page.keyboard.press(" ")
    when, offset, _, speed, asked = played(page)[0]
    # Six frames before the cut, and so long into the shot; a little is given to get ready.
    assert offset == 0 and speed == 1 and 6 / 24 + at < when - asked < 6 / 24 + at + 0.2
    page.keyboard.press("PageDown")
    assert field.input_value() == str(60 + 72 + 1)
    page.keyboard.press("Enter")
    expect(page.get_by_text("of 40", exact=True)).to_be_visible()
    expect(page.locator("#s-name")).to_have_value("Shot 3")


def _the_shoe_stands_still(pictures: list[np.ndarray]) -> None:
    """While it is on the ground the marked shoe goes with the ground, which the camera's way tells."""
    places = []
    for picture in pictures:
        found = _marked(picture)
        places.append((found[:, 0].mean(), found[:, 1].mean()) if len(found) > 150 else None)
    seen = [p for p in places if p is not None]
    assert len(seen) > 40
    # Flat on the ground its middle is as far down as it comes; a shoe that rolls turns about its heel or toe.
    lowest = float(np.percentile([p[1] for p in seen], 95))
    aim = _aims(len(pictures))
    slides = [
        abs((b[0] + aim[n + 1]) - (a[0] + aim[n]))
        for n, (a, b) in enumerate(pairwise(places))
        if a is not None and b is not None and min(a[1], b[1]) >= lowest - 0.8
    ]
    assert len(slides) >= 8
    # A picture can't tell better than half a pixel; a foot that skated would go some ten. A shoe that swings through
    # is as far down for a moment.
    assert float(np.median(slides)) < 0.5 and float(np.percentile(slides, 75)) < 0.8


def _aims(frames: int) -> np.ndarray:
    """The camera's place across: slow out and slow in, half each, from -140 to 100 (a parabola at either end)."""
    u = np.arange(frames) / (frames - 1)
    eased = np.where(u < 0.5, 2 * u**2, 1 - 2 * (1 - u) ** 2)
    found: np.ndarray = -140 + 240 * eased
    return found


def _the_camera_frames_what_it_was_aimed_at(pictures: list[np.ndarray]) -> None:
    """The lamp of the backdrop stands where the camera's place says, in the first frame and in the last; in the
    close-up the head is twice as large."""

    def lamp(picture: np.ndarray) -> float:
        # The post: a narrow dark blue column between sky and sea; her coat is a wide one.
        band = picture[330:400].astype(int)
        dark = (band.sum(axis=2) < 330) & (band[:, :, 2] > band[:, :, 0] + 20)
        columns = np.flatnonzero(dark.mean(axis=0) > 0.9)
        runs = np.split(columns, np.flatnonzero(np.diff(columns) > 1) + 1)
        return float(next(r.mean() for r in reversed(runs) if 5 <= len(r) <= 14))

    # It stands 900 units across on the stage.
    assert abs(lamp(pictures[0]) - (900 + 140)) < 3
    # (Her sleeve covers a part of it in the last frame.)
    assert abs(lamp(pictures[59]) - (900 - 100)) < 9


def test_who_could_not_be_moved_is_seen_where_it_stands(demo: Demo, new_page: Callable[..., Page]) -> None:
    page, _ = prepared(demo, new_page)
    page.get_by_role("button", name="Make the first shot").click()
    drawn(page)
    bring(page, "Conductor from the side")
    at, stage = member(shot(page, demo, 1), "conductor-side")["at"], drawn(page)
    before = stage.pixels()
    refused = {"status": 422, "title": "No", "detail": "Not there.", "kind": "refused"}
    page.route("**/changes", lambda route: route.fulfill(status=422, json=refused))
    stage.drag((at[0], at[1] - 250), (at[0] - 300, at[1] - 240))
    expect(page.get_by_role("alert")).to_contain_text("Not there.")
    page.get_by_role("alert").get_by_role("button", name="Close").click()
    settle(page)
    # The hand has left the stage, and with it what it would take.
    page.mouse.move(5, 5)
    assert np.array_equal(stage.pixels(), before)


def test_a_span_is_moved_trimmed_blended_and_removed_by_hand_and_by_keys(
    demo: Demo, new_page: Callable[..., Page]
) -> None:
    service = demo
    page, _ = prepared(service, new_page)
    page.get_by_role("button", name="Make the first shot").click()
    drawn(page)
    bring(page, "Conductor from the side")
    do(page, "Walk to the ferry")

    def spans() -> list[dict[str, Any]]:
        found = member(shot(page, service, 1), "conductor-side")["spans"].values()
        return sorted(found, key=lambda s: int(s["start"]))

    bar = page.get_by_role("button", name="Walk to the ferry from frame")
    box = bar.bounding_box()
    assert box is not None
    step = box["width"] / 72
    # Its end is pulled in, and then it is moved as a whole.
    page.mouse.move(box["x"] + box["width"] - 3, box["y"] + 8)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] - 3 - 30 * step, box["y"] + 8, steps=5)
    page.mouse.up()
    saved(page)
    eventually(lambda: (spans()[0]["start"], spans()[0]["frames"]), (0, 42))
    bar.focus()
    page.keyboard.press("Alt+ArrowRight")
    saved(page)
    page.keyboard.press("Alt+Shift+ArrowLeft")
    saved(page)
    eventually(lambda: (spans()[0]["start"], spans()[0]["frames"]), (1, 41))
    # Another motion from a frame on comes in over some frames, its feet going on from those before.
    frame(page, 31)
    do(page, "Run, it leaves at nine")
    one, two = spans()
    assert (two["start"], two["blend"], two["play"]) == (30, 6, "loop") and two["first"] > 0
    assert one["frames"] == 41
    # Begun elsewhere by hand, its feet are matched again, and it says where it begins for that.
    page.get_by_label("Begins at").fill("5.5")
    page.get_by_label("Begins at").press("Enter")
    saved(page)
    assert spans()[1]["first"] == 4.5
    page.get_by_role("button", name="Match the feet").click()
    expect(page.get_by_text(f"begins at its frame {two['first'] + 1:.4g}")).to_be_visible()
    assert spans()[1]["first"] == two["first"]
    # Cut in two, one half removed; undo brings it back, in one step each.
    frame(page, 45)
    page.keyboard.press("/")
    saved(page)
    assert [s["start"] for s in spans()] == [1, 30, 44]
    page.keyboard.press("Delete")
    saved(page)
    assert [s["start"] for s in spans()] == [1, 44]
    page.keyboard.press("Control+z")
    saved(page)
    assert [s["start"] for s in spans()] == [1, 30, 44]
    # A copy of its own keeps what is changed in it to this shot.
    page.get_by_role("button", name="Run, it leaves at nine from frame 31").click()
    page.get_by_role("button", name="Own copy").click()
    saved(page)
    own = spans()[1]["motion"]
    assert own != "run" and document(page, service.address, "motion", own)["puppet"] == "conductor-side"


def begun_from(page: Page, n: int) -> list[tuple[float, float]]:
    """What is heard at once where it plays from a frame on: from which of its seconds each sound is, and for how many."""
    got_ready(page)
    frame(page, n)
    page.keyboard.press(" ")
    eventually(lambda: int(page.get_by_label("Frame", exact=True).input_value()) > n + 3, True)
    page.keyboard.press(" ")
    begun = played(page)
    first = min(s[0] for s in begun)
    return sorted((round(offset, 3), round(lasts, 3)) for when, offset, lasts, *_ in begun if when - first < 0.02)


def test_a_shot_cut_in_two_shows_and_sounds_as_it_did_and_is_let_out_again(
    demo: Demo, new_page: Callable[..., Page]
) -> None:
    service, page = demo, new_page()
    listen(page)
    # Somebody walks and calls under a camera that shakes, through where it will be cut.
    for command in (
        {"do": "set-shake", "shot": "along", "shake": {"size": 8.0, "start": 50, "frames": 40, "fade": 6}},
        {"do": "place-heard", "shot": "along", "sound": {"id": "said", "voice": "line-call", "at": 1.75}},
    ):
        assert change(service.client(), service.production, command).status_code == 200
    page.goto(service.at("shots"))
    drawn(page)
    page.locator(".shot-card").nth(1).click()
    drawn(page)
    whole, looks = shot(page, service, 2), {}
    for n in (64, 66, 90):
        frame(page, n)
        looks[n] = Stage(page).pixels()
    heard_then = begun_from(page, 66)
    # The call is heard from where it has come to, and so are steps and water.
    assert len(heard_then) >= 3 and any(abs(offset - (65 / 24 - 1.75)) < 0.01 for offset, _ in heard_then)
    frame(page, 66)
    page.get_by_role("button", name="Change the shots").click()
    page.get_by_role("menuitem", name="Cut this shot in two at the frame that shows").click()
    saved(page)
    drawn(page)
    # The second half is open where it begins, and shows what the whole did.
    expect(page.get_by_label("Plays from")).to_have_value("66")
    assert page.get_by_label("Frame", exact=True).input_value() == "66"
    for n in (66, 90):
        frame(page, n)
        assert np.array_equal(Stage(page).pixels(), looks[n])
    assert begun_from(page, 66) == heard_then
    one, two = (shot(page, service, n) for n in (2, 3))
    assert (one["stop"], two["first"]) == (65, 65) and one["cast"] == two["cast"] == whole["cast"]
    # It is let out over the cut by its field, and the first half by its own; each shows there what the whole did.
    page.get_by_label("Plays from").fill("61")
    page.keyboard.press("Enter")
    saved(page)
    frame(page, 64)
    assert shot(page, service, 3)["first"] == 60 and np.array_equal(Stage(page).pixels(), looks[64])
    page.locator(".shot-card").nth(1).click()
    drawn(page)
    page.get_by_label("Up to").fill(str(whole["length"]))
    page.keyboard.press("Enter")
    saved(page)
    frame(page, 90)
    assert np.array_equal(Stage(page).pixels(), looks[90])
    expect(page.get_by_label("Plays from")).to_have_count(0)


def test_cards_order_depth_and_time_are_worked_by_hand(demo: Demo, new_page: Callable[..., Page]) -> None:
    service = demo
    page = new_page()
    page.goto(service.at("shots"))
    drawn(page)
    names = page.locator(".shot-card .shot-name span:last-child")
    expect(names.first).to_have_text("Dusk at the quay")
    before = document(page, service.address, "production")["shots"]
    # A card is dragged before another one.
    cards = page.locator(".shot-card")
    seen = "e => { const i = e.querySelector('img'); return i.complete && i.naturalWidth > 0; }"
    eventually(lambda: [cards.nth(n).evaluate(seen) for n in range(2)], [True, True])
    carry(cards.nth(1), cards.nth(0))
    saved(page)
    eventually(lambda: document(page, service.address, "production")["shots"][:2], [before[1], before[0]])
    page.keyboard.press("Control+z")
    saved(page)
    page.locator(".shot-card").nth(0).click()
    drawn(page)
    # Alt and an arrow put one of the cast nearer to the front.
    row = page.locator(".row-head .name", has_text="Planks and lamps")
    order = shot(page, service, 1)["order"]
    row.focus()
    page.keyboard.press("Alt+ArrowUp")
    saved(page)
    at = order.index("boards")
    wanted = [*order[:at], order[at + 1], "boards", *order[at + 2 :]]
    eventually(lambda: shot(page, service, 1)["order"], wanted)
    page.keyboard.press("Control+z")
    saved(page)
    eventually(lambda: shot(page, service, 1)["order"], order)
    # Hidden and shown: the pixels of the ropes in front go and come back. The page begins anew, so that what was taken
    # back is surely what is looked at.
    page.reload()
    drawn(page)
    page.locator(".shot-card").nth(0).click()
    drawn(page)
    looked = Stage(page).pixels()
    page.get_by_role("button", name="Hide Planks and lamps").click()
    saved(page)
    eventually(lambda: float(np.abs(Stage(page).pixels().astype(int) - looked).mean()) > 1, True)
    page.get_by_role("button", name="Show Planks and lamps").click()
    saved(page)
    eventually(lambda: float(np.abs(Stage(page).pixels().astype(int) - looked).mean()) < 0.2, True)
    # Time put in goes across everything; the film is longer by it.
    length = shot(page, service, 1)["length"]
    frame(page, 50)
    page.get_by_role("button", name="Time of the shot").click()
    page.get_by_role("menuitem", name="Put frames in at frame 50…").click()
    page.get_by_role("dialog").get_by_label("Frames").fill("24")
    page.get_by_role("dialog").get_by_role("button", name="Put in").click()
    saved(page)
    held = shot(page, service, 1)
    assert held["length"] == length + 24
    assert "116" in held["camera"]["channels"]["camera.move"]["keys"], "the camera arrives a second later"
    # It plays, and the picture goes on.
    page.locator(".stage").focus()
    page.keyboard.press("Home")
    page.keyboard.press(" ")
    eventually(lambda: int(page.get_by_label("Frame", exact=True).input_value()) > 12, True)
    page.keyboard.press(" ")


def test_somebody_is_posed_in_one_shot_by_hand_and_by_numbers(demo: Demo, new_page: Callable[..., Page]) -> None:
    service = demo
    page = new_page()
    page.goto(service.at("shots"))
    drawn(page)
    page.locator(".shot-card").nth(2).click()
    drawn(page)

    def over() -> dict[str, dict[str, Any]]:
        return {id: c["keys"] for id, c in member(shot(page, service, 3), "conductor")["over"].items()}

    assert over() == {}
    (span,) = member(shot(page, service, 3), "conductor")["spans"].values()
    motion = document(page, service.address, "motion", span["motion"])
    page.locator(".row-head .name", has_text="Conductor").click()
    frame(page, 40)
    page.keyboard.press("p")
    expect(page.locator("[data-handle='joint:c-left-hand']")).to_be_visible()
    settle(page)
    hand = page.locator("[data-handle='joint:c-left-hand']").bounding_box()
    elbow = page.locator("[data-handle='joint:c-left-forearm']").bounding_box()
    assert hand is not None and elbow is not None
    plain = Stage(page).pixels()
    # The forearm is pulled up by its piece, half way along it: the hand comes to where it points.
    x, y = (hand["x"] + elbow["x"]) / 2 + 10, (hand["y"] + elbow["y"]) / 2 + 10
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 60, y - 60, steps=6)
    settle(page)
    page.mouse.up()
    saved(page)
    keys = over()["c-left-forearm.turn"]
    assert sorted(map(int, keys)) == [33, 39, 45] and abs(keys["39"]["value"][0]) > 20
    assert keys["33"]["value"] == keys["45"]["value"] == [0]
    settle(page)
    now = page.locator("[data-handle='joint:c-left-hand']").bounding_box()
    assert now is not None and now["y"] < hand["y"] - 30
    # It shows on that frame, and five frames farther away everything is as before.
    posed = Stage(page).pixels()
    assert float(np.abs(posed.astype(int) - plain).mean()) > 0.5
    frame(page, 46)
    after = Stage(page).pixels()
    page.locator(".stage").focus()
    page.keyboard.press("Control+z")
    saved(page)
    settle(page)
    eventually(lambda: float(np.abs(Stage(page).pixels().astype(int) - after).mean()) < 0.05, True)
    assert over() == {}

    # The same by numbers, without the hand: so much more, from the first frame on.
    page.locator("#o-joint").select_option(label="head")
    number(page, "o-over", 0)
    number(page, "o-turn", 12)
    keys = over()["c-head.turn"]
    assert {f: k["value"] for f, k in keys.items()} == {"45": [12]}
    # Its bead lies on a thread of its own; it is moved by keys, and removed.
    page.get_by_role("button", name="Threads of the keys of Conductor").click()
    expect(page.get_by_text("head turn")).to_be_visible()
    bead = page.get_by_role("button", name="Pose key at frame 46")
    bead.focus()
    page.keyboard.press("Alt+ArrowRight")
    saved(page)
    assert list(over()["c-head.turn"]) == ["46"]
    page.keyboard.press("Delete")
    saved(page)
    assert over() == {}
    # The motion itself has never changed; Escape lets the hand move the cast again.
    page.locator(".stage").focus()
    page.keyboard.press("Escape")
    expect(page.locator("[data-handle='joint:c-left-hand']")).to_have_count(0)
    assert document(page, service.address, "motion", span["motion"]) == motion


def test_a_film_is_cancelled_in_the_middle_and_goes_on(
    demo: Demo, new_page: Callable[..., Page], tmp_path: Path
) -> None:
    service = demo
    page = new_page()
    page.goto(service.at("render"))
    expect(page.locator("#r-what")).to_have_value("film")

    def preset(name: str) -> None:
        page.get_by_role("button", name="Presets").click()
        page.locator("[role=menu].show").get_by_text(name, exact=True).click()

    # Settings by name: those that come with the program, and one that is kept.
    preset("Small loop for a page")
    expect(page.locator("#r-format")).to_have_value("gif")
    expect(page.locator("#r-rate")).to_have_value("12/1")
    preset("Quick draft, half as large")
    expect(page.locator("#r-width")).to_have_value("640")
    page.locator("#r-width").fill("320")
    page.locator("#r-width").press("Enter")
    preset("Keep these settings as a preset…")
    page.get_by_label("Name of the preset").fill("Tiny")
    page.get_by_label("Name of the preset").press("Enter")
    page.reload()
    expect(page.locator("#r-what")).to_have_value("film")
    expect(page.locator("#r-width")).to_have_value("1280")
    preset("Tiny")
    expect(page.locator("#r-width")).to_have_value("320")
    page.get_by_role("button", name="Render", exact=True).click()
    row = page.locator("[data-render]")

    def listed() -> dict[str, Any]:
        return dict(service.client().get(f"/productions/{service.production}/renders").json()[0])

    expect(row).to_be_visible()
    eventually(lambda: listed()["done"] > 100, True)
    row.get_by_role("button", name="Cancel").click()
    expect(page.locator("[data-state=cancelled]")).to_be_visible()
    expect(row.get_by_text("Cancelled")).to_be_visible()
    settle(page)
    kept = listed()
    assert 0 < kept["done"] < kept["total"] and not kept["ready"]
    row.get_by_role("button", name="Go on").click()
    # It goes on from the parts that are kept, and never begins anew.
    seen: list[int] = []
    while listed()["state"] != "done":
        seen.append(listed()["done"])
        time.sleep(0.1)
        assert len(seen) < 1200
    assert min(seen, default=kept["done"]) >= kept["done"] // 2 > 0
    with page.expect_download() as download:
        row.get_by_role("link", name="Fetch").click()
    path = tmp_path / "film.mp4"
    download.value.save_as(path)
    with av.open(str(path)) as film:
        assert sum(1 for _ in film.decode(film.streams.video[0])) == kept["total"]
    _, seconds = heard(path)
    assert abs(seconds - kept["total"] / 24) < 0.05
