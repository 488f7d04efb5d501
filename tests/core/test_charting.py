"""The phoneme chart: boundaries with their neighbours, parts split and merged, and what changes cost."""

from __future__ import annotations

from itertools import pairwise
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorvan.core.change.writes import difference
from sorvan.core.errors import Refusal
from sorvan.core.model.documents import Documents
from sorvan.core.model.voice import SHORTEST, ends
from sorvan.core.voice.charting import filled
from tests.core.speakers import speaker
from tests.core.worlds import do

ROW = (("", 0.3), ("M", 0.1), ("AA1", 0.2), ("P", 0.1), ("", 0.2), ("IY1", 0.3))


def spoken() -> Documents:
    documents = speaker(*ROW)
    chart = documents.voice("v").chart.model_dump(mode="json")
    words = {"w0": {"start": 0, "text": ""}, "w1": {"start": 0.3, "text": "mop"}, "w2": {"start": 0.7, "text": ""}}
    return do(documents, {"do": "set-chart", "voice": "v", "chart": chart | {"words": words}})


def act(documents: Documents, what: str, **fields: Any) -> Documents:
    return do(documents, {"do": what, "voice": "v", **fields})


def phones(documents: Documents) -> list[tuple[float, str]]:
    return [(p.start, p.label) for p in documents.voice("v").chart.phones.values()]


def test_a_boundary_moves_with_its_neighbour_and_with_the_word_that_begins_there() -> None:
    after = act(spoken(), "move-boundary", tier="phones", entry="p1", to=0.25)
    line = after.voice("v")
    assert line.chart.phones["p1"].start == 0.25 and line.chart.words["w1"].start == 0.25
    assert next(end for id, _, end in ends(line.chart.phones, 2.0) if id == "p0") == 0.25
    inside = act(spoken(), "move-boundary", tier="phones", entry="p2", to=0.45).voice("v").chart
    assert inside.phones["p2"].start == 0.45 and inside.words["w1"].start == 0.3


@given(st.sampled_from(["p0", "p1", "p2", "p3", "p4", "p5"]), st.floats(-1, 3), st.booleans())
def test_wherever_it_is_dragged_every_part_stays_and_lasts(entry: str, to: float, snap: bool) -> None:
    given_ = {"snap": True, "on_motion": "m", "sound": "s"} if snap else {}
    after = act(spoken(), "move-boundary", tier="phones", entry=entry, to=to, **given_)
    starts = [t for t, _ in phones(after)]
    assert [label for _, label in phones(after)] == [*(label for label, _ in ROW), ""]
    assert all(b - a >= SHORTEST - 1e-9 for a, b in pairwise(starts))


def test_snapped_it_lies_on_a_frame_of_the_motion_wherever_the_line_begins() -> None:
    documents = do(spoken(), {"do": "place-sound", "motion": "m", "sound": {"id": "s", "voice": "v", "at": 0.117}})
    after = act(documents, "move-boundary", tier="phones", entry="p2", to=0.437, snap=True, on_motion="m", sound="s")
    frames = (0.117 + after.voice("v").chart.phones["p2"].start) * 24
    assert frames == pytest.approx(round(frames), abs=1e-3) and round(frames) == 13


def test_parts_are_split_merged_and_called_otherwise() -> None:
    documents = act(spoken(), "split-entry", tier="phones", entry="p2", new="x", at=0.5, called="L")
    assert phones(documents)[2:4] == [(0.4, "AA1"), (0.5, "L")]
    back = act(documents, "merge-entry", tier="phones", entry="x")
    assert phones(back) == phones(spoken())
    named = act(back, "label-entry", tier="phones", entry="p2", called="ɔ")
    assert phones(named)[2] == (0.4, "ɔ")
    assert phones(act(named, "label-entry", tier="phones", entry="p2", called="sil"))[2] == (0.4, "")
    with pytest.raises(Refusal, match="no room to split"):
        act(documents, "split-entry", tier="phones", entry="p2", new="y", at=0.9)
    with pytest.raises(Refusal, match="Nothing comes before"):
        act(documents, "merge-entry", tier="words", entry="w0")
    with pytest.raises(Refusal, match="gone"):
        act(documents, "label-entry", tier="phones", entry="whistle", called="S")


def test_tapping_along_puts_sounds_in() -> None:
    documents = do(speaker(("", 0.2)), {"do": "add-voice", "id": "w", "name": "Tapped"})
    for n, (at, label) in enumerate(((0.5, "AA"), (0.9, "M"), (1.4, ""))):
        documents = do(
            documents, {"do": "put-entry", "voice": "w", "tier": "phones", "entry": f"t{n}", "at": at, "called": label}
        )
    line = documents.voice("w")
    assert [(p.start, p.label) for p in line.chart.phones.values()] == [(0.5, "AA"), (0.9, "M"), (1.4, "")]
    assert line.chart.source == "hand"
    # A tap on a boundary that is there renames what begins at it.
    again = do(documents, {"do": "put-entry", "voice": "w", "tier": "phones", "entry": "u", "at": 0.9, "called": "B"})
    assert [p.label for p in again.voice("w").chart.phones.values()] == ["AA", "B", ""]


def test_moving_a_boundary_writes_only_what_it_touches() -> None:
    documents = speaker(*(("AA1", 0.1), ("S", 0.08)) * 200)
    after = act(documents, "move-boundary", tier="phones", entry="p201", to=18.05)
    writes = difference(documents, after)
    assert [w.path for w in writes] == [("chart", "phones", "p201")]


def test_a_chart_goes_on_no_longer_than_its_sound() -> None:
    sound = {"asset": "a" * 64, "peaks": "b" * 64, "seconds": 0.5}
    documents = act(spoken(), "set-voice", sound=sound)
    assert max(t for t, _ in phones(documents)) < 0.5
    with pytest.raises(Refusal, match="after the sound has ended"):
        act(documents, "set-chart", chart={"source": "hand", "phones": {"p": {"start": 0.7, "label": "M"}}})


def test_lines_are_placed_moved_muted_and_taken_away_everywhere() -> None:
    documents = do(
        spoken(),
        {"do": "place-sound", "motion": "m", "sound": {"id": "s", "voice": "v", "at": 1.25, "level": -6, "mute": True}},
    )
    assert documents.motion("m").sounds["s"].at == 1.25
    lifted = do(documents, {"do": "lift-sound", "motion": "m", "sound": "s"})
    assert not lifted.motion("m").sounds and lifted.voice("v")
    gone = do(documents, {"do": "remove-voice", "voice": "v"})
    assert not gone.motion("m").sounds and "v" not in gone.by_id
    with pytest.raises(Refusal, match="no voice line"):
        do(documents, {"do": "place-sound", "motion": "m", "sound": {"id": "t", "voice": "nobody"}})


@given(st.lists(st.tuples(st.floats(0, 5), st.floats(0.01, 1), st.sampled_from(["a", "b"])), max_size=8))
def test_holes_in_a_chart_from_outside_become_pauses(row: list[tuple[float, float, str]]) -> None:
    entries = sorted((a, a + length, label) for a, length, label in row)
    found = filled(entries, 7.0)
    assert found[0][0] == 0 if found else True
    assert all(b - a >= SHORTEST - 1e-9 for (a, _), (b, _) in pairwise(found))
