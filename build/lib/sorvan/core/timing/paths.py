"""The path of a place through its keys: straight, or smooth through keys that have tangents."""

from __future__ import annotations

import numpy as np

from sorvan.core.geometry import Point
from sorvan.core.geometry.curves import Cubic, cubic
from sorvan.core.model.channel import Key

SHARE = 1 / 3
"""How far a tangent that comes out by itself reaches towards the key on its side."""


def tangents(keys: list[Key], ring: bool) -> list[tuple[Point, Point]]:
    """For each key where the handles of its curves lie before and after it, seen from the key (units).

    A tangent that is not given runs along the line between the keys on both sides, a third of the way
    to each (Catmull and Rom 1974, with each handle as long as its own side asks, so that a path does
    not swing out where keys crowd). At an open end it leads to the next key's handle. On a `ring` the
    last key is the first again.
    """
    places = np.array([complex(*k.value) for k in keys])
    found = [_at(keys, places, i, ring) for i in range(len(keys))]
    return [_open_end(keys, places, found, i, ring) for i in range(len(keys))]


def _at(keys: list[Key], places: np.ndarray, i: int, ring: bool) -> tuple[Point, Point]:
    given, last = keys[i].tangents, len(keys) - 1
    if given is None:
        return (0.0, 0.0), (0.0, 0.0)
    before = places[i - 1] if i else places[last - 1] if ring else places[i]
    after = places[i + 1] if i < last else places[1] if ring else places[i]
    along = after - before
    way = along / abs(along) if abs(along) > 1e-12 else 0j
    if i in (0, last) and not ring:
        way = 0j
    back, on = -way * abs(places[i] - before) * SHARE, way * abs(after - places[i]) * SHARE
    return given.before or (back.real, back.imag), given.after or (on.real, on.imag)


def _open_end(
    keys: list[Key], places: np.ndarray, found: list[tuple[Point, Point]], i: int, ring: bool
) -> tuple[Point, Point]:
    """An end that nothing leads on from: its handle lies half way to the next key's."""
    given, last = keys[i].tangents, len(keys) - 1
    if ring or given is None or last == 0:
        return found[i]
    before, after = found[i]
    if i == 0 and given.after is None:
        after = _half(places[0], places[1] + complex(*found[1][0]))
    if i == last and given.before is None:
        before = _half(places[last], places[last - 1] + complex(*found[last - 1][1]))
    return before, after


def _half(here: complex, there: complex) -> Point:
    way = (there - here) / 2
    return way.real, way.imag


def curves(keys: list[Key], ring: bool) -> dict[int, Cubic]:
    """The curve of every gap, by its place, whose path is not straight."""
    if all(k.tangents is None for k in keys):
        return {}
    handles = tangents(keys, ring)
    found: dict[int, Cubic] = {}
    for i in range(len(keys) - 1):
        if keys[i].tangents is None and keys[i + 1].tangents is None:
            continue
        (ax, ay), (dx, dy) = keys[i].value, keys[i + 1].value
        (bx, by), (cx, cy) = handles[i][1], handles[i + 1][0]
        curve = cubic(((ax, ay), (ax + bx, ay + by), (dx + cx, dy + cy), (dx, dy)))
        if curve.length > 1e-9:
            found[i] = curve
    return found
