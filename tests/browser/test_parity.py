"""What is seen is what is rendered: the stage canvas against the renderer, pixel for pixel."""

from __future__ import annotations

import base64
import io
import zipfile
from collections.abc import Callable

import httpx
import numpy as np
from playwright.sync_api import Page

from sorvan.interchange.pictures import decode
from tests.browser.hands import drawn, settle
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
<g id="shade" style="mix-blend-mode:multiply"><rect x="20" y="90" width="300" height="90" fill="#9cf"/><g style="isolation:isolate"><rect x="40" y="100" width="60" height="60" fill="#f80"/><circle cx="90" cy="130" r="28" fill="#08f" style="mix-blend-mode:difference"/></g></g>
<g id="glow" opacity=".7" style="mix-blend-mode:screen"><circle cx="470" cy="110" r="50" fill="#639"/></g>
<g id="ring" transform="rotate(12 120 270) scale(1 .6)"><path fill-rule="evenodd" d="M60 420h140v90H60zM90 440h80v50H90z" fill="#357" stroke="#fd2" stroke-width="5"/></g>
</svg>"""


BECOMING = f"""<svg xmlns="http://www.w3.org/2000/svg" width="{WIDTH}" height="{HEIGHT}" viewBox="0 0 {WIDTH} {HEIGHT}">
<defs><linearGradient id="a"><stop offset="0" stop-color="#ffd"/><stop offset=".4" stop-color="#f92"/><stop offset="1" stop-color="#925"/></linearGradient>
<linearGradient id="b" gradientTransform="rotate(40)"><stop offset="0" stop-color="#09c"/><stop offset="1" stop-color="#fff8"/></linearGradient>
<radialGradient id="c"><stop offset="0" stop-color="#fff"/><stop offset="1" stop-color="#16a"/></radialGradient>
<clipPath id="k"><circle cx="320" cy="60" r="52"/></clipPath><clipPath id="n"><rect x="290" y="20" width="120" height="60"/></clipPath></defs>
<g id="puff"><g clip-path="url(#k)" opacity=".8"><path d="M260 90C260 40 330 0 380 50L360 120Z" fill="url(#a)"/></g>
<path d="M300 300L360 300L360 350L300 350Z M315 312L315 338L345 338L345 312Z" fill="url(#a)" stroke="#402" stroke-width="6"/></g>
<g id="cloud"><g clip-path="url(#n)" opacity=".4"><path d="M280 30H420V110L350 60Z" fill="url(#b)"/></g>
<path d="M420 290C470 260 520 320 500 350L430 356Z M445 310L480 312L470 335Z" fill-rule="evenodd" fill="url(#c)"/>
<circle cx="560" cy="330" r="18" fill="#7a2" stroke="#fff" stroke-width="4"/></g>
<g id="other sail"><path d="M60 60C140 30 230 10 270 100Q210 150 100 190Z" fill="#2a7f8f" stroke="#fff" stroke-width="3"/></g>
</svg>"""


def becoming(client: httpx.Client, production: str, sail: str) -> None:
    """A puff that becomes a cloud (clipped, faded, with a hole, from one kind of gradient to another, one shape more);
    and the sail, which bends, becomes another."""
    bring(client, production, "a", BECOMING.encode())
    ids = {p["name"]: p["id"] for p in documents(client, production)["a"]["pieces"].values()}
    for into, other in ((ids["puff"], ids["cloud"]), (sail, ids["other sail"])):
        keys = [
            {"joint": into, "kind": "show", "frame": f, "value": [v], "ease": {"kind": "even"}}
            for f, v in ((0, 0), (4, 1))
        ]
        for command in (
            {"do": "gather-drawings", "puppet": "a", "piece": into, "others": [other]},
            {"do": "set-keys", "motion": "m", "keys": keys},
            {"do": "change-gaps", "motion": "m", "keys": [{"channel": f"{into}.show", "frame": 0}], "change": "morph"},
        ):
            done = change(client, production, command)
            assert done.status_code == 200, done.text
    drawings = [d["id"] for d in documents(client, production)["a"]["pieces"][ids["puff"]]["drawings"]]
    pair = {"puppet": "a", "piece": ids["puff"], "first": drawings[0], "second": drawings[1]}
    change(client, production, {"do": "set-morph", **pair, "way": "swing", "lone": "neighbour"})


def rig_all(client: httpx.Client, production: str, ids: dict[str, str]) -> None:
    """A sail that bends, a picture on a sheet, masks in both ways, a faded and a toned piece."""
    joints = [{"id": "tip", "name": "tip", "at": [150, 105], "parent": ids["left sail"]}]
    handles = [
        {"id": f"h{i}", "name": f"handle {i}", "at": at, "handle": True, "parent": ids["waves"]}
        for i, at in enumerate(([480, 250], [520, 285], [560, 310]))
    ]
    mask = {ids["wheel"]: "outside"}
    for command in (
        {"do": "add-joints", "joints": joints},
        {
            "do": "set-attach",
            "piece": ids["left sail"],
            "attach": {"kind": "bend", "joints": [ids["left sail"], "tip"]},
        },
        {"do": "add-joints", "joints": handles, "sheet": ids["waves"]},
        {"do": "set-masks", "pieces": ["other"], "masks": {ids["flag"]: "inside"}},
        {"do": "set-masks", "pieces": [ids["ring"]], "masks": mask},
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
    # Light dots with clear pixels between, which are black where nobody sees it; shown at less than full size.
    dots = np.where((xx // 2 + yy // 2)[:, :, None] % 2, 0, (200, 180, 160, 255)).astype(np.uint8)
    bring(client, production, "a", png(dots), "dots.png")
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
    at = {"x": 200, "y": 330, "angle": -8, "sx": 0.57, "sy": 0.57}
    change(client, production, {"do": "place-piece", "puppet": "a", "piece": ids["dots"], **at})
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

    becoming(client, production, ids["left sail"])
    with zipfile.ZipFile(io.BytesIO(fetched(client, production, {"motion": "m", "format": "png"}))) as file:
        rendered = [decode(file.read(name), name) for name in sorted(file.namelist())]

    alike(shared, new_page, f"{production}/motion", rendered, (0, 1, 2, 3, 4))


def alike(
    service: Service,
    new_page: Callable[..., Page],
    where: str,
    rendered: list[np.ndarray],
    frames: tuple[int, ...],
    press: str | None = None,
    level: float = 0.25,
) -> None:
    """The stage of a bench, once a button is pressed, shows these frames as they were rendered, pixel for pixel."""
    page = new_page(1400, 900)
    page.goto(f"{service.address}/p/{where}?software")
    stage = drawn(page)
    if press:
        page.get_by_role("button", name=press).click()
        settle(page)
    # Just enough room for one pixel a unit; how high the stage is need not go with the window pixel by pixel.
    size = [1400, 900]
    for _ in range(20):
        have = page.evaluate(
            "(({ clientWidth, clientHeight }) => [clientWidth, clientHeight])(document.querySelector('.stage'))"
        )
        if have == [WIDTH + 24, HEIGHT + 24]:
            break
        size = [size[0] + WIDTH + 24 - have[0], size[1] + HEIGHT + 24 - have[1]]
        page.set_viewport_size({"width": size[0], "height": size[1]})
        settle(page)
    assert float(stage.element.get_attribute("data-scale") or 0) == 1.0
    for frame in frames:
        page.get_by_label("Frame", exact=True).fill(str(frame + 1))
        page.get_by_label("Frame", exact=True).press("Enter")
        settle(page)
        url = page.evaluate("document.querySelector('.stage canvas').toDataURL('image/png')")
        shown = decode(base64.b64decode(url.split(",")[1]), "stage")[12 : 12 + HEIGHT, 12 : 12 + WIDTH]
        apart = np.abs(shown.astype(int) - rendered[frame].astype(int))[:, :, :3]
        assert apart.mean() < level, f"frame {frame + 1}: {apart.mean():.3f}/255 apart on average"
        far = apart.max(axis=2) > 8
        assert far.mean() < 0.001, f"frame {frame + 1}: {far.sum()} pixels differ"
        assert rendered[frame].std() > 15, "there is something to compare"


def test_a_shot_looks_the_same_on_the_stage_and_in_the_film(shared: Service, new_page: Callable[..., Page]) -> None:
    """Camera and shake, depth, a mirrored puppet that fades, copies with a tint."""
    client = shared.client()
    production = client.post("/productions", json={"name": "Parity of shots"}).json()["id"]

    def do(**command: object) -> None:
        done = change(client, production, command)
        assert done.status_code == 200, done.text

    do(do="set-production", width=WIDTH, height=HEIGHT)
    do(do="add-puppet", id="a", name="Sail")
    bring(client, production, "a", ART.encode())
    ids = {p["name"]: p["id"] for p in documents(client, production)["a"]["pieces"].values()}
    do(do="add-motion", id="m", puppet="a", name="sway", length=8, cycle=True)
    turns = [{"joint": ids["wheel"], "kind": "turn", "frame": f, "value": [v]} for f, v in ((0, -20), (4, 30))]
    do(do="set-keys", motion="m", keys=turns)
    do(do="add-shot", id="s", name="Sail", length=16)
    do(do="set-shot", shot="s", stage="final")
    span = {"id": "p", "motion": "m", "start": 0, "frames": 16}
    for id, given in (
        ("far", {"at": [120, 120], "scale": 0.5, "share": 40}),
        ("one", {"at": [0, 0]}),
        ("two", {"at": [600, 40], "mirror": True, "scale": 0.7, "turn": 12, "share": 140}),
    ):
        do(do="add-cast", shot="s", cast={"kind": "member", "id": id, "puppet": "a", **given})
        do(do="set-span", shot="s", cast=id, span=span)
    copies = {
        "kind": "copies", "id": "many", "puppet": "a", "motion": "m", "count": 7, "at": [100, 60], "spread": [400, 160],
        "scale": 0.3, "turn": 40, "tint": "#2060c0ff", "tinted": 80, "opacity": 50, "along": "two",
    }  # fmt: skip
    do(do="add-cast", shot="s", cast=copies)

    def key(joint: str, kind: str, frame: int, *value: float) -> dict[str, object]:
        return {"joint": joint, "kind": kind, "frame": frame, "value": list(value)}

    do(do="key-in-shot", shot="s", cast="two", keys=[key("place", "opacity", 0, 100), key("place", "opacity", 15, 20)])
    do(do="key-in-shot", shot="s", cast="two", keys=[key("place", "move", 0, 0, 0), key("place", "move", 15, -90, 30)])
    aims = [key("camera", "move", 0, -30, 10), key("camera", "move", 15, 60, -20), key("camera", "scale", 0, 1, 1)]
    aims += [key("camera", "scale", 15, 1.5, 1.5), key("camera", "turn", 0, 0), key("camera", "turn", 15, -9)]
    do(do="key-in-shot", shot="s", keys=aims)
    do(do="set-shake", shot="s", shake={"size": 4, "turn": 1})
    with zipfile.ZipFile(io.BytesIO(fetched(client, production, {"shot": "s", "format": "png"}))) as file:
        rendered = [decode(file.read(name), name) for name in sorted(file.namelist())]
    assert len(rendered) == 16
    alike(shared, new_page, f"{production}/shots", rendered, (0, 7, 15))
    # The film: the shot dissolves into another of itself, which fades into a third.
    for id, after, join in (("t", "s", "dissolve"), ("u", "t", "fade")):
        do(do="duplicate-shot", shot="s", id=id)
        do(do="order-shots", shot=id, after=after)
        do(do="set-shot", shot=id, join={"kind": join, "frames": 6, "colour": "#402010c0"})
    do(do="set-cast", shot="t", cast="one", at=[90, 40])
    with zipfile.ZipFile(io.BytesIO(fetched(client, production, {"format": "png"}))) as file:
        film = [decode(file.read(name), name) for name in sorted(file.namelist())]
    assert len(film) == 3 * 16 - 6
    # (Two layers of a whole picture are mixed in eight bits: a level up or down all over.)
    frames = (2, 10, 12, 15, 22, 25, 28, 41)
    alike(shared, new_page, f"{production}/shots", film, frames, press="Whole film", level=1.0)
