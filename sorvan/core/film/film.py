"""The film: shots in their order, with cuts, fades and dissolves between them."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from sorvan.core.errors import Refusal
from sorvan.core.film.heard import heard
from sorvan.core.model.base import Value
from sorvan.core.model.documents import Documents
from sorvan.core.model.shot import Pass, Shot
from sorvan.core.timing.rates import per_second
from sorvan.core.voice.mixing import Cue


class InFilm(Value):
    """Look at the whole film, each shot in its own pass unless another is told."""

    kind: Literal["film"] = "film"
    seen_as: Pass | None = None


@dataclass(frozen=True)
class ShotInFilm:
    """A shot in the film: its frames from `first` on, `frames` of them, from frame `start` of the film on.

    It dissolves from the one before over its first `over` frames, which both show; it comes out of a colour over
    `fade_in`, and goes into one over its last `fade_out`.
    """

    shot: Shot
    start: int
    first: int
    frames: int
    over: int = 0
    fade_in: int = 0
    fade_out: int = 0
    colour_in: str = "#000000ff"
    colour_out: str = "#000000ff"

    @property
    def stop(self) -> int:
        """The frame of the film after its last."""
        return self.start + self.frames

    def there(self, frame: float) -> float:
        """How much of it is there in a frame of the film, or between two, over the part before."""
        n = frame - self.start
        return (n + 1) / (self.over + 1) if n < self.over else 1.0

    def veil(self, frame: float) -> tuple[str, float]:
        """The colour that lies over it in a frame of the film, or between two, and how opaque; a fade ends in one frame
        of all colour."""
        n, left = frame - self.start, self.stop - 1 - frame
        if n < self.fade_in:
            return self.colour_in, max(self.fade_in - 1 - n, 0) / self.fade_in
        if self.fade_out and left < self.fade_out:
            return self.colour_out, min(self.fade_out - left, self.fade_out) / self.fade_out
        return self.colour_out, 0.0


@dataclass(frozen=True)
class Film:
    """The whole film: its parts in order. It lasts as long as they do, less what they share in dissolves."""

    parts: tuple[ShotInFilm, ...]

    @property
    def frames(self) -> int:
        """How many frames it has."""
        return self.parts[-1].stop if self.parts else 0

    def at(self, frame: float) -> list[ShotInFilm]:
        """The parts that show in a frame, from the one below to the one above."""
        return [p for p in self.parts if p.start <= frame < p.stop]

    def shown(self, frame: float) -> list[tuple[ShotInFilm, float]]:
        """The parts that are to be drawn in a frame, the lowest first, and how opaque each is: one, or two while they
        dissolve."""
        parts = self.at(frame)
        lowest = next(i for i in reversed(range(len(parts))) if i == 0 or parts[i].there(frame) >= 1)
        return [(p, 1.0 if n == 0 else p.there(frame)) for n, p in enumerate(parts[lowest:])]

    def veil(self, frame: float) -> tuple[str, float]:
        """The colour that lies over a frame, and how opaque."""
        return self.at(frame)[-1].veil(frame)

    def onward(self, frame: int) -> Iterator[ShotInFilm]:
        """All parts in the order in which they play from a frame on, round to those before it."""
        here = next((n for n, p in enumerate(self.parts) if frame < p.stop), 0)
        yield from (*self.parts[here:], *self.parts[:here])


def film(documents: Documents) -> Film:
    """The shots of a production as a film. Raises `Refusal` if it has none."""
    parts: list[ShotInFilm] = []
    for shot in documents.shots():
        first, stop = shot.played
        frames, start, over, fade_in = stop - first, 0, 0, 0
        if parts:
            before = parts[-1]
            start = before.stop
            if shot.join.kind == "dissolve":
                # Never as long as either: of each one frame is seen by itself.
                over = max(min(shot.join.frames, frames - 1, before.frames - max(before.over, 1)), 0)
                start -= over
        if shot.join.kind == "fade":
            fade_in = min(shot.join.frames, frames)
            if parts:
                gone = min(shot.join.frames, parts[-1].frames)
                parts[-1] = _fading(parts[-1], gone, shot.join.colour)
        part = ShotInFilm(shot, start, first, frames, over, fade_in, colour_in=shot.join.colour)
        parts.append(_fading(part, min(shot.close.frames, frames), shot.close.colour) if shot.close else part)
    if not parts:
        raise Refusal("There is no shot yet.", remedy="Make one on the Shots bench.", kind="missing")
    return Film(tuple(parts))


def _fading(part: ShotInFilm, frames: int, colour: str) -> ShotInFilm:
    return ShotInFilm(
        part.shot, part.start, part.first, part.frames, part.over, part.fade_in, frames, part.colour_in, colour
    )


def heard_in_film(documents: Documents, whole: Film) -> list[Cue]:
    """What is heard in the film (seconds of it): of each shot what lies in the frames that play. What begins in one
    shot goes on over the cut as long as it lasts, and is not heard again where the next shot has it go on."""
    rate = per_second(documents.production.rate)
    found: list[Cue] = []
    for part in whole.parts:
        by = float((part.start - part.first) / rate)
        begins, ends = float(part.start / rate), float(part.stop / rate)
        for cue in heard(documents, part.shot):
            moved = cue.later(by, begins)
            goes_on = moved.at < begins and any(_same(moved, known, float(part.over / rate)) for known in found)
            if max(moved.at, moved.begins) < ends and not goes_on:
                found.append(moved)
    return found


def _same(cue: Cue, other: Cue, shift: float) -> bool:
    """Whether two cues are one sound, apart by no more than the dissolve between their shots (seconds)."""
    own = (cue.placed.id, cue.placed.voice) == (other.placed.id, other.placed.voice)
    return own and abs(cue.at - other.at) <= shift + 1e-6
