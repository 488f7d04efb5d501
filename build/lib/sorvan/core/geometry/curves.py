"""Cubic curves of places, run through at even speed along their true length."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from sorvan.core.geometry.affine import Point
from sorvan.core.geometry.blocks import Floats

PARTS = 48
"""Parts of a curve whose lengths are known; between their ends lengths are integrated."""
_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(8)


class Cubic:
    """A cubic Bézier curve from four points. Places are complex numbers, x + iy."""

    def __init__(self, points: tuple[Point, Point, Point, Point]) -> None:
        self.p = np.array([complex(*q) for q in points])
        a, b, c, d = self.p
        self._speed = (3 * (b - a), 6 * (c - 2 * b + a), 3 * (d - 3 * c + 3 * b - a))
        self._ends = np.unique(np.concatenate([np.linspace(0, 1, PARTS + 1), self._turns()]))
        speeds = np.abs(self.velocity(self._ends))
        # Where the curve comes to a stop Newton's steps only halve what is left.
        self._rounds = 6 if speeds.min() > 0.05 * speeds.max() else 24
        parts = self._between(self._ends[:-1], self._ends[1:])
        self._lengths = np.concatenate([[0.0], np.cumsum(parts)])

    def _turns(self) -> Floats:
        """Where the speed along the curve is least or greatest: at a cusp it is no smooth function there, so
        that parts must meet at it."""
        first, second, third = self._speed
        v, dv = np.array([first, second, third]), np.array([second, 2 * third])
        along = np.convolve(v.real, dv.real) + np.convolve(v.imag, dv.imag)
        size = float(np.abs(along).max())
        if size == 0:
            return np.array([])
        # Terms that are nothing beside the others would make others of them infinite.
        along = np.polynomial.polynomial.polytrim(along / size, 1e-12)
        roots = np.polynomial.polynomial.polyroots(along) if len(along) > 1 else np.array([])
        found: Floats = np.array([r.real for r in roots if abs(r.imag) < 1e-9 and 0 < r.real < 1])
        return found

    @property
    def length(self) -> float:
        """The length of the whole curve, as long as its parts by Gauss's quadrature."""
        return float(self._lengths[-1])

    def at(self, u: Floats) -> np.ndarray:
        """The places at parameters u, any shape."""
        a, b, c, d = self.p
        v = 1 - u
        return v * v * v * a + 3 * v * v * u * b + 3 * v * u * u * c + u * u * u * d  # type: ignore[no-any-return]

    def velocity(self, u: Floats) -> np.ndarray:
        """The derivative by the parameter."""
        first, second, third = self._speed
        return first + u * (second + u * third)  # type: ignore[no-any-return]

    def _between(self, start: Floats, end: Floats) -> Floats:
        half, middle = (end - start) / 2, (end + start) / 2
        speeds = np.abs(self.velocity(middle[..., None] + half[..., None] * _NODES))
        found: Floats = half * (speeds * _WEIGHTS).sum(axis=-1)
        return found

    def along(self, share: Floats) -> np.ndarray:
        """The places that lie these shares of the whole length along, `(n,)`; beyond the ends straight on."""
        wanted = np.clip(share, 0, 1) * self.length
        part = np.clip(np.searchsorted(self._lengths, wanted, side="right") - 1, 0, len(self._ends) - 2)
        start, low, high = self._ends[part], self._ends[part], self._ends[part + 1]
        left = wanted - self._lengths[part]
        span = np.maximum(self._lengths[part + 1] - self._lengths[part], 1e-300)
        u = low + (high - low) * np.clip(left / span, 0, 1)
        for _ in range(self._rounds):
            # Newton on the length so far, kept within the part where the speed comes near nothing.
            speed = np.maximum(np.abs(self.velocity(u)), 1e-12)
            u = np.clip(u - (self._between(start, u) - left) / speed, low, high)
        places = self.at(u)
        over = share - np.clip(share, 0, 1)
        return np.asarray(places + over * self.length * np.where(over < 0, self._heading(0), self._heading(1)))

    def _heading(self, end: int) -> complex:
        """The direction in which the curve leaves (0) or arrives (1), of length one."""
        order = self.p if end == 0 else self.p[::-1]
        for q in order[1:]:
            if abs(q - order[0]) > 1e-12:
                way = (q - order[0]) / abs(q - order[0])
                return complex(way if end == 0 else -way)
        return 0j


@lru_cache(maxsize=4096)
def cubic(points: tuple[Point, Point, Point, Point]) -> Cubic:
    """The curve through these points, measured once."""
    return Cubic(points)
