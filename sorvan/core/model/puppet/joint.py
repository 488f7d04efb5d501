"""Joints, handles, and limbs that reach."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from sorvan.core.geometry import Affine
from sorvan.core.kept import kept
from sorvan.core.model.base import Checked, Id, Name, Number, Value

Side = Literal["left", "right", "centre"]

ROOT = "puppet"
"""The id under which the puppet as a whole is turned and moved."""


class Placement(Value):
    """Where something sits in what carries it: shift, turn (degrees), skew (degrees) and scale.

    The skew is nearly always zero. It is there so that a joint re-linked, or a piece re-seated,
    under something that is turned and scaled unevenly stays exactly where it was.
    """

    x: Number = 0.0
    y: Number = 0.0
    angle: float = 0.0
    skew: float = 0.0
    sx: float = 1.0
    sy: float = 1.0

    @classmethod
    def of(cls, m: Affine) -> Placement:
        """The placement whose transform is `m`."""
        x, y, angle, skew, sx, sy = m.placement()
        return cls(x=x, y=y, angle=angle, skew=skew, sx=sx, sy=sy)

    @kept()
    def affine(self) -> Affine:
        """The transform from the space of what sits here to the space of what carries it."""
        return Affine.placed(self.x, self.y, self.angle, self.skew, self.sx, self.sy)


Role = Literal[
    "pelvis", "spine", "neck", "head", "upper arm", "lower arm", "hand", "thigh", "shin", "foot", "toe", "wing", "tail"
]  # fmt: skip


class Limits(Checked):
    """How far a joint may turn from its rest, in degrees."""

    low: Annotated[float, Field(ge=-720, le=720)]
    high: Annotated[float, Field(ge=-720, le=720)]

    def check(self) -> None:
        if self.low > self.high:
            raise ValueError("the lower limit lies above the upper one")


class Joint(Checked):
    """A node of the skeleton. A joint without a parent hangs on the puppet itself.

    A handle is a node too: it carries no bone, but chains reach for it and sheets are pulled by
    it. With `world` it does not follow the puppet when that is moved as a whole. `role` is what
    the joint is for, as told by the user; without one it is guessed.
    """

    id: Id
    name: Name
    parent: Id | None = None
    rest: Placement = Placement()
    side: Side = "centre"
    handle: bool = False
    world: bool = False
    role: Role | None = None
    limits: Limits | None = None

    def check(self) -> None:
        if self.world and self.parent is not None:
            raise ValueError("a node of the world hangs on nothing")


class Chain(Value):
    """A limb that reaches: `joints` from the anchor, which stays put, to the end that meets the handle.

    `bend` is the way the middle gives (as it lies at rest, or told), `soft` the part of the
    limb's length over which it slows down before it is straight, `stretch` how many times its
    length it may grow, and `follow` whether the end joint turns with the handle.
    """

    id: Id
    name: Name
    joints: Annotated[tuple[Id, ...], Field(min_length=2, max_length=24)]
    handle: Id
    bend: Literal["rest", "clockwise", "counter-clockwise"] = "rest"
    soft: Annotated[float, Field(ge=0, le=0.5)] = 0.05
    stretch: Annotated[float, Field(ge=1, le=4)] = 1.0
    follow: bool = False
