"""Mouth sets: which mouth takes which sound, the nearest where one is missing, and what a set lacks."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from sorvan.core.model.puppet import PLAIN, Dial, Mouth, MouthChart, Piece, Puppet
from sorvan.core.voice.phonemes import ARPABET, GROUPS, LOOKS, Look, MouthGroup, bare, sound

WEIGHTS = np.array([1.0, 0.6, 0.9, 0.3, 0.5])
"""How much each part of a look counts: opening, width, rounding, teeth, tongue."""
FAR = 0.62
"""Two mouths farther apart than this make a jump that an in-between mouth softens."""


def apart(a: NDArray[np.float64], b: NDArray[np.float64]) -> NDArray[np.float64]:
    """How far looks are from one another: the length of their weighted difference. Arrays end in the five parts."""
    found: NDArray[np.float64] = np.sqrt((((a - b) * WEIGHTS) ** 2).sum(axis=-1))
    return found


def nearest(look: Look | tuple[float, ...], mouths: Iterable[Mouth]) -> Mouth | None:
    """The mouth that looks most like this; of equals the first. None of none."""
    found = list(mouths)
    if not found:
        return None
    looks = np.array([m.look for m in found])
    return found[int(np.argmin(apart(looks, np.array(look))))]


def of_group(chart: MouthChart, group: MouthGroup) -> Mouth | None:
    """The mouth that stands for a group: the one called so, else the nearest. None if the set is empty."""
    named = next((m for m in chart.mouths.values() if m.name.lower() == group), None)
    return named or nearest(LOOKS[group], chart.mouths.values())


def missing(chart: MouthChart) -> dict[MouthGroup, Mouth]:
    """The groups that no mouth of the set is made for, and the mouth that fills in for each.

    A group is filled when a mouth has its name, or looks just like it.
    """
    names = {m.name.lower() for m in chart.mouths.values()}
    looks = {m.look for m in chart.mouths.values()}
    lacking = [g for g in GROUPS if g not in names and tuple(LOOKS[g]) not in looks]
    return {g: m for g in lacking if (m := nearest(LOOKS[g], chart.mouths.values())) is not None}


def override(chart: MouthChart, label: str) -> Mouth | None:
    """The mouth that the chart's own table gives to a sound, by its label as it is or without stress and length."""
    for name in (label.strip(), bare(label)):
        if name in chart.sounds:
            return chart.mouths[chart.sounds[name]]
    return None


def taken_by(chart: MouthChart, label: str) -> tuple[tuple[Mouth, float], ...]:
    """The mouths that a sound takes, one after the other, each with its share of the time. None of an empty set."""
    if (told := override(chart, label)) is not None:
        return ((told, 1.0),)
    return tuple((m, share) for group, share in sound(label).mouths if (m := of_group(chart, group)) is not None)


@dataclass(frozen=True)
class MouthKeys:
    """What is keyed to show a mouth: values of its channel one after the other, and whether they are those of
    the mood that was asked for."""

    values: tuple[float, ...]
    of_mood: bool


def shown(mouth: Mouth, mood: str) -> MouthKeys | None:
    """What shows a mouth in a mood; the plain one where the mood has none of its own. None if nothing does."""
    if mouth.shows.get(mood):
        return MouthKeys(mouth.shows[mood], True)
    return MouthKeys(mouth.shows[PLAIN], mood == PLAIN) if mouth.shows.get(PLAIN) else None


def by_value(chart: MouthChart) -> dict[float, Mouth]:
    """The mouth that each value of the chart's channel shows."""
    found: dict[float, Mouth] = {}
    for mouth in chart.mouths.values():
        for value in (v for values in mouth.shows.values() for v in values):
            found.setdefault(value, mouth)
    return found


def usual_chart() -> MouthChart:
    """The ten usual mouths, for whoever has no puppet yet."""
    mouths = {
        f"m{n}": Mouth(id=f"m{n}", name=group, look=LOOKS[group], shows={PLAIN: (float(n),)})
        for n, group in enumerate(GROUPS)
    }
    return MouthChart(piece="mouth", mouths=mouths)


_WORDS: dict[MouthGroup, tuple[str, ...]] = {
    "rest": ("rest", "shut", "closed", "smile", "smiles", "neutral", "x", "sil"),
    "pressed": ("pressed", "m", "b", "p", "mbp", "bmp", "lips together"),
    "tucked": ("tucked", "f", "v", "fv"),
    "narrow": ("narrow", "s", "teeth", "consonants", "etc", "t", "d", "k", "sz"),
    "tongue up": ("tongue up", "tongue", "l", "th"),
    "wide": ("wide", "ee", "e", "i", "ih"),
    "half open": ("half open", "half", "uh", "eh", "schwa"),
    "open": ("open", "a", "ah", "ai", "aa"),
    "round open": ("round open", "round", "o", "oh", "aw"),
    "pucker": ("pucker", "oo", "u", "w", "wq", "ooh"),
}
_MOODS = ("happy", "sad", "angry", "tired", "calm", "scared")


def _words_of(name: str) -> list[str]:
    return [w for w in re.split(r"[^a-zA-Z]+", name.lower()) if w]


def by_name(name: str, shared: frozenset[str] = frozenset()) -> tuple[MouthGroup | None, str]:
    """The group and the mood that a drawing's name speaks of, if it does: “mouth, sad, half open”. Words that all
    drawings' names have are `shared`, and tell nothing: “beak” of “beak oo”."""
    said = [w for w in _words_of(name) if w not in shared and w not in ("mouth", "mouths", "lips")]
    mood = next((w for w in said if w in _MOODS), PLAIN)
    text = " ".join(w for w in said if w != mood)
    exact = next((g for g, words in _WORDS.items() if text in words or text.replace(" ", "") in words), None)
    if exact is not None:
        return exact, mood
    padded = f" {text} "
    fits = [(len(word), g) for g, words in _WORDS.items() for word in words if len(word) > 2 and f" {word} " in padded]
    return (max(fits)[1] if fits else None), mood


def proposed(piece: Piece) -> MouthChart:
    """A mouth chart for the drawings of a piece, by their names; what no name tells looks half open."""
    moods, mouths = _named([(drawing.name, float(drawing.number)) for drawing in piece.drawings])
    return MouthChart(piece=piece.id, moods=moods, mouths=mouths)


def proposed_dial(puppet: Puppet, dial: Dial) -> MouthChart:
    """A mouth chart for the stops of a dial, by the names of the drawings that they choose."""
    row: list[tuple[str, float]] = []
    for stop in dial.stops:
        names = [
            d.name
            for channel, values in stop.values.items()
            if channel.endswith(".show")
            for d in puppet.pieces[channel.removesuffix(".show")].drawings
            if d.number == values[0]
        ]
        row.append((names[0] if names else f"at {stop.at:g}", stop.at))
    moods, mouths = _named(row)
    return MouthChart(dial=dial.id, moods=moods, mouths=mouths)


def _named(row: list[tuple[str, float]]) -> tuple[tuple[str, ...], dict[str, Mouth]]:
    """Moods and mouths by names, each with the value that shows it."""
    mouths: dict[str, Mouth] = {}
    moods: dict[str, None] = {PLAIN: None}
    telling = {part for words in _WORDS.values() for word in words for part in word.split()} | set(_MOODS)
    alike = frozenset.intersection(*(frozenset(_words_of(name)) for name, _ in row)) if len(row) > 1 else frozenset()
    shared = alike - telling
    for called, value in row:
        group, mood = by_name(called, shared)
        moods.setdefault(mood)
        name = group or _without_mood(called, mood)
        id = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:40] or f"m{len(mouths)}"
        held = mouths.get(id) or Mouth(id=id, name=name, look=LOOKS[group or "half open"])
        if mood not in held.shows:
            held = held.changed(shows={**held.shows, mood: (value,)})
        mouths[id] = held
        if len(mouths) == 24:
            break
    order: Mapping[str, int] = {g.replace(" ", "-"): n for n, g in enumerate(GROUPS)}
    sorted_ = sorted(mouths.values(), key=lambda m: order.get(m.id, len(order)))
    return tuple(moods), {m.id: m for m in sorted_}


def _without_mood(name: str, mood: str) -> str:
    return re.sub(rf"\b{mood}\b", "", name, flags=re.IGNORECASE).strip(" ,-") or name


LETTERS: dict[str, str] = {
    "m": "M", "b": "B", "p": "P", "f": "F", "v": "V", "s": "S", "t": "T", "k": "K", "l": "L", "e": "IY", "i": "IH",
    "h": "AH", "a": "AA", "o": "AO", "u": "UW", "w": "W", "r": "R", "x": "",
}  # fmt: skip
"""The sound that each letter of the keyboard stands for when mouths are put in by hand; x is a pause."""


def letters(chart: MouthChart) -> dict[str, str]:
    """The mouth that each letter puts in."""
    return {key: taken[0][0].id for key, label in LETTERS.items() if (taken := taken_by(chart, label))}


def sounds_by_mouth(chart: MouthChart) -> dict[str, list[str]]:
    """The sounds of English that each mouth takes, by the chart's own table or as is usual; a diphthong goes with
    its first mouth. Sounds of other kinds that the table names come after them."""
    found: dict[str, list[str]] = {id: [] for id in chart.mouths}
    for label in (*ARPABET, *(s for s in chart.sounds if s not in ARPABET)):
        if taken := taken_by(chart, label):
            found[taken[0][0].id].append(label)
    return found
