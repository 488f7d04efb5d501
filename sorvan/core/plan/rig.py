"""What of a puppet stays the same whatever its motion: looked up once for an evaluation."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from sorvan.core.art.source import Arts
from sorvan.core.geometry import IDENTITY, Floats, column
from sorvan.core.kept import kept
from sorvan.core.model.production import Production
from sorvan.core.model.puppet import Piece, Puppet
from sorvan.core.plan.bending import Bender, benders
from sorvan.core.plan.plants import Footing, footing
from sorvan.core.plan.turning import seen_from
from sorvan.core.rig import reach
from sorvan.core.rig.skeleton import Skeleton, rest_worlds, skeleton_of


@dataclass(frozen=True, eq=False)
class _Fits:
    """Kept with a piece, whose comparison must not look into the numbers."""

    table: Floats


@kept()
def _fits(piece: Piece) -> _Fits:
    """From each drawing of a piece to its joint, and from its own place last, `(drawings + 1, 6)`."""
    found = np.array([*(piece.in_joint(d) for d in piece.drawings), piece.fit.affine()], dtype=np.float64)
    found.flags.writeable = False
    return _Fits(found)


@dataclass(frozen=True)
class Rig:
    """What of a puppet stays the same whatever its motion: looked up once for an evaluation.

    `seats` is `(pieces,)`, the row of each piece's joint; `fits` are, piece by piece,
    `(drawings + 1, 6)`, the transforms of its drawings to that joint, and last that of one whose pivot lies at nought;
    `rest` is which one shows.
    """

    skeleton: Skeleton
    row: Mapping[str, int]
    seats: NDArray[np.intp]
    fits: tuple[Floats, ...]
    at_rest: Floats
    rest: NDArray[np.int16]
    chains: tuple[reach.Limb, ...]
    chain_rests: tuple[tuple[Floats, Floats | None], ...]
    benders: tuple[Bender, ...]
    shows: bool = False
    """Whether drawings can be looked at, and so become others."""
    seen: float | None = None
    """From where what is played is made to be seen."""
    stance: Puppet | None = None
    """The puppet as what is played is made for it: rigged as in that view."""
    feet: dict[str, Footing] = field(default_factory=dict)

    def plain(self, row: int) -> int:
        """How many drawings a piece has that are always the same; after them come those that become others."""
        return len(self.fits[row]) - 1

    def footing(self, puppet: Puppet, joint: str) -> Footing:
        """A joint made ready to be planted; worked out once."""
        if joint not in self.feet:
            self.feet[joint] = footing(self.stance or puppet, self.skeleton, joint)
        return self.feet[joint]

    @classmethod
    def of(cls, puppet: Puppet, production: Production, arts: Arts | None, seen: float | None = None) -> Rig:
        """Look everything up, for what is made to be `seen` from so many degrees."""
        skeleton = skeleton_of(puppet)
        row = {id: i for i, id in enumerate(skeleton.ids)}
        pieces = [puppet.pieces[id] for id in puppet.order]
        seats = np.array([row[p.joint] for p in pieces], dtype=np.intp)
        fits = tuple(_fits(p).table for p in pieces)
        rest = np.array([p.drawings.index(p.shown()) for p in pieces], dtype=np.int16)
        at_rest = np.array([f[r] for f, r in zip(fits, rest, strict=True)], dtype=np.float64).reshape(-1, 6, 1)
        chains = reach.prepared(puppet, skeleton) if puppet.chains else ()
        worlds = rest_worlds(puppet) if chains else {}

        def world(at: int) -> Floats | None:
            return None if at < 0 else column(worlds[skeleton.ids[at]] if at else IDENTITY)

        rests = tuple((column(worlds[c.chain.handle]), world(c.parent)) for c in chains)
        bending = benders(puppet, skeleton, production, arts)
        stance = seen_from(puppet, seen)
        return cls(skeleton, row, seats, fits, at_rest, rest, chains, rests, bending, arts is not None, seen, stance)
