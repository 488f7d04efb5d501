"""Gaits."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from sorvan.core.model.recipe import Gait
from sorvan.core.motion.recipes import Written
from sorvan.core.plan.turning import seen_from, turnaround_of
from sorvan.core.planning import gait
from sorvan.core.recipes.kind import Chosen, Kind, On, OtherPuppet, Sizes, sized

SIDE = 90.0
"""From where a puppet is seen from the side (degrees)."""


class Walking(Kind[Gait]):
    """A cycle of steps."""

    of = Gait
    name = "Gait"
    does = "walks, runs, sneaks: a cycle of labelled poses"
    plans_anew = True
    sets_time = True

    def write(self, recipe: Gait, on: On) -> Written:
        seen = _steps_in(recipe, on)
        return replace(gait.written(seen_from(on.puppet, seen), recipe, float(on.rate)), seen=seen)

    def begun(self, base: Mapping[str, Any], on: On, chosen: Chosen) -> Gait:
        return Gait(**{**base, "name": "Walk"})

    def scaled(self, recipe: Gait, by: Sizes) -> Gait:
        return recipe if recipe.step is None else sized(recipe, step=recipe.step * by.size)

    def carried_over(self, recipe: Gait, to: OtherPuppet) -> Gait | None:
        other = {"left": "right", "right": "left", "auto": "auto"}
        facing = other[recipe.facing] if to.across else recipe.facing
        found = self.scaled(recipe, to).changed(facing=facing)
        return found if turnaround_of(to.target) is not None else found.changed(seen=None)


def _steps_in(recipe: Gait, on: On) -> float | None:
    """The view that a gait is planned in: as told, else that its motion is made for, else the one nearest to the side."""
    dial = turnaround_of(on.puppet)
    told = recipe.seen if recipe.seen is not None else on.motion.seen
    if dial is None or told is not None:
        return told
    sides = [v.at for v in dial.views() if not v.flips and abs(v.at - SIDE) < SIDE / 2]
    return min(sides, key=lambda at: abs(at - SIDE), default=None)
