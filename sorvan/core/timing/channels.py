"""A channel is a function of time: its value at any frames and parts of frames at once."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from sorvan.core.geometry import Floats
from sorvan.core.model.channel import Channel, Key, Outside
from sorvan.core.model.channels import CHOICES, NEUTRAL
from sorvan.core.model.ease import Hold
from sorvan.core.timing.eases import AnEase, progress, spacing
from sorvan.core.timing.paths import curves

HOLD = Hold()
Times = Floats | NDArray[np.int64]
"""Frames from 0 on, whole or with parts of a frame."""


@dataclass(frozen=True)
class Gap:
    """The frames from one key up to the next, and how they are spaced."""

    start: int
    end: int
    progress: Floats


def travels(channel: Channel, length: int, cycle: bool) -> bool:
    """Whether a channel in a cycle goes on from round to round, by what its key at the cycle's length says."""
    return cycle and channel.outside == "repeat-and-add" and length in channel.keys and 0 in channel.keys


def ends_of_travel(channel: Channel, length: int, cycle: bool) -> frozenset[int]:
    """The frames of the keys that say how far a channel goes on in each round of a cycle, if it does. They belong to no
    pose, and stay at the ends of the cycle whatever is moved."""
    return frozenset((0, length)) if travels(channel, length, cycle) else frozenset()


def keys_in_order(channel: Channel, length: int, cycle: bool) -> list[tuple[int, Key]]:
    """The keys that play, by frame; a cycle comes round to its first key again at the end."""
    last = length if travels(channel, length, cycle) else length - 1
    keys = sorted((f, k) for f, k in channel.keys.items() if not cycle or f <= last)
    if cycle and keys and keys[-1][0] < length:
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
    """The channel's value at frames 0…length-1, shape `(numbers, length)`."""
    return at(channel, np.arange(length), length, cycle, blocking)


def at(channel: Channel, times: Times, length: int, cycle: bool, blocking: bool = False) -> Floats:
    """The channel's value at these times (frames, whole or in parts), shape `(numbers, times)`.

    `blocking` plays every gap as a hold, and every key at its own frame without delay. Outside its
    keys the channel does what `before` and `outside` say; in a cycle of `length` frames the keys lie
    on a ring. A drawing or an order is chosen, never half chosen.
    """
    if channel.kind == "show" and not blocking and any(k.change for k in channel.keys.values()):
        return drawings_at(channel, times, length, cycle)[:1]
    line = _Line(channel, length, cycle, blocking or channel.kind in CHOICES)
    if not line.keys:
        return np.repeat(np.array(NEUTRAL[channel.kind])[:, None], len(times), axis=1)
    since, rounds = line.folded(_late(channel, times, blocking) - line.frames[0])
    values = line.on_frames(since) if since.dtype.kind == "i" else line.between_frames(since)
    if np.any(rounds):
        values = values + rounds * line.grown[:, None]
    return values


def drawings_at(channel: Channel, times: Times, length: int, cycle: bool, blocking: bool = False) -> Floats:
    """Of a `show` channel the number of the drawing at these times, that of the drawing it is becoming, and how far it
    has come, `(3, times)`. Where it is becoming none the two are the same, and it has come no way at all."""
    line = _Line(channel, length, cycle, held=True)
    if not line.keys:
        return np.repeat(np.array([NEUTRAL["show"][0], NEUTRAL["show"][0], 0.0])[:, None], len(times), axis=1)
    since, _ = line.folded(_late(channel, times, blocking) - line.frames[0])
    return line.choosing(since, blocking)


def _late(channel: Channel, times: Times, blocking: bool) -> Times:
    """The times seen by a channel that comes late."""
    delay = 0.0 if blocking else channel.delay
    return times - int(delay) if delay == int(delay) else np.subtract(times, delay, dtype=np.float64)


class _Line:
    """A channel's keys in a row, from the first key's frame to the last's."""

    def __init__(self, channel: Channel, length: int, cycle: bool, held: bool) -> None:
        found = keys_in_order(channel, length, cycle)
        self.channel, self.cycle = channel, cycle
        self.keys = [k for _, k in found]
        self.frames = np.array([f for f, _ in found], dtype=np.int64)
        if not found:
            return
        self.eases: list[AnEase] = [HOLD if held else k.ease for k in self.keys]
        self.values = np.array([k.value for k in self.keys], dtype=np.float64).T
        self.steps = np.diff(self.values, axis=1, append=self.values[:, -1:])
        self.period = int(self.frames[-1] - self.frames[0])
        self.travels = travels(channel, length, cycle)
        self.grown = self.values[:, -1] - self.values[:, 0]
        self.curves = {} if channel.kind != "move" else curves(self.keys, cycle and not self.travels)

    def folded(self, since: Times) -> tuple[Times, Times]:
        """Times since the first key brought to where the keys lie, and the rounds to be added there."""
        none = np.zeros(len(since), dtype=np.int64)
        if self.cycle:
            if self.travels:
                return since % self.period, since // self.period
            return (since % self.period if self.period else none), none
        after, before = self.channel.outside, self.channel.before or self.channel.outside
        if self.period == 0:
            return none, none
        inside, rounds = self._by_rule(after, since)
        if before != after:
            sooner, earlier = self._by_rule(before, since)
            inside, rounds = np.where(since < 0, sooner, inside), np.where(since < 0, earlier, rounds)
        return inside, rounds

    def _by_rule(self, outside: Outside, since: Times) -> tuple[Times, Times]:
        period, none = self.period, np.zeros(len(since), dtype=np.int64)
        if outside == "hold":
            return np.minimum(np.maximum(since, 0), period), none
        rounds, into = np.divmod(since, period)
        # The last key's own frame belongs to the round it closes, so that playing exactly the
        # keyed stretch shows the last key; from there on it is the first frame of the next round.
        closing = since == period
        rounds, into = np.where(closing, 0, rounds), np.where(closing, period, into)
        if outside == "back-and-forth":
            into = np.where(rounds % 2 == 1, period - into, into)
        return into, rounds if outside == "repeat-and-add" else none

    def on_frames(self, since: Times) -> Floats:
        """Values at whole frames since the first key, from a table of every frame from first to last key."""
        spans = np.diff(self.frames)
        parts = (spacing(e, int(n)) for e, n in zip(self.eases, spans, strict=False))
        done = np.concatenate([*parts, [0.0]])
        # The last key closes the stretch as a gap of one frame that leads nowhere.
        gap = np.repeat(np.arange(len(self.keys)), [*spans, 1])
        table = self._placed(gap, done)
        first_so_many = len(since) <= table.shape[1] and np.array_equal(since, np.arange(len(since)))
        return table[:, : len(since)] if first_so_many else table[:, since]

    def between_frames(self, since: Times) -> Floats:
        """Values at any times since the first key, up to the last."""
        time = since + self.frames[0]
        gap = np.clip(np.searchsorted(self.frames, time, side="right") - 1, 0, len(self.keys) - 1)
        spans = np.append(np.diff(self.frames), 1)
        share = (time - self.frames[gap]) / spans[gap]
        done = np.zeros(len(time))
        for i in np.unique(gap[gap < len(self.keys) - 1]):
            here = gap == i
            done[here] = progress(self.eases[i], share[here])
        return self._placed(gap, done)

    def choosing(self, since: Times, blocking: bool) -> Floats:
        """What is shown, what it is becoming, and how far it has come, at any times since the first key."""
        time = since + self.frames[0]
        gap = np.clip(np.searchsorted(self.frames, time, side="right") - 1, 0, len(self.keys) - 1)
        number = self.values[0, gap]
        becoming, come = number.copy(), np.zeros(len(time))
        for i in np.unique(gap[gap < len(self.keys) - 1]):
            change = None if blocking else self.keys[i].change
            if change not in ("cut", "morph"):
                continue
            here = gap == i
            share = (time[here] - self.frames[i]) / (self.frames[i + 1] - self.frames[i])
            done, after = progress(self.keys[i].ease, share), self.values[0, i + 1]
            if change == "cut":
                number[here] = becoming[here] = np.where(done >= 0.5, after, self.values[0, i])
            elif after != self.values[0, i]:
                becoming[here], come[here] = after, np.where(share > 0, done, 0.0)
        return np.stack([number, np.where(come == 0, number, becoming), come])

    def _placed(self, gap: NDArray[np.int64], done: Floats) -> Floats:
        """Values so far along these gaps; a place goes along the curve of its gap."""
        values = self.values[:, gap] + done * self.steps[:, gap]
        for i, curve in self.curves.items():
            here = np.flatnonzero((gap == i) & (done != 0))
            places = curve.along(done[here])
            values[0, here], values[1, here] = places.real, places.imag
        return values
