"""Time moved about: every key and pose of a motion goes with its frame."""

from __future__ import annotations

from collections.abc import Callable

from sorvan.core.errors import Refusal
from sorvan.core.model.channel import LONGEST, Channel, Key
from sorvan.core.model.motion import Motion, Plant

Place = Callable[[int], int]
"""Where a frame goes."""


def retimed(motion: Motion, place: Place, length: int) -> Motion:
    """The motion with every frame at its new place, now so many frames long.

    Raises `Refusal` if two keys of a channel, or two poses, would fall on one frame.
    """
    if not 1 <= length <= LONGEST:
        raise Refusal(f"A motion has 1 to {LONGEST:,} frames; this one would have {length:,}.", where=motion.name)
    channels = [c.changed(keys=moved_keys(motion, c, place, length)) for c in motion.channels.values()]
    poses = {place(f): p for f, p in motion.poses.items()}
    if len(poses) != len(motion.poses):
        raise _no_room(motion)
    plants = {id: moved_plant(p, place, length) for id, p in motion.plants.items()}
    return motion.changed(channels={c.id: c for c in channels}, poses=poses, length=length, plants=plants)


def moved_plant(plant: Plant, place: Place, length: int) -> Plant:
    """A plant whose first and last frame go to their new places; it stays at least one frame long."""
    last = plant.start + plant.frames - 1
    start = min(max(place(plant.start), 0), length - 1)
    return plant.changed(start=start, frames=max(place(last) - start + 1, 1) if last < LONGEST else plant.frames)


def moved_keys(motion: Motion, channel: Channel, place: Place, length: int) -> dict[int, Key]:
    """A channel's keys at their new places. Raises `Refusal` if two would fall on one frame.

    The key at the end of a cycle that travels stays at its end.
    """
    closing = motion.length if motion.cycle and channel.outside == "repeat-and-add" else None
    keys = {length if f == closing else place(f): k for f, k in channel.keys.items()}
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
