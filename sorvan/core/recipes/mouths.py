"""Mouths to the words of a line."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from sorvan.core.model.motion import Motion
from sorvan.core.model.recipe import AnyRecipe, Mouths
from sorvan.core.motion.recipes import Written
from sorvan.core.planning import speaking
from sorvan.core.recipes.kind import Chosen, Kind, On, OtherPuppet, choose_first

LONGEST_NAME = 120


class Speaking(Kind[Mouths]):
    """The mouth of a puppet speaks a line. They join those that the hand chose, and have to know them."""

    of = Mouths
    name = "Mouths"
    does = "to the words of a line"
    plans_anew = True
    knows_hand = True

    def write(self, recipe: Mouths, on: On) -> Written:
        return speaking.mouths(on.motion, on.stands, recipe, on.rate, on.lines)

    def begun(self, base: Mapping[str, Any], on: On, chosen: Chosen) -> Mouths:
        if chosen.sound is None:
            raise choose_first("Bring in a line on the Voice bench first.")
        _, line = speaking.placed_on(on.motion, chosen.sound, on.lines)
        return Mouths(sound=chosen.sound, **base).changed(name=f"{self.name}: {line.name}"[:LONGEST_NAME])

    def carried_over(self, recipe: Mouths, to: OtherPuppet) -> Mouths | None:
        return recipe if to.target.mouths is not None else None

    def gives_way(self, recipe: Mouths, motion: Motion, new: Written, *, again: bool) -> Motion:
        """The motion without the mouths of other lines where this one's come: whoever begins later speaks."""
        others = {r.id for r in motion.recipes.values() if isinstance(r, Mouths) and r.id != recipe.id}
        channels = [
            c.changed(
                keys={
                    f: k
                    for f, k in c.keys.items()
                    if k.recipe not in others or k.hand or not min(keys) <= f <= max(keys)
                }
            )
            for id, keys in new.keys.items()
            if (c := motion.channels.get(id)) is not None and keys
        ]
        return motion.with_channels(*channels)

    def disturbs(self, recipe: Mouths, on: On) -> Sequence[AnyRecipe]:
        """Lines that are cut short by this one: they end otherwise than they did."""
        return speaking.cut_short(on.motion, recipe, on.lines, on.rate)
