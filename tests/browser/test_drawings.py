"""Drawings are brought in as a browser draws them."""

from __future__ import annotations

from base64 import b64encode
from collections.abc import Iterator

import numpy as np
import pytest
from playwright.sync_api import Browser, Page

from sorvan.interchange.files import read_file
from sorvan.interchange.imported import Imported
from tests.browser.hands import decoded, settle
from tests.interchange.art import drawn, png, svg

RING = 'fill="none" stroke="#204060" stroke-width="8"'
BOX = '<rect width="60" height="60" x="20" y="20"'
STOPS = '<stop offset="0" stop-color="currentColor"/><stop offset="1" stop-color="inherit"/>'
_WAVES = np.stack([*np.mgrid[:20, :40] * 6, np.full((20, 40), 90), np.full((20, 40), 255)], axis=2).astype(np.uint8)
EMBEDDED = "data:image/png;base64," + b64encode(png(_WAVES.repeat(4, 0).repeat(4, 1))).decode()
DRAWINGS: dict[str, bytes] = {
    "a dashed circle begins at three o'clock": svg(f'<circle cx="50" cy="50" r="36" stroke-dasharray="40 23" {RING}/>'),
    "a dashed ellipse too": svg(f'<ellipse cx="50" cy="50" rx="40" ry="22" stroke-dasharray="30 17 9 17" {RING}/>'),
    "dashes in percent": svg(f'<path d="M10 50H90" stroke-dasharray="20% 10%" stroke-dashoffset="5%" {RING}/>'),
    "the colour of the day in a gradient": svg(
        f'{BOX} fill="url(#g)"/>',
        f'<g color="#c04020" stop-color="#2050a0"><linearGradient id="g">{STOPS}</linearGradient></g>',
    ),
    "a gradient on a flat line": svg(
        '<path d="M10 30H90" stroke="url(#g)" stroke-width="9"/><path d="M10 70H90" stroke="url(#g) #208040" stroke-width="9"/>',
        '<linearGradient id="g"><stop offset="0" stop-color="red"/><stop offset="1" stop-color="blue"/></linearGradient>',
    ),
    "an unknown colour": svg(f'<g fill="#208040">{BOX} fill="seasick"/></g>'),
    "an unknown colour after a known one": svg(f"<style>rect {{ fill: #a02060; fill: tidal(3); }}</style>{BOX}/>"),
    "a variable, and what stands in for one": svg(
        "<style>svg { --sea: #2060a0; } #a { fill: var(--sea); } #b { fill: var(--sky, #d0a020); }</style>"
        f'{BOX} id="a"/><circle id="b" cx="50" cy="50" r="18"/>'
    ),
    "a variable that stands for nothing": svg(
        f'<style>#a {{ fill: var(--none); }}</style><g fill="#804080">{BOX} id="a"/></g>'
    ),
    "for the screen and for paper": svg(
        f"<style>@media screen {{ rect {{ fill: #208080; }} }} @media print {{ rect {{ fill: red; }} }}</style>{BOX}/>"
    ),
    "unset and initial": svg(
        "<style>#a { fill: unset; } #b { fill: initial; }</style>"
        '<g fill="#c06020"><rect id="a" width="40" height="40"/><rect id="b" x="50" width="40" height="40"/></g>'
    ),
    "a transform in a style": svg(
        f'{BOX} style="transform: rotate(30deg) translate(10px, -8px); transform-origin: 50px 40px"/>'
    ),
    "a transform about the middle": svg(
        f"<style>rect {{ transform: scale(0.5, 1.2); transform-origin: center; }}</style>{BOX}/>"
    ),
    "a transform with a mistake": svg(f'{BOX} transform="translate(30) rotat(20)"/>'),
    "where a circle is by its style": svg('<style>circle { r: 30px; cx: 40px; }</style><circle cx="5" cy="50" r="4"/>'),
    "where a box is by its style": svg(
        '<style>rect { rx: 12px; width: 70px; }</style><rect x="10" y="20" width="9" height="50"/>'
    ),
    "a path by its style": svg("""<style>path { d: path("M10 10H90V60Z"); }</style><path d="M0 0H5V5Z"/>"""),
    "a path up to its mistake": svg('<path d="M10 10L90 10 L90 50 X 10 90 L10 60" fill="#406080"/>'),
    "negative radii": svg('<rect x="10" y="10" width="80" height="80" rx="-5" ry="20" fill="#604080"/>'),
    "in the language of whoever looks": svg(
        f'<switch><g systemLanguage="nl"><rect width="90" height="20" fill="red"/></g><g>{BOX} fill="#2080a0"/></g></switch>'
        '<circle systemLanguage="fr" cx="9" cy="9" r="9"/>'
    ),
    "a symbol ends at its edge": svg(
        '<symbol id="s" viewBox="0 0 10 10"><rect width="20" height="10" fill="teal"/></symbol><use href="#s" x="10" y="10" width="40" height="40"/>'
    ),
    "a symbol with a size of its own": svg(
        '<symbol id="s" viewBox="0 0 10 10" width="30" height="30"><rect width="10" height="10" fill="teal"/></symbol><use href="#s" x="10" y="10"/>'
    ),
    "a symbol without a view box": svg(
        '<symbol id="s" width="30" height="30"><rect width="80" height="10" fill="teal"/></symbol><use href="#s" x="10" y="10"/>'
    ),
    "a symbol that may overflow": svg(
        '<symbol id="s" viewBox="0 0 10 10" overflow="visible"><rect width="20" height="10" fill="teal"/></symbol><use href="#s" x="10" y="10" width="40" height="40"/>'
    ),
    "a drawing in a drawing ends at its edge": svg(
        '<svg x="10" y="10" width="40" height="40"><rect width="80" height="20" fill="teal"/></svg>'
    ),
    "percentages of a drawing in a drawing": svg(
        '<svg x="10" y="10" width="40" height="40"><rect width="50%" height="50%" fill="teal"/></svg>'
    ),
    "percentages of its view box": svg(
        '<svg x="10" y="10" width="40" height="40" viewBox="0 0 200 200"><rect width="50%" height="50%" fill="teal"/></svg>'
    ),
    "a clip on a moved shape in a clip": svg(
        f'<g clip-path="url(#c)">{BOX} fill="teal"/></g>',
        '<clipPath id="c"><circle cx="30" cy="30" r="25" transform="translate(20 10) scale(1 .6)" clip-path="url(#d)"/></clipPath><clipPath id="d"><rect x="20" y="10" width="20" height="60"/></clipPath>',
    ),
    "a moved clip": svg(
        f'<g clip-path="url(#c)">{BOX} fill="teal"/></g>',
        '<clipPath id="c" transform="translate(20 10) scale(1 .6)"><circle cx="30" cy="30" r="25"/></clipPath>',
    ),
    "the opacity of all": svg(
        f'{BOX} fill="teal"/>', attributes='width="100" height="100" viewBox="0 0 100 100" opacity="0.4"'
    ),
    "the opacity of all, in pieces": svg(
        f'<g id="gull">{BOX} fill="teal"/></g><g id="tern"><circle r="20"/></g>',
        attributes='width="100" height="100" viewBox="0 0 100 100" opacity="0.4"',
    ),
    "lengths by the size of the letters": svg(
        '<g font-size="20"><rect x="1em" y="1em" width="2em" height="2em" fill="teal" stroke="black" stroke-width=".2em"/></g>'
    ),
    "lengths by the size of the drawing's letters": svg(
        '<rect x="1rem" y="1rem" width="2rem" height="2rem" fill="teal"/>'
    ),
    "a focus outside its circle": svg(
        f'{BOX} fill="url(#g)"/>',
        '<radialGradient id="g" cx=".5" cy=".5" r=".3" fx="1" fy=".5"><stop offset="0" stop-color="red"/><stop offset="1" stop-color="blue"/></radialGradient>',
    ),
    "what is used takes the style around it": svg(
        '<defs><path id="p" d="M10 10H60V60Z"/></defs><use href="#p" fill="teal" x="20"/>'
    ),
    "millimetres and points": svg('<rect x="5mm" y="5mm" width="10mm" height="20pt" fill="teal"/>'),
    "a clip with a hole": svg(
        f'<g clip-path="url(#c)">{BOX} fill="teal"/></g>',
        '<clipPath id="c"><path clip-rule="evenodd" d="M20 20H80V80H20Z M35 35H60V60H35Z"/></clipPath>',
    ),
    "opacity in percent": svg(f'{BOX} fill="teal" opacity="40%"/>'),
    "a colour by its hue": svg(f'{BOX} fill="hsl(120 60% 40% / .7)"/>'),
    "a corner cut off": svg(
        '<path d="M20 80L50 20L80 80" fill="none" stroke="teal" stroke-width="14" stroke-linejoin="miter" stroke-miterlimit="2"/>'
    ),
    "a line with half a point": svg('<polyline points="10,10 50,80 90" fill="none" stroke="teal" stroke-width="6"/>'),
    "what a sheet insists on": svg(f'<style>rect{{fill:teal !important}}</style>{BOX} style="fill:red"/>'),
    "seen within what is not": svg(
        '<g visibility="hidden"><rect width="40" height="40" fill="teal"/><rect visibility="visible" x="50" width="40" height="40" fill="teal"/></g>'
    ),
    "multiplied": svg(
        f'<rect width="60" height="100" fill="#e0a040"/>{BOX} fill="#40a0e0" style="mix-blend-mode:multiply"/>'
    ),
    "a group that blends, faded": svg(
        f'<rect width="100" height="100" fill="#fff"/><rect width="60" height="100" fill="#e0a040"/><g opacity=".7" style="mix-blend-mode:difference">{BOX} fill="#40a0e0"/><circle cx="30" cy="30" r="20"/></g>'
    ),
    "blending within a group that is set apart": svg(
        f'<rect width="60" height="100" fill="#e0a040"/><g style="isolation:isolate"><circle cx="60" cy="50" r="30" fill="#a0e040"/>{BOX} fill="#40a0e0" style="mix-blend-mode:screen"/></g>'
    ),
    "blending within a clip": svg(
        f'<rect width="60" height="100" fill="#e0a040"/><g clip-path="url(#c)">{BOX} fill="#40a0e0" style="mix-blend-mode:exclusion"/></g>',
        '<clipPath id="c"><circle cx="50" cy="50" r="30"/></clipPath>',
    ),
    "a mask that only clips": svg(
        f'<g mask="url(#m)">{BOX} fill="teal"/></g>',
        '<mask id="m"><circle cx="50" cy="50" r="25" fill="#fff"/><path d="M10 10H30V90H10Z" fill="white"/></mask>',
    ),
    "a mask by how opaque it is": svg(
        f'<g mask="url(#m)">{BOX} fill="teal"/></g>',
        '<mask id="m" style="mask-type:alpha" maskUnits="userSpaceOnUse" x="0" y="0" width="55" height="100"><circle cx="50" cy="50" r="25" fill="#123"/></mask>',
    ),
    "a clip as large as a group": svg(
        f'<g clip-path="url(#c)">{BOX} fill="teal"/><circle cx="20" cy="20" r="10"/></g>',
        '<clipPath id="c" clipPathUnits="objectBoundingBox"><circle cx=".5" cy=".5" r=".4"/></clipPath>',
    ),
    "turned about its own middle": svg(
        "<style>.t { transform-box: fill-box; transform-origin: center; transform: rotate(40deg) }</style>"
        '<g class="t" fill="teal"><rect x="10" y="20" width="30" height="20"/><rect class="t" x="60" y="60" width="30" height="10"/></g>'
    ),
    "lines under the fill, with markers between": svg(
        f'{BOX} fill="teal" stroke="#204060" stroke-width="14" paint-order="markers stroke"/>'
    ),
    "a clip that shows what only shows another": svg(
        f'<g clip-path="url(#c)">{BOX} fill="teal"/></g><circle r="20"/>',
        '<path id="p" d="M0 0H50V50H0Z"/><use id="u" href="#p"/><clipPath id="c"><use href="#u"/></clipPath>',
    ),
    "embedded pictures": svg(
        f'<image href="{EMBEDDED}" x="5" y="5" width="60" height="30"/>'
        f'<image href="{EMBEDDED}" x="10" y="50" width="40" height="40" preserveAspectRatio="xMaxYMin slice" transform="rotate(10 30 70)"/>'
        f'<image href="{EMBEDDED}" x="70" y="40" width="25" height="50" preserveAspectRatio="none" opacity=".5"/>'
    ),
}
BLUR = '<filter id="f"><feGaussianBlur stdDeviation="2"/></filter>'
FALLEN: dict[str, bytes] = {
    "styles by place among others": svg(
        "<style>g > rect:nth-child(2) { fill: teal } g[id] > circle ~ rect { filter: url(#f) }</style>"
        '<g id="a" stroke="#204060"><circle cx="20" cy="20" r="15" fill="gold"/><rect x="30" y="30" width="50" height="40"/></g>',
        BLUR,
    ),
    "percentages in a drawing in a drawing": svg(
        '<svg x="10" y="10" width="40" height="40" viewBox="0 0 200 200" overflow="visible"><rect x="10%" width="80%" height="50%" fill="teal" filter="url(#f)"/></svg>',
        BLUR.replace('"2"', '"12"'),
    ),
    "a picture between others, in order": svg(
        '<circle cx="30" cy="40" r="25" fill="gold"/><rect x="20" y="40" width="60" height="30" fill="teal" filter="url(#f)"/><circle cx="70" cy="60" r="20" fill="#a03050"/>',
        BLUR,
    ),
    "a filter on all": svg(
        f'{BOX} fill="teal"/>', BLUR, attributes='width="200" height="200" viewBox="0 0 100 100" filter="url(#f)"'
    ),
    "a filter on a group that holds pieces": svg(
        f'<g filter="url(#f)" transform="rotate(8)"><g id="gull" transform="scale(.9)">{BOX} fill="teal"/></g></g>',
        BLUR,
    ),
    "a mask that fades": svg(
        f'<g mask="url(#m)">{BOX} fill="teal"/></g>',
        '<linearGradient id="g"><stop stop-color="#fff"/><stop offset="1"/></linearGradient><mask id="m"><rect width="100" height="100" fill="url(#g)"/></mask>',
    ),
    "a pattern by the colours around it": svg(
        f'<g color="#c04020">{BOX} fill="url(#p)"/></g>',
        '<g color="#2060a0"><pattern id="p" width="8" height="8" patternUnits="userSpaceOnUse"><rect width="4" height="8" fill="currentColor"/></pattern></g>',
    ),
    "markers on a line": svg(
        '<path d="M20 70L50 30L80 70" fill="none" stroke="#204060" stroke-width="5" marker-mid="url(#k)" marker-end="url(#k)"/>',
        '<marker id="k" markerWidth="4" markerHeight="4" refX="2" refY="2"><circle cx="2" cy="2" r="2" fill="gold"/></marker>',
    ),
    "letters by the short word for fonts": svg(
        '<text x="8" y="60" style="font: bold 30px/1.2 \'DejaVu Sans\', sans-serif" fill="teal">Nine</text>'
    ),
    "a filter in what is used, in millimetres": svg(
        '<g fill="teal"><use href="#p" x="5mm" y="5mm"/></g>',
        f'{BLUR}<g id="p" filter="url(#f)"><rect width="12mm" height="10mm"/></g>',
    ),
}


@pytest.mark.parametrize("name", FALLEN)
def test_what_has_to_be_a_picture_looks_as_a_browser_draws_it(name: str, easel: Page) -> None:
    found = compared(FALLEN[name], easel)
    assert any("became a picture" in note for note in found.notes)
    # All else is as it was drawn.
    shapes = FALLEN[name].count(b"#a03050") + FALLEN[name].count(b"gold") - FALLEN[name].count(b"marker id")
    nodes = [node for piece in found.pieces for node in piece.art.nodes]
    assert sum(node.kind == "shape" for node in nodes) == shapes
    assert sum(node.kind != "shape" for node in nodes) == 1


@pytest.mark.parametrize("name", DRAWINGS)
def test_a_drawing_is_brought_in_as_a_browser_draws_it(name: str, easel: Page) -> None:
    found = compared(DRAWINGS[name], easel)
    assert not any("became a picture" in note for note in found.notes), found.notes


@pytest.fixture(scope="module")
def easel(browser: Browser) -> Iterator[Page]:
    """A page to draw on, for one drawing after the other."""
    page = browser.new_page(viewport={"width": 200, "height": 200})
    yield page
    page.close()


def compared(data: bytes, page: Page) -> Imported:
    """What is brought in of a drawing, once it has been held against the browser's picture of it."""
    page.set_content(
        "<style>body{margin:0;background:white}svg{display:block}body>svg{width:200px;height:200px}</style>"
        + data.decode()
    )
    settle(page)  # of what was never shown there is no picture
    theirs = decoded(page.screenshot())[:, :, :3].astype(int)
    found = read_file(data, "drawing.svg", True)
    ours = drawn(found, round(found.frame[0]), round(200 / found.frame[0]))
    over_white = ours[:, :, :3] * (ours[:, :, 3:] / 255) + 255 - ours[:, :, 3:].astype(float)
    off = np.abs(over_white - theirs).max(axis=2) > 48
    assert off.mean() < 0.01, f"{off.mean():.1%} of the picture"
    assert (theirs < 250).any(), "the browser shows nothing"
    return found
