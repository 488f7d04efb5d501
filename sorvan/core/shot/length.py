"""Time put into a shot and taken out of it, across everything, and a shot cut in two."""

from __future__ import annotations

from collections.abc import Mapping

from sorvan.core.errors import Refusal
from sorvan.core.model.channel import LONGEST, Channel
from sorvan.core.model.shot import Member, Shot
from sorvan.core.model.times import Moving, moved
from sorvan.core.voice.placing import put_off


def put_in(shot: Shot, at: int, frames: int, rate: float, lasts: Mapping[str, float]) -> Shot:
    """A shot with `frames` more before frame `at`, in which whatever spans that frame lasts longer, and whatever
    comes after comes later; with less than none, so many fewer from there on. `lasts` says how long each voice is
    heard (seconds).

    Raises `Refusal` if nothing is left, if it gets too long, or if a sound begins in what is taken out and goes on after
    it.
    """
    if frames == 0:
        return shot
    gone = range(at, at - frames) if frames < 0 else range(0)
    if shot.length + frames < 1 or (gone and gone.stop > shot.length):
        raise Refusal(
            f"“{shot.name}” has no {abs(frames)} frames from frame {at + 1} on to take out, and one to keep.",
            where=shot.name,
            remedy="Take out fewer.",
        )
    moving = Moving.put_in(at, frames)
    length = shot.length + frames
    latest = max((f for c in _channels(shot) for f in c.keys), default=0)
    starts = max((s.start for m in shot.members().values() for s in m.spans.values()), default=0)
    if max(length, moving.place(max(latest, starts)) + 1) > LONGEST:
        raise Refusal(f"A shot has {LONGEST:,} frames at most.", where=shot.name, remedy="Put in fewer.")
    cast = {id: _member(c, gone, moving) if isinstance(c, Member) else c for id, c in shot.cast.items()}
    camera = shot.camera.changed(
        channels=_keyed(shot.camera.channels, gone, moving),
        shake=shot.camera.shake and moved(shot.camera.shake, moving),
    )
    # What is put in where it begins to play, or before where it ends, plays.
    first = None if shot.first is None else min(moving.until(shot.first), length - 1)
    stop = None if shot.stop is None else max(moving.until(shot.stop), 1)
    if first is not None and min(stop or length, length) <= first:
        first = stop = None
    sounds = put_off(shot.sounds, at / rate, frames / rate, lasts)
    return shot.changed(length=length, cast=cast, camera=camera, sounds=sounds, first=first, stop=stop)


def _channels(shot: Shot) -> list[Channel]:
    found = [*shot.camera.channels.values()]
    for member in shot.members().values():
        found += [*member.place.values(), *member.over.values()]
    return found


def _member(member: Member, gone: range, moving: Moving) -> Member:
    spans = {
        id: moved(s, moving) for id, s in member.spans.items() if not (gone and s.start in gone and s.end <= gone.stop)
    }
    return member.changed(spans=spans, place=_keyed(member.place, gone, moving), over=_keyed(member.over, gone, moving))


def _keyed(channels: Mapping[str, Channel], gone: range, moving: Moving) -> dict[str, Channel]:
    found: dict[str, Channel] = {}
    for id, channel in channels.items():
        keys = {moving.place(f): k for f, k in channel.keys.items() if f not in gone}
        if keys:
            found[id] = channel.changed(keys=keys)
    return found


def split(shot: Shot, at: int) -> tuple[Shot, Shot]:
    """A shot cut before frame `at`: its beginning, and its end as a shot of its own that goes on from there.

    Each is a view of the whole: it is all there in both, and of it what lies before the cut plays in the one, what
    comes after in the other. So both show and sound exactly as the whole did, and can be let out again over the cut.
    Raises `Refusal` unless something plays on either side.
    """
    first, stop = shot.played
    if not first < at < stop:
        raise Refusal(
            f"“{shot.name}” can't be cut before frame {at + 1}.",
            where=shot.name,
            remedy=f"Choose a frame from {first + 2} to {stop}."
            if stop - first > 1
            else "Only one frame of it plays: let more of it play.",
        )
    return shot.changed(stop=at, close=None), shot.changed(first=at, join=shot.join.changed(kind="cut"))
