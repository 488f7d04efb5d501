"""Commands on the cast of a shot: who is on, where, and in what order from back to front."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from sorvan.core.change.command import Command, free, several
from sorvan.core.change.given import Given, over
from sorvan.core.change.shots import ShotCommand
from sorvan.core.errors import Refusal, missing
from sorvan.core.model.base import Colour, Id, Number, Percent
from sorvan.core.model.documents import Documents
from sorvan.core.model.shot import Camera, Copies, Member, Shake, Shot, Travel


def cast_of(shot: Shot, id: str) -> Member | Copies:
    """One of a shot's cast. Raises `Refusal` when it is gone."""
    if id not in shot.cast:
        raise missing(f"cast member of “{shot.name}”", id)
    return shot.cast[id]


def member_of(shot: Shot, id: str) -> Member:
    """A puppet in a shot's cast. Raises `Refusal` when it is gone, or an element that is copied."""
    found = cast_of(shot, id)
    if not isinstance(found, Member):
        raise Refusal(f"“{called(found)}” is copied: it has no spans and keys of its own.", where=shot.name)
    return found


def called(cast: Member | Copies) -> str:
    """What one of the cast is called."""
    return cast.name or cast.puppet


class AddCast(ShotCommand):
    """Put a puppet, or copies of one, into the cast, in front of all, or behind one that is there."""

    do: Literal["add-cast"] = "add-cast"
    cast: Annotated[Member | Copies, Field(discriminator="kind")]
    behind: Id | None = None

    def on(self, shot: Shot, documents: Documents) -> Shot:
        free(shot.cast, self.cast.id)
        name = self.cast.name or documents.puppet(self.cast.puppet).name
        after = shot.with_cast(self.cast.changed(name=name))
        if self.behind is None:
            return after
        cast_of(shot, self.behind)
        at = shot.order.index(self.behind)
        return after.changed(order=(*shot.order[:at], self.cast.id, *shot.order[at:]))

    def said(self, shot: Shot) -> str:
        return f"Put “{called(self.cast)}” into “{shot.name}”"


FOOT = 0.87
"""How far down the stage one stands whose art was drawn elsewhere."""


class BringOn(Command):
    """Bring a puppet on, or copies of one, in front of all. One that moves stands in the middle of the stage, as far
    down as it was drawn to stand; what only stands there, where its art was drawn. Copies lie about the middle, and
    move as the puppet's first motion has it."""

    do: Literal["bring-on"] = "bring-on"
    shot: Id
    id: Id
    puppet: Id
    copies: bool = False

    def result(self, documents: Documents) -> Documents:
        return AddCast(shot=self.shot, cast=self._cast(documents)).result(documents)

    def _cast(self, documents: Documents) -> Member | Copies:
        puppet, stage = documents.puppet(self.puppet), documents.production
        motion = next(documents.motions(puppet.id), None)
        middle = stage.width / 2
        if self.copies:
            at = (middle, stage.height / 2)
            return Copies(id=self.id, puppet=puppet.id, motion=motion.id if motion else None, at=at)
        down = puppet.origin[1]
        stands = (middle, down if 0 < down <= stage.height else float(round(stage.height * FOOT)))
        return Member(id=self.id, puppet=puppet.id, at=stands if motion else puppet.origin)

    def label(self, documents: Documents) -> str:
        name = documents.puppet(self.puppet).name
        return f"Put {'copies of ' if self.copies else ''}“{name}” into “{documents.shot(self.shot).name}”"


class TravelGiven(Given, of=Travel):
    """What of the way one of the cast is carried is given."""


class SetCast(ShotCommand):
    """Change where one of the cast stands, how large, turned and mirrored it is, how much it shifts with the camera,
    its name, or whether it shows; only what is given. Of where it stands either may be null: it stays. `travel` null:
    it is not carried."""

    do: Literal["set-cast"] = "set-cast"
    cast: Id
    name: Annotated[str, Field(max_length=120)] | None = None
    at: tuple[Number | None, Number | None] | None = None
    scale: Annotated[float, Field(ge=0.01, le=100)] | None = None
    turn: Number | None = None
    mirror: bool | None = None
    share: Annotated[float, Field(ge=0, le=1000)] | None = None
    hidden: bool | None = None
    travel: TravelGiven | None = None

    def on(self, shot: Shot, documents: Documents) -> Shot:
        held = cast_of(shot, self.cast)
        names = ("name", "at", "scale", "turn", "mirror", "share", "hidden")
        given = {f: over(v, getattr(held, f)) for f in names if (v := getattr(self, f)) is not None}
        if "travel" in self.model_fields_set:
            before = member_of(shot, self.cast).travel
            given["travel"] = self.travel and self.travel.over(before or Travel())
        return shot.with_cast(held.changed(**given))

    def said(self, shot: Shot) -> str:
        name = called(shot.cast[self.cast]) if self.cast in shot.cast else self.cast
        what = {"name": "Rename", "at": "Place", "scale": "Scale", "turn": "Turn", "mirror": "Mirror"}
        what |= {"share": "Set the depth of", "hidden": "Hide" if self.hidden else "Show", "travel": "Set the way of"}
        return f"{next((what[f] for f in what if f in self.model_fields_set), 'Leave')} “{name}”"


class SetCopies(ShotCommand):
    """Change how an element is copied; only what is given. `along` null: they go along with nobody. Of how far they
    spread either may be null: it stays."""

    do: Literal["set-copies"] = "set-copies"
    cast: Id
    motion: Id | None = None
    along: Id | None = None
    count: Annotated[int, Field(ge=1, le=400)] | None = None
    seed: Annotated[int, Field(ge=0, lt=2**31)] | None = None
    spread: tuple[Number | None, Number | None] | None = None
    size: Percent | None = None
    turn: Annotated[float, Field(ge=0, le=180)] | None = None
    opacity: Percent | None = None
    tint: Colour | None = None
    tinted: Percent | None = None
    fade_in: Percent | None = None
    fade_out: Percent | None = None

    def on(self, shot: Shot, documents: Documents) -> Shot:
        held = cast_of(shot, self.cast)
        if not isinstance(held, Copies):
            raise Refusal(f"“{called(held)}” is not copied.", where=shot.name)
        names = self.model_fields_set - {"do", "shot", "cast"}
        given = {f: over(v, getattr(held, f)) for f in names if (v := getattr(self, f)) is not None}
        if "along" in self.model_fields_set:
            if self.along is not None:
                member_of(shot, self.along)
            given["along"] = self.along
        return shot.with_cast(held.changed(**given))

    def said(self, shot: Shot) -> str:
        return f"Set the copies of “{called(shot.cast[self.cast]) if self.cast in shot.cast else self.cast}”"


class RemoveCast(ShotCommand):
    """Take some of the cast out of a shot."""

    do: Literal["remove-cast"] = "remove-cast"
    cast: Annotated[tuple[Id, ...], Field(min_length=1)]

    def on(self, shot: Shot, documents: Documents) -> Shot:
        for id in self.cast:
            cast_of(shot, id)
        return shot.without(*self.cast)

    def said(self, shot: Shot) -> str:
        one = called(shot.cast[self.cast[0]]) if self.cast[0] in shot.cast else self.cast[0]
        return f"Take {several(len(self.cast), 'cast member', one)} out of “{shot.name}”"


class OrderCast(ShotCommand):
    """Put one of the cast behind another one, or in front of all."""

    do: Literal["order-cast"] = "order-cast"
    cast: Id
    behind: Id | None = None

    def on(self, shot: Shot, documents: Documents) -> Shot:
        cast_of(shot, self.cast)
        order = [c for c in shot.order if c != self.cast]
        if self.behind is not None and self.behind not in order:
            raise missing(f"cast member of “{shot.name}”", self.behind)
        at = len(order) if self.behind is None else order.index(self.behind)
        return shot.changed(order=(*order[:at], self.cast, *order[at:]))

    def said(self, shot: Shot) -> str:
        return f"Put “{called(shot.cast[self.cast]) if self.cast in shot.cast else self.cast}” elsewhere in depth"


class DuplicateCast(ShotCommand):
    """The same puppet once more, with spans of its own that do the same, right in front; a little aside."""

    do: Literal["duplicate-cast"] = "duplicate-cast"
    cast: Id
    id: Id

    def on(self, shot: Shot, documents: Documents) -> Shot:
        held = cast_of(shot, self.cast)
        free(shot.cast, self.id)
        fresh = held.changed(id=self.id, at=(held.at[0] + 80, held.at[1]), name=f"{called(held)[:110]} again")
        at = shot.order.index(self.cast) + 1
        return shot.with_cast(fresh).changed(order=(*shot.order[:at], self.id, *shot.order[at:]))

    def said(self, shot: Shot) -> str:
        return f"Duplicate “{called(shot.cast[self.cast]) if self.cast in shot.cast else self.cast}”"


class ShakeGiven(Given, of=Shake):
    """What of a shake is given."""


class SetShake(ShotCommand):
    """Let the camera shake, or change what is given of how it does, or, with none, hold it still."""

    do: Literal["set-shake"] = "set-shake"
    shake: ShakeGiven | None = None

    def on(self, shot: Shot, documents: Documents) -> Shot:
        shake = self.shake and self.shake.over(shot.camera.shake or Shake())
        camera: Camera = shot.camera.changed(shake=shake)
        return shot.changed(camera=camera)

    def said(self, shot: Shot) -> str:
        return f"{'Hold the camera still' if self.shake is None else 'Let the camera shake'} in “{shot.name}”"


CastCommand = AddCast | BringOn | SetCast | SetCopies | RemoveCast | OrderCast | DuplicateCast | SetShake
