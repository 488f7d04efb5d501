"""Voice lines: a recorded line, its text, and when each word and sound is heard."""

from __future__ import annotations

from collections.abc import Mapping
from itertools import pairwise
from typing import Annotated, Literal, Self, TypeVar

from pydantic import Field, field_validator

from sorvan.core.model.base import AssetId, Checked, Id, Name, Ratio, Value

LONGEST_SOUND = 900.0
"""Seconds in the longest sound."""
SHORTEST = 0.005
"""Seconds that a word or a sound lasts at least: less is not heard as anything."""
SOUND_RATE = 48_000
"""Samples a second that every sound is kept at."""

Seconds = Annotated[float, Field(ge=0, le=LONGEST_SOUND)]
Label = Annotated[str, Field(max_length=24)]


class Phone(Value):
    """One sound of the chart: from `start` (seconds from the beginning of the recording) to the start of the
    next. Its `label` is ARPAbet or IPA; without one it is a pause. `sure` is how well it fits what is heard,
    `loud` how loud that is beside the loudest of the line."""

    start: Seconds
    label: Label = ""
    sure: Ratio = 1.0
    loud: Ratio = 1.0


class Word(Value):
    """One word of the chart, from `start` to the start of the next; without a text it is a pause.

    `guessed` says that its pronunciation came from no dictionary. Whether it bears an `accent` of the
    sentence is worked out unless the hand says so.
    """

    start: Seconds
    text: Annotated[str, Field(max_length=80)] = ""
    sure: Ratio = 1.0
    guessed: bool = False
    accent: bool | None = None


Timed = TypeVar("Timed", Phone, Word)
Source = Literal["none", "text", "voice", "loudness", "hand", "file"]


class Chart(Checked):
    """The phoneme chart: words and sounds, each until the next begins, the last until the sound ends.

    `source` is how it was found: from the text, from the text by way of a synthesiser's voice (less exact),
    from loudness alone (rough), by hand, or from a file. `note` is what there was to say about it.
    """

    source: Source = "none"
    note: Annotated[str, Field(max_length=1000)] = ""
    words: dict[Id, Word] = {}
    phones: dict[Id, Phone] = {}

    @field_validator("words", "phones")
    @classmethod
    def _in_order(cls, timed: dict[str, Timed]) -> dict[str, Timed]:
        return dict(sorted(timed.items(), key=lambda item: item[1].start))

    def check(self) -> None:
        for noun, timed in (("words", self.words), ("sounds", self.phones)):
            starts = [t.start for t in timed.values()]
            if any(b - a < SHORTEST - 1e-9 for a, b in pairwise(starts)):
                raise ValueError(f"two {noun} of the chart begin at the same time")


class Recording(Value):
    """A sound as it is kept: FLAC at 48,000 samples a second, with its peaks for drawing it. `file` is what it
    came from, `said` what there was to say about it."""

    asset: AssetId
    peaks: AssetId
    seconds: Annotated[float, Field(gt=0, le=LONGEST_SOUND)]
    channels: Annotated[int, Field(ge=1, le=2)] = 1
    file: Annotated[str, Field(max_length=200)] = ""
    said: tuple[str, ...] = ()


class Voice(Checked):
    """A voice line: a recorded line with its text, its phoneme chart, and how words are pronounced that no
    dictionary has, or has differently (`spoken`: sounds parted by spaces, by the word in small letters)."""

    kind: Literal["voice"] = "voice"
    id: Id
    name: Name
    text: Annotated[str, Field(max_length=40_000)] = ""
    language: Annotated[str, Field(pattern=r"^[A-Za-z0-9-]{2,24}$")] = "en-us"
    sound: Recording | None = None
    chart: Chart = Chart()
    spoken: dict[Annotated[str, Field(max_length=80)], Annotated[str, Field(max_length=200)]] = {}

    def check(self) -> None:
        last = max((t.start for tier in (self.chart.words, self.chart.phones) for t in tier.values()), default=0.0)
        if self.sound is not None and last > self.sound.seconds - SHORTEST + 1e-9:
            raise ValueError("the chart goes on after the sound has ended")

    @property
    def seconds(self) -> float:
        """How long it lasts: as long as its sound, or, without one, a little longer than its chart."""
        if self.sound is not None:
            return self.sound.seconds
        return (
            max((t.start for tier in (self.chart.words, self.chart.phones) for t in tier.values()), default=0.0) + 0.2
        )


class Placed(Value):
    """A voice line on a motion: it begins `at` so many seconds, at a `level` (decibels), fading in and out over
    so many seconds."""

    id: Id
    voice: Id
    at: Annotated[float, Field(ge=-LONGEST_SOUND, le=LONGEST_SOUND)] = 0.0
    level: Annotated[float, Field(ge=-60, le=12)] = 0.0
    fade_in: Annotated[float, Field(ge=0, le=60)] = 0.0
    fade_out: Annotated[float, Field(ge=0, le=60)] = 0.0
    mute: bool = False

    def later(self, by: float) -> Self:
        """The same, so many seconds later (whole milliseconds)."""
        return self.changed(at=round(self.at + by, 3))


def ends(timed: Mapping[str, Timed], end: float) -> list[tuple[str, Timed, float]]:
    """Each entry of a tier with its id and the time at which it ends (seconds); the last ends with the line."""
    row = list(timed.items())
    return [(id, entry, after.start) for (id, entry), (_, after) in pairwise(row)] + [(i, e, end) for i, e in row[-1:]]
