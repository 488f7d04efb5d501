"""Each check on a motion with its mistake, on one that only looks like it, and mended."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorvan.core.checks.finding import Finding
from sorvan.core.checks.motion import findings
from sorvan.core.checks.motion_seen import MotionSeen, frames_said
from sorvan.core.model.documents import Documents
from sorvan.core.model.recipe import Gait
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.planning.gaits import PRESETS, by_preset
from tests.core.test_gait import figures
from tests.core.walkers import hand_made, key, keyed, planned, walker
from tests.core.worlds import do

FIGURE: dict[str, Any] = {"facing": 1, "lean": 10.0, "foot": 0.3}


def found(documents: Documents, check: str | None = None) -> list[Finding]:
    motion = documents.motion("m")
    all_ = findings(MotionSeen(Evaluation.full(documents.puppet("a"), motion), motion), documents)
    return [f for f in all_ if check in (None, f.check)]


def mended(documents: Documents, check: str) -> Documents:
    """The documents after the first mend of a check, one after the other, until there is none left."""
    for _ in range(12):
        mend = next((f.mend for f in found(documents, check) if f.mend is not None), None)
        if mend is None:
            return documents
        documents = mend.apply(documents)
    raise AssertionError("mending never ends")


def walk(**fields: Any) -> Documents:
    return planned(walker(**FIGURE), frames=24, **fields)


@given(figures, st.sampled_from(sorted(PRESETS)), st.sampled_from(["spot", "forward"]))
def test_a_planned_gait_has_none_of_these_mistakes(figure: dict[str, Any], preset: Any, travel: Any) -> None:
    shape = by_preset(Gait(id="g", name="g", travel=travel), preset).model_dump(
        mode="json", exclude={"kind", "id", "name"}
    )
    assert not found(planned(walker(**figure), **shape))


def test_a_cycle_that_shows_its_first_picture_twice_gets_one_frame_less() -> None:
    documents = keyed(walker(), *(key("chest", "turn", f, v) for f, v in ((0, 0), (12, 20), (23, 0))))
    twice = found(documents, "first picture twice")
    assert [f.frame for f in twice] == [23]
    again = mended(documents, "first picture twice")
    assert again.motion("m").length == 23 and not found(again)
    still = keyed(walker(), *(key("chest", "turn", f, v) for f, v in ((0, 0), (8, 20), (16, 0))))
    assert not found(still, "first picture twice"), "a pose that is held over the seam is no mistake"


def test_a_jump_that_nobody_sees_is_none() -> None:
    """Away while it is clear, or in the frame in which it first shows."""
    turns = [key("head", "turn", 0, 0), key("head", "turn", 10, 4), key("head", "turn", 20, 80)]
    turns[2]["ease"] = {"kind": "hold"}
    jumps = keyed(walker(), *turns)
    assert found(jumps, "seam")
    hold = {"ease": {"kind": "hold"}}
    for clear, told in (
        (((0, 0), (4, 100), (18, 0)), False),
        (((0, 100), (18, 0)), False),
        (((0, 100), (9, 50)), True),
    ):
        faded = keyed(jumps, *(key("head", "opacity", f, v) | hold for f, v in clear))
        seams = [x for x in found(faded, "seam") if "head.turn" in {c for c, _ in x.keys}]
        assert bool(seams) == told, clear
    # Away and back in two frames, while it is clear or seen.
    spike = keyed(walker(), *(key("head", "turn", f, v) for f, v in ((0, 0), (9, 0), (10, 70), (11, 0))))
    assert found(spike, "pop")
    around = [key("head", "opacity", f, v) | hold for f, v in ((0, 100), (8, 0), (13, 100))]
    assert not found(keyed(spike, *around), "pop")


def test_a_value_or_its_speed_that_jumps_at_the_seam_is_measured_and_mended() -> None:
    turns = [key("body", "turn", 0, 0), key("body", "turn", 8, 4), key("body", "turn", 20, 30)]
    turns[2]["ease"] = {"kind": "hold"}
    documents = keyed(walker(), *turns)
    assert "jumps by 30.0 degrees" in found(documents, "seam")[0].text
    assert not found(mended(documents, "seam"), "seam")
    saw = keyed(walker(), key("body", "turn", 0, 0), key("body", "turn", 23, 40))
    for ease in ({"kind": "even"},):
        saw = do(saw, {"do": "ease-gaps", "motion": "m", "keys": [{"channel": "body.turn", "frame": 0}], "ease": ease})
    assert found(saw, "seam"), "a value that runs up and snaps back"
    smooth = [
        key("body", "turn", f, v) | {"ease": {"kind": "slow", "out": 50, "into": 50}} for f, v in ((0, 0), (12, 30))
    ]
    assert not found(keyed(walker(), *smooth), "seam")
    fast = [key("head", "turn", f, v) | {"ease": e} for f, v, e in (
        (0, 0, {"kind": "slow", "out": 0, "into": 60}), (10, 60, {"kind": "slow", "out": 60, "into": 60}),
        (14, 55, {"kind": "slow", "out": 60, "into": 0}))]  # fmt: skip
    kinked = keyed(walker(), *fast)
    assert "speed" in found(kinked, "seam")[0].text
    assert not found(mended(kinked, "seam"), "seam")


def test_feet_that_slide_are_told_and_matched_or_planted() -> None:
    documents = hand_made(FIGURE, 18, 0)
    slides = found(documents, "foot slide")
    assert len(slides) == 1 and len(slides[0].joints) == 2 and "walks on the spot" in slides[0].text
    matched = mended(documents, "foot slide")
    assert not found(matched, "foot slide") and matched.motion("m").ground.runs < -1
    # One foot that is pushed along the ground.
    still = walker(**FIGURE | {"lean": 45.0})
    pushed = do(still, {"do": "plant-foot", "motion": "m", "id": "far", "joint": "far0-foot", "start": 0, "frames": 24})
    pushed = keyed(pushed, key("puppet", "move", 0, 0, 0), key("puppet", "move", 12, 20, 0))
    told = found(pushed, "foot slide")
    assert {f.joints for f in told} == {("near0-foot",)}
    held = mended(pushed, "foot slide")
    assert not found(held, "foot slide") and not found(held, "planted out of reach")
    gone = keyed(held, key("puppet", "move", 12, 20, -120))
    assert {f.joints[0] for f in found(gone, "planted out of reach")} == {"near0-foot", "far0-foot"}


def test_a_foot_in_the_ground_is_brought_up_and_one_in_the_air_let_be() -> None:
    documents = keyed(walker(**FIGURE), key("body", "move", 0, 0, 0), key("body", "move", 12, 0, 25))
    sunk = found(documents, "foot through the ground")
    assert {f.joints[0] for f in sunk} == {"near0-foot", "far0-foot"} and "25.0 units" in sunk[0].text
    assert not found(mended(documents, "foot through the ground"), "foot through the ground")
    up = keyed(walker(**FIGURE), key("body", "move", 0, 0, 0), key("body", "move", 12, 0, -25))
    assert not found(up, "foot through the ground")


def test_a_joint_that_jumps_in_one_frame_pops_and_a_quick_or_held_one_does_not() -> None:
    there = ((0, 0), (9, 3), (10, 60), (11, 5), (20, 8))
    (away,) = found(keyed(walker(), *(key("near-forearm", "turn", f, v) for f, v in there)), "pop")
    assert away.joints == ("near-forearm",) and away.frame == 10 and "55° to frame 11 and back" in away.text
    # What shakes as much all along is meant to.
    shaken = keyed(walker(), *(key("near-forearm", "turn", f, 60 * (f % 2)) for f in range(20)))
    assert not found(walk(), "pop") and not found(shaken, "pop")
    step = keyed(
        walker(), *(key("near-forearm", "turn", f, v) for f, v in ((0, 0), (10, 4), (11, 44), (20, 48), (23, 50)))
    )
    pop = found(step, "pop")[0]
    assert pop.joints == ("near-forearm",) and pop.frame == 11 and "40°" in pop.text
    held = do(
        step,
        {
            "do": "ease-gaps",
            "motion": "m",
            "keys": [{"channel": "near-forearm.turn", "frame": 10}],
            "ease": {"kind": "hold"},
        },
    )
    assert not found(held, "pop")
    swing = keyed(
        walker(),
        *(key("near-forearm", "turn", f, v) for f, v in ((0, 0), (4, 80), (8, 0), (12, 80), (16, 0), (20, 80))),
    )
    assert not found(swing, "pop")


def test_a_stray_key_is_moved_to_its_pose_or_taken_away_and_overlap_let_be() -> None:
    documents = walk()
    head = documents.motion("m").channels["near-upper-arm.turn"]
    frame = next(f for f in sorted(head.keys) if f in documents.motion("m").poses)
    stray = next(f for f in range(frame + 1, 24) if f not in head.keys and f not in documents.motion("m").poses)
    told = found(keyed(documents, key("near-upper-arm", "turn", stray, 3)), "stray key")
    assert [(f.frame, f.keys) for f in told] == [(stray, (("near-upper-arm.turn", stray),))]
    assert not found(documents, "stray key")
    after = mended(keyed(documents, key("near-upper-arm", "turn", stray, 3)), "stray key")
    assert stray not in after.motion("m").channels["near-upper-arm.turn"].keys
    late = keyed(documents, *(key("head", "turn", f + 1, 2) for f in documents.motion("m").poses))
    assert not found(late, "stray key"), "a head that is keyed late throughout is overlap"


def test_frames_are_said_as_they_are_counted_also_over_the_end_of_a_cycle() -> None:
    assert [frames_said(*ends) for ends in ((6, 6), (6, 12), (13, 7))] == [
        "at frame 7", "between frames 7 and 13", "from frame 14 over the end to frame 8"
    ]  # fmt: skip


def test_keys_of_which_nothing_moves_are_told_until_something_does() -> None:
    one = keyed(walker(), key("chest", "turn", 0, 8), key("head", "turn", 0, 3))
    (told,) = found(one)
    assert (told.check, told.frame) == ("nothing moves", 0) and "only frame 1 has keys" in told.text
    assert {*told.joints} == {"chest", "head"} and told.mend is None
    again = keyed(one, key("chest", "turn", 12, 8))
    assert "the same" in next(f for f in found(again) if f.check == "nothing moves").text
    assert not found(keyed(again, key("head", "turn", 12, 9)), "nothing moves")
    assert not found(walker(), "nothing moves"), "what has no keys yet is no mistake"


def test_keys_beyond_limits_are_told_and_brought_back() -> None:
    documents = do(walk(), {"do": "set-joints", "puppet": "a", "joints": ["head"], "limits": {"low": -20, "high": 30}})
    documents = keyed(documents, key("head", "turn", 7, 55))
    told = found(documents, "limit broken")
    assert [(f.frame, f.joints) for f in told] == [(7, ("head",))] and "55°" in told[0].text
    after = mended(documents, "limit broken")
    assert after.motion("m").channels["head.turn"].keys[7].value == (30.0,) and not found(after, "limit broken")
    forced = do(
        walker(**FIGURE),
        {"do": "set-joints", "puppet": "a", "joints": ["near0-foot"], "limits": {"low": -3, "high": 3}},
    )
    forced = keyed(forced, key("body", "move", 0, 0, 90))
    forced = do(forced, {"do": "plant-foot", "motion": "m", "id": "p", "joint": "near0-foot", "start": 0, "frames": 24})
    assert "past its limits" in found(forced, "limit broken")[0].text


@pytest.mark.parametrize("facing", [1, -1])
def test_an_arm_that_goes_with_its_leg_is_told_and_swung_round(facing: int) -> None:
    documents = planned(walker(**FIGURE | {"facing": facing}), frames=24, arms=30)
    assert not found(documents, "arm with leg")
    keys = [
        {"channel": c.id, "frame": f}
        for c in documents.motion("m").channels.values()
        if c.joint in ("near-upper-arm", "near-forearm")
        for f in c.keys
    ]
    wrong = do(documents, {"do": "wrap-keys", "motion": "m", "keys": keys, "by": 12, "start": 0, "end": 23})
    told = found(wrong, "arm with leg")
    assert [f.joints for f in told] == [("near-upper-arm",)]
    assert not found(mended(wrong, "arm with leg"), "arm with leg")


def test_keys_that_are_never_reached_and_keys_that_are_never_seen() -> None:
    documents = do(walk(), {"do": "set-motion", "motion": "m", "length": 20})
    told = found(documents, "key beyond the end")[0]
    late = [(c.id, f) for c in documents.motion("m").channels.values() for f in c.keys if f >= 20]
    assert sorted(told.keys) == sorted(late)
    assert not found(mended(documents, "key beyond the end"), "key beyond the end")
    line = do(
        keyed(
            do(walker(), {"do": "set-motion", "motion": "m", "cycle": False, "length": 40}),
            key("head", "turn", 30, 5),
            key("head", "turn", 0, 1),
        ),
        {"do": "set-motion", "motion": "m", "length": 24},
    )
    assert mended(line, "key beyond the end").motion("m").length == 31

    hidden = do(
        keyed(walker(), key("head", "turn", 3, 5)),
        {"do": "set-pieces", "puppet": "a", "pieces": ["head"], "hidden": True},
    )
    assert [f.keys for f in found(hidden, "hidden keys")] == [(("head.turn", 0), ("head.turn", 3))]
    assert not found(keyed(walker(), key("head", "turn", 3, 5)), "hidden keys")
    reaching = do(
        walker(lean=12.0),
        {
            "do": "add-reach",
            "puppet": "a",
            "id": "c",
            "name": "leg",
            "anchor": "near0-thigh",
            "end": "near0-foot",
            "handle": "h",
        },
    )
    reaching = keyed(reaching, key("near0-thigh", "turn", 0, 5), key("near0-thigh", "turn", 9, 15))
    assert "decides" in found(reaching, "hidden keys")[0].text
    loose = keyed(reaching, key("c", "reach", 0, 40))
    assert not found(loose, "hidden keys")
