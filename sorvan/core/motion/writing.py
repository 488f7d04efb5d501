"""What each recipe writes, and putting it into a motion."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from fractions import Fraction

from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import Puppet
from sorvan.core.model.recipe import (
    Accents,
    Anticipate,
    AnyRecipe,
    Blink,
    Bounce,
    Capture,
    Follow,
    Gait,
    Mouths,
    Settle,
    Squash,
)
from sorvan.core.model.voice import Voice
from sorvan.core.motion import capture, follow, gait, helpers, speaking
from sorvan.core.motion.recipes import Written, put, without_any, without_own
from sorvan.core.motion.round import looks_round, turned_round
from sorvan.core.plan.turning import seen_from, turnaround_of

SIDE = 90.0
"""From where a puppet is seen from the side (degrees)."""


def write(
    motion: Motion, puppet: Puppet, recipe: AnyRecipe, rate: Fraction, lines: Mapping[str, Voice] | None = None
) -> Written:
    """What a recipe writes into a motion that has nothing of it; `rate` is frames a second, `lines` are the
    voice lines that are placed on it, by their id.

    Raises `Refusal` when it has nothing to work on.
    """
    per_second = float(rate)
    if isinstance(recipe, Gait):
        seen = _steps_in(puppet, motion, recipe)
        return replace(gait.written(seen_from(puppet, seen), recipe, per_second), seen=seen)
    puppet = seen_from(puppet, motion.seen)
    match recipe:
        case Capture():
            return capture.written(motion, puppet, recipe)
        case Follow():
            return follow.written(motion, puppet, recipe, per_second)
        case Settle():
            return helpers.settle(motion, recipe)
        case Anticipate():
            return helpers.anticipate(motion, recipe)
        case Squash():
            return helpers.squash(motion, puppet, recipe)
        case Bounce():
            return helpers.bounce(motion, recipe)
        case Blink():
            return helpers.blink(motion, puppet, recipe, per_second, lines)
        case Mouths():
            return speaking.mouths(motion, puppet, recipe, rate, lines or {})
        case Accents():
            return speaking.accented(motion, puppet, recipe, rate, lines or {})


def _steps_in(puppet: Puppet, motion: Motion, recipe: Gait) -> float | None:
    """The view that a gait is planned in: as told, else that its motion is made for, else the one nearest to the side."""
    dial = turnaround_of(puppet)
    told = recipe.seen if recipe.seen is not None else motion.seen
    if dial is None or told is not None:
        return told
    sides = [v.at for v in dial.views() if not v.flips and abs(v.at - SIDE) < SIDE / 2]
    return min(sides, key=lambda at: abs(at - SIDE), default=None)


def with_recipe(
    motion: Motion, puppet: Puppet, recipe: AnyRecipe, rate: Fraction, lines: Mapping[str, Voice] | None = None
) -> tuple[Motion, Written]:
    """The motion with a recipe done, or done again with other parameters, and what was written."""
    if isinstance(recipe, Gait) and looks_round(motion):
        # Steps are planned as the puppet was drawn to look.
        done, new = _done(turned_round(motion, puppet), puppet, recipe, rate, lines)
        return turned_round(done, puppet), new
    done, new = _done(motion, puppet, recipe, rate, lines)
    if isinstance(recipe, Mouths):
        # A line that is cut short by this one ends otherwise than it did.
        for other in speaking.cut_short(done, recipe, lines or {}, rate):
            done, _ = _done(done, puppet, other, rate, lines)
    return done, new


def _done(
    motion: Motion, puppet: Puppet, recipe: AnyRecipe, rate: Fraction, lines: Mapping[str, Voice] | None
) -> tuple[Motion, Written]:
    before = motion.recipes.get(recipe.id)
    bare = without_own(motion, recipe.id)
    if before is not None:
        recipe = recipe.changed(left_out=before.left_out)
    # It starts from what was there before it, and not from a key of its own that the hand has changed since.
    untouched = without_any(bare, recipe.id)
    # Mouths join those that the hand chose, and have to know them.
    new = write(bare if isinstance(recipe, Mouths) else untouched, puppet, recipe, rate, lines)
    # Only what sets the motion's own timing takes the hand's keys along; others may have lost what they were done on.
    old = write(untouched, puppet, before, rate) if isinstance(before, Gait) else None
    if isinstance(recipe, Mouths):
        motion = _spoken_over(motion, recipe, new)
    if before is None and isinstance(recipe, Capture):
        motion = _recorded_over(motion, new)
    done = put(motion, recipe, new, old)
    return done.changed(recipes=done.recipes | {recipe.id: recipe.changed(said=new.said)}), new


def _spoken_over(motion: Motion, recipe: Mouths, new: Written) -> Motion:
    """The motion without the mouths of other lines where this one's come: whoever begins later speaks."""
    others = {r.id for r in motion.recipes.values() if isinstance(r, Mouths) and r.id != recipe.id}
    channels = [
        c.changed(
            keys={
                f: k for f, k in c.keys.items() if k.recipe not in others or k.hand or not min(keys) <= f <= max(keys)
            }
        )
        for id, keys in new.keys.items()
        if (c := motion.channels.get(id)) is not None and keys
    ]
    return motion.with_channels(*channels)


def _recorded_over(motion: Motion, new: Written) -> Motion:
    """The motion without the keys that a new recording goes over."""
    channels = [
        c.changed(keys={f: k for f, k in c.keys.items() if not min(keys) <= f <= max(keys)})
        for id, keys in new.keys.items()
        if (c := motion.channels.get(id)) is not None and keys
    ]
    return motion.with_channels(*channels)
