"""What several joints hold at a frame: keyed at once, put back to rest, given to the other side."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from sorvan.core.change.commands import COMMAND
from sorvan.core.errors import Refusal
from sorvan.core.model.documents import Documents
from sorvan.core.plan.evaluate import Evaluation
from tests.core.test_cards import KEYABLE, act, keyed, keyed_anywhere, turns, walker
from tests.core.worlds import do


def held(documents: Documents, frame: int) -> dict[str, tuple[float, ...]]:
    motion = documents.motion("m")
    return {id: c.keys[frame].value for id, c in motion.channels.items() if frame in c.keys}


def test_a_joint_is_keyed_in_all_that_it_can_do_and_what_rides_on_it_too() -> None:
    documents = keyed(walker(), ("left-arm", "scale", 0, [2, 1]), ("left-leg", "opacity", 0, [40]))
    command = {"do": "key-joints", "motion": "m", "joints": ["left-arm", "left-leg"], "frame": 8}
    after = do(documents, command | {"tried": {"left-arm.turn": [30], "body.turn": [4]}})
    assert held(after, 8) == {
        "left-arm.turn": (30,), "left-arm.move": (0, 0), "left-arm.scale": (2, 1),
        "left-leg.turn": (0,), "left-leg.move": (0, 0), "left-leg.opacity": (40,),
        "body.turn": (4,),
    }  # fmt: skip
    assert COMMAND.validate_python(command).label(documents) == "Key 2 joints at frame 9: 6 threads"
    one = COMMAND.validate_python(command | {"joints": ["left-arm"]})
    assert one.label(documents) == "Key “left arm” at frame 9: 3 threads"


@given(
    keyed_anywhere(), st.sets(st.sampled_from(["left-arm", "right-arm", "body", "left-leg", "right-leg"]), min_size=1)
)
def test_keying_what_is_there_moves_nothing_at_that_frame(drawn: tuple[Documents, Any], joints: set[str]) -> None:
    documents, _ = drawn
    for frame in (0, 7, 23):
        after = act(documents, "key-joints", joints=sorted(joints), frame=frame)
        was, now = (Evaluation.full(d.puppet("a"), d.motion("m")) for d in (documents, after))
        np.testing.assert_allclose(now.pieces[:, :, frame], was.pieces[:, :, frame], atol=1e-3)
        assert all(f"{joint}.{kind}" in held(after, frame) for joint in joints for kind in ("turn", "move"))


def test_joints_go_back_to_rest_some_or_all_and_the_puppet_stays_where_it_is() -> None:
    documents = keyed(
        walker(),
        *(
            (f"{side}-arm", "turn", frame, [value])
            for side in ("left", "right")
            for frame, value in ((0, 10), (12, 30))
        ),
        ("left-arm", "scale", 12, [2, 2]),
        ("left-leg", "opacity", 12, [40]),
        ("puppet", "move", 12, [50, 0]),
    )
    one = act(documents, "rest-joints", joints=["left-arm"], frame=12)
    assert held(one, 12) == held(documents, 12) | {"left-arm.turn": (0,), "left-arm.scale": (1, 1)}
    assert held(one, 0) == held(documents, 0)
    every = act(documents, "rest-joints", frame=12)
    assert held(every, 12) == {
        "left-arm.turn": (0,), "right-arm.turn": (0,), "left-arm.scale": (1, 1),
        "left-leg.opacity": (100,), "puppet.move": (50, 0),
    }  # fmt: skip
    # Between two keys it is put to rest where it shows, and what is there already gets no key.
    between = act(documents, "rest-joints", joints=["left-arm", "body"], frame=6)
    assert held(between, 6) == {"left-arm.turn": (0,), "left-arm.scale": (1, 1)}
    assert act(documents, "rest-joints", joints=["body"], frame=12) == documents


def test_one_side_gives_to_the_other_or_both_swap() -> None:
    documents = keyed(
        walker(), ("left-arm", "turn", 12, [30]), ("right-arm", "turn", 12, [5]), ("left-leg", "opacity", 12, [40]),
        ("body", "turn", 12, [7]),
    )  # fmt: skip
    given = act(documents, "mirror-joints", joints=["left-arm"], frame=12, view="front")
    assert held(given, 12) == held(documents, 12) | {"right-arm.turn": (-30,)}
    aside = act(documents, "mirror-joints", joints=["left-arm"], frame=12, view="side")
    assert held(aside, 12) == held(documents, 12) | {"right-arm.turn": (30,)}
    both = act(documents, "mirror-joints", joints=["left-arm", "left-leg", "body"], frame=12, swap=True, view="front")
    assert held(both, 12) == {
        "left-arm.turn": (-5,), "right-arm.turn": (-30,), "body.turn": (-7,),
        "left-leg.opacity": (100,), "right-leg.opacity": (40,),
    }  # fmt: skip
    assert turns(both, "left-arm") == {0: 0.0, 12: -5.0}
    with pytest.raises(Refusal, match="nothing to mirror"):
        act(walker(), "mirror-joints", joints=["left-arm"], frame=3)


@given(
    keyed_anywhere(), st.sets(st.sampled_from([j for j, _ in KEYABLE]), min_size=1), st.sampled_from(["side", "front"])
)
def test_swapping_twice_is_as_before(drawn: tuple[Documents, Any], joints: set[str], view: str) -> None:
    documents, _ = drawn
    told = {"joints": sorted(joints), "frame": 5, "swap": True, "view": view}
    try:
        once = act(documents, "mirror-joints", **told)
    except Refusal:
        assume(False)
        return
    twice = act(once, "mirror-joints", **told)
    was, now = (Evaluation.full(d.puppet("a"), d.motion("m")) for d in (documents, twice))
    np.testing.assert_allclose(now.pieces[:, :, 5], was.pieces[:, :, 5], atol=1e-3)
    assert (was.shown[:, 5] == now.shown[:, 5]).all()
