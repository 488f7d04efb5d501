"""What the name of a mouth's drawing tells: which mouth it is, in which mood, and the letters it stands for.

People name mouths by what is seen of them (“round”, “teeth”) or by the letters they are drawn for (“8 W U”, “M B P”),
in any order, with numbers, and in their own language.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

from sorvan.core.model.puppet import PLAIN, MouthGroup
from sorvan.core.rig.lexicon import MOUTHS
from sorvan.core.rig.names import words
from sorvan.core.voice.phonemes import ARPABET, VOWELS

_WORDS: dict[MouthGroup, tuple[str, ...]] = {
    "rest": (
        "rest", "shut", "closed", "smile", "smiles", "neutral", "x", "sil", "zu", "geschlossen", "ruhe", "lacheln",
        "ferme", "fermee", "repos", "sourire", "cerrada", "cerrado", "reposo", "sonrisa", "chiusa", "chiuso", "riposo",
        "sorriso", "dicht", "rust", "lach", "kiinni", "lepo", "hymy",
    ),
    "pressed": ("pressed", "mbp", "bmp", "together", "gepresst", "pincees", "strette", "yhdessa"),
    "tucked": ("tucked", "fv", "lip under teeth", "bite"),
    "narrow": (
        "narrow", "teeth", "consonants", "etc", "sz", "zahne", "dents", "dientes", "denti", "tanden", "hampaat",
    ),
    "tongue up": ("tongue up", "tongue", "zunge", "langue", "lengua", "lingua", "tong", "kieli"),
    "wide": ("wide", "breit", "large", "ancha", "ancho", "larga", "breed", "levea"),
    "half open": ("half open", "half", "uh", "eh", "schwa", "halb", "entrouverte", "entreabierta", "puoliksi"),
    "open": ("open", "offen", "ouverte", "ouvert", "abierta", "abierto", "aperta", "aperto", "auki"),
    "round open": ("round open", "round", "rund", "ronde", "rond", "redonda", "tonda", "tondo", "pyorea"),
    "pucker": ("pucker", "kiss", "kussmund", "kuss", "bisou", "beso", "bacio", "kus", "suppu"),
}  # fmt: skip
"""What is said of mouths that are named by what is seen of them: in English, German, French, Spanish, Italian, Dutch
and Finnish."""
_MOODS = ("happy", "sad", "angry", "tired", "calm", "scared")
_ALWAYS = MOUTHS | {"mouths", "lip", "and", "und", "et", "ja"}
"""Words that say no more than that it is a mouth."""

_LETTERS: dict[str, str] = {
    "a": "AA AE", "aa": "AA", "ah": "AA", "ai": "AY", "ae": "EH AE", "aw": "AO", "au": "AW",
    "e": "IY EY", "ee": "IY", "ie": "IY", "ij": "IY", "ei": "EY", "i": "IH", "ih": "IH", "eh": "EH", "er": "ER",
    "uh": "AH", "o": "OW AO", "oh": "OW", "ou": "UW", "oo": "UW", "ooh": "UW", "oe": "UW", "ue": "UW", "u": "UW",
    "w": "W", "wh": "W", "q": "W", "qu": "W", "wq": "W",
    "m": "M", "b": "B", "p": "P", "f": "F", "v": "V", "ph": "F",
    "s": "S", "z": "Z", "c": "S", "t": "T", "d": "D", "n": "N", "k": "K", "g": "G", "ck": "K", "ng": "NG", "nk": "NG",
    "gn": "N", "x": "K S", "y": "Y", "j": "JH", "h": "HH", "ch": "CH", "sh": "SH", "sch": "SH", "zh": "ZH", "r": "R",
    "rr": "R", "l": "L", "ll": "L", "th": "TH DH", "dh": "DH",
}  # fmt: skip
"""The sounds that letters of a mouth's name stand for, in ARPAbet."""


KIN: dict[str, tuple[str, ...]] = {
    "N": ("D", "T"), "D": ("T", "N"), "T": ("D", "N"), "Z": ("S",), "S": ("Z",), "ZH": ("SH", "JH", "CH"),
    "SH": ("ZH", "CH", "JH"), "CH": ("SH", "JH"), "JH": ("CH", "SH"), "G": ("K", "NG"), "K": ("G", "NG"),
    "NG": ("G", "K"), "TH": ("DH",), "DH": ("TH",), "ER": ("R",), "R": ("ER",), "W": ("UW",), "UW": ("W",),
}  # fmt: skip
"""The sounds that are seen as nearly the same, the likest first: where one is named, the other goes with it."""


@dataclass(frozen=True)
class Told:
    """What a name tells. `sounds` are those that its letters stand for, if it is made of letters."""

    group: MouthGroup | None
    mood: str = PLAIN
    sounds: tuple[str, ...] = ()

    @property
    def anything(self) -> bool:
        """Whether it tells of a mouth that speaks."""
        return self.group is not None or bool(self.sounds)


def words_of(name: str) -> list[str]:
    """The words and letters of a name, without its numbers."""
    # A letter of its own is another sound with its dots; in a word they are as good as left out.
    for accented, plain in (("ä", "ae"), ("ö", "oe"), ("ü", "ue")):
        name = re.sub(rf"(?<!\w){accented}(?!\w)", plain, name, flags=re.IGNORECASE)
    return [w for w in words(name) if not w.isdecimal()]


def telling() -> frozenset[str]:
    """Every word that tells something of a mouth, even if all mouths of a set are called so."""
    said = {part for listed in _WORDS.values() for word in listed for part in word.split()}
    return frozenset(said | set(_MOODS))


def by_name(name: str, shared: frozenset[str] = frozenset()) -> Told:
    """What a drawing's name tells: “mouth, sad, half open”, “8 W U”. Words that all drawings' names have are `shared`,
    and tell nothing: “beak” of “beak oo”."""
    said = [w for w in words_of(name) if w not in shared and w not in _ALWAYS]
    mood = next((w for w in said if w in _MOODS), PLAIN)
    said = [w for w in said if w != mood]
    text = " ".join(said)
    exact = next((g for g, listed in _WORDS.items() if text in listed or text.replace(" ", "") in listed), None)
    if exact is not None:
        return Told(exact, mood, _spelt(said, name) if exact in ("pressed", "tucked") else ())
    if sounds := _spelt(said, name):
        return Told(_group(sounds), mood, sounds)
    padded = f" {text} "
    fits = [
        (len(word), g) for g, listed in _WORDS.items() for word in listed if len(word) > 2 and f" {word} " in padded
    ]
    if fits:
        return Told(max(fits)[1], mood)
    # One letter of its own among words tells it: “beak oo”, “A, wide awake” does not.
    alone = [w for w in said if w in _LETTERS]
    sounds = _spelt(alone, name) if len(alone) == 1 and len(said) == 2 else ()
    return Told(_group(sounds) if sounds else None, mood, sounds)


def _spelt(said: list[str], name: str) -> tuple[str, ...]:
    """The sounds of a name that is made of letters only; none of any other."""
    found: dict[str, None] = {}
    for word in said:
        capitals = re.search(rf"(?<![A-Za-z]){word.upper()}(?![A-Za-z])", name) is not None
        parts = [word] if word in _LETTERS else _apart(word) if _letters_only(word, capitals) else []
        if not parts:
            return ()
        for part in parts:
            found.update(dict.fromkeys(_LETTERS[part].split()))
    return tuple(found)


def _letters_only(word: str, capitals: bool) -> bool:
    """Whether a word is letters in a row: in capitals, of two letters, or not to be pronounced."""
    return len(word) <= 14 and word.isascii() and (capitals or len(word) == 2 or not re.search("[aeiou]", word))


def _apart(word: str) -> list[str]:
    """A row of letters apart, the longest that stand for a sound of their own first."""
    found: list[str] = []
    while word:
        size = next((n for n in (3, 2, 1) if word[:n] in _LETTERS), 0)
        if not size:
            return []
        found.append(word[:size])
        word = word[size:]
    return found


def _group(sounds: tuple[str, ...]) -> MouthGroup | None:
    """The mouth that is drawn for sounds: as its first vowel looks, else as most of its consonants do. One that is
    drawn for R alone is none of the usual."""
    vowel = next((s for s in sounds if s in VOWELS), None)
    if vowel is not None:
        return ARPABET[vowel][0]
    if set(sounds) == {"R"}:
        return None
    usual = [ARPABET[s][0] for s in sounds]
    return max(usual, key=lambda g: (usual.count(g), -usual.index(g)))
