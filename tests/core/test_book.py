"""Poses kept in a puppet's book and put back."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorvan.core.errors import Refusal
from sorvan.core.model.documents import Documents
from sorvan.core.plan.evaluate import Evaluation
from tests.core.walkers import key, keyed, planned, walker
from tests.core.worlds import do


def kept(documents: Documents, frame: int, **fields: Any) -> Documents:
    return do(documents, {"do": "keep-in-book", "motion": "m", "id": "e", "name": "ready", "frame": frame, **fields})


def put(documents: Documents, frame: int, **fields: Any) -> Documents:
    return do(documents, {"do": "put-from-book", "motion": "m", "entry": "e", "frame": frame, **fields})


def values(documents: Documents, frame: int) -> dict[str, tuple[float, ...]]:
    e = Evaluation.full(documents.puppet("a"), documents.motion("m"))
    return {id: tuple(v[:, frame]) for id, v in e.keyed.items()}


@given(st.integers(0, 23), st.integers(0, 23), st.floats(-50, 150))
def test_a_pose_is_put_back_as_it_was_or_so_far_on_the_way_to_it(take: int, at: int, percent: float) -> None:
    documents = do(
        planned(walker(), frames=24), {"do": "set-delay", "motion": "m", "channels": ["head.turn"], "delay": 0}
    )
    documents = kept(documents, take)
    before, wanted = values(documents, at), values(documents, take)
    delays = {id for id, c in documents.motion("m").channels.items() if c.delay}
    after = values(put(documents, at, percent=percent), at)
    for id in before.keys() - delays:
        mixed = np.array(before[id]) + percent / 100 * (np.array(wanted[id]) - np.array(before[id]))
        assert np.allclose(after[id], mixed, atol=2e-4), id


def test_for_a_limb_only_that_is_touched_and_the_pose_gets_no_card() -> None:
    documents = keyed(walker(), key("head", "turn", 0, 10), key("near-forearm", "turn", 0, -30))
    documents = keyed(kept(documents, 0), key("head", "turn", 8, 0), key("near-forearm", "turn", 8, 0))
    after = put(documents, 12, channels=["near-forearm.turn"]).motion("m")
    assert 12 not in after.channels["head.turn"].keys and 12 not in after.poses
    assert after.channels["near-forearm.turn"].keys[12].value == (-30.0,)
    whole = put(documents, 12).motion("m")
    assert whole.poses[12].label == "ready" and whole.channels["head.turn"].keys[12].value == (10.0,)


def test_mirrored_the_sides_are_swapped_and_twice_is_as_kept() -> None:
    documents = keyed(walker(), key("near-forearm", "turn", 0, -30), key("far-forearm", "turn", 0, 12))
    documents = kept(documents, 0)
    swapped = put(documents, 5, mirrored=True)
    assert values(swapped, 5)["near-forearm.turn"] == (12.0,) and values(swapped, 5)["far-forearm.turn"] == (-30.0,)


def test_a_short_motion_keeps_its_keys_and_eases_and_goes_to_other_motions() -> None:
    nod = [
        key("head", "turn", f, v) | {"ease": {"kind": "slow", "out": 60, "into": 20}}
        for f, v in ((2, 0), (6, 18), (10, 0))
    ]
    documents = kept(keyed(walker(), *nod), 2, frames=9)
    entry = documents.puppet("a").book["e"]
    assert entry.frames == 9 and sorted(entry.keys["head.turn"]) == [0, 4, 8]
    documents = do(documents, {"do": "add-motion", "id": "m2", "puppet": "a", "name": "other", "length": 20})
    documents = do(documents, {"do": "put-from-book", "motion": "m2", "entry": "e", "frame": 5})
    keys = documents.motion("m2").channels["head.turn"].keys
    # Before it the head is as it was.
    assert {f: k.value[0] for f, k in keys.items()} == {0: 0.0, 5: 0.0, 9: 18.0, 13: 0.0}
    assert keys[9].ease.model_dump() == {"kind": "slow", "out": 60.0, "into": 20.0}
    late = do(documents, {"do": "put-from-book", "motion": "m2", "entry": "e", "frame": 15})
    assert max(late.motion("m2").channels["head.turn"].keys) == 19


def test_what_is_gone_is_left_out_and_said() -> None:
    documents = kept(keyed(walker(), key("head", "turn", 0, 10), key("near-forearm", "turn", 0, 5)), 0)
    fewer = do(documents, {"do": "remove-pieces", "puppet": "a", "pieces": ["near-forearm"]})
    assert set(fewer.puppet("a").book["e"].keys) == {"head.turn"}
    named = do(documents, {"do": "name-in-book", "puppet": "a", "entry": "e", "name": "steady"})
    assert named.puppet("a").book["e"].name == "steady"
    gone = do(named, {"do": "remove-from-book", "puppet": "a", "entry": "e"})
    with pytest.raises(Refusal, match="pose in the book"):
        put(gone, 3)
    with pytest.raises(Refusal, match="no pose to keep"):
        kept(walker(), 0)
