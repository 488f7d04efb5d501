"""Movements of a pointer made into keys, measured against what the pointer did."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from sorvan.core.errors import Refusal
from sorvan.core.model.documents import Documents
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.timing.channels import evaluate
from tests.core.walkers import key, keyed, walker
from tests.core.worlds import do


def eight(frames: int, size: float = 80.0, at: complex = 300 + 200j, per_frame: int = 3) -> list[list[float]]:
    """A figure of eight drawn in so many frames, with the hand's own clock running unevenly."""
    time = np.linspace(0, frames, frames * per_frame + 1)
    time[1:-1] += 0.15 * np.sin(np.arange(1, len(time) - 1))
    u = 2 * np.pi * time / frames
    return [
        [float(t), at.real + size * float(np.sin(v)), at.imag + size / 2 * float(np.sin(2 * v))]
        for t, v in zip(time, u, strict=True)
    ]


def captured(documents: Documents, samples: Any, **fields: Any) -> Documents:
    recipe = {"kind": "capture", "id": "c", "name": "capture", "samples": samples, **fields}
    return do(documents, {"do": "do-recipe", "motion": "m", "recipe": recipe})


def place(documents: Documents, joint: str) -> np.ndarray[Any, Any]:
    e = Evaluation.full(documents.puppet("a"), documents.motion("m"))
    world = e.worlds[e.rig.row[joint]]
    return world[4] + 1j * world[5]  # type: ignore[no-any-return]


def long(cycle: bool = False) -> Documents:
    return do(walker(), {"do": "set-motion", "motion": "m", "length": 60, "cycle": cycle})


@given(
    st.floats(0.2, 12),
    st.integers(20, 50),
    st.integers(0, 9),
    st.sampled_from(["head", "near-forearm", "body"]),
    st.floats(-40, 40),
)
def test_a_joint_follows_the_hand_within_the_tolerance_from_where_it_is(
    tolerance: float, frames: int, start: int, joint: str, lean: float
) -> None:
    documents = keyed(long(), key("chest", "turn", 0, lean), key("chest", "turn", 50, -lean))
    before = place(documents, joint)[start]
    samples = eight(frames)
    done = captured(documents, samples, joint=joint, start=start, smooth=0, tolerance=tolerance)
    path = place(done, joint)
    assert abs(path[start] - before) < 1e-3
    hand = np.array([complex(x, y) for _, x, y in samples])
    times = np.array([t for t, _, _ in samples])
    at = np.arange(min(frames, 59 - start) + 1)
    wanted = before + np.interp(at, times, hand.real) + 1j * np.interp(at, times, hand.imag) - hand[0]
    assert np.abs(path[start + at] - wanted).max() <= tolerance + 0.05


def test_coarser_redone_from_the_recording_has_fewer_keys_and_keeps_the_hands() -> None:
    documents = captured(long(), eight(48), joint="head", smooth=0, tolerance=0.5)
    fine = documents.motion("m").channels["head.move"].keys
    documents = keyed(documents, key("head", "move", sorted(fine)[3], 5, 5))
    held = dict(documents.motion("m").channels["head.move"].keys)
    coarse = captured(documents, eight(48), joint="head", smooth=0, tolerance=8).motion("m").channels["head.move"].keys
    assert len(coarse) < 0.7 * len(fine)
    changed = sorted(fine)[3]
    assert coarse[changed] == held[changed]
    again = captured(documents, eight(48), joint="head", smooth=0, tolerance=0.5).motion("m")
    assert again.channels["head.move"].keys == held
    assert again.recipes["c"].samples == documents.motion("m").recipes["c"].samples


def test_a_new_recording_goes_over_the_keys_in_its_stretch_and_leaves_the_others() -> None:
    documents = keyed(long(), *(key("head", "move", f, f, 0) for f in (0, 10, 30, 55)))
    done = captured(documents, eight(30), joint="head", start=5, smooth=0, thin="every", every=1).motion("m")
    keys = done.channels["head.move"].keys
    assert {f for f, k in keys.items() if k.recipe is None} == {0, 55}
    assert keys[5].value == (5.0, 0.0), "it goes on from what was there"


def test_every_nth_frame_speed_and_span_can_be_chosen_again() -> None:
    whole = (
        captured(long(), eight(40), joint="head", smooth=0, thin="every", every=4)
        .motion("m")
        .channels["head.move"]
        .keys
    )
    assert sorted(whole) == [*range(0, 41, 4)]
    double = captured(long(), eight(40), joint="head", smooth=0, thin="every", every=1, speed=200)
    assert max(double.motion("m").channels["head.move"].keys) == 20
    half = captured(long(), eight(40), joint="head", smooth=0, thin="every", every=1, first=50, last=100)
    assert max(half.motion("m").channels["head.move"].keys) == 20
    slow = captured(long(), eight(40), joint="head", start=30, speed=50)
    assert "beyond the motion's end" in slow.motion("m").recipes["c"].said[0]
    assert max(slow.motion("m").channels["head.move"].keys) == 59


def test_smoothing_takes_the_tremble_out_and_keeps_the_ends() -> None:
    rng = np.random.default_rng(7)
    samples = [[t, x + float(rng.normal(0, 3)), y + float(rng.normal(0, 3))] for t, x, y in eight(48)]
    rough = place(captured(long(), samples, joint="head", smooth=0, thin="every", every=1), "head")
    calm = place(captured(long(), samples, joint="head", smooth=3, thin="every", every=1), "head")
    bend = lambda p: float(np.abs(np.diff(p[:49], 2)).mean())  # noqa: E731
    assert bend(calm) < 0.5 * bend(rough)
    assert abs(calm[0] - rough[0]) < 1e-3 and abs(calm[48] - rough[48]) < 1e-3


@pytest.mark.parametrize("flip", [1.0, -1.0])
def test_a_turn_looks_after_the_hand_by_as_much_as_the_hand_goes_round_the_pivot(flip: float) -> None:
    documents = keyed(
        long(), key("puppet", "scale", 0, flip, 1), key("chest", "turn", 0, 0), key("chest", "turn", 40, 25)
    )
    e = Evaluation.full(documents.puppet("a"), documents.motion("m"))
    pivots = e.worlds[e.rig.row["head"]][4] + 1j * e.worlds[e.rig.row["head"]][5]
    round_ = np.deg2rad(np.linspace(0, 400, 41))
    samples = [[float(t), p.real, p.imag] for t, p in enumerate(pivots[:41] + 90 * np.exp(1j * (0.4 + round_)))]
    done = captured(documents, samples, joint="head", what="turn", smooth=0, thin="every", every=1)
    e = Evaluation.full(done.puppet("a"), done.motion("m"))
    world = e.worlds[e.rig.row["head"]][:, :41]
    angle = np.unwrap(np.arctan2(world[1], world[0]))
    assert np.abs(np.rad2deg(angle - angle[0]) - np.linspace(0, 400, 41)).max() < 0.5


def test_a_recording_without_movement_in_time_is_refused() -> None:
    with pytest.raises(Refusal) as short:
        captured(long(), [[0, 1, 1], [0.4, 5, 5]], joint="head")
    assert "too short" in short.value.sentence()
    with pytest.raises(Refusal, match="one after the other"):
        captured(long(), [[0, 1, 1], [5, 5, 5], [3, 2, 2]], joint="head")
    with pytest.raises(Refusal, match="joint"):
        captured(long(), eight(20), joint="nobody")


@example([2.5] * 11, 20.0, True, 0)
@given(st.lists(st.floats(0.3, 9), min_size=4, max_size=30), st.floats(2, 30), st.booleans(), st.integers(0, 20))
def test_a_recording_is_followed_to_within_what_was_asked_also_over_the_seam_of_a_cycle(
    waits: list[float], tolerance: float, cycle: bool, start: int
) -> None:
    """However seldom a slow hand was seen."""
    times = np.round(np.concatenate([[0.0], np.cumsum(waits)]), 4)
    turn = np.linspace(0, 2 * np.pi, len(times))
    samples = np.round(np.stack([times, 900 + 150 * np.sin(turn), 200 + 70 * np.sin(2 * turn)], 1), 4).tolist()
    documents = do(walker(), {"do": "set-motion", "motion": "m", "length": 60, "cycle": cycle})
    told = {"kind": "capture", "id": "r", "name": "hand", "joint": "puppet", "start": start, "smooth": 0}
    recipe = {**told, "samples": samples, "tolerance": tolerance}
    channel = do(documents, {"do": "do-recipe", "motion": "m", "recipe": recipe}).motion("m").channels["puppet.move"]
    since = np.arange(min(int(times[-1]) + 1, 60 - start))
    hand = [np.interp(since, times, [s[i] for s in samples]) - samples[0][i] for i in (1, 2)]
    off = np.hypot(*(evaluate(channel, 60, cycle)[:, start + since] - hand))
    assert off.max() <= tolerance + 1e-3


@given(st.integers(20, 50), st.floats(-300, 300), st.floats(-200, 200), st.booleans())
def test_a_recording_is_made_a_loop_of_that_goes_round_without_a_jump(
    frames: int, across: float, down: float, longer: bool
) -> None:
    """A flight that ends somewhere else than it began."""
    flight = [
        [float(t), 300 + across * t / frames + 40 * np.sin(t / 3), 200 + down * (t / frames) ** 2]
        for t in range(frames + 1)
    ]
    documents = captured(
        do(long(), {"do": "set-motion", "motion": "m", "length": 60 if longer else 16}), flight, joint="body", smooth=0
    )
    open_ = place(documents, "body")
    done = do(documents, {"do": "loop-capture", "motion": "m", "recipe": "c"})
    motion, path = done.motion("m"), place(done, "body")
    assert (motion.length, motion.cycle) == (frames + 1, True)
    # As recorded until near its end, and from the last frame to the first no farther than the hand went at its fastest.
    closing = min(12, (frames + 1) // 3)
    hand = np.array([complex(x, y) for _, x, y in flight])
    same = slice(0, min(frames - closing, len(open_)))
    assert np.abs((path[same] - path[0]) - (hand[same] - hand[0])).max(initial=0) < 1.6
    fastest = np.abs(np.diff(hand)).max() + 1.6 * abs(hand[-1] - hand[0]) / closing + 3.2
    assert np.abs(np.diff(np.append(path, path[0]))).max() < fastest
