"""Affine transforms of the plane, singly and in blocks.

A transform is six numbers `a b c d e f` standing for the matrix

    | a c e |
    | b d f |
    | 0 0 1 |

the order of the SVG `matrix()` function (SVG 1.1 §7.6). Stages are y-down, so a positive
angle turns clockwise. Blocks hold the six numbers on their second axis: `(n, 6, frames)`.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from sorvan.core.errors import Refusal

Floats = NDArray[np.float64]
Affine = tuple[float, float, float, float, float, float]
Point = tuple[float, float]

IDENTITY: Affine = (1.0, 0.0, 0.0, 1.0, 0.0, 0.0)
MIRROR: Affine = (-1.0, 0.0, 0.0, 1.0, 0.0, 0.0)


def compose(outer: Affine, inner: Affine) -> Affine:
    """The transform that applies `inner` first and `outer` after it."""
    a, b, c, d, e, f = outer
    p, q, r, s, t, u = inner
    return (a * p + c * q, b * p + d * q, a * r + c * s, b * r + d * s, a * t + c * u + e, b * t + d * u + f)


def chain(*transforms: Affine) -> Affine:
    """`compose` from left (outermost) to right (innermost)."""
    result = IDENTITY
    for transform in transforms:
        result = compose(result, transform)
    return result


def determinant(m: Affine) -> float:
    """The factor by which `m` scales areas; negative when it mirrors."""
    return m[0] * m[3] - m[1] * m[2]


def invert(m: Affine) -> Affine:
    """The inverse of `m`. Raises `Refusal` when `m` flattens the plane."""
    a, b, c, d, e, f = m
    det = determinant(m)
    if abs(det) < 1e-12:
        raise Refusal(
            "Something is scaled to nothing, so no place can be worked out from it.",
            remedy="Give it a scale other than zero first.",
            kind="flat",
        )
    return (d / det, -b / det, -c / det, a / det, (c * f - d * e) / det, (b * e - a * f) / det)


def translation(x: float, y: float) -> Affine:
    """A shift by `x`, `y` stage units."""
    return (1.0, 0.0, 0.0, 1.0, x, y)


def apply(m: Affine, p: Point) -> Point:
    """Where `m` takes the point `p`."""
    return (m[0] * p[0] + m[2] * p[1] + m[4], m[1] * p[0] + m[3] * p[1] + m[5])


def apply_linear(m: Affine, p: Point) -> Point:
    """Where `m` takes the arrow `p`, leaving its translation out."""
    return (m[0] * p[0] + m[2] * p[1], m[1] * p[0] + m[3] * p[1])


def mirror_about(x: float) -> Affine:
    """The reflection in the upright line at `x` stage units."""
    return (-1.0, 0.0, 0.0, 1.0, 2.0 * x, 0.0)


def placed(x: float, y: float, angle: float, skew: float, sx: float, sy: float) -> Affine:
    """Shift · turn · skew · scale, angles in degrees: the six numbers a user can type."""
    co, si, ta = math.cos(math.radians(angle)), math.sin(math.radians(angle)), math.tan(math.radians(skew))
    return (co * sx, si * sx, (co * ta - si) * sy, (si * ta + co) * sy, x, y)


def unplaced(m: Affine) -> tuple[float, float, float, float, float, float]:
    """The `(x, y, angle, skew, sx, sy)` that `placed` turns back into `m`.

    A mirrored transform comes back with a negative `sx`. Source: QR decomposition of the
    2×2 part by one Givens rotation (Golub and Van Loan, Matrix Computations, §5.2).
    """
    a, b, c, d, e, f = m
    sx = math.hypot(a, b)
    if sx == 0.0:
        sy = math.hypot(c, d)
        return (e, f, math.degrees(math.atan2(-c, d)) if sy else 0.0, 0.0, 0.0, sy)
    sign = -1.0 if determinant(m) < 0 else 1.0
    co, si = sign * a / sx, sign * b / sx
    along, sy = co * c + si * d, co * d - si * c
    skew = math.degrees(math.atan2(along, sy)) if sy else 0.0
    return (e, f, math.degrees(math.atan2(si, co)), skew, sign * sx, sy)


def near(m: Affine, n: Affine, within: float = 1e-9) -> bool:
    """Whether two transforms differ by no more than `within` in any number."""
    return all(abs(p - q) <= within for p, q in zip(m, n, strict=True))


def compose_blocks(outer: Floats, inner: Floats, out: Floats) -> None:
    """`compose` for blocks `(n, 6, frames)`, written into `out`; `inner` may be `(n, 6, 1)`.

    Plain element-wise products, never a matrix routine: the same numbers come out whichever
    frames are asked for, which is what makes a partial evaluation equal a full one exactly.
    """
    a, b, c, d, e, f = (outer[:, i] for i in range(6))
    p, q, r, s, t, u = (inner[:, i] for i in range(6))
    out[:, 0] = a * p + c * q
    out[:, 1] = b * p + d * q
    out[:, 2] = a * r + c * s
    out[:, 3] = b * r + d * s
    out[:, 4] = a * t + c * u + e
    out[:, 5] = b * t + d * u + f


def placed_block(x: Floats, y: Floats, angle: Floats, skew: Floats, sx: Floats, sy: Floats, out: Floats) -> None:
    """`placed` for arrays `(n, frames)`, angles in degrees; `skew` is `(n, 1)`, `out` is `(n, 6, frames)`."""
    # A contiguous copy keeps NumPy on one code path for sin and cos whatever slice came in.
    radians = np.ascontiguousarray(np.deg2rad(angle))
    co, si = np.cos(radians), np.sin(radians)
    out[:, 0] = co * sx
    out[:, 1] = si * sx
    if skew.any():
        slant = np.tan(np.deg2rad(skew))
        out[:, 2] = (co * slant - si) * sy
        out[:, 3] = (si * slant + co) * sy
    else:
        out[:, 2] = -si * sy
        out[:, 3] = co * sy
    out[:, 4] = x
    out[:, 5] = y


def column(m: Sequence[float]) -> Floats:
    """One transform as a `(6, 1)` array, ready to spread over frames."""
    return np.asarray(m, dtype=np.float64).reshape(6, 1)
