"""Phoneme charts found from a sound: by its text, by way of a synthesiser's voice, or by its loudness alone."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import groupby
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from sorvan.core.errors import Refusal
from sorvan.core.late import late
from sorvan.core.model.voice import SHORTEST, Chart, Phone, Source, Word
from sorvan.core.voice.charting import filled
from sorvan.core.voice.loudness import HOP, Loudness, loudness, rough, silent
from sorvan.core.voice.spelling import spoken as spelled_out
from sorvan.core.voice.warp import STEP, Samples, cepstra, likeness, warped
from sorvan.speech.english import RATE, Aligner, NotFound, Reports
from sorvan.speech.espeak import Speech, say
from sorvan.speech.pronouncing import with_stress
from sorvan.speech.text_matching import UNLIKE_BY_VOICE, least_alike, matching, no_match, not_too_many, where_in_doubt

signal = late("scipy.signal")

LONG_PAUSE = 0.3
"""Seconds of silence that no word has within it."""


@dataclass(frozen=True)
class Wanted:
    """What a chart is to be found from: the sound (one channel, 16,000 samples a second), its text, the language,
    and how single words are said. With `spread` the text is only laid out over what is heard, to be dragged by hand."""

    mono: Samples
    text: str
    language: str = "en-us"
    spoken: Mapping[str, str] | None = None
    spread: bool = False


def is_english(language: str) -> bool:
    """Whether a language is aligned by its own model."""
    return language.lower().split("-")[0] == "en"


def chart(wanted: Wanted, tell: Reports = lambda _, __: None) -> Chart:
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
    if wanted.spread:
        return laid_out(wanted, heard)
    return by_text(wanted, heard, tell) if is_english(wanted.language) else by_voice(wanted, heard, tell)


def by_loudness(wanted: Wanted, heard: Loudness) -> Chart:
    """A rough chart: closed, half open and open by loudness, teeth where it hisses."""
    seconds = len(wanted.mono) / RATE
    row = [(t, label) for t, label in rough(wanted.mono) if t < seconds - SHORTEST]
    note = "Found by loudness alone, without a text: rough. Type what is said, and find its sounds."
    return _chart("loudness", note, [], [(t, label, 0.3) for t, label in row], heard, seconds, set())


def laid_out(wanted: Wanted, heard: Loudness) -> Chart:
    """A chart to begin by hand with: the text's words and sounds over the stretches in which something is heard,
    as long beside one another as a synthesiser says them, and long pauses between words. Raises `Refusal` if there
    is nothing to say in the text."""
    said, seconds = _said(wanted), len(wanted.mono) / RATE
    spans = _voiced_words(said, wanted.text)
    loud = heard.level > heard.threshold
    total = np.concatenate([[0.0], np.cumsum(loud)]) / np.count_nonzero(loud)
    told = np.concatenate([[0.0], np.cumsum([s.end - s.start if s.label else 0.0 for s in said.sounds])])
    times = np.array([s.start for s in said.sounds] + [said.sounds[-1].end])
    own = _at_pauses(np.interp([a for a, _, _ in spans], times, told / told[-1]), loud, total)

    def at(time: float, side: Literal["left", "right"] = "right") -> float:
        """The time in the recording; where a pause lies, its end, or with `left` its begin."""
        part = float(np.interp(np.interp(time, times, told / told[-1]), *own))
        steps = np.flatnonzero(loud)
        step = steps[
            min(int(np.searchsorted(total[steps + 1], part + (1e-9 if side == "right" else -1e-9))), len(steps) - 1)
        ]
        return float(step + np.clip((part - total[step]) / (total[step + 1] - total[step]), 0, 1)) * HOP

    sounds = [(at(s.start), s.label, 0.3, -1) for s in said.sounds if s.label]
    end = at(said.sounds[-1].end, "left")
    if end < seconds - SHORTEST:
        sounds.append((end, "", 1.0, -1))
    row = [(start, label, sure) for start, label, sure, _ in _trimmed(sounds, heard, seconds)]
    words = [(at(a), at(b, "left"), text, 0.3) for a, b, text in spans]
    note = "Laid out by length alone, without listening: drag the words to where they are said."
    return _chart("hand", note, words, row, heard, seconds, set())


def _at_pauses(
    begins: NDArray[np.float64], loud: NDArray[np.bool_], total: NDArray[np.float64]
) -> tuple[list[float], list[float]]:
    """How far into all that is said a text is (0 to 1), and how far that is to be, so that each long pause of the
    recording falls between two words: at the begin of the nearest."""
    quiet = np.flatnonzero(np.diff(np.concatenate([[False], ~loud, [False]]).astype(int)))
    saying, heard = [0.0], [0.0]
    for first, stop in quiet.reshape(-1, 2):
        part = float(total[first])
        if (stop - first) * HOP < LONG_PAUSE or not 0 < part < 1 or not len(begins):
            continue
        nearest = float(begins[np.abs(begins - part).argmin()])
        if saying[-1] < nearest < 1 and part > heard[-1]:
            saying.append(nearest)
            heard.append(part)
    return [*saying, 1.0], [*heard, 1.0]


def by_text(wanted: Wanted, heard: Loudness, tell: Reports) -> Chart:
    """English, by forced alignment. Raises `Refusal` naming the stretch where text and sound do not match."""
    words = spelled_out(wanted.text)
    if not words:
        raise Refusal("There is no word in the text.", remedy="Type what is said in the recording.", kind="empty")
    aligner = Aligner()
    known = aligner.pronounced(words, wanted.language, dict(wanted.spoken or {}))
    not_too_many([len(w.sounds) for w in known], heard)
    tell(0.05, "Saying the text")
    unlike, _ = likeness(cepstra(wanted.mono), cepstra(mono_of(say(wanted.text, wanted.language))))
    try:
        found = aligner.align(wanted.mono, known, lambda part, what: tell(0.24 + 0.76 * part, what))
    except NotFound as missed:
        raise no_match(where_in_doubt([(w.text, w.sounds) for w in known], missed.heard)) from None
    seconds = len(wanted.mono) / RATE
    doubts = matching(found, aligner, heard, unlike, tell)
    row: list[HeardSound] = []
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
    if guesses:
        doubts.append(f"No dictionary has {_listed(sorted(guesses))}: how it is said is a guess.")
    return _chart("text", " ".join(doubts), words_found, phones, heard, seconds, guesses)


EDGE, CLOSED = 0.02, 0.06
"""Seconds of silence that a sound beside a pause may keep, and that a stop may: its closure is not heard."""
PAUSE = 0.15
"""Seconds of silence inside a sound that are a pause of their own."""
HeardSound = tuple[float, str, float, int]
"""When a sound begins (seconds), its label, how sure it is, and the number of its word."""
STOPS = frozenset(("P", "B", "T", "D", "K", "G", "CH", "JH"))


def _trimmed(phones: list[HeardSound], heard: Loudness, seconds: float) -> list[HeardSound]:
    """Sounds without the silence that the aligner gave to them rather than to the pause beside them, which it may
    have left out altogether."""
    found: list[HeardSound] = []
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


def by_voice(wanted: Wanted, heard: Loudness, tell: Reports) -> Chart:
    """Any language that a voice speaks: it says the text, and when it said what is carried over to the recording.

    Raises `Refusal` if no voice speaks the language, or the two sayings are plainly not alike.
    """
    tell(0.0, "Saying the text")
    said = _said(wanted)
    not_too_many([sum(bool(s.label) for s in said.sounds)], heard)
    tell(0.05, "Comparing the two")
    model, own = cepstra(mono_of(said)), cepstra(wanted.mono)
    unlike, over_time = likeness(model, own)
    if unlike > UNLIKE_BY_VOICE:
        raise no_match(least_alike(said, over_time, wanted.text))
    warp = warped(model, own, lambda part: tell(0.25 + 0.75 * part, "Laying one over the other"))
    seconds = len(wanted.mono) / RATE
    usual = float(np.median(warp.cost)) or 1.0
    phones: list[tuple[float, str, float]] = []
    for sound in said.sounds:
        row = warp.cost[round(sound.start / STEP) : round(sound.end / STEP) + 1]
        sure = float(np.clip(1.6 - 0.8 * row.mean() / usual, 0, 1)) if len(row) else 1.0
        phones.append((warp.at(sound.start), sound.label, sure if sound.label else 1.0))
    words = [(warp.at(a), warp.at(b), word, 1.0) for a, b, word in _voiced_words(said, wanted.text)]
    note = "Found by way of a synthesiser's voice: less exact than English, within about two frames."
    chart = _chart("voice", note, words, phones, heard, seconds, set())
    tell(1.0, "Done")
    return chart


def _said(wanted: Wanted) -> Speech:
    """A text as a voice says it. Raises `Refusal` if there is nothing to say in it."""
    said = say(wanted.text, wanted.language)
    if any(s.label for s in said.sounds):
        return said
    raise Refusal("There is nothing to say in the text.", remedy="Type what is said in the recording.", kind="empty")


def _voiced_words(said: Speech, text: str) -> list[tuple[float, float, str]]:
    """The words that a voice said, each until its last sound ends."""
    found: list[tuple[float, float, str]] = []
    marks = [w for w in said.words if w.length > 0]
    for n, word in enumerate(marks):
        limit = marks[n + 1].start if n + 1 < len(marks) else said.sounds[-1].end
        own = [s for s in said.sounds if s.label and word.start - 0.02 <= s.start < limit - 0.02]
        label = text[word.at : word.at + word.length].strip(' .,;:!?¡¿«»"“”()')
        if own and label:
            found.append((own[0].start, own[-1].end, label))
    return found


def mono_of(said: Speech) -> Samples:
    """What a voice said, at the rate of cepstra."""
    return signal.resample_poly(said.samples, 320, 441).astype(np.float32)


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


def _listed(words: Sequence[str]) -> str:
    quoted = [f"“{w}”" for w in words[:8]]
    return ", ".join(quoted) + (f" and {len(words) - 8} more" if len(words) > 8 else "")
