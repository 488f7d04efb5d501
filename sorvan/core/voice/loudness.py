"""What loudness and the colour of a sound tell without knowing a word: pauses, and roughly how open a mouth is."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from sorvan.core.model.voice import Chart, ends
from sorvan.core.voice.warp import RATE, Samples

HOP = 0.01
"""Seconds between two measures."""
FLOOR = -100.0
SILENT = -62.0
"""Decibels of full scale under which nothing is heard at all."""


def levels(mono: Samples, rate: int = RATE) -> NDArray[np.float64]:
    """The level of each 10 ms (decibels of full scale), the middle of 20 ms taken."""
    hop, size = round(HOP * rate), round(2 * HOP * rate)
    padded = np.pad(mono.astype(np.float64) ** 2, (hop // 2, size))
    total = np.concatenate([[0.0], np.cumsum(padded)])
    count = -(-len(mono) // hop)
    starts = np.arange(count) * hop
    power = (total[starts + size] - total[starts]) / size
    found: NDArray[np.float64] = np.maximum(10 * np.log10(np.maximum(power, 1e-10)), FLOOR)
    return found


@dataclass(frozen=True)
class Loudness:
    """The levels of a sound (decibels, every 10 ms), the level of its speech, and that of its background, and
    whether that is even noise."""

    level: NDArray[np.float64]
    speech: float
    quiet: float
    even: bool = False

    @property
    def threshold(self) -> float:
        """Between speech and background: what is louder is speech. A background of noise is even; where the
        quietest tenth is not, there is hardly a pause, and speech reaches down to 30 dB under the loudest."""
        if self.even:
            return max(SILENT, self.quiet + min(6.0, 0.45 * (self.speech - self.quiet)))
        return max(SILENT, min(self.quiet + 10.0, self.speech - 30))

    def between(self, start: float, end: float) -> float:
        """The level of a stretch (seconds): that of its middle measure, so that its neighbours do not count."""
        row = self.level[round(start / HOP) : max(round(end / HOP), round(start / HOP) + 1)]
        return float(np.median(row)) if len(row) else FLOOR

    def part(self, start: float, end: float) -> float:
        """How loud a stretch is beside the loudest of the sound, from 0 (30 dB less) to 1."""
        return float(np.clip(1 + (self.between(start, end) - self.speech) / 30, 0, 1))


def loudness(mono: Samples, rate: int = RATE) -> Loudness:
    """How loud a sound is over time. Speech is what its loudest twentieth reaches, background its quietest tenth."""
    level = levels(mono, rate)
    low, quiet, less, speech = (float(v) for v in np.percentile(level, (2, 8, 14, 95)))
    return Loudness(level, speech, quiet, less - low < 4 and quiet > SILENT)


def silent(heard: Loudness) -> bool:
    """Whether nothing is to be heard throughout."""
    return heard.speech < SILENT


def with_loudness(chart: Chart, heard: Loudness, seconds: float) -> Chart:
    """The chart with how loud each sound is, for a recording that lasts so many seconds."""
    phones = {
        id: p.changed(loud=round(heard.part(p.start, end), 3) if p.label else 0.0)
        for id, p, end in ends(chart.phones, seconds)
    }
    return chart.changed(phones=phones)


NEAR = 8
"""Steps of 10 ms on both sides within which a dip is louder again."""
CLOSED, HALF, OPEN, TEETH = "m", "ə", "a", "s"
"""The sounds that stand for a closed, a half open and an open mouth, and for a hiss."""


def rough(mono: Samples, rate: int = RATE, shortest: float = 0.05) -> list[tuple[float, str]]:
    """Mouth timing without a text: where it begins (seconds) and the sound that stands for it; empty for a pause.

    Louder is more open. What hisses, so that its energy lies high, shows teeth; a dip between two louder
    stretches closes the lips. No stretch is shorter than `shortest` seconds.
    """
    heard = loudness(mono, rate)
    if silent(heard):
        return [(0.0, "")]
    smooth = np.convolve(np.pad(heard.level, 1, mode="edge"), np.ones(3) / 3, mode="valid")
    under = heard.speech - smooth
    kinds = np.where((smooth < heard.threshold) | (under > 34), 0, np.where(under > 11, 1, 2))
    kinds = np.where((kinds > 0) & (_hiss(mono, rate, len(under)) > 0.6), 3, kinds)
    near = np.lib.stride_tricks.sliding_window_view(np.pad(under, NEAR, mode="edge"), NEAR)
    before, after = near[: len(under)].min(axis=1), near[NEAR + 1 :].min(axis=1)
    dips = under > np.maximum(before, after) + 9
    kinds = np.where(dips & (kinds != 3), 4, kinds)
    names = ("", HALF, OPEN, TEETH, CLOSED)
    return [(round(n * HOP, 3), names[kind]) for n, kind in _runs(kinds, round(shortest / HOP))]


def _hiss(mono: Samples, rate: int, count: int) -> NDArray[np.float64]:
    """The part of the energy above 3.5 kHz, every 10 ms."""
    hop, size = round(HOP * rate), round(2 * HOP * rate)
    padded = np.pad(mono.astype(np.float64), (hop // 2, 2 * size))
    frames = np.lib.stride_tricks.sliding_window_view(padded, size)[::hop][:count]
    power = np.abs(np.fft.rfft(frames * np.hanning(size), axis=1)) ** 2
    high = np.fft.rfftfreq(size, 1 / rate) > 3500
    found: NDArray[np.float64] = power[:, high].sum(axis=1) / np.maximum(power.sum(axis=1), 1e-12)
    return found


def _runs(kinds: NDArray[np.int64], least: int) -> list[tuple[int, int]]:
    """Where each kind begins; a run shorter than `least` joins the one before it."""
    cuts = [0, *(int(c) for c in np.flatnonzero(np.diff(kinds)) + 1)]
    found: list[tuple[int, int]] = []
    for n, cut in enumerate(cuts):
        end = cuts[n + 1] if n + 1 < len(cuts) else len(kinds)
        if end - cut < least and found:
            continue
        if not found or found[-1][1] != int(kinds[cut]):
            found.append((cut, int(kinds[cut])))
    return found
