"""Another frame rate: everything keeps its time, and what does not fall on a frame is told."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from sorvan.core.change.converting import converted
from sorvan.core.film.film import film, heard_in_film
from sorvan.core.model.documents import Documents
from sorvan.core.model.production import Rate
from sorvan.core.model.shot import Member
from sorvan.core.plan.evaluate import Evaluation
from tests.conftest import costly
from tests.core.staging import acted, on_stage, strolling
from tests.core.test_film import spoken
from tests.core.test_shots import staged
from tests.core.walkers import key, keyed
from tests.core.worlds import do


def at(documents: Documents, rate: int) -> Documents:
    return do(documents, {"do": "convert-rate", "rate": {"numerator": rate, "denominator": 1}})


@given(staged(), st.sampled_from([2, 3]))
@costly(12)
def test_twice_the_frames_and_half_of_them_again_is_the_identity(documents: Documents, times: int) -> None:
    finer = at(documents, 24 * times)
    assert finer.shot("s").length == 96 * times
    assert all(not m.between and not m.lost for m in converted(documents, Rate(numerator=24 * times)).tallies)
    again = at(finer, 24)
    assert again.shot("s").model_dump() == documents.shot("s").model_dump()
    one, other = again.motion("m").model_dump(), documents.motion("m").model_dump()
    assert {**one, "ground": None, "recipes": None} == {**other, "ground": None, "recipes": None}
    assert abs(again.motion("m").ground.runs - documents.motion("m").ground.runs) < 1e-9


def test_what_is_seen_at_a_time_stays_what_is_seen() -> None:
    documents = on_stage(strolling(150.0, 24), {}, travel={"way": []})
    finer = at(documents, 48)
    one, two = (Evaluation.full(d.puppet("a"), d.motion("m")) for d in (documents, finer))
    # At the keys both are the same; eases go between them as they did.
    frames = sorted({f for c in documents.motion("m").channels.values() for f in c.keys if f < 24})
    for id in documents.motion("m").channels:
        if not documents.motion("m").channels[id].delay:
            np.testing.assert_allclose(two.keyed[id][:, [2 * f for f in frames]], one.keyed[id][:, frames], atol=1e-9)
    slow, quick = acted(documents), acted(finer)
    assert slow.carried is not None and quick.carried is not None
    np.testing.assert_allclose(quick.carried.gone[::2], slow.carried.gone, atol=1e-6)


def test_keys_that_fall_between_frames_go_to_the_nearer_and_are_told() -> None:
    documents = strolling()
    documents = do(documents, {"do": "add-motion", "id": "n", "puppet": "a", "name": "nod", "length": 24})
    keys = [key("head", "turn", f, float(f)) for f in (0, 1, 2, 3, 10)]
    documents = do(documents, {"do": "set-keys", "motion": "n", "keys": keys})
    half = converted(documents, Rate(numerator=12))
    told = next(m for m in half.tallies if m.name == "nod")
    # Frames 1 and 3 fall between; 1 would go to where 2 goes, and gives way to it, and 3 has a place of its own.
    assert (told.keys, told.between, told.lost) == (5, 2, 1)
    found = half.documents.motion("n").channels["head.turn"].keys
    assert {f: k.value[0] for f, k in found.items()} == {0: 0.0, 1: 2.0, 2: 3.0, 5: 10.0}
    assert half.documents.motion("n").length == 12


def test_sound_and_the_film_keep_their_seconds() -> None:
    documents = spoken()
    film_before = film(documents).frames / 24
    cues = sorted((c.placed.voice, round(c.at, 6)) for c in heard_in_film(documents, film(documents)))
    other = at(documents, 30)
    assert film(other).frames / 30 == film_before
    assert sorted((c.placed.voice, round(c.at, 6)) for c in heard_in_film(other, film(other))) == cues
    member = other.shot("s").cast["c"]
    assert isinstance(member, Member) and member.spans["p0"].start == 15


def test_the_book_and_plants_go_along() -> None:
    documents = keyed(strolling(150.0, 24), key("head", "turn", 4, 9.0))
    documents = do(
        documents, {"do": "keep-in-book", "motion": "m", "id": "e", "name": "steps", "frame": 0, "frames": 12}
    )
    documents = do(
        documents,
        {
            "do": "plant-foot",
            "motion": "m",
            "id": "f",
            "joint": "near0-foot",
            "start": 6,
            "frames": 5,
            "fade": 2,
            "flat": False,
        },
    )
    finer = at(documents, 48)
    assert finer.puppet("a").book["e"].frames == 24
    plant = finer.motion("m").plants["f"]
    assert (plant.start, plant.frames, plant.fade) == (12, 10, 4)


@given(st.integers(2, 30), st.sampled_from((6, 8, 12, 15)))
def test_cards_lie_within_a_motion_at_another_rate(length: int, rate: int) -> None:
    documents = do(strolling(), {"do": "add-motion", "id": "n", "puppet": "a", "name": "nod", "length": length})
    for frame in (0, length - 1):
        keys = [key("head", "turn", frame, 3.0)]
        documents = do(documents, {"do": "set-keys", "motion": "n", "keys": keys})
        documents = do(documents, {"do": "set-pose", "motion": "n", "frame": frame, "text": f"at {frame}"})
    found = at(documents, rate).motion("n")
    assert 0 in found.poses and max(found.poses) < found.length
    if found.length > 1:
        assert found.poses[max(found.poses)].label == f"at {length - 1}"
