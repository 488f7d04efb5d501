"""Spans: at which time of its motion a span is in each frame of the shot, and how much it counts there.

Times are frames, whole or in parts, as arrays. A span that repeats goes round its used part; one whole cycle goes
on and on, so that what the cycle carries on is carried on.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from sorvan.core.geometry import Floats
from sorvan.core.model.motion import Motion
from sorvan.core.model.shot import Span

Bools = NDArray[np.bool_]


def used(span: Span, motion: Motion) -> float:
    """How many frames of its motion a span uses."""
    stop = min(span.stop if span.stop is not None else motion.length, motion.length)
    return max(stop - min(span.first, motion.length - 1), 1.0)


def goes_round(span: Span, motion: Motion) -> bool:
    """Whether a span goes on through the seam of a whole cycle instead of starting over."""
    return span.play == "loop" and motion.cycle and span.stop is None


def begun_at(span: Span, frame: int) -> Span:
    """A span that begins at another frame of the shot, and does in all others what it did."""
    return span.changed(start=frame, skip=span.skip + frame - span.start)


def motion_times(span: Span, motion: Motion, times: Floats, last: float | None = None) -> Floats:
    """The times of the motion at these times of the shot. Before the span it stands at its begin, and from `last`
    on (its end, if not told) where it is then."""
    first, n = min(span.first, motion.length - 1), used(span, motion)
    since = np.clip(times, span.start, span.end - 1 if last is None else last) - span.start + span.skip
    t = since * (span.speed / 100)
    if span.play == "hold":
        return np.full(len(times), first)
    if span.play == "once":
        t = np.clip(t, 0, n - 1)
        return first + ((n - 1 - t) if span.reverse else t)
    if goes_round(span, motion):
        return first + (-t if span.reverse else t)
    t = t % n
    return first + (np.maximum(n - 1 - t, 0.0) if span.reverse else t)


def rounds(span: Span, motion: Motion) -> tuple[float, float] | None:
    """The first of a span's frames, counted from its begin, at which it begins its motion again, and after how many
    more it does once more; None for what is done once."""
    if span.play != "loop":
        return None
    rate = span.speed / 100
    whole = goes_round(span, motion)
    every = (motion.length if whole else used(span, motion)) / rate
    into = min(span.first, motion.length - 1) / rate if whole else 0.0
    gone = span.skip - into if span.reverse else span.skip + into
    return every - gone % every, every


def smooth(u: Floats) -> Floats:
    """From 0 to 1 without a jerk at either end."""
    u = np.clip(u, 0.0, 1.0)
    return u * u * (3 - 2 * u)


@dataclass(frozen=True, eq=False)
class When:
    """Some of the shot's times, `at`: at which times a motion is then, and how much it counts over what lies below
    (0 to 1)."""

    at: slice
    times: Floats
    weight: Floats

    def same(self, other: When) -> bool:
        """Whether both say the same."""
        alike = self.at == other.at and np.array_equal(self.times, other.times)
        return alike and np.array_equal(self.weight, other.weight)


@dataclass(frozen=True)
class SpanLayer:
    """A span with its motion, and when it does what."""

    span: Span
    motion: Motion
    when: When


def lowest(spans: Iterable[tuple[Span, Motion]], times: Floats) -> list[SpanLayer]:
    """The spans of the lowest row, one after the other. The first counts from the beginning of the shot, where it
    stands before its begin; each goes on until the next has come in, and the last to the end."""
    row = sorted((s for s in spans if s[0].row == 0), key=lambda s: (s[0].start, s[0].id))
    found: list[SpanLayer] = []
    for n, (span, motion) in enumerate(row):
        after = row[n + 1][0] if n + 1 < len(row) else None
        done = span.done if n and row[n - 1][0].end == span.start else 0
        begin = 0 if n == 0 else _begin(span, times, done)
        stop, last = len(times), None
        if after is not None and after.done and after.start == span.end:
            # What it goes on from ends where it begins; what lies below that stays until both have come in.
            stop = int(np.searchsorted(times, after.start))
        elif after is not None:
            stop = int(np.searchsorted(times, after.start + after.blend))
        if after is not None and not after.done and after.start <= span.end:
            # It goes on while the next comes in, also between the last frame that it counts in and the one after.
            last = max(after.start + after.blend, span.start)
        at = slice(begin, max(stop, begin))
        own = times[at]
        weight = np.ones(len(own)) if n == 0 else smooth((own - span.start + done + 1) / (span.blend + 1))
        found.append(SpanLayer(span, motion, When(at, motion_times(span, motion, own, last), weight)))
    return found


def _begin(span: Span, times: Floats, done: int = 0) -> int:
    """Where among the times a span begins; what comes in begins to do so right after the frame before."""
    comes = span.blend and not done
    return int(np.searchsorted(times, span.start - 1, side="right") if comes else np.searchsorted(times, span.start))


def upper(spans: Iterable[tuple[Span, Motion]], times: Floats) -> list[SpanLayer]:
    """The spans of the rows above, from the lower to the higher, each in its own frames only."""
    spans = list(spans)
    ends, starts = {(s.row, s.end) for s, _ in spans}, {(s.row, s.start) for s, _ in spans}
    found: list[SpanLayer] = []
    for span, motion in sorted((s for s in spans if s[0].row), key=lambda s: (s[0].row, s[0].start, s[0].id)):
        done = span.done if (span.row, span.start) in ends else 0
        at = slice(_begin(span, times, done), int(np.searchsorted(times, span.end)))
        own = times[at]
        weight = smooth((own - span.start + done + 1) / (span.blend + 1))
        if span.out:
            left = span.left if (span.row, span.end) in starts else 0
            weight = weight * smooth((span.end + left - own) / (span.out + 1))
        found.append(SpanLayer(span, motion, When(at, motion_times(span, motion, own, span.end), weight)))
    return found


def poses_at(layers: Iterable[SpanLayer], times: Floats) -> Bools:
    """At which of the shot's times somebody strikes a pose: a card or, where there is none, a key of the motion
    that counts there, or the begin of a span."""
    found = np.zeros(len(times), dtype=bool)
    for layer in layers:
        motion = layer.motion
        keyed = sorted(motion.poses) or sorted({f for c in motion.channels.values() for f in c.keys})
        starts = np.array([f for f in keyed if f < motion.length] or [0])
        own = np.floor(layer.when.times + 1e-6)
        rounds, into = np.divmod(own, motion.length)
        card = rounds * len(starts) + np.searchsorted(starts, into, side="right")
        found[layer.when.at] |= np.concatenate([[True], np.diff(card) != 0])[: len(own)]
    return found


def held(poses: Bools) -> NDArray[np.int32]:
    """For each time the newest at which a pose was struck."""
    found: NDArray[np.int32] = np.maximum.accumulate(np.where(poses, np.arange(len(poses)), 0)).astype(np.int32)
    return found
