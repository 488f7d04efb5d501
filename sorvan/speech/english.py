"""Forced alignment of English with pocketsphinx: where in a recording each sound of a text is.

Two passes, as the decoder has them: words first, then the sounds of the words found. Its model is the one
that its wheel brings. Scores of its free phone loop tell how sure each word is.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from pocketsphinx import Decoder, get_model_path

from sorvan.core.errors import Refusal
from sorvan.core.voice.phonemes import likeness
from sorvan.core.voice.spelling import SpokenWord
from sorvan.speech.pronouncing import Pronounced, guessed, stressed_vowel, typed

Reports = Callable[[float, str], None]
"""Called with how much is done (0 to 1) and what is being done."""
RATE = 16_000
FRAME = 0.01
"""Seconds that one frame of the decoder lasts."""
CENTRE = 0.01
"""A frame is heard through a window of 25.6 ms that begins with it, so what it tells is later by about this much."""
PAD = 0.2
"""Seconds of near silence that the decoder wants around what is said."""
LATE = 0.012
"""Seconds by which the closure of a voiceless stop is found too early: its window already hears the sound fade."""
VOICELESS = frozenset(("P", "T", "K", "CH"))
AIR, ORDERS = 0.1, 6
"""Seconds of sound heard around a part that is looked at alone, and other orders of its words tried on it."""
CHUNK = 2 * RATE
WIDE = {"beam": 1e-200, "wbeam": 1e-150, "pbeam": 1e-200, "bestpath": False}
STOPS = frozenset(("P", "B", "T", "D", "K", "G", "CH", "JH"))
CLOSED = 0.07
"""Seconds: silence no longer than this before a stop is its closure."""
FILLERS = frozenset(("SIL", "+NOISE+", "+SPN+", "+BREATH+", "+COUGH+", "+SMACK+", "+UH+", "+UM+"))
LETTERS = {"a": "EY"}


@dataclass(frozen=True)
class HeardPhone:
    """One sound that was found: when (seconds), its ARPAbet, and the number of its word; -1 for a pause."""

    start: float
    end: float
    label: str
    word: int


@dataclass(frozen=True)
class Aligned:
    """A text found in a recording: its sounds with pauses, in order, how sure each word is (0 to 1)."""

    words: tuple[Pronounced, ...]
    sounds: tuple[HeardPhone, ...]
    sure: tuple[float, ...]


class Aligner:
    """A decoder that was made ready, for one line at a time."""

    def __init__(self) -> None:
        self.decoder = Decoder(lm=None, loglevel="FATAL", **WIDE)
        self._sound: tuple[bytes, str] = (b"", "")

    def pronounced(
        self, words: Sequence[SpokenWord], voice: str, spoken: dict[str, str] | None = None
    ) -> tuple[Pronounced, ...]:
        """How each word is said: as the user says, by the dictionary, or as a guess that is marked.

        Raises `Refusal` for a pronunciation that can't be read.
        """
        known: dict[SpokenWord, Pronounced] = {}
        for word in words:
            if word not in known:
                known[word] = self._word(word, voice, spoken or {})
        return tuple(known[w] for w in words)

    def _word(self, word: SpokenWord, voice: str, spoken: dict[str, str]) -> Pronounced:
        stress = None if word.letters else stressed_vowel(word.text, voice)
        if word.text in spoken:
            return Pronounced(word.text, typed(spoken[word.text], word.text), stress)
        if word.letters and word.text in LETTERS:
            return Pronounced(word.text, (LETTERS[word.text],), 0)
        found = self.decoder.lookup_word(word.text)
        if found:
            return Pronounced(word.text, tuple(found.split()), stress)
        return Pronounced(word.text, guessed(word.text, voice, word.letters), stress, guessed=True)

    def align(self, mono: NDArray[np.float32], words: Sequence[Pronounced], tell: Reports) -> Aligned:
        """Where each sound of these words is in a sound at 16,000 samples a second.

        Raises `Refusal` if the words can't be found in it in this order.
        """
        pcm = prepared(mono)
        heard, mean = free_sounds(pcm, lambda part: tell(0.45 * part, "Listening"))
        self._sound = pcm, mean
        alignment = self._aligned(words, self._sound, tell)
        if alignment is None:
            raise NotFound(heard)
        return self._read(alignment, words, heard, len(mono) / RATE)

    def margin(self, words: Sequence[Pronounced], start: float, end: float, tell: Callable[[float], None]) -> float:
        """By how much words fit the sound that was aligned last, from `start` to `end` (seconds), better than the
        same words in some other order: the least of a few orders, for every frame. The right words do by far."""
        pcm, mean = self._sound
        first, stop = (2 * round((t + PAD + by) * RATE) for t, by in ((start, -AIR), (end, AIR)))
        clip = pcm[max(first, 0) : stop], mean
        own = self._score(words, clip, tell, 0)
        if own is None:
            return -np.inf
        told = [np.inf]
        for seed in range(ORDERS):
            turned = np.arange(len(words))[::-1] if seed == 0 else np.random.default_rng(seed).permutation(len(words))
            other = [words[int(n)] for n in turned]
            same = [w.sounds for w in other] == [w.sounds for w in words]
            score = None if same else self._score(other, clip, tell, seed + 1)
            if score is not None:
                told.append((own - score) * FRAME / (end - start))
        return float(min(told))

    def _score(
        self, words: Sequence[Pronounced], sound: tuple[bytes, str], tell: Callable[[float], None], done: int
    ) -> float | None:
        """How well words fit a sound, or None if they can't be found in it in this order: the next of the orders that
        are tried, of which so many are done."""
        alignment = self._aligned(words, sound, lambda part, _: tell((done + part) / (ORDERS + 1)))
        return None if alignment is None else float(sum(w.score for w in alignment))

    def _aligned(self, words: Sequence[Pronounced], sound: tuple[bytes, str], tell: Reports) -> Any:
        """The decoder's two passes over a sound: words, then their sounds. None where the first finds none."""
        pcm, mean = sound
        self.decoder.set_align_text(" ".join(self._name(w) for w in words))
        self._run(pcm, mean, lambda part: tell(0.45 + 0.27 * part, "Finding the words"))
        if self.decoder.hyp() is None:
            return None
        try:
            self.decoder.set_alignment()
        except RuntimeError:
            return None
        self._run(pcm, mean, lambda part: tell(0.72 + 0.28 * part, "Finding the sounds"))
        return self.decoder.get_alignment()

    def _name(self, word: Pronounced) -> str:
        """The name that the decoder's dictionary has for a word said so; added where it has none."""
        plain = self.decoder.lookup_word(word.text)
        if plain is not None and plain.split() == list(word.sounds):
            return word.text
        # A name of its own keeps other pronunciations of the dictionary out.
        name = f"{word.text}~{'-'.join(word.sounds)}"
        if self.decoder.lookup_word(name) is None:
            self.decoder.add_word(name, " ".join(word.sounds), True)
        return name

    def _run(self, pcm: bytes, mean: str, tell: Callable[[float], None]) -> None:
        self.decoder.start_utt()
        for at in range(0, len(pcm), 2 * CHUNK):
            # It would let the mean of the cepstra drift; that of the whole line is the better one.
            self.decoder.set_cmn(mean)
            self.decoder.process_raw(pcm[at : at + 2 * CHUNK], False, False)
            tell(min((at + 2 * CHUNK) / len(pcm), 1.0))
        self.decoder.end_utt()

    def _read(self, alignment: object, words: Sequence[Pronounced], heard: Sequence[str], seconds: float) -> Aligned:
        sounds: list[HeardPhone] = []
        sure: list[float] = []
        said: list[Pronounced] = []
        for word in alignment:  # type: ignore[attr-defined]
            phones = [(p.start, p.start + p.duration, p.name) for p in word]
            pause = word.name.startswith("<") or all(name in FILLERS for _, _, name in phones)
            number = -1 if pause else len(said)
            for start, end, name in phones:
                label = "" if name in FILLERS else name
                begin, stop = _time(start, seconds), _time(end, seconds)
                if stop > begin:
                    sounds.append(HeardPhone(begin, stop, label, number if label else -1))
            if not pause:
                own = words[len(said)]
                # A word may be said in the dictionary's other way.
                said.append(Pronounced(own.text, tuple(n for _, _, n in phones), own.stress, own.guessed))
                sure.append(_agreement(phones, heard))
        if len(said) != len(words):
            raise NotFound(heard)
        return Aligned(tuple(said), tuple(_late(_closures(sounds))), tuple(sure))


class NotFound(Exception):
    """A text is not in a recording in its order; `heard` are the sounds that were heard instead, one a frame."""

    def __init__(self, heard: Sequence[str]) -> None:
        super().__init__("the text was not found")
        self.heard = heard


def _time(frame: int, seconds: float) -> float:
    return float(np.clip(frame * FRAME - PAD + CENTRE, 0, seconds))


def _closures(sounds: list[HeardPhone]) -> list[HeardPhone]:
    """Sounds with each short silence before a stop given to it, and any other very short one to what it follows."""
    found: list[HeardPhone] = []
    begun: float | None = None
    for n, sound in enumerate(sounds):
        if not sound.label and 0 < n < len(sounds) - 1 and sound.end - sound.start <= CLOSED:
            if sounds[n + 1].label in STOPS:
                begun = sound.start
            elif found:
                last = found[-1]
                found[-1] = HeardPhone(last.start, sound.end, last.label, last.word)
            continue
        found.append(HeardPhone(sound.start if begun is None else begun, sound.end, sound.label, sound.word))
        begun = None
    return found


def _late(sounds: list[HeardPhone]) -> list[HeardPhone]:
    """Sounds with the beginning of each voiceless stop put right."""
    starts = [s.start + LATE if s.label in VOICELESS and s.end - s.start > 2 * LATE else s.start for s in sounds]
    stops = [*starts[1:], sounds[-1].end] if sounds else []
    return [HeardPhone(a, b, s.label, s.word) for s, a, b in zip(sounds, starts, stops, strict=True)]


def _agreement(phones: Sequence[tuple[int, int, str]], heard: Sequence[str]) -> float:
    """How well a word's sounds agree with those heard freely, over its frames: 0 to 1."""
    row = [1 - likeness(name, heard[k]) for a, b, name in phones for k in range(a, min(b, len(heard)))]
    return float(np.mean(row)) if row else 0.0


def prepared(mono: NDArray[np.float32]) -> bytes:
    """A sound as the decoder takes it: 16 bits, at a usual level, with near silence around it and a floor of
    noise 60 dB under it, without which digital silence misleads it."""
    top = float(np.abs(mono).max()) if len(mono) else 0.0
    if top < 1e-5:
        raise Refusal("The sound is silent.", remedy="Choose a recording in which somebody speaks.", kind="empty")
    level = 0.5 / top
    pad = np.zeros(round(PAD * RATE), dtype=np.float32)
    whole = np.concatenate([pad, mono * level, pad])
    noise = np.random.default_rng(0).normal(0, 5e-4, len(whole))
    return bytes((np.clip(whole + noise, -1, 1) * 32767).astype("<i2").tobytes())


def free_sounds(pcm: bytes, tell: Callable[[float], None]) -> tuple[list[str], str]:
    """What is heard without knowing the text: an ARPAbet sound for every frame, empty for none; and the mean of
    the cepstra of all frames, as the decoder writes it."""
    decoder = Decoder(
        lm=None, loglevel="FATAL", allphone=get_model_path("en-us/en-us-phone.lm.bin"), allphone_ci=True,
        lw=2.0, beam=1e-10, pbeam=1e-10, topn=2, bestpath=False,
    )  # fmt: skip
    heard = [""] * (len(pcm) // 2 // round(FRAME * RATE) + 2)
    means: list[list[float]] = []
    sizes: list[int] = []
    size = 20 * 2 * CHUNK // 4
    for at in range(0, len(pcm), size):
        decoder.start_utt()
        decoder.process_raw(pcm[at : at + size], full_utt=True)
        decoder.end_utt()
        means.append([float(v) for v in decoder.get_cmn(False).split(",")])
        sizes.append(len(pcm[at : at + size]))
        base = at // 2 // round(FRAME * RATE)
        for segment in decoder.seg():
            label = "" if segment.word in FILLERS or segment.word.startswith(("<", "+")) else segment.word
            for k in range(base + segment.start_frame, min(base + segment.end_frame + 1, len(heard))):
                heard[k] = label
        tell(min((at + size) / len(pcm), 1.0))
    mean = np.average(np.array(means), axis=0, weights=sizes)
    return heard, ",".join(f"{v:.4f}" for v in mean)
