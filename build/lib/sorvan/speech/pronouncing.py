"""How words are pronounced: by the dictionary, by the user, and, where neither knows, by the synthesiser's rules."""

from __future__ import annotations

import re
from dataclasses import dataclass

from sorvan.core.errors import Refusal
from sorvan.core.voice.phonemes import is_vowel, known, to_arpabet
from sorvan.speech.espeak import ipa


@dataclass(frozen=True)
class Pronounced:
    """A word and its sounds in ARPAbet, without stress; `stress` is which of its vowels bears it (by number),
    `guessed` says that no dictionary has it."""

    text: str
    sounds: tuple[str, ...]
    stress: int | None
    guessed: bool = False


def typed(said: str, word: str) -> tuple[str, ...]:
    """The sounds of a pronunciation that somebody typed, in ARPAbet parted by spaces or in IPA.

    Raises `Refusal` naming what in it is no sound.
    """
    parts = said.split() if " " in said.strip() or said.strip().isupper() else _signs(said)
    found: list[str] = []
    for part in parts:
        sounds = to_arpabet(part)
        if not sounds or not known(part):
            raise Refusal(
                f"“{part}” is no sound.",
                where=f"how “{word}” is said",
                remedy="Type ARPAbet parted by spaces (G AH L) or IPA (ɡʌl).",
            )
        found += sounds
    if not found:
        raise Refusal("There is no sound in it.", where=f"how “{word}” is said", remedy="Type at least one sound.")
    return tuple(found)


def _signs(said: str) -> list[str]:
    """The signs of a word in IPA: diphthongs and affricates together, length and stress with what they belong to."""
    return re.findall(r"[ˈˌ]?(?:tʃ|dʒ|[aeɔoəɪʊ][ɪʊə]|[^\sˈˌː.])ː?", said)


def guessed(word: str, voice: str, letters: bool = False) -> tuple[str, ...]:
    """A word's sounds by the synthesiser's rules, as ARPAbet."""
    if letters:
        word = {"a": "eigh"}.get(word, word.upper())
    return tuple(s for part in ipa(word, voice) for s in to_arpabet(part))


def stressed_vowel(word: str, voice: str) -> int | None:
    """Which vowel of a word bears the stress (by number), or None for a word that is unstressed in a sentence."""
    vowels = [part for part in ipa(word, voice) if is_vowel(part)]
    return next((n for n, part in enumerate(vowels) if "ˈ" in part), None)


def with_stress(sounds: tuple[str, ...], stress: int | None) -> tuple[str, ...]:
    """Sounds in ARPAbet with the digit of stress on every vowel."""
    count = sum(1 for s in sounds if is_vowel(s))
    bears = None if stress is None or not count else min(stress, count - 1)
    found: list[str] = []
    n = 0
    for label in sounds:
        if is_vowel(label):
            found.append(f"{label}{1 if n == bears else 0}")
            n += 1
        else:
            found.append(label)
    return tuple(found)
