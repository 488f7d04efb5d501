"""Copies of an element: where each lies, how far on in the loop it is, and how it differs.

All of them are one actor, drawn several times. Each copy's share of the loop is a whole number of frames, so that a
loop of so many frames stays one.
"""

from __future__ import annotations

import numpy as np

from sorvan.core.geometry import Floats
from sorvan.core.geometry.affine import Affine
from sorvan.core.model.puppet import Puppet
from sorvan.core.model.shot import Copies
from sorvan.core.plan.plan import CelCopies


def spread_out(copies: Copies, puppet: Puppet, loop: int) -> CelCopies:
    """Where and how each copy is drawn, of an element whose loop has so many frames.

    Chance is drawn for each copy in turn, so that more copies leave those before them as they are but for their
    share of the loop. They lie like the points of Roberts' sequence (R2, 2018), which leaves no holes and makes no
    clumps, with a little chance on top.
    """
    random = np.random.default_rng(copies.seed)
    start = random.uniform(0, 1, 2)
    chance = random.uniform(-1, 1, (copies.count, 6))
    ox, oy = puppet.origin
    places = np.empty((copies.count, 6))
    for n in range(copies.count):
        u, v = (start + (n + 1) * np.array([0.7548776662466927, 0.5698402909980532])) % 1.0
        x = copies.at[0] + copies.spread[0] * (u - 0.5 + 0.12 * chance[n, 0])
        y = copies.at[1] + copies.spread[1] * (v - 0.5 + 0.12 * chance[n, 1])
        size = copies.scale * (1 + copies.size / 100 * chance[n, 2])
        size = max(size, 0.01)
        place = Affine.placed(x, y, copies.turn * chance[n, 3], 0.0, -size if copies.mirror else size, size)
        places[n] = place @ Affine.shift(-ox, -oy)
    tint = [int(copies.tint[i : i + 2], 16) / 255 for i in (1, 3, 5)]
    amount = copies.tinted / 100 * (1 + chance[:, 4]) / 2
    tints = np.concatenate([np.tile(tint, (copies.count, 1)), amount[:, None]], axis=1)
    ahead = (
        (np.arange(copies.count) * loop / copies.count).astype(np.int32)
        if loop > 1
        else np.zeros(copies.count, np.int32)
    )
    return CelCopies(places, ahead, 1 - copies.opacity / 100 * (1 + chance[:, 5]) / 2, tints, fading(copies, loop))


def fading(copies: Copies, loop: int) -> Floats:
    """How opaque a copy is in each frame of its loop: it comes, stays and goes. Without a loop it is there."""
    if loop <= 1:
        return np.ones(1)
    part = (np.arange(loop) + 0.5) / loop * 100
    come = np.clip(part / copies.fade_in, 0, 1) if copies.fade_in > 0 else np.ones(loop)
    go = np.clip((100 - part) / copies.fade_out, 0, 1) if copies.fade_out > 0 else np.ones(loop)
    return np.minimum(come, go)
