"""The motion: a timed performance of one puppet."""

from __future__ import annotations

from collections.abc import Callable, Collection
from typing import Annotated, Literal

from pydantic import Field, field_validator

from sorvan.core.model.base import Checked, Id, Name, Number, Pair, Value, filed
from sorvan.core.model.channel import Channel, Key
from sorvan.core.model.recipe import Recipe
from sorvan.core.model.times import LONGEST, At, Frame, FrameMap, Moving, Time, fields_moved, moved
from sorvan.core.model.voice import Placed


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
    runs: Annotated[Number, Time.EACH] = 0.0


class Plant(Value):
    """A foot, hand or other joint that stays where it is on the ground for some `frames` from `start` on,
    whatever moves above it.

    `place` is where its heel stands (a joint that is no foot: where it lies) at the start, in stage units;
    it goes along with ground that runs. A foot rolls over heel and ball as it is turned, or lies `flat`
    throughout. Over so many frames before and after it is led there and let go: its `fade`.
    """

    id: Id
    joint: Id
    start: At
    frames: Annotated[int, Field(ge=1, le=LONGEST), Time.LENGTH]
    place: Pair
    flat: bool = False
    fade: Annotated[int, Field(ge=0, le=48), Time.LASTS] = 2


class Motion(Checked):
    """A timed performance of one puppet. In a cycle, frame `length` is frame 0 again.

    On a puppet that can be turned it is made to be `seen` from so many degrees: its keys stand on the view there, and
    seen from elsewhere it looks as something that moves in that plane does. If that is not told, its keys are as they
    look, in whatever view the puppet is.
    """

    kind: Literal["motion"] = "motion"
    id: Id
    name: Name
    puppet: Id
    length: Annotated[int, Field(ge=1, le=LONGEST), Time.LASTS] = 48
    cycle: bool = False
    channels: dict[str, Channel] = {}
    poses: Annotated[dict[Frame, Pose], Time.FILED] = {}
    recipes: dict[Id, Recipe] = {}
    ground: Ground = Ground()
    plants: dict[Id, Plant] = {}
    sounds: dict[Id, Placed] = {}
    seen: Annotated[float, Field(ge=0, lt=360)] | None = None

    @field_validator("poses")
    @classmethod
    def _in_order(cls, poses: dict[int, Pose]) -> dict[int, Pose]:
        return dict(sorted(poses.items()))

    def check(self) -> None:
        for id, channel in self.channels.items():
            if id != channel.id:
                raise ValueError(f"the channel “{channel.id}” is filed under “{id}”")
        filed("recipe", self.recipes)
        filed("plant", self.plants)
        filed("sound", self.sounds)

    def moved(self, moving: Moving) -> Motion:
        """This motion with everything where its times go."""
        known = self.slots_moved(moving.place)
        channels = {id: c.changed(keys={f: known(k) for f, k in c.keys.items()}) for id, c in self.channels.items()}
        found = fields_moved(self.changed(channels=channels), moving)
        # A card lies within the motion, also where its frame and the end are now the same.
        last = found.length - 1
        return found.changed(poses={min(f, last): p for f, p in reversed(found.poses.items())})

    def beside_moved(self, moving: Moving, staying: Collection[str] = ()) -> Motion:
        """This motion with everything but its keys and cards where its times go, save the recipes that stay."""
        return self.changed(
            plants={id: moved(p, moving) for id, p in self.plants.items()},
            recipes={id: r if id in staying else r.moved(moving) for id, r in self.recipes.items()},
        )

    def slots_moved(self, place: FrameMap) -> Callable[[Key], Key]:
        """What makes of a key that is known again by its frame one that is known by where that goes."""
        by_frame = {id for id, r in self.recipes.items() if r.by_frame}
        return lambda k: k.changed(slot=place(k.slot)) if k.recipe in by_frame and k.slot is not None else k

    def with_channels(self, *channels: Channel) -> Motion:
        """This motion with these channels in place of those that had their ids; one without keys goes."""
        found = {**self.channels, **{c.id: c for c in channels}}
        return self.changed(channels={id: c for id, c in found.items() if c.keys})
