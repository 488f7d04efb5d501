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
from sorvan.core.model.recipe import Recipe
from sorvan.core.model.shot import Copies, Member, Shot
from sorvan.core.timing.rates import per_second

Held = TypeVar("Held")


@dataclass
class Moved:
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
    moved: list[Moved] = field(default_factory=list)


def converted(documents: Documents, rate: Rate) -> Conversion:
    """Every motion, book and shot at another rate, in the same time (to the nearest frame)."""
    part = per_second(rate) / per_second(documents.production.rate)
    found = Conversion(documents.with_(documents.production.changed(rate=rate)))
    if part == 1:
        return found
    for puppet in documents.puppets():
        if puppet.book:
            found.documents = found.documents.with_(_book(puppet, part))
    for motion in documents.motions():
        moved = Moved(motion.name)
        found.documents = found.documents.with_(_motion(motion, part, moved))
        found.moved += [moved] if moved.keys else []
    for shot in documents.all_shots():
        moved = Moved(shot.name)
        found.documents = found.documents.with_(_shot(shot, part, moved))
        found.moved += [moved] if moved.keys else []
    return found


def nearest(frame: int, part: Fraction) -> int:
    """The frame nearest to where a frame lies at the other rate; half way it is the later one."""
    return min(int(frame * part + Fraction(1, 2)), LONGEST - 1)


def _by_frame(held: Mapping[int, Held], part: Fraction, moved: Moved | None = None) -> dict[int, Held]:
    """What is filed by frames. Of two that go to the same frame the one stays that lies nearer to it."""
    found: dict[int, tuple[Fraction, Held]] = {}
    for frame, value in held.items():
        to = nearest(frame, part)
        off = abs(frame * part - to)
        if moved is not None:
            moved.keys += 1
            moved.between += off != 0
            moved.lost += to in found
        if to not in found or off < found[to][0]:
            found[to] = (off, value)
    return {frame: value for frame, (_, value) in sorted(found.items())}


def _channels(channels: Mapping[str, Channel], part: Fraction, moved: Moved) -> dict[str, Channel]:
    return {
        id: c.changed(keys=_by_frame(c.keys, part, moved), delay=float(c.delay * part)) for id, c in channels.items()
    }


def _length(frames: int, part: Fraction) -> int:
    return max(nearest(frames, part), 1)


def _motion(motion: Motion, part: Fraction, moved: Moved) -> Motion:
    length = _length(motion.length, part)
    plants = {
        id: p.changed(
            start=nearest(p.start, part),
            frames=max(nearest(p.start + p.frames, part) - nearest(p.start, part), 1),
            fade=min(nearest(p.fade, part), 48),
        )
        for id, p in motion.plants.items()
    }
    return motion.changed(
        length=length,
        channels=_channels(motion.channels, part, moved),
        poses={f: p for f, p in _by_frame(motion.poses, part).items() if f < length},
        plants=plants,
        ground=motion.ground.changed(runs=float(motion.ground.runs / part)),
        recipes={id: _recipe(r, part) for id, r in motion.recipes.items()},
    )


def _recipe(recipe: Recipe, part: Fraction) -> Recipe:
    """A recipe whose frames are those of the other rate, as far as it allows them."""
    for name in ("start", "frame", "frames", "moods"):
        if name in type(recipe).model_fields:
            held = getattr(recipe, name)
            value: object = _by_frame(held, part) if isinstance(held, dict) else nearest(held, part)
            try:
                recipe = recipe.changed(**{name: value})
            except Refusal:
                continue
    return recipe


def _book(puppet: Puppet, part: Fraction) -> Puppet:
    entries = {
        id: e.changed(
            frames=_length(e.frames, part) if e.frames > 1 else 1,
            keys={c: _by_frame(k, part) for c, k in e.keys.items()},
        )
        for id, e in puppet.book.items()
    }
    return puppet.changed(book=entries)


def _shot(shot: Shot, part: Fraction, moved: Moved) -> Shot:
    length = _length(shot.length, part)
    cast: dict[str, Member | Copies] = {
        id: _member(c, part, moved) if isinstance(c, Member) else c for id, c in shot.cast.items()
    }
    shake = shot.camera.shake
    if shake is not None:
        shake = shake.changed(
            start=nearest(shake.start, part),
            frames=None if shake.frames is None else _length(shake.frames, part),
            fade=min(nearest(shake.fade, part), 240),
        )
    first, stop = (None if f is None else nearest(f, part) for f in (shot.first, shot.stop))
    if min(stop or length, length) <= (first or 0):
        first = stop = None
    return shot.changed(
        length=length,
        cast=cast,
        camera=shot.camera.changed(channels=_channels(shot.camera.channels, part, moved), shake=shake),
        join=shot.join.changed(frames=min(_length(shot.join.frames, part), 240)),
        close=shot.close and shot.close.changed(frames=min(_length(shot.close.frames, part), 240)),
        first=first,
        stop=stop,
    )


def _member(member: Member, part: Fraction, moved: Moved) -> Member:
    spans = {
        id: s.changed(
            start=nearest(s.start, part),
            frames=max(nearest(s.end, part) - nearest(s.start, part), 1),
            first=float(Fraction(s.first) * part),
            stop=None if s.stop is None else float(Fraction(s.stop) * part),
            skip=float(Fraction(s.skip) * part),
            blend=min(nearest(s.blend, part), 240),
            out=min(nearest(s.out, part), 240),
            done=min(nearest(s.done, part), 240),
            left=min(nearest(s.left, part), 240),
        )
        for id, s in member.spans.items()
    }
    return member.changed(
        spans=spans, place=_channels(member.place, part, moved), over=_channels(member.over, part, moved)
    )


class ConvertRate(Command):
    """Give the production another frame rate, and everything in it as many frames as keep its time."""

    do: Literal["convert-rate"] = "convert-rate"
    rate: Rate

    def result(self, documents: Documents) -> Documents:
        return converted(documents, self.rate).documents

    def label(self, documents: Documents) -> str:
        return f"Convert to {float(per_second(self.rate)):.6g} frames a second"
