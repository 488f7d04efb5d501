"""How far along a gap each of its frames has come."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from sorvan.core.geometry import Floats
from sorvan.core.model.motion import Bezier, Even, Hold, Slow


def bezier_of(ease: Slow | Bezier) -> tuple[float, float, float, float]:
    """The CSS `cubic-bezier()` that an ease stands for."""
    if isinstance(ease, Slow):
        return (ease.out / 100, 0.0, 1 - ease.into / 100, 1.0)
    return (ease.x1, ease.y1, ease.x2, ease.y2)


def cubic_bezier(x1: float, y1: float, x2: float, y2: float, time: Floats) -> Floats:
    """The CSS `cubic-bezier()` at times 0…1, any shape; the progress has the same shape.

    Source: CSS Easing Functions Level 2, §2.2. The curve's time runs steadily forward for
    x1, x2 in 0…1, so bisection always finds it; 54 halvings reach the last bit of a double.
    The cubic is written about its inflection, where it may be flat: there the plain form
    would lose two thirds of the digits.
    """
    a, b, c = 1 - 3 * x2 + 3 * x1, 3 * x2 - 6 * x1, 3 * x1
    middle = -b / (3 * a) if abs(a) > 1e-3 else 0.0
    if not 0 < middle < 1:
        middle = 0.0
    square = 0.0 if middle else b
    slope = (3 * a * middle + 2 * b) * middle + c
    wanted = time - ((a * middle + b) * middle + c) * middle
    low, high = np.full_like(time, -middle), np.full_like(time, 1 - middle)
    for _ in range(54):
        u = (low + high) / 2
        early = ((a * u + square) * u + slope) * u < wanted
        low, high = np.where(early, u, low), np.where(early, high, u)
    s = middle + (low + high) / 2
    progress = ((1 - 3 * y2 + 3 * y1) * s + 3 * y2 - 6 * y1) * s * s + 3 * y1 * s
    return np.where(time <= 0, 0.0, np.where(time >= 1, 1.0, progress))


@lru_cache(maxsize=4096)
def spacing(ease: Even | Hold | Slow | Bezier, frames: int) -> Floats:
    """Progress 0…1 at each of the `frames` frames of a gap, the first key's frame included.

    The array is shared and read-only. Every gap of one length under one ease is worked out
    once, whatever the number of channels.
    """
    time = np.arange(frames, dtype=np.float64) / frames
    match ease:
        case Even():
            result = time
        case Hold():
            result = np.zeros(frames)
        case Slow() | Bezier():
            result = cubic_bezier(*bezier_of(ease), time)
    result.flags.writeable = False
    return result


def css(ease: Even | Hold | Slow | Bezier) -> str:
    """The ease in the words of the W3C CSS easing functions."""
    match ease:
        case Even():
            return "linear"
        case Hold():
            return "steps(1, jump-end)"
        case Slow() | Bezier():
            return "cubic-bezier({:g}, {:g}, {:g}, {:g})".format(*bezier_of(ease))
