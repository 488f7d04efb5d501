"""Helpers as recipes: keys by rule, redone with other parameters, apart from the hand's."""

from __future__ import annotations

from typing import Annotated, Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter

from sorvan.core.errors import Refusal
from sorvan.core.model.documents import Documents
from sorvan.core.model.recipe import Settle
from sorvan.core.model.shown import shown_in
from sorvan.core.recipes.kind import Kind
from sorvan.core.recipes.registry import described, kinds
from sorvan.core.timing.channels import evaluate
from tests.core.test_cards import act, keyed, turns, walker
from tests.core.walkers import walker as figure
from tests.core.worlds import do


def recipe(documents: Documents, kind: str, id: str = "r", **fields: Any) -> Documents:
    return act(documents, "do-recipe", recipe={"kind": kind, "id": id, "name": kind, **fields})


def values(documents: Documents, channel: str) -> Any:
    motion = documents.motion("m")
    return evaluate(motion.channels[channel], motion.length, motion.cycle)


def swung() -> Documents:
    return keyed(walker(48), ("body", "turn", 0, [0]), ("body", "turn", 12, [40]), ("body", "turn", 40, [40]))


def test_a_settle_goes_past_and_back_ever_less_and_ends_where_the_key_is() -> None:
    documents = recipe(swung(), "settle", channels=["body.turn"], frame=12, amount=20, swings=3, frames=6, damping=50)
    row = values(documents, "body.turn")[0]
    assert row[12] == 40 and np.all(row[31:40] == 40)
    peaks = [k.value[0] - 40 for f, k in documents.motion("m").channels["body.turn"].keys.items() if 12 < f < 30]
    assert peaks[:5] == pytest.approx([8, -4, 2, -1, 0.5])
    assert row.max() == pytest.approx(48)


def test_a_recipe_can_be_redone_elsewhere_when_what_it_was_done_on_is_gone() -> None:
    documents = recipe(swung(), "settle", channels=["body.turn"], frame=12)
    lost = act(documents, "remove-keys", keys=[{"channel": "body.turn", "frame": 12}])
    again = recipe(lost, "settle", channels=["body.turn"], frame=40, frames=2)
    assert values(again, "body.turn")[0].max() > 40


def test_an_anticipation_goes_back_first() -> None:
    documents = recipe(swung(), "anticipate", channels=["body.turn"], frame=0, amount=25, frames=4)
    row = values(documents, "body.turn")[0]
    assert row[0] == 0 and row[4] == pytest.approx(-10) and row[12] == 40 and row.min() == row[4]
    with pytest.raises(Refusal, match="Nothing leaves frame 30"):
        recipe(swung(), "anticipate", channels=["body.turn"], frame=29)


@given(st.floats(50, 400), st.integers(6, 16), st.integers(30, 80), st.integers(0, 4))
def test_a_bounce_keeps_its_part_of_the_speed_and_squash_keeps_its_area(
    height: float, fall: int, keeps: int, bounces: int
) -> None:
    fields = {"joint": "body", "height": height, "frames": fall, "keeps": keeps, "bounces": bounces}
    documents = recipe(walker(120), "bounce", **fields)
    y = -values(documents, "body.move")[1]
    assert y[0] == pytest.approx(height, abs=1e-3) and y.min() == pytest.approx(0, abs=1e-3)
    # Half of the fall's time leaves three quarters of its height: y = h(1 - t²).
    if fall % 2 == 0:
        assert y[fall // 2] == pytest.approx(0.75 * height, abs=1e-3)
    after = y[fall + 1 :]
    if bounces:
        assert after.max() == pytest.approx((keeps / 100) ** 2 * height, rel=0.3, abs=2)
    squashed = recipe(documents, "squash", "s", joint="body", squash=35, stretch=25)
    w, h = values(squashed, "body.scale")
    assert w * h == pytest.approx(np.ones(120), abs=0.01)
    assert h[fall] < 0.75 or not bounces or keeps < 40
    assert 1 < h.max() <= 1.2501


def test_follow_through_drags_behind_and_comes_to_rest_down_the_chain() -> None:
    documents = walker(72)
    for child, parent in (("left-arm", "body"), ("right-arm", "left-arm")):
        documents = do(documents, {"do": "link-joint", "puppet": "a", "joint": child, "parent": parent})
    documents = keyed(documents, ("body", "turn", 0, [0]), ("body", "turn", 6, [40]))
    documents = recipe(documents, "follow", joints=["left-arm"], frequency=2, damping=0.4, every=1, pull=0)
    first, second = (values(documents, f"{j}.turn")[0] for j in ("left-arm", "right-arm"))
    # While the body turns, both hang back; then they swing past, the further one later; then they stand.
    assert first[:6].min() < -10 and second[:7].min() < -2
    assert first[6:].max() > 3
    assert np.argmax(second[6:]) > np.argmax(first[6:])
    assert np.abs(first[60:]).max() < 0.5 and np.abs(second[66:]).max() < 1.5
    stiff = recipe(documents, "follow", joints=["left-arm"], frequency=10, damping=1, every=1, pull=0)
    assert np.abs(values(stiff, "left-arm.turn")[0]).max() < 0.6 * np.abs(first).max()


def test_in_a_cycle_follow_through_repeats_itself_without_a_seam() -> None:
    documents = act(swung(), "set-motion", length=24, cycle=True)
    documents = act(documents, "remove-keys", keys=[{"channel": "body.turn", "frame": 40}])
    documents = do(documents, {"do": "link-joint", "puppet": "a", "joint": "left-arm", "parent": "body"})
    documents = recipe(documents, "follow", joints=["left-arm"], end=23, damping=0.5, every=1)
    row = values(documents, "left-arm.turn")[0]
    steps = np.abs(np.diff(np.concatenate([row, row[:1]])))
    assert steps.max() > 0.5 and steps[-1] <= steps.max()


def test_blinks_come_on_an_irregular_rhythm_that_a_seed_fixes() -> None:
    documents = walker(480)
    dial = {"id": "lid", "name": "blink", "stops": [{"at": 0}, {"at": 100, "values": {"body.turn": [1]}}]}
    documents = do(documents, {"do": "set-dial", "puppet": "a", "dial": dial})
    made = recipe(documents, "blink", dial="lid", seconds=3, uneven=60, seed=4)
    row = values(made, "lid.dial")[0]
    shut = np.flatnonzero((row == 100) & (np.roll(row, 1) < 100))
    assert 4 <= len(shut) <= 10 and len(set(np.diff(shut).tolist())) > 2
    assert recipe(documents, "blink", dial="lid", seconds=3, uneven=60, seed=4) == made
    other = values(recipe(documents, "blink", dial="lid", seconds=3, uneven=60, seed=5), "lid.dial")[0]
    assert not np.array_equal(other, row)


@pytest.mark.parametrize("kind", ["settle", "anticipate", "bounce", "squash", "follow"])
def test_redone_alike_it_writes_the_same_and_taken_off_it_leaves_only_the_hands(kind: str) -> None:
    bare = keyed(swung(), ("body", "move", 0, [0, 0]), ("body", "move", 10, [0, 90]), ("body", "move", 20, [0, 0]))
    fields: dict[str, Any] = {
        "settle": {"channels": ["body.turn"], "frame": 12},
        "anticipate": {"channels": ["body.turn"], "frame": 0},
        "bounce": {"joint": "left-arm"},
        "squash": {"joint": "body"},
        "follow": {"joints": ["body"]},
    }[kind]
    made = recipe(bare, kind, **fields)
    assert recipe(made, kind, **fields) == made
    assert act(made, "remove-recipe", recipe="r") == bare
    own = [(c.id, f) for c in made.motion("m").channels.values() for f, k in c.keys.items() if k.recipe == "r"]
    channel, frame = own[len(own) // 2]
    value = [9.0, 9.0] if channel.endswith(("move", "scale")) else [9.0]
    joint, _, what = channel.rpartition(".")
    touched = keyed(made, (joint, what, frame, value))
    again = recipe(touched, kind, **fields).motion("m").channels[channel].keys[frame]
    assert again.value == tuple(value) and again.hand
    kept = act(touched, "remove-recipe", recipe="r").motion("m").channels[channel].keys[frame]
    assert kept.value == tuple(value) and kept.recipe is None
    gone = act(made, "remove-keys", keys=[{"channel": channel, "frame": frame}])
    redone = recipe(gone, kind, **fields)
    assert (
        frame not in redone.motion("m").channels.get(channel, made.motion("m").channels[channel].changed(keys={})).keys
    )
    afresh = act(gone, "do-recipe", recipe={"kind": kind, "id": "r", "name": kind, **fields}, afresh=True)
    assert frame in afresh.motion("m").channels[channel].keys
    assert turns(bare)[12] == 40


def test_a_key_changed_by_hand_does_not_shift_the_others_when_follow_through_is_done_again() -> None:
    documents = figure()
    sway = [{"joint": "chest", "kind": "turn", "frame": f, "value": [v]} for f, v in ((0, -15), (12, 15))]
    documents = do(documents, {"do": "set-keys", "motion": "m", "keys": sway})
    recipe = {"kind": "follow", "id": "f", "name": "follow", "joints": ["head"]}
    documents = do(documents, {"do": "do-recipe", "motion": "m", "recipe": recipe})
    before = dict(documents.motion("m").channels["head.turn"].keys)
    frame = sorted(before)[4]
    hand = {"joint": "head", "kind": "turn", "frame": frame, "value": [40]}
    documents = do(documents, {"do": "set-keys", "motion": "m", "keys": [hand]})
    documents = do(documents, {"do": "do-recipe", "motion": "m", "recipe": recipe})
    after = documents.motion("m").channels["head.turn"].keys
    assert after[frame].value == (40.0,)
    assert {f: k for f, k in after.items() if f != frame} == {f: k for f, k in before.items() if f != frame}


def test_a_fall_beyond_the_end_is_refused_also_when_it_is_done_again() -> None:
    fall = {"joint": "body", "frame": 40, "frames": 4}
    short = do(recipe(walker(48), "bounce", **fall), {"do": "set-motion", "motion": "m", "length": 24})
    with pytest.raises(Refusal, match="would begin at frame 41"):
        recipe(short, "bounce", **fall)


@pytest.mark.parametrize("kind", kinds().values(), ids=lambda k: k.name)
def test_what_is_set_by_hand_is_within_what_is_allowed(kind: Kind[Any]) -> None:
    """Also at both ends of where it slides, and a part that hangs on another has one to hang on."""
    told = next(d for d in described() if d["name"] == kind.name)
    assert told["settings"] and told["does"]
    names = {s["key"]: s for s in told["settings"]}
    for name, shown, default in shown_in(kind.of):
        adapter = TypeAdapter(Annotated[kind.of.model_fields[name].annotation, *kind.of.model_fields[name].metadata])
        for value in [v for v, _ in shown.choices] or [shown.least, shown.most]:
            adapter.validate_python(value)
        if not shown.choices and default is not None:
            assert shown.least <= default <= shown.most
        assert shown.where is None or shown.where[1] in [v for v, _ in names[shown.where[0]]["choices"]]


def test_a_recipe_is_begun_on_what_is_chosen_or_says_what_to_choose() -> None:
    documents = keyed(walker(48), *(("body", "turn", f, [v]) for f, v in ((0, 0), (12, 40))))
    begun = {"id": "r", "joint": "body", "frame": 12}
    for kind, told in (
        ("settle", {"channels": ("body.turn",), "frame": 12}),
        ("bounce", {"joint": "body"}),
        ("squash", {"joint": "body"}),
        ("follow", {"joints": ("body",)}),
    ):
        try:
            recipe = act(documents, "begin-recipe", kind=kind, **begun).motion("m").recipes["r"]
        except Refusal as refusal:
            # It does not move up or down, and nothing hangs on it.
            assert "nothing to write" in refusal.what and kind in ("squash", "follow")
            continue
        assert {k: getattr(recipe, k) for k in told} == told
    for kind, words in (
        ("capture", "Press Capture"),
        ("mouths", "Bring in a line"),
        ("accents", "Bring in a line"),
        ("blink", "a dial that shuts the eyes"),
        ("juggle", "juggle"),
    ):
        with pytest.raises(Refusal) as refused:
            act(documents, "begin-recipe", kind=kind, **begun)
        assert words in refused.value.sentence()
    with pytest.raises(Refusal, match="begin on"):
        act(walker(48), "begin-recipe", kind="settle", id="r")


def test_a_change_of_a_recipe_says_only_what_changes() -> None:
    documents = keyed(walker(48), *(("body", "turn", f, [v]) for f, v in ((0, 0), (12, 40))))
    documents = recipe(documents, "settle", channels=["body.turn"], frame=12)
    # Both made by who saw the recipe as it was at first.
    for given_ in ({"amount": 40}, {"swings": 4}, {}):
        documents = act(documents, "change-recipe", recipe="r", given=given_)
    held = documents.motion("m").recipes["r"]
    assert isinstance(held, Settle) and (held.amount, held.swings) == (40, 4)
    for wrong, words in (
        ({"id": "q"}, "parameter of"),
        ({"amount": -1}, "less than 0"),
        ({"left_out": []}, "parameter"),
    ):
        with pytest.raises(Refusal) as refused:
            act(documents, "change-recipe", recipe="r", given=wrong)
        assert words in refused.value.sentence()
    with pytest.raises(Refusal, match="gone"):
        act(documents, "change-recipe", recipe="q", given={})
