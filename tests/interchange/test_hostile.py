"""Files that are broken or meant to do harm: a clear message each, and quickly."""

from __future__ import annotations

import base64
import resource
import struct
from typing import Any
from xml.etree.ElementTree import tostring

import numpy as np
import pytest
import skia
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from sorvan.core.errors import Refusal
from sorvan.interchange.files import read_file
from sorvan.interchange.svg.guard import parse
from sorvan.interchange.svg.plain import plain
from tests.interchange.art import chunk, drawn, openraster, patch, png, svg

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
    "file on this machine by another prefix": (
        b'<svg xmlns="http://www.w3.org/2000/svg" xmlns:v="http://www.w3.org/2000/svg">'
        b"<g id='a'><image v:href='/etc/passwd' width='9' height='9'/><text>a</text></g></svg>",
        "refers to something outside",
        "unsafe",
    ),
    "file on this machine by a name of another's": (
        svg("<g id='a'><image xmlns:q='urn:q' q:HREF='/dev/zero' width='9' height='9'/></g>"),
        "refers to something outside",
        "unsafe",
    ),
    "numbers beyond all measure": (
        svg(
            "<g id='a' transform='scale(1e9)'><g transform='scale(1e300) scale(1e9)'>"
            + "<g transform='scale(1e9)'>" * 40
            + "<rect width='9' height='9'/>"
            + "</g>" * 42
        ),
        "numbers too large",
        "damaged",
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


SQUARE = '<g id="a"><rect width="9" height="9" class="b"/></g>'
NAMED = (
    b'<!DOCTYPE svg [<!ENTITY ns "http://www.w3.org/2000/svg"><!ENTITY tone "fill:#20a060">]>'
    b'<svg xmlns="&ns;" width="100" height="100"><g id="a"><rect width="9" height="9" style="&tone;"/></g></svg>'
)
HARMLESS: dict[str, tuple[bytes, str]] = {
    "entities that stand for words": (NAMED, ""),
    "a font that is in it": (
        svg(
            f"<style>@font-face{{font-family:q;src:url(data:font/woff2;base64,AA)}} .b{{fill:#20a060}}</style>{SQUARE}"
        ),
        "fonts of its own",
    ),
    "a font that is elsewhere": (
        svg(
            "<style>/* url(http://a.example/x) */ @import url('http://a.example/css?family=Quay');"
            f" @font-face{{src:url(http://a.example/q.woff)}} .b{{fill:#20a060}}</style>{SQUARE}"
        ),
        "fonts of its own",
    ),
    "namespaces in its styles": (
        svg(
            "<style>@namespace url(http://www.w3.org/2000/svg); @namespace q 'urn:q'; q|rect{fill:red} .b{fill:#20a060}</style>"
            + SQUARE
        ),
        "",
    ),
    "colour profiles and what else draws nothing": (
        svg(
            "<style>.b{fill:#20a060}</style><color-profile name='p' xlink:href='http://a.example/p.icc'/>"
            f"<v:view xmlns:v='urn:v' v:href='file:///a'/>{SQUARE}",
            "<image id='unused' href='http://a.example/a.png' width='9' height='9'/>",
        ),
        "outside itself that it does not show",
    ),
}


@pytest.mark.parametrize("name", HARMLESS)
def test_what_does_no_harm_is_read(name: str) -> None:
    data, told = HARMLESS[name]
    found = read_file(data, "quay.svg")
    assert drawn(found)[4, 4].tolist() == [0x20, 0xA0, 0x60, 255]
    assert any(told in note for note in found.notes) if told else not found.notes


@pytest.mark.parametrize(
    "entity",
    [f'"{"a" * 70_000}"', '"&lt;&amp;"', 'SYSTEM "file:///etc/passwd"', f'"{"a" * 60_000}"'],
)
def test_entities_that_may_do_harm_are_refused(entity: str) -> None:
    body = "<title>" + "&q;" * 400 + "</title>"
    data = f'<!DOCTYPE svg [<!ENTITY q {entity}>]><svg xmlns="http://www.w3.org/2000/svg">{body}</svg>'
    with pytest.raises(Refusal, match="entities of its own"):
        read_file(data.encode(), "quay.svg")


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
    with pytest.raises(Refusal, match="shapes, those that it repeats"):
        read_file(svg('<g id="bomb"><use href="#u8"/></g>', defs), "bad.svg")


def test_a_use_of_itself_draws_what_there_is() -> None:
    result = read_file(svg('<g id="a"><rect width="9" height="9"/><use href="#a" x="20"/></g>'), "a.svg")
    assert drawn(result)[4, 4, 3] == 255


def _seeds() -> dict[str, bytes]:
    whole = svg(
        '<g id="a" transform="rotate(5)"><path d="M1 1C2 9 8 9 9 1Z" fill="url(#g)" stroke="red"/></g>'
        '<g id="b" clip-path="url(#c)" opacity=".5"><use href="#d" x="3"/></g>',
        '<linearGradient id="g"><stop offset="0" stop-color="#123"/><stop offset="1"/></linearGradient>'
        '<clipPath id="c"><rect width="9" height="9"/></clipPath><circle id="d" r="4"/>',
    )
    layers = {"data/1.png": png(patch(12, 9, (2, 2, 8, 7), (9, 99, 199))), "data/2.png": png(DOT)}
    stack = (
        '<layer name="one" src="data/1.png" x="3" y="-2"/><stack name="s"><layer name="two" src="data/2.png"/></stack>'
    )
    pixels = skia.Image.fromarray(patch(20, 20, (3, 3, 15, 15), (200, 100, 0)), colorType=skia.kRGBA_8888_ColorType)
    webp = bytes(pixels.encodeToData(skia.kWEBP, 90))
    jpeg = bytes(pixels.encodeToData(skia.kJPEG, 90))
    return {
        "a.jpg": jpeg,
        "a.svg": whole,
        "a.ora": openraster(stack, layers),
        "a.png": layers["data/1.png"],
        "a.webp": webp,
    }


SEEDS = _seeds()
mutations = st.lists(
    st.one_of(
        st.tuples(st.just("set"), st.floats(0, 1), st.binary(min_size=1, max_size=4)),
        st.tuples(st.just("cut"), st.floats(0, 1), st.integers(1, 40)),
        st.tuples(st.just("repeat"), st.floats(0, 1), st.integers(2, 60)),
    ),
    min_size=1,
    max_size=6,
)


def _mutated(data: bytes, changes: list[Any]) -> bytes:
    body = bytearray(data)
    for what, where, how in changes:
        at = int(where * max(0, len(body) - 1))
        if what == "set":
            body[at : at + len(how)] = how
        elif what == "cut":
            del body[at : at + how]
        else:
            body[at:at] = body[at : at + 24] * how
    return bytes(body)


@pytest.mark.parametrize("name", sorted(SEEDS))
@settings(deadline=5000, suppress_health_check=[HealthCheck.too_slow])
@given(changes=mutations)
def test_any_damaged_file_comes_in_or_is_refused_in_words(name: str, changes: list[Any]) -> None:
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    try:
        found = read_file(_mutated(SEEDS[name], changes), name)
    except Refusal as refusal:
        assert refusal.what.endswith(".") and refusal.where
    else:
        assert found.pieces and all(np.isfinite(p.art.bounds).all() for p in found.pieces)
    assert resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before < 512 * 1024


def test_the_rasteriser_is_given_a_copy_that_can_reach_nothing() -> None:
    root = parse(
        b'<svg xmlns="http://www.w3.org/2000/svg" xmlns:v="urn:v" xmlns:xlink="http://www.w3.org/1999/xlink">'
        b'<a href="http://quay.example/"><text font-size="9" v:secret="x">Last <v:aside>ferry</v:aside> at <tspan>nine</tspan></text></a>'
        b'<use xlink:href="#t"/><foreignObject><v:body/></foreignObject><animate attributeName="href"/></svg>',
        "sign.svg",
    )
    # What got past the guard all the same would not be carried over either.
    root[1].set("{http://www.w3.org/2000/svg}href", "/etc/passwd")
    root[1].set("onload", "x")
    copy = plain(root)
    said = tostring(copy, encoding="unicode")
    assert [e.tag.rpartition("}")[2] for e in copy.iter()] == ["svg", "a", "text", "tspan", "use"]
    assert "".join(copy.itertext()) == "Last  at nine" and 'href="#t"' in said
    assert not any(word in said for word in ("passwd", "secret", "quay.example", "onload", "foreign", "animate"))


@pytest.mark.parametrize(
    ("attributes", "inside", "width"),
    [
        ('viewBox="0 0 100 100 none"', '<rect width="10" height="10"/>', 10),
        ('viewBox="0-0-100"', '<rect width="10" height="10"/>', 10),
        ('viewBox="0 0 1e999 100"', '<rect width="10" height="10"/>', 10),
        ('viewBox="-5-5 20 20"', '<rect width="10" height="10"/>', 10),
        ("", '<rect width="10" height="10" stroke="red" stroke-width="2" stroke-miterlimit="4px"/>', 12),
        ("", '<rect x="1e400" width="10" height="10"/>', 10),
        ("", '<path d="M0 0H10V10z M0 0 L1e400 7"/>', 10),
        ("", '<polygon points="0,0 10,0 10,10 1e400,3"/>', 10),
        ("", '<rect width="10" height="10" transform="translate(1e400)"/>', 10),
    ],
)
def test_a_number_that_means_nothing_spoils_nothing_else(attributes: str, inside: str, width: float) -> None:
    data = f'<svg xmlns="http://www.w3.org/2000/svg" {attributes}><g id="sign">{inside}</g></svg>'.encode()
    (found,) = read_file(data, "sign.svg").pieces
    left, _, right, _ = found.art.bounds
    assert right - left == pytest.approx(width, rel=0.01)
