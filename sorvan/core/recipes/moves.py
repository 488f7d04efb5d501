"""What several kinds share: keys as they write them, and moves that arrive at a key or leave it."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from sorvan.core.errors import Refusal
from sorvan.core.geometry import Floats
from sorvan.core.model.channel import Key
from sorvan.core.model.channels import CHOICES
from sorvan.core.model.ease import Ease, Family, Slow
from sorvan.core.model.motion import Motion

SLOW_OUT = Family(family="quadratic", slow="out")
SLOW_IN = Family(family="quadratic", slow="in")
BOTH = Slow(out=50, into=50)


def rounded_key(values: Iterable[float], ease: Ease) -> Key:
    """A key with numbers as they are written."""
    return Key(value=tuple(round(float(v), 4) for v in values), ease=ease)


def moves(motion: Motion, channels: Iterable[str], frame: int, arriving: bool) -> dict[str, tuple[Floats, int, int]]:
    """For each channel that arrives at a frame, or leaves it, the change of its value and from when to when.

    Raises `Refusal` if none does.
    """
    found: dict[str, tuple[Floats, int, int]] = {}
    for id in channels:
        channel = motion.channels.get(id)
        if channel is None or frame not in channel.keys or channel.kind in CHOICES:
            continue
        row = sorted(f for f in channel.keys if f < motion.length)
        other = (
            max((f for f in row if f < frame), default=None)
            if arriving
            else min((f for f in row if f > frame), default=None)
        )
        if other is None:
            continue
        start, end = (other, frame) if arriving else (frame, other)
        change = np.array(channel.keys[end].value) - np.array(channel.keys[start].value)
        if np.any(change != 0):
            found[id] = change, start, end
    if not found:
        raise Refusal(
            f"Nothing {'arrives at' if arriving else 'leaves'} frame {frame + 1}.",
            where=motion.name,
            remedy="Choose the frame of a key that channels move to or from.",
        )
    return found
