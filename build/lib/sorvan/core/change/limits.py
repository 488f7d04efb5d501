"""Commands on how far joints may turn."""

from __future__ import annotations

from typing import Literal

from sorvan.core.change.command import PuppetCommand, Tried
from sorvan.core.geometry import Affine
from sorvan.core.model.base import Id, Pair
from sorvan.core.model.puppet import Puppet
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.rig.limits import pulled_limit
from sorvan.core.rig.skeleton import joint


class PullLimit(PuppetCommand):
    """Pull an end of a joint's turning range to where a hand on the stage points.

    `tried` is how the puppet is posed meanwhile, by channel; `whole_steps` keeps to steps of 15°.
    """

    do: Literal["pull-limit"] = "pull-limit"
    joint: Id
    end: Literal["low", "high"]
    hand: Pair
    whole_steps: bool = False
    tried: Tried = {}

    def on(self, puppet: Puppet) -> Puppet:
        held = joint(puppet, self.joint)
        pose = Evaluation.full(puppet).pose(0, self.tried)
        row = pose.rig.row[held.id]
        above = pose.skeleton.parents[row]
        on = Affine(*pose.worlds[above, :, 0].tolist()) if above >= 0 else Affine(1, 0, 0, 1, 0, 0)
        here = Affine(*pose.worlds[row, :, 0].tolist())
        limits = pulled_limit(puppet, held.id, self.end, self.hand, here, on, self.whole_steps)
        return puppet.with_joints(held.changed(limits=limits))

    def said(self, puppet: Puppet) -> str:
        return f"Limit the turn of “{joint(puppet, self.joint).name}”"


LimitCommand = PullLimit
