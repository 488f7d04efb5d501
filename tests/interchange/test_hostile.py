"""Files that are broken or meant to do harm: a clear message each, and quickly."""

from __future__ import annotations

import base64
import struct

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from sorvan.core.errors import Refusal
from sorvan.interchange.files import read_file
from tests.interchange.art import chunk, drawn, png, svg

DOT = np.full((4, 4, 4), 255, dtype=np.uint8)
HUGE = (
    b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", struct.pack(">IIBBBBB", 40_000, 40_000, 8, 6, 0, 0, 0)) + chunk(b"IEND", b"")
)
BOMB = b'<!DOCTYPE svg [<!ENTITY a "hahaha"><!ENTITY b "&a;&a;&a;&a;">]><svg xmlns="http://www.w3.org/2000/svg"><text>&b;</text></svg>'
OUTSIDE = b'<!DOCTYPE svg [<!ENTITY x SYSTEM "file:///etc/passwd">]><svg xmlns="http://www.w3.org/2000/svg"><text>&x;</text></svg>'
BAD: dict[str, tuple[bytes, str, str]] = {
    "empty": (b"", "The file is empty", "empty"),
    "truncated PNG": (png(DOT)[:-20], "breaks off or is damaged", "damaged"),
    "PNG with a flipped bit": (png(DOT).replace(b"IDAT\x78", b"IDAT\x79"), "breaks off or is damaged", "damaged"),
    "40,000 pixels square": (HUGE, "40,000 × 40,000 pixels", "too-large"),
    "clear PNG": (png(np.zeros((4, 4, 4), np.uint8)), "every pixel is clear", "refused"),
    "wrong type": (b"GIF89a" + bytes(60), "not a kind of file", "wrong-type"),
    "program": (b"\x7fELF" + bytes(60), "not a kind of file", "wrong-type"),
    "other XML": (b"<html><body/></html>", "not an SVG drawing", "wrong-type"),
    "broken XML": (b'<svg xmlns="http://www.w3.org/2000/svg"><g>', "not well-formed XML", "damaged"),
    "script": (svg("<script>alert(1)</script><rect width='9' height='9'/>"), "contains a script", "unsafe"),
    "event": (svg("<rect onclick='alert(1)' width='9' height='9'/>"), "contains a script", "unsafe"),
    "outside picture": (
        svg("<image href='http://example.org/a.png' width='9' height='9'/>"),
        "refers to something outside",
        "unsafe",
    ),
    "file on this machine": (
        svg("<image xlink:href='/etc/passwd' width='9' height='9'/>"),
        "refers to something outside",
        "unsafe",
    ),
    "outside style": (svg("<style>@import 'a.css';</style>"), "refers to something outside", "unsafe"),
    "outside paint": (
        svg("<rect fill='url(http://example.org/#a)' width='9' height='9'/>"),
        "refers to something outside",
        "unsafe",
    ),
    "entity bomb": (BOMB, "entities of its own", "unsafe"),
    "outside entity": (OUTSIDE, "entities of its own", "unsafe"),
    "deep nesting": (svg("<g>" * 5000 + "</g>" * 5000), "nested more than", "too-deep"),
    "nothing shown": (svg('<g id="a"/>'), "shows nothing", "refused"),
    "huge picture inside": (
        svg(f"<image href='data:image/png;base64,{base64.b64encode(HUGE).decode()}' width='9' height='9'/>"),
        "40,000 × 40,000",
        "too-large",
    ),
}


@pytest.mark.parametrize("name", BAD)
def test_bad_files_are_refused_in_words(name: str) -> None:
    data, words, kind = BAD[name]
    with pytest.raises(Refusal) as refused:
        read_file(data, "bad.svg")
    assert words in refused.value.what
    assert refused.value.kind == kind
    assert refused.value.where


def test_uses_that_multiply_are_stopped() -> None:
    defs = '<g id="u0"><rect width="1" height="1"/></g>' + "".join(
        f'<g id="u{i}">' + f'<use href="#u{i - 1}"/>' * 10 + "</g>" for i in range(1, 9)
    )
    with pytest.raises(Refusal, match="repeats parts of itself"):
        read_file(svg('<g id="bomb"><use href="#u8"/></g>', defs), "bad.svg")


def test_a_use_of_itself_draws_what_there_is() -> None:
    result = read_file(svg('<g id="a"><rect width="9" height="9"/><use href="#a" x="20"/></g>'), "a.svg")
    assert drawn(result)[4, 4, 3] == 255


@settings(max_examples=150, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(st.data())
def test_mutilated_files_are_read_or_refused_and_nothing_else(data: st.DataObject) -> None:
    good = data.draw(
        st.sampled_from(
            [
                svg(
                    '<g id="a" transform="scale(2)"><path d="M0 0C1 2 3 4 5 6Z" fill="url(#g)"/></g>',
                    '<linearGradient id="g"><stop offset="1"/></linearGradient>',
                ),
                svg(
                    '<style>.x{fill:red;stroke:blue}</style><g id="a" clip-path="url(#c)"><rect class="x" width="9" height="9"/></g>',
                    '<clipPath id="c"><circle r="5"/></clipPath>',
                ),
                png(DOT),
            ]
        )
    )
    broken = bytearray(good)
    for _ in range(data.draw(st.integers(1, 8))):
        at = data.draw(st.integers(0, len(broken) - 1))
        match data.draw(st.sampled_from(["cut", "put", "drop", "double"])):
            case "cut":
                broken = broken[: at + 1]
            case "put":
                broken[at] = data.draw(st.integers(0, 255))
            case "drop":
                del broken[at : at + data.draw(st.integers(1, 9))]
            case "double":
                broken[at:at] = broken[max(0, at - 20) : at]
        if not broken:
            break
    try:
        result = read_file(bytes(broken), "broken.svg", loose=True)
    except Refusal as refusal:
        assert refusal.what.endswith((".", "]")) or ":" in refusal.what
    else:
        assert result.pieces
