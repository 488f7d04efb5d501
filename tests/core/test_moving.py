"""What is moved in time moves whole: keys, and what made them, stay together."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorvan.core.errors import Refusal
from sorvan.core.model.channel import Key
from sorvan.core.model.documents import Documents
from sorvan.core.model.motion import Motion
from sorvan.core.model.recipe import Gait
from sorvan.core.motion.retime import retimed
from sorvan.core.plan.plants import travel_of
from sorvan.core.plan.travel import runs_of
from sorvan.core.planning.gaits import by_preset
from sorvan.core.recipes.registry import kind_of
from sorvan.core.reuse.sizing import Resizing
from sorvan.core.timing.channels import at, evaluate
from tests.core.speakers import keyed as mouth_keys
from tests.core.speakers import mouths, speaker
from tests.core.staging import on_stage, strolling
from tests.core.test_cards import act, keyed, walker
from tests.core.test_recipes import recipe
from tests.core.worlds import do

SETTLE = {"kind": "settle", "channels": ["body.turn"], "frame": 12, "frames": 4, "swings": 3}
ANTICIPATE = {"kind": "anticipate", "channels": ["body.turn"], "frame": 8, "amount": 40, "frames": 2}
BOUNCE = {"kind": "bounce", "joint": "body", "frame": 8, "height": 90, "frames": 4, "bounces": 1}
FOLLOW = {"kind": "follow", "joints": ["left-arm"], "start": 8, "end": 28}
SQUASH = {"kind": "squash", "joint": "body", "start": 8, "end": 28}
DONE = (SETTLE, ANTICIPATE, BOUNCE, FOLLOW, SQUASH)


def swung(made: dict[str, Any]) -> Documents:
    """Somebody who is turned and carried in frames 8 to 12, on cards there and at 28, and what a recipe makes of it."""
    documents = keyed(
        walker(40),
        *(("body", "turn", f, [v]) for f, v in ((0, 0), (8, 0), (12, 40))),
        *(("body", "move", f, [0, v]) for f, v in ((0, 0), (8, 0), (12, 90), (28, 0))),
    )
    for frame in (8, 12, 28):
        documents = act(documents, "set-pose", frame=frame)
    return recipe(documents, made["kind"], **{k: v for k, v in made.items() if k != "kind"})


def by_slot(motion: Motion, id: str = "r") -> dict[str, dict[int, Key]]:
    """What a recipe wrote."""
    found = {
        c: {f: k.changed(slot=None) for f, k in held.keys.items() if k.recipe == id}
        for c, held in motion.channels.items()
    }
    return {c: keys for c, keys in found.items() if keys}


def again(documents: Documents, id: str = "r") -> Documents:
    """A recipe done once more as it is."""
    held = documents.motion("m").recipes[id]
    return do(documents, {"do": "do-recipe", "motion": "m", "recipe": held.model_dump(mode="json")})


@pytest.mark.parametrize("made", DONE, ids=[m["kind"] for m in DONE])
@given(by=st.integers(1, 9), before=st.integers(1, 7))
def test_a_recipe_done_again_after_frames_were_put_in_before_it_writes_what_it_wrote(
    made: dict[str, Any], by: int, before: int
) -> None:
    done = swung(made)
    for later in (
        act(done, "insert-time", at=before, frames=by),
        act(act(done, "insert-time", at=before, frames=by), "insert-time", at=before, frames=-1),
        act(done, "retime-pose", frame=8, frames=4, follow=True),
    ):
        moved = by_slot(later.motion("m"))
        assert moved and by_slot(again(later).motion("m")) == moved


@given(st.integers(1, 8), st.integers(10, 14))
def test_a_stretch_that_a_recipe_fills_grows_with_what_is_put_into_it(by: int, inside: int) -> None:
    for made in (FOLLOW, SQUASH):
        later = act(swung(made), "insert-time", at=inside, frames=by).motion("m").recipes["r"]
        assert (later.start, later.end) == (8, 28 + by)  # type: ignore[union-attr]


def test_at_another_rate_a_recipe_takes_the_time_it_took() -> None:
    documents = speaker(("M", 0.3), ("AA1", 0.3), length=96)
    documents = mouths(documents, lead=1.5, hold=2, moods={"24": "plain"})
    blink = {"kind": "blink", "id": "b", "name": "b", "dial": "d", "start": 12, "end": 47, "hold": 2}
    motion = documents.motion("m")
    made = [
        {**FOLLOW, "id": "f", "name": "f", "every": 2},
        {**SETTLE, "id": "s", "name": "s"},
        {"kind": "gait", "id": "g", "name": "g", "frames": 16, "lag": 1.5},
        {"kind": "accents", "id": "a", "name": "a", "sound": "s", "lead": 3},
        {"kind": "capture", "id": "c", "name": "c", "joint": "head", "samples": [[0, 0, 0], [10, 5, 5]], "every": 2,
         "smooth": 1, "start": 6},
        blink,
    ]  # fmt: skip
    whole = motion.model_dump(mode="json")
    whole["recipes"] |= {r["id"]: r for r in made}
    documents = documents.with_(Motion.model_validate(whole))
    twice = do(documents, {"do": "convert-rate", "rate": {"numerator": 48, "denominator": 1}}).motion("m").recipes
    told = {id: r.model_dump(mode="json") for id, r in twice.items()}
    assert (told["r"]["lead"], told["r"]["hold"], list(told["r"]["moods"])) == (3.0, 4, ["48"])
    assert (told["f"]["start"], told["f"]["end"], told["f"]["every"]) == (16, 57, 4)
    assert (told["s"]["frame"], told["s"]["frames"]) == (24, 8)
    assert (told["g"]["frames"], told["g"]["lag"], told["a"]["lead"]) == (32, 3.0, 6)
    assert (told["b"]["start"], told["b"]["end"], told["b"]["hold"]) == (24, 95, 4)
    assert (told["c"]["start"], told["c"]["every"], told["c"]["smooth"]) == (12, 4, 2.0)
    assert told["c"]["samples"] == [[0, 0, 0], [20, 5, 5]]


SPOKEN = (("M", 0.2), ("AA1", 0.3), ("F", 0.2), ("IY1", 0.4), ("", 0.3), ("P", 0.2), ("OW1", 0.4))


def talking() -> Documents:
    documents = mouths(speaker(*SPOKEN, length=96))
    for frame, value in ((0, 0), (24, 10), (48, 0)):
        keys = [{"joint": "head", "kind": "turn", "frame": frame, "value": [value]}]
        documents = do(documents, {"do": "set-keys", "motion": "m", "keys": keys})
        documents = do(documents, {"do": "set-pose", "motion": "m", "frame": frame})
    return documents


@pytest.mark.parametrize(
    "command",
    [
        {"do": "hold-pose", "frame": 0, "frames": 20},
        {"do": "hold-pose", "frame": 0, "frames": 30, "follow": True},
        {"do": "duplicate-poses", "frames": [0]},
        {"do": "remove-poses", "frames": [24]},
        {"do": "insert-time", "at": 20, "frames": 10},
        {"do": "insert-time", "at": 12, "frames": -8},
        {"do": "retime-pose", "frame": 0, "frames": 30, "follow": True},
        {"do": "order-poses", "frames": [0], "before": None},
        {"do": "mirror-poses", "frames": [24], "view": "front"},
    ],
    ids=lambda c: " ".join(map(str, c.values())),
)
def test_mouths_stay_with_the_sound_whatever_is_done_to_poses(command: dict[str, Any]) -> None:
    documents = talking()
    after = do(documents, {**command, "motion": "m"})
    assert after.motion("m").sounds["s"].at == 0
    assert mouth_keys(after) == mouth_keys(documents)


def test_mouths_of_a_line_that_began_before_all_stay_when_time_is_taken_out_at_the_beginning() -> None:
    documents = speaker(*SPOKEN, length=96)
    sound = documents.motion("m").sounds["s"].model_dump(mode="json") | {"at": -0.125}
    documents = mouths(do(documents, {"do": "place-sound", "motion": "m", "sound": sound}))
    frames = sorted(documents.motion("m").channels["mouth.show"].keys)
    assert frames[0] == 0 and len(frames) > 3
    for frame in frames[1:4]:
        after = act(documents, "insert-time", at=0, frames=-frame)
        assert after.motion("m").sounds["s"].at == -0.125
        assert mouth_keys(after) == mouth_keys(documents)


def test_of_two_lines_the_one_that_begins_after_goes_along_with_its_mouths() -> None:
    documents = mouths(speaker(*SPOKEN, length=160))
    documents = do(documents, {"do": "place-sound", "motion": "m", "sound": {"id": "t", "voice": "v", "at": 3.0}})
    documents = mouths(documents, id="q", sound="t")
    after = do(documents, {"do": "insert-time", "motion": "m", "at": 40, "frames": 12}).motion("m")
    assert [after.sounds[s].at for s in ("s", "t")] == [0, 3.5]

    def of(motion: Motion, id: str) -> dict[int, Any]:
        return {f: k.value for f, k in motion.channels["mouth.show"].keys.items() if k.recipe == id}

    before = documents.motion("m")
    assert of(after, "r") == of(before, "r")
    assert of(after, "q") == {f + 12: v for f, v in of(before, "q").items()}
    # Done once more nothing of either is otherwise.
    assert of(again(again(documents.with_(after)), "q").motion("m"), "q") == of(after, "q")


def test_more_frames_than_there_can_be_are_refused_and_not_left_out() -> None:
    documents = act(walker(40), "set-motion", length=15_000)
    with pytest.raises(Refusal, match="30,000 frames"):
        do(documents, {"do": "convert-rate", "rate": {"numerator": 48, "denominator": 1}})


def test_the_last_pose_held_with_a_drift_goes_nowhere() -> None:
    documents = keyed(walker(40), ("body", "turn", 0, [0]), ("body", "turn", 30, [50]))
    for frame in (0, 30):
        documents = act(documents, "set-pose", frame=frame)
    held = act(documents, "hold-pose", frame=30, frames=6, drift=25).motion("m")
    assert {k.value for f, k in held.channels["body.turn"].keys.items() if f >= 30} == {(50.0,)}
    # Round a cycle it creeps on to the first.
    ring = act(documents, "set-motion", cycle=True)
    round_ = act(ring, "hold-pose", frame=30, frames=6, drift=25).motion("m")
    assert round_.channels["body.turn"].keys[36].value == (37.5,)


def test_keys_that_have_no_room_are_refused_and_never_put_on_one_another() -> None:
    documents = keyed(walker(40), *(("body", "turn", f, [f]) for f in range(20)))
    short = {"do": "add-motion", "id": "short", "puppet": "a", "name": "short", "length": 12, "cycle": True}
    documents = do(documents, short)
    chosen = [{"channel": "body.turn", "frame": f} for f in range(20)]
    paste = {"do": "paste-keys", "motion": "short", "source": "m", "at": 0}
    with pytest.raises(Refusal, match="no room"):
        do(documents, {**paste, "keys": chosen})
    assert len(do(documents, {**paste, "keys": chosen[:12]}).motion("short").channels["body.turn"].keys) == 12
    documents = do(documents, {"do": "add-shot", "id": "s", "name": "One", "length": 60})
    for frame in (4, 10, 30):
        key = {"joint": "camera", "kind": "turn", "frame": frame, "value": [frame]}
        documents = do(documents, {"do": "key-in-shot", "shot": "s", "keys": [key]})
    move = {"do": "move-shot-keys", "shot": "s", "keys": [{"channel": "camera.turn", "frame": f} for f in (4, 10, 30)]}
    with pytest.raises(Refusal, match="before the shot begins"):
        do(documents, {**move, "by": -20})
    assert sorted(do(documents, {**move, "by": -4}).shot("s").camera.channels["camera.turn"].keys) == [0, 6, 26]


def test_keys_of_one_joint_go_onto_others_each_later_than_the_one_before() -> None:
    turns = {4: 0, 10: 30, 16: -10}
    documents = keyed(walker(40), *(("body", "turn", f, [v]) for f, v in turns.items()))
    chosen = [{"channel": "body.turn", "frame": f} for f in turns]
    paste = {"do": "paste-keys", "motion": "m", "source": "m", "keys": chosen, "at": 6}
    onto = ["left-leg", "left-arm", "right-arm"]
    done = do(documents, {**paste, "onto": onto, "later": 3}).motion("m")
    for n, id in enumerate(onto):
        held = done.channels[f"{id}.turn"].keys
        wanted = {f - 4 + 6 + 3 * n: (float(v),) for f, v in turns.items()}
        # What was seen where the motion begins is kept besides.
        assert {f: k.value for f, k in held.items() if f} == wanted
    assert done.channels["body.turn"] == documents.motion("m").channels["body.turn"]
    with pytest.raises(Refusal, match="would leave"):
        do(documents, {**paste, "at": 25, "onto": onto, "later": 3})
    with pytest.raises(Refusal, match="Those are keys of several"):
        both = keyed(documents, ("left-leg", "turn", 5, [1]))
        do(both, {**paste, "keys": [*chosen, {"channel": "left-leg.turn", "frame": 5}], "onto": ["left-arm"]})
    faded = keyed(documents, ("body", "opacity", 5, [50]))
    with pytest.raises(Refusal, match="not opacity"):
        do(faded, {**paste, "keys": [{"channel": "body.opacity", "frame": 5}], "onto": ["left-leg"]})
    with pytest.raises(Refusal, match="any more"):
        do(documents, {**paste, "onto": ["nobody"]})


def test_a_baked_path_goes_where_it_went() -> None:
    places = [("body", "move", f, v) for f, v in ((0, [0, 0]), (10, [100, 0]), (20, [100, 100]), (30, [0, 100]))]
    documents = keyed(walker(40), *places)
    smooth = [{"channel": "body.move", "frame": f} for f in (0, 10, 20, 30)]
    documents = act(documents, "shape-path", keys=smooth, tangents={})
    baked = act(documents, "bake-keys", channels=["body.move"], start=5, end=25, every=1)
    one, two = (
        evaluate(m.channels["body.move"], m.length, m.cycle) for m in (documents.motion("m"), baked.motion("m"))
    )
    assert np.abs(one[:, 5:26] - two[:, 5:26]).max() < 1e-6
    # Between the frames too it goes along what was baked.
    half = at(baked.motion("m").channels["body.move"], np.arange(5.5, 25), 40, False)
    assert np.abs(half - (two[:, 5:25] + two[:, 6:26]) / 2).max() < 1e-6


@given(st.integers(1, 12), st.floats(-3, 3), st.booleans())
def test_what_is_held_is_held_as_long_when_it_is_keyed_on_every_few_frames(
    every: int, delay: float, cycle: bool
) -> None:
    hold = {"kind": "hold"}
    documents = keyed(walker(40), ("body", "turn", 0, [0]), ("body", "turn", 7, [30]), ("body", "turn", 26, [-10]))
    documents = act(documents, "ease-gaps", keys=[{"channel": "body.turn", "frame": 7}], ease=hold)
    documents = act(documents, "set-motion", cycle=cycle)
    documents = act(documents, "set-delay", channels=["body.turn"], delay=round(delay, 1))
    baked = act(documents, "bake-keys", channels=["body.turn"], start=0, end=39, every=every)
    before, after = (evaluate(d.motion("m").channels["body.turn"], 40, cycle)[0] for d in (documents, baked))
    held = np.flatnonzero(before == 30)
    assert len(held) >= 18 and np.array_equal(np.flatnonzero(np.abs(after - 30) < 1e-9)[: len(held)], held)
    np.testing.assert_allclose(after[::every], before[::every], atol=1e-9)


def test_of_somebody_who_is_on_already_there_is_no_second_under_the_same_name() -> None:
    documents = on_stage(strolling())
    with pytest.raises(Refusal, match="taken already"):
        do(documents, {"do": "duplicate-cast", "shot": "s", "cast": "c", "id": "c"})


def test_a_preset_shapes_a_gait_in_the_view_that_it_is_planned_in() -> None:
    made = by_preset(Gait(id="g", name="g", seen=45.0, step=120.0), "proud")
    assert (made.seen, made.step) == (45.0, 120.0)


def test_words_alone_make_room_for_a_shorter_sound() -> None:
    documents = speaker(("M", 0.3), ("AA1", 0.3))
    words = {"a": {"start": 0.0, "text": "last"}, "b": {"start": 3.0, "text": "ferry"}}
    documents = do(documents, {"do": "set-chart", "voice": "v", "chart": {"source": "hand", "words": words}})
    sound = {"asset": "0" * 64, "peaks": "1" * 64, "seconds": 2.0}
    after = do(documents, {"do": "set-voice", "voice": "v", "sound": sound}).voice("v")
    assert [w.text for w in after.chart.words.values()] == ["last"]


def test_of_one_frame_there_is_one() -> None:
    assert runs_of(np.ones(1, dtype=bool), False, 1) == [(0, 1)]


def test_beside_what_belongs_to_a_sound_keys_without_room_are_refused_too() -> None:
    documents = mouths(speaker(*SPOKEN, length=96))
    nod = {"kind": "accents", "id": "n", "name": "n", "sound": "s", "head": "head"}
    whole = documents.motion("m").model_dump(mode="json")
    whole["recipes"] |= {"n": nod}
    keys = {str(f): {"value": [f]} for f in (10, 20)} | {"60": {"value": [5], "recipe": "n", "slot": 60}}
    whole["channels"] |= {"head.turn": {"joint": "head", "kind": "turn", "keys": keys}}
    motion = Motion.model_validate(whole)
    with pytest.raises(Refusal, match="no room"):
        retimed(motion, lambda f: 10 if f == 20 else f, 96)
    assert set(retimed(motion, lambda f: f + 5, 101).channels["head.turn"].keys) == {15, 25, 60}


def travelling() -> Documents:
    """A cycle of 24 frames that carries itself 300 units on in each round, and sways on two cards."""
    documents = act(walker(24), "set-motion", cycle=True)
    documents = keyed(documents, *(("body", "turn", f, [v]) for f, v in ((0, 5), (12, -5))))
    documents = keyed(documents, *(("puppet", "move", f, [v, 0]) for f, v in ((0, 0), (9, 90))))
    documents = act(documents, "set-outside", channels=["puppet.move"], outside="repeat-and-add")
    documents = keyed(documents, ("puppet", "move", 24, [300, 0]))
    for frame in (0, 12):
        documents = act(documents, "set-pose", frame=frame)
    return documents


def goes_on(documents: Documents) -> float:
    return travel_of(documents.motion("m")).real


@given(st.integers(2, 60))
def test_a_longer_or_shorter_cycle_goes_as_far(length: int) -> None:
    documents = travelling()
    before = len(documents.motion("m").channels["puppet.move"].keys)
    for lasting in (length, 30, length):
        documents = act(documents, "set-motion", length=lasting)
        assert goes_on(documents) == 300
        assert len(documents.motion("m").channels["puppet.move"].keys) == before


@pytest.mark.parametrize(
    "command",
    [
        {"do": "remove-poses", "frames": [0]},
        {"do": "remove-poses", "frames": [0, 12]},
        {"do": "retime-pose", "frame": 0, "frames": 4, "follow": True},
        {"do": "insert-time", "at": 0, "frames": 5},
        {"do": "insert-time", "at": 3, "frames": -2},
        {"do": "insert-time", "at": 0, "frames": -2},
        {"do": "order-poses", "frames": [0], "before": None},
        {"do": "duplicate-poses", "frames": [0]},
        {"do": "hold-pose", "frame": 12, "frames": 9},
    ],
    ids=lambda c: f"{c['do']} {c.get('at', c.get('frames', ''))}",
)
def test_a_cycle_goes_as_far_whatever_is_done_to_its_cards(command: dict[str, Any]) -> None:
    assert goes_on(act(travelling(), command["do"], **{k: v for k, v in command.items() if k != "do"})) == 300


@given(st.integers(-40, 40), st.sets(st.sampled_from([0, 9, 24])))
def test_keys_moved_round_the_seam_of_a_cycle_that_goes_on_stay_on_its_way(by: int, chosen: set[int]) -> None:
    documents = travelling()
    keys = [{"channel": "puppet.move", "frame": f} for f in sorted(chosen)]
    keys.append({"channel": "body.turn", "frame": 12})
    after = act(documents, "move-keys", keys=keys, by=by)
    motion = after.motion("m")
    assert goes_on(after) == 300
    if 9 in chosen:
        # Where the key is in the round that it came to, it is what it was in its own.
        rounds, frame = divmod(9 + by, 24)
        assert motion.channels["puppet.move"].keys[frame].value[0] == 90 - 300 * rounds
    ends = [{"channel": "puppet.move", "frame": f} for f in (0, 24)]
    for command in ("move-keys", "paste-keys"):
        given_ = {"by": 2} if command == "move-keys" else {"source": "m", "at": 3}
        with pytest.raises(Refusal, match="how far the cycle goes on"):
            act(documents, command, keys=ends, **given_)


@given(st.sets(st.integers(0, 23), max_size=12), st.integers(8, 30))
def test_a_shorter_gait_takes_every_key_of_the_hand_along_in_order_or_says_that_there_is_no_room(
    frames: set[int], lasts: int
) -> None:
    documents = strolling(frames=24)
    made = [{"joint": "head", "kind": "scale", "frame": f, "value": [1 + f / 100, 1]} for f in sorted({0, *frames})]
    documents = do(documents, {"do": "set-keys", "motion": "m", "keys": made})
    gait = documents.motion("m").recipes["g"]
    assert isinstance(gait, Gait)
    command = {"do": "do-recipe", "motion": "m", "recipe": gait.changed(frames=lasts).model_dump(mode="json")}
    if len(made) > lasts:
        with pytest.raises(Refusal, match="no room for the keys"):
            do(documents, command)
        return
    after = do(documents, command).motion("m")
    keys = after.channels["head.scale"].keys
    assert [k.value[0] for k in keys.values()] == [1 + f / 100 for f in sorted({0, *frames})]
    assert max(keys) < after.length == lasts


def test_a_mouth_chart_takes_the_time_it_took_at_another_rate() -> None:
    documents = speaker(("M", 0.3), ("AA1", 0.3), length=96)
    puppet = documents.puppet("a")
    assert puppet.mouths is not None
    documents = documents.with_(puppet.changed(mouths=puppet.mouths.changed(every=3, blend=1)))
    twice = do(documents, {"do": "convert-rate", "rate": {"numerator": 48, "denominator": 1}}).puppet("a").mouths
    assert twice is not None and (twice.every, twice.blend) == (6, 2)
    # As long as it may: no mouth is blended over more frames than three.
    far = do(documents, {"do": "convert-rate", "rate": {"numerator": 96, "denominator": 1}}).puppet("a").mouths
    assert far is not None and (far.every, far.blend) == (12, 3)


@given(st.floats(0.4, 2.5), st.floats(-300, 300), st.floats(20, 600))
def test_on_a_stage_of_another_size_a_fall_is_as_far_across_and_as_high_as_seen(
    size: float, across: float, height: float
) -> None:
    """What is written for the larger stage is the larger of what was written for the smaller."""
    documents = act(
        walker(60), "do-recipe", recipe=BOUNCE | {"id": "r", "name": "fall", "across": across, "height": height}
    )
    by = Resizing(size, 0.0, 0.0)
    motion = documents.motion("m")
    larger = kind_of(motion.recipes["r"]).scaled(motion.recipes["r"], by)
    again = act(walker(60), "do-recipe", recipe=larger.model_dump(mode="json")).motion("m")
    one, other = (evaluate(m.channels["body.move"], 60, False) for m in (motion, again))
    np.testing.assert_allclose(other, size * one, atol=1e-3)
