"""Time moved about: every key and pose of a motion goes with its frame."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass

from sorvan.core.errors import Refusal
from sorvan.core.model.channel import Channel, Key
from sorvan.core.model.motion import Motion
from sorvan.core.model.times import LONGEST, FrameMap, Moving
from sorvan.core.timing.channels import ends_of_travel, travels


def retimed(
    motion: Motion, place: FrameMap, length: int, along: Mapping[str, int] | None = None, still: Collection[str] = ()
) -> Motion:
    """The motion with every frame at its new place, now so many frames long. What belongs to a sound, as mouths do,
    goes `along` with it if it is moved by so many frames, and stays where it is if not; so do the channels that are to be
    `still`.

    Raises `Refusal` if two keys of a channel, or two poses, would fall on one frame.
    """
    if not 1 <= length <= LONGEST:
        raise Refusal(f"A motion has 1 to {LONGEST:,} frames; this one would have {length:,}.", where=motion.name)
    bound = Bound.of(motion, along)
    channels = [
        c if c.id in still else c.changed(keys=moved_keys(motion, c, place, length, bound))
        for c in motion.channels.values()
    ]
    poses = {place(f): p for f, p in motion.poses.items()}
    if len(poses) != len(motion.poses):
        raise _no_room(motion)
    found = motion.beside_moved(Moving.by(place), bound.by)
    with_sounds = {id: motion.recipes[id].moved(Moving.by(later(by))) for id, by in bound.by.items() if by}
    recipes = {**found.recipes, **with_sounds}
    return found.changed(channels={c.id: c for c in channels}, poses=poses, length=length, recipes=recipes)


def later(frames: int) -> FrameMap:
    """So many frames later, or earlier if less than none, but not before the first."""
    return lambda frame: max(frame + frames, 0)


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
    """What belongs to sounds: the recipes that go by one, each with how many frames it is moved `by` along with that,
    and the channels that have mouths to words."""

    by: Mapping[str, int]
    channels: frozenset[str]

    @classmethod
    def of(cls, motion: Motion, along: Mapping[str, int] | None = None) -> Bound:
        """What belongs to the sounds of a motion, of which some are moved `along` by so many frames."""
        heard = {r.id: r for r in motion.recipes.values() if r.goes_by in motion.sounds}
        mouths = {id for id, r in heard.items() if r.own_channels}
        channels = {id for id, c in motion.channels.items() if any(k.recipe in mouths for k in c.keys.values())}
        return cls({id: (along or {}).get(r.goes_by or "", 0) for id, r in heard.items()}, frozenset(channels))

    def of_channel(self, channel: Channel) -> dict[int, int]:
        """Those keys of a channel that belong to a sound, by their frames, each with how many frames it is moved. Among
        mouths, what the hand put there goes with those before it; before mouths that stay it stays."""
        found: dict[int, int] = {}
        owners = {f: self.by[k.recipe] for f, k in channel.keys.items() if k.recipe is not None and k.recipe in self.by}
        before = None if next(iter(owners.values()), None) else 0
        for frame, key in channel.keys.items():
            own = before = owners.get(frame, before)
            if own is not None and (channel.id in self.channels or (frame in owners and not key.hand)):
                found[frame] = own
        return found


def moved_keys(motion: Motion, channel: Channel, place: FrameMap, length: int, bound: Bound) -> dict[int, Key]:
    """A channel's keys at their new places. Raises `Refusal` if two would fall on one frame.

    Those that say how far a cycle goes on stay at its ends; what is put in before its beginning goes nowhere.
    """
    ends = ends_of_travel(channel, motion.length, motion.cycle)
    own = bound.of_channel(channel)
    along = {by: (later(by), motion.slots_moved(later(by))) for by in {*own.values()}}
    spoken = {along[by][0](f): along[by][1](channel.keys[f]) for f, by in sorted(own.items())}
    known = motion.slots_moved(place)
    free = {f: k for f, k in channel.keys.items() if f not in own and f not in ends}
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
    return {f: k for f, k in spoken.items() if f < LONGEST} | keys


def _no_room(motion: Motion) -> Refusal:
    return Refusal(
        "There is no room: two keys would fall on one frame.",
        where=motion.name,
        remedy="Leave more frames between the poses, or take keys between them away first.",
    )


def stretched(start: int, end: int, new_start: int, new_end: int) -> FrameMap:
    """Frames from start to end spread evenly from new start to new end; all others stay.

    Frames strictly inside stay strictly inside.
    """

    def place(frame: int) -> int:
        if not start < frame < end:
            return new_start if frame == start else new_end if frame == end else frame
        share = (frame - start) / (end - start)
        return min(max(new_start + round(share * (new_end - new_start)), new_start + 1), new_end - 1)

    return place
