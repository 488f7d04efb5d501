"""Sounds of speech: what they are called, and how the mouth looks when they are heard.

Groups of sounds that look alike follow the visemes of ISO/IEC 14496-2 (MPEG-4 facial animation, table C.1),
drawn together into the ten mouths that a cut-out set usually has. ARPAbet is that of the CMU Pronouncing
Dictionary, with its stress digits; IPA is read with its diacritics taken off.
"""

from __future__ import annotations

import unicodedata
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal, NamedTuple, get_args

from sorvan.core.model.puppet import MouthGroup

GROUPS: tuple[MouthGroup, ...] = get_args(MouthGroup)


class Look(NamedTuple):
    """What is seen of a mouth, each from 0 to 1: how open and how wide it is, how round the lips, how much
    the teeth and the tongue show."""

    opening: float
    width: float
    rounding: float
    teeth: float
    tongue: float


LOOKS: dict[MouthGroup, Look] = {
    "rest": Look(0, 0.5, 0, 0, 0),
    "pressed": Look(0, 0.5, 0.1, 0, 0),
    "tucked": Look(0.15, 0.55, 0, 0.8, 0),
    "narrow": Look(0.25, 0.6, 0.1, 0.8, 0.1),
    "tongue up": Look(0.35, 0.5, 0, 0.4, 1),
    "wide": Look(0.35, 0.9, 0, 0.6, 0),
    "half open": Look(0.45, 0.55, 0.1, 0.3, 0.1),
    "open": Look(0.9, 0.65, 0, 0.4, 0.2),
    "round open": Look(0.7, 0.35, 0.7, 0.1, 0),
    "pucker": Look(0.25, 0.15, 1, 0, 0),
}
"""What is seen of each group's mouth."""

SoundKind = Literal["pause", "closure", "contact", "consonant", "vowel"]


@dataclass(frozen=True)
class SpeechSound:
    """What one sound looks like: its mouths one after the other, each with its share of the time; whether the
    lips must meet (`closure`) or touch the teeth (`contact`); and its `stress` (0 none, 1 the word's own, 2 a lesser one)."""

    mouths: tuple[tuple[MouthGroup, float], ...]
    kind: SoundKind
    stress: int = 0
    known: bool = True

    @property
    def seen(self) -> bool:
        """Whether it must be seen: lips that meet or touch the teeth."""
        return self.kind in ("closure", "contact")

    @property
    def look(self) -> Look:
        """What is seen of its first, longer mouth."""
        return LOOKS[self.mouths[0][0]]


FIRST = 0.65
"""The share of a diphthong's first mouth, which is the longer."""

ARPABET: dict[str, tuple[MouthGroup, ...]] = {
    "AA": ("open",), "AE": ("open",), "AH": ("half open",), "AO": ("round open",), "AW": ("open", "pucker"),
    "AY": ("open", "wide"), "B": ("pressed",), "CH": ("narrow",), "D": ("narrow",), "DH": ("tongue up",),
    "EH": ("half open",), "ER": ("half open",), "EY": ("wide",), "F": ("tucked",), "G": ("narrow",),
    "HH": ("narrow",), "IH": ("wide",), "IY": ("wide",), "JH": ("narrow",), "K": ("narrow",), "L": ("tongue up",),
    "M": ("pressed",), "N": ("narrow",), "NG": ("narrow",), "OW": ("round open", "pucker"),
    "OY": ("round open", "wide"), "P": ("pressed",), "R": ("pucker",), "S": ("narrow",), "SH": ("narrow",),
    "T": ("narrow",), "TH": ("tongue up",), "UH": ("half open",), "UW": ("pucker",), "V": ("tucked",),
    "W": ("pucker",), "Y": ("narrow",), "Z": ("narrow",), "ZH": ("narrow",),
}  # fmt: skip
VOWELS = frozenset(("AA", "AE", "AH", "AO", "AW", "AY", "EH", "ER", "EY", "IH", "IY", "OW", "OY", "UH", "UW"))

IPA_OF_ARPABET: dict[str, str] = {
    "AA": "ɑ", "AE": "æ", "AH": "ʌ", "AO": "ɔ", "AW": "aʊ", "AY": "aɪ", "B": "b", "CH": "tʃ", "D": "d", "DH": "ð",
    "EH": "ɛ", "ER": "ɝ", "EY": "eɪ", "F": "f", "G": "ɡ", "HH": "h", "IH": "ɪ", "IY": "i", "JH": "dʒ", "K": "k",
    "L": "l", "M": "m", "N": "n", "NG": "ŋ", "OW": "oʊ", "OY": "ɔɪ", "P": "p", "R": "ɹ", "S": "s", "SH": "ʃ",
    "T": "t", "TH": "θ", "UH": "ʊ", "UW": "u", "V": "v", "W": "w", "Y": "j", "Z": "z", "ZH": "ʒ",
}  # fmt: skip

_IPA_GROUPS: dict[MouthGroup, str] = {
    "pressed": "m b p ɓ ʙ",
    "tucked": "f v ɱ ʋ ⱱ",
    "narrow": "s z t d n k ɡ g j ʃ ʒ h ŋ c ɟ ɲ x ɣ ç ʝ q ɢ χ ʁ ʀ ʔ ʕ ħ ɦ ʈ ɖ ɳ ʂ ʐ ɕ ʑ ɾ ɽ ɰ ɗ ɠ ʄ ʛ ɧ ɴ",
    "tongue up": "l θ ð ɫ ɭ ʎ ʟ ɬ ɮ ɺ",
    "wide": "i ɪ e ᵻ ɨ ɘ",
    "half open": "ə ʌ ɛ ɜ ʊ ɐ ɝ ɚ ɤ ɯ ɵ ᵿ",
    "open": "æ a ɑ",
    "round open": "ɔ ɒ o œ ɞ ɶ",
    "pucker": "w u ʍ ɥ y ʏ ø ʉ ɸ β r ɹ ɻ",
}
_IPA: dict[str, MouthGroup] = {sign: group for group, signs in _IPA_GROUPS.items() for sign in signs.split()}
IPA_VOWELS = frozenset("iɪeᵻɨɘəʌɛɜʊɐɝɚɤɯɵᵿæaɑɔɒoœɞɶuyʏøʉ")
PAUSES = frozenset(("", "sil", "SIL", "sp", "spn", "pau", "#", "_", "<sil>", "<p:>", "+NOISE+"))


def _kind(group: MouthGroup, vowel: bool) -> SoundKind:
    if vowel:
        return "vowel"
    return "closure" if group == "pressed" else "contact" if group == "tucked" else "consonant"


def _shared(groups: tuple[MouthGroup, ...]) -> tuple[tuple[MouthGroup, float], ...]:
    if len(groups) == 1 or groups[0] == groups[-1]:
        return ((groups[0], 1.0),)
    return ((groups[0], FIRST), (groups[-1], 1 - FIRST))


def bare(label: str) -> str:
    """A label without stress, length, tones, tie bars and other diacritics; ARPAbet in capitals as it is."""
    label = label.strip()
    if _arpabet(label):
        return label.rstrip("012").upper()
    apart = unicodedata.normalize("NFD", label)
    return "".join(
        c for c in apart if unicodedata.category(c) not in ("Mn", "Lm", "Sk", "Nd") and c not in "ˈˌːˑ.‿ˠ'^-"
    )


def _arpabet(label: str) -> bool:
    core = label.rstrip("012")
    return core in ARPABET or (len(core) == 2 and core.upper() in ARPABET and core.isascii() and core.isupper())


@lru_cache(maxsize=4096)
def sound(label: str) -> SpeechSound:
    """What a sound looks like, by its label in ARPAbet or IPA. One that is not known counts as narrow, and says so."""
    if label.strip() in PAUSES:
        return SpeechSound((("rest", 1.0),), "pause")
    name = bare(label)
    if _arpabet(label.strip()):
        vowel = name in VOWELS
        stress = int(label.strip()[-1]) if label.strip()[-1] in "12" else 0
        return SpeechSound(_shared(ARPABET[name]), _kind(ARPABET[name][0], vowel), stress if vowel else 0)
    stress = 1 if "ˈ" in label else 2 if "ˌ" in label else 0
    signs = [c for c in name if c in _IPA]
    if not signs:
        return SpeechSound((("narrow", 1.0),), "consonant", known=False)
    groups = [_IPA[c] for c in signs]
    vowels = [c in IPA_VOWELS for c in signs]
    if vowels[0] and len(signs) > 1 and vowels[-1]:
        last: MouthGroup = "pucker" if signs[-1] in "ʊu" else groups[-1]
        # e and ɪ look alike, and so do the two ends of their diphthong.
        return SpeechSound(_shared((groups[0], last)), "vowel", stress)
    lead = next((g for g, v in zip(groups, vowels, strict=True) if v), groups[0])
    return SpeechSound(_shared((lead,)), _kind(lead, any(vowels)), stress)


def is_vowel(label: str) -> bool:
    """Whether a label names a vowel."""
    return sound(label).kind == "vowel"


def known(label: str) -> bool:
    """Whether a label names a sound, or a pause."""
    return sound(label).known


_ARPABET_OF_IPA = {ipa: name for name, ipa in IPA_OF_ARPABET.items()} | {
    "ə": "AH", "ɐ": "AH", "ɜ": "ER", "ɚ": "ER", "ᵻ": "IH", "ɨ": "IH", "e": "EH", "a": "AE", "ɒ": "AA", "o": "OW",
    "əʊ": "OW", "ɪə": "IY", "iə": "IY", "eə": "EH", "ʊə": "UH", "ɛɪ": "EY", "ʌɪ": "AY", "ɑɪ": "AY", "g": "G",
    "r": "R", "ɾ": "D", "ʔ": "T", "x": "K", "ʍ": "W", "ɫ": "L", "y": "UW", "ø": "ER", "œ": "ER", "ɲ": "N",
    "ç": "SH", "ɬ": "L", "ʁ": "R", "χ": "K", "ɣ": "G", "β": "V", "ɸ": "F", "ɕ": "SH", "ʑ": "ZH", "ʂ": "SH",
    "ʐ": "ZH", "ʋ": "V", "ɯ": "UW", "ɤ": "AH", "ʉ": "UW", "ᵿ": "UH", "ɵ": "ER", "ʎ": "L", "c": "K", "ɟ": "G",
    "ts": "T S", "dz": "D Z", "əl": "AH L", "ən": "AH N", "aɪə": "AY AH", "aʊə": "AW AH", "aɪɚ": "AY ER",
    "oːɹ": "AO R", "ɔɹ": "AO R", "oɹ": "AO R", "ɑɹ": "AA R", "ɛɹ": "EH R", "ɪɹ": "IH R", "ʊɹ": "UH R", "q": "K",
    "ɦ": "HH", "ħ": "HH", "ʈ": "T", "ɖ": "D", "ɳ": "N", "ɽ": "D", "ʀ": "R", "ɹ": "R", "ɻ": "R", "iː": "IY", "ai": "AY", "au": "AW",
}  # fmt: skip


def to_arpabet(label: str) -> tuple[str, ...]:
    """The ARPAbet sounds nearest to a label in IPA; a label in ARPAbet as it is. Empty for what is not known."""
    if _arpabet(label.strip()):
        return (bare(label),)
    name = bare(label)
    if name in _ARPABET_OF_IPA:
        return tuple(_ARPABET_OF_IPA[name].split())
    found: list[str] = []
    while name:
        for size in range(min(3, len(name)), 0, -1):
            if name[:size] in _ARPABET_OF_IPA:
                found += _ARPABET_OF_IPA[name[:size]].split()
                break
        else:
            size = 1
        name = name[size:]
    return tuple(found)


def likeness(a: str, b: str) -> float:
    """How unlike two sounds are, from 0 (the same) to 1, by their ARPAbet names, kinds and mouths."""
    if to_arpabet(a) and to_arpabet(a) == to_arpabet(b):
        return 0.0
    x, y = sound(a), sound(b)
    if (x.kind == "pause") != (y.kind == "pause") or (x.kind == "vowel") != (y.kind == "vowel"):
        return 1.0
    return 0.3 if x.mouths == y.mouths else 0.6
