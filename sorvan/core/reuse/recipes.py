"""Recipes told anew for another puppet: its joints in place of those of the first, lengths in its own size."""

from __future__ import annotations

from sorvan.core.model.recipe import AnyRecipe
from sorvan.core.recipes.kind import OtherPuppet, channel_over
from sorvan.core.recipes.registry import kind_of


def told_anew(recipe: AnyRecipe, to: OtherPuppet) -> AnyRecipe | None:
    """The recipe as it is for the target; none where what it works on has no answer there."""
    kind = kind_of(recipe)
    # What is planned anew counts its keys anew.
    away = () if kind.plans_anew else (_slot(to, slot) for slot in recipe.left_out)
    bare = recipe.changed(left_out=tuple(slot for slot in away if slot is not None), said=())
    found: AnyRecipe | None = kind.carried_over(bare, to)
    return found


def _slot(to: OtherPuppet, slot: str) -> str | None:
    channel, _, number = slot.rpartition("@")
    its = channel_over(to, channel)
    return None if its is None else f"{its}@{number}"
