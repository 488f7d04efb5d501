"""Contours of outlines as cubic curves, looked at in so many places and cut at any of them."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from sorvan.core.geometry import IDENTITY, Affine, Floats, moved
from sorvan.core.model.art import Outline

LOOKS = 60
"""Places that a contour is looked at in, besides its corners."""
MOST = 2000
PARTS = 16
"""Parts of each curve that `Contour.line` has."""
_T = np.linspace(0, 1, PARTS + 1)


@dataclass(frozen=True, eq=False)
class Contour:
    """One contour: `curves` `(n, 4, 2)`, each beginning where the one before ends, the first where the last ends if
    it is `closed`."""

    curves: Floats
    closed: bool

    @cached_property
    def key(self) -> tuple[bytes, bool]:
        """What tells it from others."""
        return self.curves.tobytes(), self.closed

    @cached_property
    def lengths(self) -> Floats:
        """About how long each curve is, `(n,)`."""
        p = place(self.curves[:, None], _T)
        found: Floats = np.hypot(*np.moveaxis(np.diff(p, axis=1), 2, 0)).sum(axis=1)
        return found

    @property
    def length(self) -> float:
        """How long it is."""
        return float(self.lengths.sum())

    @cached_property
    def line(self) -> Floats:
        """The contour as points `(m, 2)` along it; a closed one does not come back to its first."""
        p = place(self.curves[:, None], _T[:-1]).reshape(-1, 2)
        return p if self.closed else np.concatenate([p, self.curves[-1:, 3]])

    @cached_property
    def area(self) -> float:
        """The area it goes round, positive if clockwise on a y-down stage (the shoelace formula)."""
        return area_of(self.line)

    def turned(self) -> Contour:
        """The same the other way round."""
        return Contour(np.ascontiguousarray(self.curves[::-1, ::-1]), self.closed)

    def about(self, at: Floats) -> tuple[float, float]:
        """About how far away the place nearest to `at` is: no nearer, and no farther than."""
        off = float(np.hypot(*(self.line - at).T).min())
        return off - float(self.lengths.max()) / 16, off

    def nearest(self, at: Floats) -> tuple[float, float]:
        """Where on it the place nearest to `at` `(2,)` is (curve and the part of it that has gone by, in one number),
        and how far away that is."""
        off = np.hypot(*(self.line - at).T)
        curve, step = divmod(int(off.argmin()), PARTS)
        if curve == len(self.curves):
            curve, step = curve - 1, PARTS
        # It may lie just before where this curve begins.
        if step == 0 and (curve or self.closed):
            before = off[curve * PARTS - 1]
            if before < off[(curve * PARTS + 1) % len(off)]:
                curve, step = (curve - 1) % len(self.curves), PARTS
        u, wide = step / PARTS, 1 / PARTS
        for _ in range(4):
            # Ever finer within the two steps about it.
            fine = np.linspace(max(u - wide, 0.0), min(u + wide, 1.0), 33)
            u = float(fine[int(np.hypot(*(place(self.curves[curve], fine) - at).T).argmin())])
            wide /= 16
        if u < 1e-4 or u > 1 - 1e-4:
            u = float(round(u))
        found = float(curve) + u
        if self.closed and found >= len(self.curves):
            found = 0.0
        return found, float(np.hypot(*(self.at(found) - at)))

    def at(self, where: float) -> Floats:
        """The place there, as `nearest` counts."""
        curve = min(int(where), len(self.curves) - 1)
        found: Floats = place(self.curves[curve], np.array([where - curve]))[0]
        return found

    def looked_at(self, stops: tuple[float, ...] = (), looks: int = LOOKS) -> Floats:
        """Places to look at it in, rising, as `nearest` counts: every corner, these stops, and others between."""
        n = len(self.curves)
        step = max(self.length / looks, 1e-9)
        parts = np.clip(np.ceil(self.lengths / step - 0.25), 1, MOST).astype(int)
        found = [i + k / m for i, m in enumerate(parts.tolist()) for k in range(m)]
        if not self.closed:
            found.append(float(n))
        near = np.array(found)
        for stop in stops:
            # One place for a stop, not another beside it, unless that is a stop or a corner too.
            beside = (
                (np.abs(near - stop) < 0.3 / parts[min(int(stop), n - 1)]) & (near % 1 != 0) & ~np.isin(near, stops)
            )
            near = near[~beside]
            if not np.any(near == stop):
                near = np.sort(np.append(near, stop))
        return near

    def cut(self, places: Floats) -> Floats:
        """Its curves between these places one after the other, `(3 · (places - 1) + 1, 2)`: where they start, and the
        three further points of each. No curve of its own may end between two of them; of a closed one they may come
        round once."""
        n = len(self.curves)
        start, stop = places[:-1], places[1:]
        # A small step back tells the curve that ends here from the one that begins.
        curve = np.minimum(np.floor(start + 1e-9).astype(int), np.maximum(np.ceil(stop - 1e-9).astype(int) - 1, 0))
        curve = np.where(start == stop, np.floor(start).astype(int), curve)
        curve = curve if self.closed else np.minimum(curve, n - 1)
        pieces = part(self.curves[curve % n], start - curve, stop - curve)
        return np.concatenate([pieces[:1, 0], pieces[:, 1:].reshape(-1, 2)])


def place(curves: Floats, t: Floats) -> Floats:
    """Where curves `(…, 4, 2)` are at parameters that fit `(…)` (Bernstein's form)."""
    u, t = (1 - t)[..., None], t[..., None]
    found: Floats = (
        u**3 * curves[..., 0, :]
        + 3 * u**2 * t * curves[..., 1, :]
        + 3 * u * t**2 * curves[..., 2, :]
        + t**3 * curves[..., 3, :]
    )
    return found


def part(curves: Floats, low: Floats, high: Floats) -> Floats:
    """The parts of curves `(n, 4, 2)` between two parameters each, as curves (their blossoms: Ramshaw 1987)."""

    def blossom(a: Floats, b: Floats, c: Floats) -> Floats:
        points = curves
        for t in (a, b, c):
            points = points[:, :-1] * (1 - t)[:, None, None] + points[:, 1:] * t[:, None, None]
        found: Floats = points[:, 0]
        return found

    return np.stack(
        [blossom(low, low, low), blossom(low, low, high), blossom(low, high, high), blossom(high, high, high)], axis=1
    )


def area_of(line: Floats) -> float:
    """The area that a closed line `(n, 2)` goes round, positive if clockwise on a y-down stage."""
    x, y = line[:, 0] - line[0, 0], line[:, 1] - line[0, 1]
    # From the last point back to the first nothing is added, since that lies at nought.
    return float((x[:-1] * y[1:] - x[1:] * y[:-1]).sum() / 2)


def contours_of(outline: Outline, m: Affine = IDENTITY) -> list[Contour]:
    """The contours of an outline under a transform; those that are one point only are left out."""
    p = moved(np.array(outline.points, dtype=np.float64).reshape(-1, 2), m)
    found: list[Contour] = []
    curves: list[Floats] = []
    here = start = np.zeros(2)

    def close(closed: bool) -> None:
        kept = [c for c in curves if np.abs(c - c[0]).max() > 1e-9]
        if kept:
            found.append(Contour(np.array(kept), closed))
        curves.clear()

    for verb, own in outline.segments():
        q = p[own]
        match verb:
            case "M":
                close(False)
                here = start = q[0]
            case "L":
                curves.append(straight(here, q[0]))
            case "Q":
                curves.append(np.array([here, here + (q[0] - here) * 2 / 3, q[1] + (q[0] - q[1]) * 2 / 3, q[1]]))
            case "C":
                curves.append(np.stack([here, *q]))
            case "Z":
                if np.abs(here - start).max() > 1e-6:
                    curves.append(straight(here, start))
                close(True)
                here = start
        if verb in "LQC":
            here = q[-1]
    close(False)
    return found


def straight(a: Floats, b: Floats) -> Floats:
    """A straight line as a curve."""
    return np.stack([a, a + (b - a) / 3, b + (a - b) / 3, b])


def counted(places: Floats) -> NDArray[np.bool_]:
    """Which of some places on a contour are its corners."""
    found: NDArray[np.bool_] = places % 1 == 0
    return found
