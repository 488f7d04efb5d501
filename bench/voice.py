"""The voice: how exactly and how fast sounds are found, and what a long line costs."""

from __future__ import annotations

import time
from collections import defaultdict

import numpy as np
from pocketsphinx import Decoder

from bench.page import opened
from bench.scenes import production, report
from sorvan.core.model.base import asset_id
from sorvan.core.model.production import Production
from sorvan.core.model.voice import SOUND_RATE, Placed, Recording, Voice
from sorvan.core.voice.exposure import Problem, cost_of, expose, problem
from sorvan.core.voice.mouths import usual_chart
from sorvan.core.voice.track import ExposureSettings
from sorvan.interchange.sounds import PEAKS_MEDIA, SOUND_MEDIA, peaks_of
from sorvan.picture.sound import flac
from sorvan.speech.charts import Wanted, chart
from sorvan.speech.english import WIDE, prepared
from tests.core.speakers import line
from tests.speech.said import ENGLISH, FRAME, OTHERS, Truth, errors, truth

VOICES = (("en-us", 160), ("en-us", 130), ("en-us", 195), ("en-gb", 150), ("en-us-nyc", 160), ("en-us+f3", 150))


def exact() -> None:
    """Boundaries found, against those that the synthesiser told of; by sound, the worst of them."""
    for noise in (False, True):
        told = " at 20 dB of noise" if noise else ""
        row: list[tuple[float, str]] = []
        for n, (voice, speed) in enumerate(VOICES):
            case = truth(ENGLISH[n % 3], voice, speed, noise=noise)
            row += errors(case, chart(Wanted(case.mono, case.text, voice.split("+")[0])))
        _told(f"English{told}", row, 1, "≥ 0.90")
        row = []
        for language, text in OTHERS.items():
            for variant, speed in (("f2", 135), ("m3", 190), ("m7", 160)):
                case = truth(text, f"{language}+{variant}", speed, noise=noise)
                row += errors(case, chart(Wanted(case.mono, case.text, language)))
        _told(f"de, fr, es, fi{told}", row, 2, "≥ 0.80")


def _told(what: str, row: list[tuple[float, str]], frames: int, goal: str) -> None:
    size = np.array([abs(e) for e, _ in row])
    within = float((size <= frames * FRAME).mean())
    report(f"boundaries within {frames} frame(s), {what}", f"{len(row)} sounds", within, "all of them", goal)
    report(f"mean error, {what}", f"{1000 * size.mean():.1f} ms", size.mean() / FRAME, "a frame", "< 0.5")
    by_sound: dict[str, list[float]] = defaultdict(list)
    for error, label in row:
        by_sound[label].append(1000 * error)
    worst = sorted(by_sound.items(), key=lambda s: -float(np.abs(s[1]).mean()))[:8]
    print("   ", ", ".join(f"{label} {np.mean(e):+.0f} ±{np.std(e):.0f} ms ({len(e)})" for label, e in worst))


def fast() -> None:
    """A chart, against the length of the sound and against the aligner's two passes alone."""
    text = " ".join(ENGLISH)
    case = truth(text, "en-us")
    seconds = len(case.mono) / 16_000
    began = time.perf_counter()
    chart(Wanted(case.mono, text))
    took = time.perf_counter() - began
    report("a chart, English", f"{took:.1f} s", took / seconds, "the sound's length", "≤ 0.2")
    bare = _bare(case)
    report("a chart, English", f"{took:.1f} s", took / bare, "two passes of the bare aligner", "")
    other = truth(OTHERS["de"] + " " + OTHERS["de"], "de+f2", 140)
    began = time.perf_counter()
    chart(Wanted(other.mono, other.text, "de"))
    took = time.perf_counter() - began
    report("a chart, German", f"{took:.1f} s", took / (len(other.mono) / 16_000), "the sound's length", "≤ 0.2")


def _bare(case: Truth) -> float:
    """Seconds that the aligner takes for its two passes, whatever comes of them."""
    decoder = Decoder(lm=None, loglevel="FATAL", **WIDE)
    words = "".join(c for c in case.text.lower() if c.isalpha() or c in " '")
    pcm = prepared(case.mono)
    began = time.perf_counter()
    decoder.set_align_text(words)
    for again in (False, True):
        if again:
            decoder.set_alignment()
        decoder.start_utt()
        decoder.process_raw(pcm, full_utt=True)
        decoder.end_utt()
    return time.perf_counter() - began


def long_line(seconds: float = 600.0) -> tuple[Voice, np.ndarray]:
    """Ten minutes of somebody who never stops: the line with its chart, and what it sounds like."""
    chance = np.random.default_rng(3)
    labels = ["DH", "AH0", "L", "AE1", "S", "T", "F", "EH1", "R", "IY0", "M", "AY1", "N", "", "B", "OW1", "K", "UW1"]
    row: list[tuple[str, float]] = []
    at = 0.0
    while at < seconds - 0.5:
        length = float(chance.uniform(0.04, 0.16))
        row.append((str(chance.choice(labels)), round(length, 3)))
        at += length
    samples = chance.normal(0, 0.1, (round(seconds * SOUND_RATE), 1)).astype(np.float32)
    return line(*row), samples


def long_costs() -> None:
    """Peaks and exposure of ten minutes, each against the bare arithmetic it can't do without."""
    voice, samples = long_line()
    began = time.perf_counter()
    peaks_of(samples)
    took = time.perf_counter() - began
    began = time.perf_counter()
    samples.reshape(-1, 256).min(axis=1)
    samples.reshape(-1, 256).max(axis=1)
    least = time.perf_counter() - began
    report("peaks of 10 minutes", f"{1000 * took:.0f} ms", took / least, "lowest and highest once", "≤ 10")
    began = time.perf_counter()
    found = problem(voice, usual_chart(), 0.0, 24.0, 14_600, ExposureSettings())
    assert found is not None
    done = expose(found)
    took = time.perf_counter() - began
    least = _walked(found)
    report("exposure of 10 minutes", f"{took:.2f} s", took / least, "the same frames without musts and hold", "≤ 10")
    began = time.perf_counter()
    cost_of(found, done.path)
    report("exposure of 10 minutes", f"{took:.2f} s", took / 600, "the line's length", "≤ 0.01")


def _walked(found: Problem) -> float:
    """Seconds for the plainest path over the same frames: no hold, nothing that must be seen."""
    began = time.perf_counter()
    cost = found.match[0].copy()
    for f in range(1, found.frames):
        cost = (cost[:, None] + found.jump).min(axis=0) + found.match[f]
    return time.perf_counter() - began


def bench_opens() -> None:
    """The Voice bench on a line of ten minutes, until its ribbon is drawn, against a motion without a line."""
    documents, kept = production(12, 14_600)
    voice, samples = long_line()
    sound, peaks = flac(samples), peaks_of(samples)
    recording = Recording(asset=asset_id(sound), peaks=asset_id(peaks), seconds=600.0)
    motion = documents.motion("tree-m").changed(sounds={"s": Placed(id="s", voice="v")})
    spoken = documents.with_(voice.changed(sound=recording), motion)
    assert isinstance(documents.production, Production)
    kept = kept | {recording.asset: (SOUND_MEDIA, sound), recording.peaks: (PEAKS_MEDIA, peaks)}
    took = []
    for these in (spoken, documents):
        with opened(these, kept, 1280, 800) as page:
            began = time.perf_counter()
            page.goto(page.url.replace("/motion?measure", "/voice"))
            page.wait_for_selector(".stage canvas[data-drawn]", timeout=60_000)
            if these is spoken:
                page.wait_for_selector(".tier.words, .tier.phones .span", timeout=60_000)
                page.wait_for_function(
                    "() => { const c = document.querySelector('.wave canvas'); if (!c) return false;"
                    " const d = c.getContext('2d').getImageData(0, 0, c.width, c.height).data;"
                    " for (let i = 3; i < d.length; i += 4) if (d[i]) return true; return false; }",
                    timeout=60_000,
                )
            took.append(time.perf_counter() - began)
    report("the Voice bench on 10 minutes", f"{took[0]:.1f} s", took[0] / took[1], "the same without a line", "≤ 2")


def main() -> None:
    """All of it."""
    exact()
    fast()
    long_costs()
    bench_opens()


if __name__ == "__main__":
    main()
