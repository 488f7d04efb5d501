"""The plan: what is drawn, frame by frame, and nothing about why."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from sorvan.core.art.colours import dressed
from sorvan.core.art.source import Arts
from sorvan.core.geometry import Floats
from sorvan.core.model.documents import Documents
from sorvan.core.model.motion import Motion
from sorvan.core.model.production import Production
from sorvan.core.model.puppet import Puppet
from sorvan.core.plan.evaluate import Evaluation

Points = Mapping[tuple[int, int], Floats]
"""For an item and one of its drawings, where its points lie: `(n, 2, frames)` drawing units."""


@dataclass(frozen=True)
class Item:
    """One thing to draw: a piece of a puppet, its drawings, and whether and how it shows.

    `boxes` are the drawings' bounds; `masks` name items (by place in the plan) that this one
    shows only inside of (True) or outside of (False).
    """

    puppet: str
    piece: str
    arts: tuple[str, ...]
    boxes: tuple[tuple[float, float, float, float], ...]
    hidden: bool = False
    opacity: float = 1.0
    masks: tuple[tuple[int, bool], ...] = ()


@dataclass(frozen=True)
class Plan:
    """Frames of items, back to front. `matrices` is `(items, 6, frames)`, drawing to stage;
    `shown` is `(items, frames)`, which of its drawings each item shows."""

    width: int
    height: int
    paper: str
    items: tuple[Item, ...]
    matrices: Floats
    shown: NDArray[np.int16]
    points: Points = field(default_factory=dict)

    @property
    def frames(self) -> int:
        """How many frames there are to draw."""
        return int(self.matrices.shape[2])

    def part(self, start: int, stop: int) -> Plan:
        """Frames start…stop-1 alone."""
        span = slice(start, stop)
        points = {k: p[:, :, span] for k, p in self.points.items()}
        return Plan(
            self.width, self.height, self.paper, self.items, self.matrices[:, :, span], self.shown[:, span], points
        )

    def arts(self) -> frozenset[str]:
        """The art assets that this plan draws."""
        return frozenset(art for item in self.items for art in item.arts)


def items_of(
    puppet: Puppet, production: Production, arts: Arts | None = None, evaluation: Evaluation | None = None, at: int = 0
) -> tuple[Item, ...]:
    """The puppet's pieces as items, from back to front, the first of them item number `at`."""
    place = {id: at + i for i, id in enumerate(puppet.order)}
    bent = {(b.piece, b.drawing): b.art for b in evaluation.rig.benders} if evaluation else {}
    items: list[Item] = []
    for row, id in enumerate(puppet.order):
        piece = puppet.pieces[id]
        drawn = tuple(
            bent.get((row, i)) or dressed(piece, drawing, production, arts) for i, drawing in enumerate(piece.drawings)
        )
        masks = tuple((place[m.piece], m.inside) for m in piece.masks if m.piece in place)
        boxes = tuple(d.bounds for d in piece.drawings)
        items.append(Item(puppet.id, id, drawn, boxes, puppet.unseen(piece), piece.opacity, masks))
    return tuple(items)


def points_of(evaluation: Evaluation, at: int = 0) -> dict[tuple[int, int], Floats]:
    """Where the points of the bending drawings lie, by item (the first is number `at`) and drawing."""
    return {
        (at + b.piece, b.drawing): points for b, points in zip(evaluation.rig.benders, evaluation.points, strict=True)
    }


def plan_of(
    documents: Documents, motion: Motion, blocking: bool = False, backdrop: bool = True, arts: Arts | None = None
) -> Plan:
    """The plan of a motion: its puppet before the production's backdrop, if one is chosen."""
    puppet, production = documents.puppet(motion.puppet), documents.production
    behind = documents.backdrop() if backdrop else None
    sets = [] if behind is None or behind.id == puppet.id else [Evaluation.full(behind, None, False, production, arts)]
    evaluations = [*sets, Evaluation.full(puppet, motion, blocking, production, arts)]
    items: list[Item] = []
    points: dict[tuple[int, int], Floats] = {}
    blocks: list[Floats] = []
    shown: list[NDArray[np.int16]] = []
    for e in evaluations:
        at, count = len(items), len(e.puppet.order)
        items += items_of(e.puppet, production, arts, e, at)
        for key, found in points_of(e, at).items():
            points[key] = np.broadcast_to(found, (*found.shape[:2], motion.length))
        blocks.append(np.broadcast_to(e.pieces, (count, 6, motion.length)))
        shown.append(np.broadcast_to(e.shown, (count, motion.length)))
    return Plan(
        production.width,
        production.height,
        production.paper,
        tuple(items),
        blocks[0] if len(blocks) == 1 else np.concatenate(blocks),
        np.concatenate(shown),
        points,
    )
