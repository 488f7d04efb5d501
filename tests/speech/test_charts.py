"""Sounds found in speech whose times are known, and what is said where text and sound do not match."""

from __future__ import annotations

from itertools import pairwise
from typing import Any

import numpy as np
import pytest
from numpy.typing import NDArray
from scipy.signal import butter, fftconvolve, sosfilt

from sorvan.core.errors import Refusal
from sorvan.core.model.voice import ends
from sorvan.core.voice.phonemes import known
from sorvan.speech import english
from sorvan.speech.charts import Wanted, chart
from sorvan.speech.english import Reports
from sorvan.speech.espeak import languages, say
from sorvan.speech.pronouncing import typed, with_stress
from tests.conftest import SEARCHING
from tests.speech.said import ENGLISH, FRAME, OTHERS, Truth, errors, truth


def measured(cases: list[tuple[Truth, str]], within: float) -> tuple[float, float]:
    """The part of all boundaries that lie within so many seconds, and the mean error (seconds)."""
    all_: list[float] = []
    for case, language in cases:
        row = errors(case, chart(Wanted(case.mono, case.text, language)))
        assert len(row) >= 0.93 * len(case.sounds)
        all_ += [abs(e) for e, _ in row]
    return float(np.mean(np.array(all_) <= within)), float(np.mean(all_))


FIRST = "The last ferry leaves the quay at nine."
VOICES = (("en-us", 160), ("en-us", 130), ("en-us", 195), ("en-gb", 150), ("en-us-nyc", 160), ("en-us+f3", 150))


@pytest.mark.parametrize("noisy", [0, 1] if SEARCHING else [0])
def test_english_is_within_a_frame_for_nine_of_ten_boundaries(noisy: int) -> None:
    """Every other recording is noisy; in a search each of them is so once."""
    cases = [
        (truth(ENGLISH[n % len(ENGLISH)], voice, speed, noise=n % 2 == noisy), voice.split("+")[0])
        for n, (voice, speed) in enumerate(VOICES)
    ]
    part, mean = measured(cases, FRAME)
    assert part >= 0.9 and mean < FRAME / 2


@pytest.mark.parametrize("noise", [False, True])
def test_other_languages_are_within_two_frames_for_four_of_five(noise: bool) -> None:
    cases = [
        (truth(text, f"{language}+{variant}", speed, noise=noise), language)
        for language, text in OTHERS.items()
        for variant, speed in (("f2", 135), ("m3", 190))
    ]
    part, _ = measured(cases, 2 * FRAME)
    assert part >= 0.8


def test_the_chart_has_words_pauses_stress_and_how_sure_it_is() -> None:
    case = truth(ENGLISH[0], "en-us")
    found = chart(Wanted(case.mono, case.text))
    words = [w.text for w in found.words.values()]
    assert [w for w in words if w] == ENGLISH[0].lower().replace(".", "").split()
    assert "" in words[1:-1]  # the pause between the sentences
    assert found.source == "text" and not found.note
    assert any(p.label.endswith("1") for p in found.phones.values()) and all(
        known(p.label) for p in found.phones.values()
    )
    assert 0.4 < np.mean([w.sure for w in found.words.values() if w.text]) <= 1
    loud = [p.loud for p in found.phones.values() if p.label]
    assert max(loud) > 0.9 and min(loud) < 0.8
    seconds = len(case.mono) / 16000
    assert ends(found.phones, seconds)[-1][2] == seconds


def test_words_that_no_dictionary_has_are_guessed_marked_and_can_be_told() -> None:
    case = truth("Zorblax greets the conductor of the Quillimar.", "en-us")
    found = chart(Wanted(case.mono, case.text))
    assert {w.text for w in found.words.values() if w.guessed} == {"zorblax", "quillimar"}
    assert "zorblax" in found.note and "guess" in found.note
    told = chart(Wanted(case.mono, case.text, spoken={"zorblax": "Z AO R B L AE K S", "quillimar": "kwˈɪlɪmɑːɹ"}))
    assert not any(w.guessed for w in told.words.values()) and not told.note
    with pytest.raises(Refusal, match="is no sound") as refused:
        chart(Wanted(case.mono, case.text, spoken={"zorblax": "Z QQ X"}))
    assert "zorblax" in refused.value.where


def test_capitals_numbers_and_signs_are_said_as_they_are_read() -> None:
    case = truth("The last ferry leaves at nine. Twenty four people wait.", "en-us")
    found = chart(Wanted(case.mono, "THE LAST FERRY LEAVES AT 9! 24 PEOPLE WAIT."))
    assert [w.text for w in found.words.values() if w.text] == [
        "the",
        "last",
        "ferry",
        "leaves",
        "at",
        "nine",
        "twenty",
        "four",
        "people",
        "wait",
    ]


def test_a_long_pause_is_a_pause() -> None:
    one, two = truth("Mind the gull.", "en-us"), truth("The whistle blows.", "en-us")
    quiet = np.random.default_rng(0).normal(0, 1e-4, 5 * 16000).astype(np.float32)
    found = chart(Wanted(np.concatenate([one.mono, quiet, two.mono]), "Mind the gull. The whistle blows."))
    longest = max(
        (end - p.start, p.start)
        for _, p, end in ends(found.phones, len(quiet) / 16000 + 10)
        if not p.label and p.start < 4
    )
    assert longest[0] > 4.5


@pytest.mark.parametrize(
    ("text", "said"),
    [
        (ENGLISH[0] * 10, "too long for the sound"),
        (ENGLISH[2], "do not match"),
        (FIRST, "where the recording says more than the text"),
        ("…!?", "no word in the text"),
        (ENGLISH[0].replace(FIRST, "Children run along the sandy beach with kites."), "at “children run along"),
    ],
)  # fmt: skip
def test_where_text_and_sound_plainly_differ_there_is_no_chart(text: str, said: str) -> None:
    with pytest.raises(Refusal, match=said):
        chart(Wanted(truth(ENGLISH[0], "en-us", noise=True).mono, text))


@pytest.mark.parametrize("voice", ["en-gb-scotland", "en-029", "en-us+f4"] if SEARCHING else ["en-029"])
def test_the_right_text_is_not_refused_in_a_hall_or_over_a_telephone(voice: str) -> None:
    case = truth(ENGLISH[0], voice, 150, 50)
    random = np.random.default_rng(4)
    room = np.exp(-np.arange(8000) / 1600) * random.normal(0, 0.25, 8000)
    room[0] = 1
    echoes = fftconvolve(case.mono, room)[: len(case.mono)]
    hall = (echoes / np.abs(echoes).max() / 2 + random.normal(0, 0.01, len(echoes))).astype(np.float32)
    band = butter(4, [300, 3400], "band", fs=16000, output="sos")
    for heard in (hall, sosfilt(band, case.mono).astype(np.float32)):
        found = chart(Wanted(heard, case.text))
        assert sum(bool(w.text) for w in found.words.values()) == len(case.text.split())


def test_words_are_laid_out_by_length_where_something_is_heard() -> None:
    one, two = truth("Mind the gull.", "en-us"), truth("The whistle blows.", "en-us")
    quiet = np.zeros(2 * 16000, dtype=np.float32)
    mono = np.concatenate([one.mono, quiet, two.mono])
    found = chart(Wanted(mono, "Mind the gull. The whistle blows.", spread=True))
    seconds = len(mono) / 16000
    words = [(w.text, w.start, end) for _, w, end in ends(found.words, seconds) if w.text]
    assert [w for w, _, _ in words] == ["Mind", "the", "gull", "The", "whistle", "blows"]
    assert found.source == "hand" and "without listening" in found.note
    begin, end = len(one.mono) / 16000, (len(one.mono) + len(quiet)) / 16000
    pause = max(((e - p.start, p.start, e) for _, p, e in ends(found.phones, seconds) if not p.label))
    assert pause[0] > 1.9 and pause[1] < begin + 0.1 and pause[2] > end - 0.1
    assert words[2][2] < begin + 0.2 and words[3][1] > begin - 0.3
    with pytest.raises(Refusal, match="nothing to say"):
        chart(Wanted(mono, "…", spread=True))


def is_named(other: str, sound: NDArray[np.float32], tell: Reports = lambda *_: None) -> None:
    """Whether a chart, or why there is none, says that another text may be the second half of what is said."""
    try:
        said = chart(Wanted(sound, f"{FIRST} {other}."), tell).note
    except Refusal as refused:
        said = refused.what
    assert f"“{other.lower()}”" in said and "from 2." in said


def test_a_part_that_may_be_another_text_is_named() -> None:
    sound = truth(ENGLISH[0], "en-us", noise=True).mono
    if SEARCHING:
        is_named("The last boat comes to our pier by seven", sound)
    assert not chart(Wanted(sound, ENGLISH[0])).note


def test_another_text_in_another_language_is_refused_with_the_words() -> None:
    case = truth(OTHERS["de"], "de+f2", 140)
    with pytest.raises(Refusal, match="do not match"):
        chart(Wanted(case.mono, "Heute scheint die Sonne, und niemand will nach Hause gehen, sagte der Kapitän.", "de"))
    with pytest.raises(Refusal, match="No voice speaks"):
        chart(Wanted(case.mono, OTHERS["de"], "xx-nowhere"))


def test_silence_has_no_chart_and_no_text_a_rough_one() -> None:
    with pytest.raises(Refusal, match="Nothing is to be heard"):
        chart(Wanted(np.zeros(32000, dtype=np.float32), "Mind the gull."))
    found = chart(Wanted(truth(ENGLISH[0], "en-us").mono, ""))
    assert found.source == "loudness" and "rough" in found.note and not found.words
    assert {p.label for p in found.phones.values()} >= {"", "ə", "a", "s"}


def test_progress_goes_on_to_the_end(monkeypatch: pytest.MonkeyPatch) -> None:
    """No more than ten seconds of sound are listened to between two words of how far it is, also where a part is in
    doubt and is looked at again and again; what is being done never goes back."""
    heard = 0

    class Counted(english.Decoder):  # type: ignore[misc, name-defined]
        def process_raw(self, data: bytes, *given: Any, **named: Any) -> Any:
            nonlocal heard
            heard += len(data)
            return super().process_raw(data, *given, **named)

    monkeypatch.setattr(english, "Decoder", Counted)
    sound = truth(ENGLISH[0], "en-us", noise=True).mono
    told: list[tuple[int, float, str]] = []
    other = "My brother bought seven green apples yesterday"
    is_named(other, sound, lambda part, what: told.append((heard, part, what)))
    steps = [b[0] - a[0] for a, b in pairwise([*told, (heard, 1.0, "")])]
    assert max(steps) <= 10 * 2 * english.RATE
    found = {what: [part for _, part, w in told if w == what] for _, _, what in told}
    assert list(found)[-1] == "Checking what is unsure" and "Listening" in found
    for parts in found.values():
        assert parts == sorted(parts) and parts[0] >= 0 and parts[-1] <= 1
    # By way of a voice: the longest of its steps is told on the way too.
    case = truth(OTHERS["de"], "de", 140)
    row: list[float] = []
    chart(Wanted(case.mono, case.text, "de"), lambda part, _: row.append(part))
    assert len(row) > 4 and row == sorted(row) and row[-1] == 1


def test_every_language_has_a_name_and_pronunciations_are_read() -> None:
    codes = {found.code for found in languages()}
    assert {"de", "fi", "es", "ja", "sw", "cy"} <= codes and len(codes) > 100
    assert all(found.name for found in languages())
    assert typed("ɡʌl", "gull") == ("G", "AH", "L") and typed("G AH1 L", "gull") == ("G", "AH", "L")
    assert typed("tʃaɪm", "chime") == ("CH", "AY", "M")
    assert with_stress(("K", "AH", "N", "D", "AH", "K", "T", "ER"), 1) == ("K", "AH0", "N", "D", "AH1", "K", "T", "ER0")
    assert say("Quay", "en-us").sounds[0].label == "k"
