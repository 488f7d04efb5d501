"""Reading names of joints and pieces in the several habits people have."""

from __future__ import annotations

import re
from collections.abc import Iterator

from sorvan.core.model.base import LONGEST_NAME
from sorvan.core.model.puppet import Side

_TOKEN = re.compile(r"[A-Z]?[a-z]+|[A-Z]+(?![a-z])|[^\W\d_a-zA-Z]+")
"""Words in `upperArmL`, `upper_arm.l`, `Upper Arm (L)` alike."""

SIDES: dict[str, Side] = {"left": "left", "l": "left", "lft": "left", "right": "right", "r": "right", "rgt": "right"}
DEPTHS: dict[str, Side] = {"front": "right", "near": "right", "back": "left", "far": "left"}
"""Sides of a figure seen from its right: what is near us is its right. They count for limbs only,
since hair and clothes have fronts and backs too."""
TWINS = {
    "left": "right", "right": "left", "l": "r", "r": "l", "lft": "rgt", "rgt": "lft",
    "front": "back", "back": "front", "near": "far", "far": "near",
}  # fmt: skip
LIMBS = frozenset(
    [
        "arm",
        "upperarm",
        "forearm",
        "lowerarm",
        "hand",
        "wrist",
        "elbow",
        "shoulder",
        "finger",
        "fingers",
        "thumb",
        "leg",
        "upperleg",
        "lowerleg",
        "thigh",
        "shin",
        "calf",
        "knee",
        "ankle",
        "foot",
        "feet",
        "shoe",
        "boot",
        "toe",
        "toes",
        "heel",
        "paw",
        "wing",
        "limb",
        "hip",
    ]
)


def words(name: str) -> list[str]:
    """The words of a name, in small letters."""
    return [m.group().lower() for m in _TOKEN.finditer(name)]


def _side_words(name: str) -> Iterator[re.Match[str]]:
    found = list(_TOKEN.finditer(name))
    limb = any(m.group().lower() in LIMBS for m in found)
    yield from (m for m in found if m.group().lower() in SIDES)
    if limb:
        yield from (m for m in found if m.group().lower() in DEPTHS)


def side_of(name: str) -> Side:
    """The side that a name speaks of: left/right, L/R, or, of a limb, near/far and front/back."""
    for match in _side_words(name):
        word = match.group().lower()
        return SIDES.get(word) or DEPTHS[word]
    return "centre"


def by_depth(name: str) -> bool:
    """Whether a name tells its side by depth (near/far, front/back): such twins lie behind one
    another and are alike, not mirrored."""
    first = next(_side_words(name), None)
    return first is not None and first.group().lower() in DEPTHS


def twin_name(name: str, side: Side) -> str:
    """The name of the other side's piece: the side word swapped, or the new side put in front."""
    for match in _side_words(name):
        word = match.group()
        swapped = TWINS[word.lower()]
        if word.isupper():
            swapped = swapped.upper()
        elif word[0].isupper():
            swapped = swapped.capitalize()
        return fitted(name[: match.start()] + swapped + name[match.end() :])
    return name if side == "centre" else fitted(f"{side} {name}")


def fitted(name: str, ending: str = "") -> str:
    """A name with an ending, cut before the ending to the length that a name may have."""
    return name[: LONGEST_NAME - len(ending)].rstrip() + ending
