"""Commands on feet that stay, on the ground under a motion, and on travel."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from sorvan.core.change.command import MotionCommand, reached, several
from sorvan.core.change.given import over
from sorvan.core.errors import Refusal
from sorvan.core.model.base import Id, Number
from sorvan.core.model.documents import Documents
from sorvan.core.model.motion import Ground, Motion, Plant
from sorvan.core.model.puppet import Puppet
from sorvan.core.model.times import LONGEST, Frame, Frames
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.plan.travel import GroundWay, ground_of, matched
from sorvan.core.rig.anatomy import anatomy, has_legs

Fade = Annotated[int, Field(ge=0, le=48)]


class PlantFoot(MotionCommand):
    """Plant a foot, a hand or any joint that has a bone above it for some frames, where it is at a frame
    (the first, if not told). A foot comes down to the ground."""

    do: Literal["plant-foot"] = "plant-foot"
    id: Id
    joint: Id
    start: Frame
    frames: Frames
    place_at: Frame | None = None
    flat: bool = False
    fade: Fade = 2

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        if self.joint not in puppet.joints:
            raise Refusal("What was to be planted is gone.", where=self.joint, kind="missing")
        name = puppet.joints[self.joint].name
        reached(motion, self.start, name)
        bare = Evaluation.full(puppet, motion.changed(plants={}))
        foot = bare.rig.footing(puppet, self.joint)
        if not foot.bends:
            raise Refusal(
                f"“{name}” hangs on no bone that could be turned to keep it in its place.",
                where=name,
                remedy="Plant the end of a limb: a foot, a hand, the tip of a tail.",
            )
        at = min(self.start if self.place_at is None else self.place_at, motion.length - 1)
        place = complex(foot.stands(bare.worlds[bare.rig.row[self.joint]])[at])
        x = place.real + motion.ground.runs * (self.start - at)
        y = ground_of(motion, puppet) if _is_foot(puppet, self.joint) else place.imag
        plant = Plant(
            id=self.id, joint=self.joint, start=self.start, frames=self.frames,
            place=(round(x, 4), round(y, 4)), flat=self.flat, fade=self.fade,
        )  # fmt: skip
        return motion.changed(plants=motion.plants | {self.id: plant})

    def label(self, documents: Documents) -> str:
        motion = documents.motion(self.motion)
        held = documents.puppet(motion.puppet).joints.get(self.joint)
        name = f"“{held.name}”" if held else "a foot"
        return f"Plant {name} at frame {self.start + 1} for {several(self.frames, 'frame')}"


def _is_foot(puppet: Puppet, joint: str) -> bool:
    return has_legs(puppet) and any(joint == (leg.foot or leg.bones[-1]) for leg in anatomy(puppet).legs)


def planted_name(documents: Documents, motion: str, plant: str) -> str:
    """What is planted, for a sentence."""
    held = documents.motion(motion)
    found = held.plants.get(plant)
    joint = documents.puppet(held.puppet).joints.get(found.joint) if found else None
    return f"“{joint.name}”" if joint else "a planted foot"


class SetPlant(MotionCommand):
    """Change when, where or how something is planted; only what is given changes."""

    do: Literal["set-plant"] = "set-plant"
    id: Id
    start: Frame | None = None
    frames: Frames | None = None
    place: tuple[Number | None, Number | None] | None = None
    flat: bool | None = None
    fade: Fade | None = None

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        held = _planted(motion, self.id)
        names = ("frames", "place", "flat", "fade")
        given = {f: over(v, getattr(held, f)) for f in names if (v := getattr(self, f)) is not None}
        if self.start is not None:
            given["start"] = self.start
            if self.place is None:
                given["place"] = _on_ground(motion, held, self.start)
        return motion.changed(plants=motion.plants | {self.id: held.changed(**given)})

    def label(self, documents: Documents) -> str:
        return f"Change where {planted_name(documents, self.motion, self.id)} is planted"


def _planted(motion: Motion, id: str) -> Plant:
    """Something planted. Raises `Refusal` when it is let go."""
    held = motion.plants.get(id)
    if held is None:
        raise Refusal("That foot is not planted any more.", where=motion.name, kind="missing")
    return held


def _on_ground(motion: Motion, held: Plant, start: int) -> tuple[float, float]:
    """Where it is planted if it begins at another frame: on running ground still at the same place of the ground."""
    x, y = held.place
    return x + motion.ground.runs * (start - held.start), y


class NudgePlant(MotionCommand):
    """Move when something is planted, when that begins, or when it ends, by so many frames. In a cycle that goes round;
    nothing is planted for less than a frame."""

    do: Literal["nudge-plant"] = "nudge-plant"
    id: Id
    end: Literal["start", "end", "both"]
    by: Annotated[int, Field(ge=-LONGEST, le=LONGEST)]

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        held = _planted(motion, self.id)
        if self.end == "end":
            after = held.changed(frames=max(1, held.frames + self.by))
        else:
            by = min(self.by, held.frames - 1) if self.end == "start" else self.by
            by = by if motion.cycle else max(by, -held.start)
            start = held.start + by
            start = start % motion.length if motion.cycle else max(0, min(motion.length - 1, start))
            lasts = held.frames - by if self.end == "start" else held.frames
            place = _on_ground(motion, held, start)
            after = held.changed(start=start, frames=max(1, lasts), place=place)
        return motion.changed(plants=motion.plants | {held.id: after})

    def label(self, documents: Documents) -> str:
        return f"Change where {planted_name(documents, self.motion, self.id)} is planted"


class RemovePlants(MotionCommand):
    """Let go of what is planted."""

    do: Literal["remove-plants"] = "remove-plants"
    ids: Annotated[tuple[Id, ...], Field(min_length=1, max_length=2000)]

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        if not motion.plants.keys() >= set(self.ids):
            raise Refusal("That foot is not planted any more.", where=motion.name, kind="missing")
        return motion.changed(plants={id: p for id, p in motion.plants.items() if id not in self.ids})

    def label(self, documents: Documents) -> str:
        if len(self.ids) > 1:
            return f"Let go of {len(self.ids)} plants"
        return f"Let go of {planted_name(documents, self.motion, self.ids[0])}"


class SetGround(MotionCommand):
    """Say how far down the ground lies (units; where the puppet stands, if not told), and how fast it runs
    under a puppet that walks on the spot (units a frame)."""

    do: Literal["set-ground"] = "set-ground"
    level: Number | None = None
    runs: Number = 0.0

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        return motion.changed(ground=Ground(level=self.level, runs=self.runs))

    def label(self, documents: Documents) -> str:
        return f"Set the ground under “{documents.motion(self.motion).name}”"


class MatchTravel(MotionCommand):
    """Make travel equal the stride: on the spot the ground runs as fast as the feet that stand on it are
    carried back, forward the puppet goes on as fast. Feet are planted wherever they stand."""

    do: Literal["match-travel"] = "match-travel"
    travel: GroundWay = "spot"

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        return matched(motion, puppet, self.travel)

    def label(self, documents: Documents) -> str:
        name = documents.motion(self.motion).name
        return f"Match the {'ground' if self.travel == 'spot' else 'travel'} of “{name}” to its stride"


PlantCommand = PlantFoot | SetPlant | NudgePlant | RemovePlants | SetGround | MatchTravel
