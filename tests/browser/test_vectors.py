"""Frames as SVG, drawn by a browser: as they are rendered, and as vectors."""

from __future__ import annotations

import io
import re
import zipfile
from collections.abc import Callable

import httpx
import numpy as np
from defusedxml.ElementTree import fromstring
from playwright.sync_api import Page

from sorvan.interchange.pictures import decode
from tests.browser.hands import decoded, settle
from tests.browser.test_parity import ART, HEIGHT, WIDTH, becoming, rig_all
from tests.conftest import Service, change
from tests.interchange.art import png
from tests.service.test_http import bring, documents, fetched

NAMESPACE = "{http://www.w3.org/2000/svg}"


def sailing(client: httpx.Client) -> tuple[str, dict[str, str]]:
    """A puppet that has all there is: gradients, clips, a bent outline, a picture on a sheet, masks both ways."""
    production = client.post("/productions", json={"name": "Vectors"}).json()["id"]
    change(client, production, {"do": "set-production", "width": WIDTH, "height": HEIGHT})
    change(client, production, {"do": "add-puppet", "id": "a", "name": "Sail"})
    bring(client, production, "a", ART.encode())
    yy, xx = np.mgrid[:50, :70]
    waves = np.stack([xx * 3, yy * 5, (xx * yy) % 255, np.full_like(xx, 255)], axis=2).astype(np.uint8)
    bring(client, production, "a", png(waves), "waves.png")
    ids = {p["name"]: p["id"] for p in documents(client, production)["a"]["pieces"].values()}
    change(client, production, {"do": "mirror-pieces", "puppet": "a", "ids": {ids["left sail"]: "other"}, "line": 320})
    place = {"x": 520, "y": 280, "angle": 33, "sx": 1.7, "sy": 0.8}
    change(client, production, {"do": "place-piece", "puppet": "a", "piece": ids["waves"], **place})
    rig_all(client, production, ids)
    change(
        client, production, {"do": "add-motion", "id": "m", "puppet": "a", "name": "sway", "length": 8, "cycle": True}
    )
    for joint, kind, first, last in (
        (ids["left sail"], "turn", [0], [27]), ("tip", "turn", [0], [70]), ("h2", "move", [0, 0], [-30, 24]),
        (ids["wheel"], "opacity", [100], [30]), (ids["ring"], "turn", [0], [30]),
    ):  # fmt: skip
        keys = [{"joint": joint, "kind": kind, "frame": f, "value": v} for f, v in ((0, first), (4, last))]
        assert change(client, production, {"do": "set-keys", "motion": "m", "keys": keys}).status_code == 200
    becoming(client, production, ids["left sail"])
    change(client, production, {"do": "add-shot", "id": "s", "name": "Sail", "length": 8})
    change(client, production, {"do": "set-shot", "shot": "s", "stage": "final"})
    for cast in (
        {"kind": "member", "id": "c", "puppet": "a", "at": [20, 10], "scale": 0.9},
        {
            "kind": "copies", "id": "e", "puppet": "a", "motion": "m", "count": 3, "at": [60, 40], "scale": 0.25,
            "spread": [300, 100], "tint": "#2060c0ff", "tinted": 90, "share": 50,
        },
    ):  # fmt: skip
        assert change(client, production, {"do": "add-cast", "shot": "s", "cast": cast}).status_code == 200
    span = {"id": "p", "motion": "m", "start": 0, "frames": 8}
    change(client, production, {"do": "set-span", "shot": "s", "cast": "c", "span": span})
    aims = [{"joint": "camera", "kind": "move", "frame": f, "value": v} for f, v in ((0, [-20, 0]), (7, [40, 20]))] + [
        {"joint": "camera", "kind": "scale", "frame": 0, "value": [1.1, 1.1]}
    ]
    assert change(client, production, {"do": "key-in-shot", "shot": "s", "keys": aims}).status_code == 200
    return production, ids


def shown(page: Page, svg: bytes, seconds: float | None = None) -> np.ndarray:
    """What a browser draws, an animation stopped at a time."""
    page.set_viewport_size({"width": WIDTH, "height": HEIGHT})
    # Styles stand still from their first frame on: one that has run and is stopped then may show another moment.
    still = (
        "" if seconds is None else f"*{{animation-play-state:paused!important;animation-delay:{-seconds}s!important}}"
    )
    page.set_content(f"<style>body{{margin:0}}svg{{display:block}}{still}</style>{svg.decode()}")
    if seconds is not None:
        # The clock of drawings begins with the first frame that is drawn: one that is set before runs on from nought.
        settle(page)
        page.wait_for_function(
            """t => { const s = document.querySelector('svg'); s.pauseAnimations(); s.setCurrentTime(t);
            const moving = document.getAnimations();
            return s.animationsPaused() && Math.abs(s.getCurrentTime() - t) < 1e-4
              && moving.length > 0 && moving.every((a) => a.playState === 'paused' && !a.pending);
            }""",
            arg=seconds,
        )
    settle(page)
    return decoded(page.screenshot())


def apart(one: np.ndarray, other: np.ndarray) -> tuple[float, float]:
    """How far two pictures are apart: on average, and the part of the pixels that differ much."""
    off = np.abs(one[:, :, :3].astype(int) - other[:, :, :3].astype(int))
    return float(off.mean()), float((off.max(axis=2) > 40).mean())


def test_a_frame_as_vectors_looks_as_it_is_rendered(shared: Service, new_page: Callable[..., Page]) -> None:
    client = shared.client()
    production, _ = sailing(client)
    page = new_page()
    for of in ({"motion": "m"}, {"shot": "s"}):
        with zipfile.ZipFile(io.BytesIO(fetched(client, production, {**of, "format": "png"}))) as file:
            rendered = [decode(file.read(name), name) for name in sorted(file.namelist())]
        for frame in (1, 5):
            svg = client.get(f"/productions/{production}/frame.svg", params={**of, "frame": frame}).content
            mean, far = apart(shown(page, svg), rendered[frame - 1])
            assert mean < 1.0 and far < 0.006, f"{of} frame {frame}: {mean:.2f} apart, {far:.4f} differ"
        # Vectors stay vectors: outlines are paths, and only what lies on the sheet is a picture.
        root = fromstring(svg)
        assert len(root.findall(f".//{NAMESPACE}path")) > 8
        pictures = root.findall(f".//{NAMESPACE}image")
        assert 1 <= len(pictures) <= 4
        assert root.find(f"{NAMESPACE}title") is not None and not root.findall(f".//{NAMESPACE}script")
        animated = client.get(f"/productions/{production}/animated.svg", params=of).content
        assert re.search(rb"@keyframes", animated) and b"<animate " in animated
        for frame in (0, 3, 6):
            mean, far = apart(shown(page, animated, (frame + 0.5) / 24), rendered[frame])
            assert mean < 1.2 and far < 0.008, f"{of} animated, frame {frame}: {mean:.2f} apart, {far:.4f} differ"
    film = client.get(f"/productions/{production}/animated.svg")
    assert film.status_code == 422 and "too much for one picture" in film.json()["detail"]
    assert client.get(f"/productions/{production}/frame.svg", params={"shot": "s", "frame": 99}).status_code == 422
