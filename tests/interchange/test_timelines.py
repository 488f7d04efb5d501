"""The film as a timeline: read by the library of the format, changed there, and read again."""

from __future__ import annotations

import opentimelineio as otio
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorvan.core.errors import Refusal
from sorvan.core.film.film import film
from sorvan.core.model.documents import Documents
from sorvan.core.model.voice import Recording
from sorvan.interchange.timelines import read_timeline, write_timeline
from tests.core.test_film import joins, shots
from tests.core.worlds import do


def opened(data: bytes) -> otio.schema.Timeline:
    return otio.adapters.read_from_string(data.decode(), "otio_json")


@given(st.lists(st.tuples(st.integers(8, 60), joins), min_size=1, max_size=5))
def test_a_timeline_lasts_as_long_as_the_film_and_comes_back_as_it_was(
    made: list[tuple[int, dict[str, object]]],
) -> None:
    made = [
        (length, {**join, "kind": "cut"} if n == 0 and join["kind"] == "dissolve" else join)
        for n, (length, join) in enumerate(made)
    ]
    documents = shots(*made)
    before = film(documents)
    timeline = opened(write_timeline(documents))
    (track,) = timeline.video_tracks()
    assert track.duration().to_frames() == before.frames
    clips = [c for c in track if isinstance(c, otio.schema.Clip)]
    assert [c.name for c in clips] == [p.shot.name for p in before.parts]
    for clip, part in zip(clips, before.parts, strict=True):
        assert clip.media_reference.available_range.duration.to_frames() == part.shot.length
        media, seen = clip.available_range(), clip.source_range
        assert media.start_time <= seen.start_time and seen.end_time_exclusive() <= media.end_time_exclusive()
        # Of a dissolve as much of it as lies beyond the cut is there as well.
        assert seen.start_time.to_frames() >= part.over - part.over // 2
    again = read_timeline(write_timeline(documents), "film.otio", documents).apply(documents)
    after = film(again)
    assert [(p.shot.id, p.start, p.first, p.frames, p.over) for p in after.parts] == [
        (p.shot.id, p.start, p.first, p.frames, p.over) for p in before.parts
    ]
    assert [p.veil(p.start) for p in after.parts] == [p.veil(p.start) for p in before.parts]


def quay() -> Documents:
    documents = shots((48, {"kind": "cut"}), (72, {"kind": "cut"}), (24, {"kind": "cut"}))
    recording = Recording(asset="a" * 64, peaks="b" * 64, seconds=2.0).model_dump(mode="json")
    documents = do(documents, {"do": "add-voice", "id": "v", "name": "whistle", "sound": recording})
    return do(documents, {"do": "place-heard", "shot": "s0", "sound": {"id": "h", "voice": "v", "at": 1.5}})


def test_sounds_lie_on_tracks_of_their_own_across_the_cut() -> None:
    timeline = opened(write_timeline(quay()))
    (track,) = timeline.audio_tracks()
    (clip,) = [c for c in track if isinstance(c, otio.schema.Clip)]
    begins = track.range_of_child(clip).start_time.to_seconds()
    assert (begins, clip.source_range.duration.to_seconds()) == (1.5, 2.0)


def test_what_is_changed_in_the_timeline_comes_back() -> None:
    documents = quay()
    timeline = opened(write_timeline(documents))
    (track,) = timeline.video_tracks()
    last = track[2].clone()
    del track[2]
    track.insert(0, last)
    track[1].source_range = otio.opentime.TimeRange(
        otio.opentime.RationalTime(12, 24), otio.opentime.RationalTime(20, 24)
    )
    # Another program counts at another rate, and has a clip that nobody knows.
    fresh = otio.schema.Clip(
        name="Title",
        source_range=otio.opentime.TimeRange(otio.opentime.RationalTime(0, 25), otio.opentime.RationalTime(50, 25)),
    )
    track.append(fresh)
    data = otio.adapters.write_to_string(timeline, "otio_json").encode()
    arranged = read_timeline(data, "film.otio", documents).apply(documents)
    parts = film(arranged).parts
    assert [p.shot.name for p in parts] == ["Shot 2", "Shot 0", "Shot 1", "Title"]
    assert [(p.first, p.frames) for p in parts] == [(0, 24), (12, 20), (0, 72), (0, 48)]
    assert arranged.shot("s0").length == 48 and "h" in arranged.shot("s0").sounds


@pytest.mark.parametrize("data", [b"", b"{}", b"\xff\xfe", b'{"OTIO_SCHEMA": "Timeline.1"}', b"[1, 2"])
def test_what_is_no_timeline_is_refused_in_words(data: bytes) -> None:
    with pytest.raises(Refusal, match="timeline"):
        read_timeline(data, "film.otio", quay())


def test_frames_that_are_not_there_are_refused() -> None:
    documents = quay()
    timeline = opened(write_timeline(documents))
    (track,) = timeline.video_tracks()
    track[0].source_range = otio.opentime.TimeRange(
        otio.opentime.RationalTime(40, 24), otio.opentime.RationalTime(20, 24)
    )
    data = otio.adapters.write_to_string(timeline, "otio_json").encode()
    with pytest.raises(Refusal, match="48 frames, and not 41 to 60"):
        read_timeline(data, "film.otio", documents).apply(documents)
    track.append(track[1].clone())
    track[0].source_range = otio.opentime.TimeRange(
        otio.opentime.RationalTime(0, 24), otio.opentime.RationalTime(20, 24)
    )
    data = otio.adapters.write_to_string(timeline, "otio_json").encode()
    with pytest.raises(Refusal, match="plays twice"):
        read_timeline(data, "film.otio", documents).apply(documents)
