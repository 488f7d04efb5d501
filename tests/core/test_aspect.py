"""What is made for one view of a puppet, seen from another."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorvan.core.errors import Refusal
from sorvan.core.geometry import Affine, Floats
from sorvan.core.model.documents import Documents
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.plan.ground_contact import tracks
from sorvan.core.plan.turning import seen_from
from sorvan.core.rig.anatomy import anatomy
from tests.core.staging import acted, on_stage, slides, stood, strolling
from tests.core.walkers import key, keyed, planned, walker
from tests.core.worlds import do

VIEWS: list[dict[str, Any]] = [
    {"at": 0, "name": "front"},
    {"at": 45, "name": "three-quarter", "values": {"near-upper-arm.move": [9, -4], "head.turn": [6]}},
    {"at": 90, "name": "side"},
    {"at": 180, "name": "back"},
    {"at": 270, "name": "other side", "flips": True, "of": 90},
]


def turning(documents: Documents, views: list[dict[str, Any]] = VIEWS, **more: Any) -> Documents:
    """The documents with their puppet on a turnaround of these views."""
    dial = {"id": "t", "name": "turn", "low": 0, "high": 360, "turns": True, "stops": views, **more}
    return do(documents, {"do": "set-dial", "puppet": "a", "dial": dial})


def made_for(documents: Documents, seen: float | None) -> Documents:
    return do(documents, {"do": "set-motion", "motion": "m", "seen": seen})


def seen(documents: Documents, at: float, frame: int = 0) -> Evaluation:
    """A frame of the motion with the puppet turned so far."""
    return Evaluation.full(documents.puppet("a"), documents.motion("m")).pose(frame, {"t.dial": (at,)})


def place(e: Evaluation, joint: str) -> complex:
    return complex(*e.worlds[e.rig.row[joint], 4:, 0])


THIGH, SHIN = 30.0, 24.0


@pytest.mark.parametrize("at", [0.0, 45.0, 90.0, 180.0])
def test_a_swung_leg_is_seen_from_every_side_as_it_lies_in_space(at: float) -> None:
    """Against a leg of two bones turned in space, and looked at straight on from there."""
    documents = made_for(turning(walker(toes=False)), 90)
    documents = keyed(documents, key("near0-thigh", "turn", 0, -THIGH), key("near0-shin", "turn", 0, SHIN))
    rest, found = seen(made_for(documents, None), 90), seen(documents, at)
    joints = ("near0-thigh", "near0-shin", "near0-foot")
    at_rest = Evaluation.full(documents.puppet("a")).worlds
    row = found.rig.row
    hip, knee, ankle = (complex(*at_rest[row[j], 4:, 0]) for j in joints)
    upper, lower = abs(knee - hip), abs(ankle - knee)
    # Forward is across the picture from the side, down is down; a bone hangs down and is swung forward by its turn.
    forward = np.array([math.sin(math.radians(at)), 0.0])
    down = np.array([0.0, 1.0])

    def bone(length: float, degrees: float) -> Floats:
        a = math.radians(degrees)
        return np.asarray(length * (math.sin(a) * forward + math.cos(a) * down))

    wanted = np.array([hip.real, hip.imag]) + bone(upper, THIGH)
    assert place(found, "near0-shin") == pytest.approx(complex(*wanted))
    wanted = wanted + bone(lower, THIGH - SHIN)
    assert place(found, "near0-foot") == pytest.approx(complex(*wanted))
    # The pictures of the bones lead from joint to joint: nothing comes apart.
    for upper_joint, lower_joint in (("near0-thigh", "near0-shin"), ("near0-shin", "near0-foot")):
        carried = Affine(*found.worlds[row[upper_joint], :, 0])
        still = Affine(*at_rest[row[upper_joint], :, 0])
        end = carried.place(still.inverse().place(tuple(at_rest[row[lower_joint], 4:, 0])))
        assert complex(*end) == pytest.approx(place(found, lower_joint))
    if at == 90:
        assert np.array_equal(found.worlds, rest.worlds), "from where it is made for it is just as it is keyed"


def test_a_motion_for_the_front_is_the_other_way_round_from_behind() -> None:
    documents = keyed(made_for(turning(walker()), 0), key("near-upper-arm", "turn", 0, -70))
    front, back, side = (seen(documents, at) for at in (0, 180, 90))
    shoulder, elbow = place(front, "near-upper-arm"), place(front, "near-forearm")
    assert place(back, "near-forearm") - shoulder == pytest.approx(-(elbow - shoulder).conjugate())
    # Raised towards or away from the eye it only grows shorter.
    assert (place(side, "near-forearm") - shoulder).real == pytest.approx(0)
    assert (place(side, "near-forearm") - shoulder).imag == pytest.approx((elbow - shoulder).imag)


def test_in_the_mirror_each_side_does_what_its_twin_does() -> None:
    documents = keyed(made_for(turning(walker()), 90), key("near-upper-arm", "turn", 0, -50))
    one, other = seen(documents, 90), seen(documents, 270)
    x = documents.puppet("a").origin[0]
    for joint, twin in (("near-forearm", "far-forearm"), ("far-forearm", "near-forearm"), ("head", "head")):
        there, here = place(one, joint), place(other, twin)
        rest = complex(*Evaluation.full(documents.puppet("a")).worlds[one.rig.row[joint], 4:, 0])
        still = complex(*Evaluation.full(documents.puppet("a")).worlds[one.rig.row[twin], 4:, 0])
        # As far from where it rests as its twin is on the other side, mirrored.
        assert here - complex(2 * x - still.real, still.imag) == pytest.approx(-(there - rest).conjugate())
    assert other.worlds[other.rig.row["head"], 0, 0] < 0


@pytest.mark.parametrize("at", [45.0, 70.0, 110.0, 160.0])
def test_feet_stand_on_the_ground_from_every_side(at: float) -> None:
    """What is down in the view it is planned in is down in every other, and goes by evenly."""
    documents = planned(turning(walker(toes=True), between="morph"), gait="walk", frames=24)
    motion = documents.motion("m")
    assert motion.seen == 90, "a walk is planned from the side"
    puppet = documents.puppet("a")
    side = Evaluation.full(puppet, motion)
    turned = Evaluation.full(puppet, keyed(documents, key("t", "dial", 0, at)).motion("m"))
    across = math.cos(math.radians(at - 90))
    ground = anatomy(seen_from(puppet, 90)).ground
    for one in tracks(side, anatomy(puppet).legs):
        ankle = [e.worlds[e.rig.row[one.joint]] for e in (side, turned)]
        stands = one.stands(ground)
        assert stands.any()
        assert ankle[1][5] == pytest.approx(ankle[0][5])
        moved = [np.diff(a[4]) for a in ankle]
        assert moved[1] == pytest.approx(across * moved[0], abs=1e-9)


def test_a_gait_is_planned_on_the_view_that_it_is_for() -> None:
    """The side view's legs are shorter: the same walk planned on a puppet that is rigged so takes the same keys."""
    short = [{**v, "values": {"near0-shin.move": [0, -30], "far0-shin.move": [0, -30]}} if v["at"] == 90 else v
             for v in VIEWS]  # fmt: skip
    documents = planned(turning(walker(), short), gait="walk", frames=24)
    rigged = seen_from(turning(walker(), short).puppet("a"), 90)
    plain = planned(walker().with_(rigged), gait="walk", frames=24)
    assert rigged.dials == {} and rigged.joints["near0-shin"].rest.y != walker().puppet("a").joints["near0-shin"].rest.y
    assert documents.motion("m").channels == plain.motion("m").channels
    assert planned(made_for(turning(walker()), 0), gait="walk").motion("m").seen == 0


@pytest.mark.parametrize("at", [45.0, 135.0])
def test_who_walks_turned_is_carried_as_far_as_the_feet_go(at: float) -> None:
    """On the stage no foot slides, and the way is shorter by as much as the steps look."""
    # A foot is drawn as long as it looks from there.
    drawn = [
        {"at": float(a), "name": str(a), "values": {
            f"{side}0-foot.scale": [max(math.sin(math.radians(a)), 0.01), 1] for side in ("near", "far")
        }}
        for a in (0, 45, 90, 135, 180)
    ]  # fmt: skip
    documents = planned(turning(strolling(), drawn), gait="walk", step=150, frames=12)
    straight = on_stage(documents, {}, travel={})
    aside = do(straight, {"do": "key-in-shot", "cast": "c", "shot": "s", "keys": [
        {"joint": "t", "kind": "dial", "frame": 0, "value": [at - 90]}]})  # fmt: skip
    one, other = acted(straight), acted(aside)
    assert one.carried is not None and other.carried is not None
    assert other.carried.gone[-1] == pytest.approx(math.cos(math.radians(at - 90)) * one.carried.gone[-1])
    assert stood(other) > 40
    assert slides(one).max() < 0.1
    assert slides(other).max() < 0.1
    # At more pictures a frame it is at the same places.
    fine = acted(aside, times=np.arange(0, 95.5, 0.5))
    assert fine.carried is not None
    assert fine.carried.gone[::2] == pytest.approx(other.carried.gone)


def test_one_who_stops_walking_turns_to_the_front_the_short_way() -> None:
    """From a motion for the side into one that is made for the front the turn itself goes over."""
    documents = planned(turning(strolling()), gait="walk", step=150, frames=12)
    documents = do(documents, {"do": "add-motion", "id": "n", "puppet": "a", "name": "stand", "length": 24})
    documents = do(documents, {"do": "set-motion", "motion": "n", "seen": 0})
    shot = on_stage(documents, {"frames": 48}, {"motion": "n", "start": 40, "frames": 56, "blend": 8}, travel={})
    dial = acted(shot).doing.values["t.dial"][0]
    assert dial[:40] == pytest.approx(90)
    assert dial[48:] == pytest.approx(0)
    assert np.all(np.diff(dial[40:48]) < 0)


values = st.fixed_dictionaries({}, optional={
    "near-upper-arm.turn": st.tuples(st.floats(-90, 90)), "head.move": st.tuples(st.floats(-9, 9), st.floats(-9, 9)),
    "far0-thigh.turn": st.tuples(st.floats(-40, 40)),
})  # fmt: skip


@given(st.lists(st.tuples(st.integers(0, 23), st.sampled_from([0.0, 45.0, 90.0, 130.0, 270.0, None]), values), max_size=6),
       st.sampled_from(["hold", "morph"]), st.sampled_from([None, 0.0, 90.0]))  # fmt: skip
def test_working_out_only_what_changed_gives_exactly_the_whole(
    edits: list[tuple[int, float | None, dict[str, Any]]], between: str, at: float | None
) -> None:
    documents = made_for(turning(walker(), between=between), at)
    evaluation = Evaluation.full(documents.puppet("a"), documents.motion("m"))
    for frame, turn, numbers in edits:
        keys = [key(*c.split("."), frame, *v) for c, v in numbers.items()]
        if turn is not None:
            keys.append(key("t", "dial", frame, turn))
        if keys:
            documents = keyed(documents, *keys)
        puppet, motion = documents.puppet("a"), documents.motion("m")
        evaluation, _ = evaluation.after(puppet, motion)
        whole = Evaluation.full(puppet, motion)
        assert np.array_equal(evaluation.worlds, whole.worlds)
        assert np.array_equal(evaluation.pieces, whole.pieces)
        one = whole.pose(frame, {})
        assert np.array_equal(one.pieces[:, :, 0], whole.pieces[:, :, frame])


@pytest.mark.parametrize(("turn", "wanted"), [(50.0, 80.0), (70.0, 90.0), (-40.0, 20.0)])
def test_limits_count_from_how_a_joint_lies_in_its_view(turn: float, wanted: float) -> None:
    views = [{"at": 0, "name": "front"}, {"at": 90, "name": "side", "values": {"near0-shin.turn": [30]}}]
    documents = turning(walker(), views)
    limits = {"low": -10, "high": 60}
    documents = do(documents, {"do": "set-joints", "puppet": "a", "joints": ["near0-shin"], "limits": limits})
    documents = keyed(made_for(documents, 90), key("near0-shin", "turn", 0, turn))
    evaluation = Evaluation.full(documents.puppet("a"), documents.motion("m"))
    assert evaluation.values["near0-shin.turn"][0, 0] == pytest.approx(wanted)


def test_a_motion_is_made_for_a_view_that_there_is() -> None:
    plain = walker()
    for documents, at in ((plain, 90.0), (turning(plain), 270.0)):
        with pytest.raises(Refusal):
            made_for(documents, at)
    assert made_for(made_for(turning(plain), 90), None).motion("m").seen is None
