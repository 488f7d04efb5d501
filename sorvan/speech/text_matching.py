"""Whether a text is what is said in a recording: refused where it plainly is not, with the stretch.

A wrong text is laid onto any recording by an aligner, somehow. What tells is that its own words fit in another
order as well; the right ones fit in theirs better by far.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from sorvan.core.errors import Refusal
from sorvan.core.voice.loudness import Loudness
from sorvan.core.voice.phonemes import is_vowel
from sorvan.core.voice.warp import STEP
from sorvan.speech.english import Aligned, Aligner, Reports
from sorvan.speech.espeak import Speech

MOST_A_SECOND = 25.0
"""Sounds that nobody says in a second of speech: a text with more does not belong to the sound."""
ALL_UNSURE, FAR_OFF = 0.55, 0.4
"""How well words agree with what is heard freely (0 to 1): less on the whole is a sign of another text; far less is
one by itself."""
UNLIKE = 0.75
"""Beside a text said backwards: how unlike the recording a synthesiser's saying may be (see `warp.likeness`).
People speak in many ways and rooms, so these are signs only."""
UNLIKE_BY_VOICE = 0.93
"""The same where it is the only sign there is."""
BETTER = 1.9
"""By how much a text fits better than its own words in another order (see `Aligner.margin`) if it is right: by 2.5 to
12 in a hall, else by far more; another one by 1.9 at most."""
PART, DOUBTED, UNSURE = 7, 8, 0.6
"""Words in a part of a line that is looked at alone; how many parts are, the most unsure ones; and how sure one is
that needs no look."""
CLEAR, DOUBTFUL, WRONG = 8.0, 2.0, -4.0
"""Margins of a line that is heard clearly in its best part, of a part of it that may be another text, and of one
that plainly is. In a hall, or with an accent that the model does not know, a right part may have 0 to -3."""
UNSAID = 1.2
"""Seconds of speech that no word of the text is for, after which a text plainly does not match."""


def not_too_many(counts: Sequence[int], heard: Loudness) -> None:
    """Raises `Refusal` if a text has more sounds than can be said in the time that somebody speaks."""
    talk = float(np.count_nonzero(heard.level > heard.threshold)) * 0.01
    if sum(counts) > MOST_A_SECOND * max(talk, 0.2):
        raise Refusal(
            f"The text is too long for the sound: {sum(counts):,} sounds in {talk:.1f} s of speech.",
            remedy="Take out of the text what is not said in this recording.",
            kind="mismatch",
        )


def matching(found: Aligned, aligner: Aligner, heard: Loudness, unlike: float, tell: Reports) -> list[str]:
    """What of a text may not be what is said: a sentence for each part. `unlike` is how unlike the recording a
    synthesiser's saying of it is.

    Raises `Refusal` where the text plainly is not what is said.
    """
    spans: dict[int, tuple[float, float]] = {}
    for sound in found.sounds:
        if sound.word >= 0:
            begin, _ = spans.get(sound.word, (sound.start, 0.0))
            spans[sound.word] = begin, sound.end
    lengths = np.array([b - a for a, b in spans.values()])
    agreed = float(np.average([found.sure[n] for n in spans], weights=np.maximum(lengths, 1e-6)))
    suspicious = agreed < FAR_OFF or (agreed < ALL_UNSURE and unlike > UNLIKE)
    whole = _span(spans, 0, len(found.words))
    if suspicious and aligner.margin(found.words, *whole, lambda part: tell(part, "Checking the text")) < BETTER:
        raise no_match("anywhere in the recording")
    told = _parts(found, aligner, spans, tell, refusing=not suspicious)
    for sound in found.sounds:
        if sound.label or sound.end - sound.start < UNSAID:
            continue
        row = heard.level[round(sound.start * 100) : round(sound.end * 100)]
        if np.count_nonzero(row > heard.speech - 18) * 0.01 >= UNSAID:
            raise no_match(f"from {sound.start:.1f} to {sound.end:.1f} s, where the recording says more than the text")
    return told


def _span(spans: Mapping[int, tuple[float, float]], first: int, stop: int) -> tuple[float, float]:
    """From when to when words `first` up to `stop` are said; one may have got no time at all."""
    own = [spans[n] for n in range(first, stop) if n in spans] or [(0.0, 0.1)]
    return own[0][0], max(own[-1][1], own[0][0] + 0.1)


def _parts(
    found: Aligned, aligner: Aligner, spans: Mapping[int, tuple[float, float]], tell: Reports, refusing: bool
) -> list[str]:
    """Parts of a line that may be another text, though the line is heard clearly elsewhere.

    `refusing`, raises `Refusal` if one plainly is.
    """
    count = max(1, round(len(found.words) / PART))
    cuts = [round(n * len(found.words) / count) for n in range(count + 1)]
    parts = [(a, b, float(np.mean(found.sure[a:b]))) for a, b in pairwise(cuts)]
    best = max(parts, key=lambda part: part[2])
    doubted = sorted((p for p in parts if p[2] < UNSURE and p is not best), key=lambda part: part[2])[:DOUBTED]

    def margin(part: tuple[int, int, float], done: int) -> float:
        of = len(doubted) + 1
        return aligner.margin(
            found.words[part[0] : part[1]],
            *_span(spans, part[0], part[1]),
            lambda share: tell((done + share) / of, "Checking what is unsure"),
        )

    if not doubted or margin(best, 0) < CLEAR:
        return []
    told = []
    for done, part in enumerate(sorted(doubted), 1):
        by = margin(part, done)
        if by >= DOUBTFUL:
            continue
        begin, end = _span(spans, part[0], part[1])
        said = " ".join(w.text for w in found.words[part[0] : part[1]])
        if by < WRONG and refusing:
            raise no_match(f"from {begin:.1f} to {end:.1f} s, at “{said}”")
        told.append(f"“{said}” may not be what is said from {begin:.1f} to {end:.1f} s: listen to it.")
    return told


def where_in_doubt(words: Sequence[tuple[str, tuple[str, ...]]], heard: Sequence[str]) -> str:
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


def least_alike(said: Speech, over_time: NDArray[np.float64], text: str) -> str:
    """The words at which two sayings are least alike."""
    window = 25
    if len(over_time) <= 2 * window:
        return "anywhere in the recording"
    at = int(np.argmax(np.convolve(over_time, np.ones(window), mode="valid"))) * 8 * STEP
    words = [
        text[w.at : w.at + w.length] for w in said.words if w.length and at - 0.3 <= w.start <= at + window * 8 * STEP
    ]
    return f"most of all at “{' '.join(words[:8])}”" if words else "anywhere in the recording"


def no_match(where: str) -> Refusal:
    return Refusal(
        f"Text and sound do not match {where}." if where[0] != "m" else f"Text and sound do not match, {where}.",
        remedy="Type just what is said in the recording, in its language; nothing was changed.",
        kind="mismatch",
    )
