"""Channels as functions of time: between frames, late, round the seam, along paths, by every ease."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import quad

from sorvan.core.model.channel import Channel, Key, Tangents
from sorvan.core.model.ease import Even, Family, SpacingChart
from sorvan.core.model.motion import Motion
from sorvan.core.timing.channels import at, evaluate
from sorvan.core.timing.eases import FAMILIES, css, progress, spacing
from tests.core.worlds import Oracle, eases, published, small, tangents

wholes = st.integers(-60, 60)
parts = st.floats(-40, 40).map(lambda v: round(v, 3))


@st.composite
def channels(draw: st.DrawFn, kind: str = "turn", delayed: bool = True) -> tuple[Channel, int, bool]:
    """A channel with some keys, the length of its motion, and whether that is a cycle."""
    length, cycle = draw(st.integers(2, 40)), draw(st.booleans())
    frames = draw(st.lists(st.integers(0, length - 1), min_size=1, max_size=6, unique=True))
    size = 2 if kind == "move" else 1
    keys = {
        f: {
            "value": [draw(small) for _ in range(size)],
            "ease": draw(eases),
            "tangents": draw(tangents) if kind == "move" else None,
        }
        for f in frames
    }
    outside = st.sampled_from(["hold", "repeat", "repeat-and-add", "back-and-forth"])
    given = {"outside": draw(outside), "before": draw(st.one_of(st.none(), outside)), "keys": keys}
    late = draw(st.one_of(wholes, parts)) if delayed else 0
    return Channel.model_validate({"joint": "j", "kind": kind, "delay": late, **given}), length, cycle


@given(channels(), st.lists(parts, min_size=1, max_size=8))
def test_between_frames_a_channel_is_what_its_keys_say_there(
    made: tuple[Channel, int, bool], times: list[float]
) -> None:
    channel, length, cycle = made
    plain = Oracle(None, Motion(id="m", name="m", puppet="a", length=length, cycle=cycle))  # type: ignore[arg-type]
    found = at(channel, np.array(times), length, cycle)[0]
    assert found == pytest.approx([plain.channel(channel, t)[0] for t in times], abs=1e-6, rel=1e-9)


@given(channels("move", delayed=False), st.data())
def test_at_whole_frames_asked_for_as_times_the_numbers_are_the_same(
    made: tuple[Channel, int, bool], data: st.DataObject
) -> None:
    channel, length, cycle = made
    frames = np.array(data.draw(st.lists(wholes, min_size=1, max_size=9)))
    whole, real = (at(channel, t, length, cycle) for t in (frames, frames.astype(np.float64)))
    # Sines and powers may differ in their last bit with the length of the array.
    assert whole == pytest.approx(real, abs=1e-9, rel=1e-12)


@given(channels(), parts, st.lists(parts, min_size=1, max_size=8))
def test_a_delay_is_the_same_channel_so_much_later(
    made: tuple[Channel, int, bool], delay: float, times: list[float]
) -> None:
    channel, length, cycle = made
    late = channel.changed(delay=channel.delay + delay)
    asked = np.array(times)
    before = at(channel, asked - delay, length, cycle)
    # A step of the clock may fall to either side of a jump: look where both sides agree.
    near = [at(channel, asked - delay + e, length, cycle) for e in (-1e-6, 1e-6)]
    calm = np.all(np.abs(near[0] - near[1]) < 1e-2, axis=0)
    assert at(late, asked, length, cycle)[:, calm] == pytest.approx(before[:, calm], abs=1e-2)


@given(channels(delayed=False), st.integers(-90, 90))
def test_in_a_cycle_a_delay_of_frames_goes_round_the_seam_exactly(made: tuple[Channel, int, bool], d: int) -> None:
    channel, length, _ = made
    channel = channel.changed(outside="hold")
    values = evaluate(channel, length, cycle=True)
    assert np.array_equal(evaluate(channel.changed(delay=d), length, True), np.roll(values, d, axis=1))


def test_blocking_holds_whole_poses_whatever_comes_late() -> None:
    channel = Channel(joint="j", kind="turn", delay=3, keys={0: Key(value=(0.0,)), 4: Key(value=(8.0,))})
    assert evaluate(channel, 6, False, blocking=True)[0].tolist() == [0, 0, 0, 0, 8, 8]
    assert evaluate(channel, 6, False)[0].tolist() == [0, 0, 0, 0, 2, 4]


def test_what_comes_before_the_keys_may_differ_from_what_comes_after() -> None:
    keys = {2: Key(value=(10.0,)), 4: Key(value=(30.0,))}
    channel = Channel(joint="j", kind="turn", outside="repeat-and-add", before="back-and-forth", keys=keys)
    assert evaluate(channel, 9, False)[0].tolist() == [30, 20, 10, 20, 30, 40, 50, 60, 70]


def test_a_travelling_cycle_goes_on_by_what_its_last_key_says() -> None:
    keys = {0: Key(value=(0.0, 0.0)), 8: Key(value=(80.0, 0.0))}
    channel = Channel(joint="puppet", kind="move", outside="repeat-and-add", keys=keys)
    assert evaluate(channel, 8, True)[0].tolist() == [0, 10, 20, 30, 40, 50, 60, 70]
    assert at(channel, np.array([-1, 8, 17]), 8, True)[0].tolist() == [-10, 80, 170]
    assert evaluate(channel.changed(delay=1), 8, True)[0].tolist() == [-10, 0, 10, 20, 30, 40, 50, 60]


def test_a_blink_every_so_often_repeats_over_a_longer_motion() -> None:
    keys = {0: Key(value=(0.0,)), 1: Key(value=(100.0,)), 3: Key(value=(0.0,)), 6: Key(value=(0.0,))}
    lid = Channel(joint="lid", kind="dial", outside="repeat", keys=keys)
    assert evaluate(lid, 14, False)[0].tolist() == [0, 100, 50, 0, 0, 0, 0, 100, 50, 0, 0, 0, 0, 100]


@given(
    st.sampled_from(sorted(FAMILIES)),
    st.sampled_from(["out", "in", "both"]),
    st.sampled_from([None, 0.3, 1.0, 3.0]),
    st.floats(0, 1),
)
def test_families_follow_their_printed_formulas(family: Any, slow: Any, amount: float | None, time: float) -> None:
    ease = Family(family=family, slow=slow, amount=amount)
    if 0 < time < 1:
        assert progress(ease, np.array([time]))[0] == pytest.approx(published(ease, time), abs=1e-9)
    ends = progress(ease, np.array([0.0, 1.0]))
    assert ends == pytest.approx([0, 1], abs=1e-3)


@pytest.mark.parametrize("family", ["quadratic", "cubic", "quartic", "sine", "circular"])
@pytest.mark.parametrize("slow", ["out", "in", "both"])
def test_plain_families_never_turn_back_and_are_slow_where_they_say(family: Any, slow: Any) -> None:
    steps = np.diff(progress(Family(family=family, slow=slow), np.linspace(0, 1, 241)))
    assert np.all(steps >= -1e-12)
    first, last, middle = steps[0], steps[-1], steps[120]
    assert {"out": first < last, "in": last < first, "both": first < middle and last < middle}[slow]


def test_a_timing_chart_is_the_linear_function_and_keeps_its_shape_when_retimed() -> None:
    chart = SpacingChart(ticks=((0.25, 0.5), (0.5, 0.8), (0.75, 0.95)))
    assert css(chart) == "linear(0, 0.5 25%, 0.8 50%, 0.95 75%, 1)"
    assert spacing(chart, 4).tolist() == [0, 0.5, 0.8, 0.95]
    assert spacing(chart, 8)[::2].tolist() == [0, 0.5, 0.8, 0.95]
    with pytest.raises(ValueError, match="one after another"):
        SpacingChart(ticks=((0.5, 0.5), (0.25, 0.8)))


@given(st.lists(st.tuples(small, small), min_size=3, max_size=5, unique=True), st.booleans())
def test_on_a_smooth_path_even_frames_lie_evenly_along_it(places: list[tuple[float, float]], cycle: bool) -> None:
    keys = {10 * i: Key(value=p, ease=Even(), tangents=Tangents()) for i, p in enumerate(places)}
    channel = Channel(joint="j", kind="move", keys=keys)
    length = 10 * len(places) if cycle else 10 * len(places) - 9
    fine = at(channel, np.linspace(0, 10, 4001), length, cycle)
    steps = np.hypot(*np.diff(fine, axis=1))
    ends = np.hypot(*(np.array(places[1]) - places[0]))
    assert steps.sum() >= ends - 1e-6
    # All but the few that cut across a turning point.
    assert np.mean(np.abs(steps / max(steps.mean(), 1e-9) - 1) < 2e-2) > 0.995
    # It runs through its keys, and through each inner one without a corner.
    assert at(channel, np.array([10]), length, cycle)[:, 0] == pytest.approx(places[1], abs=1e-6)


def test_the_length_of_a_path_is_its_true_length() -> None:
    # A quarter of a circle by its usual cubic, k = 4(√2 - 1)/3: equal frames turn by equal angles.
    k = 4 / 3 * (math.sqrt(2) - 1) * 100
    keys = {
        0: Key(value=(100.0, 0.0), tangents=Tangents(after=(0, k))),
        8: Key(value=(0.0, 100.0), tangents=Tangents(before=(k, 0))),
    }
    values = evaluate(Channel(joint="j", kind="move", keys=keys), 9, False)
    angles = np.degrees(np.arctan2(values[1], values[0]))
    assert angles == pytest.approx(np.arange(9) * 11.25, abs=0.02)
    length = quad(lambda u: abs(100j * math.pi / 2 * np.exp(1j * u * math.pi / 2)), 0, 1)[0]
    steps = np.abs(np.diff(values[0] + 1j * values[1]))
    assert steps.sum() == pytest.approx(length, rel=3e-3)
