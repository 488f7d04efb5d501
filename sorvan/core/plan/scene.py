"""A scene is a list of actors; it evaluates into the plan.

A puppet at rest, a motion before its backdrop, and what is rendered are scenes.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Annotated, Literal, TypeVar

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from sorvan.core.art.source import Arts
from sorvan.core.geometry import Floats
from sorvan.core.model.base import Id, Value
from sorvan.core.model.documents import Documents
from sorvan.core.plan.evaluate import Evaluation, Touched
from sorvan.core.plan.plan import Item, Plan

Numbers = TypeVar("Numbers", bound=np.generic)


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


Target = Annotated[AtRest | InMotion, Field(discriminator="kind")]
"""What can be looked at."""


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
        """The plan of all frames: every actor's pieces, from back to front."""
        frames, items = self.frames, list[Item]()
        points: dict[tuple[int, int], Floats] = {}
        for e in self.evaluations:
            at = len(items)
            items += items_of(e, at)
            for key, found in points_of(e, at).items():
                points[key] = np.broadcast_to(found, (*found.shape[:2], frames))
        production = self.lead.production
        return Plan(
            production.width,
            production.height,
            production.paper,
            tuple(items),
            _stacked(np.broadcast_to(e.pieces, (len(e.pieces), 6, frames)) for e in self.evaluations),
            _stacked(np.broadcast_to(e.shown, (len(e.shown), frames)) for e in self.evaluations),
            points,
            self._order(frames),
            self._opacity(frames),
        )

    def _order(self, frames: int) -> NDArray[np.int16] | None:
        """Which item is the n-th from the back; None where that never changes."""
        if not any(e.reorders for e in self.evaluations):
            return None
        starts = np.cumsum([0, *(len(e.pieces) for e in self.evaluations)])
        return _stacked(
            np.broadcast_to(e.places.order + np.int16(at), (len(e.pieces), frames))
            for e, at in zip(self.evaluations, starts, strict=False)
        )

    def _opacity(self, frames: int) -> Floats | None:
        if not any(e.fades for e in self.evaluations):
            return None
        return _stacked(np.broadcast_to(e.places.opacity, (len(e.pieces), frames)) for e in self.evaluations)


def _evaluated(documents: Documents, actor: Actor, arts: Arts | None) -> Evaluation:
    motion = documents.motion(actor.motion) if actor.motion else None
    return Evaluation.full(documents.puppet(actor.puppet), motion, actor.blocking, documents.production, arts)


def _stacked(blocks: Iterable[NDArray[Numbers]]) -> NDArray[Numbers]:
    """Blocks of items as one; a lone block is not copied."""
    found = list(blocks)
    return found[0] if len(found) == 1 else np.concatenate(found)


def items_of(evaluation: Evaluation, at: int = 0) -> tuple[Item, ...]:
    """The puppet's pieces as items, from back to front, the first of them item number `at`."""
    if not at:
        return evaluation.items
    return tuple(replace(i, masks=tuple((at + m, inside) for m, inside in i.masks)) for i in evaluation.items)


def points_of(evaluation: Evaluation, at: int = 0) -> dict[tuple[int, int], Floats]:
    """Where the points of the bending drawings lie, by item (the first is number `at`) and drawing."""
    return {
        (at + b.piece, b.drawing): points for b, points in zip(evaluation.rig.benders, evaluation.points, strict=True)
    }
