"""Loose pieces as they lie on the stage: their outlines, where they touch, and where they would turn."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely
from shapely.affinity import affine_transform
from shapely.geometry.base import BaseGeometry
from shapely.ops import nearest_points

from sorvan.core.art.outlines import silhouette
from sorvan.core.art.source import Arts
from sorvan.core.errors import Refusal
from sorvan.core.geometry import Affine, Point
from sorvan.core.model.puppet import Piece, Puppet
from sorvan.core.rig.skeleton import box_of, piece_worlds

ROUGH = 0.003
"""The part of the puppet's size by which its outlines are made simpler."""
LONG = 1.5
"""How many times as long as wide a piece is at least that turns at an end of it."""
COVERED = 0.6
"""The part of a piece from which on it lies upon another."""


@dataclass(frozen=True, eq=False)
class Cutout:
    """A piece as it lies on the stage."""

    piece: Piece
    shape: BaseGeometry

    @cached_property
    def area(self) -> float:
        """Square units that it covers."""
        return float(max(self.shape.area, 1e-9))

    @cached_property
    def middle(self) -> Point:
        """The middle of its area."""
        c = self.shape.centroid
        return (c.x, c.y)

    @cached_property
    def _lying(self) -> tuple[complex, complex, float]:
        """Both ends of the box that fits it best, from end to end, and how wide that is."""
        ring = np.asarray(shapely.oriented_envelope(self.shape).exterior.coords)[:4]
        p = ring[:, 0] + 1j * ring[:, 1]
        sides = np.abs(np.roll(p, -1) - p)
        k = 0 if sides[0] >= sides[1] else 1
        a, b = (p[k] + p[(k + 3) % 4]) / 2, (p[k + 1] + p[(k + 2) % 4]) / 2
        return complex(a), complex(b), float(min(sides[0], sides[1]))

    @property
    def long(self) -> bool:
        """Whether it is a limb by its form."""
        a, b, wide = self._lying
        return abs(b - a) >= LONG * max(wide, 1e-9)

    @property
    def length(self) -> float:
        """From end to end."""
        a, b, _ = self._lying
        return abs(b - a)

    @property
    def width(self) -> float:
        """Across, where it is a limb."""
        return max(self._lying[2], 1e-9)

    @property
    def tips(self) -> tuple[complex, complex]:
        """The middles of its outermost edges at both ends."""
        return self._lying[:2]

    @property
    def ends(self) -> tuple[complex, complex]:
        """The middles of its two rounded ends."""
        a, b, wide = self._lying
        way = (b - a) / max(abs(b - a), 1e-9)
        return a + way * wide / 2, b - way * wide / 2


def cutouts(puppet: Puppet, arts: Arts, ids: list[str]) -> dict[str, Cutout]:
    """These pieces, by their joints, as they lie on the stage."""
    worlds = piece_worlds(puppet)
    boxes = [box_of(puppet.pieces[id], worlds[id]) for id in ids]
    size = max(max(b[k + 2] for b in boxes) - min(b[k] for b in boxes) for k in (0, 1))
    found: dict[str, Cutout] = {}
    for id in ids:
        held = puppet.pieces[id]
        shape = affine_transform(_outline(held, arts), _shapely(worlds[id]))
        simple = shape.simplify(ROUGH * size).buffer(0)
        found[held.joint] = Cutout(held, shape if simple.is_empty else simple)
    return found


def _outline(held: Piece, arts: Arts) -> BaseGeometry:
    drawing = held.shown()

    def make() -> BaseGeometry:
        try:
            return silhouette(arts.art(drawing.art), arts)
        except Refusal:
            return shapely.box(*drawing.bounds)

    return arts.kept(("silhouette", drawing.art), make)


def _shapely(m: Affine) -> list[float]:
    return [m.a, m.c, m.b, m.d, m.e, m.f]


class Contacts:
    """Where pieces of a puppet touch."""

    def __init__(self, found: dict[str, Cutout]) -> None:
        self.found = found
        self._over: dict[tuple[str, str], BaseGeometry] = {}

    def over(self, one: str, other: str) -> BaseGeometry:
        """What two pieces both cover."""
        key = (one, other) if one < other else (other, one)
        if key not in self._over:
            self._over[key] = self.found[one].shape.intersection(self.found[other].shape)
        return self._over[key]

    def covered(self, one: str, other: str) -> float:
        """The part of one that lies upon, or under, the other."""
        return float(self.over(one, other).area) / self.found[one].area

    def gap(self, one: str, other: str) -> float:
        """Units between two pieces."""
        return float(self.found[one].shape.distance(self.found[other].shape))

    def touch(self, one: str, other: str) -> float:
        """How surely two pieces meet, 0 to 1: they overlap, or lie apart by less than half of the smaller one's size."""
        if self.covered(one, other) > 0.005 or self.covered(other, one) > 0.005:
            return 1.0
        small = min(math.sqrt(self.found[one].area), math.sqrt(self.found[other].area))
        return max(0.0, 1.0 - self.gap(one, other) / (0.5 * small))

    def strength(self, one: str, other: str) -> float:
        """How much two pieces have of one another: the part of the smaller one that both cover; a little where they only
        touch."""
        small = min(self.found[one].area, self.found[other].area)
        share = float(self.over(one, other).area) / small
        return share if share > 0.005 else 0.02 if self.touch(one, other) >= 0.8 else 0.0

    def ends_in(self, one: str, other: str) -> bool:
        """Whether a long piece has an end in, or no farther than its own width from, another."""
        held = self.found[one]
        ends = (shapely.Point(e.real, e.imag) for e in held.tips)
        return any(self.found[other].shape.distance(e) <= held.width for e in ends)

    def meeting(self, one: str, other: str) -> Point:
        """The middle of where two pieces meet, on the first."""
        over = self.over(one, other)
        if over.area > 0:
            c = over.centroid
            return (c.x, c.y)
        near, _ = nearest_points(self.found[one].shape, self.found[other].shape)
        return (near.x, near.y)

    def _depth(self, place: complex, id: str) -> float:
        """How far within a piece a place lies, units; without, less than nothing."""
        shape, point = self.found[id].shape, shapely.Point(place.real, place.imag)
        return float(shape.boundary.distance(point)) * (1 if shape.contains(point) else -1)

    def pin(self, id: str, parent: str, beyond: list[str], limb: bool = False) -> Point | None:
        """Where a piece turns on its parent: where the two overlap; a long piece at the end that what hangs on it,
        `beyond`, is not at. A `limb` that lies upon its parent hangs by its upper end, any other long piece by the one
        deeper within. None where it lies upon the parent, and may turn about its own middle."""
        held, covered = self.found[id], self.covered(id, parent)
        meeting = self.meeting(id, parent)
        if not held.long or (covered > 0.95 and not limb):
            return None if covered >= COVERED and not beyond else meeting
        ends, at = held.ends, complex(*meeting)
        far = [complex(*self.meeting(id, other)) for other in beyond]
        if far:
            middle = sum(far) / len(far)
            end = max(ends, key=lambda e: abs(e - middle))
        elif covered >= COVERED:
            end = min(ends, key=lambda e: e.imag) if limb else max(ends, key=lambda e: self._depth(e, parent))
        else:
            end = min(ends, key=lambda e: abs(e - at))
        if covered < COVERED / 2 and abs(at - end) < 0.35 * held.length:
            return meeting
        return (end.real, end.imag)
