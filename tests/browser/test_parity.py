"""What is seen is what is rendered: the stage canvas against the renderer, pixel for pixel."""

from __future__ import annotations

import base64
import io
import time
import zipfile
from collections.abc import Callable

import httpx
import numpy as np
from playwright.sync_api import Page

from sorvan.interchange.pictures import decode
from tests.browser.hands import Stage, settle
from tests.conftest import Service, change
from tests.interchange.art import png
from tests.service.test_http import bring, documents, fetched

WIDTH, HEIGHT = 640, 360
ART = f"""<svg xmlns="http://www.w3.org/2000/svg" width="{WIDTH}" height="{HEIGHT}" viewBox="0 0 {WIDTH} {HEIGHT}">
<defs><linearGradient id="l"><stop offset="0" stop-color="#fff3"/><stop offset=".6" stop-color="#f60"/><stop offset="1" stop-color="#306"/></linearGradient>
<radialGradient id="r" fx=".3" fy=".3"><stop offset="0" stop-color="#ffe"/><stop offset="1" stop-color="#2a6"/></radialGradient>
<clipPath id="c"><circle cx="480" cy="120" r="60"/><rect x="480" y="120" width="90" height="60"/></clipPath></defs>
<g id="left sail"><path d="M60 60C140 10 220 40 260 110Q200 180 90 170Z" fill="url(#l)" stroke="#123" stroke-width="7" stroke-linejoin="round"/></g>
<g id="wheel" opacity=".55"><circle cx="330" cy="220" r="90" fill="url(#r)"/><circle cx="330" cy="220" r="60" fill="none" stroke="#a20" stroke-width="9" stroke-dasharray="14 6"/></g>
<g id="flag" clip-path="url(#c)"><rect x="400" y="40" width="200" height="160" fill="url(#l)"/><path d="M400 60L600 180M400 120H620" stroke="#fff" stroke-width="11"/></g>
<g id="ring" transform="rotate(12 120 270) scale(1 .6)"><path fill-rule="evenodd" d="M60 420h140v90H60zM90 440h80v50H90z" fill="#357" stroke="#fd2" stroke-width="5"/></g>
</svg>"""


def rig_all(client: httpx.Client, production: str, ids: dict[str, str]) -> None:
    """A sail that bends, a picture on a sheet, masks in both ways, a faded and a toned piece."""
    joints = [{"id": "tip", "name": "tip", "at": [150, 105], "parent": ids["left sail"]}]
    handles = [
        {"id": f"h{i}", "name": f"handle {i}", "at": at, "handle": True, "parent": ids["waves"]}
        for i, at in enumerate(([480, 250], [520, 285], [560, 310]))
    ]
    mask = {"piece": ids["wheel"], "inside": False}
    for command in (
        {"do": "add-joints", "joints": joints},
        {
            "do": "set-attach",
            "piece": ids["left sail"],
            "attach": {"kind": "bend", "joints": [ids["left sail"], "tip"]},
        },
        {"do": "add-joints", "joints": handles, "sheet": ids["waves"]},
        {"do": "set-masks", "pieces": ["other"], "masks": [{"piece": ids["flag"]}]},
        {"do": "set-masks", "pieces": [ids["ring"]], "masks": [mask]},
        {"do": "set-look", "pieces": [ids["ring"]], "opacity": 0.7},
        {
            "do": "set-look",
            "pieces": [ids["waves"]],
            "colour": {"brightness": 8, "contrast": 12, "gamma": 1.2, "tint": "#2040ffff", "amount": 15},
        },
    ):
        done = change(client, production, {"puppet": "a", **command})
        assert done.status_code == 200, done.text


def test_the_stage_and_the_film_show_the_same(shared: Service, new_page: Callable[..., Page]) -> None:
    client = shared.client()
    production = client.post("/productions", json={"name": "Parity"}).json()["id"]
    change(client, production, {"do": "set-production", "width": WIDTH, "height": HEIGHT})
    change(client, production, {"do": "add-puppet", "id": "a", "name": "Sail"})
    bring(client, production, "a", ART.encode())
    yy, xx = np.mgrid[:50, :70]
    waves = np.stack([xx * 3, yy * 5, (xx * yy) % 255, np.where((xx // 9 + yy // 7) % 2, 255, 90)], axis=2).astype(
        np.uint8
    )
    bring(client, production, "a", png(waves), "waves.png")
    ids = {p["name"]: p["id"] for p in documents(client, production)["a"]["pieces"].values()}
    change(client, production, {"do": "mirror-pieces", "puppet": "a", "ids": {ids["left sail"]: "other"}, "line": 320})
    change(
        client,
        production,
        {
            "do": "place-piece",
            "puppet": "a",
            "piece": ids["waves"],
            "x": 520,
            "y": 280,
            "angle": 33,
            "sx": 1.7,
            "sy": 0.8,
        },
    )
    rig_all(client, production, ids)
    change(client, production, {"do": "add-motion", "id": "m", "puppet": "a", "name": "sway", "length": 5})
    for joint, kind, first, last in (
        (ids["left sail"], "turn", [0], [27]),
        ("other", "turn", [-5], [15]),
        (ids["wheel"], "scale", [1, 1], [0.6, 1.2]),
        ("tip", "turn", [0], [70]),
        ("h2", "move", [0, 0], [-30, 24]),
        (ids["wheel"], "opacity", [100], [30]),
        (ids["flag"], "opacity", [40], [100]),
        (ids["ring"], "order", [0], [-4.5]),
    ):
        keys = [{"joint": joint, "kind": kind, "frame": f, "value": v} for f, v in ((0, first), (4, last))]
        change(client, production, {"do": "set-keys", "motion": "m", "keys": keys})

    with zipfile.ZipFile(io.BytesIO(fetched(client, production, {"motion": "m", "format": "png"}))) as file:
        rendered = [decode(file.read(name), name) for name in sorted(file.namelist())]

    page = new_page(1400, 900)
    page.goto(f"{shared.address}/p/{production}/motion?software")
    stage = Stage(page)
    width, height = page.evaluate(
        "[document.querySelector('.stage').clientWidth, document.querySelector('.stage').clientHeight]"
    )
    # Just enough room for one pixel a unit.
    page.set_viewport_size({"width": 1400 + WIDTH + 24 - width, "height": 900 + HEIGHT + 24 - height})
    settle(page)
    assert float(stage.element.get_attribute("data-scale") or 0) == 1.0
    for frame in (0, 2, 4):
        page.get_by_label("Frame", exact=True).fill(str(frame + 1))
        page.get_by_label("Frame", exact=True).press("Enter")
        time.sleep(0.6)
        url = page.evaluate("document.querySelector('.stage canvas').toDataURL('image/png')")
        shown = decode(base64.b64decode(url.split(",")[1]), "stage")[12 : 12 + HEIGHT, 12 : 12 + WIDTH]
        apart = np.abs(shown.astype(int) - rendered[frame].astype(int))[:, :, :3]
        assert apart.mean() < 0.25, f"frame {frame + 1}: {apart.mean():.3f}/255 apart on average"
        far = apart.max(axis=2) > 8
        assert far.mean() < 0.001, f"frame {frame + 1}: {far.sum()} pixels differ"
        assert rendered[frame].std() > 20, "there is something to compare"
