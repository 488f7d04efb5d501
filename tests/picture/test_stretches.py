"""What is too long to be held is worked out a stretch at a time, to the very same numbers."""

from __future__ import annotations

from functools import cache

import numpy as np
import pytest

from sorvan.core.model.documents import Documents
from sorvan.core.plan import long_performances
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.plan.scene import cel_of
from sorvan.demo.quay import build
from sorvan.picture.studio import Studio
from tests.core.worlds import do


@cache
def quay() -> tuple[Documents, Studio]:
    documents, kept = build()
    return documents, Studio(lambda id: kept[id][1])


MOTIONS = sorted(m.id for m in quay()[0].motions())


@pytest.fixture
def short(monkeypatch: pytest.MonkeyPatch) -> None:
    """Whatever is evaluated is too long, and stretches are as short as they can be."""
    monkeypatch.setattr(long_performances, "MOST_HELD", 0)
    monkeypatch.setattr(long_performances, "STRETCH", 0)


def evaluated(documents: Documents, id: str) -> Evaluation:
    motion = documents.motion(id)
    return Evaluation.full(documents.puppet(motion.puppet), motion, False, documents.production, quay()[1])


def same(one: Evaluation, other: Evaluation) -> None:
    """Every number of both is the same."""
    assert one.frames == other.frames and one.items == other.items
    for name in ("locals", "settled", "planted", "made", "worlds", "pieces", "shown", "order", "opacity"):
        assert np.array_equal(np.asarray(getattr(one.places, name)), np.asarray(getattr(other.places, name))), name
    for left, right in zip(one.points, other.points, strict=True):
        assert np.array_equal(np.asarray(left), np.asarray(right))
    for id, limb in one.reached.items():
        assert np.array_equal(np.asarray(limb.turned), np.asarray(other.reached[id].turned))
        assert np.array_equal(np.asarray(limb.reached), np.asarray(other.reached[id].reached))
    for which, moving in one.going.items():
        assert np.array_equal(moving.points, other.going[which].points)
        assert np.array_equal(moving.looks, other.going[which].looks)
    assert (cel_of(one).order is None) == (cel_of(other).order is None)


@pytest.mark.usefixtures("short")
@pytest.mark.parametrize("id", MOTIONS)
def test_a_stretch_at_a_time_gives_the_numbers_of_all_at_once(id: str, monkeypatch: pytest.MonkeyPatch) -> None:
    documents, _ = quay()
    motion = documents.motion(id)
    channel = min(motion.channels.values(), key=lambda c: c.kind == "show")
    frame, key = list(channel.keys.items())[-1]
    # A drawing gives way to that which shows at rest.
    value = [-1.0 if channel.kind == "show" else v + 3 for v in key.value]
    moved = {"joint": channel.joint, "kind": channel.kind, "frame": frame, "value": value}
    after = do(documents, {"do": "set-keys", "motion": id, "keys": [moved]})
    parts = evaluated(documents, id)
    some = [motion.length - 1, 0, motion.length // 2]
    few, one = parts.at_frames(some), parts.pose(some[2], {channel.id: (1.0,) * len(key.value)})
    again, touched = parts.after(after.puppet(motion.puppet), after.motion(id), after.production)
    assert parts.stretched and again.stretched and touched.stop > touched.start
    monkeypatch.undo()
    whole = evaluated(documents, id)
    assert not whole.stretched
    same(parts, whole)
    same(few, whole.at_frames(some))
    assert np.array_equal(one.worlds, whole.pose(some[2], {channel.id: (1.0,) * len(key.value)}).worlds)
    same(again, evaluated(after, id))


@pytest.mark.usefixtures("short")
def test_only_a_few_stretches_are_kept_and_those_that_stay_are_not_worked_out_again() -> None:
    documents, _ = quay()
    id = max(MOTIONS, key=lambda id: documents.motion(id).length)
    parts = evaluated(documents, id)
    assert isinstance(parts.places, long_performances.Stretched)
    np.asarray(parts.worlds)
    kept = parts.places.stretches._kept
    assert len(kept) == long_performances.MOST_KEPT < parts.frames / parts.places.stretches.length
    last = max(kept)
    channel = next(c for c in parts.motion.channels.values() if c.kind == "turn" and len(c.keys) > 2)  # type: ignore[union-attr]
    moved = {"joint": channel.joint, "kind": "turn", "frame": min(channel.keys), "value": [77]}
    after = do(documents, {"do": "set-keys", "motion": id, "keys": [moved]})
    again, touched = parts.after(after.puppet(parts.puppet.id), after.motion(id))
    assert touched.stop <= last * parts.places.stretches.length, "this key moves all of it"
    assert again.places.stretches.at(last) is kept[last]  # type: ignore[attr-defined]
