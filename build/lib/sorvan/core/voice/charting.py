"""Working on a phoneme chart: boundaries moved with their neighbours, sounds split, merged and named anew."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal

from sorvan.core.errors import Refusal
from sorvan.core.model.voice import SHORTEST, Chart, Phone, Voice, Word, ends
from sorvan.core.voice.phonemes import PAUSES

Tier = Literal["words", "phones"]
TOGETHER = 0.002
"""Seconds: boundaries of the two tiers that lie nearer than this move together."""


def tier_of(chart: Chart, tier: Tier) -> Mapping[str, Word | Phone]:
    """One tier of a chart."""
    return chart.words if tier == "words" else chart.phones


def entry(voice: Voice, tier: Tier, id: str) -> Word | Phone:
    """An entry of a tier. Raises `Refusal` if it is gone."""
    found = tier_of(voice.chart, tier).get(id)
    if found is None:
        raise Refusal(
            "That part of the chart is gone.",
            where=voice.name,
            remedy="Look at the chart again; it may have been made anew.",
            kind="missing",
        )
    return found


def room(voice: Voice, tier: Tier, id: str) -> tuple[float, float]:
    """Between which times (seconds) the start of an entry can lie, its neighbours staying where they are."""
    row = list(tier_of(voice.chart, tier))
    n = row.index(id)
    starts = [e.start for e in tier_of(voice.chart, tier).values()]
    low = starts[n - 1] + SHORTEST if n else 0.0
    high = (starts[n + 1] if n + 1 < len(starts) else voice.seconds) - SHORTEST
    return low, max(low, high)


def moved(voice: Voice, tier: Tier, id: str, to: float) -> Chart:
    """The chart with the start of an entry at another time, as far as its neighbours leave room; a boundary of
    the other tier at the same place goes along. The neighbour before it ends there."""
    held = entry(voice, tier, id)
    other: Tier = "phones" if tier == "words" else "words"
    pair = next((i for i, e in tier_of(voice.chart, other).items() if abs(e.start - held.start) <= TOGETHER), None)
    low, high = room(voice, tier, id)
    if pair is not None:
        beside = room(voice, other, pair)
        low, high = max(low, beside[0]), min(high, beside[1])
    at = round(min(max(to, low), max(low, high)), 5)
    chart = _with(voice.chart, tier, {id: held.changed(start=at)})
    if pair is not None:
        chart = _with(chart, other, {pair: tier_of(chart, other)[pair].changed(start=at)})
    return chart


def split(voice: Voice, tier: Tier, id: str, at: float, new: str, label: str) -> Chart:
    """The chart with an entry cut in two at a time; the second part gets the label."""
    held = entry(voice, tier, id)
    if new in tier_of(voice.chart, tier):
        raise Refusal("That id is taken already.", where=new, remedy="Try again.", kind="conflict")
    row = tier_of(voice.chart, tier)
    after = list(row)[list(row).index(id) + 1 :]
    end = row[after[0]].start if after else voice.seconds
    if not held.start + SHORTEST <= at <= end - SHORTEST:
        raise Refusal(
            "There is no room to split it there.",
            where=f"{at:.3f} s",
            remedy=f"Choose a time between {held.start + SHORTEST:.3f} and {end - SHORTEST:.3f} s.",
        )
    given = {"start": round(at, 5), **named(tier, label)}
    return _with(voice.chart, tier, {new: held.changed(**given)})


def merged(voice: Voice, tier: Tier, id: str) -> Chart:
    """The chart without the boundary at which an entry begins: the one before it goes on to its end. The
    first entry can't be merged."""
    entry(voice, tier, id)
    row = tier_of(voice.chart, tier)
    if next(iter(row)) == id:
        raise Refusal("Nothing comes before it to merge it with.", where=voice.name, remedy="Choose a later one.")
    return _without(voice.chart, tier, id)


def relabelled(voice: Voice, tier: Tier, id: str, label: str) -> Chart:
    """The chart with an entry called otherwise; without a label it is a pause."""
    held = entry(voice, tier, id)
    return _with(voice.chart, tier, {id: held.changed(sure=1.0, **named(tier, label))})


def named(tier: Tier, label: str) -> dict[str, str]:
    """The field of an entry that its label is, the usual signs for a pause made empty."""
    bare = label.strip()
    return {"text": bare} if tier == "words" else {"label": "" if bare in PAUSES else bare}


def put(voice: Voice, tier: Tier, id: str, at: float, label: str) -> Chart:
    """The chart with an entry that begins at a time, as when somebody taps along: what was there ends then."""
    row = tier_of(voice.chart, tier)
    near = next((i for i, e in row.items() if abs(e.start - at) < SHORTEST), None)
    if near is not None:
        return relabelled(voice, tier, near, label)
    time = round(at, 5)
    made = Word(start=time, text=label) if tier == "words" else Phone(start=time, label=named(tier, label)["label"])
    chart = _with(voice.chart, tier, {id: made})
    return chart if chart.source != "none" else chart.changed(source="hand")


TEST_LINE: tuple[tuple[str, str], ...] = (
    ("", ""), ("M", "mm"), ("IY1", "ee"), ("F", "ff"), ("AA1", "ah"), ("S", "ss"), ("AH1", "uh"), ("L", "ll"),
    ("AO1", "aw"), ("UW1", "oo"), ("", ""),
)  # fmt: skip
"""A line that speaks every group of sounds once: the label of each sound, and how it is spelled."""
TEST_BEAT = 0.4
"""Seconds that each sound of the test line lasts."""


def test_chart() -> Chart:
    """The chart of the test line, for looking at a set of mouths."""
    return Chart(
        source="hand",
        words={f"w{n}": Word(start=round(n * TEST_BEAT, 3), text=word) for n, (_, word) in enumerate(TEST_LINE)},
        phones={f"p{n}": Phone(start=round(n * TEST_BEAT, 3), label=label) for n, (label, _) in enumerate(TEST_LINE)},
    )


def _with(chart: Chart, tier: Tier, entries: Mapping[str, Word | Phone]) -> Chart:
    return chart.changed(**{tier: {**tier_of(chart, tier), **entries}})


def _without(chart: Chart, tier: Tier, id: str) -> Chart:
    return chart.changed(**{tier: {i: e for i, e in tier_of(chart, tier).items() if i != id}})


def word_at(voice: Voice, time: float) -> str:
    """The word that is said at a time of the line (seconds), or nothing."""
    return next((w.text for _, w, end in ends(voice.chart.words, voice.seconds) if w.start <= time < end), "")


def filled(timed: list[tuple[float, float, str]], seconds: float, gap: float = 0.001) -> list[tuple[float, str]]:
    """Entries (start, end, label) in order as a tier without holes: where nothing is, a pause.

    Holes shorter than `gap` seconds are none.
    """
    found: list[tuple[float, str]] = []
    at = 0.0
    for start, end, label in timed:
        start = max(start, at)
        if end - start < SHORTEST:
            continue
        if start - at >= max(gap, SHORTEST):
            found.append((at, ""))
        elif found or at == 0.0:
            start = at
        found.append((start, label))
        at = end
    if seconds - at >= max(gap, SHORTEST):
        found.append((at, ""))
    return found
