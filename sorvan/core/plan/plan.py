"""The plan: what is drawn, frame by frame, and nothing about why."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from sorvan.core.geometry import Floats

Points = Mapping[tuple[int, int], Floats]
"""For an item and one of its drawings, where its points lie: `(n, 2, frames)` drawing units."""


@dataclass(frozen=True, eq=False)
class Reshaping:
    """A drawing that is becoming another: where its points lie, `(n, 2, k)` drawing units, and what it looks like,
    `(m, k)` as `core.morph.looks` has it, in these of its cel's own frames `(k,)`, which rise."""

    points: Floats
    looks: Floats
    frames: NDArray[np.int32]

    def at(self, own: int) -> tuple[Floats, Floats] | None:
        """Its points `(n, 2)` and look `(m,)` in a frame."""
        k = int(np.searchsorted(self.frames, own))
        if k == len(self.frames) or self.frames[k] != own:
            return None
        return self.points[:, :, k], self.looks[:, k]


@dataclass(frozen=True)
class Item:
    """One thing to draw: a piece of a puppet, its drawings, and whether and how it shows.

    `boxes` are the drawings' bounds; `masks` name items (by place in their cel) that this one
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
class CelCopies:
    """Copies of a cel, drawn one after the other, each at its place and so many frames further on in the
    cel's loop.

    `places` `(copies, 6)` take the cel's units to where each lies, `ahead` `(copies,)` are frames, `opacity`
    `(copies,)` is the part each has of the cel's, `tints` `(copies, 4)` a colour and how much of it is mixed in
    (red, green, blue, amount, 0 to 1). `fade` `(frames of the loop,)` is how opaque a copy is in the course of its
    loop.
    """

    places: Floats
    ahead: NDArray[np.int32]
    opacity: Floats
    tints: Floats
    fade: Floats


@dataclass(frozen=True)
class Cel:
    """What one actor shows, in frames of its own.

    `matrices` is `(items, 6, own)`, drawing to the actor's place; `shown` is `(items, own)`, which of its drawings
    each item shows. Items are drawn in their order, back to front, unless `order` `(items, own)` names the n-th from
    the back; `opacity` `(items, own)` is the part of its own opacity that each has, all of it if there is none.
    `points` are those of drawings that bend, `going` of drawings that become others.

    In a frame of the plan the own frame of the same number is shown, the last if there are fewer, unless `times`
    `(frames,)` says which; `stage` `(6, frames)` takes the actor's place to the picture, and `fade` `(frames,)` is
    how opaque the whole is. None of them: as it is.
    """

    items: tuple[Item, ...]
    matrices: Floats
    shown: NDArray[np.int16]
    points: Points = field(default_factory=dict)
    order: NDArray[np.int16] | None = None
    opacity: Floats | None = None
    times: NDArray[np.int32] | None = None
    stage: Floats | None = None
    fade: Floats | None = None
    copies: CelCopies | None = None
    going: Mapping[tuple[int, int], Reshaping] = field(default_factory=dict)

    def moved(self, item: int, drawing: int, own: int) -> tuple[Floats, Floats | None] | None:
        """Where the points of an item's drawing lie in an own frame, and what it then looks like if that changes; None
        for a drawing that stays as it is."""
        points = self.points.get((item, drawing))
        if points is not None:
            return points[:, :, own], None
        moving = self.going.get((item, drawing))
        return moving.at(own) if moving is not None else None

    @property
    def own(self) -> int:
        """How many frames of its own it has."""
        return int(self.matrices.shape[2])

    def at(self, frame: int) -> int:
        """Its own frame that is shown in a frame of the plan."""
        return min(frame, self.own - 1) if self.times is None else int(self.times[frame])


@dataclass(frozen=True)
class Plan:
    """Frames of cels, from back to front, on paper of a size in stage units."""

    width: int
    height: int
    paper: str
    frames: int
    cels: tuple[Cel, ...]

    def arts(self) -> frozenset[str]:
        """The art assets that this plan draws."""
        return frozenset(art for cel in self.cels for item in cel.items for art in item.arts)

    def sheets(self, frame: int) -> list[FrameSheet]:
        """What lies over one another in a frame: this alone."""
        return [FrameSheet(self, frame)]

    def veil(self, frame: int) -> tuple[str, float]:
        """The colour that lies over everything: none."""
        return "#00000000", 0.0


@dataclass(frozen=True)
class FrameSheet:
    """A frame of a plan as one sheet: the paper and all on it, so opaque over what lies below."""

    plan: Plan
    frame: int
    opacity: float = 1.0
