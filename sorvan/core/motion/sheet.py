"""Keys on the sheet, many at once: scaled in time, reversed, copied, baked and thinned."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from itertools import pairwise
from math import ceil

import numpy as np

from sorvan.core.geometry import Floats
from sorvan.core.model.channel import Channel, Key, Tangents
from sorvan.core.model.channels import CHOICES
from sorvan.core.model.ease import Bezier, Even, Family, Hold, Slow, SpacingChart
from sorvan.core.timing.channels import evaluate, keys_in_order
from sorvan.core.timing.eases import AnEase

KeysChosen = Mapping[str, Collection[int]]
"""Frames of chosen keys by channel."""


def backwards(ease: AnEase) -> AnEase:
    """The ease of a gap that is played from its end to its start."""
    match ease:
        case Slow():
            return Slow(out=ease.into, into=ease.out)
        case Bezier():
            return Bezier(x1=1 - ease.x2, y1=1 - ease.y2, x2=1 - ease.x1, y2=1 - ease.y1)
        case Family():
            turned = {"out": "in", "in": "out", "both": "both"}
            return ease.changed(slow=turned[ease.slow])
        case SpacingChart():
            return SpacingChart(ticks=tuple((1 - t, 1 - p) for t, p in reversed(ease.ticks)))
        case Even() | Hold():
            return ease


def span(chosen: KeysChosen) -> tuple[int, int]:
    """The first and last of all chosen frames."""
    frames = [f for own in chosen.values() for f in own]
    return min(frames), max(frames)


def reversed_keys(channel: Channel, frames: Collection[int], start: int, end: int) -> dict[int, Key]:
    """A channel's chosen keys laid from end to start of a span, the eases between them turned round.

    The gap after the last chosen key keeps the ease that it had.
    """
    row = sorted(frames)
    found: dict[int, Key] = {}
    for i, frame in enumerate(row):
        key = channel.keys[frame]
        # Reversed, this key's gap is the one that led up to it.
        led = channel.keys[row[i - 1]]
        ease = backwards(led.ease) if i else led.ease
        found[start + end - frame] = key.by_hand(ease=ease, tangents=_turned(key), change=led.change)
    return found


def _turned(key: Key) -> Tangents | None:
    held = key.tangents
    return None if held is None else held.changed(before=held.after, after=held.before)


def baked(channel: Channel, length: int, cycle: bool, start: int, end: int, every: int) -> Channel:
    """Keys at every n-th frame from start to end (included), at what the channel holds there, its delay
    written in; what is held is held as long as it was. Outside the stretch a delay of whole frames moves the keys; else
    every frame is keyed."""
    held = channel.kind in CHOICES
    values = evaluate(channel, length, cycle)
    if channel.delay and (start > 0 or end < length - 1):
        start, end = 0, length - 1
    still = _holds(channel, length, cycle)
    edges = {f % length for hold in still for f in hold}
    frames = sorted({*range(start, end + 1, every), end, *(f for f in edges if start <= f <= end)})
    keys = {f: k for f, k in channel.keys.items() if not start <= f <= end and not channel.delay}
    if channel.delay and length in channel.keys:
        keys[length] = channel.keys[length]
    for f in frames:
        known = channel.keys.get(f)
        value = tuple(float(v) for v in values[:, f])
        within = any(first <= g < stop for first, stop in still for g in (f, f + length))
        ease: AnEase = Hold() if held or within else Even()
        keys[f] = (
            known.by_hand(value=value, ease=ease, change=None, tangents=None) if known else Key(value=value, ease=ease)
        )
    return channel.changed(keys=keys, delay=0.0)


def _holds(channel: Channel, length: int, cycle: bool) -> list[tuple[int, int]]:
    """The stretches in which a channel is held, from the first frame up to the one in which it is not any more; in a cycle
    they may reach over its end."""
    late = channel.delay
    return [
        (ceil(start + late), ceil(end + late))
        for (start, key), (end, _) in pairwise(keys_in_order(channel, length, cycle))
        if isinstance(key.ease, Hold)
    ]


def delay_written(channel: Channel, length: int, cycle: bool) -> Channel:
    """The channel with its delay written into its keys: moved, if it is of whole frames and they all
    stay within the motion; else keyed at every frame."""
    by = channel.delay
    if by != int(by):
        return baked(channel, length, cycle, 0, length - 1, 1)
    moved = {f + int(by): k for f, k in channel.keys.items()}
    if cycle and length not in channel.keys:
        moved = {f % length: k for f, k in moved.items()}
    elif any(not 0 <= f < length for f in moved):
        return baked(channel, length, cycle, 0, length - 1, 1)
    return channel.changed(keys={f: k.by_hand() for f, k in moved.items()}, delay=0.0)


def fewest(values: Floats, frames: list[int], tolerance: float) -> list[int]:
    """The frames to keep so that straight lines between them miss no value by more than the tolerance.

    `values` `(numbers, frames)`. The first and the last stay; the farthest off is kept, and its two
    sides looked at likewise (Ramer 1972; Douglas and Peucker 1973), measured at each frame.
    """
    kept = {0, len(frames) - 1}
    waiting = [(0, len(frames) - 1)]
    at = np.array(frames, dtype=np.float64)
    while waiting:
        low, high = waiting.pop()
        if high - low < 2:
            continue
        share = (at[low + 1 : high] - at[low]) / (at[high] - at[low])
        line = values[:, low, None] + share * (values[:, high] - values[:, low])[:, None]
        off = np.abs(values[:, low + 1 : high] - line).max(axis=0)
        worst = int(np.argmax(off))
        if off[worst] > tolerance:
            middle = low + 1 + worst
            kept.add(middle)
            waiting += [(low, middle), (middle, high)]
    return sorted(kept)


def thinned(channel: Channel, length: int, cycle: bool, start: int, end: int, tolerance: float) -> Channel:
    """The fewest keys from start to end that come within the tolerance of what the channel holds now, at
    every frame of the stretch; even between them. A choice keeps a key wherever it changes; drawings that become
    others keep them all."""
    if any(k.change for f, k in channel.keys.items() if start <= f <= end):
        return channel
    still = channel.changed(delay=0.0) if channel.delay else channel
    values = evaluate(still, length, cycle)[:, start : end + 1]
    frames = [*range(start, end + 1)]
    if channel.kind in CHOICES:
        changes = np.flatnonzero(np.any(np.diff(values, axis=1) != 0, axis=0)) + 1
        left: list[int] = [0, *changes.tolist()]
        ease: AnEase = Hold()
    else:
        left = fewest(values, frames, tolerance)
        ease = Even()
    keys = {f: k for f, k in channel.keys.items() if not start <= f <= end}
    for i in left:
        known = channel.keys.get(frames[i])
        value = tuple(float(v) for v in values[:, i])
        fresh: AnEase = ease if frames[i] < end or known is None else known.ease
        keys[frames[i]] = (
            known.by_hand(value=value, ease=fresh, tangents=None) if known else Key(value=value, ease=fresh)
        )
    return channel.changed(keys=keys)
