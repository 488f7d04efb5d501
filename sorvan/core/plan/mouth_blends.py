"""Mouths that blend into one another: after each change the new one is only on its way for some frames."""

from __future__ import annotations

import numpy as np

from sorvan.core.geometry import Floats
from sorvan.core.model.puppet import Puppet


def blends(puppet: Puppet) -> tuple[str, int, tuple[tuple[float, ...], ...]] | None:
    """What of a puppet's mouths the drawings between them depend on: the piece, over how many frames, and the
    drawings of each mood; None if its mouths just change."""
    chart = puppet.mouths
    if chart is None or not chart.blend or chart.piece is None:
        return None
    moods = tuple(
        tuple(sorted({v for m in chart.mouths.values() for v in m.shows.get(mood, ())})) for mood in chart.moods
    )
    return chart.piece, chart.blend, moods


def blended(puppet: Puppet, piece: str, held: Floats) -> Floats:
    """What a piece's `show` channel gives `(3, frames)`, with the mouths of each mood on their way to one another where
    they change, and so many frames after; as it is for a piece whose drawings just change."""
    told = blends(puppet)
    if told is None or told[0] != piece:
        return held
    _, frames, moods = told
    number, come = held[0], held[2]
    found = held.copy()
    for f in np.flatnonzero((np.diff(number) != 0) & (come[1:] == 0) & (come[:-1] == 0)) + 1:
        one, two = float(number[f - 1]), float(number[f])
        if not any(one in mood and two in mood for mood in moods):
            continue
        for k in range(1, frames + 1):
            at = int(f) + k - 1
            if at >= len(number) or number[at] != two or come[at]:
                break
            found[:, at] = one, two, k / (frames + 1)
    return found
