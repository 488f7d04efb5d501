"""Triangles made well-shaped: points put in until no corner is narrow, but where the outline itself has one.

Source: Ruppert 1995, “A Delaunay Refinement Algorithm for Quality 2-Dimensional Mesh Generation”, with the concentric
shells of that paper around sharp corners, and triangles across sharp corners left alone (Shewchuk 2002, “Delaunay
refinement algorithms for triangular mesh generation”, §5). A step of the outline is split where a point lies in the
circle over it; a triangle that is too narrow gets a point at the middle of the circle around it.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from sorvan.core.geometry import Floats
from sorvan.core.late import late

if TYPE_CHECKING:
    pass

spatial = late("scipy.spatial")

Rows = NDArray[np.intp]
NARROWEST = 16.0
"""Degrees below which a corner is too narrow."""
SHARP = 61.0
"""Degrees below which a corner of the outline is sharp."""
MOST_ROUNDS = 120
TOO_SMALL = 1e-3
"""The part of the mesh's own spacing below which nothing is split any more."""


@dataclass
class OutlineSteps:
    """The steps of an outline: rows of their `ends` `(n, 2)`, and of the corners of the outline that each lies between
    `(n, 2)`."""

    ends: Rows
    between: Rows

    def split(self, which: Rows, rows: Rows) -> OutlineSteps:
        """These steps each made two at new points."""
        kept = np.ones(len(self.ends), dtype=bool)
        kept[which] = False
        one = np.stack([self.ends[which, 0], rows], axis=1)
        two = np.stack([rows, self.ends[which, 1]], axis=1)
        between = self.between[which]
        return OutlineSteps(
            np.concatenate([self.ends[kept], one, two]), np.concatenate([self.between[kept], between, between])
        )


@dataclass
class Refining:
    """Points on their way to a mesh; the first `fixed` are those of the outline and what was asked for."""

    points: Floats
    steps: OutlineSteps
    spacing: float
    most: int
    inside: Callable[[Floats, Rows], Rows]
    sharp: NDArray[np.bool_] = field(init=False)
    """Whether a corner of the outline is sharp, by its row."""
    on: dict[int, tuple[int, int]] = field(init=False, default_factory=dict)
    """The corners between which a point was put on the outline, by its row."""

    def __post_init__(self) -> None:
        self.sharp = np.zeros(len(self.points), dtype=bool)
        self.sharp[_sharp_corners(self.points, self.steps.ends)] = True

    def done(self) -> tuple[Floats, Rows]:
        """The points, and the triangles that are kept of them."""
        for _ in range(MOST_ROUNDS):
            crowded = self._crowded()
            if len(crowded) and len(self.points) < self.most:
                self._split(crowded)
                continue
            triangles = self.inside(self.points, spatial.Delaunay(self.points).simplices)
            if len(self.points) >= self.most or not self._improved(triangles):
                return self.points, triangles
        return self.points, self.inside(self.points, spatial.Delaunay(self.points).simplices)

    def _crowded(self) -> Rows:
        """The steps in the circle over which a point lies."""
        a, b = self.points[self.steps.ends[:, 0]], self.points[self.steps.ends[:, 1]]
        middle, radius = (a + b) / 2, np.hypot(*(b - a).T) / 2
        near = spatial.cKDTree(self.points).query(middle, k=min(3, len(self.points)))
        far, rows = near
        own = (rows == self.steps.ends[:, :1]) | (rows == self.steps.ends[:, 1:])
        least = np.where(own, np.inf, far).min(axis=1)
        found: Rows = np.flatnonzero((least < radius * (1 - 1e-9)) & (radius > TOO_SMALL * self.spacing))
        return found

    def _split(self, which: Rows) -> None:
        ends = self.steps.ends[which]
        a, b = self.points[ends[:, 0]], self.points[ends[:, 1]]
        part = np.full(len(which), 0.5)
        long = np.hypot(*(b - a).T)
        for k, (one, two) in enumerate(ends):
            # Steps that meet at a sharp corner are cut at equal distances from it, or they would crowd one another for ever.
            at_one, at_two = self._is_sharp(one), self._is_sharp(two)
            if at_one != at_two:
                unit = 2.0 ** round(math.log2(long[k] / 2))
                share = min(max(unit / long[k], 1 / 3), 2 / 3)
                part[k] = share if at_one else 1 - share
        first = len(self.points)
        self._add(a + part[:, None] * (b - a))
        rows = np.arange(first, len(self.points))
        for row, (one, two) in zip(rows, self.steps.between[which], strict=True):
            self.on[int(row)] = (int(one), int(two))
        self.steps = self.steps.split(which, rows)

    def _is_sharp(self, row: int) -> bool:
        return bool(row < len(self.sharp) and self.sharp[row])

    def _add(self, points: Floats) -> None:
        self.points = np.concatenate([self.points, points])

    def _improved(self, triangles: Rows) -> bool:
        """Put points in for triangles that are too narrow; whether there was anything to do."""
        p = self.points[triangles]
        sides = np.stack([np.hypot(*(p[:, (k + 1) % 3] - p[:, (k + 2) % 3]).T) for k in range(3)], axis=1)
        area = np.abs(_cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0])) / 2
        round_ = sides.prod(axis=1) / np.maximum(4 * area, 1e-300)
        least = sides.min(axis=1)
        narrow = least < 2 * round_ * math.sin(math.radians(NARROWEST))
        narrow &= least > TOO_SMALL * self.spacing
        which = [int(t) for t in np.flatnonzero(narrow) if not self._across(triangles[t], sides[t])]
        if not which:
            return False
        centres = _centres(p[which])
        # The worst first; those that lie near a chosen one are looked at anew in the next round.
        order = np.argsort((least / round_)[which])
        chosen: list[int] = []
        for k in order:
            if all(math.dist(centres[k], centres[j]) > 0.9 * round_[which[k]] for j in chosen):
                chosen.append(int(k))
        wanted = centres[chosen]
        a, b = self.points[self.steps.ends[:, 0]], self.points[self.steps.ends[:, 1]]
        middle, radius = (a + b) / 2, np.hypot(*(b - a).T) / 2
        crowding = np.hypot(wanted[:, None, 0] - middle[None, :, 0], wanted[:, None, 1] - middle[None, :, 1])
        crowds = (crowding < radius[None] * (1 - 1e-9)) & (radius > TOO_SMALL * self.spacing)[None]
        split = np.flatnonzero(crowds.any(axis=0))
        free = wanted[~crowds.any(axis=1)]
        free = free[self._seen(free)]
        if not len(split) and not len(free):
            return False
        self._add(free)
        if len(split):
            self._split(split)
        return True

    def _seen(self, places: Floats) -> NDArray[np.bool_]:
        """Which places lie among the points there are, and on none of them."""
        if not len(places):
            return np.zeros(0, dtype=bool)
        low, high = self.points.min(axis=0), self.points.max(axis=0)
        far, _ = spatial.cKDTree(self.points).query(places)
        found: NDArray[np.bool_] = ((places > low) & (places < high)).all(axis=1) & (far > TOO_SMALL * self.spacing)
        return found

    def _across(self, triangle: Rows, sides: Floats) -> bool:
        """Whether the shortest side of a triangle lies across a sharp corner of the outline, or is at it: there it is the
        outline that is narrow."""
        short = int(sides.argmin())
        tip, one, two = (int(triangle[(short + k) % 3]) for k in range(3))
        if self._is_sharp(tip):
            return True
        first, second = (set(self.on.get(row, (row, row))) for row in (one, two))
        return any(self._is_sharp(c) for c in first & second) and self.on.get(one) != self.on.get(two)


def refined(
    rings: Sequence[Floats],
    pinned: Floats,
    inner: Floats,
    spacing: float,
    most: int,
    inside: Callable[[Floats, Rows], Rows],
) -> tuple[Floats, Rows]:
    """A mesh of at most about `most` points over rings `(n, 2)` of an outline, in which `pinned` are vertices, the first
    ones, and the rings come behind. `inside` says which triangles of some points are kept."""
    points = np.concatenate([pinned, *rings, inner])
    first = len(pinned)
    ends: list[Rows] = []
    for ring in rings:
        rows = first + np.arange(len(ring))
        ends.append(np.stack([rows, np.roll(rows, -1)], axis=1))
        first += len(ring)
    steps = np.concatenate(ends)
    return Refining(points, OutlineSteps(steps, steps.copy()), spacing, most, inside).done()


def _sharp_corners(points: Floats, ends: Rows) -> Rows:
    """The rows at which two steps meet in a sharp corner."""
    before = {int(b): int(a) for a, b in ends}
    found = []
    for at, after in ((int(a), int(b)) for a, b in ends):
        one, two = points[before[at]] - points[at], points[after] - points[at]
        if math.degrees(math.atan2(abs(_cross(one, two)), float(one @ two))) < SHARP:
            found.append(at)
    return np.array(found, dtype=np.intp)


def _cross(a: Floats, b: Floats) -> Floats:
    found: Floats = a[..., 0] * b[..., 1] - a[..., 1] * b[..., 0]
    return found


def _centres(p: Floats) -> Floats:
    """The middles of the circles around triangles `(n, 3, 2)`."""
    b, c = p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]
    d = 2 * _cross(b, c)
    d = np.where(np.abs(d) < 1e-300, 1e-300, d)
    bb, cc = (b**2).sum(axis=1), (c**2).sum(axis=1)
    x = (c[:, 1] * bb - b[:, 1] * cc) / d
    y = (b[:, 0] * cc - c[:, 0] * bb) / d
    return p[:, 0] + np.stack([x, y], axis=1)
