"""A synthesiser's voice, through its library: what it says, and when it says each word and sound.

espeak-ng (Debian's `libespeak-ng1`) keeps its state in globals, and what was said before is heard in what is said
next: another length, other samples. So every saying has a copy of the library to itself, which is let go with it, and
the same text is always said in the same way.
"""

from __future__ import annotations

import ctypes
import ctypes.util
import tempfile
from contextlib import closing
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from threading import Lock

import numpy as np
from numpy.typing import NDArray

from sorvan.core.errors import Refusal

SYNCHRONOUS = 2
WITH_PHONEMES, IN_IPA, NO_EXIT = 0x0001, 0x0002, 0x8000
UTF8 = 1
RATE, PITCH, RANGE, WORD_GAP = 1, 3, 4, 7
WORD, PHONEME = 1, 7
SLOWEST, FASTEST = 80, 450
"""Words a minute between which a voice speaks."""


class _Event(ctypes.Structure):
    _fields_ = [
        ("type", ctypes.c_int),
        ("unique_identifier", ctypes.c_uint),
        ("text_position", ctypes.c_int),
        ("length", ctypes.c_int),
        ("audio_position", ctypes.c_int),
        ("sample", ctypes.c_int),
        ("user_data", ctypes.c_void_p),
        ("id", ctypes.c_char * 8),
    ]


class _Voice(ctypes.Structure):
    _fields_ = [
        ("name", ctypes.c_char_p),
        ("languages", ctypes.c_char_p),
        ("identifier", ctypes.c_char_p),
        ("gender", ctypes.c_ubyte),
        ("age", ctypes.c_ubyte),
        ("variant", ctypes.c_ubyte),
        ("xx1", ctypes.c_ubyte),
        ("score", ctypes.c_int),
        ("spare", ctypes.c_void_p),
    ]


_dlclose = ctypes.CDLL(None).dlclose
_dlclose.argtypes = [ctypes.c_void_p]
_Heard = ctypes.CFUNCTYPE(ctypes.c_int, ctypes.POINTER(ctypes.c_short), ctypes.c_int, ctypes.POINTER(_Event))


@dataclass(frozen=True)
class Said:
    """One sound that a voice said: when (seconds) and which, in IPA; empty for a pause."""

    start: float
    end: float
    label: str


@dataclass(frozen=True)
class SaidWord:
    """One word that a voice said: when it began (seconds), and which letters of the text it is."""

    start: float
    at: int
    length: int


@dataclass(frozen=True)
class Speech:
    """A text as a voice said it: samples (-1 to 1), their rate (a second), sounds and words in order."""

    samples: NDArray[np.float32]
    rate: int
    sounds: tuple[Said, ...]
    words: tuple[SaidWord, ...]


@dataclass(frozen=True)
class Language:
    """A language that a voice speaks: its code (BCP 47) and its name in English."""

    code: str
    name: str


@cache
def _library() -> bytes:
    """The library's file."""
    name = ctypes.util.find_library("espeak-ng") or "libespeak-ng.so.1"
    try:
        ctypes.CDLL(name)
    except OSError:
        raise Refusal(
            "The voice that says texts is not installed.",
            where="espeak-ng",
            remedy="Install Debian's package espeak-ng.",
            kind="not-there",
        ) from None
    lines = Path("/proc/self/maps").read_text().splitlines()
    return next(Path(line.split()[-1]) for line in lines if "libespeak-ng" in line).read_bytes()


class _Engine:
    """A copy of the library that nothing else uses."""

    def __init__(self) -> None:
        # The loader knows a file by its place: only one of its own is loaded anew.
        with tempfile.NamedTemporaryFile(suffix=".so") as own:
            own.write(_library())
            own.flush()
            self.lib = ctypes.CDLL(own.name)
        self.lib.espeak_TextToPhonemes.restype = ctypes.c_char_p
        self.lib.espeak_ListVoices.restype = ctypes.POINTER(ctypes.POINTER(_Voice))
        self.rate = int(self.lib.espeak_Initialize(SYNCHRONOUS, 200, None, WITH_PHONEMES | IN_IPA | NO_EXIT))
        self.lock = Lock()
        self._heard = _Heard(self._hear)
        self.lib.espeak_SetSynthCallback(self._heard)
        self._blocks: list[bytes] = []
        self._events: list[tuple[int, int, int, int, str]] = []

    def _hear(self, samples: object, count: int, events: object) -> int:
        if count and samples:
            self._blocks.append(ctypes.string_at(samples, count * 2))  # type: ignore[arg-type]
        n = 0
        while events and events[n].type:  # type: ignore[index]
            e = events[n]  # type: ignore[index]
            if e.type in (WORD, PHONEME):
                name = bytes(e.id).split(b"\0")[0].decode("utf-8", "ignore") if e.type == PHONEME else ""
                self._events.append((e.type, e.sample, e.text_position, e.length, name))
            n += 1
        return 0

    def close(self) -> None:
        """Let the library go. Nothing of it can be used after."""
        self.lib.espeak_Terminate()
        _dlclose(self.lib._handle)

    def say(self, text: str, voice: str, speed: int, pitch: int, gap: int) -> Speech:
        with self.lock:
            self._blocks, self._events = [], []
            self._speak_as(voice)
            for what, value in ((RATE, speed), (PITCH, pitch), (WORD_GAP, gap)):
                self.lib.espeak_SetParameter(what, value, 0)
            data = text.encode()
            self.lib.espeak_Synth(data, len(data) + 1, 0, 0, 0, UTF8, None, None)
            samples = np.frombuffer(b"".join(self._blocks), dtype="<i2").astype(np.float32) / np.float32(32768)
            return self._told(samples)

    def _told(self, samples: NDArray[np.float32]) -> Speech:
        end = len(samples) / self.rate
        marks = [(min(s / self.rate, end), name) for kind, s, _, _, name in self._events if kind == PHONEME]
        sounds = tuple(
            Said(at, after, "" if name.startswith("_") else name)
            for (at, name), (after, _) in zip(marks, [*marks[1:], (end, "")], strict=True)
            if after > at
        )
        words = tuple(
            SaidWord(min(s / self.rate, end), at - 1, length) for kind, s, at, length, _ in self._events if kind == WORD
        )
        return Speech(samples, self.rate, sounds, words)

    def ipa(self, word: str, voice: str) -> tuple[str, ...]:
        with self.lock:
            self._speak_as(voice)
            text = ctypes.c_char_p(word.encode())
            found: list[str] = []
            while text.value:
                said = self.lib.espeak_TextToPhonemes(ctypes.byref(text), UTF8, ord("_") << 8 | 0x02)
                found += (said or b"").decode("utf-8", "ignore").replace(" ", "_").split("_")
            return tuple(p for p in found if p.strip("ˈˌː"))

    def _speak_as(self, voice: str) -> None:
        if self.lib.espeak_SetVoiceByName(_file_of(voice).encode()) != 0:
            raise Refusal(
                "No voice speaks that language.",
                where=voice,
                remedy="Choose one of the languages that are offered.",
                kind="missing",
            )


@cache
def _engine() -> _Engine:
    """One for what does not depend on what was said before: the voices, and how words are said."""
    return _Engine()


def say(text: str, voice: str = "en", speed: int = 160, pitch: int = 50, gap: int = 0) -> Speech:
    """A text said by the voice of a language, at so many words a minute (80 to 450), at a pitch from 0 to 100,
    with a `gap` between words (hundredths of a second at normal speed).

    Raises `Refusal` if no voice speaks that language.
    """
    with closing(_Engine()) as engine:
        return engine.say(text, voice, speed, pitch, gap)


def ipa(word: str, voice: str = "en-us") -> tuple[str, ...]:
    """The sounds of a word by the rules of a language's voice, in IPA, stress marks and all."""
    return _engine().ipa(word, voice)


@cache
def _listed() -> tuple[tuple[str, str, str], ...]:
    """Code, English name and file of every voice."""
    found: list[tuple[str, str, str]] = []
    row = _engine().lib.espeak_ListVoices(None)
    while row[len(found)]:
        voice = row[len(found)].contents
        # The first byte says how well it speaks the language.
        code = voice.languages[1:].split(b"\0")[0].decode()
        found.append((code, voice.name.decode().replace("_", " ").strip(), voice.identifier.decode()))
    return tuple(found)


@cache
def _voices() -> dict[str, str]:
    return {code.lower(): file for code, _, file in reversed(_listed())}


def _file_of(voice: str) -> str:
    """The file of a language's voice; what follows a “+” is a variant of it, such as another speaker."""
    code, plus, variant = voice.partition("+")
    return _voices().get(code.lower(), code) + plus + variant


def languages() -> tuple[Language, ...]:
    """Every language that a voice speaks, by its English name."""
    found = {code: name for code, name, _ in reversed(_listed())}
    return tuple(Language(code, name) for code, name in sorted(found.items(), key=lambda f: f[1].lower()))
