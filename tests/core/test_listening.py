"""What is worked out from sound alone: texts spelled out, sayings laid on one another, loudness."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorvan.core.voice.loudness import loudness, rough, silent, with_loudness
from sorvan.core.voice.spelling import spoken
from sorvan.core.voice.warp import RATE, STEP, cepstra, likeness, warped
from tests.conftest import costly
from tests.core.speakers import line


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("The last ferry leaves at 9.", "the last ferry leaves at nine"),
        ("It's 1984; 1,200 gulls — 3.5% more!", "it's nineteen eighty four one thousand two hundred gulls three point five percent more"),
        ("Mr. Quay paid £5.50 on the 21st.", "mister quay paid five pounds fifty pence on the twenty first"),
        ("LAST BOAT AT 9:05, DR. GULL!", "last boat at nine oh five doctor gull"),
        ("9:00 and 12:30", "nine o'clock and twelve thirty"),
        ("salt & vinegar", "salt and vinegar"),
        ("the U.S. and the BBC", "the u s and the b b c"),
        ("etc. and so on", "et cetera and so on"),
        ("“Mind the gap,” she said…", "mind the gap she said"),
        ("well-known, half-past", "well known half past"),
        ("no.", "no"),
        ("$1", "one dollar"),
        ("!!! … —", ""),
    ],
)  # fmt: skip
def test_numbers_abbreviations_and_signs_are_spelled_out(text: str, said: str) -> None:
    words = spoken(text)
    assert " ".join(w.text for w in words) == said


@given(st.text(max_size=80))
def test_any_text_at_all_has_words_of_letters_only(text: str) -> None:
    assert all(w.text and not any(c.isspace() or c.isdigit() for c in w.text) for w in spoken(text))


def tune(seconds: list[float], speed: float = 1.0, tilt: float = 0.0) -> tuple[np.ndarray, list[float]]:
    """Sounds of four colours one after the other, each so many seconds long: samples, and when each begins."""
    starts, parts, at = [], [], 0.0
    for n, length in enumerate(seconds):
        count = round(length * speed * RATE)
        t = np.arange(count) / RATE
        formants = ((300, 2200), (700, 1200), (350, 800), (500, 2800))[n % 4]
        wave = sum((1 + tilt * k) * np.sin(2 * np.pi * f * (1 + 0.03 * tilt) * t) for k, f in enumerate(formants))
        starts.append(at)
        parts.append(0.2 * wave)
        at += count / RATE
    return np.concatenate(parts).astype(np.float32), starts


@costly(15)
@given(st.lists(st.floats(0.08, 0.4), min_size=6, max_size=14), st.floats(0.7, 1.4), st.floats(-0.3, 0.3))
def test_one_saying_is_laid_onto_another_that_is_slower_or_faster(row: list[float], speed: float, tilt: float) -> None:
    one, starts = tune(row)
    other, truth = tune(row, speed, tilt)
    warp = warped(cepstra(one), cepstra(other))
    assert max(abs(warp.at(a) - b) for a, b in zip(starts, truth, strict=True)) < 0.03
    assert np.all(np.diff(warp.partner) >= -1e-9)


def test_a_long_saying_is_laid_roughly_first_and_as_well() -> None:
    row = [0.12, 0.2, 0.31, 0.16, 0.27] * 25
    one, starts = tune(row)
    other, truth = tune(row, 1.15)
    assert len(one) / RATE / STEP > 4000
    warp = warped(cepstra(one), cepstra(other))
    assert np.mean([abs(warp.at(a) - b) for a, b in zip(starts, truth, strict=True)]) < 0.02


def test_the_same_is_more_alike_than_something_else() -> None:
    chance = np.random.default_rng(5)
    one, _ = tune(list(chance.uniform(0.1, 0.4, 20)))
    same, _ = tune(list(np.random.default_rng(5).uniform(0.1, 0.4, 20)), 1.2)
    order = [one[round(s * RATE) : round((s + 0.3) * RATE)] for s in chance.permutation(np.arange(0, 4.5, 0.3))]
    assert likeness(cepstra(one), cepstra(same))[0] < 0.5
    assert likeness(cepstra(one), cepstra(np.concatenate(order)))[0] > likeness(cepstra(one), cepstra(same))[0] + 0.3


def beeps() -> np.ndarray:
    """Half a second of quiet, a loud vowel, a dip, a loud vowel, a hiss, and quiet."""
    t = np.arange(RATE) / RATE
    vowel = lambda s, a: a * np.sin(2 * np.pi * 220 * t[: round(s * RATE)])  # noqa: E731
    hiss = np.random.default_rng(1).normal(0, 0.05, round(0.2 * RATE))
    hiss = np.diff(hiss, prepend=0) * 2
    quiet = np.random.default_rng(2).normal(0, 1e-4, RATE // 2)
    parts = [quiet, vowel(0.3, 0.5), vowel(0.08, 0.02), vowel(0.3, 0.5), hiss, quiet]
    return np.concatenate(parts).astype(np.float32)


def test_without_a_text_loudness_opens_and_closes_the_mouth() -> None:
    row = rough(beeps())
    at = lambda time: [label for t, label in row if t <= time][-1]  # noqa: E731
    assert at(0.2) == "" and at(0.65) == "a" and at(1.0) == "a" and at(1.28) == "s" and at(1.6) == ""
    assert at(0.84) in ("m", "ə")
    assert all(b - a >= 0.049 for (a, _), (b, _) in pairwise(row))
    assert rough(np.zeros(RATE, dtype=np.float32)) == [(0.0, "")]


def test_how_loud_each_sound_is_goes_into_the_chart() -> None:
    heard = loudness(beeps())
    assert not silent(heard) and heard.quiet < -70 < heard.threshold < heard.speech
    chart = with_loudness(line(("", 0.5), ("AA1", 0.3), ("M", 0.08), ("AA1", 0.3)).chart, heard, 1.9)
    loud = [p.loud for p in chart.phones.values()]
    assert loud[0] == 0 and loud[1] > 0.95 and loud[2] < 0.4 and loud[3] > 0.95
    # However loud it is recorded, it is loud beside itself.
    quiet = with_loudness(chart, loudness(beeps() * 0.05), 1.9)
    assert [round(p.loud, 1) for p in quiet.phones.values()] == [round(v, 1) for v in loud]
