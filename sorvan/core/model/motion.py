"""The motion: a timed performance of one puppet."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, field_validator

from sorvan.core.model.base import Checked, Id, Name, Number, Value, filed
from sorvan.core.model.channel import LONGEST, Channel, Frame
from sorvan.core.model.recipe import Recipe


class Pose(Value):
    """A card on the pose strip: keys of many channels at one frame, under a label. A breakdown is a
    pose between two poses."""

    label: Annotated[str, Field(max_length=40)] = ""
    breakdown: bool = False
    note: Annotated[str, Field(max_length=400)] = ""
    recipe: Id | None = None


class Ground(Value):
    """The ground under a motion. `level` is how far down it lies (stage units; where the puppet
    stands, if not told). When the puppet walks on the spot the ground `runs` so many units a frame
    under it, to the right if positive."""

    level: Number | None = None
    runs: Number = 0.0


class Motion(Checked):
    """A timed performance of one puppet. In a cycle, frame `length` is frame 0 again."""

    kind: Literal["motion"] = "motion"
    id: Id
    name: Name
    puppet: Id
    length: Annotated[int, Field(ge=1, le=LONGEST)] = 48
    cycle: bool = False
    channels: dict[str, Channel] = {}
    poses: dict[Frame, Pose] = {}
    recipes: dict[Id, Recipe] = {}
    ground: Ground = Ground()

    @field_validator("poses")
    @classmethod
    def _in_order(cls, poses: dict[int, Pose]) -> dict[int, Pose]:
        return dict(sorted(poses.items()))

    def check(self) -> None:
        for id, channel in self.channels.items():
            if id != channel.id:
                raise ValueError(f"the channel “{channel.id}” is filed under “{id}”")
        filed("recipe", self.recipes)

    def with_channels(self, *channels: Channel) -> Motion:
        """This motion with these channels in place of those that had their ids; one without keys goes."""
        found = {**self.channels, **{c.id: c for c in channels}}
        return self.changed(channels={id: c for id, c in found.items() if c.keys})
