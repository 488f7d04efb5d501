"""Drawings that become others: which do in which frames, made ready once."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from sorvan.core.art.colours import dressed
from sorvan.core.art.source import Arts
from sorvan.core.geometry import Floats
from sorvan.core.model.channels import AS_AT_REST, channel_id
from sorvan.core.model.production import Production
from sorvan.core.model.puppet import Drawing, Morph, Piece, Puppet
from sorvan.core.morph.making import ready
from sorvan.core.morph.ready import Ready
from sorvan.core.plan.mouth_blends import blended
from sorvan.core.plan.values import Values

Pairs = tuple[tuple[int, int], ...]


@dataclass(frozen=True, eq=False)
class Becoming:
    """Of a piece the `pairs` of its drawings of which the first becomes the second, which of them shows in each frame
    (`(frames,)`; -1: none), and how far it has come."""

    pairs: Pairs
    which: NDArray[np.int16]
    parts: Floats

    def part(self, frames: slice | NDArray[np.intp]) -> Becoming:
        """These frames of it."""
        return Becoming(self.pairs, self.which[frames], self.parts[frames])


NEVER = Becoming((), np.zeros(0, dtype=np.int16), np.zeros(0))


def becoming(puppet: Puppet, id: str, shows: bool, values: Values, known: Pairs = ()) -> Becoming:
    """What of a piece becomes what, by the values of its `show` channel; pairs that are known keep their places. Where
    drawings can't be looked at (`shows`) none becomes another."""
    held, piece = values.get(channel_id(id, "show")), puppet.pieces[id]
    if held is None or not shows:
        return NEVER
    held = blended(puppet, id, held)
    if not np.any(held[2]):
        return NEVER
    numbers = {float(d.number): n for n, d in enumerate(piece.drawings)}
    numbers[AS_AT_REST] = piece.drawings.index(piece.shown())
    rows = np.flatnonzero(held[2])
    told = [(numbers.get(float(a), -1), numbers.get(float(b), -1)) for a, b in held[:2, rows].T]
    found = {p for p in told if -1 not in p and p[0] != p[1]}
    pairs = known + tuple(sorted(found - set(known)))
    slot = {p: n for n, p in enumerate(pairs)}
    which = np.full(held.shape[1], -1, dtype=np.int16)
    which[rows] = [slot.get(p, -1) for p in told]
    return Becoming(pairs, which, held[2]) if pairs else NEVER


def made_ready(piece: Piece, pair: tuple[int, int], production: Production, arts: Arts) -> tuple[Ready, str]:
    """A drawing of a piece made ready to become another, and the art that the painters draw."""
    one, two = (piece.drawings[n] for n in pair)
    return made_so(piece, (one, two), piece.morph(one.id, two.id), production, arts)


def made_so(
    piece: Piece, pair: tuple[Drawing, Drawing], morph: Morph, production: Production, arts: Arts
) -> tuple[Ready, str]:
    """The same for two drawings that become one another in a way that may not be the piece's own."""
    one, two = pair
    looks = tuple(dressed(piece, d, production, arts) for d in pair)
    # What bends needs points close enough to bend.
    fine = piece.attach is not None
    key = ("morph", fine, *looks, one.pivot, two.pivot, morph.model_dump_json(exclude={"id", "first", "second"}))
    found = arts.kept(
        key, lambda: ready(arts.art(looks[0]), arts.art(looks[1]), (one.pivot, two.pivot), morph, arts.kept, fine)
    )
    return found, arts.kept(("art", *key), lambda: arts.keep(found.art))
