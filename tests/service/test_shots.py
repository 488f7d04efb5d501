"""Shots through the service: what a window is sent of them, the film at a glance, and films fetched."""

from __future__ import annotations

import io
import json
import time
import zipfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import av
import httpx
import numpy as np
import pytest
from pypdf import PdfReader

from sorvan.core.model.times import LONGEST
from sorvan.service.heavy import AT_ONCE
from sorvan.service.windows.shot_view import PART
from tests.conftest import Service, change, until
from tests.service.test_http import bring, documents, fetched, svg
from tests.service.test_live import Window

LONG = 5 * PART + 10


@pytest.fixture
def shot(shared: Service) -> Iterator[tuple[Service, httpx.Client, str, str]]:
    """A production with a shot in which a gull flaps twice, and copies of it."""
    service, client = shared, shared.client()
    production = client.post("/productions", json={"name": "Quay"}).json()["id"]

    def do(**command: Any) -> None:
        done = change(client, production, command)
        assert done.status_code == 200, done.text

    do(do="set-production", width=160, height=90)
    do(do="add-puppet", id="a", name="Gull")
    bring(client, production, "a", svg('<g id="body"><rect x="10" y="40" width="40" height="20" fill="#f00"/></g>'))
    body = next(iter(documents(client, production)["a"]["pieces"]))
    do(do="add-motion", id="m", puppet="a", name="flap", length=12, cycle=True)
    keys = [{"joint": body, "kind": "turn", "frame": f, "value": [v]} for f, v in ((0, 0), (6, 60))]
    do(do="set-keys", motion="m", keys=keys)
    do(do="add-shot", id="s", name="Over the quay", length=LONG)
    do(do="set-shot", shot="s", stage="final")
    for id, x in (("one", 20), ("two", 90)):
        do(do="add-cast", shot="s", cast={"kind": "member", "id": id, "puppet": "a", "at": [x, 50]})
        span = {"id": "p", "motion": "m", "start": 0, "frames": LONG}
        do(do="set-span", shot="s", cast=id, span=span)
    do(do="add-cast", shot="s", cast={"kind": "copies", "id": "many", "puppet": "a", "motion": "m", "at": [50, 50]})
    yield service, client, production, body


def watching(service: Service, production: str, frame: int = 0) -> tuple[Window, dict[str, Any]]:
    window = Window(service, production)
    window.until("snapshot")
    window.send("watch", target={"kind": "shot", "shot": "s"}, frame=frame)
    return window, window.until("shot")


def test_a_long_shot_comes_in_parts_those_at_the_playhead_first(shot: Any) -> None:
    service, _, production, _ = shot
    window, plan = watching(service, production, frame=3 * PART + 5)
    assert plan["frames"] == LONG and [c["cast"] for c in plan["cels"]] == ["one", "two", "many"]
    parts = [window.until("shot-part") for _ in range(6)]
    starts = [p["start"] // PART for p in parts]
    assert starts == [3, 4, 5, 0, 1, 2]
    assert sum(p["stop"] - p["start"] for p in parts) == LONG
    turn = [np.frombuffer(p["cels"]["one"]["matrices"], "<f4").reshape(-1, 6) for p in parts]
    assert all(len(t) == p["stop"] - p["start"] for t, p in zip(turn, parts, strict=True))
    # A cycle of twelve frames, twice four of them in a part.
    np.testing.assert_allclose(turn[0][:12], turn[0][12:24], atol=1e-6)
    many = plan["cels"][2]
    assert many["own"] == 12 and len(many["copies"]["ahead"]) == 4 * 8 and many["loop"]["matrices"]
    # Answers to questions are not kept waiting by what is still to be sent.
    window.send("watch", target={"kind": "shot", "shot": "s"}, frame=0)
    window.send("try-pose", n=7, frame=0, tried={})
    assert window.until("refused")["n"] == 7


def test_a_key_in_a_shot_sends_only_whom_and_what_it_touches(shot: Any) -> None:
    service, client, production, body = shot
    window, plan = watching(service, production)
    for _ in range(6):
        window.until("shot-part")
    key = {"joint": body, "kind": "turn", "frame": 100, "value": [5]}
    change(client, production, {"do": "key-in-shot", "shot": "s", "cast": "one", "keys": [key]})
    window.until("shot-part")
    keys = [key | {"frame": f, "value": [v]} for f, v in ((110, 5), (120, 5), (115, 40))]
    change(client, production, {"do": "key-in-shot", "shot": "s", "cast": "one", "keys": keys})
    part = window.until("shot-part", "shot-changed")
    assert part["type"] == "shot-part" and list(part["cels"]) == ["one"]
    assert (part["start"], part["stop"]) == (111, 120)
    # The camera is no part of what anybody does.
    aim = {"joint": "camera", "kind": "move", "frame": 0, "value": [10, 0]}
    change(client, production, {"do": "key-in-shot", "shot": "s", "keys": [aim]})
    news = window.until("shot-part", "shot-changed")
    assert (news["type"] == "shot-changed" and news["cels"] == []) or not news["cels"]
    views = np.frombuffer(news["views"]["100"], "<f4").reshape(-1, 6)
    np.testing.assert_allclose(views[0], [1, 0, 0, 1, -10, 0], atol=1e-5)
    # What changes in a motion changes everybody who does it, in every shot.
    change(client, production, {"do": "set-keys", "motion": "m", "keys": [key | {"frame": 3, "value": [80]}]})
    cels = set()
    while cels != {"one", "two"}:
        cels |= set(window.until("shot-part")["cels"])
    change(client, production, {"do": "set-cast", "shot": "s", "cast": "two", "at": [99, 50]})
    moved = window.until("shot-changed", "shot-part")
    assert moved["type"] == "shot-changed" and [c["cast"] for c in moved["cels"]] == ["two"]
    assert moved.get("rounds") is None
    # Where a cycle of twelve frames begins again, and where at twice the speed.
    assert plan["rounds"] == {"one": {"p": [12, 12]}, "two": {"p": [12, 12]}}
    change(client, production, {"do": "set-span", "shot": "s", "cast": "two", "span": {"id": "p", "speed": 200}})
    faster = window.until("shot-changed")
    assert faster["rounds"] == {"one": {"p": [12, 12]}, "two": {"p": [6, 6]}}
    change(client, production, {"do": "remove-shots", "shots": ["s"]})
    window.until("gone")


def test_a_hand_poses_one_of_the_cast_where_the_camera_sees_it(shot: Any) -> None:
    service, client, production, body = shot
    aim = [{"joint": "camera", "kind": "scale", "frame": 0, "value": [2, 2]}]
    change(client, production, {"do": "key-in-shot", "shot": "s", "keys": aim})
    change(client, production, {"do": "set-cast", "shot": "s", "cast": "two", "mirror": True})
    window, plan = watching(service, production)
    cel = next(c for c in plan["cels"] if c["cast"] == "two")
    view = np.frombuffer(plan["views"]["100"], "<f4").reshape(-1, 6)[3]
    place = np.frombuffer(cel["place"], "<f4").reshape(-1, 6)[3]

    def seen(m: np.ndarray, at: tuple[float, float]) -> list[float]:
        return [float(m[0] * at[0] + m[2] * at[1] + m[4]), float(m[1] * at[0] + m[3] * at[1] + m[5])]

    def pose(n: int, tried: dict[str, Any]) -> np.ndarray:
        window.send("try-pose", n=n, frame=3, tried=tried, cast="two")
        answer = window.until("pose", "refused")
        assert (answer["type"], answer["n"], answer["cast"]) == ("pose", n, "two")
        world: np.ndarray = np.frombuffer(answer["worlds"], "<f4").reshape(-1, 6)[cel["joints"].index(body)]
        return world

    still = pose(1, {})
    pivot, beside = seen(still, (0, 0)), seen(still, (30, 0))
    # The hand closes beside the pivot and goes a quarter round it, as it is seen on the mirrored, enlarged picture.
    at = [seen(view, tuple(seen(place, tuple(p)))) for p in (pivot, beside)]  # type: ignore[arg-type]
    arm = complex(*at[1]) - complex(*at[0])
    turned = complex(*at[0]) + arm * 1j
    window.send("grab", frame=3, joint=body, pull="turn", at=at[1], cast="two")
    window.send("drag", n=2, at=[turned.real, turned.imag])
    answer = window.until("pose", "refused")
    tip = seen(np.frombuffer(answer["worlds"], "<f4").reshape(-1, 6)[cel["joints"].index(body)], (30, 0))
    np.testing.assert_allclose(seen(view, tuple(seen(place, tuple(tip)))), [turned.real, turned.imag], atol=0.01)  # type: ignore[arg-type]
    # What was tried is kept by a command, and then it is there.
    change(
        client, production, {"do": "pose-in-shot", "shot": "s", "cast": "two", "frame": 3, "values": answer["tried"]}
    )
    window.until("settled")
    np.testing.assert_allclose(seen(pose(3, {}), (30, 0)), tip, atol=0.01)
    # Copies have no poses, and nobody else is held.
    window.send("grab", frame=3, joint=body, pull="turn", at=[0, 0], cast="many")
    assert "no poses of its own" in window.until("refused", "pose")["what"]
    window.send("drag", n=4, at=[0, 0])
    assert "holds nothing" in window.until("refused", "pose")["what"]


def test_the_whole_film_comes_with_its_shots_and_stays_as_it_is_changed(shot: Any) -> None:
    service, client, production, _ = shot
    for id, join in (
        ("t", {"kind": "dissolve", "frames": 10}),
        ("u", {"kind": "fade", "frames": 4, "colour": "#ff000080"}),
    ):
        change(client, production, {"do": "duplicate-shot", "shot": "s", "id": id})
        change(client, production, {"do": "set-shot", "shot": id, "join": join})
    order = [s["shot"] for s in _film(service, production)["parts"]]
    change(client, production, {"do": "set-shot", "shot": order[0], "first": 20, "stop": 100})
    window = Window(service, production)
    window.until("snapshot")
    window.send("watch", target={"kind": "film"}, frame=0)
    film = window.until("film")
    first = film["parts"][0]
    dissolving = next(n for n, p in enumerate(film["parts"]) if p["shot"] == "t")
    assert film["frames"] == 80 + 2 * LONG - 10 and dissolving > 0
    assert (first["first"], first["frames"]) == (20, 80)
    joins = {p["shot"]: (p["over"], p["fade_in"], p["fade_out"]) for p in film["parts"]}
    assert joins["t"][0] == 10 and joins["u"][1] == 4 and sum(j[2] for j in joins.values()) == 4
    shown = np.frombuffer(film["shown"], "<i2").reshape(-1, 2)
    there, veil = np.frombuffer(film["there"], "<f4"), np.frombuffer(film["veil"], "<f4").reshape(-1, 4)
    start = film["parts"][dissolving]["start"]
    over = slice(start, start + 10)
    assert (shown[over] == [dissolving - 1, dissolving]).all() and (
        np.delete(shown[:, 1], np.arange(start, start + 10)) == -1
    ).all()
    np.testing.assert_allclose(there[over], np.arange(1, 11) / 11, atol=1e-6)
    faded = next(p for p in film["parts"] if p["shot"] == "u")["start"]
    np.testing.assert_allclose(veil[faded - 1], [1, 0, 0, 128 / 255], atol=1e-6)
    np.testing.assert_allclose(veil[faded : faded + 4, 3], np.round(128 * np.array([3, 2, 1, 0]) / 4) / 255, atol=1e-6)
    # Its shots come in the order in which they play, those at the playhead first, and whole.
    seen = []
    for _ in film["parts"]:
        seen.append(window.until("shot")["target"]["shot"])
        parts = [window.until("shot-part") for _ in range(6)]
        assert sum(p["stop"] - p["start"] for p in parts) == LONG
    assert seen == [p["shot"] for p in film["parts"]]
    # A change comes once, to the shot that it touches.
    change(client, production, {"do": "set-cast", "shot": "t", "cast": "two", "at": [99, 50]})
    moved = window.until("shot-changed", "film")
    assert (moved["type"], moved["shot"]) == ("shot-changed", "t")
    # The film itself is told anew when its shots play otherwise.
    change(client, production, {"do": "set-shot", "shot": order[0], "stop": 90})
    assert window.until("film", "shot")["frames"] == film["frames"] - 10
    gone = change(client, production, {"do": "remove-shots", "shots": ["s", "t", "u"]}).json()
    window.until("gone")
    # What comes back is told anew.
    turn = {"id": "turned-back", "window": "test", "target": gone["seq"]}
    assert client.post(f"/productions/{production}/undo", json=turn).is_success
    assert window.until("film")["frames"] == film["frames"] - 10
    assert window.until("shot")["target"]["shot"] in order


def test_of_a_long_film_only_what_is_about_the_playhead_is_held(shot: Any) -> None:
    service, client, production, _ = shot
    change(client, production, {"do": "set-shot-length", "shot": "s", "length": 5000})
    change(client, production, {"do": "duplicate-shot", "shot": "s", "id": "t"})
    window = Window(service, production)
    window.until("snapshot")
    window.send("watch", target={"kind": "film"}, frame=0)
    parts = window.until("film")["parts"]
    assert window.until("shot")["target"]["shot"] == parts[0]["shot"]
    for _ in range(-(-5000 // PART)):
        assert window.until("shot-part", "shot")["shot"] == parts[0]["shot"]
    window.send("playhead", frame=parts[1]["start"] + 2000)
    assert window.until("film-less", "shot")["shots"] == [parts[0]["shot"]]
    assert window.until("shot", "shot-part")["target"]["shot"] == parts[1]["shot"]
    # Wherever it is: a film can be longer than anything in it.
    window.send("playhead", frame=LONGEST + 5000)
    window.send("playhead", frame=parts[1]["start"] + 2000)
    # From where the playhead is.
    assert window.until("shot-part")["start"] == 2000 // PART * PART


def _film(service: Service, production: str) -> dict[str, Any]:
    window = Window(service, production)
    window.until("snapshot")
    window.send("watch", target={"kind": "film"}, frame=0)
    return window.until("film")


def test_the_film_at_a_glance_and_its_pictures(shot: Any) -> None:
    _, client, production, body = shot
    glance = client.get(f"/productions/{production}/overview").json()
    assert glance["frames"] == LONG and glance["seconds"] == pytest.approx(LONG / 24)
    own = glance["shots"]["s"]
    assert own["stage"] == "final" and own["findings"] == len(own["found"])
    before = client.get(f"/productions/{production}/shots/s/picture")
    assert before.headers["content-type"] == "image/jpeg" and before.content[:2] == b"\xff\xd8"
    change(client, production, {"do": "set-cast", "shot": "s", "cast": "one", "at": [60, 20]})
    after = client.get(f"/productions/{production}/overview").json()["shots"]["s"]
    assert after["picture"] != own["picture"]
    assert client.get(f"/productions/{production}/shots/s/picture").content != before.content
    assert client.get(f"/productions/{production}/film/picture?frame=9").status_code == 200
    assert client.get(f"/productions/{production}/picture").status_code == 200
    listed = client.get(f"/productions/{production}/glance").json()
    assert (listed["shots"], listed["puppets"]) == (1, 1) and listed["seconds"] == pytest.approx(LONG / 24)
    # What no shot shows is told by puppet: a rig without a mistake, and a motion that nobody does.
    stray = {"joint": body, "kind": "turn", "frame": 30, "value": [9]}
    change(client, production, {"do": "add-motion", "id": "n", "puppet": "a", "name": "rest", "length": 48})
    change(client, production, {"do": "set-keys", "motion": "n", "keys": [stray]})
    change(client, production, {"do": "set-motion", "motion": "n", "length": 24})
    (alone,) = client.get(f"/productions/{production}/overview").json()["apart"]
    wrong = next(f for f in alone["found"] if f["motion"] == "n")
    assert alone["puppet"] == "a" and "rest: " in wrong["text"]
    assert change(client, production, wrong["mend"]).status_code == 200
    assert not client.get(f"/productions/{production}/overview").json()["apart"]
    empty = client.post("/productions", json={"name": "Empty"}).json()["id"]
    assert client.get(f"/productions/{empty}/overview").json()["frames"] == 0
    missing = client.get(f"/productions/{empty}/picture")
    assert missing.status_code == 404 and "nothing" in missing.json()["detail"]


def test_shots_in_the_blocking_pass_are_said_to_be_held_and_let_go_at_once(shot: Any) -> None:
    _, client, production, _ = shot
    change(client, production, {"do": "add-shot", "id": "t", "name": "Night", "length": 24})

    def held() -> dict[str, bool]:
        shots = client.get(f"/productions/{production}/overview").json()["shots"]
        return {id: s["held"] for id, s in shots.items()}

    assert held() == {"s": False, "t": False}, "a new shot plays what it holds"
    change(client, production, {"do": "set-pass", "shots": ["s", "t"], "stage": "blocking"})
    assert held() == {"s": True, "t": True}
    done = change(client, production, {"do": "set-pass", "shots": ["s", "t"], "stage": "final"}).json()
    assert done["label"] == "Take 2 shots to the final pass" and not any(held().values())


def test_many_contact_sheets_at_once_wait_their_turn_and_hold_up_nobody(shot: Any) -> None:
    service, client, production, _ = shot
    path = f"/productions/{production}/contact-sheet.pdf?every=48"
    # One that breaks off in the middle is let go whole: what comes after is as good.
    stray = client.get(f"/productions/{production}/contact-sheet.pdf?shot=gone")
    assert stray.status_code == 404
    with ThreadPoolExecutor(45) as many:
        sheets = [many.submit(service.client().get, path, timeout=120) for _ in range(45)]
        until(lambda: any(s.done() for s in sheets))
        assert client.get("/session").status_code == 200
        codes = sorted(s.result().status_code for s in sheets)
    assert set(codes) <= {200, 429} and codes.count(200) >= AT_ONCE
    assert client.get(path).content[:5] == b"%PDF-"


def test_a_shot_and_the_film_are_rendered_and_fetched(shot: Any) -> None:
    _, client, production, _ = shot
    change(client, production, {"do": "set-shot", "shot": "s", "first": 10, "stop": 30})
    for order, frames in (({"shot": "s"}, 20), ({}, 20), ({"shot": "s", "format": "gif", "last": 20, "first": 15}, 6)):
        made = client.post(f"/productions/{production}/renders", json={"width": 160, **order})
        assert made.status_code == 201, made.text
        render = made.json()
        assert render["total"] == frames
        end = time.monotonic() + 60
        while render["state"] not in ("done", "failed"):
            assert time.monotonic() < end
            time.sleep(0.1)
            found = client.get(f"/productions/{production}/renders").json()
            render = next(r for r in found if r["id"] == render["id"])
        assert render["state"] == "done", render["message"]
        data = client.get(f"/productions/{production}/renders/{render['id']}/file").content
        with av.open(io.BytesIO(data)) as film:
            assert sum(1 for _ in film.decode(video=0)) == frames
    silent = client.post(f"/productions/{production}/renders", json={"format": "wav"})
    assert silent.status_code == 422 and "Nothing is heard" in silent.json()["detail"]
    both = client.post(f"/productions/{production}/renders", json={"shot": "s", "motion": "m"})
    assert both.status_code == 422


def test_the_film_goes_on_paper_and_comes_back_from_a_timeline(shot: Any) -> None:
    _, client, production, _ = shot
    change(client, production, {"do": "add-shot", "id": "t", "name": "Night", "length": 24})
    change(client, production, {"do": "set-pose", "motion": "m", "frame": 0, "text": "wings up"})
    change(client, production, {"do": "set-pose", "motion": "m", "frame": 6, "text": "wings down"})
    sheet = client.get(f"/productions/{production}/contact-sheet.pdf?shot=s")
    assert sheet.content[:5] == b"%PDF-"
    # A picture for every pose that somebody strikes: two in each round of twelve frames.
    words = "".join(p.extract_text() for p in PdfReader(io.BytesIO(sheet.content)).pages)
    assert words.count("frame ") == len(range(0, LONG, 6)) and "frame 7\n" in words + "\n"
    every = client.get(f"/productions/{production}/contact-sheet.pdf?every=12").content
    words = "".join(p.extract_text() for p in PdfReader(io.BytesIO(every)).pages)
    assert words.count("Over the quay, frame") == len(range(0, LONG, 12)) and words.count("Night, frame") == 2
    timeline = client.get(f"/productions/{production}/timeline.otio")
    assert timeline.status_code == 200
    body = timeline.json()
    body["tracks"]["children"][0]["children"].reverse()
    seq = client.get(f"/productions/{production}").json()["seq"]
    fields = {"change": "timeline-1", "window": "w", "base": str(seq)}
    files = {"file": ("film.otio", json.dumps(body).encode())}
    done = client.post(f"/productions/{production}/timeline", data=fields, files=files)
    assert done.status_code == 200, done.text
    shots = next(d for d in documents(client, production).values() if d["kind"] == "production")["shots"]
    assert shots == ["t", "s"]
    wrong = client.post(f"/productions/{production}/timeline", data=fields, files={"file": ("a.otio", b"no")})
    assert wrong.status_code == 422 and "no OpenTimelineIO timeline" in wrong.json()["detail"]


def test_pictures_are_taken_at_any_rate_and_it_lasts_as_long(shot: Any) -> None:
    _, client, production, _ = shot
    order = {"shot": "s", "format": "png", "first": 3, "last": 20}

    def pictures(**more: Any) -> list[bytes]:
        with zipfile.ZipFile(io.BytesIO(fetched(client, production, order | more))) as file:
            return [file.read(name) for name in sorted(file.namelist())]

    plain, halves = pictures(), pictures(rate={"numerator": 12})
    assert len(plain) == 18 and halves == plain[::2]
    # A frame that a picture begins within is in; what lies between two frames is between them.
    twice = pictures(rate={"numerator": 48})
    assert len(twice) == 36 and twice[::2] == plain and twice[1] not in plain
    film = fetched(client, production, {"shot": "s", "width": 160, "rate": {"numerator": 60}})
    with av.open(io.BytesIO(film)) as made:
        stream = made.streams.video[0]
        assert stream.average_rate == 60
        assert sum(1 for _ in made.decode(stream)) == round(LONG * 60 / 24)
    # A frame between two pictures shows what was taken last, at the end of the film too.
    last = {"first": LONG, "last": LONG, "rate": {"numerator": 12}}
    for what in ({"shot": "s"}, {}):
        with zipfile.ZipFile(io.BytesIO(fetched(client, production, {"format": "png", **what, **last}))) as file:
            assert len(file.namelist()) == 1
    wanted = client.post(f"/productions/{production}/renders", json={"shot": "s", "rate": {"numerator": 0}})
    assert wanted.status_code == 422
