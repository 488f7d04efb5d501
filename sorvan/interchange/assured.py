"""What is kept, looked at before it is kept: that it is what it says, no larger than what is brought in may be, and whole.

An archive brings assets that nobody here has made. Each is read here once, as everything from outside is, so that whoever
draws, plays or serves it later can trust it.
"""

from __future__ import annotations

import io
from collections.abc import Callable
from dataclasses import dataclass, field

import soundfile
from pydantic import ValidationError

from sorvan.core.errors import Refusal
from sorvan.core.model.art import Art
from sorvan.core.model.documents import Documents
from sorvan.core.model.voice import LONGEST_SOUND, SOUND_RATE
from sorvan.interchange import limits
from sorvan.interchange.pictures import PNG, decode, whole_png
from sorvan.interchange.sounds import PEAKS_MEDIA, SOUND_MEDIA, peaks_bytes
from sorvan.picture.studio import ART_MEDIA

JPEG = b"\xff\xd8\xff"
BLOCK = 1 << 20
"""Samples that are decoded at a time."""


def _damaged(where: str, what: str) -> Refusal:
    return Refusal(
        f"Something in the archive {what}.", where=where, remedy="Export the production again.", kind="damaged"
    )


@dataclass
class Assured:
    """Assets that were looked at: by id the media type, the pictures that each drawing uses, and the samples and channels
    of each sound (of its peaks the samples alone)."""

    media: dict[str, str] = field(default_factory=dict)
    pictures: dict[str, frozenset[str]] = field(default_factory=dict)
    sounds: dict[str, tuple[int, int]] = field(default_factory=dict)
    pixels: int = 0

    def take(self, id: str, media: str, data: bytes | bytearray, where: str) -> None:
        """Look at one more. Raises `Refusal` if it is not what it is called, damaged, or too large."""
        _LOOKS[media](self, id, data, where)
        self.media[id] = media

    def fit(self, documents: Documents, where: str) -> None:
        """Raises `Refusal` unless everything that documents name is there, of the right kind and as long as they say."""
        pictures = documents.picture_assets().union(*(self.pictures.get(id, ()) for id in documents.art_assets()))
        named = (
            (documents.art_assets(), ART_MEDIA),
            (frozenset(pictures), "image/"),
            (documents.sound_assets(), ""),
        )
        lacking = {id for ids, kind in named for id in ids if not self.media.get(id, "none").startswith(kind)}
        if lacking:
            raise _damaged(where, f"is missing: {len(lacking)} of its drawings, pictures and sounds")
        for voice in documents.voices():
            if (sound := voice.sound) is None:
                continue
            samples, channels = self.sounds.get(sound.asset, (0, 0))
            drawn, _ = self.sounds.get(sound.peaks, (0, 0))
            if abs(samples / SOUND_RATE - sound.seconds) > 0.001 or channels != sound.channels or drawn != samples:
                raise _damaged(where, f"does not fit: the sound of “{voice.name}” is not as it says")

    def _drawing(self, id: str, data: bytes | bytearray, where: str) -> None:
        try:
            self.pictures[id] = Art.model_validate_json(data).pictures()
        except (ValidationError, RecursionError):
            raise _damaged(where, "is no drawing") from None

    def _count(self, pixels: int, where: str) -> None:
        self.pixels += pixels
        if self.pixels > limits.ALL_PIXELS:
            raise Refusal(
                f"The archive's pictures have more than {limits.ALL_PIXELS // 1_000_000} million pixels.",
                where=where,
                remedy="Make some of them smaller before it is exported.",
                kind="too-large",
            )

    def _png(self, id: str, data: bytes | bytearray, where: str) -> None:
        if not data.startswith(PNG):
            raise _damaged(where, "is no PNG")
        self._count(whole_png(data, where), where)

    def _jpeg(self, id: str, data: bytes | bytearray, where: str) -> None:
        if not data.startswith(JPEG):
            raise _damaged(where, "is no JPEG")
        height, width = decode(bytes(data), where).shape[:2]
        self._count(width * height, where)

    def _sound(self, id: str, data: bytes | bytearray, where: str) -> None:
        try:
            with soundfile.SoundFile(io.BytesIO(data)) as file:
                if file.format != "FLAC" or file.samplerate != SOUND_RATE or file.channels > 2:
                    raise _damaged(where, "is no sound as it is kept here")
                count = 0
                # What it says of its length is not believed.
                while len(block := file.read(BLOCK, dtype="int16")):
                    count += len(block)
                    if count > LONGEST_SOUND * SOUND_RATE:
                        raise Refusal(
                            f"A sound in the archive is longer than {LONGEST_SOUND / 60:.0f} minutes.",
                            where=where,
                            kind="too-large",
                        )
                self.sounds[id] = (count, file.channels)
        except soundfile.LibsndfileError:
            raise _damaged(where, "is no sound") from None

    def _peaks(self, id: str, data: bytes | bytearray, where: str) -> None:
        count = int.from_bytes(data[:4], "little")
        if len(data) != peaks_bytes(count):
            raise _damaged(where, "is no picture of a sound")
        self.sounds[id] = (count, 0)


_LOOKS: dict[str, Callable[[Assured, str, bytes | bytearray, str], None]] = {
    ART_MEDIA: Assured._drawing,
    "image/png": Assured._png,
    "image/jpeg": Assured._jpeg,
    SOUND_MEDIA: Assured._sound,
    PEAKS_MEDIA: Assured._peaks,
}
