"""Sounds where time is put in and taken out, in motions and in shots."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorvan.core.errors import Refusal
from sorvan.core.model.documents import Documents
from sorvan.core.model.voice import Recording
from tests.core.staging import strolling
from tests.core.worlds import do

SECONDS = 0.5


def with_sounds(places: list[float], motion: bool) -> Documents:
    recording = Recording(asset="a" * 64, peaks="b" * 64, seconds=SECONDS).model_dump(mode="json")
    documents = do(strolling(), {"do": "add-voice", "id": "v", "name": "bell", "sound": recording})
    if motion:
        documents = do(documents, {"do": "add-motion", "id": "n", "puppet": "a", "name": "ring", "length": 96})
    for n, at in enumerate(places):
        placed = {"id": f"x{n}", "voice": "v", "at": at}
        heard = {"do": "place-sound", "motion": "n"} if motion else {"do": "place-heard", "shot": "s"}
        documents = do(documents, {**heard, "sound": placed})
    return documents


def put_in(motion: bool, at: int, frames: int) -> dict[str, Any]:
    what = {"do": "insert-time", "motion": "n"} if motion else {"do": "insert-shot-time", "shot": "s"}
    return {**what, "at": at, "frames": frames}


def places(documents: Documents, motion: bool) -> dict[str, float]:
    held = documents.motion("n") if motion else documents.shot("s")
    return {id: s.at for id, s in held.sounds.items()}


@given(
    st.lists(st.floats(-0.4, 3.9).map(lambda v: round(v, 4)), min_size=1, max_size=5),
    st.integers(0, 80),
    st.integers(-15, 30),
    st.booleans(),
)
def test_what_is_heard_goes_with_its_time_or_is_said(begins: list[float], at: int, frames: int, motion: bool) -> None:
    documents = with_sounds(begins, motion)
    begin, end = at / 24, (at - min(frames, 0)) / 24
    cut_into = [b for b in begins if begin <= b < end < b + SECONDS and at]
    if frames and cut_into:
        with pytest.raises(Refusal, match=r"begins .* into what would be taken out"):
            do(documents, put_in(motion, at, frames))
        return
    after = places(do(documents, put_in(motion, at, frames)), motion)
    for n, b in enumerate(begins):
        if frames < 0 and begin <= b and b + SECONDS <= end:
            assert f"x{n}" not in after
        else:
            wanted = b + frames / 24 if b >= begin else b
            assert after[f"x{n}"] == pytest.approx(wanted, abs=1e-9)


def test_frames_taken_out_leave_sounds_as_far_apart_as_they_were() -> None:
    documents = with_sounds([2.0, 2.5, 3.25], motion=False)
    assert places(do(documents, put_in(False, 24, -24)), False) == {"x0": 1.0, "x1": 1.5, "x2": 2.25}
