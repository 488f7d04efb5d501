"""Commands on the way along which one of a shot's cast is carried by its feet."""

from __future__ import annotations

from abc import abstractmethod
from typing import Annotated, Literal

from pydantic import Field

from sorvan.core.change.casting import called, member_of
from sorvan.core.change.given import over
from sorvan.core.change.shots import ShotCommand
from sorvan.core.errors import Refusal, missing
from sorvan.core.model.base import Id, Number
from sorvan.core.model.documents import Documents
from sorvan.core.model.shot import Member, Shot, Travel, Via

FIRST_WAY = 500.0
"""Stage units that a new way is long."""


class OnWay(ShotCommand):
    """A command that changes the way of one of the cast."""

    cast: Id

    def on(self, shot: Shot, documents: Documents) -> Shot:
        member = member_of(shot, self.cast)
        before = member.travel or Travel()
        way = self.laid(member, list(before.way))
        return shot.with_cast(member.changed(travel=before.changed(way=tuple(way))))

    @abstractmethod
    def laid(self, member: Member, way: list[Via]) -> list[Via]:
        """The points of the way after this command."""

    def said(self, shot: Shot) -> str:
        return f"Set the way of “{called(shot.cast[self.cast]) if self.cast in shot.cast else self.cast}”"


def _point(member: Member, way: list[Via], n: int) -> Via:
    if n >= len(way):
        raise missing(f"point on the way of “{called(member)}”", str(n + 1))
    return way[n]


class BeginWay(OnWay):
    """Carry one of the cast along a way: at first straight on, to where it looks."""

    do: Literal["begin-way"] = "begin-way"

    def laid(self, member: Member, way: list[Via]) -> list[Via]:
        return way if len(way) > 1 else [Via(at=(0, 0)), Via(at=(-FIRST_WAY if member.mirror else FIRST_WAY, 0))]


class ExtendWay(OnWay):
    """Let a way go on to one more point, straight on and as far as to its last."""

    do: Literal["extend-way"] = "extend-way"

    def laid(self, member: Member, way: list[Via]) -> list[Via]:
        _point(member, way, 1)
        (ax, ay), (bx, by) = way[-2].at, way[-1].at
        return [*way, Via(at=(2 * bx - ax, 2 * by - ay))]


class SetWayPoint(OnWay):
    """Move a point of a way (units, seen from where the member stands; either may be null), or say whether the way goes
    through it in a curve; only what is given. Points are counted from nought."""

    do: Literal["set-way-point"] = "set-way-point"
    point: Annotated[int, Field(ge=0, le=400)]
    at: tuple[Number | None, Number | None] | None = None
    smooth: bool | None = None

    def laid(self, member: Member, way: list[Via]) -> list[Via]:
        held = _point(member, way, self.point)
        given = {f: over(v, getattr(held, f)) for f in ("at", "smooth") if (v := getattr(self, f)) is not None}
        return [held.changed(**given) if n == self.point else via for n, via in enumerate(way)]


class RemoveWayPoint(OnWay):
    """Take a point out of a way. Two stay: without a way it goes straight on."""

    do: Literal["remove-way-point"] = "remove-way-point"
    point: Annotated[int, Field(ge=0, le=400)]

    def laid(self, member: Member, way: list[Via]) -> list[Via]:
        _point(member, way, self.point)
        if len(way) < 3:
            raise Refusal(
                "A way has two points at least.", where=called(member), remedy="Let it go straight on instead."
            )
        return [via for n, via in enumerate(way) if n != self.point]


TravelCommand = BeginWay | ExtendWay | SetWayPoint | RemoveWayPoint
