"""Which point of one contour becomes which of another: the way of least work.

Both contours are looked at in places along them. A way through the grid of all pairs of places, so many rows and
columns at a step, says which becomes which; its work is the stretching of the lines between places, and how
differently the contours turn at them (Sederberg and Greenwood 1992, "A physically based approach to 2-D shape
blending"). The least is found by dynamic programming, for every place of the second that the first place of
the first may become. Lengths count as parts of the whole contour, places by the box around it, so that neither size
nor place matters.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from sorvan.core.geometry import Floats
from sorvan.core.morph.contour import PARTS, Contour
from sorvan.core.morph.recall import Recall, afresh

CORNER, PLACE, DIRECTION = 0.25, 0.15, 0.1
"""How much a half turn more at a corner counts, a place as far away as the contour is long, and a line that goes the
other way, beside the stretching of the whole contour."""
ABOUT = 0.02
"""The part of a contour over which its turning at a place is seen."""
COARSE = 24
"""Places up to which every begin is tried; of more, those around the best of so many."""
MOST_PLACES = 400
"""Places of a contour that are compared: of one with more corners than that an even choice of them."""
STRIDES = ((1, 0), (0, 1), (1, 1), (1, 2), (2, 1), (1, 3), (3, 1))
"""Rows and columns of a step: what is stretched evenly costs less than what waits."""
Path = NDArray[np.intp]
"""Pairs of places `(pairs, 2)`, rising."""
ContourSteps = dict[tuple[int, int], Floats]
"""By rows and columns of a step, its work from each pair of places on."""


@dataclass(frozen=True, eq=False)
class ContourSeen:
    """A contour as it is compared: its places `(n, 2)`, the parts of its length from each to the next (of a closed one
    also from the last to the first), and how much it turns at each (half turns)."""

    places: Floats
    parts: Floats
    turns: Floats
    closed: bool

    @classmethod
    def of(cls, contour: Contour, where: Floats) -> ContourSeen:
        """Look at a contour in these places."""
        n = len(contour.curves)
        line, own = contour.line, np.arange(len(contour.line)) / PARTS
        if contour.closed:
            line, own = np.concatenate([line, line[:1]]), np.append(own, float(n))
        far = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
        whole = max(float(far[-1]), 1e-12)
        s = np.interp(where, own, far) / whole
        places = np.stack([np.interp(s * whole, far, line[:, k]) for k in (0, 1)], axis=1)
        low, high = line.min(axis=0), line.max(axis=0)
        size = max(float((high - low).max()), 1e-12)
        parts = np.diff(np.append(s, s[0] + 1)) if contour.closed else np.diff(s)

        def at(u: Floats) -> Floats:
            u = u % 1 if contour.closed else np.clip(u, 0, 1)
            return np.stack([np.interp(u * whole, far, line[:, k]) for k in (0, 1)], axis=1)

        before, after = places - at(s - ABOUT), at(s + ABOUT) - places
        turns = (
            np.arctan2(before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0], (before * after).sum(axis=1)) / np.pi
        )
        return cls((places - (low + high) / 2) / size, parts, turns, contour.closed)

    @property
    def key(self) -> tuple[bytes, bytes, bytes]:
        """What tells it from others."""
        return self.places.tobytes(), self.parts.tobytes(), self.turns.tobytes()

    def section(self, rows: NDArray[np.intp]) -> ContourSeen:
        """These places, one after the other, as an open line."""
        parts = self.parts[rows[:-1] % len(self.parts)] if len(rows) > 1 else self.parts[:0]
        return ContourSeen(self.places[rows], parts, self.turns[rows], False)


def costs(one: ContourSeen, two: ContourSeen) -> ContourSteps:
    """The work of the steps from each pair of places on, `(rows, columns)` for each stride; closed contours go on from
    the last place to the first. What is at the end of a step, and what it passes over, counts with it."""
    off = np.hypot(*np.moveaxis(one.places[:, None] - two.places[None], 2, 0))
    corner = (one.turns[:, None] - two.turns[None]) ** 2
    found: ContourSteps = {}
    for p, q in STRIDES:
        a, way_a, passed_a, start_a, end_a = _strides(one, p)
        b, way_b, passed_b, start_b, end_b = _strides(two, q)
        if not (a.size and b.size):
            continue
        a, b = a[:, None], b[None, :]
        differently = (1 - np.cos(way_a[:, None] - way_b[None])) / 2 if p and q else np.array(0.5)
        far = (off[np.ix_(start_a, start_b)] + off[np.ix_(end_a, end_b)]) / 2
        found[p, q] = (
            (a - b) ** 2 / np.maximum(a + b, 1e-12)
            + (a + b) / 2 * (PLACE * far + DIRECTION * differently)
            + CORNER * (corner[np.ix_(end_a, end_b)] + passed_a[:, None] + passed_b[None])
        )
    return found


def _strides(of: ContourSeen, count: int) -> tuple[Floats, Floats, Floats, Path, Path]:
    """Of steps over so many lines from each place on: their lengths, where they head (radians), what turns they pass
    over (squared), and the places where they start and end."""
    n = len(of.turns)
    start = np.arange(n if of.closed or not count else max(n - count, 0), dtype=np.intp)
    end = (start + count) % n
    long, passed = np.zeros(len(start)), np.zeros(len(start))
    for k in range(count):
        long = long + of.parts[(start + k) % len(of.parts)]
        passed = passed + (of.turns[(start + k) % n] ** 2 if k else 0.0)
    way = of.places[end] - of.places[start]
    return long, np.arctan2(way[:, 1], way[:, 0]), passed, start, end


def least(steps: ContourSteps, rows: int, columns: int, begins: Path) -> tuple[float, Path]:
    """The least work, and its way, over so many rows and columns, beginning in one of these columns.

    Row by row, all begins side by side: a run of steps along a row is a running least of what it was entered with.
    """
    if len(begins) == 1:
        return _least_from(steps, rows, columns, int(begins[0]))
    at = begins[:, None] + np.arange(columns + 1)
    found = np.empty((rows + 1, len(begins), columns + 1))
    for i in range(rows + 1):
        entered = np.full((len(begins), columns + 1), np.inf)
        if i == 0:
            entered[:, 0] = 0.0
        for (p, q), work in steps.items():
            if 0 < p <= i and q <= columns:
                wide = columns + 1 - q
                way = found[i - p, :, :wide] + work[(i - p) % len(work), at[:, :wide] % work.shape[1]]
                entered[:, q:] = np.minimum(entered[:, q:], way)
        if columns:
            along = steps[0, 1]
            run = np.zeros((len(begins), columns + 1))
            np.cumsum(along[i % len(along), at[:, :-1] % along.shape[1]], axis=1, out=run[:, 1:])
            entered = np.minimum.accumulate(entered - run, axis=1) + run
        found[i] = entered
    best = int(found[rows, :, columns].argmin())
    return float(found[rows, best, columns]), _back(steps, found[:, best], int(begins[best]))


def _least_from(steps: ContourSteps, rows: int, columns: int, begin: int) -> tuple[float, Path]:
    """The same from one begin."""
    from_here = {
        stride: work
        if begin == 0 and work.shape[1] > columns
        else work[:, np.arange(begin, begin + columns + 1) % work.shape[1]]
        for stride, work in steps.items()
    }
    onwards = [(p, q, work) for (p, q), work in from_here.items() if p]
    runs = np.zeros((rows + 1, columns + 1))
    if columns:
        along = from_here[0, 1]
        np.cumsum(along[np.arange(rows + 1) % len(along), :columns], axis=1, out=runs[:, 1:])
    found = np.full((rows + 1, columns + 1), np.inf)
    found[0] = runs[0]
    for i in range(1, rows + 1):
        entered = found[i]
        for p, q, work in onwards:
            if p <= i and q <= columns:
                wide = columns + 1 - q
                np.minimum(entered[q:], found[i - p, :wide] + work[(i - p) % len(work), :wide], out=entered[q:])
        entered -= runs[i]
        np.minimum.accumulate(entered, out=entered)
        entered += runs[i]
    return float(found[rows, columns]), _back(steps, found, begin)


def _back(steps: ContourSteps, found: Floats, begin: int) -> Path:
    """The way on which the work up to the last pair came about."""
    i, j = found.shape[0] - 1, found.shape[1] - 1
    way = [(i, j + begin)]
    while i or j:
        came = {
            (p, q): found[i - p, j - q] + work[(i - p) % len(work), (begin + j - q) % work.shape[1]]
            for (p, q), work in steps.items()
            if p <= i and q <= j
        }
        p, q = min(came, key=lambda step: float(came[step]))
        i, j = i - p, j - q
        way.append((i, j + begin))
    return np.array(way[::-1], dtype=np.intp)


def matched(
    one: ContourSeen, two: ContourSeen, held: Sequence[tuple[int, int]] = (), kept: Recall = afresh
) -> tuple[float, Path]:
    """The least work by which one contour becomes the other, as it goes round, and which place becomes which. `held`
    are pairs of places that are given, in the order of the first; of a closed contour rows and columns go on beyond
    the last as often as it is gone round.

    Raises `ValueError` if the pairs that are given do not come one after the other on the second too.
    """
    n, m = len(one.turns), len(two.turns)
    if not held:
        if not (one.closed and two.closed):
            return least(costs(one, two), len(one.parts), len(two.parts), np.zeros(1, dtype=np.intp))
        return least(costs(one, two), n, m, np.arange(m, dtype=np.intp))
    if one.closed and two.closed:
        stops = [*held, (held[0][0] + n, held[0][1] + m)]
    else:
        stops = sorted({(0, 0), *held, (n - 1, m - 1)})
    # On the second, places count on from the first that is given.
    rows = [i for i, _ in stops]
    columns = [stops[0][1]]
    for _, j in stops[1:]:
        columns.append(columns[-1] + (j - columns[-1]) % m if one.closed and two.closed else j)
    if one.closed and two.closed:
        columns[-1] = columns[0] + m if columns[-1] == columns[0] else columns[-1]
        if columns[-1] != columns[0] + m:
            raise ValueError("the marks do not come in the same order on both")
    if any(b < a for a, b in pairwise(columns)):
        raise ValueError("the marks do not come in the same order on both")
    total, path = 0.0, [np.array([[rows[0], columns[0]]], dtype=np.intp)]
    for (i, j), (k, l) in pairwise(zip(rows, columns, strict=True)):
        if (i, j) == (k, l):
            continue
        a, b = one.section(np.arange(i, k + 1) % n), two.section(np.arange(j, l + 1) % m)
        # What lies between two marks that stay is as it was.
        work, way = kept(("between marks", a.key, b.key), partial(_straight_through, a, b))
        total += work
        path.append(way[1:] + np.array([i, j]))
    return total, np.concatenate(path)


def _straight_through(one: ContourSeen, two: ContourSeen) -> tuple[float, Path]:
    """The least work from the beginnings of two lines to their ends."""
    return least(costs(one, two), len(one.turns) - 1, len(two.turns) - 1, np.zeros(1, dtype=np.intp))
