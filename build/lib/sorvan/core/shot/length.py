"""Time put into a shot and taken out of it, across everything, and a shot cut in two."""

from __future__ import annotations

from collections.abc import Callable, Mapping

import numpy as np

from sorvan.core.errors import Refusal
from sorvan.core.model.channel import Channel
from sorvan.core.model.motion import Motion
from sorvan.core.model.shot import Copies, Member, Shot, Span
from sorvan.core.motion.editing import baked
from sorvan.core.shot.spans import begun_at, motion_times

Later = Callable[[int], int]


def put_in(shot: Shot, at: int, frames: int, rate: float) -> Shot:
    """A shot with `frames` more before frame `at`, in which whatever spans that frame lasts longer, and whatever
    comes after comes later; with less than none, so many fewer from there on. Raises `Refusal` if nothing is left."""
    if frames == 0:
        return shot
    gone = range(at, at - frames) if frames < 0 else range(0)
    if shot.length + frames < 1 or (gone and gone.stop > shot.length):
        raise Refusal(
            f"“{shot.name}” has no {abs(frames)} frames from frame {at + 1} on to take out, and one to keep.",
            where=shot.name,
            remedy="Take out fewer.",
        )

    def later(frame: int) -> int:
        return max(frame + frames, at) if frame >= at else frame

    def until(frame: int) -> int:
        return max(frame + frames, at) if frame > at else frame

    cast = {id: _member(c, gone, later, until) if isinstance(c, Member) else c for id, c in shot.cast.items()}
    channels = _channels(shot.camera.channels, gone, later)
    shake = shot.camera.shake
    if shake is not None:
        end = None if shake.frames is None else max(until(shake.start + shake.frames) - later(shake.start), 1)
        shake = shake.changed(start=later(shake.start), frames=end)
    begins, by = at / rate, frames / rate
    sounds = {
        id: s.changed(at=round(max(s.at + by, begins), 9)) if s.at >= begins - 1e-9 else s
        for id, s in shot.sounds.items()
    }
    return shot.changed(
        length=shot.length + frames,
        cast=cast,
        camera=shot.camera.changed(channels=channels, shake=shake),
        sounds=sounds,
        first=None if shot.first is None else min(later(shot.first), shot.length + frames - 1),
        stop=None if shot.stop is None else max(until(shot.stop), 1),
    )


def _member(member: Member, gone: range, later: Later, until: Later) -> Member:
    spans: dict[str, Span] = {}
    for id, span in member.spans.items():
        if gone and span.start in gone and span.end <= gone.stop:
            continue
        start = later(span.start)
        spans[id] = span.changed(start=start, frames=max(until(span.end) - start, 1))
    return member.changed(
        spans=spans, place=_channels(member.place, gone, later), over=_channels(member.over, gone, later)
    )


def _channels(channels: Mapping[str, Channel], gone: range, later: Later) -> dict[str, Channel]:
    found: dict[str, Channel] = {}
    for id, channel in channels.items():
        keys = {later(f): k for f, k in channel.keys.items() if f not in gone}
        if keys:
            found[id] = channel.changed(keys=keys)
    return found


def split(
    shot: Shot, at: int, rate: float, motions: Mapping[str, Motion], gone: Mapping[str, complex]
) -> tuple[Shot, Shot]:
    """A shot cut before frame `at`: its beginning, and its end as a shot of its own that goes on from there. `gone`
    is how far each member has been carried by then: along its travel (real), or if it has none from its place."""
    # What begins after the cut is the second's; what goes on over it is in both, and the film hears it once.
    begun = {id: s for id, s in shot.sounds.items() if s.at < at / rate - 1e-9}
    one = put_in(_ending(shot, at), at, at - shot.length, rate).changed(sounds=begun)
    cast: dict[str, Member | Copies] = {}
    for id, held in shot.cast.items():
        cast[id] = _on(held, at, motions, gone.get(id, 0j)) if isinstance(held, Member) else held
    camera = shot.camera.changed(channels={id: _shifted(c, at) for id, c in shot.camera.channels.items()})
    sounds = {id: s.changed(at=s.at - at / rate) for id, s in shot.sounds.items()}
    two = shot.changed(
        length=shot.length - at, cast=cast, camera=camera, sounds=sounds, first=None, stop=None, join=shot.join.changed(kind="cut")
    )  # fmt: skip
    return one.changed(first=None, stop=None, close=None), two


def _ending(shot: Shot, at: int) -> Shot:
    """A shot whose keys do until frame `at` what they did, without those after."""
    cast: dict[str, Member | Copies] = {
        id: m.changed(place=_cut(m.place, at), over=_cut(m.over, at)) for id, m in shot.members().items()
    }
    camera = shot.camera.changed(channels=_cut(shot.camera.channels, at))
    return shot.changed(cast={**shot.cast, **cast}, camera=camera)


def _cut(channels: Mapping[str, Channel], at: int) -> dict[str, Channel]:
    found: dict[str, Channel] = {}
    for id, channel in channels.items():
        before = [f for f in channel.keys if f < at]
        if len(before) < len(channel.keys):
            written = baked(channel, at, False, max(before, default=0), at - 1 if before else 0, 1).keys
            channel = channel.changed(keys={**written, **{f: channel.keys[f] for f in before}})
        found[id] = channel
    return found


def _on(member: Member, at: int, motions: Mapping[str, Motion], gone: complex) -> Member:
    """A member from a frame on."""
    spans: dict[str, Span] = {}
    for id, span in member.spans.items():
        if span.end <= at:
            if span is _last(member, at):
                # Nobody has begun anything since: it stands as this one ended.
                motion = motions[span.motion]
                ended = float(motion_times(span, motion, np.array([float(at)]))[0]) % motion.length
                spans[id] = span.changed(start=0, frames=1, first=ended, stop=None, skip=0.0, play="hold", blend=0)
            continue
        if span.start >= at:
            spans[id] = span.changed(start=span.start - at)
            continue
        spans[id] = begun_at(span, at).changed(start=0, frames=span.end - at, blend=0)
    travel, stands = member.travel, member.at
    if travel is not None:
        travel = travel.changed(gone=travel.gone + gone.real)
    else:
        stands = (stands[0] + gone.real, stands[1] + gone.imag)
    return member.changed(
        at=stands,
        travel=travel,
        spans=spans,
        place={i: _shifted(c, at) for i, c in member.place.items()},
        over={i: _shifted(c, at) for i, c in member.over.items()},
    )


def _last(member: Member, at: int) -> Span | None:
    """The span of the lowest row that began last before a frame."""
    row = [s for s in member.spans.values() if s.row == 0 and s.start < at]
    return max(row, key=lambda s: (s.start, s.id), default=None)


def _shifted(channel: Channel, at: int) -> Channel:
    """A channel that begins `at` frames later; a gap that is cut is written out, so that it goes as it went."""
    after = [f for f in channel.keys if f > at]
    if at not in channel.keys and any(f < at for f in channel.keys):
        end = after[0] if after else at
        written = baked(channel, end + 1, False, at, end, 1).keys
        channel = channel.changed(keys={**written, **{f: channel.keys[f] for f in after}})
    return channel.changed(keys={f - at: k for f, k in channel.keys.items() if f >= at})
