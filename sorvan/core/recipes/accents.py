"""The face on the stressed words of a line."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

from sorvan.core.model.recipe import Accents
from sorvan.core.motion.recipes import Written
from sorvan.core.planning import speaking
from sorvan.core.recipes.kind import Chosen, Kind, On, OtherPuppet, Sizes, choose_first, sized


class Accenting(Kind[Accents]):
    """Head and brows go with what is stressed."""

    of = Accents
    name = "Accents"
    does = "head and brows on the stressed words of a line"

    def write(self, recipe: Accents, on: On) -> Written:
        return speaking.accented(on.motion, on.stands, recipe, on.rate, on.lines)

    def begun(self, base: Mapping[str, Any], on: On, chosen: Chosen) -> Accents:
        if chosen.sound is None:
            raise choose_first("Bring in a line on the Voice bench first.")
        joints = list(on.puppet.joints.values())
        named = next((j for j in joints if re.search("head", j.name, re.IGNORECASE)), None)
        head = next((j for j in joints if j.role == "head"), named)
        brows = tuple(j.id for j in joints if re.search("brow", j.name, re.IGNORECASE))[:8]
        if head is None and not brows:
            raise choose_first("Accents need a joint for the head, or for the brows.")
        return Accents(sound=chosen.sound, head=None if head is None else head.id, brows=brows, **base)

    def scaled(self, recipe: Accents, by: Sizes) -> Accents:
        return sized(recipe, lift=recipe.lift * by.size)

    def carried_over(self, recipe: Accents, to: OtherPuppet) -> Accents | None:
        head = to.owner("turn", recipe.head) if recipe.head else None
        brows = tuple(b for j in recipe.brows if (b := to.owner("move", j)) is not None)
        return self.scaled(recipe, to).changed(head=head, brows=brows) if head or brows else None
