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
