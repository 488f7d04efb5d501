"""Shots: what spans, travel, blends, copies and the camera make of motions."""

from __future__ import annotations

from itertools import pairwise
from typing import Any

import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from sorvan.core.errors import Refusal
from sorvan.core.geometry import place_in
from sorvan.core.model.channel import Tangents
from sorvan.core.model.documents import Documents
from sorvan.core.model.motion import Motion
from sorvan.core.model.shot import Copies, Member, Shot, Span
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.shot.planted_feet import EASED
from sorvan.core.shot.scene import InShot, ShotScene
from sorvan.core.shot.spans import motion_times, rounds
from tests.conftest import costly
from tests.core.staging import S, acted, on_stage, slides, stood, strolling
from tests.core.walkers import key, keyed, walker
from tests.core.worlds import do, eases, numbers

spans = st.fixed_dictionaries(
    {
        "start": st.integers(0, 60),
        "frames": st.integers(1, 60),
        "row": st.sampled_from([0, 0, 0, 1]),
        "first": st.sampled_from([0.0, 3.0, 7.5]),
        "stop": st.sampled_from([None, None, 10.0]),
        "speed": st.sampled_from([100.0, 50.0, 130.0]),
        "reverse": st.booleans(),
        "play": st.sampled_from(["loop", "loop", "once", "hold"]),
        "blend": st.integers(0, 8),
        "out": st.integers(0, 5),
    }
)


@st.composite
def staged(draw: st.DrawFn) -> Documents:
    """A shot with one who walks somewhere, a second one, copies, a camera that is keyed, and something to hear."""
    documents = strolling(facing=draw(st.sampled_from([1, -1])))
    travel = draw(st.sampled_from([None, {"way": []}, {"way": [{"at": [0, 0]}, {"at": [300, -40]}, {"at": [500, 0]}]}]))
    documents = on_stage(documents, travel=travel, scale=draw(st.sampled_from([1.0, 0.6])), mirror=draw(st.booleans()))
    for n in range(draw(st.integers(1, 3))):
        span = {"id": f"p{n}", "motion": "m", **draw(spans)}
        documents = do(documents, {"do": "set-span", "shot": "s", "cast": "c", "span": span})
    documents = on_stage(documents, {"frames": 20}, id="d", at=[700.0, 640.0], mirror=True, share=60.0)
    copied = {"kind": "copies", "id": "e", "puppet": "a", "motion": "m", "count": 3, "at": [400, 300], "share": 20.0}
    documents = do(documents, {"do": "add-cast", "shot": "s", "cast": copied, "behind": "c"})
    documents = do(documents, {"do": "add-voice", "id": "v", "name": "whistle"})
    documents = do(
        documents,
        {"do": "place-heard", "shot": "s", "sound": {"id": "h", "voice": "v", "at": round(draw(st.floats(0, 3.9)), 6)}},
    )
    for _ in range(draw(st.integers(1, 4))):
        documents = do(documents, draw(shot_keys()))
    return documents


@st.composite
def shot_keys(draw: st.DrawFn) -> dict[str, Any]:
    """A command that keys the camera, a place, or something over the motions."""
    cast, joint, kind = draw(
        st.sampled_from(
            [
                (None, "camera", "move"), (None, "camera", "turn"), ("c", "place", "move"), ("c", "place", "turn"),
                ("c", "chest", "turn"), ("c", "head", "scale"), ("d", "place", "opacity"),
            ]
        )
    )  # fmt: skip
    made = []
    for frame in draw(st.lists(st.integers(0, 95), min_size=1, max_size=4, unique=True)):
        value = [draw(numbers) for _ in range(1 if kind in ("turn", "opacity") else 2)]
        if kind in ("scale", "opacity"):
            value = [0.5 + abs(v) / 500 for v in value]
        made.append(key(joint, kind, frame, *value) | {"ease": draw(eases)})
    return {"do": "key-in-shot", "cast": cast, "shot": "s", "keys": made}


def pictures(documents: Documents, seen_as: str = "final") -> dict[str, tuple[np.ndarray, ...]]:
    """For each of the cast what is drawn: places of its pieces in the picture, which drawing, and how opaque."""
    return drawn(ShotScene.full(documents, InShot(shot="s", seen_as=seen_as)))  # type: ignore[arg-type]


def drawn(scene: ShotScene) -> dict[str, tuple[np.ndarray, ...]]:
    """What a scene draws of each of its cast in each frame."""
    found = {}
    for one, cel in zip((a for a in scene.acted if not a.cast.hidden), scene.plan().cels, strict=True):
        at = [cel.at(f) for f in range(scene.frames)]
        assert cel.stage is not None
        fade = np.ones(scene.frames) if cel.fade is None else cel.fade
        found[one.cast.id] = (cel.stage, cel.matrices[:, :, at], cel.shown[:, at], fade)
    return found


def alike(one: dict[str, tuple[np.ndarray, ...]], other: dict[str, tuple[np.ndarray, ...]], within: float = 0) -> bool:
    """Whether both draw the same."""
    same = one.keys() == other.keys()
    return same and all(
        np.allclose(a, b, rtol=0, atol=within) for id in one for a, b in zip(one[id], other[id], strict=True)
    )


@given(staged(), st.integers(0, 96), st.integers(1, 50))
def test_time_put_in_and_taken_out_again_leaves_a_shot_as_it_was(documents: Documents, at: int, frames: int) -> None:
    longer = do(documents, {"do": "insert-shot-time", "shot": "s", "at": at, "frames": frames})
    assert longer.shot("s").length == 96 + frames
    again = do(longer, {"do": "insert-shot-time", "shot": "s", "at": at, "frames": -frames})
    one, other = (d.shot("s") for d in (again, documents))
    assert [s.at for s in one.sounds.values()] == pytest.approx([s.at for s in other.sounds.values()], abs=1e-9)
    assert one.changed(sounds=other.sounds).model_dump() == other.model_dump()


@given(staged(), st.integers(1, 95), st.integers(1, 30))
@costly(15)
def test_what_comes_before_time_put_in_plays_as_it_did(documents: Documents, at: int, frames: int) -> None:
    longer = do(documents, {"do": "insert-shot-time", "shot": "s", "at": at, "frames": frames})
    member = documents.shot("s").cast["c"]
    assert isinstance(member, Member)
    # A gap between two keys that gets longer is gone through more slowly; what has no such gap is untouched.
    keyed = [f for c in (*member.place.values(), *member.over.values()) for f in c.keys]
    if keyed or any(s.start <= at < s.end + s.blend for s in member.spans.values()):
        return
    before, after = pictures(documents), pictures(longer)
    # A walker comes down without a jerk for what its legs need soon: it looks so far ahead.
    soon = max(at - (EASED - 1), 0)
    for one, other in zip(before["c"][1:], after["c"][1:], strict=True):
        np.testing.assert_array_equal(one[..., :soon], other[..., :soon])


@given(staged(), st.lists(shot_keys(), min_size=1, max_size=3), st.data())
def test_a_shot_evaluated_in_part_is_the_shot_evaluated_whole(
    documents: Documents, changes: list[dict[str, Any]], data: st.DataObject
) -> None:
    seen_as = data.draw(st.sampled_from(["blocking", "breakdown", "final"]))
    target = InShot(shot="s", seen_as=seen_as)
    scene = ShotScene.full(documents, target)
    more: list[dict[str, Any]] = [
        {"do": "set-keys", "motion": "m", "keys": [key("head", "turn", 5, 20.0)]},
        {"do": "set-cast", "shot": "s", "cast": "c", "at": [500, 500]},
        {"do": "set-cast", "shot": "s", "cast": "d", "share": 30},
        {"do": "set-copies", "shot": "s", "cast": "e", "count": 5},
        {"do": "set-span", "shot": "s", "cast": "d", "span": {"id": "q", "motion": "m", "start": 30, "frames": 9}},
        {"do": "set-joints", "puppet": "a", "joints": ["head"], "limits": {"low": -5, "high": 5}},
        {"do": "set-shake", "shot": "s", "shake": {"size": 9.0}},
    ]
    for command in (*changes, *data.draw(st.lists(st.sampled_from(more), max_size=3))):
        documents = do(documents, command)
        found = scene.after(documents, target)
        assert found is not None
        now, anew, _ = found
        before, after = drawn(scene), drawn(now)
        for id in before.keys() - anew.keys():
            # What is not said to be new has the very numbers that it had.
            assert all(np.array_equal(a, b) for a, b in zip(before[id][1:], after[id][1:], strict=True))
        scene = now
    assert alike(drawn(scene), pictures(documents, seen_as))


def test_a_repeated_span_is_the_motion_again_and_again() -> None:
    for cycle in (True, False):
        documents = do(strolling(), {"do": "set-motion", "motion": "m", "cycle": cycle})
        motion = Evaluation.full(documents.puppet("a"), documents.motion("m"))
        found = acted(on_stage(documents, {}))
        for id, values in found.doing.values.items():
            own = motion.values[id]
            np.testing.assert_allclose(values, np.tile(own, 96 // own.shape[1]), atol=1e-9, err_msg=id)


def test_half_the_speed_at_even_frames_is_the_motion() -> None:
    documents = strolling()
    motion = Evaluation.full(documents.puppet("a"), documents.motion("m"))
    slow = acted(on_stage(documents, {"speed": 50.0}))
    back = acted(on_stage(documents, {"reverse": True}))
    for id, values in slow.doing.values.items():
        own = motion.values[id]
        np.testing.assert_allclose(values[:, ::2], np.tile(own, 48 // own.shape[1]), atol=1e-9, err_msg=id)
        backwards = np.roll(own[:, ::-1], 1, axis=1)
        np.testing.assert_allclose(back.doing.values[id], np.tile(backwards, 96 // own.shape[1]), atol=1e-9, err_msg=id)


def test_a_span_is_trimmed_played_once_and_held() -> None:
    documents = strolling()
    own = Evaluation.full(documents.puppet("a"), documents.motion("m")).values
    id = max(own, key=lambda i: float(np.ptp(own[i])) if i.endswith("turn") else 0.0)
    frames = own[id][0]
    trimmed = acted(on_stage(documents, {"first": 2, "stop": 7})).doing.values[id][0]
    np.testing.assert_allclose(trimmed, np.resize(frames[2:7], 96), atol=1e-9)
    once = acted(on_stage(documents, {"first": 2, "stop": 7, "play": "once", "start": 10})).doing.values[id][0]
    np.testing.assert_allclose(once, np.concatenate([[frames[2]] * 10, frames[2:7], [frames[6]] * 81]), atol=1e-9)
    held = acted(on_stage(documents, {"first": 4, "play": "hold"})).doing.values[id][0]
    np.testing.assert_allclose(held, frames[4], atol=1e-9)


@given(st.integers(1, 12), st.sampled_from([60.0, 100.0, 150.0]), st.booleans())
@costly(12)
def test_a_blend_is_continuous_in_time(blend: int, speed: float, upper: bool) -> None:
    documents = strolling()
    documents = do(documents, {"do": "add-motion", "id": "n", "puppet": "a", "name": "bow", "length": 20})
    bow = [key("chest", "turn", 0, 30.0), key("chest", "turn", 19, -30.0), key("head", "move", 0, 40.0, 5.0)]
    documents = do(documents, {"do": "set-keys", "motion": "n", "keys": bow})
    second = {
        "motion": "n",
        "start": 40,
        "frames": 20,
        "blend": blend,
        "out": blend,
        "play": "once",
        "speed": speed,
        "row": int(upper),
    }
    documents = on_stage(documents, {"frames": 96 if upper else 45}, second)
    steps = []
    for parts in (8, 32):
        found = acted(documents, times=np.arange(35 * parts, 65 * parts) / parts)
        steps.append(
            {id: np.abs(np.diff(v, axis=1)).max() for id, v in found.doing.values.items() if not id.endswith("show")}
        )
    # A jump would be as large however finely one looks.
    assert all(steps[1][id] <= 0.3 * steps[0][id] + 1e-9 for id in steps[0])
    assert steps[0]["chest.turn"] > 0.1


figures = st.fixed_dictionaries(
    {
        "height": st.sampled_from([200.0, 500.0]),
        "leg": st.sampled_from([0.4, 0.55]),
        "facing": st.sampled_from([1, -1]),
        "toes": st.booleans(),
        "legs": st.sampled_from([2, 4]),
    }
)
ways = st.sampled_from(
    [
        {"way": []},
        {"way": [{"at": [0, 0]}, {"at": [400, 0]}]},
        {"way": [{"at": [0, 0]}, {"at": [300, -50]}, {"at": [700, -30]}]},
        {"way": [{"at": [0, 0], "smooth": False}, {"at": [-500, 40], "smooth": False}]},
    ]
)


@given(
    figures,
    st.sampled_from([0.3, 0.5]),
    st.integers(9, 16),
    ways,
    st.sampled_from([0.5, 1.0]),
    st.sampled_from([70, 100, 140]),
    st.sampled_from([1, 1, -1]),
)
@costly(14)
def test_feet_that_stand_do_not_slide_however_their_puppet_is_carried(
    figure: dict[str, Any], step: float, frames: int, way: dict[str, Any], scale: float, speed: float, across: int
) -> None:
    documents = strolling(figure["height"] * figure["leg"] * step, frames, **figure)
    walks = on_stage(documents, {"frames": 50}, {"start": 50, "speed": speed, "blend": 8}, travel=way, scale=scale)
    round_ = {"do": "key-in-shot", "shot": "s", "cast": "c", "keys": [key("place", "scale", 0, across, 1)]}
    walks = do(walks, round_)
    found = acted(walks)
    assert found.carried is not None and abs(found.carried.gone[-1]) > 50
    assert stood(found) > 60
    assert slides(found).max() < 0.1


def test_a_walker_is_carried_as_far_as_its_feet_step() -> None:
    """A cycle of 24 frames, two steps of 150 units, goes 300 units in each round."""
    found = acted(on_stage(strolling(150.0, 12), {}, travel={"way": []}))
    length = strolling(150.0, 12).motion("m").length
    assert found.carried is not None
    per_round = found.carried.gone[length * 3] / 3
    assert per_round == pytest.approx(300.0, rel=1e-6)
    half = acted(on_stage(strolling(150.0, 12), {}, travel={"way": []}, scale=0.5))
    assert half.carried is not None
    np.testing.assert_allclose(half.carried.gone * 2, found.carried.gone, atol=1e-6)


def test_who_is_turned_round_by_a_size_below_nothing_goes_where_it_looks() -> None:
    """As one that is mirrored does."""
    documents = on_stage(strolling(150.0, 12), {}, travel={"way": []})
    round_ = {"do": "key-in-shot", "shot": "s", "cast": "c", "keys": [key("place", "scale", 0, -1, 1)]}
    one = acted(do(documents, round_))
    other = acted(do(documents, {"do": "set-cast", "shot": "s", "cast": "c", "mirror": True}))
    assert one.carried is not None and other.carried is not None
    np.testing.assert_allclose(one.carried.place, other.carried.place, atol=1e-6)
    assert one.carried.gone[-1] < 0 or other.carried.straight.real < 0


def test_on_a_way_it_looks_to_where_it_goes() -> None:
    back = {"way": [{"at": [0, 0], "smooth": False}, {"at": [-4000, 0], "smooth": False}]}
    found = acted(on_stage(strolling(facing=1), {}, travel=back))
    assert found.carried is not None
    ox, oy = found.evaluation.puppet.origin
    places = place_in(found.carried.place, ox, oy)
    assert places[-1].real < 200 - 500 and found.carried.flipped.all()
    assert (
        np.linalg.det(
            np.array(
                [
                    [found.carried.place[0, 5], found.carried.place[2, 5]],
                    [found.carried.place[1, 5], found.carried.place[3, 5]],
                ]
            )
        )
        < 0
    )


@given(st.integers(1, 40), st.integers(0, 1000), st.booleans())
@costly(20)
def test_copies_loop_exactly_and_stand_at_the_beginning_as_at_rest(count: int, seed: int, cycle: bool) -> None:
    documents = do(strolling(), {"do": "set-motion", "motion": "m", "cycle": cycle})
    copied = {"kind": "copies", "id": "e", "puppet": "a", "motion": "m", "count": count, "seed": seed, "at": [400, 300]}
    documents = do(documents, {"do": "add-cast", "shot": "s", "cast": copied | {"turn": 20.0, "tinted": 50.0}})
    final, blocked = (
        ShotScene.full(documents, InShot(shot="s", seen_as=p)).plan().cels[0]  # type: ignore[arg-type]
        for p in ("final", "blocking")
    )
    loop = documents.motion("m").length
    assert final.times is not None and final.copies is not None and final.own == loop
    np.testing.assert_array_equal(final.times[loop:], final.times[:-loop])
    ahead = final.copies.ahead
    assert ahead[0] == 0 and np.all(np.diff(ahead) >= 0) and np.all(ahead < loop)
    assert np.all(np.abs(ahead - np.arange(count) * loop / count) < 1)
    # Each copy's first frame is what it shows while the shot is only blocked, in every frame.
    assert blocked.copies is not None and np.all(blocked.times == final.times[0])
    for one, other in ((blocked.copies.places, final.copies.places), (blocked.copies.ahead, ahead)):
        np.testing.assert_array_equal(one, other)
    assert len(final.items) == len(documents.puppet("a").order)
    # More copies leave those before them as they are.
    more = do(documents, {"do": "set-copies", "shot": "s", "cast": "e", "count": count + 3})
    others = ShotScene.full(more, InShot(shot="s", seen_as="final")).plan().cels[0].copies
    assert others is not None
    np.testing.assert_array_equal(others.places[:count], final.copies.places)


def test_steps_are_fitted_to_a_way() -> None:
    documents = on_stage(strolling(150.0, 12), travel={"way": [{"at": [0, 0]}, {"at": [700, 0]}]})
    documents = do(
        documents,
        {"do": "set-span", "shot": "s", "cast": "c", "span": {"id": "p0", "motion": "m", "start": 0, "frames": 96}},
    )
    four = do(documents, {"do": "fit-steps", "shot": "s", "cast": "c", "span": "p0", "steps": 4, "id": "own"})
    member = four.shot("s").cast["c"]
    assert isinstance(member, Member)
    span = member.spans["p0"]
    assert span.motion == "own" and span.frames == 4 * four.motion("own").length / 2
    found = acted(four)
    assert found.carried is not None
    # It has arrived with the first frame in which it does no more of it.
    step = found.carried.gone[1]
    assert found.carried.gone[span.frames - 1] + step == pytest.approx(700.0, rel=0.01)
    assert slides(found).max() < 0.1
    # Without a number the stride stays as it is, as nearly as a whole number of steps allows.
    near = do(documents, {"do": "fit-steps", "shot": "s", "cast": "c", "span": "p0", "id": "own"})
    member = near.shot("s").cast["c"]
    assert isinstance(member, Member) and member.spans["p0"].frames == round(5 * near.motion("own").length / 2)
    with pytest.raises(Refusal, match="legs"):
        do(documents, {"do": "fit-steps", "shot": "s", "cast": "c", "span": "p0", "steps": 1, "id": "own"})


def test_keys_laid_over_count_in_this_shot_only() -> None:
    documents = on_stage(strolling(), {})
    before = acted(documents).doing.values["chest.turn"]
    laid = {"do": "key-in-shot", "shot": "s", "cast": "c", "keys": [key("chest", "turn", 0, 12.0)]}
    after = do(documents, laid)
    np.testing.assert_allclose(acted(after).doing.values["chest.turn"], before + 12.0)
    assert after.motion("m") is documents.motion("m")
    # A copy of its own keeps what is changed in it to this shot.
    detached = do(after, {"do": "detach-motion", "shot": "s", "cast": "c", "span": "p0", "id": "own"})
    turned = do(detached, {"do": "set-keys", "motion": "own", "keys": [key("chest", "turn", 0, 90.0)]})
    assert turned.motion("m") == documents.motion("m")
    assert not np.allclose(acted(turned).doing.values["chest.turn"], acted(after).doing.values["chest.turn"])
    shared = do(after, {"do": "set-keys", "motion": "m", "keys": [key("chest", "turn", 0, 90.0)]})
    assert not np.allclose(acted(shared).doing.values["chest.turn"], acted(after).doing.values["chest.turn"])


def test_a_camera_frames_what_it_looks_at_and_layers_shift_by_their_share() -> None:
    documents = on_stage(strolling(), {}, at=[640.0, 360.0])
    documents = on_stage(documents, id="far", at=[640.0, 360.0], share=50.0)
    aim = [key("camera", "move", 0, 300.0, -60.0), key("camera", "scale", 0, 2.0, 2.0), key("camera", "turn", 0, 90.0)]
    documents = do(documents, {"do": "key-in-shot", "shot": "s", "keys": aim})
    views = ShotScene.full(documents, InShot(shot="s", seen_as="final")).views
    middle = (documents.production.width / 2, documents.production.height / 2)
    aimed = place_in(views[100.0], middle[0] + 300, middle[1] - 60)[0]
    assert aimed == pytest.approx(complex(*middle))
    # Zoomed to twice the size, and turned: what lies to the right of the aim is above it in the picture.
    right = place_in(views[100.0], middle[0] + 310, middle[1] - 60)[0]
    assert right == pytest.approx(complex(middle[0], middle[1] - 20))
    # What has half the share shifts by half of it.
    assert place_in(views[50.0], middle[0] + 150, middle[1] - 30)[0] == pytest.approx(complex(*middle))


def test_passes_change_how_a_shot_plays_and_never_its_keys() -> None:
    documents = keyed(strolling(150.0, 24), key("head", "turn", 3, 25.0))
    channels = list(documents.motion("m").channels)
    prompt = do(documents, {"do": "set-delay", "motion": "m", "channels": channels, "delay": 0.0})
    documents = on_stage(prompt, {}, travel={"way": []})
    blocking, breakdown, final = (pictures(documents, p) for p in ("blocking", "breakdown", "final"))
    changes = {
        p: int(np.sum(np.any(np.diff(f["c"][1], axis=2) != 0, axis=(0, 1)))) for p, f in (("b", blocking), ("f", final))
    }
    assert changes["b"] < changes["f"] / 2
    assert alike(breakdown, final)
    late = do(documents, {"do": "set-delay", "motion": "m", "channels": ["head.turn"], "delay": 2.0})
    assert alike(pictures(late, "breakdown"), breakdown) and not alike(pictures(late), final)
    again = do(documents, {"do": "set-shot", "shot": "s", "stage": "final"})
    assert again.motion("m") is documents.motion("m")
    assert again.shot("s").cast == documents.shot("s").cast


def test_shots_are_ordered_duplicated_and_removed() -> None:
    documents = do(strolling(), {"do": "add-shot", "id": "u", "name": "Night", "length": 30})
    documents = do(documents, {"do": "duplicate-shot", "shot": "s", "id": "t"})
    assert documents.production.shots == ("s", "t", "u")
    documents = do(documents, {"do": "order-shots", "shot": "u"})
    assert documents.production.shots == ("u", "s", "t")
    documents = do(documents, {"do": "order-shots", "shot": "u", "after": "s"})
    assert [s.id for s in documents.shots()] == ["s", "u", "t"]
    documents = do(documents, {"do": "remove-shots", "shots": ["s"]})
    assert documents.production.shots == ("u", "t") and not any(
        isinstance(d, Shot) and d.id == "s" for d in documents.by_id.values()
    )


def test_what_a_shot_uses_goes_out_of_it_when_it_is_removed() -> None:
    documents = on_stage(on_stage(strolling(), {}), {}, id="d")
    assert isinstance(documents.shot("s").cast["c"], Member)
    bare = do(documents, {"do": "remove-motion", "motion": "m"})
    assert all(not m.spans for m in bare.shot("s").members().values())
    gone = do(documents, {"do": "remove-puppet", "puppet": "a"})
    assert gone.shot("s").cast == {} and gone.shot("s").order == ()


def test_depth_is_an_order_from_back_to_front() -> None:
    documents = on_stage(on_stage(strolling()), id="d")
    documents = do(documents, {"do": "duplicate-cast", "shot": "s", "cast": "c", "id": "e"})
    assert documents.shot("s").order == ("c", "e", "d")
    documents = do(documents, {"do": "order-cast", "shot": "s", "cast": "d", "behind": "c"})
    assert documents.shot("s").order == ("d", "c", "e")
    assert [a.cast.id for a in ShotScene.full(documents, S).acted] == ["d", "c", "e"]
    copied = Copies(id="x", puppet="a", at=(0.0, 0.0)).model_dump(mode="json")
    with pytest.raises(Refusal, match="copied"):
        do(
            do(documents, {"do": "add-cast", "shot": "s", "cast": copied}),
            {"do": "set-span", "shot": "s", "cast": "x", "span": {"id": "p", "motion": "m", "start": 0, "frames": 2}},
        )


def test_cuts_in_a_span_change_nothing_that_is_seen() -> None:
    documents = on_stage(strolling(), {"speed": 70.0, "first": 3.0}, travel={"way": []})
    cut = do(documents, {"do": "split-span", "shot": "s", "cast": "c", "span": "p0", "at": 41, "id": "q"})
    member = cut.shot("s").cast["c"]
    assert isinstance(member, Member) and [(s.start, s.end) for s in member.spans.values()] == [(0, 41), (41, 96)]
    one, other = acted(documents), acted(cut)
    for id, values in one.doing.values.items():
        np.testing.assert_allclose(other.doing.values[id], values, atol=1e-6, err_msg=id)


@given(spans, st.integers(1, 59), st.booleans())
def test_whatever_is_cut_or_trimmed_does_in_the_frames_that_stay_what_it_did(
    span: dict[str, Any], into: int, cycle: bool
) -> None:
    documents = do(strolling(150.0, 24), {"do": "set-motion", "motion": "m", "cycle": cycle})
    documents = on_stage(documents, span | {"row": 0, "blend": 0, "frames": 60})
    start = span["start"]
    cut = {"do": "split-span", "span": "p0", "at": start + into, "id": "q"}
    trimmed = {"do": "nudge-span", "span": "p0", "end": "start", "by": into}
    whole = acted(documents).doing.values
    for command in (cut, trimmed):
        changed = acted(do(documents, {"shot": "s", "cast": "c", **command})).doing.values
        kept = slice(start + into, min(start + 60, 96))
        for id, values in whole.items():
            np.testing.assert_allclose(
                changed[id][:, kept], values[:, kept], atol=1e-6, err_msg=f"{command['do']} {id}"
            )
    # Pulled back to where it was, it is as it was.
    longer = {"do": "nudge-span", "shot": "s", "cast": "c", "span": "p0", "end": "start", "by": -into}
    again = do(do(documents, {"shot": "s", "cast": "c", **trimmed}), longer)
    assert again.shot("s").model_dump() == documents.shot("s").model_dump()


@given(st.integers(1, 30), st.integers(1, 45), st.sampled_from([0, 1]), st.booleans(), st.integers(0, 30))
@example(1, 17, 1, False, 30)
@example(1, 48, 1, False, 1)
def test_a_span_cut_while_it_comes_in_goes_on_coming_in(
    blend: int, into: int, row: int, travels: bool, more: int
) -> None:
    documents = strolling(150.0, 24)
    documents = documents.with_(documents.motion("m").changed(id="n", name="other"))
    documents = do(documents, {"do": "set-keys", "motion": "n", "keys": [key("chest", "turn", 0, 25.0)]})
    below = {"frames": 96 if row else 30}
    documents = on_stage(documents, below, travel={"way": []} if travels else None)
    coming = {
        "id": "q",
        "motion": "n",
        "start": 30,
        "frames": 50,
        "row": row,
        "blend": blend,
        "first": 5.0,
        "out": 4 * row,
    }
    documents = do(documents, {"do": "set-span", "shot": "s", "cast": "c", "span": coming})
    cut = do(documents, {"do": "split-span", "shot": "s", "cast": "c", "span": "q", "at": 30 + into, "id": "r"})
    if 0 < more < 49 - into:
        # And once more.
        cut = do(cut, {"do": "split-span", "shot": "s", "cast": "c", "span": "r", "at": 30 + into + more, "id": "t"})
    one, other = acted(documents), acted(cut)
    for id, values in one.doing.values.items():
        np.testing.assert_allclose(other.doing.values[id], values, atol=1e-6, err_msg=id)
    assert one.carried is not None and other.carried is not None
    np.testing.assert_allclose(other.carried.gone, one.carried.gone, atol=0.5)


def test_a_shake_comes_and_goes_and_is_the_same_each_time() -> None:
    documents = on_stage(strolling(), {})
    shaken = do(
        documents, {"do": "set-shake", "shot": "s", "shake": {"size": 10.0, "start": 20, "frames": 40, "fade": 6}}
    )
    still, moving, again = (
        ShotScene.full(d, InShot(shot="s", seen_as="final")).views[100.0] for d in (documents, shaken, shaken)
    )
    np.testing.assert_array_equal(moving, again)
    off = np.abs(moving - still)[4:].max(axis=0)
    assert np.all(off[:19] == 0) and np.all(off[61:] == 0) and 2 < off.max() < 15
    assert all(abs(b - a) < 6 for a, b in pairwise(off))


def test_figures_without_legs_stand_where_they_are() -> None:
    documents = do(walker(legs=0), {"do": "add-shot", "id": "s", "name": "Quay", "length": 96})
    documents = keyed(documents, key("head", "turn", 0, 0.0), key("head", "turn", 12, 30.0))
    found = acted(on_stage(documents, {}, travel={"way": []}))
    assert found.carried is not None and np.all(found.carried.gone == 0)


@given(staged(), st.data())
def test_a_pose_in_a_shot_is_there_at_its_frame_and_nowhere_farther_than_it_comes_and_goes(
    documents: Documents, data: st.DataObject
) -> None:
    frame, over = data.draw(st.integers(0, 95)), data.draw(st.integers(1, 20))
    # What is keyed already is another matter: it eases into the new keys.
    member = documents.shot("s").members()["c"].changed(over={})
    documents = documents.with_(documents.shot("s").with_cast(member))
    value = data.draw(numbers)
    values = {"chest.turn": [value], "head.scale": [0.4 + abs(value) / 500, 1.2], "near0-foot.opacity": [40.0]}
    posed = do(
        documents, {"do": "pose-in-shot", "shot": "s", "cast": "c", "frame": frame, "values": values, "over": over}
    )
    was, now = (acted(d).evaluation for d in (documents, posed))
    for id, wanted in values.items():
        owner, _, kind = id.rpartition(".")
        assert now.value(owner, kind, frame) == pytest.approx(wanted, abs=1e-3)  # type: ignore[arg-type]
        before = np.array([was.value(owner, kind, f) for f in range(96)])  # type: ignore[arg-type]
        after = np.array([now.value(owner, kind, f) for f in range(96)])  # type: ignore[arg-type]
        far = np.abs(np.arange(96) - frame) >= over
        # Only at the very ends of the shot there is no room to come or go.
        far[[0, 95]] &= np.array([frame >= over, frame + over <= 95])
        far[frame] = False
        np.testing.assert_allclose(after[far], before[far], atol=1e-3)
    assert posed.motion("m") == documents.motion("m")
    # Posed once more at the same frame it is there too, and nothing is keyed twice.
    twice = do(
        posed,
        {"do": "pose-in-shot", "shot": "s", "cast": "c", "frame": frame, "values": {"chest.turn": [7]}, "over": over},
    )
    assert acted(twice).evaluation.value("chest", "turn", frame) == pytest.approx((7,), abs=1e-3)
    keys = [set(d.shot("s").members()["c"].over["chest.turn"].keys) for d in (posed, twice)]
    assert keys[0] == keys[1] and len(keys[0]) <= 3


@pytest.mark.parametrize("stage", ["blocking", "breakdown", "final"])
@given(
    delay=st.integers(0, 9), below=st.sampled_from([0.0, 40.0, 100.0]), wanted=st.sampled_from([0.0, 25.0, 80.0, 100.0])
)
@costly(10)
def test_whatever_pass_it_is_posed_in_it_is_what_was_asked_there(
    stage: str, delay: int, below: float, wanted: float
) -> None:
    documents = keyed(strolling(), key("head", "turn", 0, 0.0), key("head", "turn", 6, 40.0))
    documents = keyed(documents, key("head", "opacity", 0, below), key("chest", "scale", 0, 0.0, 1.0))
    documents = do(documents, {"do": "set-delay", "motion": "m", "channels": ["head.turn"], "delay": delay})
    documents = on_stage(documents, {})
    pose = {"do": "pose-in-shot", "shot": "s", "cast": "c", "frame": 40, "seen_as": stage}
    values = {"head.turn": [10.0], "head.opacity": [wanted], "chest.scale": [0.0, 2.0]}
    posed = do(documents, {**pose, "values": values})
    scene = ShotScene.full(posed, InShot(shot="s", seen_as=stage))  # type: ignore[arg-type]
    (one,) = scene.acted
    at = 40 if one.holds is None else int(one.holds[40])
    assert one.evaluation.value("head", "turn", at) == pytest.approx((10,), abs=1e-3)
    assert one.evaluation.value("head", "opacity", at) == pytest.approx((wanted,), abs=1e-3)
    assert one.evaluation.value("chest", "scale", at) == pytest.approx((0, 2), abs=1e-3)
    with pytest.raises(Refusal, match="makes it nothing"):
        do(documents, {**pose, "values": {"chest.scale": [1.0, 1.0]}})


def test_a_pose_in_a_shot_that_does_not_go_holds_and_one_of_what_is_not_there_is_refused() -> None:
    documents = on_stage(strolling(), {})
    pose = {"do": "pose-in-shot", "shot": "s", "cast": "c", "frame": 40, "values": {"head.turn": [30]}, "over": 0}
    held = acted(do(documents, pose)).evaluation
    plain = acted(documents).evaluation
    apart = [held.value("head", "turn", f)[0] - plain.value("head", "turn", f)[0] for f in range(96)]
    assert apart == pytest.approx([apart[40]] * 96, abs=1e-3) and held.value("head", "turn", 40)[0] == pytest.approx(30)
    # So much more than what is there.
    more = pose | {"values": {"head.turn": [5], "head.scale": [2, 2]}, "added": True}
    twice = acted(do(do(documents, more), more)).evaluation
    assert twice.value("head", "turn", 40)[0] - plain.value("head", "turn", 40)[0] == pytest.approx(10)
    assert twice.value("head", "scale", 40) == pytest.approx((4, 4))
    nearer = more | {"values": {"chest.order": [2]}}
    assert acted(do(do(documents, nearer), nearer)).evaluation.value("chest", "order", 40) == (4,)
    with pytest.raises(Refusal, match="tail"):
        do(documents, pose | {"values": {"tail.turn": [3]}})
    with pytest.raises(Refusal, match="takes 2"):
        do(documents, pose | {"values": {"head.move": [3]}})


def test_a_place_keyed_on_a_smooth_way_lies_on_it() -> None:
    documents = do(
        strolling(), {"do": "add-cast", "shot": "s", "cast": {"kind": "member", "id": "c", "puppet": "a", "at": [0, 0]}}
    )
    smooth = [key("place", "move", f, x, y) for f, x, y in ((0, 0, 0), (40, 200, 80), (80, 400, 0))]
    documents = do(documents, {"do": "key-in-shot", "shot": "s", "cast": "c", "keys": smooth})
    held = documents.shot("s").members()["c"]
    curved = {f: k.changed(tangents=Tangents()) for f, k in held.place["place.move"].keys.items()}
    held = held.changed(place={"place.move": held.place["place.move"].changed(keys=curved)})
    documents = documents.with_(documents.shot("s").with_cast(held))
    between = {"do": "key-in-shot", "shot": "s", "cast": "c", "keys": [key("place", "move", 20, 90, 60)]}
    made = do(documents, between).shot("s").members()["c"].place["place.move"].keys
    assert all(k.tangents is not None for k in made.values())


@given(
    st.fixed_dictionaries(
        {
            "first": st.sampled_from([0.0, 3.0, 7.5]),
            "stop": st.sampled_from([None, None, 10.0]),
            "speed": st.sampled_from([100.0, 50.0, 130.0]),
            "reverse": st.booleans(),
            "frames": st.integers(1, 90),
            "skip": st.sampled_from([0.0, -5.0, 3.5, 40.0]),
        }
    ),
    st.booleans(),
)
def test_a_span_begins_again_where_its_motion_jumps(told: dict[str, Any], cycle: bool) -> None:
    span = Span(id="p", motion="m", start=20, play="loop", **told)
    motion = Motion(id="m", name="m", puppet="a", length=24, cycle=cycle)
    fine = 64
    # Whole steps of a 64th of a frame beside the numbers told, so that no jump falls on one of them.
    times = 20 + (np.arange(span.frames * fine - 1) + 0.37) / fine
    seen = motion_times(span, motion, times, last=20.0 + span.frames) % 24
    steps = np.abs(np.diff(seen))
    jumps = times[:-1][steps > 3 * span.speed / 100 / fine] - 20
    first, every = rounds(span, motion) or (0.0, 1.0)
    told_jumps = first + every * np.arange(len(jumps) + 2)
    told_jumps = told_jumps[told_jumps < times[-1] - 20]
    assert len(told_jumps) == len(jumps)
    assert np.allclose(told_jumps, jumps, atol=1.01 / fine)


def test_somebody_is_brought_on_where_the_art_was_drawn_to_stand() -> None:
    documents = do(strolling(), {"do": "set-puppet", "puppet": "a", "origin": [300, 650]})

    def on(**more: Any) -> Member | Copies:
        after = do(documents, {"do": "bring-on", "shot": "s", "id": "c", "puppet": "a", **more})
        return after.shot("s").cast["c"]

    stage = documents.production
    assert on().at == (stage.width / 2, 650) and on().name == documents.puppet("a").name
    many = on(copies=True)
    assert isinstance(many, Copies) and many.at == (stage.width / 2, stage.height / 2) and many.motion == "m"
    documents = do(documents, {"do": "set-puppet", "puppet": "a", "origin": [300, 5000]})
    assert on().at == (stage.width / 2, 626)  # 0.87 of 720: drawn far below what is seen.
    documents = do(documents, {"do": "remove-motion", "motion": "m"})
    assert on().at == (300, 5000)


def test_the_camera_keyed_later_shows_at_first_what_it_showed() -> None:
    documents = on_stage(strolling())
    keyed_late = do(documents, {"do": "key-in-shot", "shot": "s", "cast": None, "keys": [
        {"joint": "camera", "kind": "scale", "frame": 30, "value": [2, 2]}]})  # fmt: skip
    keyed_late = do(keyed_late, {"do": "key-in-shot", "shot": "s", "cast": "c", "keys": [
        {"joint": "place", "kind": "move", "frame": 30, "value": [90, 0]}]})  # fmt: skip
    shot = keyed_late.shot("s")
    member = shot.cast["c"]
    assert isinstance(member, Member)
    zoom, move = shot.camera.channels["camera.scale"], member.place["place.move"]
    assert {f: k.value for f, k in zoom.keys.items()} == {0: (1, 1), 30: (2, 2)}
    assert {f: k.value for f, k in move.keys.items()} == {0: (0, 0), 30: (90, 0)}
    # It leaves softly, as what the hand keys there does.
    assert zoom.keys[0].ease == zoom.keys[30].ease
