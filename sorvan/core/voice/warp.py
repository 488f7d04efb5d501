"""One saying of a text laid onto another: cepstra, and the path along which the two are most alike.

Mel-frequency cepstra follow Davis and Mermelstein (1980); dynamic time warping follows Sakoe and Chiba (1978)
with their symmetric steps, inside a band about the diagonal.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from sorvan.core.late import late

fft = late("scipy.fft")

Features = NDArray[np.float64]
Samples = NDArray[np.float32]
"""Sound, one number a sample, from -1 to 1."""
RATE = 16_000
"""Samples a second that cepstra are taken from."""
STEP = 0.005
"""Seconds between two cepstra."""
WINDOW = 0.025
COEFFICIENTS, FILTERS = 13, 26
LOWEST, HIGHEST = 80.0, 7600.0
FLOOR = 1e-6
BAND = 12.0
"""Seconds that the path may leave the diagonal at least; a tenth of the length, where that is more."""


@lru_cache(maxsize=4)
def _filters(size: int) -> NDArray[np.float64]:
    """Triangles evenly apart on the mel scale: filters × bins."""

    def mel(hertz: float) -> float:
        return 2595 * float(np.log10(1 + hertz / 700))

    places = 700 * (10 ** (np.linspace(mel(LOWEST), mel(HIGHEST), FILTERS + 2) / 2595) - 1)
    bins = np.fft.rfftfreq(size, 1 / RATE)
    rise = (bins[None, :] - places[:-2, None]) / (places[1:-1] - places[:-2])[:, None]
    fall = (places[2:, None] - bins[None, :]) / (places[2:] - places[1:-1])[:, None]
    return np.clip(np.minimum(rise, fall), 0, None)


def cepstra(mono: Samples) -> Features:
    """Thirteen cepstra and their slopes every 5 ms of a sound at 16,000 samples a second, each made to have no
    mean and a spread of one: steps × 26. Frame n stands for the time n · 5 ms."""
    size, hop = round(WINDOW * RATE), round(STEP * RATE)
    padded = np.pad(mono.astype(np.float64), (size // 2, size))
    emphasised = np.append(padded[0], padded[1:] - 0.97 * padded[:-1])
    count = len(mono) // hop + 1
    frames = np.lib.stride_tricks.sliding_window_view(emphasised, size)[: count * hop : hop][:count]
    power = np.abs(np.fft.rfft(frames * np.hamming(size), 512, axis=1)) ** 2
    energies = np.log(power @ _filters(512).T + FLOOR)
    found = fft.dct(energies, type=2, axis=1, norm="ortho")[:, :COEFFICIENTS]
    slopes = np.gradient(found, axis=0) if len(found) > 1 else np.zeros_like(found)
    both = np.concatenate([found, 2.0 * slopes], axis=1)
    spread = both.std(axis=0)
    result: Features = (both - both.mean(axis=0)) / np.where(spread > 1e-9, spread, 1.0)
    return result


@dataclass(frozen=True)
class Warp:
    """Which step of the second saying goes with each step of the first, and how unlike the two are there."""

    partner: NDArray[np.float64]
    cost: NDArray[np.float64]

    def at(self, seconds: float) -> float:
        """The time in the second saying that goes with a time of the first (seconds)."""
        return float(np.interp(seconds / STEP, np.arange(len(self.partner)), self.partner)) * STEP


HowFar = Callable[[float], None]
"""Called with how much of it is done, 0 to 1."""


def warped(a: Features, b: Features, tell: HowFar = lambda _: None) -> Warp:
    """The cheapest way along both sayings at once: each step goes on in one or in both; going on in both counts
    twice, so that no shape of path is cheaper by itself. Long ones are laid roughly first."""
    if len(a) <= LONG:
        middle = np.arange(len(a)) * ((len(b) - 1) / max(len(a) - 1, 1))
        return _warped(a, b, middle, max(round(BAND / STEP), abs(len(a) - len(b))), tell)
    rough = roughly(a, b)
    times = np.arange(len(a)) / COARSE
    middle = np.interp(times, np.arange(len(rough.partner)) + 0.5, (rough.partner + 0.5) * COARSE)
    return _warped(a, b, middle, round(NARROW / STEP), tell)


def roughly(a: Features, b: Features) -> Warp:
    """The same, eight steps at a time."""
    few, fewer = _coarse(a), _coarse(b)
    middle = np.arange(len(few)) * ((len(fewer) - 1) / max(len(few) - 1, 1))
    band = max(round(BAND / STEP / COARSE), len(few) // 10, abs(len(few) - len(fewer)))
    return _warped(few, fewer, middle, band)


def likeness(a: Features, b: Features) -> tuple[float, NDArray[np.float64]]:
    """How unlike two sayings are beside how unlike the first is to the second said backwards, whose sounds are
    the same but mean nothing: well under 1 for the same text, about 1 for another; and the same for every 40 ms."""
    told, chance = roughly(a, b), roughly(a, b[::-1])
    usual = float(chance.cost.mean()) or 1.0
    return float(told.cost.mean()) / usual, told.cost / usual


LONG = 4000
"""Steps (20 s) up to which two sayings are laid onto one another at once."""
COARSE = 8
LOOK = 200
"""Steps (a second) of the first saying after which it is told how far it is."""
NARROW = 0.6
"""Seconds that the fine path may leave the rough one."""


def _coarse(features: Features) -> Features:
    """Features of every eight steps, averaged."""
    count = -(-len(features) // COARSE)
    padded = np.concatenate([features, np.repeat(features[-1:], count * COARSE - len(features), axis=0)])
    found: Features = padded.reshape(count, COARSE, -1).mean(axis=1)
    return found


def _warped(a: Features, b: Features, middle: NDArray[np.floating], band: int, tell: HowFar = lambda _: None) -> Warp:
    """The cheapest path that stays within `band` steps of `middle`, which says where each step of `a` about goes."""
    n, m = len(a), len(b)
    wide = min(2 * band + 1, m)
    sums = np.full(m + 1, np.inf)
    sums[0] = 0.0
    steps = np.zeros((n, wide), dtype=np.int8)
    lows = np.clip(np.round(middle).astype(np.int64) - band, 0, m - wide)
    lows[-1] = m - wide
    lows = np.maximum.accumulate(lows)
    norms = (b**2).sum(axis=1)
    for i in range(n):
        if i % LOOK == 0:
            tell(i / n)
        low, high = int(lows[i]), int(lows[i]) + wide
        apart = np.sqrt(np.maximum(norms[low:high] - 2 * b[low:high] @ a[i] + (a[i] ** 2).sum(), 0))
        up, both = sums[low + 1 : high + 1] + apart, sums[low:high] + 2 * apart
        best = np.minimum(up, both)
        row, sideways = _along(best, apart)
        steps[i] = np.where(sideways, 2, np.where(both <= up, 0, 1))
        sums = np.full(m + 1, np.inf)
        sums[low + 1 : high + 1] = row
    return _back(a, b, steps, lows)


def _along(best: NDArray[np.float64], apart: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.bool_]]:
    """The row's sums when steps along it are free to come from the left: min over k ≤ j of best[k] + Σ apart(k, j].

    With the running sum S it is S[j] + min over k ≤ j of (best[k] − S[k]).
    """
    total = np.cumsum(apart)
    lead = np.where(np.isfinite(best), best, 1e18) - total
    least = np.minimum.accumulate(lead)
    return total + least, lead > least


def _back(a: Features, b: Features, steps: NDArray[np.int8], lows: NDArray[np.int64]) -> Warp:
    partner, count, cost = np.zeros(len(a)), np.zeros(len(a)), np.zeros(len(a))
    i, j = len(a) - 1, len(b) - 1
    while True:
        partner[i] += j
        cost[i] += float(np.sqrt(((a[i] - b[j]) ** 2).sum()))
        count[i] += 1
        if i == 0 and j == 0:
            break
        inside = 0 <= j - lows[i] < steps.shape[1]
        step = steps[i, j - lows[i]] if inside else 2 if j > lows[i] else 1
        if i == 0 or (step == 2 and j > 0):
            j -= 1
        elif j == 0 or step == 1:
            i -= 1
        else:
            i, j = i - 1, j - 1
    return Warp(partner / count, cost / count)
