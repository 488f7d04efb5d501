"""Whole tasks on the Voice bench: from a recording and its text to mouths in the film, measured on what was made."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache
from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest
from playwright.sync_api import Page, expect

from sorvan.core.model.voice import SOUND_RATE
from sorvan.interchange.charts import read_chart
from sorvan.interchange.sounds import resampled
from sorvan.speech.espeak import say
from tests.browser.hands import (
    Stage,
    bench,
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
from tests.browser.test_tasks import go
from tests.conftest import Demo, Service, change
from tests.interchange.noises import lag, sound
from tests.picture.test_sound import heard
from tests.service.test_http import bring, documents

TEXT = "Mind the bag, porter. Five boxes fell off the pier."
MOUTHS = {
    "rest": "#7f7f7f", "pressed": "#d01010", "tucked": "#10a010", "narrow": "#1010d0", "open": "#d0d010",
    "pucker": "#d010d0",
}  # fmt: skip
AT = 0.4


@cache
def recording() -> tuple[bytes, np.ndarray, tuple[tuple[float, str], ...]]:
    """The text said aloud: the file, its samples, and when each sound begins."""
    said = say(TEXT, "en-us", 145)
    samples = resampled(said.samples[:, None], said.rate, SOUND_RATE)
    return sound(samples), samples[:, 0], tuple((s.start, s.label) for s in said.sounds if s.label)


def porter(service: Service) -> tuple[str, str]:
    """A porter whose mouth has six drawings, each of a colour of its own, and an empty motion. Gives the
    production and the mouth."""
    client = service.client()
    production = client.post("/productions", json={"name": "Pier"}).json()["id"]
    change(client, production, {"do": "set-production", "width": 320, "height": 180})
    change(client, production, {"do": "add-puppet", "id": "a", "name": "Porter"})
    parts = '<g id="head"><circle cx="160" cy="90" r="70" fill="#f0d0b0"/></g>' + "".join(
        f'<g id="{name}"><rect x="140" y="110" width="40" height="20" fill="{colour}"/></g>'
        for name, colour in MOUTHS.items()
    )
    art = f'<svg xmlns="http://www.w3.org/2000/svg" width="320" height="180">{parts}</svg>'.encode()
    bring(client, production, "a", art)
    ids = {p["name"]: p["id"] for p in documents(client, production)["a"]["pieces"].values()}
    others = [ids[name] for name in MOUTHS if name != "rest"]
    gather = {"do": "gather-drawings", "puppet": "a", "piece": ids["rest"], "others": others}
    assert change(client, production, gather).status_code == 200
    change(client, production, {"do": "link-joint", "puppet": "a", "joint": ids["rest"], "parent": ids["head"]})
    change(client, production, {"do": "add-motion", "id": "m", "puppet": "a", "name": "Warn", "length": 130})
    return production, ids["rest"]


def opened(new_page: Callable[..., Page], service: Service, production: str) -> Page:
    page = new_page()
    listen(page)
    page.goto(f"{service.address}/p/{production}/voice")
    drawn(page)
    return page


def keys(page: Page, service: Service, mouth: str) -> dict[int, dict[str, Any]]:
    channels = document(page, service.address, "motion", "m")["channels"]
    return {int(f): k for f, k in channels.get(f"{mouth}.show", {}).get("keys", {}).items()}


def shown(page: Page) -> str:
    """Which mouth shows on the stage, by the colour in the middle of it."""
    stage = Stage(page)
    pixels = stage.pixels()
    x, y = stage.place((160, 120))
    box = stage.element.bounding_box()
    assert box is not None
    at = pixels[round(y - box["y"]), round(x - box["x"])][:3].astype(int)
    return min(MOUTHS, key=lambda m: float(np.abs(at - [int(MOUTHS[m][i : i + 2], 16) for i in (1, 3, 5)]).sum()))


def by_number(page: Page, service: Service, mouth: str) -> dict[float, str]:
    """The name of the mouth that each drawing is, by its number."""
    drawings = document(page, service.address, "puppet", "a")["pieces"][mouth]["drawings"]
    return {float(d["number"]): d["name"] for d in drawings}


def at_frame(held: dict[int, dict[str, Any]], frame: int) -> float:
    return float(held[max(f for f in held if f <= frame)]["value"][0])


@pytest.fixture
def told(tmp_path: Path) -> Path:
    path = tmp_path / "warn.wav"
    path.write_bytes(recording()[0])
    return path


def with_line(page: Page, path: Path) -> None:
    """Bring a recording in at AT seconds, and find the sounds of its text."""
    page.get_by_label("Sound files").set_input_files(str(path))
    expect(page.get_by_role("option", name="warn").first).to_be_visible()
    saved(page)
    page.get_by_role("button", name="How it is heard").click()
    page.get_by_label("Begins at").first.fill(str(AT))
    page.get_by_label("Begins at").first.press("Enter")
    saved(page)
    page.get_by_label("Text of the line").fill(TEXT)
    page.get_by_role("button", name="Find the sounds").click()
    expect(page.locator(".tier.words .span:not(.pause)")).to_have_count(10)
    saved(page)


def test_from_a_recording_and_its_text_to_a_film_that_speaks(
    shared: Service, new_page: Callable[..., Page], told: Path, tmp_path: Path
) -> None:
    _, samples, truth = recording()
    production, mouth = porter(shared)
    page = opened(new_page, shared, production)
    page.get_by_role("button", name="Make the chart").click()
    expect(page.locator(".mouth-card")).to_have_count(len(MOUTHS))
    with_line(page, told)

    # The chart: the words of the text, and each sound near to when it was said.
    words = [w.inner_text() for w in page.locator(".tier.words .span:not(.pause)").all()]
    assert " ".join(words) == TEXT.lower().replace(",", "").replace(".", "")
    with page.expect_download() as download:
        page.get_by_role("button", name="The chart as a file").click()
        page.get_by_role("menuitem", name="Save as long TextGrid").click()
    grid = read_chart(Path(download.value.path()).read_bytes(), "x.TextGrid", len(samples) / SOUND_RATE)
    found = [p.start for p in grid.phones.values() if p.label in ("B", "P", "F", "M")]
    said = [start for start, label in truth if label in ("b", "p", "f", "m")]
    assert len(found) == len(said)
    assert np.mean([abs(a - b) for a, b in zip(found, said, strict=True)]) < 2 / 24

    # What is not drawn has a stand-in, seen beside a word in which it is heard; another is chosen by its picture.
    stands = page.get_by_role("region", name="Mouths that fill in")
    row = stands.locator("div", has_text="round open").first
    expect(row).to_contain_text("in “porter”")
    row.get_by_role("button").click()
    page.get_by_role("menuitemradio", name="narrow").click()
    saved(page)
    chart = document(page, shared.address, "puppet", "a")["mouths"]
    assert chart["sounds"]["AO"] == "narrow" and chart["sounds"]["OW"] == "narrow"
    expect(page.get_by_role("group", name="narrow", exact=True).locator(".taken")).to_contain_text("AO")
    page.keyboard.press("Control+z")
    saved(page)

    # A boundary is dragged; the word that begins there goes along.
    before = document(page, shared.address, "voice")["chart"]
    word = next(id for id, w in before["words"].items() if w["text"] == "five")
    phone = next(id for id, p in before["phones"].items() if p["start"] == before["words"][word]["start"])
    box = page.locator(f'.tier.phones [data-entry="{phone}"]').bounding_box()
    assert box is not None
    page.mouse.move(box["x"], box["y"] + 8)
    page.mouse.down()
    page.mouse.move(box["x"] + 12, box["y"] + 8, steps=4)
    page.mouse.up()
    saved(page)
    after = document(page, shared.address, "voice")["chart"]
    lane = page.locator(".lane").first.bounding_box()
    assert lane is not None
    moved = 12 / (lane["width"] / 130) / 24
    start = before["phones"][phone]["start"]
    assert after["phones"][phone]["start"] == pytest.approx(start + moved, abs=0.01)
    assert after["words"][word]["start"] == after["phones"][phone]["start"]

    # Mouths are made; what shows on the stage is what is keyed.
    page.get_by_role("button", name="Make mouths").click()
    saved(page)
    made = keys(page, shared, mouth)
    names = by_number(page, shared, mouth)
    assert {names[k["value"][0]] for k in made.values()} >= {"rest", "pressed", "tucked", "narrow", "open"}
    # Every b, p, m, f and v of the text shows its lips, a frame and a half before it is heard.
    for label, wanted in (("M", "pressed"), ("B", "pressed"), ("P", "pressed"), ("F", "tucked"), ("V", "tucked")):
        for p in (p for p in after["phones"].values() if p["label"] == label):
            at = (AT + p["start"]) * 24 - 1.5
            assert wanted in {names[at_frame(made, f)] for f in range(int(at) - 1, int(at) + 4)}, label
    for frame in (2, 20, 31, 60, 77, 118):
        go(page, frame)
        eventually(lambda: shown(page), names[at_frame(made, frame)])

    # Two by hand: one by its key, one by a click. They stay when the text changes and the mouths are made again.
    go(page, 34)
    page.keyboard.press("Escape")
    page.keyboard.press("6")
    saved(page)
    go(page, 71)
    page.get_by_role("button", name="Put in rest").click()
    saved(page)
    for frame, wanted in ((34, "pucker"), (71, "rest")):
        go(page, frame)
        eventually(lambda: shown(page), wanted)
    page.get_by_label("Text of the line").fill(TEXT.replace("Five", "5").upper())
    page.get_by_role("button", name="Find the sounds").click()
    eventually(lambda: document(page, shared.address, "voice")["text"], TEXT.replace("Five", "5").upper())
    page.get_by_role("button", name="Make mouths").click()
    saved(page)
    again = keys(page, shared, mouth)
    assert names[again[34]["value"][0]] == "pucker" and names[again[71]["value"][0]] == "rest"
    assert not {35, 72} & again.keys(), "what is made around them keeps their hold"

    # A mouth on the ribbon says why it is there, and one by hand that it is the hand's.
    panel = page.get_by_role("region", name="Selected mouth")
    run = page.locator('.tier.mouths [data-mouth="tucked"]').first
    run.click()
    expect(panel).to_contain_text("The lip must touch the teeth")
    page.locator('.tier.mouths [data-run="34"]').click()
    expect(panel).to_contain_text("Put in by hand")

    # The playhead is pulled over the line: a short grain is heard of each place.
    ruler = page.locator(".ribbon-panel .ruler").bounding_box()
    assert ruler is not None
    page.evaluate("window.started = []")
    page.mouse.move(ruler["x"] + 300, ruler["y"] + 10)
    page.mouse.down()
    page.mouse.move(ruler["x"] + 420, ruler["y"] + 10, steps=5)
    page.mouse.up()
    eventually(lambda: page.evaluate("window.started.length") >= 4, True)
    frame = int(page.get_by_label("Frame", exact=True).input_value()) - 1
    grains = page.evaluate("window.started")
    assert all(length == pytest.approx(0.09) for _, _, length, *_ in grains)
    assert grains[-1][1] == pytest.approx(frame / 24 - AT, abs=1e-3)

    # Played from the middle, the sound begins where it must, and the picture follows it.
    go(page, 60)
    page.keyboard.press("Escape")
    page.evaluate("window.started = []")
    page.keyboard.press(" ")
    shown_frame = page.get_by_label("Frame", exact=True)
    eventually(lambda: int(shown_frame.input_value()) > 65, True)
    page.keyboard.press(" ")
    when, offset, _, speed, asked = played(page)[0]
    assert offset == pytest.approx(60 / 24 - AT, abs=1e-3) and speed == 1 and when > asked

    # In the film the line is where it belongs, and mouths change on the frames that are keyed.
    bench(page, "Render")
    page.locator("#r-width").fill("320")
    page.locator("#r-width").press("Enter")
    page.get_by_role("button", name="Render", exact=True).click()
    expect(page.get_by_role("link", name="Fetch")).to_be_visible(timeout=60_000)
    with page.expect_download() as download:
        page.get_by_role("link", name="Fetch").click()
    path = tmp_path / "film.mp4"
    download.value.save_as(path)
    track, _ = heard(path)
    assert abs(lag(track, samples) - round(AT * SOUND_RATE)) <= 1
    colours = np.array([[int(c[i : i + 2], 16) for i in (1, 3, 5)] for c in MOUTHS.values()])
    with av.open(str(path)) as film:
        for n, frame in enumerate(film.decode(film.streams.video[0])):
            middle = (
                frame.reformat(format="rgb24", src_colorspace=1)
                .to_ndarray()[116:124, 150:170]
                .reshape(-1, 3)
                .mean(axis=0)
            )
            name = list(MOUTHS)[int(np.abs(colours - middle).sum(axis=1).argmin())]
            assert name == names[at_frame(again, n)], n


def test_mouths_are_put_in_by_hand_while_it_plays_less_the_reaction(
    shared: Service, new_page: Callable[..., Page], told: Path
) -> None:
    production, mouth = porter(shared)
    page = opened(new_page, shared, production)
    page.get_by_role("button", name="Make the chart").click()
    page.get_by_label("Sound files").set_input_files(str(told))
    expect(page.locator(".grip")).to_be_visible()
    saved(page)
    page.get_by_role("button", name="The set:").click()
    page.get_by_label("The hand is late by").fill("5")
    page.get_by_label("The hand is late by").press("Enter")
    page.get_by_role("button", name="The set:").click()
    names = by_number(page, shared, mouth)
    field = page.get_by_label("Frame", exact=True)
    go(page, 0)
    page.keyboard.press("Escape")
    page.keyboard.press(" ")
    frames: list[tuple[int, int]] = []
    for n, key in enumerate(("m", "a", "f")):
        eventually(lambda n=n: int(field.input_value()) > 12 * (n + 1), True)
        frames.append((int(field.input_value()) - 1, 0))
        page.keyboard.press(key)
        frames[-1] = (frames[-1][0], int(field.input_value()) - 1)
    page.keyboard.press(" ")
    saved(page)
    made = keys(page, shared, mouth)
    assert made.pop(0)["value"] == [-1], "before the first, the mouth is as at rest"
    assert [names[made[f]["value"][0]] for f in sorted(made)] == ["pressed", "open", "tucked"]
    for f, (low, high) in zip(sorted(made), frames, strict=True):
        assert low - 5 <= f <= high - 5
    assert all(k["ease"]["kind"] == "hold" for k in made.values())
    # Standing still it is the frame itself; up and down go through the set.
    go(page, 100)
    page.keyboard.press("Escape")
    page.keyboard.press("1")
    saved(page)
    assert names[keys(page, shared, mouth)[100]["value"][0]] == "rest"
    page.keyboard.press("ArrowDown")
    saved(page)
    assert names[keys(page, shared, mouth)[100]["value"][0]] == "pressed"
    eventually(lambda: shown(page), "pressed")
    page.keyboard.press("ArrowUp")
    saved(page)
    assert names[keys(page, shared, mouth)[100]["value"][0]] == "rest"


def test_the_chart_is_worked_on_by_keys_alone(shared: Service, new_page: Callable[..., Page], told: Path) -> None:
    production, _ = porter(shared)
    page = opened(new_page, shared, production)
    with_line(page, told)
    chart = lambda: document(page, shared.address, "voice")["chart"]  # noqa: E731
    words = page.get_by_role("listbox", name="Words")
    words.get_by_role("option", name="bag,").click()
    words.get_by_role("option", name="bag,").focus()
    id = words.get_by_role("option", name="bag,").get_attribute("data-entry")
    start = chart()["words"][id]["start"]
    page.keyboard.press("Alt+ArrowRight")
    saved(page)
    assert chart()["words"][id]["start"] == pytest.approx(start + 0.01, abs=1e-4)
    # Snapped, it goes from frame to frame of the motion.
    page.get_by_role("button", name="Boundaries snap to frames").click()
    words.get_by_role("option", name="bag,").focus()
    page.keyboard.press("Alt+ArrowRight")
    saved(page)
    frames = (AT + chart()["words"][id]["start"]) * 24
    assert frames == pytest.approx(round(frames), abs=1e-3)
    # Arrows go from word to word; Enter leads to its text.
    words.get_by_role("option", name="bag,").focus()
    page.keyboard.press("ArrowRight")
    settle(page)
    assert page.evaluate("document.activeElement.getAttribute('aria-label')").startswith(("porter", "pause"))
    page.keyboard.press("ArrowLeft")
    settle(page)
    page.keyboard.press("Enter")
    expect(page.get_by_label("Text", exact=True)).to_be_focused()
    page.keyboard.press("Control+a")
    page.keyboard.type("sack")
    page.keyboard.press("Enter")
    saved(page)
    assert chart()["words"][id]["text"] == "sack"
    # Split and merge, and undo both.
    count = len(chart()["words"])
    page.get_by_label("Text", exact=True).blur()
    page.keyboard.press("/")
    saved(page)
    assert len(chart()["words"]) == count + 1
    page.keyboard.press("Backspace")
    saved(page)
    assert len(chart()["words"]) == count
    page.keyboard.press("Control+z")
    page.keyboard.press("Control+z")
    saved(page)
    assert len(chart()["words"]) == count


def test_a_text_that_does_not_match_is_refused_and_a_chart_can_be_tapped_in(
    shared: Service, new_page: Callable[..., Page], told: Path
) -> None:
    production, mouth = porter(shared)
    page = opened(new_page, shared, production)
    page.get_by_role("button", name="Make the chart").click()
    page.get_by_label("Sound files").set_input_files(str(told))
    expect(page.locator(".grip")).to_be_visible()
    page.get_by_label("Text of the line").fill("Nobody has ever said such a thing on this pier, and nobody ever will.")
    page.get_by_role("button", name="Find the sounds").click()
    expect(page.get_by_role("alert").first).to_contain_text("do not match")
    assert not document(page, shared.address, "voice")["chart"].get("phones")
    page.get_by_text("do not match").locator("xpath=ancestor::*[@role='alert']").get_by_role("button").click()
    # By hand: letters tap sounds in at the frame that shows.
    page.get_by_role("button", name="Letters put in mouths").click()
    for frame, key in ((6, "m"), (10, "a"), (22, "x")):
        go(page, frame)
        page.keyboard.press("Escape")
        page.keyboard.press(key)
        saved(page)
    phones = document(page, shared.address, "voice")["chart"]["phones"]
    assert [(round(p["start"] * 24), p["label"]) for p in phones.values()] == [(6, "M"), (10, "AA"), (22, "")]
    page.get_by_role("button", name="Make mouths").click()
    saved(page)
    names = by_number(page, shared, mouth)
    assert "pressed" in {names[k["value"][0]] for k in keys(page, shared, mouth).values()}
    # The sheet says it line by line, and each line leads to its frame.
    page.get_by_role("button", name="The exposure sheet").click()
    dialog = page.get_by_role("dialog")
    expect(dialog.locator("[data-frame='6']")).to_contain_text("M")
    with page.expect_download() as download:
        dialog.get_by_role("link", name="Save as PDF").click()
    assert Path(download.value.path()).read_bytes().startswith(b"%PDF")


def test_the_demo_speaks(fresh_demo: tuple[Page, Demo]) -> None:
    page, service = fresh_demo
    motion = document(page, service.address, "motion", "call")
    kinds = sorted(r["kind"] for r in motion["recipes"].values())
    assert kinds == ["accents", "accents", "blink", "mouths", "mouths"]
    expect(page.locator(".grip")).to_have_count(2)
    expect(page.locator(".face-row [data-blink]").first).to_be_attached()
    expect(page.locator(".face-row [data-accent]").first).to_be_attached()
    expect(page.locator(".mouth-card")).to_have_count(10)
    expect(page.get_by_text("No likely mistakes in the lines.")).to_be_attached()
    wave = page.locator(".wave canvas").first
    count = (
        "c => { const d = c.getContext('2d').getImageData(0, 0, c.width, c.height).data;"
        " let n = 0; for (let i = 3; i < d.length; i += 4) if (d[i] > 100) n++; return n; }"
    )
    eventually(lambda: wave.evaluate(count) > 1500, True)  # the sound is drawn
    # Both lines of the call are heard, as far apart as they lie.
    page.locator(".stage").focus()
    got_ready(page)
    page.keyboard.press("Home")
    page.keyboard.press(" ")
    eventually(lambda: len(played(page)) >= 2, True)
    page.keyboard.press(" ")
    # Of the first round, if it has come round already.
    first = played(page)[:2]
    begun = sorted(when - offset for when, offset, *_ in first)
    one, two = sorted(line["at"] for line in motion["sounds"].values())
    assert begun[1] - begun[0] == pytest.approx(two - one, abs=0.001)
    assert [speed for *_, speed, _ in first] == [1, 1]
    # How a mouth looks is told in percent, and typed so.
    chart = document(page, service.address, "puppet", motion["puppet"])["mouths"]
    mouth = next(m for m in chart["mouths"].values() if 0 < m["look"][0] < 1)
    page.get_by_role("group", name=mouth["name"], exact=True).locator(".mouth-name").click()
    field = page.get_by_role("textbox", name="open", exact=True)
    expect(field).to_have_value(str(round(100 * mouth["look"][0])))
    field.fill("55")
    field.press("Enter")
    saved(page)
    chart = document(page, service.address, "puppet", motion["puppet"])["mouths"]
    assert chart["mouths"][mouth["id"]]["look"] == [0.55, *mouth["look"][1:]]


@pytest.fixture
def fresh_demo(demo: Demo, new_page: Callable[..., Page]) -> tuple[Page, Demo]:
    """The demo production on its Voice bench."""
    service, page = demo, new_page()
    listen(page)
    page.goto(service.at("voice"))
    drawn(page)
    page.get_by_role("button", name="Lift the lantern and wave").first.click()
    page.get_by_role("menuitemradio", name="Call the last ferry").click()
    expect(page.locator(".mouth-card").first).to_be_visible()
    return page, service


def test_a_line_lies_where_it_was_put_and_its_motion_gets_the_time_that_it_needs(
    shared: Service, new_page: Callable[..., Page], told: Path
) -> None:
    production, _ = porter(shared)
    client = shared.client()
    change(client, production, {"do": "set-motion", "motion": "m", "length": 24})
    page = opened(new_page, shared, production)
    go(page, 9)
    page.get_by_label("Sound files").set_input_files(str(told))
    # Wherever the playhead is, it begins with the motion, and that is said; it is asked once whether that is to be longer.
    expect(page.get_by_text("It begins at frame 1.")).to_be_visible()
    dialog = page.get_by_role("dialog", name="As long as the line?")
    expect(dialog).to_contain_text("“Warn” has 24")
    dialog.get_by_role("button", name="Leave it").click()
    saved(page)
    seconds = document(page, shared.address, "voice")["sound"]["seconds"]
    needed = int(np.ceil(seconds * 24)) + 6
    (placed,) = document(page, shared.address, "motion")["sounds"].values()
    assert placed.get("at", 0) == 0 and document(page, shared.address, "motion")["length"] == 24
    # Later one press in the check does it.
    page.get_by_role("button", name=f"Make the motion {needed} frames long").click()
    saved(page)
    assert document(page, shared.address, "motion")["length"] == needed
    expect(
        page.get_by_text("No likely mistakes in the lines.").or_(page.get_by_text("has no phoneme chart"))
    ).to_be_visible()
    expect(page.get_by_text("after the motion has ended")).to_have_count(0)
    # Dropped on the ribbon it begins there.
    lane = page.locator(".ribbon-row .lane").first.bounding_box()
    assert lane is not None
    files = page.evaluate_handle(
        """async (bytes) => { const data = new DataTransfer();
          data.items.add(new File([new Uint8Array(bytes)], 'again.wav', { type: 'audio/wav' })); return data; }""",
        list(told.read_bytes()),
    )
    where = {"clientX": lane["x"] + lane["width"] / 2, "clientY": lane["y"] + 20}
    page.dispatch_event(".ribbon-body", "drop", {"dataTransfer": files, "bubbles": True, **where})
    page.get_by_role("dialog", name="As long as the line?").get_by_role("button", name="frames long").click()
    saved(page)
    held = document(page, shared.address, "motion")
    second = max(held["sounds"].values(), key=lambda s: float(s.get("at", 0)))
    assert second["at"] * 24 == pytest.approx(needed / 2, abs=1.5)
    assert held["length"] == int(np.ceil((second["at"] + seconds) * 24)) + 6
    # On a cycle, which stays as it is, the line is offered a motion of its own.
    change(
        client, production, {"do": "add-motion", "id": "c", "puppet": "a", "name": "Round", "length": 12, "cycle": True}
    )
    page.get_by_role("button", name="Warn", exact=True).click()
    page.get_by_role("menuitemradio", name="Round").click()
    drawn(page)
    page.get_by_label("Sound files").set_input_files(str(told))
    page.get_by_role("button", name="Make a motion for it").click()
    saved(page)
    motions = [d for d in snapshot(page, shared.address)["documents"] if d["kind"] == "motion" and d["id"] not in "mc"]
    assert [(m["name"], m["cycle"], m["length"], len(m["sounds"])) for m in motions] == [("warn", False, needed, 1)]
    assert not document(page, shared.address, "motion", "c")["sounds"]
