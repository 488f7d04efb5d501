"""Frames and seconds. Seconds are exact fractions, so nothing drifts at 24000/1001."""

from __future__ import annotations

from fractions import Fraction

from sorvan.core.model.production import Rate


def per_second(rate: Rate) -> Fraction:
    """Frames in one second."""
    return Fraction(rate.numerator, rate.denominator)


def seconds(frames: int, rate: Rate) -> Fraction:
    """How long this many frames last, exactly."""
    return frames / per_second(rate)
