"""A scene is a list of actors; it evaluates into the plan.

A puppet at rest, a motion before its backdrop, and what is rendered are scenes.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from sorvan.core.art.source import Arts
from sorvan.core.geometry import Floats
from sorvan.core.model.base import Id, Value
from sorvan.core.model.documents import Documents
from sorvan.core.plan.evaluate import Evaluation, Touched
from sorvan.core.plan.plan import Cel, Plan


class AtRest(Value):
    """Look at a puppet at rest, alone."""

    kind: Literal["rest"] = "rest"
    puppet: Id


class InMotion(Value):
    """Look at a motion, before the production's backdrop unless it is left out. `blocking` holds every
    pose until the next."""

    kind: Literal["motion"] = "motion"
    motion: Id
    blocking: bool = False
    backdrop: bool = True


@dataclass(frozen=True)
class Actor:
    """A puppet on the stage, at rest or in one of its motions."""

    puppet: str
    motion: str | None = None
    blocking: bool = False


@dataclass(frozen=True)
class Scene:
    """Who is on the stage, from back to front; the last is the lead, whom the hand poses."""

    actors: tuple[Actor, ...]

    @classmethod
    def of(cls, documents: Documents, target: AtRest | InMotion) -> Scene:
        """The scene of a target. Raises `Refusal` if it is gone."""
        if isinstance(target, AtRest):
            return cls((Actor(documents.puppet(target.puppet).id),))
        lead = Actor(documents.motion(target.motion).puppet, target.motion, target.blocking)
        behind = documents.backdrop() if target.backdrop else None
        return cls((lead,) if behind is None or behind.id == lead.puppet else (Actor(behind.id), lead))


@dataclass(frozen=True)
class Staged:
    """A scene evaluated: an evaluation for each actor, in their order."""

    scene: Scene
    evaluations: tuple[Evaluation, ...]

    @classmethod
    def full(cls, documents: Documents, target: AtRest | InMotion, arts: Arts | None = None) -> Staged:
        """Evaluate everything. Raises `Refusal` if what is looked at is gone."""
        scene = Scene.of(documents, target)
        return cls(scene, tuple(_evaluated(documents, actor, arts) for actor in scene.actors))

    @property
    def lead(self) -> Evaluation:
        """The evaluation of the lead."""
        return self.evaluations[-1]

    @property
    def frames(self) -> int:
        """How many frames the scene lasts: as many as its longest actor."""
        return max(e.frames for e in self.evaluations)

    def after(self, documents: Documents, target: AtRest | InMotion) -> tuple[Staged, tuple[Touched, ...]] | None:
        """The scene as the documents are now, and what of each actor is new; None if the cast has
        changed, or a puppet of it, so that all is new."""
        scene = Scene.of(documents, target)
        if scene != self.scene:
            return None
        found: list[tuple[Evaluation, Touched]] = []
        for actor, before in zip(scene.actors, self.evaluations, strict=True):
            puppet = documents.puppet(actor.puppet)
            recoloured = documents.production.swatches != before.production.swatches
            if puppet is not before.puppet or recoloured:
                return None
            motion = documents.motion(actor.motion) if actor.motion else None
            found.append(before.after(puppet, motion, documents.production))
        return replace(self, evaluations=tuple(e for e, _ in found)), tuple(t for _, t in found)

    def plan(self) -> Plan:
        """The plan of all frames: a cel for every actor, from back to front."""
        production = self.lead.production
        cels = tuple(cel_of(e) for e in self.evaluations)
        return Plan(production.width, production.height, production.paper, self.frames, cels)


def _evaluated(documents: Documents, actor: Actor, arts: Arts | None) -> Evaluation:
    motion = documents.motion(actor.motion) if actor.motion else None
    return Evaluation.full(documents.puppet(actor.puppet), motion, actor.blocking, documents.production, arts)


def cel_of(evaluation: Evaluation) -> Cel:
    """What an actor shows, where it is posed."""
    return Cel(
        evaluation.items,
        evaluation.pieces,
        evaluation.shown,
        points_of(evaluation),
        evaluation.places.order if evaluation.reorders else None,
        evaluation.places.opacity if evaluation.fades else None,
        going=evaluation.going,
    )


def points_of(evaluation: Evaluation) -> dict[tuple[int, int], Floats]:
    """Where the points of the bending drawings lie, by item and drawing."""
    return {(b.piece, b.drawing): points for b, points in zip(evaluation.rig.benders, evaluation.points, strict=True)}
