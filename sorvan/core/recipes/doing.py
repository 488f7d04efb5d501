"""Recipes done on a motion, and done again."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from fractions import Fraction

from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import Puppet
from sorvan.core.model.recipe import AnyRecipe
from sorvan.core.model.voice import Voice
from sorvan.core.motion.recipes import Written, put, without_any, without_own
from sorvan.core.motion.round import looks_round, turned_round
from sorvan.core.recipes.kind import On
from sorvan.core.recipes.registry import kind_of


def with_recipe(
    motion: Motion, puppet: Puppet, recipe: AnyRecipe, rate: Fraction, lines: Mapping[str, Voice] | None = None
) -> tuple[Motion, Written]:
    """The motion with a recipe done, or done again with other parameters, and what was written; `rate` is frames a
    second, `lines` are the voice lines that are placed on it, by their id.

    Raises `Refusal` when it has nothing to work on.
    """
    on = On(motion, puppet, rate, lines or {})
    if kind_of(recipe).sets_time and looks_round(motion):
        # Steps are planned as the puppet was drawn to look.
        done, new = _done(replace(on, motion=turned_round(motion, puppet)), recipe)
        return turned_round(done, puppet), new
    done, new = _done(on, recipe)
    for other in kind_of(recipe).disturbs(recipe, replace(on, motion=done)):
        done, _ = _done(replace(on, motion=done), other)
    return done, new


def _done(on: On, recipe: AnyRecipe) -> tuple[Motion, Written]:
    kind, motion = kind_of(recipe), on.motion
    before = motion.recipes.get(recipe.id)
    bare = without_own(motion, recipe.id)
    if before is not None:
        recipe = recipe.changed(left_out=before.left_out)
    # It starts from what was there before it, and not from a key of its own that the hand has changed since.
    untouched = without_any(bare, recipe.id)
    new = kind.write(recipe, replace(on, motion=bare if kind.knows_hand else untouched))
    # Only what sets the motion's own timing takes the hand's keys along; others may have lost what they were done on.
    old = None
    if before is not None and kind_of(before).sets_time:
        old = kind_of(before).write(before, replace(on, motion=untouched))
    motion = kind.gives_way(recipe, motion, new, again=before is not None)
    done = put(motion, recipe, new, old)
    return done.changed(recipes=done.recipes | {recipe.id: recipe.changed(said=new.said)}), new
