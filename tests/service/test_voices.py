"""Voice lines over HTTP and the socket: brought in, listened to in a process of their own, and given out again."""

from __future__ import annotations

import io
import os
import secrets
import signal
import time
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import httpx
import numpy as np
import pytest

from sorvan.core.model.voice import SOUND_RATE
from sorvan.interchange.sounds import resampled
from sorvan.speech.espeak import say
from tests.conftest import Service, change
from tests.interchange.noises import film, hum, lag, sound
from tests.picture.test_sound import heard
from tests.service.test_http import bring as bring_art
from tests.service.test_http import documents
from tests.service.test_live import Window

TEXT = "Mind the gull, passengers. The last ferry leaves at nine."


def spoken(text: str = TEXT) -> bytes:
    """A text said aloud, as a WAV file."""
    said = say(text, "en-us", 150)
    return sound(resampled(said.samples[:, None], said.rate, SOUND_RATE))


@pytest.fixture
def quay(shared: Service) -> Iterator[tuple[Service, httpx.Client, str]]:
    """A production with a puppet whose mouth has three drawings, and a motion."""
    client = shared.client()
    production = client.post("/productions", json={"name": "Quay"}).json()["id"]
    change(client, production, {"do": "add-puppet", "id": "a", "name": "Conductor"})
    parts = "".join(
        f'<g id="{name}"><rect x="40" y="40" width="20" height="{height}" fill="#{colour}"/></g>'
        for name, height, colour in (("pressed", 2, "880000"), ("open", 18, "008800"), ("narrow", 6, "000088"))
    )
    svg_ = f'<svg xmlns="http://www.w3.org/2000/svg" width="100" height="100">{parts}</svg>'.encode()
    bring_art(client, production, "a", svg_)
    ids = {p["name"]: p["id"] for p in documents(client, production)["a"]["pieces"].values()}
    gather = {"do": "gather-drawings", "puppet": "a", "piece": ids["pressed"], "others": [ids["open"], ids["narrow"]]}
    assert change(client, production, gather).status_code == 200
    assert (
        change(client, production, {"do": "propose-mouths", "puppet": "a", "piece": ids["pressed"]}).status_code == 200
    )
    change(client, production, {"do": "add-motion", "id": "m", "puppet": "a", "name": "Call", "length": 120})
    yield shared, client, production


def bring(client: httpx.Client, production: str, data: bytes, name: str = "call.wav", **more: str) -> httpx.Response:
    base = client.get(f"/productions/{production}").json()["seq"]
    fields = {"change": secrets.token_hex(8), "window": "test", "base": str(base), **more}
    return client.post(f"/productions/{production}/voices", data=fields, files=[("file", (name, data))])


def listen(
    client: httpx.Client, production: str, voice: str, text: str = TEXT, language: str = "en-us"
) -> httpx.Response:
    wanted = {"text": text, "language": language}
    return client.post(f"/productions/{production}/voices/{voice}/align", json=wanted)


def over(window: Window) -> dict[str, Any]:
    """How an alignment ended."""
    while True:
        letter = window.until("aligning")
        if letter.get("over"):
            return letter


def chart(client: httpx.Client, production: str, voice: str) -> dict[str, Any]:
    found: dict[str, Any] = documents(client, production)[voice]["chart"]
    return found


def test_from_a_sound_and_its_text_to_mouths_and_back_out(quay: tuple[Service, httpx.Client, str]) -> None:
    service, client, production = quay
    answer = bring(client, production, spoken(), motion="m", at="0.5")
    assert answer.status_code == 201
    voice = answer.json()["voice"]
    placed = next(iter(documents(client, production)["m"]["sounds"].values()))
    assert placed["voice"] == voice and placed["at"] == 0.5
    kept = documents(client, production)[voice]["sound"]
    assert client.get(f"/assets/{kept['asset']}").headers["content-type"] == "audio/flac"
    peaks = client.get(f"/assets/{kept['peaks']}")
    assert peaks.headers["content-type"] == "application/octet-stream" and len(peaks.content) > 400

    window = Window(service, production)
    assert listen(client, production, voice).status_code == 202
    parts: list[float] = []
    while not (letter := window.until("aligning")).get("over"):
        parts.append(letter["part"])
    assert letter["over"] == "done" and len(parts) > 3 and parts == sorted(parts)
    found = chart(client, production, voice)
    assert [w["text"] for w in found["words"].values() if w["text"]] == TEXT.lower().replace(",", "").replace(
        ".", ""
    ).split()
    assert documents(client, production)[voice]["text"] == TEXT

    recipe = {"kind": "mouths", "id": "r", "name": "Mouths", "sound": placed["id"]}
    assert change(client, production, {"do": "do-recipe", "motion": "m", "recipe": recipe}).status_code == 200
    exposed = client.get(f"/productions/{production}/motions/m/exposure").json()
    assert {run["mouth"] for run in exposed["runs"]} == {"pressed", "open", "narrow"}
    assert all(run["why"].endswith(".") for run in exposed["runs"]) and exposed["accents"]
    assert exposed["missing"]["round open"]["mouth"] and exposed["letters"]["m"] == "pressed"
    assert {"M", "B", "P"} <= set(exposed["sounds"]["pressed"])

    sheet = client.get(f"/productions/{production}/motions/m/sheet").json()
    assert len(sheet) == 120 and any(line["word"] == "mind" for line in sheet)
    pdf = client.get(f"/productions/{production}/motions/m/sheet.pdf")
    assert pdf.content.startswith(b"%PDF") and "attachment" in pdf.headers["content-disposition"]

    # Out as a TextGrid and in again: the chart is the same.
    grid = client.get(f"/productions/{production}/voices/{voice}/chart", params={"format": "short"})
    assert b"ooTextFile" in grid.content
    base = str(client.get(f"/productions/{production}").json()["seq"])
    fields = {"change": secrets.token_hex(8), "window": "test", "base": base}
    files = [("file", ("call.TextGrid", grid.content))]
    assert client.post(f"/productions/{production}/voices/{voice}/chart", data=fields, files=files).status_code == 200
    again = chart(client, production, voice)
    assert [p["label"] for p in again["phones"].values()] == [p["label"] for p in found["phones"].values()]
    assert again["source"] == "file" and max(p["loud"] for p in again["phones"].values()) > 0.8

    # The whole production as an archive keeps the sound.
    archive = client.get(f"/productions/{production}/archive").content
    with zipfile.ZipFile(io.BytesIO(archive)) as file:
        assert f"assets/{kept['asset']}.flac" in file.namelist() and f"assets/{kept['peaks']}.peaks" in file.namelist()
    loaded = client.post("/productions/archive", files={"file": ("quay.zip", archive)}).json()["id"]
    assert documents(client, loaded)[voice]["chart"] == again


def test_a_killed_aligner_loses_nothing_and_says_so(quay: tuple[Service, httpx.Client, str]) -> None:
    service, client, production = quay
    voice = bring(client, production, spoken(TEXT * 4), motion="m").json()["voice"]
    window = Window(service, production)
    before = documents(client, production)[voice]
    listen(client, production, voice, TEXT * 4)
    victim = _aligner(service.process.pid)
    # However busy the machine is, it does not come to its end first.
    os.kill(victim, signal.SIGSTOP)
    assert listen(client, production, voice).status_code == 409
    os.kill(victim, signal.SIGKILL)
    ended = over(window)
    assert ended["over"] == "failed" and "Nothing is lost" in ended["message"]
    assert documents(client, production)[voice] == before
    # And it can be done again.
    listen(client, production, voice, TEXT * 4)
    assert over(window)["over"] == "done" and chart(client, production, voice)["phones"]


def _aligner(parent: int) -> int:
    """The process of the aligner that a service has started."""
    for _ in range(200):
        for path in Path("/proc").glob("[0-9]*"):
            try:
                told = (path / "stat").read_text().rpartition(")")[2].split()
                if int(told[1]) == parent and b"listening" in (path / "cmdline").read_bytes():
                    return int(path.name)
            except OSError:
                continue
        time.sleep(0.02)
    raise AssertionError("no aligner was started")


def test_it_can_be_cancelled_and_a_line_that_is_removed_meanwhile_stays_removed(
    quay: tuple[Service, httpx.Client, str],
) -> None:
    service, client, production = quay
    voice = bring(client, production, spoken(TEXT * 6), motion="m").json()["voice"]
    window = Window(service, production)
    listen(client, production, voice, TEXT * 6)
    window.until("aligning")
    assert client.delete(f"/productions/{production}/voices/{voice}/align").status_code == 204
    assert over(window)["over"] == "cancelled" and not chart(client, production, voice).get("phones")
    listen(client, production, voice, TEXT * 6)
    window.until("aligning")
    change(client, production, {"do": "remove-voice", "voice": voice})
    ended = over(window)
    assert ended["over"] == "refused" and "removed while it was listened to" in ended["message"]
    assert voice not in documents(client, production)


def test_what_is_typed_while_a_line_is_listened_to_stays_as_it_was_typed(
    quay: tuple[Service, httpx.Client, str],
) -> None:
    service, client, production = quay
    voice = bring(client, production, spoken(TEXT * 4), motion="m").json()["voice"]
    window = Window(service, production)
    listen(client, production, voice, TEXT * 4)
    victim = _aligner(service.process.pid)
    os.kill(victim, signal.SIGSTOP)
    change(client, production, {"do": "set-voice", "voice": voice, "text": "Another line altogether."})
    os.kill(victim, signal.SIGCONT)
    ended = over(window)
    assert ended["over"] == "refused" and "changed the same thing" in ended["message"]
    held = documents(client, production)[voice]
    assert held["text"] == "Another line altogether." and not held.get("chart", {}).get("phones")


def test_what_can_not_be_is_refused_in_words(quay: tuple[Service, httpx.Client, str]) -> None:
    service, client, production = quay
    for data, name, said in (
        (b"", "empty.wav", "read as a sound"),
        (film(None), "mute.mp4", "no sound in this film"),
        (sound(np.zeros((0, 1), dtype=np.float32)), "none.wav", "no sound in it"),
    ):
        answer = bring(client, production, data, name, motion="m")
        assert answer.status_code in (415, 422) and said in answer.json()["detail"] and answer.json()["remedy"]
    assert not documents(client, production)["m"]["sounds"]
    voice = bring(client, production, spoken(), motion="m").json()["voice"]
    window = Window(service, production)
    listen(client, production, voice, "Nobody ever said anything like this on that quay, not once in forty years.")
    ended = over(window)
    assert ended["over"] == "refused" and "do not match" in ended["message"]
    assert not chart(client, production, voice).get("phones")
    assert client.post(f"/productions/{production}/voices/nobody/align", json={"text": "x"}).status_code == 404
    assert len(client.get("/languages").json()) > 100


def test_a_film_is_rendered_with_its_sound(quay: tuple[Service, httpx.Client, str], tmp_path: Path) -> None:
    _, client, production = quay
    bring(client, production, sound(hum(1.0)), "hum.wav", motion="m", at="0.75")
    order = {"motion": "m", "first": 1, "last": 60, "width": 160}
    render = client.post(f"/productions/{production}/renders", json=order).json()["id"]
    for _ in range(300):
        if next(r for r in client.get(f"/productions/{production}/renders").json() if r["id"] == render)["ready"]:
            break
        time.sleep(0.1)
    path = tmp_path / "film.mp4"
    path.write_bytes(client.get(f"/productions/{production}/renders/{render}/file").content)
    samples, seconds = heard(path)
    assert seconds == pytest.approx(2.5)
    assert abs(lag(samples, hum(1.0)[:, 0]) - 36_000) <= 1
