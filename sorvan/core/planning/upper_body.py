"""Trunk, head and arms in a gait: how they lean, nod, twist and swing against the legs."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from sorvan.core.geometry import Floats
from sorvan.core.model.puppet import ROOT, Puppet
from sorvan.core.model.recipe import Gait
from sorvan.core.rig.anatomy import Anatomy, Arm
from sorvan.core.rig.skeleton import rest_worlds

BodyValues = dict[str, Floats]
"""Values at every frame, by joint or channel."""


def limits_of(puppet: Puppet, joint: str) -> tuple[float, float]:
    """How far a joint may turn (degrees)."""
    held = puppet.joints[joint].limits
    return (held.low, held.high) if held else (-1e6, 1e6)


@dataclass(frozen=True)
class UpperBody:
    """What a gait does above the legs. `way` is +1 to the right, `bob` from 1 where the body is lowest to -1
    where it is highest, and `swing` from 1 with a leg farthest forward to -1 farthest back, `(frames,)` each."""

    puppet: Puppet
    recipe: Gait
    made: Anatomy
    way: int
    front: bool
    count: int
    bob: Floats
    swing: Callable[[int], Floats]

    def _signed(self, joint: str) -> float:
        """+1 where a positive turn of the joint is clockwise on the stage."""
        parent = self.puppet.joints[joint].parent if joint != ROOT else None
        return 1.0 if parent is None or rest_worlds(self.puppet)[parent].determinant > 0 else -1.0

    def turns(self) -> BodyValues:
        """Turns of trunk, head and arms, in degrees."""
        recipe, made = self.recipe, self.made
        found: BodyValues = {}
        bob = self.bob
        if not self.front:
            lean = self.way * (recipe.lean + 0.12 * recipe.bounce * bob)
            leaning = made.spine or made.body
            if len(made.legs) <= 2 and leaning != ROOT:
                found[leaning] = lean * self._signed(leaning)
            # The head looks ahead, however the trunk leans; a heavy one hangs with it.
            ahead = 0.6 * (1 - min(max(recipe.weight, 0.0) / 40, 1.3))
            nod = self.way * (-ahead * recipe.lean - 0.35 * recipe.bounce * bob)
            if made.head is not None and len(made.legs) <= 2:
                found[made.head] = nod * self._signed(made.head)
            elif made.head is not None:
                found[made.head] = 0.5 * self.way * recipe.bounce * bob * self._signed(made.head)
        for arm in made.arms:
            self._swung(arm, found)
        return found

    def _swung(self, arm: Arm, found: BodyValues) -> None:
        """An arm hangs and swings against the leg of its own side; its elbow gives more in front."""
        recipe, made = self.recipe, self.made
        own = next((i for i, leg in enumerate(made.legs) if leg.side == arm.side), None)
        if own is None:
            own = made.arms.index(arm) % len(made.legs)
        forward = -self.swing(own)
        shoulder = arm.joints[0]
        bones = [b - a for a, b in zip(arm.places, arm.places[1:], strict=False)]
        hang = 0.0 if self.front else math.degrees(np.angle(1j / bones[0]))
        bend = np.zeros(self.count)
        if len(arm.joints) > 1:
            bend = np.minimum(recipe.elbow * (1 + 0.45 * forward), 140.0)
            rest = math.degrees(np.angle(bones[1] / bones[0]))
            low, high = limits_of(self.puppet, arm.joints[1])
            sign = self._signed(arm.joints[1])
            # Forearms bend forward, unless their limits let them only the other way.
            way = -self.way
            if not self.front:
                turn = sign * (way * bend - rest)
                found[arm.joints[1]] = np.clip(turn, low, high)
        share = abs(bones[1]) / (abs(bones[0]) + abs(bones[1])) if len(bones) > 1 else 0.0
        # A bent elbow brings the hand forward: the upper arm hangs farther back for it.
        back = share * recipe.elbow * (1.0 if recipe.elbow < 45 else 0.75)
        swing = recipe.arms * (0.35 if self.front else 1.0)
        leans = made.spine is not None or made.body != ROOT
        lean = self.way * recipe.lean if leans and len(made.legs) <= 2 else 0.0
        turn = hang - self.way * (swing * forward - back) - (0.0 if self.front else lean)
        if self.front:
            turn = -swing * forward * 0.5
        low, high = limits_of(self.puppet, shoulder)
        found[shoulder] = np.clip(self._signed(shoulder) * turn, low, high)

    def twist(self) -> BodyValues:
        """How far hips and shoulders go forward as the trunk twists, in units across."""
        if self.front or len(self.made.legs) > 2:
            return {}
        half = 0.12 * self.made.leg * math.sin(math.radians(self.recipe.twist))
        found = {leg.bones[0]: self.way * half * self.swing(i) for i, leg in enumerate(self.made.legs)}
        for arm in self.made.arms:
            own = next((i for i, leg in enumerate(self.made.legs) if leg.side == arm.side), 0)
            found[arm.joints[0]] = -self.way * half * 0.8 * self.swing(own)
        return {id: v for id, v in found.items() if id != self.made.body}
