"""What is heard, as a track of looks: each sound with the mouth it takes, bent by its neighbours.

Each sound pulls at its neighbours with its own strength, rising before and falling after it, as in the model of
Cohen and Massaro (Modeling coarticulation in synthetic visual speech, 1993) after Löfqvist (Speech as audible
gestures, 1990). Rounding reaches ahead, over two consonants and no farther. Lips that meet or touch the teeth
are never overruled.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from sorvan.core.model.puppet import Mouth, MouthChart
from sorvan.core.model.voice import Phone, Voice, ends
from sorvan.core.voice.mouths import override, taken_by
from sorvan.core.voice.phonemes import LOOKS, Look, SoundKind, sound

Looks = NDArray[np.float64]
SHORT_PAUSE = 0.15
"""Seconds: a pause shorter than this keeps the mouth that was there."""

WEIGHT: dict[SoundKind, float] = {"pause": 1.0, "closure": 4.0, "contact": 3.0, "consonant": 0.7, "vowel": 1.4}
"""How much a frame of each kind of sound matters; a stressed vowel counts twice."""
PULL: dict[SoundKind, float] = {"pause": 0.2, "closure": 1.2, "contact": 1.0, "consonant": 0.6, "vowel": 1.0}
"""How strongly each kind of sound pulls at its neighbours (Cohen and Massaro's α)."""
ROUNDED_PULL = 2.5
OWN_VOWEL, OWN_CONSONANT = 0.8, 0.6
"""How much of a sound's own look is kept against its neighbours' pull."""
AHEAD, BEHIND = 10.0, 16.0
"""How fast a pull fades (a second), before and after its sound; ahead it reaches farther."""


@dataclass(frozen=True)
class ExposureSettings:
    """How a line is exposed. `lead`: frames by which mouths are ahead of the sound, fractions allowed.
    `hold`: frames that a mouth stays at least. `twos`: changes on every second frame. `strength`: how
    wide mouths open (percent)."""

    lead: float = 1.5
    hold: int = 2
    twos: bool = False
    strength: float = 100.0


@dataclass(frozen=True)
class Beat:
    """A stretch of one mouth in the chart: a sound, or one half of a diphthong. Times in frames, the lead
    taken off; `mouth` is the one the set gives to it, `target` what is heard."""

    start: float
    end: float
    label: str
    kind: SoundKind
    mouth: Mouth
    target: Look
    weight: float
    stress: int = 0
    told: bool = False


def beats(voice: Voice, chart: MouthChart, at: float, rate: float, settings: ExposureSettings) -> tuple[Beat, ...]:
    """The stretches of a line placed `at` so many seconds, without its short pauses. `rate`: frames a second."""
    found: list[Beat] = []
    for _, phone, end in ends(voice.chart.phones, voice.seconds):
        begin, stop = (at + phone.start) * rate - settings.lead, (at + end) * rate - settings.lead
        heard = sound(phone.label)
        if heard.kind == "pause" and end - phone.start < SHORT_PAUSE and found:
            found[-1] = replace(found[-1], end=stop)
            continue
        taken = taken_by(chart, phone.label)
        told = override(chart, phone.label) is not None
        groups = heard.mouths if not told else ((None, 1.0),)
        here = begin
        for (mouth, share), (group, _) in zip(taken, groups, strict=False):
            until = here + (stop - begin) * share
            look = Look(*mouth.look) if group is None else _spoken(LOOKS[group], phone, settings)
            weight = WEIGHT[heard.kind] * (2.0 if heard.stress == 1 else 1.4 if heard.stress == 2 else 1.0)
            found.append(Beat(here, until, phone.label, heard.kind, mouth, look, weight, heard.stress, told))
            here = until
    return tuple(found)


def _spoken(look: Look, phone: Phone, settings: ExposureSettings) -> Look:
    """A sound's look as it is said here: an unstressed vowel one size down, a quiet one less open."""
    heard = sound(phone.label)
    if heard.kind != "vowel":
        return look
    size = (1.0 if heard.stress else 0.8) * (0.65 + 0.35 * phone.loud) * settings.strength / 100
    return look._replace(opening=min(look.opening * size, 1.0))


def heard_looks(row: Sequence[Beat], times: NDArray[np.float64], rate: float) -> Looks:
    """What is heard at these times (frames), each sound pulling at its neighbours: times × five."""
    if not row:
        return np.tile(np.array(LOOKS["rest"]), (len(times), 1))
    starts, stops = np.array([b.start for b in row]), np.array([b.end for b in row])
    looks = np.array([b.target for b in row])
    pull = np.array([PULL[b.kind] for b in row])
    rounds = pull * np.where(looks[:, 2] > 0.5, ROUNDED_PULL, 1.0)
    found = np.empty((len(times), 5))
    own = np.clip(np.searchsorted(starts, times, side="right") - 1, 0, len(row) - 1)
    # Sounds farther away than three on either side pull with less than can be seen.
    near = np.clip(own[:, None] + np.arange(-3, 4)[None, :], 0, len(row) - 1)
    fresh = np.diff(near, axis=1, prepend=-1) != 0
    before = np.maximum(starts[near] - times[:, None], 0) / rate
    after = np.maximum(times[:, None] - stops[near], 0) / rate
    fade = np.exp(-AHEAD * before - BEHIND * after) * fresh
    # Rounding reaches over two consonants and no farther; a pause cuts every pull.
    for n in range(5):
        weights = fade * (rounds if n in (1, 2) else pull)[near]
        total = weights.sum(axis=1)
        found[:, n] = (weights * looks[near, n]).sum(axis=1) / np.maximum(total, 1e-12)
    firm = np.array([b.kind in ("closure", "contact", "pause") or b.told for b in row])[own]
    found[firm] = looks[own[firm]]
    _relaxed(found, row, own, times, looks)
    # A vowel is what it is: its neighbours bend it only a little. A consonant leaves its lips to them, and keeps
    # more of its jaw, teeth and tongue.
    vowel = np.array([b.kind == "vowel" for b in row])[own] & ~firm
    found[vowel] = OWN_VOWEL * looks[own[vowel]] + (1 - OWN_VOWEL) * found[vowel]
    other = np.flatnonzero(~vowel & ~firm)
    for n in (0, 3, 4):
        found[other, n] = OWN_CONSONANT * looks[own[other], n] + (1 - OWN_CONSONANT) * found[other, n]
    return found


RELAX, RELAXED = 1.4, 0.65
"""Frames over which a mouth relaxes into a pause and gets ready out of one, and how much of it is left at the edge."""


def _relaxed(
    found: Looks, row: Sequence[Beat], own: NDArray[np.int64], times: NDArray[np.float64], looks: Looks
) -> None:
    """Let a pause begin and end with something of the mouths around it."""
    for n, beat in enumerate(row):
        if beat.kind != "pause":
            continue
        inside = np.flatnonzero(own == n)
        for other, away in ((n - 1, times[inside] - beat.start), (n + 1, beat.end - times[inside])):
            if 0 <= other < len(row):
                part = RELAXED * np.exp(-np.maximum(away, 0) / RELAX)[:, None]
                found[inside] = (1 - part) * found[inside] + part * looks[other]
