"""Time moved about: every key and pose of a motion goes with its frame."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from sorvan.core.errors import Refusal
from sorvan.core.model.channel import LONGEST, Channel, Key
from sorvan.core.model.motion import Motion, Plant
from sorvan.core.model.recipe import Accents, Blink, Mouths

Place = Callable[[int], int]
"""Where a frame goes."""


def retimed(motion: Motion, place: Place, length: int, sounds_too: bool = False) -> Motion:
    """The motion with every frame at its new place, now so many frames long. What belongs to a sound, as mouths do,
    stays with it where it is, unless sounds are moved too.

    Raises `Refusal` if two keys of a channel, or two poses, would fall on one frame.
    """
    if not 1 <= length <= LONGEST:
        raise Refusal(f"A motion has 1 to {LONGEST:,} frames; this one would have {length:,}.", where=motion.name)
    bound = Bound() if sounds_too else Bound.of(motion)
    channels = [c.changed(keys=moved_keys(motion, c, place, length, bound)) for c in motion.channels.values()]
    poses = {place(f): p for f, p in motion.poses.items()}
    if len(poses) != len(motion.poses):
        raise _no_room(motion)
    plants = {id: moved_plant(p, place) for id, p in motion.plants.items()}
    return motion.changed(channels={c.id: c for c in channels}, poses=poses, length=length, plants=plants)


def moved_plant(plant: Plant, place: Place) -> Plant:
    """A plant whose first and last frame go to their new places, beyond the motion's end as keys do; it stays
    at least one frame long."""
    last = plant.start + plant.frames - 1
    start = min(max(place(plant.start), 0), LONGEST - 1)
    return plant.changed(start=start, frames=max(place(last) - start + 1, 1) if last < LONGEST else plant.frames)


@dataclass(frozen=True)
class Bound:
    """What belongs to sounds: the recipes that go by one, and the channels that have mouths to words."""

    recipes: frozenset[str] = frozenset()
    channels: frozenset[str] = frozenset()

    @classmethod
    def of(cls, motion: Motion) -> Bound:
        """What belongs to the sounds of a motion."""
        heard = [
            r for r in motion.recipes.values() if isinstance(r, Mouths | Accents | Blink) and r.sound in motion.sounds
        ]
        mouths = {r.id for r in heard if isinstance(r, Mouths)}
        channels = {id for id, c in motion.channels.items() if any(k.recipe in mouths for k in c.keys.values())}
        return cls(frozenset(r.id for r in heard), frozenset(channels))

    def has(self, channel: str, key: Key) -> bool:
        """Whether a key belongs to a sound."""
        return channel in self.channels or (key.recipe in self.recipes and not key.hand)


def moved_keys(
    motion: Motion, channel: Channel, place: Place, length: int, bound: Bound | None = None
) -> dict[int, Key]:
    """A channel's keys at their new places. Raises `Refusal` if two would fall on one frame.

    The key at the end of a cycle that travels stays at its end.
    """
    closing = motion.length if motion.cycle and channel.outside == "repeat-and-add" else None
    bound = bound or Bound()
    fixed = {f: k for f, k in channel.keys.items() if bound.has(channel.id, k)}
    keys = {length if f == closing else place(f): k for f, k in channel.keys.items() if f not in fixed}
    if fixed:
        # Where both come to lie on one frame it is the pose's.
        return {f: k for f, k in fixed.items() if f < LONGEST} | keys
    if len(keys) != len(channel.keys):
        raise _no_room(motion)
    return keys


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
