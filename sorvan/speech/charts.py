"""Phoneme charts found from a sound: by its text, by way of a synthesiser's voice, or by its loudness alone."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from itertools import groupby

import numpy as np
from numpy.typing import NDArray
from scipy.signal import resample_poly

from sorvan.core.errors import Refusal
from sorvan.core.model.voice import SHORTEST, Chart, Phone, Source, Word
from sorvan.core.voice.charting import filled
from sorvan.core.voice.loudness import HOP, Loudness, loudness, rough, silent
from sorvan.core.voice.phonemes import is_vowel
from sorvan.core.voice.spelling import spoken as spelled_out
from sorvan.core.voice.warp import STEP, cepstra, likeness, warped
from sorvan.speech.english import RATE, Aligned, Aligner, NotFound
from sorvan.speech.espeak import Speech, say
from sorvan.speech.pronouncing import with_stress

Samples = NDArray[np.float32]
Progress = Callable[[float, str], None]
MOST_A_SECOND = 25.0
"""Sounds that nobody says in a second of speech: a text with more does not belong to the sound."""
UNSURE, ALL_UNSURE, FAR_OFF = 0.47, 0.51, 0.36
"""How well words agree with what is heard freely (0 to 1): less over a stretch, or on the whole, is a sign of
another text; on the whole far less is one by itself."""
UNSAID = 1.2
"""Seconds of speech that no word of the text is for, after which a text plainly does not match."""
UNLIKE, UNLIKE_HERE = 0.8, 0.8
"""Beside a text said backwards: how unlike the recording a synthesiser's saying may be (see `warp.likeness`), on
the whole and over a stretch. Of the two signs neither alone refuses a text, for people speak in many ways."""
UNLIKE_BY_VOICE = 0.93
"""The same where it is the only sign there is."""
LESS, MORE = 0.72, 1.07
"""A stretch is plainly another text only if it also stands out from the rest of its line: it agrees so many times
less, and is so many times less like."""
STRETCH = 40
"""Steps of 40 ms in a stretch."""


@dataclass(frozen=True)
class Wanted:
    """What a chart is to be found from: the sound (one channel, 16,000 samples a second), its text, the language,
    and how single words are said."""

    mono: Samples
    text: str
    language: str = "en-us"
    spoken: Mapping[str, str] | None = None


def is_english(language: str) -> bool:
    """Whether a language is aligned by its own model."""
    return language.lower().split("-")[0] == "en"


def chart(wanted: Wanted, tell: Progress = lambda _, __: None) -> Chart:
    """The chart of a line.

    Raises `Refusal` if nothing is to be heard, or the text and the sound plainly do not match.
    """
    heard = loudness(wanted.mono)
    if silent(heard):
        raise Refusal(
            "Nothing is to be heard in this sound.",
            remedy="Choose a recording in which somebody speaks, or raise its level.",
            kind="empty",
        )
    if not wanted.text.strip():
        return by_loudness(wanted, heard)
    return by_text(wanted, heard, tell) if is_english(wanted.language) else by_voice(wanted, heard, tell)


def by_loudness(wanted: Wanted, heard: Loudness) -> Chart:
    """A rough chart: closed, half open and open by loudness, teeth where it hisses."""
    seconds = len(wanted.mono) / RATE
    row = [(t, label) for t, label in rough(wanted.mono) if t < seconds - SHORTEST]
    note = "Found by loudness alone, without a text: rough. Type what is said, and find its sounds."
    return _chart("loudness", note, [], [(t, label, 0.3) for t, label in row], heard, seconds, set())


def by_text(wanted: Wanted, heard: Loudness, tell: Progress) -> Chart:
    """English, by forced alignment. Raises `Refusal` naming the stretch where text and sound do not match."""
    words = spelled_out(wanted.text)
    if not words:
        raise Refusal("There is no word in the text.", remedy="Type what is said in the recording.", kind="empty")
    aligner = Aligner()
    known = aligner.pronounced(words, wanted.language, dict(wanted.spoken or {}))
    _not_too_many([len(w.sounds) for w in known], heard)
    tell(0.0, "Saying the text")
    unlike, over_time = likeness(cepstra(wanted.mono), cepstra(mono_of(say(wanted.text, wanted.language))))
    try:
        found = aligner.align(wanted.mono, known, lambda part, what: tell(0.05 + 0.95 * part, what))
    except NotFound as missed:
        raise _no_match(_doubtful([(w.text, w.sounds) for w in known], missed.heard)) from None
    seconds = len(wanted.mono) / RATE
    _matching(found, heard, unlike, over_time)
    row: list[Heard] = []
    for word, group in groupby(found.sounds, key=lambda s: s.word):
        own = list(group)
        labels = [s.label for s in own]
        if word >= 0:
            labels = list(with_stress(tuple(labels), found.words[word].stress))
        sure = found.sure[word] if word >= 0 else 1.0
        row += [(s.start, label, sure, word) for s, label in zip(own, labels, strict=True)]
    row = _trimmed(row, heard, seconds)
    ends_ = [*(start for start, _, _, _ in row[1:]), seconds]
    spans: dict[int, tuple[float, float]] = {}
    for (start, _, _, word), end in zip(row, ends_, strict=True):
        if word >= 0:
            spans[word] = (spans.get(word, (start, 0.0))[0], end)
    words_found = [(*spans[n], found.words[n].text, found.sure[n]) for n in sorted(spans)]
    phones = [(start, label, sure) for start, label, sure, _ in row]
    guesses = {w.text for w in found.words if w.guessed}
    note = f"No dictionary has {_listed(sorted(guesses))}: how it is said is a guess." if guesses else ""
    return _chart("text", note, words_found, phones, heard, seconds, guesses)


EDGE, CLOSED = 0.02, 0.06
"""Seconds of silence that a sound beside a pause may keep, and that a stop may: its closure is not heard."""
PAUSE = 0.15
"""Seconds of silence inside a sound that are a pause of their own."""
Heard = tuple[float, str, float, int]
"""When a sound begins (seconds), its label, how sure it is, and the number of its word."""
STOPS = frozenset(("P", "B", "T", "D", "K", "G", "CH", "JH"))


def _trimmed(phones: list[Heard], heard: Loudness, seconds: float) -> list[Heard]:
    """Sounds without the silence that the aligner gave to them rather than to the pause beside them, which it may
    have left out altogether."""
    found: list[Heard] = []
    stops = [*(start for start, _, _, _ in phones[1:]), seconds]
    for n, ((start, label, sure, word), end) in enumerate(zip(phones, stops, strict=True)):
        loud = np.flatnonzero(heard.level[round(start / HOP) : round(end / HOP)] > heard.threshold)
        if not label or not len(loud):
            found.append((start, label, sure, word))
            continue
        keep = CLOSED if label in STOPS else EDGE
        lead, rest = float(loud[0]) * HOP, end - start - float(loud[-1] + 1) * HOP
        after_pause = n == 0 or not phones[n - 1][1]
        before_pause = n + 1 == len(phones) or not phones[n + 1][1]
        begin = start + lead - keep if lead > (keep if after_pause else PAUSE) else start
        if begin > start and not after_pause:
            found.append((start, "", 1.0, -1))
        found.append((begin, label, sure, word))
        if rest > (CLOSED if before_pause else PAUSE) and end - rest + EDGE > begin + EDGE:
            found.append((end - rest + EDGE, "", 1.0, -1))
    return found


def by_voice(wanted: Wanted, heard: Loudness, tell: Progress) -> Chart:
    """Any language that a voice speaks: it says the text, and when it said what is carried over to the recording.

    Raises `Refusal` if no voice speaks the language, or the two sayings are plainly not alike.
    """
    tell(0.05, "Saying the text")
    said = say(wanted.text, wanted.language)
    labelled = [s for s in said.sounds if s.label]
    if not labelled:
        raise Refusal(
            "There is nothing to say in the text.", remedy="Type what is said in the recording.", kind="empty"
        )
    _not_too_many([len(labelled)], heard)
    tell(0.2, "Comparing the two")
    model, own = cepstra(mono_of(said)), cepstra(wanted.mono)
    unlike, over_time = likeness(model, own)
    if unlike > UNLIKE_BY_VOICE:
        raise _no_match(_worst(said, over_time, wanted.text))
    tell(0.45, "Laying one over the other")
    warp = warped(model, own)
    seconds = len(wanted.mono) / RATE
    usual = float(np.median(warp.cost)) or 1.0
    phones: list[tuple[float, str, float]] = []
    for sound in said.sounds:
        row = warp.cost[round(sound.start / STEP) : round(sound.end / STEP) + 1]
        sure = float(np.clip(1.6 - 0.8 * row.mean() / usual, 0, 1)) if len(row) else 1.0
        phones.append((warp.at(sound.start), sound.label, sure if sound.label else 1.0))
    words = _voiced_words(said, wanted.text, warp.at)
    note = "Found by way of a synthesiser's voice: less exact than English, within about two frames."
    chart = _chart("voice", note, words, phones, heard, seconds, set())
    tell(1.0, "Done")
    return chart


def _voiced_words(said: Speech, text: str, at: Callable[[float], float]) -> list[tuple[float, float, str, float]]:
    """The words that a voice said, each until its last sound ends."""
    found: list[tuple[float, float, str, float]] = []
    marks = [w for w in said.words if w.length > 0]
    for n, word in enumerate(marks):
        limit = marks[n + 1].start if n + 1 < len(marks) else said.sounds[-1].end
        own = [s for s in said.sounds if s.label and word.start - 0.02 <= s.start < limit - 0.02]
        label = text[word.at : word.at + word.length].strip(' .,;:!?¡¿«»"“”()')
        if own and label:
            found.append((at(own[0].start), at(own[-1].end), label, 1.0))
    return found


def mono_of(said: Speech) -> Samples:
    """What a voice said, at the rate of cepstra."""
    return resample_poly(said.samples, 320, 441).astype(np.float32)


def _chart(
    source: Source,
    note: str,
    words: list[tuple[float, float, str, float]],
    phones: list[tuple[float, str, float]],
    heard: Loudness,
    seconds: float,
    guesses: set[str],
) -> Chart:
    """A chart of words (start, end, text, how sure) and sounds (start, label, how sure)."""
    by_text = {(round(a, 5), text): sure for a, _, text, sure in words}
    tier = filled([(a, b, text) for a, b, text, _ in words], seconds) if words else []
    kept: list[tuple[float, str, float]] = []
    for start, label, sure in phones:
        start = max(round(start, 5), 0.0)
        if kept and (start - kept[-1][0] < SHORTEST or (label == "" and kept[-1][1] == "")):
            if start - kept[-1][0] < SHORTEST and kept[-1][1] == "":
                kept[-1] = (kept[-1][0], label, sure)
            continue
        if start <= seconds - SHORTEST:
            kept.append((start, label, sure))
    if kept and kept[0][0] > 0:
        kept = [(0.0, "", 1.0), *kept] if kept[0][0] >= SHORTEST else [(0.0, *kept[0][1:]), *kept[1:]]
    stops = [*(k[0] for k in kept[1:]), seconds]
    return Chart(
        source=source,
        note=note[:1000],
        words={
            f"w{n}": Word(start=t, text=text[:80], sure=round(by_text.get((t, text), 1.0), 3), guessed=text in guesses)
            for n, (t, text) in enumerate((round(t, 5), text) for t, text in tier)
        },
        phones={
            f"p{n}": Phone(
                start=start, label=label[:24], sure=round(sure, 3),
                loud=round(heard.part(start, end), 3) if label else 0.0,
            )
            for n, ((start, label, sure), end) in enumerate(zip(kept, stops, strict=True))
        },
    )  # fmt: skip


def _not_too_many(counts: Sequence[int], heard: Loudness) -> None:
    """Raises `Refusal` if a text has more sounds than can be said in the time that somebody speaks."""
    talk = float(np.count_nonzero(heard.level > heard.threshold)) * 0.01
    if sum(counts) > MOST_A_SECOND * max(talk, 0.2):
        raise Refusal(
            f"The text is too long for the sound: {sum(counts):,} sounds in {talk:.1f} s of speech.",
            remedy="Take out of the text what is not said in this recording.",
            kind="mismatch",
        )


def _matching(found: Aligned, heard: Loudness, unlike: float, over_time: NDArray[np.float64]) -> None:
    """Raises `Refusal` if the words that were found plainly are not those that are said: if they disagree with
    what is heard freely, and the synthesiser's saying is no more like the recording than one of another text."""
    spans: dict[int, tuple[float, float]] = {}
    for sound in found.sounds:
        if sound.word >= 0:
            begin, _ = spans.get(sound.word, (sound.start, 0.0))
            spans[sound.word] = begin, sound.end
    lengths = np.array([b - a for a, b in spans.values()])
    agreed = float(np.average([found.sure[n] for n in spans], weights=np.maximum(lengths, 1e-6)))
    if agreed < FAR_OFF or (agreed < ALL_UNSURE and unlike > UNLIKE):
        raise _no_match("anywhere in the recording")
    _no_doubtful_stretch(found, spans, over_time)
    for sound in found.sounds:
        if sound.label or sound.end - sound.start < UNSAID:
            continue
        row = heard.level[round(sound.start * 100) : round(sound.end * 100)]
        if np.count_nonzero(row > heard.speech - 18) * 0.01 >= UNSAID:
            raise _no_match(f"from {sound.start:.1f} to {sound.end:.1f} s, where the recording says more than the text")


def _no_doubtful_stretch(
    found: Aligned, spans: Mapping[int, tuple[float, float]], over_time: NDArray[np.float64]
) -> None:
    if len(over_time) < STRETCH:
        return
    here = np.convolve(over_time, np.ones(STRETCH) / STRETCH, mode="valid")
    agreed = np.array([_agreed(found, spans, n * 8 * STEP, (n + STRETCH) * 8 * STEP) for n in range(len(here))])
    told = ~np.isnan(agreed)
    if not told.any():
        return
    few = (agreed < UNSURE) & (agreed < LESS * np.median(agreed[told]))
    far = (here > UNLIKE_HERE) & (here > MORE * np.median(here[told]))
    doubtful = np.flatnonzero(few & far)
    if len(doubtful):
        begin, end = doubtful[0] * 8 * STEP, (doubtful[0] + STRETCH) * 8 * STEP
        inside = [n for n, (a, b) in sorted(spans.items()) if a < end and b > begin]
        said = " ".join(found.words[n].text for n in inside)
        raise _no_match(f"from {begin:.1f} to {end:.1f} s, at “{said}”")


def _agreed(found: Aligned, spans: Mapping[int, tuple[float, float]], begin: float, end: float) -> float:
    """How well the words of a stretch agree with what is heard; nothing where hardly anybody speaks."""
    inside = {n: min(b, end) - max(a, begin) for n, (a, b) in spans.items() if a < end and b > begin}
    if len(inside) < 3 or sum(inside.values()) < 0.5 * (end - begin):
        return float("nan")
    return float(np.average([found.sure[n] for n in inside], weights=list(inside.values())))


def _doubtful(words: Sequence[tuple[str, tuple[str, ...]]], heard: Sequence[str]) -> str:
    """Where a text and the sounds that were heard freely part, by the cheapest way to turn one into the other."""
    freely = [(label, n) for label, n in _merged(heard) if label]
    told = [(s, k) for k, (_, sounds) in enumerate(words) for s in sounds]
    if len(freely) < 4 or len(told) * len(freely) > 4_000_000:
        return "anywhere in the recording"
    partner = _edited([s for s, _ in told], [label for label, _ in freely])
    agree = np.array([1.0 if p >= 0 and is_alike(told[n][0], freely[p][0]) else 0.0 for n, p in enumerate(partner)])
    window = min(max(len(agree) // 3, 8), 24)
    if len(agree) <= window or agree.mean() < 0.25:
        return "anywhere in the recording"
    sums = np.convolve(agree, np.ones(window), mode="valid")
    first = int(np.argmin(sums))
    last = first + window - 1
    said = " ".join(words[k][0] for k in dict.fromkeys(k for _, k in told[first : last + 1]))
    places = [freely[p][1] for p in partner if p >= 0]
    inside = [freely[p][1] for p in partner[first : last + 1] if p >= 0] or places[:1]
    return f"from about {max(inside[0] * 0.01 - 0.2, 0):.1f} to {inside[-1] * 0.01:.1f} s, at “{said}”"


def is_alike(a: str, b: str) -> bool:
    """Whether two ARPAbet sounds are the same or nearly."""
    return a == b or (is_vowel(a) and is_vowel(b))


def _merged(heard: Sequence[str]) -> list[tuple[str, int]]:
    found: list[tuple[str, int]] = []
    for n, label in enumerate(heard):
        if not found or found[-1][0] != label:
            found.append((label, n))
    return found


def _edited(a: Sequence[str], b: Sequence[str]) -> list[int]:
    """For each of `a` its partner in `b`, or -1, by the fewest edits (Wagner and Fischer 1974)."""
    n, m = len(a), len(b)
    cost = np.zeros((n + 1, m + 1))
    cost[0, :], cost[:, 0] = np.arange(m + 1), np.arange(n + 1)
    for i in range(1, n + 1):
        change = cost[i - 1, :-1] + np.array(
            [0.0 if a[i - 1] == s else 0.6 if is_alike(a[i - 1], s) else 1.2 for s in b]
        )
        best = np.minimum(change, cost[i - 1, 1:] + 1)
        steps = np.arange(m)
        cost[i, 1:] = np.minimum.accumulate(np.minimum(best, i + 1.0 + steps) - steps) + steps
    partner = [-1] * n
    i, j = n, m
    while i and j:
        if abs(cost[i, j] - cost[i, j - 1] - 1) < 1e-9:
            j -= 1
        elif abs(cost[i, j] - cost[i - 1, j] - 1) < 1e-9:
            i -= 1
        else:
            partner[i - 1] = j - 1
            i, j = i - 1, j - 1
    return partner


def _worst(said: Speech, over_time: NDArray[np.float64], text: str) -> str:
    """The words at which two sayings are least alike."""
    window = 25
    if len(over_time) <= 2 * window:
        return "anywhere in the recording"
    at = int(np.argmax(np.convolve(over_time, np.ones(window), mode="valid"))) * 8 * STEP
    words = [
        text[w.at : w.at + w.length] for w in said.words if w.length and at - 0.3 <= w.start <= at + window * 8 * STEP
    ]
    return f"most of all at “{' '.join(words[:8])}”" if words else "anywhere in the recording"


def _no_match(where: str) -> Refusal:
    return Refusal(
        f"Text and sound do not match {where}." if where[0] != "m" else f"Text and sound do not match, {where}.",
        remedy="Type just what is said in the recording, in its language; nothing was changed.",
        kind="mismatch",
    )


def _listed(words: Sequence[str]) -> str:
    quoted = [f"“{w}”" for w in words[:8]]
    return ", ".join(quoted) + (f" and {len(words) - 8} more" if len(words) > 8 else "")
