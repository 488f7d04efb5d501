"""The plan: what is drawn, frame by frame, and nothing about why."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from sorvan.core.geometry import Floats

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
    """Frames of items. `matrices` is `(items, 6, frames)`, drawing to stage; `shown` is `(items, frames)`,
    which of its drawings each item shows. Items are drawn in their order, back to front, unless `order`
    `(items, frames)` names the n-th from the back; `opacity` `(items, frames)` is the part of its own
    opacity that each has, all of it if there is none."""

    width: int
    height: int
    paper: str
    items: tuple[Item, ...]
    matrices: Floats
    shown: NDArray[np.int16]
    points: Points = field(default_factory=dict)
    order: NDArray[np.int16] | None = None
    opacity: Floats | None = None

    @property
    def frames(self) -> int:
        """How many frames there are to draw."""
        return int(self.matrices.shape[2])

    def part(self, start: int, stop: int) -> Plan:
        """Frames start…stop-1 alone."""
        span = slice(start, stop)
        points = {k: p[:, :, span] for k, p in self.points.items()}
        return replace(
            self,
            matrices=self.matrices[:, :, span],
            shown=self.shown[:, span],
            points=points,
            order=None if self.order is None else self.order[:, span],
            opacity=None if self.opacity is None else self.opacity[:, span],
        )

    def arts(self) -> frozenset[str]:
        """The art assets that this plan draws."""
        return frozenset(art for item in self.items for art in item.arts)
