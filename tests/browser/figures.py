"""Puppets for whole tasks on the Motion bench, drawn and rigged over HTTP."""

from __future__ import annotations

import httpx

from tests.conftest import Service, change
from tests.service.test_http import bring, documents

PARTS: dict[str, tuple[float, float, float, float, str, tuple[float, float], str | None, str]] = {
    # name: left, top, right, bottom, fill, pivot, hangs on, role
    "far upper arm": (630, 232, 646, 312, "#7788aa", (638, 236), "chest", "upper arm"),
    "far forearm": (631, 304, 645, 380, "#7788aa", (638, 308), "far upper arm", "lower arm"),
    "far thigh": (622, 380, 646, 500, "#556677", (634, 390), "hips", "thigh"),
    "far shin": (624, 490, 644, 610, "#556677", (634, 500), "far thigh", "shin"),
    "far foot": (616, 604, 676, 630, "#223344", (634, 612), "far shin", "foot"),
    "hips": (608, 360, 660, 410, "#884433", (634, 392), None, "pelvis"),
    "chest": (604, 220, 664, 372, "#aa5544", (634, 366), "hips", "spine"),
    "head": (610, 150, 664, 228, "#ddaa88", (634, 224), "chest", "head"),
    "near thigh": (624, 380, 648, 500, "#667788", (636, 390), "hips", "thigh"),
    "near shin": (626, 490, 646, 610, "#667788", (636, 500), "near thigh", "shin"),
    "near foot": (618, 604, 678, 630, "#334455", (636, 612), "near shin", "foot"),
    "near upper arm": (632, 232, 648, 312, "#99aacc", (640, 236), "chest", "upper arm"),
    "near forearm": (633, 304, 647, 380, "#99aacc", (640, 308), "near upper arm", "lower arm"),
}


def walker_svg() -> bytes:
    """A porter of plain paper strips, seen from the side, facing right."""
    boxes = "".join(
        f'<g id="{name}"><rect x="{l}" y="{t}" width="{r - l}" height="{b - t}" rx="8" fill="{fill}"/></g>'
        for name, (l, t, r, b, fill, *_) in PARTS.items()
    )
    return f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 1280 720" width="1280" height="720">{boxes}</svg>'.encode()


def porter(service: Service, length: int = 24, cycle: bool = True) -> tuple[str, httpx.Client, dict[str, str]]:
    """A production with the porter, rigged, and an empty motion. Gives its pieces' ids by name."""
    client = service.client()
    production = client.post("/productions", json={"name": "Porter"}).json()["id"]
    change(client, production, {"do": "add-puppet", "id": "a", "name": "Porter"})
    bring(client, production, "a", walker_svg(), "porter.svg")
    ids = {p["name"]: p["id"] for p in documents(client, production)["a"]["pieces"].values()}

    def do(command: dict[str, object]) -> None:
        done = change(client, production, {"puppet": "a", **command})
        assert done.status_code == 200, done.text

    for name, (*_, (x, y), _on, _role) in PARTS.items():
        do({"do": "set-pivot", "piece": ids[name], "x": x, "y": y})
    for name, (*_, on, role) in PARTS.items():
        if on is not None:
            do({"do": "link-joint", "joint": ids[name], "parent": ids[on]})
        side = {"near": "right", "far": "left"}.get(name.split()[0], "centre")
        do({"do": "set-joints", "joints": [ids[name]], "role": role, "side": side})
    do({"do": "set-puppet", "origin": [634, 630]})
    do({"do": "add-motion", "id": "m", "name": "walk", "length": length, "cycle": cycle})
    return production, client, ids


def ball(service: Service) -> tuple[str, httpx.Client]:
    """A production with a red ball of sixty units that stands on the ground, and an empty cycle of 24 frames."""
    client = service.client()
    production = client.post("/productions", json={"name": "Ball"}).json()["id"]
    change(client, production, {"do": "add-puppet", "id": "a", "name": "Ball"})
    art = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 1280 720" width="1280" height="720"><g id="ball"><circle cx="640" cy="560" r="60" fill="#d01818"/></g></svg>'
    bring(client, production, "a", art.encode(), "ball.svg")
    piece = next(iter(documents(client, production)["a"]["pieces"]))
    change(client, production, {"do": "set-pivot", "puppet": "a", "piece": piece, "x": 640, "y": 620})
    change(client, production, {"do": "set-puppet", "puppet": "a", "origin": [640, 620]})
    change(
        client,
        production,
        {"do": "add-motion", "puppet": "a", "id": "m", "name": "bounce", "length": 24, "cycle": True},
    )
    return production, client
