"""Commands on the production and on which puppets and motions it has."""

from __future__ import annotations

from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from sorvan.core.change.command import Command, PuppetCommand, free
from sorvan.core.errors import Refusal
from sorvan.core.model.base import Colour, Id, Name, Number, Pair
from sorvan.core.model.documents import Documents
from sorvan.core.model.motion import Motion
from sorvan.core.model.production import Rate, StageSide
from sorvan.core.model.puppet import Puppet
from sorvan.core.model.times import LONGEST
from sorvan.core.motion.retime import lasting
from sorvan.core.plan.turning import Between, turnaround_of


def new_id(documents: Documents, id: str) -> str:
    """The id, if nothing has it yet. Raises `Refusal` otherwise."""
    return free(documents.by_id, id)


class SetProduction(Command):
    """Change the production's settings; only the fields given are changed."""

    do: Literal["set-production"] = "set-production"
    name: Name | None = None
    rate: Rate | None = None
    width: StageSide | None = None
    height: StageSide | None = None
    paper: Colour | None = None
    backdrop: Id | None = None

    def result(self, documents: Documents) -> Documents:
        given = {f: getattr(self, f) for f in self.model_fields_set if f != "do"}
        if self.backdrop is not None:
            documents.puppet(self.backdrop)
        given = {f: v for f, v in given.items() if v is not None or f == "backdrop"}
        return documents.with_(documents.production.changed(**given))

    def label(self, documents: Documents) -> str:
        names = {"rate": "frame rate", "width": "stage size", "height": "stage size", "paper": "paper colour"}
        given = sorted({names.get(f, f) for f in self.model_fields_set if f != "do"})
        return f"Set {' and '.join(given) or 'nothing'}"


class AddPuppet(Command):
    """Make an empty puppet."""

    do: Literal["add-puppet"] = "add-puppet"
    id: Id
    name: Name

    def result(self, documents: Documents) -> Documents:
        production = documents.production
        stands = (production.width / 2, production.height * 0.9)
        return documents.with_(Puppet(id=new_id(documents, self.id), name=self.name, origin=stands))

    def label(self, documents: Documents) -> str:
        return f"Add puppet “{self.name}”"


class SetPuppet(PuppetCommand):
    """Rename a puppet, move the place it stands on, or the upright line in which its other side is made (stage units);
    `middle` lets that line be where the puppet's middle is."""

    do: Literal["set-puppet"] = "set-puppet"
    name: Name | None = None
    origin: Pair | None = None
    axis: Number | Literal["middle"] | None = None

    def on(self, puppet: Puppet) -> Puppet:
        given: dict[str, object] = {k: v for k, v in (("name", self.name), ("origin", self.origin)) if v is not None}
        if self.axis is not None:
            given["axis"] = None if self.axis == "middle" else self.axis
        return puppet.changed(**given)

    def said(self, puppet: Puppet) -> str:
        if self.axis is not None and self.origin is None and self.name is None:
            return f"Set the axis of the other side of “{puppet.name}”"
        return f"{'Rename' if self.name else 'Set the standing place of'} “{puppet.name}”"


class RemovePuppet(Command):
    """Take away a puppet with its motions, from the cast of every shot too."""

    do: Literal["remove-puppet"] = "remove-puppet"
    puppet: Id

    def result(self, documents: Documents) -> Documents:
        documents.puppet(self.puppet)
        kept = documents.without(self.puppet, *(m.id for m in documents.motions(self.puppet))).without_cast(self.puppet)
        if kept.production.backdrop == self.puppet:
            kept = kept.with_(kept.production.changed(backdrop=None))
        return kept

    def label(self, documents: Documents) -> str:
        return f"Remove puppet “{documents.puppet(self.puppet).name}”"


class AddMotion(Command):
    """Make an empty motion for a puppet, `length` frames long."""

    do: Literal["add-motion"] = "add-motion"
    id: Id
    puppet: Id
    name: Name
    length: Annotated[int, Field(ge=1, le=LONGEST)] = 48
    cycle: bool = False

    def result(self, documents: Documents) -> Documents:
        documents.puppet(self.puppet)
        fresh = Motion(
            id=new_id(documents, self.id), name=self.name, puppet=self.puppet, length=self.length, cycle=self.cycle
        )
        return documents.with_(fresh)

    def label(self, documents: Documents) -> str:
        return f"Add motion “{self.name}”"


class SetMotion(Command):
    """Rename a motion, change its length in frames, make it a cycle, or say from where it is made to be seen (degrees;
    none: its keys are as they look in whatever view the puppet is)."""

    do: Literal["set-motion"] = "set-motion"
    motion: Id
    name: Name | None = None
    length: Annotated[int, Field(ge=1, le=LONGEST)] | None = None
    cycle: bool | None = None
    seen: Annotated[float, Field(ge=0, lt=360)] | None = None

    def result(self, documents: Documents) -> Documents:
        held = documents.motion(self.motion)
        given = {f: v for f in ("name", "cycle") if (v := getattr(self, f)) is not None}
        if "seen" in self.model_fields_set:
            given["seen"] = self.seen
            _can_be_made_for(documents, held, self.seen)
        if self.length is not None:
            held = lasting(held, self.length)
        return documents.with_(held.changed(**given))

    def label(self, documents: Documents) -> str:
        name = documents.motion(self.motion).name
        if self.length is not None:
            return f"Make “{name}” {self.length} frames long"
        if self.cycle is not None:
            return f"Make “{name}” {'a cycle' if self.cycle else 'play once'}"
        if "seen" in self.model_fields_set:
            return f"Make “{name}” for {'any view' if self.seen is None else f'the view at {self.seen:g}°'}"
        return f"Rename “{name}”"


def _can_be_made_for(documents: Documents, motion: Motion, seen: float | None) -> None:
    """Raises `Refusal` unless a motion can be made for this view of its puppet."""
    if seen is None:
        return
    puppet = documents.puppet(motion.puppet)
    dial = turnaround_of(puppet)
    if dial is None:
        raise Refusal(
            f"“{puppet.name}” is seen from one side only.", where=puppet.name, remedy="Give it views on the Rig bench."
        )
    if Between.of(dial, np.array([seen])).mirrored[0]:
        raise Refusal(
            "A motion can't be made for a view in the mirror.",
            where=f"{seen:g}°",
            remedy="Make it for the view that this one mirrors; it plays here just as well.",
        )


class RemoveMotion(Command):
    """Take away a motion, from every shot too."""

    do: Literal["remove-motion"] = "remove-motion"
    motion: Id

    def result(self, documents: Documents) -> Documents:
        documents.motion(self.motion)
        return documents.without(self.motion).without_motion(self.motion)

    def label(self, documents: Documents) -> str:
        return f"Remove motion “{documents.motion(self.motion).name}”"


ProductionCommand = SetProduction | AddPuppet | SetPuppet | RemovePuppet | AddMotion | SetMotion | RemoveMotion
