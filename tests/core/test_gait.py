"""The gait planner on puppets of any proportions: what it promises, measured on what was written."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from sorvan.core.errors import Refusal
from sorvan.core.model.documents import Documents
from sorvan.core.motion.cards import cards
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.plan.ground_contact import Track, tracks
from sorvan.core.planning.gaits import natural_frames, table
from sorvan.core.rig.anatomy import anatomy
from sorvan.core.timing.channels import evaluate
from tests.core.walkers import planned, walker
from tests.core.worlds import do

figures = st.fixed_dictionaries(
    {
        "leg": st.floats(0.3, 0.7),
        "shin": st.floats(0.6, 1.6),
        "foot": st.sampled_from([0.0, 0.15, 0.3, 0.7]),
        "knees": st.booleans(),
        "toes": st.booleans(),
        "legs": st.sampled_from([2, 2, 2, 4, 6]),
        "facing": st.sampled_from([1, -1]),
        "lean": st.sampled_from([0.0, 12.0]),
        "arms": st.booleans(),
        "ankle": st.sampled_from([0.03, 0.06, 0.12]),
        "height": st.sampled_from([120.0, 500.0]),
    }
)
shapes = st.fixed_dictionaries(
    {
        "gait": st.sampled_from(["walk", "run", "sneak", "limp", "skip", "trot", "gallop"]),
        "frames": st.integers(8, 48),
        "step": st.one_of(st.none(), st.floats(0, 400)),
        "lift": st.floats(0, 30),
        "bounce": st.floats(2, 12),
        "lean": st.floats(-10, 25),
        "roll": st.floats(0, 130),
        "weight": st.floats(-100, 100),
        "travel": st.sampled_from(["spot", "forward"]),
    }
)


class Measured:
    """A planned motion, evaluated and looked at from outside."""

    def __init__(self, documents: Documents) -> None:
        self.puppet, self.motion = documents.puppet("a"), documents.motion("m")
        self.anatomy = anatomy(self.puppet)
        self.evaluation = Evaluation.full(self.puppet, self.motion)
        self.count = self.motion.length
        self.level = self.motion.ground.level or 0.0
        self.tracks = tracks(self.evaluation, self.anatomy.legs)
        gait: Any = self.motion.recipes["g"]
        feet = table(self.anatomy.legs, gait.gait, self.anatomy.facing)
        time = np.arange(self.count) / self.count
        self.stands = [np.mod(time - f.phase + 1e-12, 1.0) <= f.duty + 1e-9 for f in feet]

    def joint(self, id: str) -> Any:
        return self.evaluation.worlds[self.evaluation.skeleton.ids.index(id)]

    def values(self, id: str) -> Any:
        return evaluate(self.motion.channels[id], self.count, True)[0]


QUICK_AND_FLAT = {
    "leg": 0.5, "shin": 1.0, "foot": 0.15, "knees": False, "toes": True, "legs": 2, "facing": 1, "lean": 0.0,
    "arms": False, "ankle": 0.06, "height": 500.0,
}, {
    "gait": "run", "frames": 8, "step": None, "lift": 0.0, "bounce": 2.0, "lean": 0.0, "roll": 40.0, "weight": 0.0,
    "travel": "spot",
}  # fmt: skip
"""A foot that is over its heel in one frame and over its toe in the next, its heel just off the ground."""


@given(figures, shapes)
@example(*QUICK_AND_FLAT)
def test_every_promise_holds_for_any_figure_and_any_gait(figure: dict[str, Any], shape: dict[str, Any]) -> None:
    figure = {**figure, "toes": figure["toes"] and figure["foot"] > 0}
    seen = Measured(planned(walker(**figure), **shape))
    scale = figure["height"] / 500
    for track, stands in zip(seen.tracks, seen.stands, strict=True):
        # A standing foot is on the ground line, and no foot is ever below it.
        assert np.abs(track.lowest - seen.level)[stands].max() < 0.5 * scale
        assert (track.lowest - seen.level).max() < 0.05
        slide = track.slide(seen.level, seen.motion.ground.runs, cycle=shape["travel"] == "spot")
        assert slide[stands & np.roll(stands, -1)].max(initial=0.0) < 0.1
        if track.leg.foot:
            assert track.heel.real.mean() * figure["facing"] < track.toe.real.mean() * figure["facing"]
    for leg in seen.anatomy.legs:
        if len(leg.bones) > 1:
            # Seen from its thigh, the shin turns the way that its knee gives, at every frame.
            thigh, shin = (leg.places[n + 1] - leg.places[n] for n in (0, 1))
            at_rest = np.angle(shin / thigh)
            bend = leg.bend * (np.rad2deg(at_rest) + seen.values(f"{leg.bones[1]}.turn"))
            assert bend.min() > -1e-6
    # A cycle has no seam: the step round it is like its neighbours.
    for id in seen.motion.channels:
        if id.endswith(".turn"):
            row = seen.values(id)
            steps = np.abs(np.diff(np.concatenate([row, row[:1]])))
            assert steps[-1] <= 1.6 * max(steps.max(), 1e-9)


@given(st.lists(st.tuples(st.floats(-40, 40), st.floats(-30, 30)), min_size=6, max_size=6), st.floats(-20, 20))
def test_a_foot_that_rolls_does_not_slide_and_one_that_is_pushed_slides_by_so_much(
    ways: list[tuple[float, float]], runs: float
) -> None:
    leg = anatomy(walker(foot=0.4).puppet("a")).legs[0]
    length = abs(leg.sole.toe - leg.sole.heel)
    # Over its heel, flat between two frames, over its toe, and back, on ground that runs.
    places = [100.0 + runs * f for f in range(6)]
    angles = [np.deg2rad(abs(a) + 3) * (-1 if f % 2 else 1) for f, (a, _) in enumerate(ways)]
    heel = np.array([complex(x, 0) if a < 0 else complex(x + length, 0) - length * np.exp(1j * a)
                     for x, a in zip(places, angles, strict=True)])  # fmt: skip
    toe = np.array([h + length * np.exp(1j * a) for h, a in zip(heel, angles, strict=True)])
    assert Track(leg, heel, toe).slide(0.0, runs, cycle=False) == pytest.approx(0, abs=1e-9)
    pushes = np.array([push for _, push in ways])
    slid = Track(leg, heel + pushes, toe + pushes).slide(0.0, runs, cycle=False)
    assert slid[:-1] == pytest.approx(np.abs(np.diff(pushes)), abs=1e-9)


@given(figures, st.sampled_from([12, 16, 20, 24, 32, 40]))
def test_the_body_is_lowest_at_down_and_highest_at_up(figure: dict[str, Any], frames: int) -> None:
    seen = Measured(planned(walker(**{**figure, "legs": 2, "toes": False}), frames=frames))
    half = frames // 2
    height = seen.joint("body")[5]
    labels = {c.pose.label: c.frame for c in reversed(cards(seen.motion)) if c.frame < half}
    assert set(labels) == {"contact", "down", "passing", "up"}
    assert height[labels["down"]] == pytest.approx(height.max(), abs=1e-3)
    assert height[labels["up"]] == pytest.approx(height.min(), abs=1e-3)
    assert height == pytest.approx(np.roll(height, half), abs=0.05)


def test_in_a_run_both_feet_leave_the_ground_and_in_a_walk_never() -> None:
    for gait, flies in (("walk", False), ("sneak", False), ("run", True)):
        seen = Measured(planned(walker(foot=0.5), gait=gait, frames=16, lift=12))
        up = [seen.level - t.lowest > 0.5 for t in seen.tracks]
        assert bool(np.any(up[0] & up[1])) is flies
        assert ("flight" in {p.label for p in seen.motion.poses.values()}) is flies


def test_arms_swing_against_the_legs_of_their_side() -> None:
    seen = Measured(planned(walker(foot=0.5), lag=0))
    legs = {leg.side: leg for leg in seen.anatomy.legs}
    for arm in seen.anatomy.arms:
        shoulder, elbow = seen.joint(arm.joints[0]), seen.joint(arm.joints[1])
        # The wrist, at the end of the forearm's own picture.
        tip = elbow[4] - np.sin(np.arctan2(elbow[1], elbow[0])) * 85, elbow[5]
        hand = tip[0] - shoulder[4]
        leg = legs[arm.side]
        foot = seen.joint(leg.foot)[4] - seen.joint(leg.bones[0])[4]
        agree = {f: np.sign(hand[f]) != np.sign(foot[f]) for f, p in seen.motion.poses.items() if p.label != "passing"}
        assert all(agree.values()), agree


def test_forward_the_puppet_goes_on_by_its_stride_and_feet_stay_on_the_stage() -> None:
    documents = planned(walker(foot=0.4), travel="forward", step=120)
    motion = documents.motion("m")
    assert motion.channels["puppet.move"].keys[24].value == pytest.approx((240, 0))
    assert motion.ground.runs == 0
    assert planned(walker(foot=0.4), step=120).motion("m").ground.runs == pytest.approx(-10)


def test_limits_are_kept_and_what_cannot_be_is_said_and_done_as_near_as_may_be() -> None:
    documents = walker(foot=0.4)
    for id in ("near0-thigh", "far0-thigh"):
        limits = {"low": -25, "high": 20}
        documents = do(documents, {"do": "set-joints", "puppet": "a", "joints": [id], "limits": limits})
    seen = Measured(planned(documents, step=200))
    said = seen.motion.recipes["g"].said
    assert any("instead of 200 units" in s for s in said)
    for id in ("near0-thigh", "far0-thigh"):
        assert seen.values(f"{id}.turn").min() >= -25.01 and seen.values(f"{id}.turn").max() <= 20.01


def test_without_legs_it_says_what_is_missing() -> None:
    documents = walker()
    for side in ("near", "far"):
        documents = do(
            documents,
            {"do": "remove-pieces", "puppet": "a", "pieces": [f"{side}0-foot", f"{side}0-shin", f"{side}0-thigh"]},
        )
        for part in ("foot", "shin", "thigh"):
            if f"{side}0-{part}" in documents.puppet("a").joints:
                documents = do(documents, {"do": "remove-joints", "puppet": "a", "joints": [f"{side}0-{part}"]})
    with pytest.raises(Refusal, match="no legs to walk with"):
        planned(documents)


def test_a_natural_cycle_is_longer_for_longer_legs() -> None:
    # A leg of 0.85 m at Froude 0.25: stride 2.4·0.25^0.34·0.85 = 1.273 m at √(0.25·9.81·0.85) = 1.444 m/s,
    # so 0.882 s: 21.2 frames, and 22 is the nearest even number.
    step = 2.4 * 0.25**0.34 * 0.85 / 2
    assert natural_frames(0.85, step, 1.6, 24.0, running=False) in (20, 22)
    long, short = (natural_frames(leg, 0.7 * leg, 1.6, 24.0, False) for leg in (1.0, 0.4))
    assert long > short


def test_done_again_it_writes_the_same_and_keeps_what_the_hand_changed() -> None:
    documents = planned(walker(), frames=16, gait="run")
    assert planned(documents, frames=16, gait="run") == documents
    frames = sorted(documents.motion("m").channels["near-upper-arm.turn"].keys)
    key = {"joint": "near-upper-arm", "kind": "turn", "frame": frames[2], "value": [77]}
    touched = do(documents, {"do": "set-keys", "motion": "m", "keys": [key]})
    loose = {"joint": "head", "kind": "move", "frame": 8, "value": [0, -5]}
    touched = do(touched, {"do": "set-keys", "motion": "m", "keys": [loose]})
    gone = {"channel": "far-upper-arm.turn", "frame": frames[1]}
    touched = do(touched, {"do": "remove-keys", "motion": "m", "keys": [gone]})
    after = planned(touched, frames=12, gait="run", lift=14).motion("m")
    assert after.length == 12
    arm = {f: k.value[0] for f, k in after.channels["near-upper-arm.turn"].keys.items() if k.hand}
    assert list(arm.values()) == [77]
    pose = documents.motion("m").poses[frames[2]].label if frames[2] in documents.motion("m").poses else None
    if pose:
        assert after.poses[next(iter(arm))].label == pose
    assert after.channels["head.move"].keys[6].value == (0, -5)
    fresh = planned(walker(), frames=12, gait="run", lift=14).motion("m")
    assert len(after.channels["far-upper-arm.turn"].keys) == len(fresh.channels["far-upper-arm.turn"].keys) - 1
    assert after.channels["near0-thigh.turn"] == fresh.channels["near0-thigh.turn"]
    told = do(documents, {"do": "set-pose", "motion": "m", "frame": 0, "text": "heel"})
    assert planned(told, frames=12, gait="run").motion("m").poses[0].label == "heel"
    off = do(touched, {"do": "remove-recipe", "motion": "m", "recipe": "g"}).motion("m")
    # What was seen of the head at the poses before it is the hand's too.
    before = [f for f in documents.motion("m").poses if f < 8]
    kept = {"near-upper-arm.turn": 1, "head.move": len(before) + 1}
    assert len(before) > 1 and {id: len(c.keys) for id, c in off.channels.items()} == kept
    assert not off.poses and not off.recipes


def test_both_contacts_of_a_quick_trot_are_called_so() -> None:
    made = planned(walker(legs=4), gait="trot", frames=14).motion("m")
    assert [f for f, p in made.poses.items() if p.label == "contact"] == [0, 7]
