"""Anticipation."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from sorvan.core.model.channel import Key
from sorvan.core.model.recipe import Anticipate
from sorvan.core.motion.recipes import Written
from sorvan.core.recipes.kind import Chosen, Kind, On, OtherPuppet, all_over, channel_over, choose_first
from sorvan.core.recipes.moves import SLOW_OUT, moves, rounded_key


class Anticipating(Kind[Anticipate]):
    """Channels go back before they go."""

    of = Anticipate
    name = "Anticipation"
    does = "back before it goes"

    def write(self, recipe: Anticipate, on: On) -> Written:
        """Back before it goes: the wind-up takes its frames from the start of the move."""
        keys: dict[str, dict[int, Key]] = {}
        cut = False
        for id, (change, start, end) in moves(on.motion, recipe.channels, recipe.frame, arriving=False).items():
            at = start + recipe.frames
            if at >= end:
                at, cut = max(start + 1, (start + end) // 2), True
            if not start < at < end:
                continue
            own = on.motion.channels[id].keys[start]
            keys[id] = {at: rounded_key(np.array(own.value) - recipe.amount / 100 * change, SLOW_OUT)}
        return Written(keys, said=("The move is too short: it winds up for half of it.",) if cut else ())

    def begun(self, base: Mapping[str, Any], on: On, chosen: Chosen) -> Anticipate:
        channels = chosen.channels or tuple(on.motion.channels)
        if not channels:
            raise choose_first("Key a move first.")
        return Anticipate(channels=channels, frame=chosen.frame, **base)

    def carried_over(self, recipe: Anticipate, to: OtherPuppet) -> Anticipate | None:
        channels = all_over([channel_over(to, c) for c in recipe.channels])
        return recipe.changed(channels=channels) if channels else None
