"""The motion: a timed performance of one puppet."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, field_validator

from sorvan.core.model.base import Checked, Id, Name, Number, Pair, Value, filed
from sorvan.core.model.channel import LONGEST, Channel, Frame
from sorvan.core.model.recipe import Recipe


class Pose(Value):
    """A card on the pose strip: keys of many channels at one frame, under a label. A breakdown is a
    pose between two poses."""

    label: Annotated[str, Field(max_length=40)] = ""
    breakdown: bool = False
    note: Annotated[str, Field(max_length=400)] = ""
    recipe: Id | None = None


class Plant(Checked):
    """A span of frames, `start` to `end` and both included, in which a foot does not move on the ground.

    `joint` is the foot's. `at` is where its flat sole stands (stage units, below the ankle). Over
    `fade` frames before and after the span the foot comes to its place and leaves it.
    """

    id: Id
    joint: Id
    start: Frame
    end: Frame
    at: Pair
    fade: Annotated[int, Field(ge=0, le=48)] = 0
    recipe: Id | None = None

    def check(self) -> None:
        if self.end < self.start:
            raise ValueError("a foot is planted from an earlier frame to a later one")


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
    plants: dict[Id, Plant] = {}
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
        filed("planted foot", self.plants)
        filed("recipe", self.recipes)

    def with_channels(self, *channels: Channel) -> Motion:
        """This motion with these channels in place of those that had their ids; one without keys goes."""
        found = {**self.channels, **{c.id: c for c in channels}}
        return self.changed(channels={id: c for id, c in found.items() if c.keys})
