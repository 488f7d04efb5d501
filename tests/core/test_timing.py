"""Eases, channels and frame rates, against values worked out by hand."""

from __future__ import annotations

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorvan.core.model.channel import Channel, Key
from sorvan.core.model.ease import Bezier, Even, Hold, Slow
from sorvan.core.model.production import Rate
from sorvan.core.timing.channels import evaluate, gaps
from sorvan.core.timing.eases import css, spacing
from sorvan.core.timing.rates import seconds


def channel(outside: str = "hold", **keys: float) -> Channel:
    return Channel(joint="j", kind="turn", outside=outside, keys={int(f[1:]): Key(value=(v,)) for f, v in keys.items()})  # type: ignore[arg-type]


def test_slow_out_and_in_fully_is_the_curve_whose_half_is_a_half() -> None:
    progress = spacing(Slow(out=100, into=100), 4)
    # cubic-bezier(1, 0, 0, 1): at half time the curve parameter is 1/2. At a quarter of the time
    # x(s) = 3s(1-s)² + s³ = 1/4 has the root s = 0.0990, where y = 3s² - 2s³ = 0.0275.
    assert progress[2] == pytest.approx(0.5, abs=1e-12)
    root = min(r.real for r in np.roots([4, -6, 3, -0.25]) if abs(r.imag) < 1e-12)
    assert progress[1] == pytest.approx(3 * root**2 - 2 * root**3, abs=1e-12)


def test_nought_and_nought_is_even_again() -> None:
    assert spacing(Slow(out=0, into=0), 7) == pytest.approx(spacing(Even(), 7), abs=1e-12)


@given(st.integers(0, 100), st.integers(0, 100), st.integers(1, 60))
def test_slow_ease_never_turns_back_and_mirrors_when_out_and_in_swap(out: int, into: int, frames: int) -> None:
    one, other = spacing(Slow(out=out, into=into), frames), spacing(Slow(out=into, into=out), frames)
    assert np.all(np.diff(one) >= -1e-12)
    assert one[1:] == pytest.approx(1 - other[1:][::-1], abs=1e-9)


def test_eases_in_the_words_of_css() -> None:
    assert css(Slow(out=40, into=25)) == "cubic-bezier(0.4, 0, 0.75, 1)"
    assert css(Hold()) == "steps(1, jump-end)"
    assert css(Even()) == "linear"
    # The CSS keyword `ease` is this curve; at half time browsers show 0.8024.
    assert spacing(Bezier(x1=0.25, y1=0.1, x2=0.25, y2=1), 2)[1] == pytest.approx(0.8024, abs=5e-5)


@pytest.mark.parametrize(
    ("outside", "expected"),
    [
        ("hold", [10, 10, 10, 20, 30, 30, 30, 30, 30]),
        ("repeat", [10, 20, 10, 20, 30, 20, 10, 20, 10]),
        ("repeat-and-add", [-10, 0, 10, 20, 30, 40, 50, 60, 70]),
        ("back-and-forth", [30, 20, 10, 20, 30, 20, 10, 20, 30]),
    ],
)
def test_outside_its_keys(outside: str, expected: list[float]) -> None:
    assert evaluate(channel(outside, f2=10, f4=30), 9, cycle=False)[0].tolist() == expected


def test_a_cycle_leads_from_its_last_key_round_to_its_first_and_shows_no_picture_twice() -> None:
    # Frames 0…7 on a ring; keys at 2 and 6. From 6 the way to 2 takes four frames round the seam.
    values = evaluate(channel(f2=0, f6=8), 8, cycle=True)[0]
    assert values.tolist() == [4, 2, 0, 2, 4, 6, 8, 6]


def test_a_hold_stays_until_the_next_key_and_blocking_holds_all() -> None:
    keys = {0: Key(value=(1.0,), ease=Hold()), 3: Key(value=(7.0,)), 5: Key(value=(9.0,))}
    held = Channel(joint="j", kind="turn", keys=keys)
    assert evaluate(held, 7, cycle=False)[0].tolist() == [1, 1, 1, 7, 8, 9, 9]
    assert evaluate(held, 7, cycle=False, blocking=True)[0].tolist() == [1, 1, 1, 7, 7, 9, 9]


def test_the_sheet_is_told_of_every_gap_and_where_its_frames_fall() -> None:
    found = gaps(channel(f2=0, f6=8), 8, cycle=True)
    assert [(g.start, g.end) for g in found] == [(2, 6), (6, 10)]
    assert found[0].progress.tolist() == [0, 0.25, 0.5, 0.75]


def test_seconds_are_exact_at_fractional_rates() -> None:
    assert seconds(24_000, Rate(numerator=24_000, denominator=1001)) == Fraction(1001)
