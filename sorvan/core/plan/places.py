"""Where everything is in every frame, and what of it is to be worked out."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from sorvan.core.geometry import Floats
from sorvan.core.model.channels import kind_of, owner_of
from sorvan.core.plan.ready_morphs import Becoming
from sorvan.core.plan.rig import Rig
from sorvan.core.rig import reach


@dataclass
class Places:
    """Where everything is, in all frames there are; the stages write into them.

    `locals` `(joints + 1, 6, frames)` are joints in their parents as turned, `settled` the same after
    limbs have reached, `planted` after feet are planted too, `made` joints on the stage in the view that what is
    played is made for, `worlds` in the view that is seen; row 0 is the puppet as a whole. Where nothing reaches, is
    planted or seen from elsewhere these are one and the same. `pieces`
    `(pieces, 6, frames)` take each shown drawing to the stage, from back to front at rest; `shown`
    `(pieces, frames)` is which drawing that is, `order` `(pieces, frames)` which piece is the n-th from
    the back, `opacity` `(pieces, frames)` the part of its own opacity that a piece has. `points` holds
    for each of the rig's benders `(n, 2, frames)` drawing units; `becoming` says, by piece, which drawings become
    others.
    """

    locals: Floats
    settled: Floats
    planted: Floats
    made: Floats
    worlds: Floats
    pieces: Floats
    shown: NDArray[np.int16]
    order: NDArray[np.int16]
    opacity: Floats
    points: list[Floats] = field(default_factory=list)
    reached: dict[str, reach.Reached] = field(default_factory=dict)
    becoming: dict[int, Becoming] = field(default_factory=dict)

    @classmethod
    def blank(cls, rig: Rig, frames: int) -> Places:
        """Room for so many frames, with nothing in it yet."""
        joints, pieces = len(rig.skeleton.ids), len(rig.seats)
        locals = np.empty((joints, 6, frames))
        settled = np.empty(locals.shape) if rig.chains else locals
        worlds = np.empty(locals.shape)
        return cls(
            locals=locals,
            settled=settled,
            planted=settled,
            made=worlds,
            worlds=worlds,
            pieces=np.empty((pieces, 6, frames)),
            shown=np.repeat(rig.rest[:, None], frames, axis=1),
            order=np.repeat(np.arange(pieces, dtype=np.int16)[:, None], frames, axis=1),
            opacity=np.ones((pieces, frames)),
            points=[np.empty((b.count, 2, frames)) for b in rig.benders],
            reached={p.chain.id: reach.Reached.blank(len(p.rows), frames) for p in rig.chains},
        )

    def part(self, span: slice) -> Places:
        """A copy of some frames, to write into."""
        return self._some(span)

    def at_frames(self, frames: NDArray[np.intp]) -> Places:
        """These frames alone, in this order."""
        return self._some(frames)

    def _some(self, span: slice | NDArray[np.intp]) -> Places:
        locals = self.locals[:, :, span].copy()
        settled = self.settled[:, :, span].copy() if self.settled is not self.locals else locals
        worlds = self.worlds[:, :, span].copy()
        return Places(
            locals=locals,
            settled=settled,
            planted=self.planted[:, :, span].copy() if self.planted is not self.settled else settled,
            made=self.made[:, :, span].copy() if self.made is not self.worlds else worlds,
            worlds=worlds,
            pieces=self.pieces[:, :, span].copy(),
            shown=self.shown[:, span].copy(),
            order=self.order[:, span].copy(),
            opacity=self.opacity[:, span].copy(),
            points=[p[:, :, span] for p in self.points],
            reached={id: r.part(span) for id, r in self.reached.items()},
            becoming={row: b.part(span) for row, b in self.becoming.items()},
        )


@dataclass(frozen=True)
class Work:
    """What is to be worked out: frames `start` up to `stop` of what these channels move; of
    everything, if no channels are named. Where `glimpse` is set, only drawings that show are bent; where it is `of_whole`,
    these frames are some of more, and what drawings become is known of all."""

    start: int
    stop: int
    channels: frozenset[str] | None = None
    glimpse: bool = False
    of_whole: bool = False

    def turned(self, rig: Rig) -> list[int]:
        """The rows whose own channels these are."""
        if self.channels is None:
            return list(range(len(rig.skeleton.ids)))
        joints = {owner_of(c) for c in self.channels if kind_of(c) in ("turn", "move", "scale")}
        return sorted(rig.row[j] for j in joints & rig.row.keys())

    def owners(self, kind: str) -> set[str]:
        """What these channels of one kind belong to."""
        return {owner_of(c) for c in self.channels or () if kind_of(c) == kind}
