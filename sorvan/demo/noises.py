"""What is heard at the quay, made from nothing: a steam whistle, water, and footsteps on planks."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from sorvan.core.late import late
from sorvan.core.model.voice import SOUND_RATE
from sorvan.core.voice.warp import Samples

signal = late("scipy.signal")


def creak(seconds: float = 1.6, seed: int = 8) -> Samples:
    """Ropes that take a weight: a knock, and a creak that sticks and slips, slower and slower."""
    t = np.arange(round(seconds * SOUND_RATE)) / SOUND_RATE
    random = np.random.default_rng(seed)
    slips = 55 * np.exp(-1.1 * t) + 9
    phase = np.cumsum(slips) / SOUND_RATE
    clicks = np.exp(-((phase % 1) * 14)) * (0.7 + 0.3 * np.sin(2 * np.pi * 2.1 * t) ** 2)
    body = signal.sosfilt(
        signal.butter(2, (380, 1500), "bandpass", fs=SOUND_RATE, output="sos"), random.normal(0, 1, len(t))
    )
    knock = np.exp(-t / 0.03) * np.sin(2 * np.pi * 140 * t)
    return _level(clicks * body * np.exp(-1.6 * t) + 0.8 * knock, 0.45)


def whistle(seconds: float = 2.2, seed: int = 3) -> Samples:
    """A steam whistle of three pipes, breathy, that rises into its pitch and dies away."""
    t = np.arange(round(seconds * SOUND_RATE)) / SOUND_RATE
    random = np.random.default_rng(seed)
    up = np.clip(t / 0.16, 0, 1) ** 0.7
    down = np.clip((seconds - t) / 0.5, 0, 1) ** 1.4
    bend = 1 - 0.05 * (1 - up) - 0.035 * (1 - down)
    found = np.zeros_like(t)
    for pitch, part in ((311.1, 1.0), (370.0, 0.8), (466.2, 0.55)):
        phase = 2 * np.pi * np.cumsum(pitch * bend * (1 + 0.0015 * np.sin(2 * np.pi * 5.1 * t))) / SOUND_RATE
        found += part * (np.sin(phase) + 0.32 * np.sin(2 * phase) + 0.12 * np.sin(3 * phase))
    steam = signal.sosfilt(
        signal.butter(2, (900, 5200), "bandpass", fs=SOUND_RATE, output="sos"), random.normal(0, 1, len(t))
    )
    return _level(found * up * down + 0.35 * steam * up * down, 0.6)


def water(seconds: float, seed: int = 5) -> Samples:
    """Water that laps at the piles, wave after wave, never quite alike."""
    count = round(seconds * SOUND_RATE)
    t = np.arange(count) / SOUND_RATE
    random = np.random.default_rng(seed)
    noise = random.normal(0, 1, count)
    low = signal.sosfilt(signal.butter(2, 420, "lowpass", fs=SOUND_RATE, output="sos"), noise)
    splash = signal.sosfilt(signal.butter(2, (700, 2600), "bandpass", fs=SOUND_RATE, output="sos"), noise)
    swell, laps = np.full(count, 0.35), np.zeros(count)
    at = 0.2
    while at < seconds:
        size = random.uniform(0.5, 1.0)
        since = t - at
        swell += size * np.where(since > 0, since * 2.4 * np.exp(1 - since * 2.4), 0) * 0.55
        laps += size * np.where(since > 0.25, np.exp(-(since - 0.25) * 5.0), 0) * 0.3
        at += random.uniform(0.9, 1.8)
    edges = np.clip(t / 0.4, 0, 1) * np.clip((seconds - t) / 0.4, 0, 1)
    return _level((low * swell * 3 + splash * laps) * edges, 0.24)


def steps(times: Iterable[float], seconds: float, hard: float = 1.0, seed: int = 7) -> Samples:
    """Heels on planks at these times: a knock, and the hollow below it."""
    found = np.zeros(round(seconds * SOUND_RATE))
    random = np.random.default_rng(seed)
    t = np.arange(round(0.22 * SOUND_RATE)) / SOUND_RATE
    for n, at in enumerate(times):
        pitch = 92 * random.uniform(0.94, 1.06) * (1.0 if n % 2 else 1.08)
        body = np.sin(2 * np.pi * pitch * t) * np.exp(-t * 34) + 0.5 * np.sin(2 * np.pi * pitch * 2.7 * t) * np.exp(
            -t * 60
        )
        click = random.normal(0, 1, len(t)) * np.exp(-t * 220) * 0.5
        own = (body + click) * random.uniform(0.8, 1.0) * hard
        first = round(at * SOUND_RATE)
        if 0 <= first < len(found):
            last = min(first + len(own), len(found))
            found[first:last] += own[: last - first]
    return _level(found, 0.42 * hard)


def cry() -> Samples:
    """A gull, far up: three falling calls."""
    seconds = 1.7
    t = np.arange(round(seconds * SOUND_RATE)) / SOUND_RATE
    found = np.zeros_like(t)
    for at, size, long in ((0.05, 1.0, 0.42), (0.6, 0.75, 0.34), (1.05, 0.55, 0.3)):
        u = np.clip((t - at) / long, 0, 1)
        there = (t > at) & (t < at + long)
        pitch = 1150 + 620 * np.sin(np.pi * u**0.6) - 240 * u
        phase = 2 * np.pi * np.cumsum(np.where(there, pitch, 0)) / SOUND_RATE
        tone = np.sin(phase) + 0.6 * np.sin(2 * phase) + 0.4 * np.sin(3 * phase + 0.5)
        found += np.where(there, size * np.sin(np.pi * u) ** 0.7 * tone * (1 + 0.25 * np.sin(2 * np.pi * 34 * t)), 0)
    return _level(found, 0.2)


def _level(samples: np.ndarray, loudest: float) -> Samples:
    top = float(np.abs(samples).max()) or 1.0
    made: Samples = (samples * (loudest / top)).astype(np.float32)[:, None]
    return made
