"""The puppet: its pieces, and the joints they ride on."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from sorvan.core.geometry import Affine, compose, placed, translation
from sorvan.core.model.art import Box
from sorvan.core.model.base import AssetId, Id, Name, Number, Pair, Value

Side = Literal["left", "right", "centre"]

ROOT = "puppet"
"""The id under which the puppet as a whole is turned and moved."""


class Rest(Value):
    """Where a joint rests in its parent: shift, turn (degrees), skew (degrees) and scale.

    The skew is nearly always zero. It is there so that a joint re-linked under a parent that
    is turned and scaled unevenly stays exactly where it was.
    """

    x: Number = 0.0
    y: Number = 0.0
    angle: float = 0.0
    skew: float = 0.0
    sx: float = 1.0
    sy: float = 1.0

    def affine(self) -> Affine:
        """The transform from this joint's space to its parent's."""
        return placed(self.x, self.y, self.angle, self.skew, self.sx, self.sy)


class Joint(Value):
    """A node of the skeleton. A joint without a parent hangs on the puppet itself."""

    id: Id
    name: Name
    parent: Id | None = None
    rest: Rest = Rest()
    side: Side = "centre"


class Drawing(Value):
    """One picture a piece can show. `pivot` is in the drawing's units and lands on the joint."""

    id: Id
    name: Name
    art: AssetId
    pivot: Pair
    bounds: Box


class Fit(Value):
    """How a piece sits on its joint: shift from the joint, turn, skew and scale about the pivot."""

    x: Number = 0.0
    y: Number = 0.0
    angle: float = 0.0
    skew: float = 0.0
    sx: float = 1.0
    sy: float = 1.0

    def affine(self) -> Affine:
        """The transform from pivot-centred drawing units to the joint's space."""
        return placed(self.x, self.y, self.angle, self.skew, self.sx, self.sy)


class Piece(Value):
    """One cut-out part, riding rigidly on one joint."""

    id: Id
    name: Name
    joint: Id
    side: Side = "centre"
    group: Id | None = None
    drawings: Annotated[tuple[Drawing, ...], Field(min_length=1)]
    fit: Fit = Fit()
    hidden: bool = False
    locked: bool = False

    def shown(self) -> Drawing:
        """The drawing that shows at rest."""
        return self.drawings[0]

    def in_joint(self) -> Affine:
        """The transform from the shown drawing's units to the joint's space."""
        px, py = self.shown().pivot
        return compose(self.fit.affine(), translation(-px, -py))


class Group(Value):
    """Pieces kept together by name; groups may sit in groups."""

    id: Id
    name: Name
    parent: Id | None = None


class Puppet(Value):
    """A rigged character, prop or set. `order` runs from back to front; `origin` is where it stands."""

    kind: Literal["puppet"] = "puppet"
    id: Id
    name: Name
    origin: Pair = (0.0, 0.0)
    pieces: dict[Id, Piece] = {}
    joints: dict[Id, Joint] = {}
    groups: dict[Id, Group] = {}
    order: tuple[Id, ...] = ()

    @model_validator(mode="after")
    def _holds_together(self) -> Puppet:
        if sorted(self.order) != sorted(self.pieces):
            raise ValueError("the order must name every piece once")
        for piece in self.pieces.values():
            if piece.joint not in self.joints:
                raise ValueError(f"“{piece.name}” rides on a joint that is not there")
            if piece.group is not None and piece.group not in self.groups:
                raise ValueError(f"“{piece.name}” is in a group that is not there")
        for id in self.joints:
            seen = {id}
            above = self.joints[id].parent
            while above is not None:
                if above in seen or above not in self.joints:
                    raise ValueError(f"“{self.joints[id].name}” hangs in a loop or on nothing")
                seen.add(above)
                above = self.joints[above].parent
        return self
