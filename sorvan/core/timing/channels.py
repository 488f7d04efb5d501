"""A channel's value at every frame at once."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from sorvan.core.geometry import Floats
from sorvan.core.model.motion import NEUTRAL, Channel, Hold, Key
from sorvan.core.timing.eases import spacing

HOLD = Hold()


@dataclass(frozen=True)
class Gap:
    """The frames from one key up to the next, and how they are spaced."""

    start: int
    end: int
    progress: Floats


def keys_in_order(channel: Channel, length: int, cycle: bool) -> list[tuple[int, Key]]:
    """The keys that play, by frame; a cycle comes round to its first key again at the end."""
    keys = sorted((f, k) for f, k in channel.keys.items() if not cycle or f < length)
    if cycle and keys:
        keys.append((keys[0][0] + length, keys[0][1]))
    return keys


def gaps(channel: Channel, length: int, cycle: bool, blocking: bool = False) -> list[Gap]:
    """Every gap between keys, with the progress 0…1 of each of its frames."""
    keys = keys_in_order(channel, length, cycle)
    return [
        Gap(start, end, spacing(HOLD if blocking else key.ease, end - start))
        for (start, key), (end, _) in pairwise(keys)
    ]


def evaluate(channel: Channel, length: int, cycle: bool, blocking: bool = False) -> Floats:
    """The channel's value at frames 0…length-1, shape `(numbers, length)`.

    `blocking` plays every gap as a hold. Outside its keys the channel does what `outside`
    says; in a cycle there is no outside, since the keys lie on a ring.
    """
    keys = keys_in_order(channel, length, cycle)
    if not keys:
        return np.repeat(np.array(NEUTRAL[channel.kind])[:, None], length, axis=1)
    values = np.array([k.value for _, k in keys], dtype=np.float64).T
    return _outside(channel, _between(keys, values, blocking), values, keys[0][0], length, cycle)


def _between(keys: list[tuple[int, Key]], values: Floats, blocking: bool) -> Floats:
    """Values from the first key's frame to the last's, both included."""
    spans = [end - start for (start, _), (end, _) in pairwise(keys)]
    eases = [HOLD if blocking else key.ease for _, key in keys]
    progress = np.concatenate([*(spacing(e, n) for e, n in zip(eases, spans, strict=False)), [0.0]])
    # The last key closes the stretch as a gap of one frame that leads nowhere.
    gap = np.repeat(np.arange(len(keys)), [*spans, 1])
    steps = np.diff(values, axis=1, append=values[:, -1:])
    return values[:, gap] + progress * steps[:, gap]


def _outside(channel: Channel, table: Floats, values: Floats, first: int, length: int, cycle: bool) -> Floats:
    """The table carried over frames 0…length-1 by the channel's rule for outside its keys."""
    period = table.shape[1] - 1
    if first == 0 and length <= table.shape[1]:
        return table[:, :length]
    since = np.arange(-first, length - first)
    if cycle:
        return table[:, since % length]
    if channel.outside == "hold" or period == 0:
        return table[:, np.minimum(np.maximum(since, 0), period)]
    rounds, into = np.divmod(since, period)
    # The last key's own frame belongs to the round it closes, so that playing exactly the
    # keyed stretch shows the last key; from there on it is the first frame of the next round.
    closing = since == period
    rounds, into = np.where(closing, 0, rounds), np.where(closing, period, into)
    if channel.outside == "back-and-forth":
        into = np.where(rounds % 2 == 1, period - into, into)
    result = table[:, into]
    if channel.outside == "repeat-and-add":
        result = result + rounds * (values[:, -1] - values[:, 0])[:, None]
    return result
