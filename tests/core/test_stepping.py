"""What a gait is made of: a puppet measured, feet led along their ways, and keys fitted to values."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorvan.core.model.channel import Channel
from sorvan.core.motion.fit import keys_on_ring
from sorvan.core.planning.gaits import PRESETS, Foot, by_preset, table
from sorvan.core.planning.stepping import Stepping, warped
from sorvan.core.rig.anatomy import anatomy
from sorvan.core.timing.channels import evaluate
from tests.core.walkers import planned, walker
from tests.core.worlds import do


def measured(**figure: Any) -> Any:
    return anatomy(walker(**figure).puppet("a"))


def test_a_figure_is_measured_by_its_roles() -> None:
    found = measured(height=400, leg=0.5, shin=1.5, foot=0.5)
    assert (found.body, found.spine, found.head) == ("body", "chest", "head")
    assert found.ground == 650 and found.leg == pytest.approx(200)
    left, right = found.legs
    assert (left.side, right.side) == ("left", "right")
    assert left.bones == ("near0-thigh", "near0-shin") and left.foot == "near0-foot"
    assert left.lengths[1] / left.lengths[0] == pytest.approx(1.5)
    assert left.sole.heel.imag == left.sole.toe.imag == 650
    assert left.sole.length == pytest.approx(0.5 * left.lengths[1])
    assert [a.joints for a in found.arms] == [("near-upper-arm", "near-forearm"), ("far-upper-arm", "far-forearm")]


@pytest.mark.parametrize("way", [1, -1])
def test_the_way_it_faces_is_told_by_feet_or_else_by_knees(way: int) -> None:
    by_feet, by_knees = measured(facing=way, foot=0.4), measured(facing=way, foot=0, lean=14)
    for found in (by_feet, by_knees):
        assert found.facing == way
        assert all(leg.bend == way for leg in found.legs)
    # Heels are behind, whichever way that is.
    assert all((leg.sole.toe.real - leg.sole.heel.real) * way > 0 for leg in by_feet.legs)


def test_a_leg_may_have_one_bone_or_three_and_a_toe() -> None:
    assert [len(leg.bones) for leg in measured(knees=False).legs] == [1, 1]
    hind = measured(hock=True, lean=20)
    assert [leg.bones[-1] for leg in hind.legs] == ["near0-cannon", "far0-cannon"]
    toed = measured(toes=True, foot=0.6).legs[0]
    assert toed.toe == "near0-foot-toe" and toed.sole.heel.real < toed.sole.ball.real < toed.sole.toe.real
    assert measured(foot=0).legs[0].sole.length == 0


def test_from_the_front_it_steps_on_the_spot_and_says_so() -> None:
    documents = walker(foot=0.4)
    for side, dx in (("near", 45), ("far", -45)):
        apart = {"do": "move-joints", "puppet": "a", "joints": [f"{side}0-thigh"], "dx": dx, "dy": 0}
        documents = do(documents, apart)
    # The far foot turned to point the other way: the sides mirror one another.
    far = documents.puppet("a").pieces["far0-foot"]
    drawing = far.drawings[0]
    left, _, right, _ = drawing.bounds
    flipped = drawing.changed(pivot=(left + right - drawing.pivot[0], drawing.pivot[1]))
    puppet = documents.puppet("a").with_pieces(far.changed(drawings=(flipped,)))
    assert anatomy(puppet).facing == 0
    motion = planned(documents.with_(puppet)).motion("m")
    assert any("seen from the front" in s for s in motion.recipes["g"].said) and motion.ground.runs == 0


def test_tables_say_which_foot_follows_which() -> None:
    def phases(gait: Any, **figure: Any) -> dict[str, float]:
        legs = measured(**figure).legs
        return {leg.bones[0]: foot.phase for leg, foot in zip(legs, table(legs, gait, 1), strict=True)}

    assert phases("walk") == {"near0-thigh": 0, "far0-thigh": 0.5}
    # Four legs: pair 0 is in front. A trot's diagonals go together; in a walk a hind foot leads its own side.
    trot, walk = phases("trot", legs=4), phases("walk", legs=4)
    assert trot["near0-thigh"] == trot["far1-thigh"] != trot["far0-thigh"] == trot["near1-thigh"]
    assert (walk["near1-thigh"], walk["near0-thigh"], walk["far1-thigh"], walk["far0-thigh"]) == (0, 0.25, 0.5, 0.75)
    six = phases("walk", legs=6)
    assert six["near0-thigh"] == six["far1-thigh"] == six["near2-thigh"] != six["far0-thigh"]


steppings = st.builds(
    lambda phase, duty, length, ankle, bends, stride, roll, lift: Stepping(
        Foot(phase, duty), complex(-0.3 * length, ankle), complex(0.4 * length, ankle * (0.6 if bends else 1)),
        complex(0.7 * length, ankle), bends, stride, math.radians(15) * roll, math.radians(45) * roll, lift,
    ),
    st.floats(0, 0.99), st.floats(0.22, 0.75), st.floats(1, 90), st.floats(1, 30), st.booleans(),
    st.floats(20, 600), st.floats(0, 1.3), st.floats(0, 60),
)  # fmt: skip


@given(steppings)
def test_a_foot_rolls_without_sliding_goes_over_the_ground_and_never_jumps(step: Stepping) -> None:
    time = np.arange(4000) / 4000
    ankle, angle, toe, stands = step.at(time)
    turned = np.exp(1j * angle)
    heel, joint = ankle + step.heel * turned, ankle + step.ball * turned
    tip = joint + (step.toe - step.ball) * np.exp(1j * (angle + toe))
    flat = step.heel.imag
    lowest = np.maximum(heel.imag, tip.imag)
    assert lowest[stands] == pytest.approx(np.full(stands.sum(), flat), abs=1e-6)
    assert lowest.max() < flat + 1e-6
    # What bears the foot moves with the ground, which runs back by the stride in a cycle.
    runs = -step.stride / 4000
    bears = np.where(angle < 0, heel.real, np.where(angle > 0, (joint if step.bends else tip).real, heel.real))
    same = stands & np.roll(stands, -1) & (np.sign(angle) == np.sign(np.roll(angle, -1)))
    moved = (np.roll(bears, -1) - bears)[same]
    assert moved == pytest.approx(np.full(moved.size, runs), abs=1e-6)
    # Round the whole cycle neither the place nor its speed jumps.
    speed = np.diff(np.concatenate([ankle, ankle[:2]]))
    assert np.abs(speed).max() < 0.02 * (step.stride + step.lift + abs(step.toe) * 6)
    assert np.abs(np.diff(speed)).max() < 0.004 * (step.stride + step.lift * 4 + abs(step.toe) * 12 + 10)


def test_unequal_steps_are_counted_as_halves() -> None:
    time = warped([Foot(0.0, 0.6), Foot(0.4, 0.5)])
    assert time(np.array([0.0, 0.2, 0.4, 0.7, 0.999])) == pytest.approx([0, 0.25, 0.5, 0.75, 0.99917], abs=1e-4)


@given(st.integers(4, 48), st.lists(st.floats(-60, 60), min_size=4, max_size=4), st.data())
def test_fitted_keys_hold_every_frame_to_their_tolerance(count: int, waves: list[float], data: st.DataObject) -> None:
    time = np.arange(count) / count * 2 * np.pi
    row = waves[0] * np.sin(time) + waves[1] * np.cos(2 * time) + waves[2] * np.sin(3 * time + 1) + waves[3]
    marks = data.draw(st.lists(st.integers(0, count - 1), max_size=6))
    keys = keys_on_ring(row[None], marks, 0.05)
    assert set(marks) <= set(keys)
    found = evaluate(Channel(joint="j", kind="turn", keys=keys), count, True)[0]
    assert np.abs(found - row).max() <= 0.051
    assert len(keys_on_ring(np.zeros((1, count)), [0], 0.05)) == 1


def test_presets_change_the_shape_and_leave_step_and_travel() -> None:
    recipe = planned(walker(), step=90, travel="forward").motion("m").recipes["g"]
    for name in PRESETS:
        shaped = by_preset(recipe, name)  # type: ignore[arg-type]
        assert (shaped.step, shaped.travel, shaped.id) == (90, "forward", "g")
    assert by_preset(recipe, "tired").lean > by_preset(recipe, "proud").lean  # type: ignore[arg-type]
