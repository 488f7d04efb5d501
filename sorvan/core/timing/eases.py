"""How far along a gap a value has come."""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache

import numpy as np

from sorvan.core.geometry import Floats
from sorvan.core.model.ease import Bezier, Even, Family, FamilyName, Hold, Slow, SpacingChart

AnEase = Even | Hold | Slow | Bezier | Family | SpacingChart
OVERSHOOT = 1.70158
"""The published factor of a `back`: it goes a tenth too far."""
SWING = 0.3
"""The published share of a gap that a swing of an `elastic` takes."""


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


def _power(n: int) -> Callable[[Floats, float], Floats]:
    return lambda t, _: t**n


def _sine(t: Floats, _: float) -> Floats:
    return 1 - np.cos(t * np.pi / 2)


def _circular(t: Floats, _: float) -> Floats:
    return 1 - np.sqrt(np.maximum(1 - t * t, 0.0))


def _back(t: Floats, overshoot: float) -> Floats:
    return t * t * ((overshoot + 1) * t - overshoot)


def _elastic(t: Floats, swing: float) -> Floats:
    found = -(2 ** (10 * (t - 1))) * np.sin((t - 1 - swing / 4) * 2 * np.pi / swing)
    return np.where(t <= 0, 0.0, np.where(t >= 1, 1.0, found))


def _bounce(t: Floats, _: float) -> Floats:
    """Four parabolas, each rebound lower; the ball meets the ground at the gap's end when played backwards."""
    left, n, d = 1 - t, 7.5625, 2.75
    parts = [(1 / d, 0.0, 0.0), (2 / d, 1.5 / d, 0.75), (2.5 / d, 2.25 / d, 0.9375), (np.inf, 2.625 / d, 0.984375)]
    found = np.zeros_like(left)
    low = -np.inf
    for high, middle, floor in parts:
        here = (left >= low) & (left < high)
        found = np.where(here, n * (left - middle) ** 2 + floor, found)
        low = high
    return 1 - found


FAMILIES: dict[FamilyName, Callable[[Floats, float], Floats]] = {
    "quadratic": _power(2),
    "cubic": _power(3),
    "quartic": _power(4),
    "sine": _sine,
    "circular": _circular,
    "back": _back,
    "elastic": _elastic,
    "bounce": _bounce,
}
"""Each family slow out of the first key, at times 0…1.

Source: R. Penner (2002), ch. 7.
"""
WIDER = {"back": 1.525, "elastic": 1.5}
"""How much larger an amount is by the published formulas where the family is slow at both ends."""


def family(ease: Family, time: Floats) -> Floats:
    """A family's progress at times 0…1, any shape."""
    curve = FAMILIES[ease.family]
    amount = ease.amount if ease.amount is not None else {"back": OVERSHOOT, "elastic": SWING}.get(ease.family, 0.0)
    match ease.slow:
        case "out":
            return curve(time, amount)
        case "in":
            return 1 - curve(1 - time, amount)
        case "both":
            amount *= WIDER.get(ease.family, 1.0)
            first, second = curve(2 * time, amount) / 2, 1 - curve(2 - 2 * time, amount) / 2
            return np.where(time < 0.5, first, second)


def progress(ease: AnEase, time: Floats) -> Floats:
    """How far a value has come at times 0…1 of its gap, any shape: 0 at 0; beyond 0…1 where an ease overshoots."""
    match ease:
        case Even():
            return time
        case Hold():
            return np.where(time >= 1, 1.0, 0.0)
        case Slow() | Bezier():
            return cubic_bezier(*bezier_of(ease), time)
        case Family():
            return family(ease, time)
        case SpacingChart():
            return np.interp(time, [0.0, *(t for t, _ in ease.ticks), 1.0], [0.0, *(p for _, p in ease.ticks), 1.0])


@lru_cache(maxsize=8192)
def spacing(ease: AnEase, frames: int) -> Floats:
    """Progress at each of the `frames` frames of a gap, the first key's frame included.

    The array is shared and read-only. Every gap of one length under one ease is worked out
    once, whatever the number of channels.
    """
    result = progress(ease, np.arange(frames, dtype=np.float64) / frames)
    result.flags.writeable = False
    return result


def css(ease: AnEase) -> str:
    """The ease in the words of the W3C CSS easing functions; a family as `linear()` with 32 points."""
    match ease:
        case Even():
            return "linear"
        case Hold():
            return "steps(1, jump-end)"
        case Slow() | Bezier():
            return "cubic-bezier({:g}, {:g}, {:g}, {:g})".format(*bezier_of(ease))
        case SpacingChart():
            return f"linear(0, {', '.join(f'{p:g} {100 * t:g}%' for t, p in ease.ticks)}, 1)"
        case Family():
            points = progress(ease, np.linspace(0, 1, 33))
            return f"linear({', '.join(f'{p:.4g}' for p in points)})"
