"""Squash and stretch."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from sorvan.core.errors import missing
from sorvan.core.geometry import Floats
from sorvan.core.model.channel import Key
from sorvan.core.model.channels import channel_id
from sorvan.core.model.puppet import ROOT, Puppet
from sorvan.core.model.recipe import Squash
from sorvan.core.motion.recipes import Written
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.recipes.kind import Chosen, Kind, On, OtherPuppet


class Squashing(Kind[Squash]):
    """A joint is flat where it strikes and long where it is fast."""

    of = Squash
    name = "Squash and stretch"
    does = "flat where it strikes, long where it is fast, its area kept"

    def write(self, recipe: Squash, on: On) -> Written:
        """Sizes by how the joint moves up and down: width times height is always one.

        Stretch goes with the speed. Where the joint strikes (it turns from down to up with a jump in
        speed) it is flat for that frame, and long on the frames beside it.
        """
        motion, puppet = on.motion, on.stands
        if recipe.joint != ROOT and recipe.joint not in puppet.joints:
            raise missing("joint", recipe.joint)
        evaluation = Evaluation.full(puppet, motion)
        row = evaluation.skeleton.ids.index(recipe.joint)
        end = min(recipe.end or motion.length - 1, motion.length - 1)
        height = evaluation.worlds[row, 5, :] if recipe.joint != ROOT else _root_height(evaluation, puppet)
        y = height[recipe.start : end + 1]
        if len(y) < 3:
            return Written({}, said=("The stretch is too short.",))
        whole = motion.cycle and recipe.start == 0 and end == motion.length - 1
        before = np.concatenate([[y[-1] if whole else y[0]], y[:-1]])
        after = np.concatenate([y[1:], [y[0] if whole else y[-1]]])
        speed = np.abs(after - before) / 2
        down, up = y - before, y - after
        top = max(float(speed.max()), 1e-9)
        strikes = (down > 0) & (up > 0) & (down + up > 0.3 * top) & (np.minimum(down, up) > 0.02 * top)
        # A frame beside a strike moves at full speed, whatever half of the step to the strike says.
        fast = np.maximum(speed, np.where(np.roll(strikes, 1), up, 0))
        fast = np.maximum(fast, np.where(np.roll(strikes, -1), down, 0))
        tall = 1 + recipe.stretch / 100 * np.clip(np.abs(fast) / max(float(np.abs(fast).max()), 1e-9), 0, 1)
        hardest = max(float((down + up)[strikes].max()) if strikes.any() else 0.0, 1e-9)
        flat = 1 - recipe.squash / 100 * (down + up) / hardest
        tall = np.where(strikes, flat, tall)
        if np.all(np.abs(tall - 1) < 1e-6):
            return Written({}, said=("It does not move up or down in that stretch.",))
        sizes = {recipe.start + i: Key(value=(round(1 / t, 6), round(t, 6))) for i, t in enumerate(tall.tolist())}
        return Written({channel_id(recipe.joint, "scale"): sizes})

    def begun(self, base: Mapping[str, Any], on: On, chosen: Chosen) -> Squash:
        return Squash(joint=chosen.joint or ROOT, **base)

    def carried_over(self, recipe: Squash, to: OtherPuppet) -> Squash | None:
        joint = to.owner("scale", recipe.joint)
        return recipe.changed(joint=joint) if joint else None


def _root_height(evaluation: Evaluation, puppet: Puppet) -> Floats:
    x, y = puppet.origin
    world = evaluation.worlds[0]
    found: Floats = world[1] * x + world[3] * y + world[5]
    return found
