"""Time moved about: every key and pose of a motion goes with its frame."""

from __future__ import annotations

from collections.abc import Callable, Collection
from dataclasses import dataclass

from sorvan.core.errors import Refusal
from sorvan.core.model.channel import LONGEST, Channel, Key
from sorvan.core.model.motion import Motion
from sorvan.core.model.times import Moving, Place, moved
from sorvan.core.timing.channels import ends_of_travel, travels


def retimed(
    motion: Motion, place: Place, length: int, along: Collection[str] = (), still: Collection[str] = ()
) -> Motion:
    """The motion with every frame at its new place, now so many frames long. What belongs to a sound, as mouths do,
    stays with it where it is, unless it is one of those that are moved `along`; so do the channels that are to be `still`.

    Raises `Refusal` if two keys of a channel, or two poses, would fall on one frame.
    """
    if not 1 <= length <= LONGEST:
        raise Refusal(f"A motion has 1 to {LONGEST:,} frames; this one would have {length:,}.", where=motion.name)
    bound, moving = Bound.of(motion, along), Moving.by(place)
    channels = [
        c if c.id in still else c.changed(keys=moved_keys(motion, c, place, length, bound))
        for c in motion.channels.values()
    ]
    poses = {place(f): p for f, p in motion.poses.items()}
    if len(poses) != len(motion.poses):
        raise _no_room(motion)
    return motion.changed(
        channels={c.id: c for c in channels},
        poses=poses,
        length=length,
        plants={id: moved(p, moving) for id, p in motion.plants.items()},
        recipes={id: r if id in bound.recipes else r.moved(moving) for id, r in motion.recipes.items()},
    )


def lasting(motion: Motion, length: int) -> Motion:
    """The motion made longer or shorter at its end, everything where it is; a cycle that travels goes as far in each
    round as it did."""
    channels: list[Channel] = []
    for channel in motion.channels.values():
        if not travels(channel, motion.length, motion.cycle) or length == motion.length:
            continue
        keys = dict(channel.keys)
        closing = keys.pop(motion.length)
        beyond = length
        while beyond in keys:
            beyond += 1
        if beyond > length:
            # What stood there lies beyond the end now, where it is not seen.
            keys[beyond] = keys[length]
        channels.append(channel.changed(keys=keys | {length: closing}))
    return motion.with_channels(*channels).changed(length=length)


@dataclass(frozen=True)
class Bound:
    """What belongs to sounds that stay where they are: the recipes that go by one, and the channels that have mouths
    to words; `along` are recipes of sounds that are moved."""

    recipes: frozenset[str] = frozenset()
    channels: frozenset[str] = frozenset()
    along: frozenset[str] = frozenset()

    @classmethod
    def of(cls, motion: Motion, along: Collection[str] = ()) -> Bound:
        """What belongs to the sounds of a motion, but for those that are moved along."""
        heard = [r for r in motion.recipes.values() if r.goes_by in motion.sounds]
        staying = {r.id for r in heard if r.goes_by not in along}
        mouths = {r.id for r in heard if r.own_channels} & staying
        channels = {id for id, c in motion.channels.items() if any(k.recipe in mouths for k in c.keys.values())}
        return cls(frozenset(staying), frozenset(channels), frozenset(r.id for r in heard) - staying)

    def of_channel(self, channel: Channel) -> set[int]:
        """The frames of those keys of a channel that belong to a sound. Between the mouths of several sounds, what the
        hand put there goes with those before it."""
        found, owner = set(), None
        for frame, key in channel.keys.items():
            if key.recipe in self.recipes | self.along:
                owner = key.recipe
            own = key.recipe in self.recipes and not key.hand
            if own or (channel.id in self.channels and owner not in self.along):
                found.add(frame)
        return found


def slots_moved(motion: Motion, place: Place) -> Callable[[Key], Key]:
    """What makes of a key that is known again by its frame one that is known by where that goes."""
    by_frame = {id for id, r in motion.recipes.items() if r.by_frame}
    return lambda k: k.changed(slot=place(k.slot)) if k.recipe in by_frame and k.slot is not None else k


def moved_keys(motion: Motion, channel: Channel, place: Place, length: int, bound: Bound) -> dict[int, Key]:
    """A channel's keys at their new places. Raises `Refusal` if two would fall on one frame.

    Those that say how far a cycle goes on stay at its ends; what is put in before its beginning goes nowhere.
    """
    ends = ends_of_travel(channel, motion.length, motion.cycle)
    fixed = {f: channel.keys[f] for f in bound.of_channel(channel)}
    known = slots_moved(motion, place)
    free = {f: k for f, k in channel.keys.items() if f not in fixed and f not in ends}
    keys = {place(f): known(k) for f, k in free.items()}
    if len(keys) != len(free):
        raise _no_room(motion)
    if ends:
        begin, end = (channel.keys[f] for f in (0, motion.length))
        if keys.keys() & {0, length}:
            raise _no_room(motion)
        if place(0) > 0:
            keys = {place(0): known(begin)} | keys
        keys |= {0: begin, length: end}
    # Where a sound's and a pose's come to lie on one frame it is the pose's.
    return {f: k for f, k in fixed.items() if f < LONGEST} | keys


def _no_room(motion: Motion) -> Refusal:
    return Refusal(
        "There is no room: two keys would fall on one frame.",
        where=motion.name,
        remedy="Leave more frames between the poses, or take keys between them away first.",
    )


def stretched(start: int, end: int, new_start: int, new_end: int) -> Place:
    """Frames from start to end spread evenly from new start to new end; all others stay.

    Frames strictly inside stay strictly inside.
    """

    def place(frame: int) -> int:
        if not start < frame < end:
            return new_start if frame == start else new_end if frame == end else frame
        share = (frame - start) / (end - start)
        return min(max(new_start + round(share * (new_end - new_start)), new_start + 1), new_end - 1)

    return place
