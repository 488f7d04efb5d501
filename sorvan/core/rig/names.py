"""Reading names of joints and pieces in the several habits and languages people have."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterator

from sorvan.core.model.base import LONGEST_NAME
from sorvan.core.model.puppet import Side
from sorvan.core.rig.lexicon import LIMBS

_TOKEN = re.compile(r"[A-Z]?[a-z]+|[A-Z]+(?![a-z])|\d+|[^\W\d_a-zA-Z]+")
"""Words and numbers in `upperArmL2`, `upper_arm.l 2`, `Upper Arm (L) 2` alike."""

_PAIRS = (
    ("left", "right"), ("l", "r"), ("lft", "rgt"), ("lt", "rt"),
    ("links", "rechts"), ("linker", "rechter"), ("linke", "rechte"), ("linkes", "rechtes"), ("linken", "rechten"),
    ("gauche", "droite"), ("gauche", "droit"),
    ("izquierda", "derecha"), ("izquierdo", "derecho"), ("izq", "der"),
    ("sinistra", "destra"), ("sinistro", "destro"), ("sx", "dx"),
    ("vasen", "oikea"), ("vasemman", "oikean"),
)  # fmt: skip
"""Words for left and right: English, German and Dutch, French, Spanish, Italian, Finnish."""
_CORNERS = (("fl", "fr"), ("bl", "br"), ("hl", "hr"), ("rl", "rr"))
"""Front, back, hind and rear left and right, as a four-legged animal's legs are called. Of limbs only."""
_DEPTHS = (("far", "near"), ("back", "front"), ("hinterer", "vorderer"), ("hinteres", "vorderes"))
"""Sides of a figure seen from its right: what is near us is its right. They count for limbs only,
since hair and clothes have fronts and backs too, and near and far before front and back, since an
animal has near and far front legs."""


def _told(pairs: tuple[tuple[str, str], ...]) -> dict[str, Side]:
    return {**{left: "left" for left, _ in pairs}, **{right: "right" for _, right in pairs}}


SIDES, _NAMED_CORNERS, DEPTHS = _told(_PAIRS), _told(_CORNERS), _told(_DEPTHS)
_ALL = (*_PAIRS, *_CORNERS, *_DEPTHS)
# Of several words on the other side, the first that is listed.
_TWINS = {right: left for left, right in _ALL} | dict(reversed(_ALL))
_COPIES = frozenset(("copy", "kopie", "copie", "copia", "kopio"))


def _plain(name: str) -> str:
    """The name letter for letter without accents, so that `Flügel` is one word. As long as the name."""
    return "".join(unicodedata.normalize("NFKD", c)[0] if c.isalpha() else c for c in name.replace("ß", "s"))


def _tokens(name: str) -> list[re.Match[str]]:
    return list(_TOKEN.finditer(_plain(name)))


def words(name: str) -> list[str]:
    """The words and numbers of a name, in small letters without accents."""
    found = (m.group().lower() for m in _tokens(name))
    return [str(int(w)) if w.isdecimal() and w.isascii() else w for w in found]


def _side_words(name: str) -> Iterator[re.Match[str]]:
    """The words that may tell the side, the surest first."""
    found = _tokens(name)
    limb = any(m.group().lower() in LIMBS for m in found)
    # “5 R” and “L” among mouths are letters, not sides: a letter needs something that it is the side of.
    named = any(len(m.group()) > 1 and not m.group().isdecimal() for m in found)
    yield from (m for m in found if m.group().lower() in SIDES and (named or len(m.group()) > 1))
    if limb:
        yield from (m for m in found if m.group().lower() in _NAMED_CORNERS)
        for pair in _DEPTHS:
            yield from (m for m in found if m.group().lower() in pair)


def _side_word(name: str) -> re.Match[str] | None:
    return next(_side_words(name), None)


def side_of(name: str) -> Side:
    """The side that a name speaks of: left/right, L/R, or, of a limb, FL/FR, near/far and front/back."""
    match = _side_word(name)
    if match is None:
        return "centre"
    word = match.group().lower()
    return SIDES.get(word) or _NAMED_CORNERS.get(word) or DEPTHS[word]


def by_depth(name: str) -> bool:
    """Whether a name tells its side by depth (near/far, front/back): such twins lie behind one
    another and are alike, not mirrored."""
    match = _side_word(name)
    return match is not None and match.group().lower() in DEPTHS


def sideless(name: str) -> tuple[str, ...]:
    """The words and numbers of a name but for its side, and but for “copy”: what twins have in common."""
    match = _side_word(name)
    if match is None:
        rest = words(name)
    else:
        word = match.group().lower()
        # Of a corner, front or back is no side: only twins across the animal are meant.
        kept = word[0] if word in _NAMED_CORNERS else ""
        rest = [*words(name[: match.start()]), *([kept] if kept else []), *words(name[match.end() :])]
    return tuple(w for w in rest if w not in _COPIES)


def twin_name(name: str, side: Side) -> str:
    """The name of the other side's piece: the side word swapped, or the new side put in front."""
    match = _side_word(name)
    if match is None:
        return name if side == "centre" else fitted(f"{side} {name}")
    word = match.group()
    swapped = _TWINS[word.lower()]
    if word.isupper():
        swapped = swapped.upper()
    elif word[0].isupper():
        swapped = swapped.capitalize()
    return fitted(name[: match.start()] + swapped + name[match.end() :])


def plain_name(name: str) -> str:
    """A name without the “copy” and the numbers behind it that it got when it was duplicated."""
    found = _tokens(name)
    while len(found) > 1 and (found[-1].group().isdecimal() or found[-1].group().lower() in _COPIES):
        found.pop()
    return name[: found[-1].end()] if found else name


def fitted(name: str, ending: str = "") -> str:
    """A name with an ending, cut before the ending to the length that a name may have."""
    return name[: LONGEST_NAME - len(ending)].rstrip() + ending
