"""How a foot goes round in a cycle: rolling over the ground while it stands, carried forward while it swings.

Times are shares of the cycle, one array entry a time. Places are complex stage units seen from where the
ankle is at rest, forward to the right whatever way the puppet faces, y down. Angles are radians, positive
with the heel up.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from sorvan.core.geometry import Complexes, Floats
from sorvan.core.planning.gaits import Foot

FLAT_FROM, FLAT_TO = 0.2, 0.6
"""The part of a stance in which the sole lies flat; before it rolls off the heel, after it over the toe."""


def smooth(u: Floats) -> Floats:
    """From 0 to 1 with no speed at either end: 3u² - 2u³."""
    v = np.clip(u, 0.0, 1.0)
    return v * v * (3 - 2 * v)


@dataclass(frozen=True)
class Stepping:
    """One foot's way. `heel`, `ball` and `toe` are seen from the ankle with the sole flat; `strike` is how far
    the toe is up when it touches down, `off` how far the heel when it leaves (radians); `lift` how high the
    lowest point of the foot is carried, `stride` the length of the whole cycle, `shift` how far before the
    hip the middle of the stance lies (units), `flat_to` the part of the stance at which its heel begins to rise. With a toe joint it
    rolls over the ball and the toe stays flat; a stiff foot rolls over its tip."""

    foot: Foot
    heel: complex
    ball: complex
    toe: complex
    bends: bool
    stride: float
    strike: float
    off: float
    lift: float
    shift: float = 0.0
    flat_to: float = FLAT_TO

    @property
    def pivot(self) -> complex:
        """What it rolls over when the heel leaves the ground."""
        return self.ball if self.bends else self.toe

    def at(self, time: Floats) -> tuple[Complexes, Floats, Floats, NDArray[np.bool_]]:
        """Where the ankle is, the angles of foot and toe, and whether the foot stands."""
        since = np.mod(time - self.foot.phase + 1e-12, 1.0)
        stands = since <= self.foot.duty + 1e-9
        p = np.where(stands, since / self.foot.duty, 0.0)
        u = np.where(stands, 0.0, (since - self.foot.duty) / (1 - self.foot.duty))
        ankle, angle = self._standing(p)
        toe = -np.maximum(angle, 0.0) if self.bends else np.zeros_like(angle)
        swung, swung_angle, swung_toe = self._swinging(u)
        return (
            np.where(stands, ankle, swung),
            np.where(stands, angle, swung_angle),
            np.where(stands, toe, swung_toe),
            stands,
        )

    def _standing(self, p: Floats) -> tuple[Complexes, Floats]:
        """The ankle and the foot's angle, the part p of the stance being over."""
        angle = -self.strike * (1 - smooth(p / FLAT_FROM)) + self.off * smooth((p - self.flat_to) / (1 - self.flat_to))
        flat = self.stride * self.foot.duty * (0.5 - p) + self.shift
        over = np.where(angle < 0, self.heel, self.pivot)
        return flat + over - over * np.exp(1j * angle), angle

    def _swinging(self, u: Floats) -> tuple[Complexes, Floats, Floats]:
        """The ankle and the angles of foot and toe, the part u of the swing being over."""
        duty = self.foot.duty
        angle = self.off * (1 - smooth(u / 0.6)) - self.strike * smooth((u - 0.55) / 0.45)
        toe = -self.off * (1 - smooth(u / 0.5)) if self.bends else np.zeros_like(u)
        ends, slopes = self._ends()
        along = _hermite(u, ends[0], ends[1], slopes[0] * (1 - duty), slopes[1] * (1 - duty))
        # It is carried so that its lowest point is as high as it should be.
        turned = np.exp(1j * angle)
        bent, joint = np.exp(1j * (angle + toe)), self.ball * turned
        under = complex(0.0, self.toe.imag - self.ball.imag)
        tip = joint + (self.toe - self.ball) * bent
        low = np.max(np.stack([(self.heel * turned).imag, (joint + under * bent).imag, tip.imag]), axis=0)
        flat = max(self.heel.imag, self.toe.imag)
        height = self.lift * np.sin(np.pi * np.clip(u, 0, 1) ** 0.8) ** 2
        return along + 1j * (flat - low - height), angle, toe

    def _ends(self) -> tuple[tuple[float, float], tuple[float, float]]:
        """Where the ankle is across when it leaves and when it comes down, and how fast (units a cycle)."""
        e = 1e-5
        p = np.array([1.0, 1 - e, 0.0, e])
        x = self._standing(p)[0].real
        step = e * self.foot.duty
        return (float(x[0]), float(x[2])), (float((x[0] - x[1]) / step), float((x[3] - x[2]) / step))


def _hermite(u: Floats, start: float, end: float, leaving: float, arriving: float) -> Floats:
    """The cubic with these values and slopes at 0 and 1."""
    v = np.clip(u, 0, 1)
    return (
        (2 * v**3 - 3 * v**2 + 1) * start
        + (v**3 - 2 * v**2 + v) * leaving
        + (3 * v**2 - 2 * v**3) * end
        + (v**3 - v**2) * arriving
    )


def warped(feet: list[Foot]) -> Callable[[Floats], Floats]:
    """Times counted so that a step begins at each half: where the two sides' steps differ in length."""
    touches = sorted({round(f.phase, 6) for f in feet})
    if len(touches) != 2:
        return lambda t: t
    first, second = touches
    return lambda t: np.interp(np.mod(t - first, 1.0), [0.0, second - first, 1.0], [0.0, 0.5, 1.0])
