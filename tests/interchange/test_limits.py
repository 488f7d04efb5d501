"""What the README says of limits is what holds."""

from __future__ import annotations

import re
from collections.abc import Callable
from itertools import pairwise
from typing import Any

import pytest

from sorvan.core.model.art import Picture
from sorvan.interchange import limits
from sorvan.interchange.pictures import decode
from sorvan.interchange.svg import read
from sorvan.interchange.svg.read import read_svg
from sorvan.store.sweep import GRACE
from tests.conftest import ROOT
from tests.interchange.art import svg


def test_the_readme_tells_the_limits_that_hold() -> None:
    readme = (ROOT / "README.md").read_text()
    told = readme[readme.index("## What comes in") : readme.index("## More")]
    numbers = [int(n.replace(",", "")) for n in re.findall(r"\d[\d,]*", told)]
    assert numbers == [
        limits.MEMORY >> 20,
        limits.LONGEST,
        limits.STANDSTILL,
        limits.BYTES >> 20,
        limits.PIXELS // 1_000_000,
        limits.SIDE,
        limits.ALL_PIXELS // 1_000_000,
        limits.ELEMENTS,
        limits.DEPTH,
        limits.SHAPES,
        limits.CLIPS,
    ]
    assert GRACE == 24 * 3600 and "after a day" in told


def test_looking_where_loose_shapes_lie_comes_on_with_every_one() -> None:
    body = "".join(f'<rect x="{i}" width="3" height="3"/>' for i in range(400))
    told: list[float] = []
    read_svg(svg(body), "many.svg", progress=told.append)
    # Nothing is brought in yet while it is looked, and what reads is not taken to stand still.
    assert sum(part == 0 for part in told) >= 400


def test_looking_part_by_part_comes_on_between_all_that_takes_long(monkeypatch: pytest.MonkeyPatch) -> None:
    done: list[str] = []

    def heard(name: str, does: Callable[..., Any]) -> Callable[..., Any]:
        def heard(*given: Any) -> Any:
            done.append(name)
            return does(*given)

        return heard

    monkeypatch.setattr(read, "thumbnail", heard("drawn", read.thumbnail))
    monkeypatch.setattr(read, "art_of", heard("gathered", read.art_of))
    monkeypatch.setattr(read.Cutter, "as_it_lies", heard("cut", read.Cutter.as_it_lies))
    tiles = "".join(f'<rect x="{i % 90}" y="{i // 90}" width="1" height="1"/>' for i in range(900))
    read.parts_of(svg(tiles), "many.svg", lambda _: done.append("on"))
    assert done.count("drawn") == 400 and done.count("cut") == 1
    assert all("on" in (one, two) for one, two in pairwise(done)) and done[-1] == "on"


def test_a_filter_on_more_than_shows_is_not_worked_out_finer_than_there_is_room_for() -> None:
    veiled = (
        '<mask id="m"><g filter="url(#f)"><rect width="100" height="100" fill="#fff"/></g></mask>'
        '<filter id="f"><feGaussianBlur stdDeviation=".01"/></filter>'
    )
    speck = '<rect x="50" y="50" width=".1" height=".05" {}/>'
    for attributes, least, most in (('mask="url(#m)"', 2, 9), ('filter="url(#f)"', 240, 400)):
        (piece,) = (found := read_svg(svg(f'<g id="speck">{speck.format(attributes)}</g>', veiled), "speck.svg")).pieces
        (picture,) = piece.art.nodes
        assert isinstance(picture, Picture)
        assert least <= max(decode(found.assets[picture.asset][1], "speck").shape) <= most
        # Coarse as it is, it is where it was.
        middle = ((piece.art.bounds[0] + piece.art.bounds[2]) / 2, (piece.art.bounds[1] + piece.art.bounds[3]) / 2)
        assert middle == pytest.approx((50.05, 50.025), abs=0.02)
