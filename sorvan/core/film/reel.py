"""Shots and the film as they are drawn."""

from __future__ import annotations

import math
from dataclasses import dataclass
from fractions import Fraction

import numpy as np

from sorvan.core.art.source import Arts
from sorvan.core.film.film import Film, ShotInFilm
from sorvan.core.geometry import Floats
from sorvan.core.model.documents import Documents
from sorvan.core.model.motion import Motion
from sorvan.core.model.shot import Member, Pass, Shot, Span
from sorvan.core.plan.plan import FrameSheet, Plan
from sorvan.core.plan.show import Worked
from sorvan.core.shot.scene import InShot, ShotScene


@dataclass(frozen=True)
class Pace:
    """When pictures are taken: every `step` frames, each the mean of so many pictures over the part of that in which
    the shutter (degrees of a full turn) is open."""

    step: Fraction = Fraction(1)
    samples: int = 1
    shutter: float = 180.0

    @property
    def plain(self) -> bool:
        """Whether there is one picture for each frame."""
        return self.step == 1 and self.samples == 1

    def pictures(self, frames: int) -> int:
        """How many pictures are taken while so many frames last."""
        return math.ceil(frames / self.step)

    def times(self, frames: int, phase: Fraction = Fraction(0)) -> Floats:
        """The times of all pictures within so many frames, the first so far after their beginning, sample by
        sample."""
        count = max(math.ceil((frames - phase) / self.step), 0)
        begins = np.array([float(phase + n * self.step) for n in range(count)])
        within = np.arange(self.samples) / self.samples * (self.shutter / 360) * float(self.step)
        found: Floats = (begins[:, None] + within[None, :]).ravel()
        return found


EVERY = Pace()
"""One picture for each frame."""


def plan_of(
    documents: Documents,
    shot: Shot,
    arts: Arts,
    seen_as: Pass | None,
    pace: Pace = EVERY,
    bare: bool = False,
    phase: Fraction = Fraction(0),
) -> Plan:
    """The plan of a shot at its frames or, at another pace, at the times of its pictures, the first so far after its
    beginning; `bare` without the production's backdrop. A shot that is only blocked changes at whole frames alone."""
    if bare:
        behind = [id for id, c in shot.cast.items() if c.puppet == documents.production.backdrop]
        shot = shot.without(*behind)
    times = None if pace.plain or _by_frames(shot, seen_as, pace) else pace.times(shot.length, phase)
    return ShotScene.full(documents.with_(shot), InShot(shot=shot.id, seen_as=seen_as), arts, times).plan()


def _by_frames(shot: Shot, seen_as: Pass | None, pace: Pace) -> bool:
    """Whether a shot is only worked out at whole frames: poses are struck there."""
    return (seen_as or shot.stage) == "blocking" and pace.step != 1


def alone(documents: Documents, motion: Motion, bare: bool) -> Shot:
    """A shot in which a motion is done where it stands, before the production's backdrop unless `bare`. Between the last
    frame of a cycle and the first of its next round it goes on."""
    puppet = documents.puppet(motion.puppet)
    cycle = motion.cycle
    span = Span(id="span", motion=motion.id, start=0, frames=motion.length + cycle, play="loop" if cycle else "once")
    cast = [Member(id="lead", puppet=puppet.id, at=puppet.origin, spans={span.id: span})]
    behind = documents.backdrop()
    if behind is not None and behind.id != puppet.id and not bare:
        cast.insert(0, Member(id="backdrop", puppet=behind.id, at=behind.origin))
    return Shot(id="alone", name=motion.name, length=motion.length, stage="final").with_cast(*cast)


@dataclass(frozen=True)
class Reel:
    """The film as it is drawn: of each picture the shots that show in it, each worked out when it is wanted."""

    film: Film
    plans: Worked
    pace: Pace = EVERY
    seen_as: Pass | None = None

    @classmethod
    def of(
        cls,
        documents: Documents,
        film: Film,
        arts: Arts,
        seen_as: Pass | None = None,
        pace: Pace = EVERY,
        bare: bool = False,
    ) -> Reel:
        """The reel of a film, in each shot's own pass unless another is told."""
        parts = {p.shot.id: p for p in film.parts}

        def worked(id: str) -> Plan:
            return plan_of(documents, parts[id].shot, arts, seen_as, pace, bare, _phase(parts[id], pace))

        return cls(film, Worked(worked), pace, seen_as)

    @property
    def frames(self) -> int:
        """How many pictures there are."""
        return self.pace.pictures(self.film.frames) * self.pace.samples

    def sheets(self, frame: int) -> list[FrameSheet]:
        """The shots that show in a picture: one, or two while they dissolve."""
        n, sample = divmod(frame, self.pace.samples)
        time = n * self.pace.step
        return [
            FrameSheet(self.plans.plan(p.shot.id), self._row(p, time, sample), opacity)
            for p, opacity in self.film.shown(float(time))
        ]

    def _row(self, part: ShotInFilm, time: Fraction, sample: int) -> int:
        """Which of the pictures of a shot's plan shows at a time of the film."""
        own = time - part.start + part.first
        if _by_frames(part.shot, self.seen_as, self.pace):
            return int(own)
        return int((own - _phase(part, self.pace)) / self.pace.step) * self.pace.samples + sample

    def veil(self, frame: int) -> tuple[str, float]:
        """The colour that lies over it."""
        return self.film.veil(float(frame // self.pace.samples * self.pace.step))


def _phase(part: ShotInFilm, pace: Pace) -> Fraction:
    """How far after its own beginning a shot's first picture could be, for those of the film to be among them."""
    first = math.ceil(Fraction(part.start) / pace.step) * pace.step
    return (first - part.start + part.first) % pace.step
