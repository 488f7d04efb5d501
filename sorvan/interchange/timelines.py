"""The film as an OpenTimelineIO timeline, written and read: shots as clips in their order, with what is heard."""

from __future__ import annotations

import json
from collections.abc import Iterable
from fractions import Fraction
from typing import Any

import opentimelineio as otio

from sorvan.core.change.shots import Arranged, ArrangeFilm
from sorvan.core.errors import Refusal
from sorvan.core.film.film import Film, film, heard_in_film
from sorvan.core.model.base import fresh_id
from sorvan.core.model.documents import Documents
from sorvan.core.model.shot import Join
from sorvan.core.timing.rates import per_second

OURS = "sorvan"
"""The name under which clips say which shot they are."""
MOST = 32 * 2**20
"""Bytes of a timeline that are read at most."""


def media_name(name: str) -> str:
    """What the rendered file of a shot is called."""
    return "".join(c if c.isalnum() or c in " -_" else "_" for c in name).strip() + ".mp4"


def write_timeline(documents: Documents) -> bytes:
    """The film as OpenTimelineIO (`.otio`). Clips refer to a film of each shot by its name; dissolves are
    transitions, half on either side of the cut. Raises `Refusal` if there is no shot."""
    whole = film(documents)
    rate = per_second(documents.production.rate)
    timeline = otio.schema.Timeline(name=documents.production.name)
    timeline.tracks.append(_pictures(whole, rate))
    for track in _sounds(documents, whole, rate):
        timeline.tracks.append(track)
    return str(otio.adapters.write_to_string(timeline, "otio_json")).encode()


def _time(frames: float, rate: Fraction) -> Any:
    return otio.opentime.RationalTime(float(frames), float(rate))


def _range(start: float, frames: float, rate: Fraction) -> Any:
    return otio.opentime.TimeRange(_time(start, rate), _time(frames, rate))


def _pictures(whole: Film, rate: Fraction) -> Any:
    track = otio.schema.Track(name="Shots", kind=otio.schema.TrackKind.Video)
    for n, part in enumerate(whole.parts):
        after = whole.parts[n + 1].over if n + 1 < len(whole.parts) else 0
        # Each gives half of what both show to the other side of the cut.
        begins, ends = part.over - part.over // 2, after // 2
        if part.over:
            track.append(
                otio.schema.Transition(
                    name="dissolve",
                    transition_type=otio.schema.TransitionTypes.SMPTE_Dissolve,
                    in_offset=_time(begins, rate),
                    out_offset=_time(part.over // 2, rate),
                )
            )
        media = otio.schema.ExternalReference(
            target_url=media_name(part.shot.name), available_range=_range(0, part.shot.length, rate)
        )
        said = {"shot": part.shot.id, "pass": part.shot.stage, "note": part.shot.note}
        if part.shot.join.kind == "fade":
            said["fade"] = json.dumps({"frames": part.shot.join.frames, "colour": part.shot.join.colour})
        track.append(
            otio.schema.Clip(
                name=part.shot.name,
                media_reference=media,
                source_range=_range(part.first + begins, part.frames - begins - ends, rate),
                metadata={OURS: said},
            )
        )
    return track


def _sounds(documents: Documents, whole: Film, rate: Fraction) -> Iterable[Any]:
    """What is heard, on as few tracks as let nothing lie over anything else."""
    tracks: list[tuple[Any, float]] = []
    for cue in sorted(heard_in_film(documents, whole), key=lambda c: max(c.at, c.begins)):
        voice = documents.voice(cue.placed.voice)
        begins, ends = max(cue.at, cue.begins, 0.0), min(cue.at + voice.seconds, cue.ends)
        if voice.sound is None or cue.placed.mute or ends <= begins:
            continue
        n = next((n for n, (_, end) in enumerate(tracks) if end <= begins + 1e-9), len(tracks))
        if n == len(tracks):
            tracks.append((otio.schema.Track(name=f"Sound {n + 1}", kind=otio.schema.TrackKind.Audio), 0.0))
        track, end = tracks[n]
        per = float(rate)
        if begins > end + 1e-9:
            track.append(otio.schema.Gap(source_range=_range(0, (begins - end) * per, rate)))
        media = otio.schema.ExternalReference(
            target_url=media_name(voice.name).replace(".mp4", ".flac"),
            available_range=_range(0, voice.seconds * per, rate),
        )
        track.append(
            otio.schema.Clip(
                name=voice.name,
                media_reference=media,
                source_range=_range((begins - cue.at) * per, (ends - begins) * per, rate),
                metadata={OURS: {"voice": voice.id, "level": cue.placed.level}},
            )
        )
        tracks[n] = (track, ends)
    return [track for track, _ in tracks]


def read_timeline(data: bytes, filename: str, documents: Documents) -> ArrangeFilm:
    """The order and the frames of shots from an OpenTimelineIO timeline: of shots of this production by their id,
    else by their name; clips that are neither become new, empty shots. Raises `Refusal` if it can't be read."""
    if len(data) > MOST:
        raise Refusal("The timeline is too large.", where=filename, remedy="Export the film's cut alone.")
    try:
        timeline = otio.adapters.read_from_string(data.decode(), "otio_json")
        tracks = [t for t in timeline.tracks if t.kind == otio.schema.TrackKind.Video]
    except Exception as error:
        raise Refusal(
            "This is no OpenTimelineIO timeline.", where=filename, remedy="Export it as .otio.", kind="damaged"
        ) from error
    if len(tracks) != 1:
        raise Refusal(
            f"The timeline has {len(tracks)} picture tracks.", where=filename, remedy="Put all shots on one track."
        )
    rate = per_second(documents.production.rate)
    found: list[Arranged] = []
    over: tuple[int, int] | None = None
    for item in tracks[0]:
        if isinstance(item, otio.schema.Transition):
            over = _frames(item.in_offset, rate), _frames(item.out_offset, rate)
            if found:
                found[-1] = found[-1].changed(stop=found[-1].stop + over[1])
            continue
        if isinstance(item, otio.schema.Gap):
            continue
        if not isinstance(item, otio.schema.Clip):
            raise Refusal(f"“{item.name}” is no clip.", where=filename, remedy="Flatten nested clips before exporting.")
        found.append(_arranged(item, rate, documents, over if found else None))
        over = None
    if not found:
        raise Refusal("There is no clip in the timeline.", where=filename, remedy="Put the shots on its track.")
    return ArrangeFilm(shots=tuple(found))


def _frames(time: Any, rate: Fraction) -> int:
    return round(time.value / time.rate * float(rate))


def _arranged(clip: Any, rate: Fraction, documents: Documents, over: tuple[int, int] | None) -> Arranged:
    said = clip.metadata.get(OURS, {})
    shots = {s.id: s for s in documents.all_shots()}
    named = [s for s in shots.values() if s.name == clip.name]
    held = shots.get(str(said.get("shot", ""))) or (named[0] if len(named) == 1 else None)
    range_ = clip.trimmed_range()
    first, frames = _frames(range_.start_time, rate), max(_frames(range_.duration, rate), 1)
    join = Join()
    if over is not None:
        # What is seen before the cut of what comes in is its own too.
        first, frames = first - over[0], frames + over[0]
        join = Join(kind="dissolve", frames=max(sum(over), 1))
    elif "fade" in said:
        join = Join(kind="fade", **json.loads(str(said["fade"])))
    if held is None:
        # Nobody knows what lies before its first frame.
        first = 0
    first = max(first, 0)
    return Arranged(
        shot=held.id if held else fresh_id(), name=clip.name or "Shot", first=first, stop=first + frames, join=join
    )
