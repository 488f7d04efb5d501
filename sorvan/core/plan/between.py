"""Mouths that blend into one another: the drawings between them, and the frames in which they show."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from sorvan.core.art.colours import dressed
from sorvan.core.art.mixing import mixed
from sorvan.core.art.source import Arts
from sorvan.core.geometry import Floats
from sorvan.core.model.art import Box
from sorvan.core.model.production import Production
from sorvan.core.model.puppet import Piece, Puppet

Step = tuple[int, int, int]
"""From one drawing of the piece to another, and how many of the frames between have gone by, from 1."""


@dataclass(frozen=True)
class Betweens:
    """The drawings between the mouths of a puppet. `row` is the row of their piece, `frames` over how many frames
    a mouth is blended into the next; `places` says which of `arts` a step is. They come after the piece's own
    drawings, of which there are `own`."""

    row: int
    frames: int
    own: int
    places: dict[Step, int]
    arts: tuple[str, ...]
    boxes: tuple[Box, ...]
    fit: Floats

    def blended(self, shown: NDArray[np.int16]) -> NDArray[np.int16]:
        """Which drawing shows in every frame, those in between put in after each change; `shown` is which would
        without, of all frames."""
        found = shown.copy()
        for f in np.flatnonzero(np.diff(shown)) + 1:
            for k in range(1, self.frames + 1):
                at = int(f) + k - 1
                if at >= len(shown) or shown[at] != shown[f]:
                    break
                place = self.places.get((int(shown[f - 1]), int(shown[f]), k))
                if place is not None:
                    found[at] = self.own + place
        return found


def blends(puppet: Puppet) -> tuple[str, int, tuple[tuple[float, ...], ...]] | None:
    """What of a puppet's mouths the drawings between them depend on: the piece, over how many frames, and the
    drawings of each mood; None if its mouths just change."""
    chart = puppet.mouths
    if chart is None or not chart.blend or chart.piece is None:
        return None
    if puppet.pieces[chart.piece].attach is not None:
        return None
    moods = tuple(
        tuple(sorted({v for m in chart.mouths.values() for v in m.shows.get(mood, ())})) for mood in chart.moods
    )
    return chart.piece, chart.blend, moods


def betweens(puppet: Puppet, production: Production, arts: Arts | None) -> Betweens | None:
    """The drawings between the mouths of each mood, made ready for the painters; None if mouths just change."""
    told = blends(puppet)
    if told is None or arts is None:
        return None
    id, frames, moods = told
    piece = puppet.pieces[id]
    index = {float(d.number): n for n, d in enumerate(piece.drawings)}
    pairs = {
        (min(i, j), max(i, j)) for mood in moods for i, j in combinations([index[v] for v in mood if v in index], 2)
    }
    places: dict[Step, int] = {}
    found: list[str] = []
    boxes: list[Box] = []
    for i, j in sorted(pairs):
        for k in range(1, frames + 1):
            places[i, j, k] = places[j, i, frames + 1 - k] = len(found)
            art, box = _between(piece, i, j, k / (frames + 1), production, arts)
            found.append(art)
            boxes.append(box)
    row = puppet.order.index(id)
    fit = np.array([piece.fit.affine()] * len(found), dtype=np.float64).reshape(-1, 6)
    return Betweens(row, frames, len(piece.drawings), places, tuple(found), tuple(boxes), fit)


def _between(piece: Piece, i: int, j: int, t: float, production: Production, arts: Arts) -> tuple[str, Box]:
    one, two = piece.drawings[i], piece.drawings[j]
    dressed_one, dressed_two = (dressed(piece, d, production, arts) for d in (one, two))

    def make() -> str:
        return arts.keep(mixed(arts.art(dressed_one), arts.art(dressed_two), t, one.pivot, two.pivot))

    found = arts.kept(("between", dressed_one, dressed_two, one.pivot, two.pivot, t), make)
    return found, arts.art(found).bounds
