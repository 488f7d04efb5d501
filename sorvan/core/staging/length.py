"""Time put into a shot and taken out of it, across everything, and a shot cut in two."""

from __future__ import annotations

from collections.abc import Mapping

from sorvan.core.errors import Refusal
from sorvan.core.model.channel import Channel
from sorvan.core.model.shot import Copies, Member, Shot
from sorvan.core.model.times import LONGEST, Moving, moved
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
    left = _without(shot, gone)
    latest = max((f for c in left.channels() for f in c.keys), default=0)
    starts = max((s.start for m in left.members().values() for s in m.spans.values()), default=0)
    if max(length, moving.place(max(latest, starts)) + 1) > LONGEST:
        raise Refusal(f"A shot has {LONGEST:,} frames at most.", where=shot.name, remedy="Put in fewer.")
    sounds = put_off(shot.sounds, at / rate, frames / rate, lasts)
    # What is put in where it begins to play, or before where it ends, plays.
    first, stop = (f and moving.until(f) for f in (shot.first, shot.stop))
    found = moved(left.changed(first=None, stop=None), moving)
    return found.changed(length=length, sounds=sounds).playing(first, stop)


def _without(shot: Shot, gone: range) -> Shot:
    """A shot without its keys in some frames, and without the spans that lie in them alone."""
    if not gone:
        return shot

    def left(channels: Mapping[str, Channel]) -> dict[str, Channel]:
        keys = {id: {f: k for f, k in c.keys.items() if f not in gone} for id, c in channels.items()}
        return {id: c.changed(keys=keys[id]) for id, c in channels.items() if keys[id]}

    cast: dict[str, Member | Copies] = {
        id: m.changed(
            spans={n: s for n, s in m.spans.items() if s.start not in gone or s.end > gone.stop},
            place=left(m.place),
            over=left(m.over),
        )
        for id, m in shot.members().items()
    }
    return shot.with_cast(*cast.values()).changed(camera=shot.camera.changed(channels=left(shot.camera.channels)))


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
