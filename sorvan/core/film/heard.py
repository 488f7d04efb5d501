"""What is heard in a shot: what is placed in it, and what is said in the motions that its cast does."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from math import floor

from sorvan.core.model.documents import Documents
from sorvan.core.model.motion import Motion
from sorvan.core.model.shot import Shot, Span
from sorvan.core.shot.spans import goes_round, used
from sorvan.core.timing.rates import per_second
from sorvan.core.voice.mixing import Cue


def heard(documents: Documents, shot: Shot) -> list[Cue]:
    """The lines and effects of a shot, in its own time (seconds).

    What is placed on a motion is heard through its spans, in step with its mouths: in each round of it, from where
    the span begins until it ends; not where it is done faster, slower, backwards or held, and not of who is hidden.
    """
    rate = per_second(documents.production.rate)
    found = [Cue.of(placed) for placed in shot.sounds.values()]
    for member in shot.members().values():
        if not member.hidden:
            found += [cue for span in member.spans.values() for cue in _through(documents, span, rate)]
    return found


def _through(documents: Documents, span: Span, rate: Fraction) -> Iterator[Cue]:
    motion = documents.motion(span.motion)
    if not motion.sounds or span.speed != 100 or span.reverse or span.play == "hold":
        return
    for zero, begins, ends in _rounds(span, motion):
        for placed in motion.sounds.values():
            cue = Cue.of(placed).later(zero / float(rate), begins / float(rate), ends / float(rate))
            if cue.ends > max(cue.begins, cue.at):
                yield cue


def _rounds(span: Span, motion: Motion) -> Iterator[tuple[float, float, float]]:
    """The rounds that a span makes of its motion: where the motion's first frame would be in each, from where and up to
    where it goes on without starting over (frames of the shot)."""
    first, period = min(span.first, motion.length - 1), used(span, motion)
    if min(motion.length if span.stop is None else span.stop, motion.length) <= span.first:
        return  # The motion was shortened to before where the span begins in it: it stands there still.
    # Where the first round begins; there may be more before it that the span has gone on for.
    origin = span.start - span.skip
    if goes_round(span, motion):
        origin, first, period = origin - first, 0.0, float(motion.length)
    if span.play == "once":
        ends = span.end if span.stop is None else min(origin + period, span.end)
        yield origin - first, max(origin, span.start), ends
        return
    n = floor((span.start - origin) / period)
    while (begins := origin + n * period) < span.end:
        yield begins - first, max(begins, span.start), min(begins + period, span.end)
        n += 1
