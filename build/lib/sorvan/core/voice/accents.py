"""The rest of the face: which words bear an accent, and when somebody who speaks blinks."""

from __future__ import annotations

import math
import random
from collections.abc import Sequence
from dataclasses import dataclass

from sorvan.core.model.voice import Voice, Word, ends
from sorvan.core.voice.phonemes import sound

APART = 0.5
"""Seconds between two accents at least."""
QUIET = 1.35
"""How many times more seldom somebody blinks who speaks (Bentivoglio et al. 1997 find the reverse in talk with
others; on a stage eyes stay open for the line and shut at its pauses)."""


@dataclass(frozen=True)
class Accent:
    """A word that bears an accent: where its stressed vowel begins (seconds of the line), and how strong (0 to 1).
    A rising one ends a question."""

    at: float
    size: float
    word: str
    rises: bool = False


@dataclass(frozen=True)
class _Heard:
    word: Word
    at: float
    weight: float
    rises: bool


def accents(voice: Voice) -> tuple[Accent, ...]:
    """The words of a line that bear an accent, the strongest first chosen, none within half a second of another.

    A word weighs by how long its sounds are beside the line's, how loud its strongest vowel is, and whether that
    bears a stress; words of one or two sounds weigh little. What the hand says of a word holds.
    """
    found = [h for h in _heard(voice) if h.word.accent is not False]
    asked = [h for h in found if h.word.accent]
    wanted = sorted((h for h in found if h.word.accent is None), key=lambda h: (-h.weight, h.at))
    top = max((h.weight for h in found), default=1.0) or 1.0
    chosen = list(asked)
    for heard in wanted:
        if heard.weight >= 0.45 * top and all(abs(heard.at - c.at) >= APART for c in chosen):
            chosen.append(heard)
    return tuple(
        Accent(h.at, round(min(max(h.weight / top, 0.3), 1.0), 3), h.word.text, h.rises)
        for h in sorted(chosen, key=lambda h: h.at)
    )


def _heard(voice: Voice) -> list[_Heard]:
    phones = ends(voice.chart.phones, voice.seconds)
    lengths = sorted(end - p.start for _, p, end in phones if sound(p.label).kind != "pause")
    usual = lengths[len(lengths) // 2] if lengths else 0.1
    asks = voice.text.rstrip().endswith("?")
    found: list[_Heard] = []
    words = [w for w in ends(voice.chart.words, voice.seconds) if w[1].text]
    n = 0
    for _, word, end in words:
        while n < len(phones) and phones[n][2] <= word.start + 1e-6:
            n += 1
        own, k = [], n
        while k < len(phones) and phones[k][1].start < end - 1e-6:
            own.append(phones[k])
            k += 1
        vowels = [(p, e) for _, p, e in own if sound(p.label).kind == "vowel"]
        if not vowels:
            continue
        best, _ = max(vowels, key=lambda v: (sound(v[0].label).stress == 1, v[0].loud * (v[1] - v[0].start)))
        stress = 1.0 if any(sound(p.label).stress == 1 for p, _ in vowels) else 0.7
        length = min((end - word.start) / max(len(own), 1) / usual, 2.0)
        size = min(len(own), 5) / 5
        weight = best.loud * stress * (0.4 + 0.6 * size) * (0.6 + 0.4 * length)
        found.append(_Heard(word, best.start, weight, asks and word is words[-1][1]))
    return found


def blink_times(
    voice: Voice | None, at: float, start: float, end: float, beat: float, uneven: float, seed: int
) -> list[float]:
    """When somebody blinks between two times (seconds), on an irregular rhythm about a `beat` that a seed
    fixes; with a line placed `at`, seldom while it is spoken, and drawn to its pauses.

    No two blinks come within half a second.
    """
    chance = random.Random(seed)
    pauses = _pauses(voice, at) if voice is not None else []
    found: list[float] = []
    now = start + beat * 0.5
    while now < end:
        when = now
        if voice is not None and _speaking(voice, when - at):
            near = [p for p in pauses if abs(p - when) <= beat * 0.45]
            when = min(near, key=lambda p: abs(p - when)) if near else when + beat * (QUIET - 1)
        if start <= when < end and (not found or when - found[-1] >= 0.5):
            found.append(when)
        now = max(now, when) + max(beat * math.exp(uneven * chance.uniform(-0.8, 0.8)), 0.5)
    return found


def _pauses(voice: Voice, at: float) -> list[float]:
    """Where pauses of at least a sixth of a second begin (seconds of the motion)."""
    row = ends(voice.chart.phones, voice.seconds)
    return [at + p.start for _, p, end in row if not p.label and end - p.start >= 1 / 6]


def _speaking(voice: Voice, time: float) -> bool:
    row: Sequence[tuple[str, object, float]] = ends(voice.chart.phones, voice.seconds)
    return any(p.start <= time < end and bool(p.label) for _, p, end in row)  # type: ignore[attr-defined]
