"""Commands on the path of a joint, pulled on the stage."""

from __future__ import annotations

from typing import Literal

from sorvan.core.change.command import MotionCommand
from sorvan.core.model.base import Id, Pair
from sorvan.core.model.channels import channel_id
from sorvan.core.model.documents import Documents
from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import Puppet
from sorvan.core.model.times import Frame
from sorvan.core.motion.ways import End, pulled_handle, pulled_key


class PullWay(MotionCommand):
    """Pull a key of a joint's place, or with an `end` the handle of its path on that side, to a point of the
    stage. Both handles stay in line unless one is pulled `alone`."""

    do: Literal["pull-way"] = "pull-way"
    joint: Id
    frame: Frame
    to: Pair
    end: End | None = None
    alone: bool = False

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        if self.end is None:
            key = pulled_key(motion, puppet, self.joint, self.frame, self.to)
        else:
            key = pulled_handle(motion, puppet, self.joint, self.frame, self.end, self.to, self.alone)
        channel = motion.channels[channel_id(self.joint, "move")]
        return motion.with_channels(channel.changed(keys=channel.keys | {self.frame: key}))

    def label(self, documents: Documents) -> str:
        return f"{'Pull' if self.end is None else 'Shape'} the path at frame {self.frame + 1}"


WayCommand = PullWay
