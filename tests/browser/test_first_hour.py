"""The tasks of the first hour as a newcomer does them, from an empty list of productions on, with every act counted."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
import skia
from playwright.sync_api import Page, expect

from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import Puppet
from sorvan.core.model.voice import SOUND_RATE
from sorvan.core.plan.evaluate import Evaluation
from sorvan.interchange.files import read_file
from sorvan.interchange.imported import Imported
from sorvan.interchange.sounds import resampled
from sorvan.speech.espeak import say
from tests.browser.acts import counted, counting
from tests.browser.hands import Sheet, Stage, bench, document, drawn, eventually, saved, settle
from tests.conftest import Service
from tests.interchange.art import drawn as drawn_alone
from tests.interchange.art import png
from tests.interchange.heads import MOUTHS, pictures
from tests.interchange.noises import sound
from tests.loose_figures import biped, told

Page_ = Callable[..., Page]


def begun(service: Service, new_page: Page_, name: str) -> Page:
    """A new production, by hand."""
    page = new_page()
    counting(page)
    page.goto(service.address)
    page.get_by_role("button", name="New production").click()
    page.get_by_label("Name").fill(name)
    page.get_by_role("dialog").get_by_role("button", name="New production").click()
    expect(page.get_by_text("Bring in your art")).to_be_visible()
    settle(page)
    return page


def typed(page: Page, label: str, value: str) -> None:
    field = page.get_by_label(label, exact=True).first
    field.fill(value)
    field.press("Enter")
    saved(page)


def stored(page: Page, service: Service) -> Evaluation:
    """The motion as it is stored, evaluated."""
    puppet = Puppet.model_validate(document(page, service.address, "puppet"))
    return Evaluation.full(puppet, Motion.model_validate(document(page, service.address, "motion")))


BALL = (
    '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 1280 720" width="1280" height="720">'
    '<g id="ball"><circle cx="400" cy="600" r="50" fill="#d03020"/></g></svg>'
)


def bring_one(page: Page, name: str) -> None:
    """A disc of this name, brought in."""
    art = {"name": f"{name}.svg", "mimeType": "image/svg+xml", "buffer": BALL.replace("ball", name).encode()}
    page.get_by_label("Art to bring in").set_input_files(art)
    expect(page.get_by_role("row", name=name)).to_be_visible()
    saved(page)


def test_a_ball_with_ease_squash_and_loop(shared: Service, new_page: Page_) -> None:
    page = begun(shared, new_page, "Ball")
    bring_one(page, "ball")
    bench(page, "Motion")
    page.get_by_role("button", name="Start a motion").click()
    saved(page)
    page.locator("#cycle").click()
    saved(page)
    typed(page, "Length", "24")
    # On the ground at the start, which the first key later on keeps; up in the middle.
    typed(page, "Frame", "13")
    page.keyboard.press("m")
    drawn(page)
    Stage(page).drag((400, 600), (400, 300))
    saved(page)
    for frame, slow in ((0, "in"), (12, "out")):
        Sheet(page).click("ball", "place", frame)
        page.get_by_label("Slow", exact=True).select_option(slow)
        saved(page)
    page.get_by_role("button", name="Add a recipe").click()
    page.get_by_role("menuitem").filter(has_text="Squash and stretch").click()
    saved(page)
    page.keyboard.press(" ")
    made = stored(page, shared)
    height, world = made.worlds[1][5], made.worlds[1]
    frames = np.arange(24)
    up = np.where(frames <= 12, 1 - (1 - frames / 12) ** 2, 1 - (frames / 12 - 1) ** 2)
    assert np.abs((height[0] - height) - 300 * up).max() < 2.5
    assert world[3].min() < 0.9 and world[3].max() > 1.03
    counted(page, "a ball with ease, squash and loop", 20)


def test_a_recorded_flight_is_closed_to_a_loop(shared: Service, new_page: Page_) -> None:
    page = begun(shared, new_page, "Flight")
    bring_one(page, "gull")
    bench(page, "Motion")
    page.get_by_role("button", name="Start a motion").click()
    saved(page)
    drawn(page)
    stage = Stage(page)
    stage.click((400, 600))
    page.keyboard.press("r")
    page.get_by_label("count in").click()
    # The page's time moves with the hand, a display frame at a time, however long one takes here.
    page.clock.install()
    page.clock.pause_at(page.evaluate("Date.now() + 1000"))
    page.mouse.move(*stage.place((400, 600)))
    page.mouse.down()
    for i in range(90):
        u = i / 89
        page.mouse.move(*stage.place((400 + 500 * u, 600 - 300 * math.sin(math.pi * u) + 60 * u)))
        page.clock.run_for(16)
    page.mouse.up()
    page.clock.resume()
    saved(page)
    eventually(lambda: len(document(page, shared.address, "motion")["recipes"]), 1)
    recorded = stored(page, shared).worlds[1][4:]
    page.get_by_role("button", name="Make a loop of it").click()
    saved(page)
    page.keyboard.press(" ")
    motion, looped = document(page, shared.address, "motion"), stored(page, shared).worlds[1][4:]
    (recipe,) = motion["recipes"].values()
    assert recipe["name"] == "Capture of gull" and motion["cycle"]
    assert motion["length"] == int(recipe["samples"][-1][0] - recipe["samples"][0][0]) + 1
    # The hand went far; the loop comes back, and no step of it is longer than those it is led back by.
    assert np.hypot(*(recorded[:, -1] - recorded[:, 0])) > 300
    steps = np.hypot(*np.diff(np.concatenate([looped, looped[:, :1]], axis=1), axis=1))
    assert steps[-1] < 30 and steps.max() < 110
    counted(page, "a recorded flight closed to a loop", 12)


TEXT = "Mind the bag, porter. Five boxes came off the pier."


def test_a_talking_head_from_eleven_mouths_named_by_letters(shared: Service, new_page: Page_) -> None:
    said = say(TEXT, "en-us", 145)
    samples = resampled(said.samples[:, None], said.rate, SOUND_RATE)
    page = begun(shared, new_page, "Head")
    page.get_by_label("Art to bring in").set_input_files(pictures())
    page.get_by_role("dialog").get_by_role("button", name="Good").click()
    expect(page.get_by_role("row", name="head")).to_be_visible()
    saved(page)
    # The mouths become drawings of one piece, and that hangs on the head.
    rows = page.get_by_role("row")
    rows.filter(has_text="11 surprised").first.click()
    rows.filter(has_text="1 A I").first.click(modifiers=["Shift"])
    page.get_by_role("button", name="One piece, many drawings").click()
    page.get_by_role("button", name="Gather", exact=True).click()
    saved(page)
    bench(page, "Rig")
    drawn(page).drag((640, 430), (580, 250))
    saved(page)
    bench(page, "Voice")
    page.get_by_role("button", name="Start a motion").click()
    saved(page)
    page.get_by_role("button", name="Make the chart").click()
    expect(page.locator(".mouth-card")).to_have_count(11)
    page.get_by_label("Sound files").set_input_files(
        {"name": "warn.wav", "mimeType": "audio/wav", "buffer": sound(samples)}
    )
    saved(page)
    page.get_by_role("dialog").get_by_role("button", name="frames long").click()
    saved(page)
    page.get_by_label("Text of the line").fill(TEXT)
    page.get_by_role("button", name="Find the sounds").click()
    # Nobody waits for the sounds: the mouths follow by themselves.
    page.get_by_role("button", name="Make mouths").click()
    expect(page.locator(".tier.words .span:not(.pause)")).to_have_count(len(TEXT.split()))
    eventually(lambda: len(document(page, shared.address, "motion")["recipes"]), 1)
    saved(page)
    page.locator(".stage").focus()
    page.keyboard.press(" ")
    motion, puppet = document(page, shared.address, "motion"), document(page, shared.address, "puppet")
    joints = {j["name"]: j for j in puppet["joints"].values()}
    chart = puppet["mouths"]
    assert joints["11 surprised"]["parent"] == joints["head"]["id"]
    # As many frames as the line needs, and every sound of lips and teeth on its own mouth.
    assert motion["length"] >= len(samples) / SOUND_RATE * 24 - 1
    (held,) = (c for id, c in motion["channels"].items() if id == f"{chart['piece']}.show")
    number = {d["name"]: d["number"] for d in puppet["pieces"][chart["piece"]]["drawings"]}
    assert [number[name] for name in MOUTHS] == list(range(1, 12))
    keys = {int(f): k["value"][0] for f, k in held["keys"].items()}
    for sound_ in (s for s in said.sounds if s.label in ("m", "b", "p", "f", "v")):
        wanted = number["9 M B P" if sound_.label in "mbp" else "10 F V"]
        around = range(int(sound_.start * 24) - 3, int(sound_.start * 24) + 4)
        assert wanted in {keys[max(k for k in keys if k <= max(f, 0))] for f in around}, sound_
    assert number["11 surprised"] not in keys.values() and len(set(keys.values())) >= 6
    counted(page, "a talking head from art and sound", 20)


PORTER = biped(told({}, {"left": "far", "right": "near"}), 0.1, 1)


def loose() -> tuple[list[dict[str, object]], dict[str, tuple[float, float]]]:
    """The porter's parts as pictures cut to what is in them, which tell nothing of where they belong; and where that is."""
    found = read_file(PORTER.svg(), "porter.svg")
    files, middles = [], {}
    for piece in found.pieces:
        whole = drawn_alone(Imported("one", (600, 700), [piece], dict(found.assets)), 700)[:, :600]
        rows, columns = (np.flatnonzero(whole[:, :, 3].any(axis=n)) for n in (1, 0))
        top, bottom, left, right = rows[0], rows[-1] + 1, columns[0], columns[-1] + 1
        files.append(
            {
                "name": f"{piece.name}.png",
                "mimeType": "image/png",
                "buffer": png(np.ascontiguousarray(whole[top:bottom, left:right])),
            }
        )
        middles[piece.name] = ((left + right) / 2, (top + bottom) / 2)
    return files, middles


def test_the_first_walk_of_a_newcomer_from_pictures_without_offsets(shared: Service, new_page: Page_) -> None:
    page = begun(shared, new_page, "Porter")
    files, middles = loose()
    page.get_by_label("Art to bring in").set_input_files(files)
    expect(page.get_by_role("row", name="head")).to_be_visible()
    saved(page)
    stage = drawn(page)
    # Laid out beside one another, each is taken by its middle and put where it belongs, the trunk first.
    puppet = document(page, shared.address, "puppet")
    at = {j["name"]: (j["rest"]["x"], j["rest"]["y"]) for j in puppet["joints"].values()}
    for name in ("torso", *(n for n in at if n != "torso")):
        x, y = middles[name]
        stage.drag(at[name], (x + 340, y + 10))
        saved(page)
    bench(page, "Rig")
    page.get_by_role("button", name="Propose a rig").click()
    page.get_by_role("button", name="Take it all").click()
    saved(page)
    bench(page, "Motion")
    page.get_by_role("button", name="Start a motion").click()
    saved(page)
    page.get_by_role("button", name="Add a recipe").click()
    page.get_by_role("menuitem").filter(has_text="Gait").click()
    saved(page)
    page.locator(".stage").focus()
    page.keyboard.press(" ")
    puppet, made = document(page, shared.address, "puppet"), stored(page, shared)
    names = {id: j["name"] for id, j in puppet["joints"].items()}
    hangs = {j["name"]: names.get(j["parent"] or "") for j in puppet["joints"].values()}
    wrong = {name for name, on in PORTER.hangs.items() if hangs[name] != on and {name, on} != {"torso", "pelvis"}}
    assert wrong == set()
    # It walks: each foot swings there and back, by turns, and the last frame leads to the first.
    row = {name: made.rig.row[id] for id, name in names.items()}
    near, far = (made.worlds[row[f"{side} foot"]][4] for side in ("near", "far"))
    assert np.ptp(near) > 60 and np.ptp(far) > 60 and np.corrcoef(near, far)[0, 1] < -0.6
    seam = np.abs(near[0] - near[-1])
    assert seam < 1.6 * np.abs(np.diff(near)).max()
    counted(page, "the first walk, from pictures without offsets", 28)


def test_a_scene_with_a_photograph_behind(shared: Service, new_page: Page_) -> None:
    page = begun(shared, new_page, "Scene")
    bring_one(page, "ball")
    # The photograph is a puppet of its own.
    page.get_by_role("button", name="ball", exact=True).click()
    page.get_by_role("menuitem", name="New puppet…").click()
    page.get_by_role("dialog").get_by_role("textbox").fill("Quay")
    page.get_by_role("dialog").get_by_role("textbox").press("Enter")
    saved(page)
    pixels = np.zeros((720, 1280, 4), np.uint8)
    pixels[:, :, :] = (40, 120, 160, 255)
    jpeg = bytes(skia.Image.fromarray(pixels).encodeToData(skia.kJPEG, 95))
    page.get_by_label("Art to bring in").set_input_files({"name": "quay.jpg", "mimeType": "image/jpeg", "buffer": jpeg})
    expect(page.get_by_role("row", name="quay")).to_be_visible()
    saved(page)
    bench(page, "Shots")
    page.get_by_role("button", name="New shot").click()
    saved(page)
    for name in ("Quay", "ball"):
        page.get_by_role("button", name="Bring in a puppet or a set").click()
        page.get_by_role("menuitem", name=name, exact=True).click()
        saved(page)
    counted(page, "a scene with a photograph behind", 14)
    expect(page.locator(".notice")).to_have_count(0)
    seen = drawn(page).pixels().astype(int)
    photograph = (np.abs(seen[:, :, :3] - (40, 120, 160)) < 6).all(axis=2)
    ball = (np.abs(seen[:, :, :3] - (0xD0, 0x30, 0x20)) < 6).all(axis=2)
    scale = float(page.locator(".stage").get_attribute("data-scale") or 1)
    # The photograph fills the picture, and the ball is before it, whole.
    assert photograph.sum() / scale**2 > 0.9 * 1280 * 720
    assert ball.sum() / scale**2 > 0.9 * math.pi * 50**2
