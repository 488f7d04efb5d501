"""A puppet that turns, over HTTP: the same commands, and the film of it."""

from __future__ import annotations

import io
import zipfile

import httpx
import numpy as np

from sorvan.interchange.pictures import decode
from tests.service.test_http import bring, change, documents, fetched, gull
from tests.service.test_http import client as client

__all__ = ["gull"]
VIEWS = b"""<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 100">
<g id="beak front"><path d="M40 40H60V60H40Z" fill="#c0392b"/></g>
<g id="beak side"><path d="M40 40H90L40 60Z" fill="#c0392b"/></g></svg>"""


def test_a_turn_is_rendered_from_one_side_over_the_front_to_the_other(gull: tuple[httpx.Client, str]) -> None:
    client, production = gull
    assert change(client, production, {"do": "add-puppet", "id": "b", "name": "Beak"}).is_success
    assert bring(client, production, "b", VIEWS, "beak.svg").is_success
    for command in (
        {"do": "set-puppet", "puppet": "b", "origin": [50, 90]},
        {"do": "add-turnaround", "puppet": "b", "id": "t"},
        {"do": "gather-views", "puppet": "b", "dial": "t"},
        {"do": "flip-views", "puppet": "b", "dial": "t"},
        {"do": "add-motion", "id": "turn", "puppet": "b", "name": "Look round", "length": 3},
        {"do": "set-keys", "motion": "turn", "keys": [
            {"joint": "t", "kind": "dial", "frame": f, "value": [v]} for f, v in ((0, 270), (1, 360), (2, 450))
        ]},
    ):  # fmt: skip
        done = change(client, production, command)
        assert done.is_success, done.text
    assert [s["name"] for s in documents(client, production)["b"]["dials"]["t"]["stops"]] == [
        "front",
        "side",
        "side flipped",
    ]
    film = fetched(client, production, {"motion": "turn", "format": "png", "clear": True})
    with zipfile.ZipFile(io.BytesIO(film)) as file:
        left, front, right = (decode(file.read(name), name)[:, :, 3] > 128 for name in sorted(file.namelist()))
    assert np.mean(left ^ right[:, ::-1]) < 0.002, "the one side is the other in the mirror"
    reach = [np.flatnonzero(f.any(axis=0)) for f in (left, front, right)]
    wide = front.shape[1] / 100
    assert abs(reach[0][0] - 10 * wide) < 4 and abs(reach[0][-1] - 60 * wide) < 4
    assert abs(reach[1][0] - 40 * wide) < 4 and abs(reach[1][-1] - 60 * wide) < 4
    assert abs(reach[2][0] - 40 * wide) < 4 and abs(reach[2][-1] - 90 * wide) < 4


SIGN = b"""<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 100">
<g id="coat"><path d="M20 10H80V90H20Z" fill="#204060"/></g><g id="coat side"><path d="M30 10H70V90H30Z" fill="#204060"/></g>
<g id="coat back"><path d="M20 10H80V90H20Z" fill="#102030"/></g>
<g id="badge"><path d="M36 40H64V48H44V60H36Z" fill="#f0d040"/></g></svg>"""


def test_views_are_offered_and_a_badge_reads_as_it_should_in_the_mirror(gull: tuple[httpx.Client, str]) -> None:
    """Brought in, told of, made views; a second half in which the badge is drawn the right way round in one step."""
    client, production = gull
    assert change(client, production, {"do": "add-puppet", "id": "b", "name": "Coat"}).is_success
    report = bring(client, production, "b", SIGN, "coat.svg").json()
    assert report["views"] == ["front", "side", "back"]
    for command in (
        {"do": "set-puppet", "puppet": "b", "origin": [50, 90]},
        {"do": "gather-views", "puppet": "b", "dial": "t"},
        {"do": "flip-views", "puppet": "b", "dial": "t"},
    ):
        assert change(client, production, command).is_success
    badge = next(p for p in documents(client, production)["b"]["pieces"].values() if p["name"] == "badge")
    assert change(
        client, production, {"do": "set-pieces", "puppet": "b", "pieces": [badge["id"]], "one_way": True}
    ).is_success

    def seen(at: float) -> np.ndarray:
        """What of the badge is seen from there, `(rows, columns)`."""
        id = f"m{at:g}"
        for command in (
            {"do": "add-motion", "id": id, "puppet": "b", "name": "still", "length": 1},
            {"do": "set-keys", "motion": id, "keys": [{"joint": "t", "kind": "dial", "frame": 0, "value": [at]}]},
        ):
            assert change(client, production, command).is_success
        film = fetched(client, production, {"motion": id, "format": "png", "clear": True})
        with zipfile.ZipFile(io.BytesIO(film)) as file:
            (name,) = file.namelist()
            return np.asarray(decode(file.read(name), name)[:, :, 0] > 200)

    plain, mirrored = seen(0), seen(270)
    assert plain.sum() > 100
    assert np.mean(mirrored ^ plain[:, ::-1]) < 0.001, "so far it is in the mirror"
    newest = client.get(f"/productions/{production}").json()["seq"]
    asked = {
        "puppet": "b",
        "dial": "t",
        "at": 270,
        "piece": badge["id"],
        "change": "right-way-1",
        "window": "w",
        "base": newest,
    }
    done = client.post(f"/productions/{production}/right-way-round", json=asked)
    assert done.is_success, done.text
    puppet = documents(client, production)["b"]
    assert [d["name"] for d in puppet["pieces"][badge["id"]]["drawings"]] == ["badge", "badge, other way round"]
    assert np.mean(seen(270.0 + 360) ^ plain) < 0.001, "now it reads as from the front"
    assert np.mean(seen(90) ^ plain) < 0.001, "and elsewhere nothing changed"
    # Once more over the network is the same change; what is gone is told.
    assert client.post(f"/productions/{production}/right-way-round", json=asked).is_success
    assert len(documents(client, production)["b"]["pieces"][badge["id"]]["drawings"]) == 2
    gone = client.post(f"/productions/{production}/right-way-round", json={**asked, "at": 33, "change": "right-way-2"})
    assert gone.status_code == 404
