"""Affine transforms of the plane."""

from __future__ import annotations

import math
from typing import NamedTuple

from sorvan.core.errors import Refusal

Point = tuple[float, float]
Place = tuple[float, float, float, float, float, float]
"""A frame as one can type it: (x, y, angle, skew, sx, sy), angles in degrees."""


class Affine(NamedTuple):
    """A transform: six numbers that stand for the matrix

        | a c e |
        | b d f |
        | 0 0 1 |

    in the order of the SVG `matrix()` function (SVG 1.1 §7.6). Stages are y-down, so a positive
    angle turns clockwise. `outer @ inner` applies `inner` first and `outer` after it.
    """

    a: float
    b: float
    c: float
    d: float
    e: float
    f: float

    @classmethod
    def shift(cls, x: float, y: float) -> Affine:
        """A shift by `x`, `y` units."""
        return cls(1.0, 0.0, 0.0, 1.0, x, y)

    @classmethod
    def mirror(cls, x: float) -> Affine:
        """The reflection in the upright line at `x`."""
        return cls(-1.0, 0.0, 0.0, 1.0, 2.0 * x, 0.0)

    @classmethod
    def placed(cls, x: float, y: float, angle: float, skew: float, sx: float, sy: float) -> Affine:
        """Shift · turn · skew · scale, angles in degrees: the six numbers a user can type."""
        co, si, ta = math.cos(math.radians(angle)), math.sin(math.radians(angle)), math.tan(math.radians(skew))
        return cls(co * sx, si * sx, (co * ta - si) * sy, (si * ta + co) * sy, x, y)

    def __matmul__(self, inner: Affine) -> Affine:
        a, b, c, d, e, f = self
        p, q, r, s, t, u = inner
        return Affine(a * p + c * q, b * p + d * q, a * r + c * s, b * r + d * s, a * t + c * u + e, b * t + d * u + f)

    @property
    def at(self) -> Point:
        """Where the origin goes."""
        return (self.e, self.f)

    @property
    def determinant(self) -> float:
        """The factor by which areas are scaled; negative when it mirrors."""
        return self.a * self.d - self.b * self.c

    def inverse(self) -> Affine:
        """What undoes this. Raises `Refusal` when this flattens the plane."""
        a, b, c, d, e, f = self
        det = self.determinant
        if abs(det) < 1e-12:
            raise Refusal(
                "Something is scaled to nothing, so no place can be worked out from it.",
                remedy="Give it a scale other than zero first.",
                kind="flat",
            )
        return Affine(d / det, -b / det, -c / det, a / det, (c * f - d * e) / det, (b * e - a * f) / det)

    def place(self, p: Point) -> Point:
        """Where the point `p` goes."""
        return (self.a * p[0] + self.c * p[1] + self.e, self.b * p[0] + self.d * p[1] + self.f)

    def arrow(self, p: Point) -> Point:
        """Where the arrow `p` goes, the shift left out."""
        return (self.a * p[0] + self.c * p[1], self.b * p[0] + self.d * p[1])

    def placement(self) -> Place:
        """The `(x, y, angle, skew, sx, sy)` that `placed` turns back into this.

        A mirrored transform comes back with a negative `sx`. Source: QR decomposition of the
        2×2 part by one Givens rotation (Golub and Van Loan, Matrix Computations, §5.2).
        """
        a, b, c, d, e, f = self
        sx = math.hypot(a, b)
        if sx == 0.0:
            sy = math.hypot(c, d)
            return (e, f, math.degrees(math.atan2(-c, d)) if sy else 0.0, 0.0, 0.0, sy)
        sign = -1.0 if self.determinant < 0 else 1.0
        co, si = sign * a / sx, sign * b / sx
        along, sy = co * c + si * d, co * d - si * c
        skew = math.degrees(math.atan2(along, sy)) if sy else 0.0
        return (e, f, math.degrees(math.atan2(si, co)), skew, sign * sx, sy)


IDENTITY = Affine(1.0, 0.0, 0.0, 1.0, 0.0, 0.0)
MIRROR = Affine(-1.0, 0.0, 0.0, 1.0, 0.0, 0.0)


def near(m: Affine, n: Affine, within: float = 1e-9) -> bool:
    """Whether two transforms differ by no more than `within` in any number."""
    return all(abs(p - q) <= within for p, q in zip(m, n, strict=True))
