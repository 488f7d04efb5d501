"""Shots and the film as they are drawn."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from sorvan.core.art.source import Arts
from sorvan.core.geometry import Floats
from sorvan.core.model.documents import Documents
from sorvan.core.model.motion import Motion
from sorvan.core.model.shot import Member, Pass, Shot, Span
from sorvan.core.plan.plan import Plan, Sheet
from sorvan.core.plan.show import Worked
from sorvan.core.shot.film import Film
from sorvan.core.shot.scene import InShot, ShotScene


@dataclass(frozen=True)
class Blur:
    """Motion blur: each frame is the mean of so many pictures, over the part of it in which the shutter (degrees of
    a full turn) is open."""

    samples: int
    shutter: float = 180.0

    def times(self, frames: int) -> Floats:
        """The times of the pictures, of one frame after the other."""
        within = np.arange(self.samples) / self.samples * (self.shutter / 360)
        found: Floats = (np.arange(frames)[:, None] + within[None, :]).ravel()
        return found


def plan_of(
    documents: Documents, shot: Shot, arts: Arts, seen_as: Pass | None, blur: Blur | None = None, bare: bool = False
) -> Plan:
    """The plan of a shot at its frames or, blurred, at so many times in each; `bare` without the production's
    backdrop."""
    if bare:
        behind = [id for id, c in shot.cast.items() if c.puppet == documents.production.backdrop]
        shot = shot.without(*behind)
    times = blur.times(shot.length) if blur is not None else None
    return ShotScene.full(documents.with_(shot), InShot(shot=shot.id, seen_as=seen_as), arts, times).plan()


def alone(documents: Documents, motion: Motion, bare: bool) -> Shot:
    """A shot in which a motion is done where it stands, before the production's backdrop unless `bare`."""
    puppet = documents.puppet(motion.puppet)
    span = Span(id="span", motion=motion.id, start=0, frames=motion.length, play="once")
    cast = [Member(id="lead", puppet=puppet.id, at=puppet.origin, spans={span.id: span})]
    behind = documents.backdrop()
    if behind is not None and behind.id != puppet.id and not bare:
        cast.insert(0, Member(id="backdrop", puppet=behind.id, at=behind.origin))
    return Shot(id="alone", name=motion.name, length=motion.length, stage="final").with_cast(*cast)


@dataclass(frozen=True)
class Reel:
    """The film as it is drawn: of each frame the shots that show in it, each worked out when it is wanted. With
    `samples` it has so many pictures for each frame."""

    film: Film
    plans: Worked
    samples: int = 1

    @classmethod
    def of(
        cls, documents: Documents, film: Film, arts: Arts, seen_as: Pass | None, blur: Blur | None, bare: bool
    ) -> Reel:
        """The reel of a film, in each shot's own pass unless another is told."""
        shots = {p.shot.id: p.shot for p in film.parts}
        worked = Worked(lambda id: plan_of(documents, shots[id], arts, seen_as, blur, bare))
        return cls(film, worked, 1 if blur is None else blur.samples)

    @property
    def frames(self) -> int:
        """How many pictures there are."""
        return self.film.frames * self.samples

    def sheets(self, frame: int) -> list[Sheet]:
        """The shots that show in a picture: one, or two while they dissolve."""
        frame, sample = divmod(frame, self.samples)
        return [
            Sheet(self.plans.plan(p.shot.id), (p.first + frame - p.start) * self.samples + sample, opacity)
            for p, opacity in self.film.shown(frame)
        ]

    def veil(self, frame: int) -> tuple[str, float]:
        """The colour that lies over it."""
        return self.film.veil(frame // self.samples)
