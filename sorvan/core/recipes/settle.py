"""Overshoot and settle."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from sorvan.core.model.channel import Key
from sorvan.core.model.recipe import Settle
from sorvan.core.motion.recipes import Written
from sorvan.core.recipes.kind import Chosen, Kind, On, OtherPuppet, all_over, channel_over, choose_first
from sorvan.core.recipes.moves import BOTH, moves, rounded_key


class Settling(Kind[Settle]):
    """Channels that come to rest go past it, and swing until they stand."""

    of = Settle
    name = "Overshoot and settle"
    does = "past the pose, and back until it stands"

    def write(self, recipe: Settle, on: On) -> Written:
        """Past the key and back, each swing a part of the last, standing at the key's own value in the end."""
        keys: dict[str, dict[int, Key]] = {}
        cut = False
        for id, (change, _, frame) in moves(on.motion, recipe.channels, recipe.frame, arriving=True).items():
            value = np.array(on.motion.channels[id].keys[frame].value)
            limit = min((f for f in on.motion.channels[id].keys if f > frame), default=on.motion.length)
            half = recipe.frames / 2
            found: dict[int, Key] = {}
            size = recipe.amount / 100
            for n in range(2 * recipe.swings - 1):
                at = frame + max(1, round(half * (n + 0.5)))
                if at >= limit - 1:
                    cut = True
                    break
                found[at] = rounded_key(value + (size if n % 2 == 0 else -size) * change, BOTH)
                size *= 1 - recipe.damping / 100
            end = min(frame + round(half * 2 * recipe.swings), limit - 1)
            if found and end > max(found):
                found[end] = rounded_key(value, on.motion.channels[id].keys[frame].ease)
            keys[id] = found
        return Written(keys, said=("There was no room for all swings before the next key.",) if cut else ())

    def begun(self, base: Mapping[str, Any], on: On, chosen: Chosen) -> Settle:
        channels = chosen.channels or tuple(on.motion.channels)
        if not channels:
            raise choose_first("Key a move first.")
        return Settle(channels=channels, frame=chosen.frame, **base)

    def carried_over(self, recipe: Settle, to: OtherPuppet) -> Settle | None:
        channels = all_over([channel_over(to, c) for c in recipe.channels])
        return recipe.changed(channels=channels) if channels else None
