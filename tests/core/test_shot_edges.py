"""Where something in a shot begins or ends: blends half done, shakes, poses laid over, cuts, and steps that go on."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from sorvan.core.change.commands import COMMAND
from sorvan.core.errors import Refusal
from sorvan.core.geometry import Floats
from sorvan.core.model.shot import Member, Shake, Span
from sorvan.core.shot.camera import shaken
from sorvan.core.shot.scene import InShot, ShotScene
from sorvan.core.shot.spans import When, lowest, upper
from sorvan.core.staging.span_matching import best_first
from tests.core.staging import acted, on_stage, strolling
from tests.core.worlds import do

TIMES = np.arange(96.0)


def span(id: str, start: int, frames: int, **more: object) -> Span:
    return Span.model_validate({"id": id, "motion": "m", "start": start, "frames": frames, **more})


@given(st.integers(1, 12), st.integers(1, 12), st.integers(0, 1), st.integers(1, 5))
def test_what_of_a_blend_is_done_counts_only_right_after_what_it_goes_on_from(
    blend: int, done: int, row: int, gap: int
) -> None:
    motion = strolling().motion("m")
    laid = upper if row else lowest
    below = [(span("z", 0, 96), motion)] if row else []

    def weights(end: int, **more: int) -> Floats:
        before = (span("a", 5, end - 5, row=row), motion)
        coming = (span("b", 40, 40, row=row, blend=blend, out=blend * row, **more), motion)
        after = (span("c", 80 + gap * (end != 40), 10, row=row), motion)
        found = next(layer for layer in laid([*below, before, coming, after], TIMES) if layer.span.id == "b").when
        whole = np.zeros(96)
        whole[found.at] = found.weight
        return whole[40:80]

    # Right after another it goes on from where that was in coming in; after a gap it comes in from the beginning.
    fresh = weights(40 - gap)
    np.testing.assert_array_equal(weights(40 - gap, done=done, left=done), fresh)
    further = weights(40, done=done, left=done)
    np.testing.assert_allclose(further[: 20 - done], fresh[done:20], atol=1e-12)
    assert further[0] > fresh[0]


def test_a_stretch_is_the_same_as_one_with_the_same_times_and_weights_only() -> None:
    one = When(slice(0, 3), np.arange(3.0), np.ones(3))
    assert one.same(When(slice(0, 3), np.arange(3.0), np.ones(3)))
    assert not one.same(When(slice(1, 4), np.arange(3.0), np.ones(3)))
    assert not one.same(When(slice(0, 3), np.arange(3.0) + 1, np.ones(3)))
    assert not one.same(When(slice(0, 3), np.arange(3.0), np.zeros(3)))


@given(st.integers(1, 30), st.integers(0, 12), st.integers(0, 40))
def test_a_shake_goes_as_it_came(frames: int, fade: int, start: int) -> None:
    documents = strolling()
    shot, production = documents.shot("s"), documents.production
    given_ = {"size": 20.0, "start": start, "frames": frames}
    full, faded = (shaken(Shake.model_validate(given_ | {"fade": f}), shot, production, TIMES)[0] for f in (0, fade))
    inside = slice(start, start + frames)
    share = faded[inside] / full[inside]
    np.testing.assert_allclose(share, share[::-1], atol=1e-9)
    assert np.all(faded[:start] == 0) and np.all(faded[start + frames :] == 0)
    assert np.all(np.diff(share[: (frames + 1) // 2]) >= -1e-12)


def test_a_camera_that_shakes_is_seen_to_shake_and_its_aim_is_still() -> None:
    documents = do(on_stage(strolling(), {}), {"do": "set-shake", "shot": "s", "shake": {"size": 10.0, "fade": 0}})
    views = ShotScene.full(documents, InShot(shot="s", seen_as="final")).views[100.0]
    assert np.abs(np.diff(views[4])).max() > 0.1


@given(st.integers(0, 95), st.integers(1, 20))
def test_what_is_laid_over_is_gone_where_it_has_gone_up_to_either_end_of_the_shot(frame: int, over: int) -> None:
    documents = on_stage(strolling(), {})
    pose = {"do": "pose-in-shot", "shot": "s", "cast": "c", "frame": frame, "values": {"chest.turn": [40.0]}}
    after = do(documents, {**pose, "over": over}).shot("s").members()["c"].over["chest.turn"]
    assert set(after.keys) == {max(frame - over, 0), frame, min(frame + over, 95)}
    assert all(k.value == (0.0,) for f, k in after.keys.items() if f != frame)
    # Once more, on top of it: no farther edges than those there are.
    again = do(do(documents, {**pose, "over": over}), {**pose, "over": 1, "values": {"chest.turn": [50.0]}})
    assert acted(again).evaluation.value("chest", "turn", frame) == pytest.approx((50.0,), abs=1e-6)


def test_the_second_half_of_a_shot_begins_with_a_cut_and_the_first_as_the_whole_did() -> None:
    documents = do(strolling(), {"do": "set-shot", "shot": "s", "join": {"kind": "dissolve", "frames": 8}})
    cut = do(documents, {"do": "split-shot", "shot": "s", "id": "t", "at": 50})
    assert (cut.shot("s").join.kind, cut.shot("s").join.frames, cut.shot("t").join.kind) == ("dissolve", 8, "cut")


@given(st.integers(0, 95).flatmap(lambda at: st.tuples(st.just(at), st.integers(1, min(96 - at, 95)))))
@example((0, 30))
@example((11, 7))
@example((35, 25))
def test_frames_taken_out_take_their_keys_and_whole_spans_along_and_frames_put_in_take_nothing(
    stretch: tuple[int, int],
) -> None:
    at, frames = stretch
    documents = on_stage(strolling(), {"start": 0, "frames": 30}, {"start": 40, "frames": 20})
    pan = [{"joint": "camera", "kind": "turn", "frame": f, "value": [f]} for f in range(0, 96, 5)]
    documents = do(documents, {"do": "key-in-shot", "shot": "s", "keys": pan})
    more = do(documents, {"do": "insert-shot-time", "shot": "s", "at": at, "frames": frames}).shot("s")
    assert len(more.camera.channels["camera.turn"].keys) == len(pan) and len(more.members()["c"].spans) == 2
    less = do(documents, {"do": "insert-shot-time", "shot": "s", "at": at, "frames": -frames}).shot("s")
    left = {f if f < at else f - frames: f for f in range(0, 96, 5) if not at <= f < at + frames}
    assert {f: k.value[0] for f, k in less.camera.channels["camera.turn"].keys.items()} == left
    gone = {id for id, (a, b) in {"p0": (0, 30), "p1": (40, 60)}.items() if at <= a and b <= at + frames}
    assert {"p0", "p1"} - less.members()["c"].spans.keys() == gone


@given(st.integers(0, 47), st.sampled_from([100.0, 50.0, 175.0]))
@example(47, 50.0)
def test_a_walk_that_goes_on_in_a_copy_of_itself_goes_on_at_its_own_time_also_over_its_seam(
    frame: int, speed: float
) -> None:
    documents = strolling(150.0, 24)
    motion, puppet = documents.motion("m"), documents.puppet("a")
    found = best_first(puppet, motion, frame * speed / 100, motion)
    assert found is not None
    # To the nearest quarter of a frame, round the cycle.
    off = (found - frame * speed / 100 + 12) % 24 - 12
    assert abs(off) <= 0.25


def test_a_way_shorter_than_half_a_step_takes_one_and_one_that_is_gone_takes_none() -> None:
    documents = on_stage(strolling(150.0, 12), {}, travel={"way": [{"at": [0, 0]}, {"at": [700, 0]}]})
    fit = {"do": "fit-steps", "shot": "s", "cast": "c", "span": "p0", "id": "own"}
    near = do(documents, {**fit, "distance": 60.0})
    member = near.shot("s").cast["c"]
    assert isinstance(member, Member)
    assert member.spans["p0"].frames == near.motion("own").length / 2
    assert near.motion("own").name.endswith("in steps of 60")
    walker = documents.shot("s").members()["c"]
    assert walker.travel is not None
    arrived = walker.changed(travel=walker.travel.changed(gone=700.0))
    gone = documents.with_(documents.shot("s").with_cast(arrived))
    with pytest.raises(Refusal, match="along a way"):
        do(gone, fit)
    with pytest.raises(Refusal, match="along a way"):
        do(documents.with_(documents.shot("s").with_cast(walker.changed(travel=None))), fit)


@given(st.integers(25, 70), st.floats(0, 23), st.integers(0, 12), st.booleans())
def test_matching_the_feet_says_where_it_begins_and_is_there_already_when_asked_again(
    start: int, first: float, blend: int, reverse: bool
) -> None:
    documents = on_stage(strolling(150.0, 24), {"frames": start}, {"start": start, "frames": 96 - start})
    loose = {"id": "p1", "blend": blend, "first": round(first, 2), "reverse": reverse}
    documents = do(documents, {"do": "set-span", "shot": "s", "cast": "c", "span": loose})
    match = {"do": "match-feet", "shot": "s", "cast": "c", "span": "p1"}
    begun = do(documents, match).shot("s").members()["c"].spans["p1"]
    # Half way through its coming in the same walk is at its own time.
    mine, theirs = begun.first + blend / 2 * (-1 if reverse else 1), start + blend / 2
    assert abs((mine - theirs + 12) % 24 - 12) <= 0.25
    said = COMMAND.validate_python(match).label(documents)
    assert said == f"Match the feet of “Porter”: “walk” begins at its frame {begun.first + 1:.4g}"
    assert do(do(documents, match), match) == do(documents, match)


def test_feet_that_have_nothing_to_go_on_from_are_not_matched_in_silence() -> None:
    documents = on_stage(strolling(), {"frames": 40}, {"start": 40, "frames": 20, "row": 1})
    for id, why in (("p0", "Nothing comes before"), ("p1", "Nothing comes before")):
        with pytest.raises(Refusal, match=why):
            do(documents, {"do": "match-feet", "shot": "s", "cast": "c", "span": id})
    once = do(on_stage(strolling(), {"frames": 40}, {"start": 40}), {"do": "set-motion", "motion": "m", "cycle": False})
    with pytest.raises(Refusal, match="no cycle"):
        do(once, {"do": "match-feet", "shot": "s", "cast": "c", "span": "p1"})
    puppet = documents.puppet("a")
    joints = {id: j.changed(name=f"board {n}", role=None) for n, (id, j) in enumerate(puppet.joints.items())}
    with pytest.raises(Refusal, match="no legs"):
        do(documents.with_(puppet.changed(joints=joints)), {"do": "match-feet", "shot": "s", "cast": "c", "span": "p0"})
