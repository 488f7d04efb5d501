"""What is heard on a motion: its lines mixed, each placed to the sample."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from fractions import Fraction

import numpy as np

from sorvan.core.model.voice import SOUND_RATE, Placed
from sorvan.core.voice.warp import Samples


@dataclass(frozen=True)
class Cue:
    """A line that is heard: it begins at `at`, and of it what lies from `begins` up to `ends` (seconds)."""

    placed: Placed
    at: float
    begins: float = -math.inf
    ends: float = math.inf

    @classmethod
    def of(cls, placed: Placed) -> Cue:
        """A line as it is placed, all of it."""
        return cls(placed, placed.at)

    def later(self, seconds: float, begins: float = -math.inf, ends: float = math.inf) -> Cue:
        """The same so many seconds later, and of that what lies between."""
        return replace(
            self,
            at=self.at + seconds,
            begins=max(self.begins + seconds, begins),
            ends=min(self.ends + seconds, ends),
        )


def gain(level: float) -> float:
    """The factor of a level in decibels."""
    return float(10 ** (level / 20))


def faded(samples: Samples, fade_in: float, fade_out: float) -> Samples:
    """Samples that grow from nothing and die away over so many seconds, evenly."""
    count = len(samples)
    shape = np.ones(count, dtype=np.float32)
    for seconds, at_end in ((fade_in, False), (fade_out, True)):
        size = min(round(seconds * SOUND_RATE), count)
        if size:
            ramp = (np.arange(size, dtype=np.float32) + 0.5) / size
            if at_end:
                shape[count - size :] *= ramp[::-1]
            else:
                shape[:size] *= ramp
    return samples * shape[:, None]


def mixed(
    cues: Iterable[Cue], samples_of: Callable[[str], Samples], start: int, stop: int, rate: Fraction
) -> Samples | None:
    """What is heard from frame `start` up to `stop`: samples × 2, to the sample; None if nothing is.

    A line begins at the sample nearest to its time; frames last `1 / rate` seconds exactly. `samples_of` gives
    the samples of a line by its id. What is louder than full scale is bent back below it, softly.
    """
    heard = [c for c in cues if not c.placed.mute]
    length = round((stop - start) / rate * SOUND_RATE)
    if not heard or length <= 0:
        return None
    begins = start / rate
    found = np.zeros((length, 2), dtype=np.float32)
    any_heard = False
    for cue in heard:
        line = cue.placed
        own = faded(samples_of(line.voice), line.fade_in, line.fade_out) * np.float32(gain(line.level))
        at = round((Fraction(cue.at) - begins) * SOUND_RATE)
        first, last = max(at, 0), min(at + len(own), length)
        if math.isfinite(cue.begins):
            first = max(first, round((Fraction(cue.begins) - begins) * SOUND_RATE))
        if math.isfinite(cue.ends):
            last = min(last, round((Fraction(cue.ends) - begins) * SOUND_RATE))
        if last > first:
            any_heard = True
            part = own[first - at : last - at]
            found[first:last] += part if part.shape[1] == 2 else np.repeat(part, 2, axis=1)
    return limited(found) if any_heard else None


KNEE = 0.9
"""Of full scale: what stays under this is left exactly as it is."""


def limited(samples: Samples) -> Samples:
    """Samples that never pass full scale: what is above the knee is pressed into what is left."""
    size = np.abs(samples)
    if float(size.max(initial=0)) <= KNEE:
        return samples
    over = np.maximum(size - KNEE, 0)
    pressed = np.minimum(size, KNEE) + (1 - KNEE) * np.tanh(over / (1 - KNEE))
    return (np.sign(samples) * pressed).astype(np.float32)
