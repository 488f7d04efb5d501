"""What is heard in a shot: what is placed in it, and what is said in the motions that its cast does."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction

from sorvan.core.model.documents import Documents
from sorvan.core.model.shot import Shot, Span
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
    begins, ends = float(span.start / rate), float(span.end / rate)
    round_ = min(span.stop or motion.length, motion.length) - (
        0.0 if motion.cycle and span.stop is None else span.first
    )
    if round_ <= 0:
        # The motion was shortened to before where the span begins in it: it stands there still.
        return
    rounds = range(int((span.frames + span.skip) / round_) + 2) if span.play == "loop" else range(1)
    for n in rounds:
        # The first frame of the motion in this round, in the shot's own frames.
        start = span.start - span.skip - span.first + n * round_
        if start >= span.end:
            return
        for placed in motion.sounds.values():
            until = float((start + motion.length) / rate) if span.play == "loop" else ends
            cue = Cue.of(placed).later(float(start / rate), begins, min(ends, until))
            if cue.ends > max(cue.begins, cue.at):
                yield cue
