"""The other side of a puppet, time moved about, and what keys a command leaves whose."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorvan.core.errors import Refusal
from sorvan.core.model.channel import Channel, Key
from sorvan.core.model.documents import Documents
from sorvan.core.motion.mirror import counterparts
from sorvan.core.motion.retime import stretched
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.plan.ground_contact import tracks
from sorvan.core.plan.plants import travel_of
from sorvan.core.plan.travel import ground_of
from sorvan.core.rig.anatomy import anatomy
from sorvan.core.rig.facing import view_of
from sorvan.core.timing.channels import evaluate
from tests.core.test_cards import act, keyed, turns, walker
from tests.core.walkers import planned
from tests.core.walkers import walker as figure
from tests.core.worlds import do


def test_joints_pieces_and_limbs_have_a_counterpart_on_the_other_side() -> None:
    documents = walker()
    for side in ("left", "right"):
        hand = {"id": f"{side}-hand", "name": f"{side} hand", "at": [0, 90], "parent": f"{side}-arm"}
        documents = do(documents, {"do": "add-joints", "puppet": "a", "joints": [hand]})
        told = {"do": "set-joints", "puppet": "a", "joints": [f"{side}-hand"], "side": side}
        documents = do(documents, told)
        limb = {
            "do": "add-reach",
            "puppet": "a",
            "id": f"{side}-reach",
            "name": f"{side} arm",
            "handle": f"{side}-handle",
        }
        documents = do(documents, limb | {"anchor": f"{side}-arm", "end": f"{side}-hand"})
    found = counterparts(documents.puppet("a"))
    assert found["left-arm"] == "right-arm" and found["right-hand"] == "left-hand"
    assert found["left-reach"] == "right-reach"
    assert "body" not in found


def test_a_view_is_told_by_names_in_depth_or_by_how_far_twins_are_apart() -> None:
    assert view_of(figure().puppet("a")) == "side"
    assert view_of(walker().puppet("a")) == "front"


def test_a_twin_drawn_in_flipped_space_turns_as_its_original_does() -> None:
    documents = walker()
    puppet = documents.puppet("a")
    drawn = [puppet.joints[id] for id in ("left-arm", "left-leg")]
    flipped = [j.changed(rest=j.rest.changed(sx=-1.0)) for j in drawn]
    documents = documents.with_(puppet.with_joints(*flipped))
    documents = keyed(documents, ("left-arm", "turn", 0, [30]), ("right-leg", "turn", 0, [12]))
    documents = act(documents, "set-pose", frame=0)
    mirrored = act(documents, "mirror-poses", frames=[0], view="front")
    assert turns(mirrored, "right-arm") == {0: 30} and turns(mirrored, "left-leg") == {0: 12}
    assert "left-arm.turn" not in mirrored.motion("m").channels


def test_the_whole_puppet_turns_round_and_round_again_is_as_before() -> None:
    documents = keyed(walker(), ("puppet", "scale", 0, [1, 1]), ("puppet", "scale", 12, [1.5, 2]))
    once = act(documents, "flip-puppet")
    assert once.motion("m").channels["puppet.scale"].keys[12].value == (-1.5, 2)
    assert act(once, "flip-puppet") == documents
    assert act(walker(), "flip-puppet").motion("m").channels["puppet.scale"].keys[0].value == (-1, 1)


@pytest.mark.parametrize("travel", ["spot", "forward"])
@pytest.mark.parametrize("redone", [False, True])
def test_a_performance_turned_round_is_its_mirror_image_and_its_feet_stand(travel: str, redone: bool) -> None:
    """In whichever way the steps go, also when the gait is done again since."""
    documents = planned(figure(foot=0.4), step=100, travel=travel)
    keys = [{"joint": "puppet", "kind": "turn", "frame": f, "value": [v]} for f, v in ((0, 3), (12, -8))]
    documents = do(documents, {"do": "set-keys", "motion": "m", "keys": keys})
    documents = do(documents, {"do": "match-travel", "motion": "m", "travel": travel})
    once = do(documents, {"do": "flip-puppet", "motion": "m"})
    if redone:
        gait = documents.motion("m").recipes["g"].model_dump(mode="json")
        once, documents = (do(d, {"do": "do-recipe", "motion": "m", "recipe": gait}) for d in (once, documents))
    one, other = (Evaluation.full(d.puppet("a"), d.motion("m")) for d in (documents, once))
    middle = one.puppet.origin[0] + one.value("puppet", "move", 0)[0]
    wanted = one.worlds.copy()
    wanted[:, [0, 2]] *= -1
    wanted[:, 4] = 2 * middle - wanted[:, 4]
    np.testing.assert_allclose(other.worlds, wanted, atol=1e-4)
    np.testing.assert_allclose(slid(once, other), slid(documents, one), atol=1e-3)


def slid(documents: Documents, evaluation: Evaluation) -> np.ndarray:
    """How far each foot slides over the ground in each frame."""
    motion = documents.motion("m")
    level, travel = ground_of(motion, evaluation.puppet), travel_of(motion).real
    feet = tracks(evaluation, anatomy(evaluation.puppet).legs)
    return np.abs([t.slide(level, motion.ground.runs, True, travel) for t in feet])


@given(st.integers(0, 30), st.integers(1, 30), st.integers(0, 30), st.integers(1, 60))
def test_stretched_time_keeps_its_order_and_its_ends(start: int, span: int, to: int, wide: int) -> None:
    place = stretched(start, start + span, to, to + wide)
    inside = [place(f) for f in range(start, start + span + 1)]
    assert inside[0] == to and inside[-1] == to + wide
    if wide > 1:
        assert all(to < f < to + wide for f in inside[1:-1])
    assert inside == sorted(inside)
    if wide >= span:
        assert len(set(inside)) == len(inside)
    assert place(start + span + 5) == start + span + 5


def test_the_closing_key_of_a_cycle_that_travels_stays_at_its_end() -> None:
    documents = planned(figure(foot=0.4), step=100, travel="forward")
    key = {"joint": "puppet", "kind": "move", "frame": 24, "value": [300, 0]}
    faster = do(documents, {"do": "set-keys", "motion": "m", "keys": [key]})
    assert faster.motion("m").channels["puppet.move"].keys[24].value == (300, 0)
    longer = do(faster, {"do": "retime-pose", "motion": "m", "frame": 0, "frames": 7})
    assert sorted(longer.motion("m").channels["puppet.move"].keys) == [0, 28]
    beyond = {"joint": "body", "kind": "turn", "frame": 24, "value": [3]}
    with pytest.raises(Refusal, match="beyond the end"):
        do(documents, {"do": "set-keys", "motion": "m", "keys": [beyond]})
    # Keying the whole pose leaves what carries the puppet on alone.
    posed = do(documents, {"do": "key-pose", "motion": "m", "frame": 5}).motion("m")
    assert sorted(posed.channels["puppet.move"].keys) == [0, 24] and 5 in posed.channels["body.move"].keys


@pytest.mark.parametrize(
    ("command", "fields"),
    [
        ("set-keys", {"keys": [{"joint": "chest", "kind": "turn", "frame": 3, "value": [9]}]}),
        ("ease-gaps", {"keys": [{"channel": "chest.turn", "frame": 3}], "ease": {"kind": "hold"}}),
        ("move-keys", {"keys": [{"channel": "chest.turn", "frame": 3}], "by": 1}),
        ("scale-keys", {"keys": [{"channel": "chest.turn", "frame": 3}], "about": 2, "factor": 2}),
        ("bake-keys", {"channels": ["chest.turn"], "start": 3, "end": 4}),
        ("mirror-poses", {"frames": [3], "view": "front"}),
    ],
)
def test_what_the_hand_changes_is_the_hands(command: str, fields: dict[str, Any]) -> None:
    documents = planned(figure())
    before = documents.motion("m").channels["chest.turn"].keys[3]
    assert before.recipe == "g" and not before.hand
    keys = do(documents, {"do": command, "motion": "m", **fields}).motion("m").channels["chest.turn"].keys
    mine = [k for k in keys.values() if k.hand]
    assert [k.slot for k in mine][:1] == [before.slot] and mine[0].recipe == "g"
    again = planned(do(documents, {"do": command, "motion": "m", **fields})).motion("m").channels["chest.turn"].keys
    assert [k for k in again.values() if k.hand] == mine


def test_retiming_a_card_leaves_keys_the_recipes_so_that_redoing_sets_its_timing_again() -> None:
    documents = planned(figure())
    longer = do(documents, {"do": "retime-pose", "motion": "m", "frame": 0, "frames": 6})
    assert not any(k.hand for c in longer.motion("m").channels.values() for k in c.keys.values())
    assert planned(longer) == documents


def test_a_value_that_jumps_never_lies_between_two_choices() -> None:
    shown = Channel(joint="p", kind="show", delay=1.5, keys={0: Key(value=(0.0,)), 4: Key(value=(2.0,))})
    assert set(evaluate(shown, 12, cycle=False)[0].tolist()) == {0, 2}
    assert np.flatnonzero(evaluate(shown, 12, cycle=False)[0] == 2)[0] == 6
