"""Colours on their way from one to another, evenly to the eye or by their levels."""

from __future__ import annotations

import numpy as np

from sorvan.core.geometry import Floats

# OKLab (Ottosson 2020, "A perceptual color space for image processing"): linear sRGB to cone responses, and the cube
# roots of these to lightness, green to red, and blue to yellow.
_TO_CONES = np.array(
    [
        [0.4122214708, 0.5363325363, 0.0514459929],
        [0.2119034982, 0.6806995451, 0.1073969566],
        [0.0883024619, 0.2817188376, 0.6299787005],
    ]
)
_TO_LAB = np.array(
    [
        [0.2104542553, 0.7936177850, -0.0040720468],
        [1.9779984951, -2.4285922050, 0.4505937099],
        [0.0259040371, 0.7827717662, -0.8086757660],
    ]
)
_FROM_CONES, _FROM_LAB = np.linalg.inv(_TO_CONES), np.linalg.inv(_TO_LAB)


def oklab(levels: Floats) -> Floats:
    """sRGB levels `(…, 3)`, 0 to 1, in OKLab (IEC 61966-2-1 for the levels' curve)."""
    linear = np.where(levels <= 0.04045, levels / 12.92, ((np.maximum(levels, 0.0) + 0.055) / 1.055) ** 2.4)
    found: Floats = np.cbrt(linear @ _TO_CONES.T) @ _TO_LAB.T
    return found


def srgb(lab: Floats) -> Floats:
    """OKLab `(…, 3)` as sRGB levels, kept within 0 to 1."""
    linear = np.clip(((lab @ _FROM_LAB.T) ** 3) @ _FROM_CONES.T, 0, 1)
    return np.where(linear <= 0.0031308, linear * 12.92, 1.055 * linear ** (1 / 2.4) - 0.055)


def between(first: Floats, second: Floats, parts: Floats, even: bool) -> Floats:
    """Colours `(n, 4)` (sRGB with straight alpha, 0 to 1) at `k` parts of the way to others, `(n, 4, k)`; `even` to the
    eye or by levels. Alpha goes evenly; a colour that can't be seen takes on the other's."""
    clear_a, clear_b = first[:, 3:] <= 0, second[:, 3:] <= 0
    a = np.where(clear_a & ~clear_b, second[:, :3], first[:, :3])
    b = np.where(clear_b & ~clear_a, first[:, :3], second[:, :3])
    if even:
        a, b = oklab(a), oklab(b)
    part = np.clip(parts, 0, 1)
    mixed = a[:, None] + part[None, :, None] * (b - a)[:, None]
    if even:
        mixed = srgb(mixed)
    alpha = first[:, 3:] + part * (second[:, 3:] - first[:, 3:])
    found: Floats = np.concatenate([np.clip(mixed, 0, 1).transpose(0, 2, 1), alpha[:, None]], axis=1)
    return found
