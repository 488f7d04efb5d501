"""Speech whose times are known: said by a synthesiser that tells when it says each sound."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.signal import resample_poly

from sorvan.core.model.voice import Chart
from sorvan.core.voice.phonemes import likeness
from sorvan.speech.espeak import say

ENGLISH = (
    "The last ferry leaves the quay at nine. The conductor shuts the little gate behind the final passenger.",
    "A gull sits on the rail and looks at the water. Nobody answers, but the pennant turns in the wind.",
    "Who blew the whistle before the clock struck? Please keep your bags away from the edge of the pier.",
)
OTHERS = {
    "de": "Die letzte Fähre fährt um neun Uhr ab, und der Schaffner schließt das kleine Tor hinter dem letzten Gast.",
    "fr-fr": "Le dernier bateau part à neuf heures, et le contrôleur ferme la porte derrière le dernier passager.",
    "es": "El último barco sale a las nueve y el revisor cierra la puerta detrás del último pasajero.",
    "fi": "Viimeinen lautta lähtee kello yhdeksän, ja konduktööri sulkee portin viimeisen matkustajan takana.",
}
FRAME = 1 / 24


@dataclass(frozen=True)
class Truth:
    """A recording at 16,000 samples a second, and when each of its sounds begins (seconds)."""

    text: str
    mono: NDArray[np.float32]
    sounds: tuple[tuple[float, str], ...]


def truth(text: str, voice: str, speed: int = 160, pitch: int = 50, noise: bool = False) -> Truth:
    """A text as a voice says it; with noise 20 dB under it."""
    said = say(text, voice, speed, pitch)
    mono = resample_poly(said.samples, 320, 441).astype(np.float32)
    if noise:
        level = float(np.sqrt((mono**2).mean())) / 10
        mono = mono + np.random.default_rng(2).normal(0, level, len(mono)).astype(np.float32)
    return Truth(text, mono, tuple((s.start, s.label) for s in said.sounds if s.label))


def errors(known: Truth, chart: Chart) -> list[tuple[float, str]]:
    """By how much each boundary of the truth that has a partner in the chart was missed (seconds; late is more),
    and its sound. Which goes with which is the cheapest way to turn one row of sounds into the other."""
    found = [(p.start, p.label) for p in chart.phones.values() if p.label]
    n, m = len(known.sounds), len(found)
    cost = np.zeros((n + 1, m + 1))
    cost[0, :], cost[:, 0] = np.arange(m + 1) * 0.8, np.arange(n + 1) * 0.8
    step = np.zeros((n + 1, m + 1), dtype=int)
    step[0, 1:], step[1:, 0] = 2, 1
    for i in range(1, n + 1):
        for j in range(1, m + 1):
            ways = (
                cost[i - 1, j - 1] + likeness(known.sounds[i - 1][1], found[j - 1][1]),
                cost[i - 1, j] + 0.8,
                cost[i, j - 1] + 0.8,
            )
            step[i, j] = int(np.argmin(ways))
            cost[i, j] = ways[step[i, j]]
    row, i, j = [], n, m
    while i or j:
        if step[i, j] == 0:
            if likeness(known.sounds[i - 1][1], found[j - 1][1]) < 1:
                row.append((found[j - 1][0] - known.sounds[i - 1][0], known.sounds[i - 1][1]))
            i, j = i - 1, j - 1
        elif step[i, j] == 1:
            i -= 1
        else:
            j -= 1
    return row[::-1]
