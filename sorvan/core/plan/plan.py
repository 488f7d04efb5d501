"""The plan: what is drawn, frame by frame, and nothing about why."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from sorvan.core.geometry import Floats
from sorvan.core.model.documents import Documents
from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import Puppet
from sorvan.core.plan.evaluate import Evaluation


@dataclass(frozen=True)
class Item:
    """One thing to draw: which art, for which piece of which puppet, and whether it shows."""

    puppet: str
    piece: str
    art: str
    hidden: bool


@dataclass(frozen=True)
class Plan:
    """Frames of items, back to front. `matrices` is `(items, 6, frames)`, drawing to stage."""

    width: int
    height: int
    paper: str
    items: tuple[Item, ...]
    matrices: Floats

    @property
    def frames(self) -> int:
        """How many frames there are to draw."""
        return int(self.matrices.shape[2])

    def part(self, start: int, stop: int) -> Plan:
        """Frames start…stop-1 alone."""
        return Plan(self.width, self.height, self.paper, self.items, self.matrices[:, :, start:stop])

    def arts(self) -> frozenset[str]:
        """The art assets that this plan draws."""
        return frozenset(item.art for item in self.items)


def items_of(puppet: Puppet) -> tuple[Item, ...]:
    """The puppet's pieces as items, from back to front."""
    return tuple(Item(puppet.id, id, puppet.pieces[id].shown().art, puppet.pieces[id].hidden) for id in puppet.order)


def plan_of(documents: Documents, motion: Motion, blocking: bool = False, backdrop: bool = True) -> Plan:
    """The plan of a motion: its puppet before the production's backdrop, if one is chosen."""
    puppet = documents.puppet(motion.puppet)
    matrices = Evaluation.full(puppet, motion, blocking).pieces
    items = items_of(puppet)
    behind = documents.backdrop() if backdrop else None
    if behind is not None and behind.id != puppet.id:
        still = Evaluation.full(behind).pieces
        spread = np.broadcast_to(still, (still.shape[0], 6, motion.length))
        matrices = np.concatenate([spread, matrices])
        items = items_of(behind) + items
    production = documents.production
    return Plan(production.width, production.height, production.paper, items, matrices)
