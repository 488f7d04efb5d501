"""Mouth sets: which mouth takes which sound, the nearest where one is missing, and what a set lacks."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from sorvan.core.model.puppet import PLAIN, Dial, Mouth, MouthChart, MouthGroup, Piece, Puppet
from sorvan.core.voice.mouth_names import KIN, by_name, telling, words_of
from sorvan.core.voice.phonemes import ARPABET, GROUPS, LOOKS, VOWELS, Look, bare, sound

WEIGHTS = np.array([1.0, 0.6, 0.9, 0.3, 0.5])
"""How much each part of a look counts: opening, width, rounding, teeth, tongue."""
FAR = 0.62
"""Two mouths farther apart than this make a jump that an in-between mouth softens."""


def apart(a: NDArray[np.float64], b: NDArray[np.float64]) -> NDArray[np.float64]:
    """How far looks are from one another: the length of their weighted difference. Arrays end in the five parts."""
    found: NDArray[np.float64] = np.sqrt((((a - b) * WEIGHTS) ** 2).sum(axis=-1))
    return found


def opposite(a: Look | tuple[float, ...], b: Look | tuple[float, ...]) -> bool:
    """Whether two looks are so unlike that neither may stand for the other: wide and rounded, shut and wide open."""
    return (abs(a[2] - b[2]) >= 0.6 and abs(a[1] - b[1]) >= 0.5) or abs(a[0] - b[0]) >= 0.6


def nearest(look: Look | tuple[float, ...], mouths: Iterable[Mouth]) -> Mouth | None:
    """The mouth that looks most like this, of those that aren't its opposite if there are any; of equals the first. None
    of none."""
    every = list(mouths)
    found = [m for m in every if not opposite(look, m.look)] or every
    if not found:
        return None
    looks = np.array([m.look for m in found])
    return found[int(np.argmin(apart(looks, np.array(look))))]


def group_of(mouth: Mouth) -> MouthGroup | None:
    """Which of the usual mouths one is: as it is told, called, or looks."""
    named = next((g for g in GROUPS if g == mouth.name.lower()), None)
    return mouth.group or named or next((g for g in GROUPS if tuple(LOOKS[g]) == tuple(mouth.look)), None)


def speaking(chart: MouthChart) -> list[Mouth]:
    """The mouths that sounds are given to by themselves."""
    return [m for m in chart.mouths.values() if m.speaks]


def of_group(chart: MouthChart, group: MouthGroup) -> Mouth | None:
    """The mouth that stands for a group: the one that is of it, else the nearest. None if the set is empty."""
    own = next((m for m in speaking(chart) if group_of(m) == group), None)
    return own or nearest(LOOKS[group], speaking(chart))


def missing(chart: MouthChart) -> dict[MouthGroup, Mouth]:
    """The groups that no mouth of the set is made for, and the mouth that fills in for each."""
    there = {group_of(m) for m in speaking(chart)}
    return {g: m for g in GROUPS if g not in there and (m := of_group(chart, g)) is not None}


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


def proposed(piece: Piece) -> MouthChart:
    """A mouth chart for the drawings of a piece, by their names. Where names tell what is drawn, one whose name tells
    nothing is no speaking mouth; where hardly any does, mouths are told by their sizes."""
    boxes = {float(d.number): (d.bounds[2] - d.bounds[0], d.bounds[3] - d.bounds[1]) for d in piece.drawings}
    row = [(drawing.name, float(drawing.number)) for drawing in piece.drawings]
    return MouthChart(piece=piece.id, **_named(row, boxes))


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
    return MouthChart(dial=dial.id, **_named(row, {}))


ENOUGH = 3
"""So many drawings' names must tell something for one that tells nothing to be left out."""
LIKE_R = Look(0.3, 0.35, 0.5, 0.2, 0.1)
"""A mouth drawn for R alone: a little open, its lips a little forward."""


def _named(row: list[tuple[str, float]], boxes: Mapping[float, tuple[float, float]]) -> dict[str, Any]:
    """Moods and mouths by names, in their order, each with the value that shows it, and the sounds that they take; `boxes`
    are how wide and high what a value shows is."""
    mouths: dict[str, Mouth] = {}
    letters: dict[str, tuple[str, ...]] = {}
    moods: dict[str, None] = {PLAIN: None}
    alike = frozenset.intersection(*(frozenset(words_of(name)) for name, _ in row)) if len(row) > 1 else frozenset()
    told = [(called, value, by_name(called, alike - telling())) for called, value in row]
    speak = sum(t.anything for *_, t in told) >= ENOUGH
    for called, value, tells in told:
        moods.setdefault(tells.mood)
        name = tells.group if tells.group and not tells.sounds else _without_mood(called, tells.mood)
        id = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:40] or f"m{len(mouths)}"
        look = LOOKS[tells.group] if tells.group else LIKE_R if tells.sounds else _by_size(boxes, value)
        untold = Mouth(id=id, name=name, look=look, group=tells.group, speaks=tells.anything or not speak)
        held = mouths.get(id) or untold
        if tells.mood not in held.shows:
            held = held.changed(shows={**held.shows, tells.mood: (value,)})
        mouths[id] = held
        letters.setdefault(id, tells.sounds)
        if len(mouths) == 24:
            break
    return {"moods": tuple(moods), "mouths": mouths, "sounds": _taken_by_letters(mouths, letters)}


def _taken_by_letters(mouths: Mapping[str, Mouth], letters: Mapping[str, tuple[str, ...]]) -> dict[str, str]:
    """The sounds that mouths named by letters take beyond what is usual: of another kind of mouth, or where two mouths
    of the set are of that kind. A vowel of another kind stands for more sounds than one, and is left as it is."""
    groups = [m.group for m in mouths.values() if m.group is not None]
    found: dict[str, str] = {}
    for id, labels in letters.items():
        for label in labels:
            usual = ARPABET[label][0]
            own = usual == mouths[id].group
            if (own and groups.count(usual) > 1) or (not own and label not in VOWELS):
                found.setdefault(label, id)
    said = {label for labels in letters.values() for label in labels}
    kin = {label: next((found[k] for k in likes if k in found), None) for label, likes in KIN.items()}
    return found | {label: id for label, id in kin.items() if id is not None and label not in said}


def _by_size(boxes: Mapping[float, tuple[float, float]], value: float) -> Look:
    """How a mouth looks of which only the size of its picture is known, beside the others of its set."""
    if value not in boxes or len(boxes) < 2:
        return LOOKS["half open"]
    width, height = boxes[value]
    widest, highest = (max(max(b[n] for b in boxes.values()), 1e-6) for n in (0, 1))
    round_ = max(0.0, 1 - width / widest) * min(1.0, height / max(width, 1e-6))
    return Look(min(0.9 * height / highest, 1.0), min(0.9 * width / widest, 1.0), min(1.3 * round_, 1.0), 0.2, 0.0)


def _without_mood(name: str, mood: str) -> str:
    return re.sub(rf"\b{mood}\b", "", name, flags=re.IGNORECASE).strip(" ,-_") or name


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
