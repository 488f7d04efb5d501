"""Drawings are brought in as a browser draws them."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pytest
from playwright.sync_api import Page

from sorvan.interchange.files import read_file
from tests.browser.hands import decoded
from tests.interchange.art import drawn, svg

RING = 'fill="none" stroke="#204060" stroke-width="8"'
BOX = '<rect width="60" height="60" x="20" y="20"'
STOPS = '<stop offset="0" stop-color="currentColor"/><stop offset="1" stop-color="inherit"/>'
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
}


@pytest.mark.parametrize("name", DRAWINGS)
def test_a_drawing_is_brought_in_as_a_browser_draws_it(name: str, new_page: Callable[..., Page]) -> None:
    page = new_page(200, 200)
    page.set_content(
        "<style>body{margin:0;background:white}svg{display:block;width:200px;height:200px}</style>"
        + DRAWINGS[name].decode()
    )
    theirs = decoded(page.screenshot())[:, :, :3].astype(int)
    found = read_file(DRAWINGS[name], "drawing.svg")
    assert not any("picture" in note for note in found.notes), found.notes
    ours = drawn(found, 100, 2)
    over_white = ours[:, :, :3] * (ours[:, :, 3:] / 255) + 255 - ours[:, :, 3:].astype(float)
    off = np.abs(over_white - theirs).max(axis=2) > 48
    assert off.mean() < 0.01, f"{off.mean():.1%} of the picture"
    assert (theirs < 250).any(), "the browser shows nothing"
