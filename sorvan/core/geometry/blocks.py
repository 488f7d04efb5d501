"""Transforms in blocks over frames, and many points at once.

Blocks hold a transform's six numbers on their second axis: `(n, 6, frames)`. Everything is plain
element-wise products, never a matrix routine: the same numbers come out whichever frames are asked
for, which is what makes a partial evaluation equal a full one exactly.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.float64]
Complexes = NDArray[np.complex128]
"""Places as complex numbers, x + iy."""


def moved(points: Floats, m: Sequence[float]) -> Floats:
    """Points `(n, 2)` under one transform."""
    return np.stack(
        [m[0] * points[:, 0] + m[2] * points[:, 1] + m[4], m[1] * points[:, 0] + m[3] * points[:, 1] + m[5]], 1
    )


def place_in(m: Floats, x: ArrayLike, y: ArrayLike) -> NDArray[np.complex128]:
    """Where a place, or a place a frame, goes under transforms `(6, frames)`, as x + iy."""
    found: NDArray[np.complex128] = m[0] * x + m[2] * y + m[4] + 1j * (m[1] * x + m[3] * y + m[5])
    return found


def inverse_block(m: Floats) -> Floats:
    """The inverses of transforms `(6, frames)`; what flattens the plane is taken for almost flat."""
    a, b, c, d, e, f = m
    det = a * d - b * c
    det = np.where(np.abs(det) < 1e-12, 1e-12, det)
    return np.stack([d / det, -b / det, -c / det, a / det, (c * f - d * e) / det, (b * e - a * f) / det])


def compose_blocks(outer: Floats, inner: Floats, out: Floats) -> None:
    """`outer @ inner` for blocks `(n, 6, frames)`, written into `out`; `inner` may be `(n, 6, 1)`."""
    a, b, c, d, e, f = (outer[:, i] for i in range(6))
    p, q, r, s, t, u = (inner[:, i] for i in range(6))
    out[:, 0] = a * p + c * q
    out[:, 1] = b * p + d * q
    out[:, 2] = a * r + c * s
    out[:, 3] = b * r + d * s
    out[:, 4] = a * t + c * u + e
    out[:, 5] = b * t + d * u + f


def placed_block(x: Floats, y: Floats, angle: Floats, skew: Floats, sx: Floats, sy: Floats, out: Floats) -> None:
    """`Affine.placed` for arrays `(n, frames)`, angles in degrees; `skew` is `(n, 1)`, `out` is `(n, 6, frames)`."""
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
