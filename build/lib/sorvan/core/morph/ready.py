"""A drawing that can become another, and what it is at any part of the way."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from sorvan.core.geometry import Floats, Point
from sorvan.core.model.art import Art, Box
from sorvan.core.model.puppet import Morph
from sorvan.core.morph import way
from sorvan.core.morph.colours import between
from sorvan.core.morph.looks import settled


@dataclass(frozen=True, eq=False)
class Going:
    """A shape on its way: which of the drawings' shapes it was and will be, which of the points are its own, contour by
    contour, and whether these are closed."""

    first: int | None
    second: int | None
    contours: tuple[slice, ...]
    closed: tuple[bool, ...]
    filled: bool
    name: str = ""

    @property
    def own(self) -> slice:
        """Which of the points are its own."""
        return slice(self.contours[0].start, self.contours[-1].stop)


@dataclass(frozen=True, eq=False)
class Met:
    """A mark as it is kept: which point it is, where it is in both drawings (units in which their pivots lie at
    nought), and how long it stays (a part of the way)."""

    id: str
    point: int
    first: Point
    second: Point
    stays: float


@dataclass(frozen=True, eq=False)
class Ready:
    """A drawing that can become another. `art` is what the painters draw once points and looks are in it, in units in
    which the pivots of both lie at nought; `box` holds both.

    `points` `(2, n, 2)` and `looks` `(2, m)` are those of both ends; `crossed` are marks that can't be kept, since
    they cross others, or lie on nothing.
    """

    art: Art
    box: Box
    morph: Morph
    points: Floats
    looks: Floats
    colours: NDArray[np.intp]
    going: tuple[Going, ...]
    met: tuple[Met, ...]
    crossed: tuple[str, ...]
    shapes: tuple[int, int] = (0, 0)

    def points_at(self, parts: Floats) -> Floats:
        """Where the points lie at these parts of the way, `(n, 2, k)`."""
        found = np.empty((self.points.shape[1], 2, len(parts)))
        for one in self.going:
            a, b = self.points[0, one.own], self.points[1, one.own]
            match self.morph.way:
                case "straight":
                    found[one.own] = way.straight(a, b, parts)
                case "turn":
                    found[one.own] = way.turn(a, b, parts)
                case "swing":
                    base = one.own.start
                    own = [slice(c.start - base, c.stop - base) for c in one.contours]
                    found[one.own] = way.swing(a, b, parts, own, one.closed)
        self._held(found, parts)
        return found

    def _held(self, found: Floats, parts: Floats) -> None:
        """Let marks that stay stay, and what lies between them and others go along by its length along the outline."""
        if not any(m.stays for m in self.met):
            return
        for one in self.going:
            for own, ring in zip(one.contours, one.closed, strict=True):
                on = [m for m in self.met if own.start <= m.point < own.stop]
                if any(m.stays for m in on):
                    _pulled(found[own], self.points[0, own], on, own.start, ring, parts)

    def looks_at(self, parts: Floats) -> Floats:
        """What it looks like at these parts of the way, `(m, k)`; colours in whole levels."""
        within = np.clip(parts, 0, 1)
        found: Floats = self.looks[0][:, None] + within * (self.looks[1] - self.looks[0])[:, None]
        if len(self.colours):
            rows = self.colours[:, None] + np.arange(4)
            mixed = between(self.looks[0][rows], self.looks[1][rows], parts, self.morph.colours == "oklab")
            found[rows] = np.round(mixed * 255) / 255
        return found

    def drawing(self, part: float) -> Art:
        """The in-between at a part of the way, as a drawing of its own."""
        at = np.array([part])
        return settled(self.art, self.points_at(at)[:, :, 0], self.looks_at(at)[:, 0])


def _pulled(points: Floats, first: Floats, on: Sequence[Met], base: int, closed: bool, parts: Floats) -> None:
    """Pull a contour on its way so that marks that stay do, what lies between two marks by its length between them;
    a mark alone pulls half of the contour to either side, less and less."""
    far = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(first, axis=0).T))])
    whole = max(float(far[-1]), 1e-9)
    rows = [m.point - base for m in on]
    pulls = []
    for m, row in zip(on, rows, strict=True):
        went = np.clip((parts - m.stays) / max(1 - m.stays, 1e-9), 0, None) if m.stays < 1 else (parts >= 1) * 1.0
        a, b = np.array(m.first), np.array(m.second)
        there = a[:, None] + went * (b - a)[:, None]
        pulls.append(there - points[row] if m.stays else np.zeros((2, len(parts))))
    at, values = far[rows], np.array(pulls)
    if closed:
        # Once round on either side, so that the seam is nothing special.
        at = np.concatenate([at - whole, at, at + whole])
        values = np.concatenate([values, values, values])
    if len(rows) == 1:
        ends = [float(at[len(at) // 2]) - whole / 2, float(at[len(at) // 2]) + whole / 2]
        at = np.array([ends[0], float(at[len(at) // 2]), ends[1]])
        nothing = np.zeros((1, 2, len(parts)))
        values = np.concatenate([nothing, values[:1], nothing])
        if closed:
            far = np.where(far < at[0], far + whole, np.where(far > at[2], far - whole, far))
    order = np.argsort(at)
    at, values = at[order], values[order]
    k = np.clip(np.searchsorted(at, far, side="right") - 1, 0, len(at) - 2)
    share = np.clip((far - at[k]) / np.maximum(at[k + 1] - at[k], 1e-12), 0, 1)[:, None, None]
    points += values[k] * (1 - share) + values[k + 1] * share
