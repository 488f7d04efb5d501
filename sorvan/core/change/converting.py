"""Another frame rate for a whole production, so that everything keeps its time: keys go to the nearest frame."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Literal, TypeVar

from sorvan.core.change.command import Command
from sorvan.core.errors import Refusal
from sorvan.core.model.channel import LONGEST, Channel
from sorvan.core.model.documents import Documents
from sorvan.core.model.motion import Motion
from sorvan.core.model.production import Rate
from sorvan.core.model.puppet import Puppet
from sorvan.core.model.shot import Copies, Member, Shot
from sorvan.core.model.times import Moving, moved, nearest
from sorvan.core.motion.retime import slots_moved
from sorvan.core.timing.rates import per_second

Held = TypeVar("Held")


@dataclass
class Tally:
    """What another rate does to the keys of one motion or shot: how many there are, how many would fall between
    two frames and go to the nearer, and how many give way to another that goes to the same."""

    name: str
    keys: int = 0
    between: int = 0
    lost: int = 0


@dataclass
class Conversion:
    """Documents at another rate, and what it does to the keys of each motion and shot that has any."""

    documents: Documents
    tallies: list[Tally] = field(default_factory=list)


def converted(documents: Documents, rate: Rate) -> Conversion:
    """Every motion, book and shot at another rate, in the same time (to the nearest frame)."""
    part = per_second(rate) / per_second(documents.production.rate)
    found = Conversion(documents.with_(documents.production.changed(rate=rate)))
    if part == 1:
        return found
    for puppet in documents.puppets():
        if puppet.book or puppet.mouths:
            found.documents = found.documents.with_(_puppet(puppet, part))
    for motion in documents.motions():
        tally = Tally(motion.name)
        found.documents = found.documents.with_(_motion(motion, part, tally))
        found.tallies += [tally] if tally.keys else []
    for shot in documents.all_shots():
        tally = Tally(shot.name)
        found.documents = found.documents.with_(_shot(shot, part, tally))
        found.tallies += [tally] if tally.keys else []
    return found


def _at(frame: int, part: Fraction) -> int:
    """Where a frame goes at the other rate."""
    return min(nearest(frame * part), LONGEST - 1)


def _by_frame(held: Mapping[int, Held], part: Fraction, tally: Tally | None = None) -> dict[int, Held]:
    """What is filed by frames. Of two that go to the same frame the one stays that lies nearer to it."""
    found: dict[int, tuple[Fraction, Held]] = {}
    for frame, value in held.items():
        to = _at(frame, part)
        off = abs(frame * part - to)
        if tally is not None:
            tally.keys += 1
            tally.between += off != 0
            tally.lost += to in found
        if to not in found or off < found[to][0]:
            found[to] = (off, value)
    return {frame: value for frame, (_, value) in sorted(found.items())}


def _channels(channels: Mapping[str, Channel], part: Fraction, tally: Tally) -> dict[str, Channel]:
    return {
        id: c.changed(keys=_by_frame(c.keys, part, tally), delay=float(c.delay * part)) for id, c in channels.items()
    }


def _length(frames: int, part: Fraction, name: str) -> int:
    """So many frames at the other rate. Raises `Refusal` if that is more than there can be."""
    found = nearest(frames * part)
    if found > LONGEST:
        raise Refusal(
            f"“{name}” would have {found:,} frames; there are {LONGEST:,} at most.",
            where=name,
            remedy="Make it shorter first, or take it apart.",
        )
    return max(found, 1)


def _motion(motion: Motion, part: Fraction, tally: Tally) -> Motion:
    length = _length(motion.length, part, motion.name)
    moving = Moving.at_rate(part)
    known = slots_moved(motion, moving.place)
    channels = _channels(motion.channels, part, tally)
    return motion.changed(
        length=length,
        channels={id: c.changed(keys={f: known(k) for f, k in c.keys.items()}) for id, c in channels.items()},
        poses={f: p for f, p in _by_frame(motion.poses, part).items() if f < length},
        plants={id: moved(p, moving) for id, p in motion.plants.items()},
        ground=motion.ground.changed(runs=float(motion.ground.runs / part)),
        recipes={id: r.moved(moving) for id, r in motion.recipes.items()},
    )


def _puppet(puppet: Puppet, part: Fraction) -> Puppet:
    entries = {
        id: e.changed(
            frames=_length(e.frames, part, e.name) if e.frames > 1 else 1,
            keys={c: _by_frame(k, part) for c, k in e.keys.items()},
        )
        for id, e in puppet.book.items()
    }
    return puppet.changed(book=entries, mouths=puppet.mouths and moved(puppet.mouths, Moving.at_rate(part)))


def _shot(shot: Shot, part: Fraction, tally: Tally) -> Shot:
    length = _length(shot.length, part, shot.name)
    cast: dict[str, Member | Copies] = {
        id: _member(c, part, tally) if isinstance(c, Member) else c for id, c in shot.cast.items()
    }
    moving = Moving.at_rate(part)
    shake = shot.camera.shake and moved(shot.camera.shake, moving)
    first, stop = (None if f is None else _at(f, part) for f in (shot.first, shot.stop))
    if min(stop or length, length) <= (first or 0):
        first = stop = None
    return shot.changed(
        length=length,
        cast=cast,
        camera=shot.camera.changed(channels=_channels(shot.camera.channels, part, tally), shake=shake),
        join=moved(shot.join, moving),
        close=shot.close and moved(shot.close, moving),
        first=first,
        stop=stop,
    )


def _member(member: Member, part: Fraction, tally: Tally) -> Member:
    spans = {id: moved(s, Moving.at_rate(part)) for id, s in member.spans.items()}
    return member.changed(
        spans=spans, place=_channels(member.place, part, tally), over=_channels(member.over, part, tally)
    )


class ConvertRate(Command):
    """Give the production another frame rate, and everything in it as many frames as keep its time."""

    do: Literal["convert-rate"] = "convert-rate"
    rate: Rate

    def result(self, documents: Documents) -> Documents:
        return converted(documents, self.rate).documents

    def label(self, documents: Documents) -> str:
        return f"Convert to {float(per_second(self.rate)):.6g} frames a second"
