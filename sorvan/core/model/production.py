"""The production: what all its puppets and motions share."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from sorvan.core.model.base import Checked, Colour, Id, Name, Value, filed


class Rate(Value):
    """Frames per second as a fraction, so that 30000/1001 is exact."""

    numerator: Annotated[int, Field(ge=1, le=240_000)] = 24
    denominator: Annotated[int, Field(ge=1, le=1001)] = 1


class Swatch(Value):
    """A named colour of the production's palette."""

    id: Id
    name: Name
    colour: Colour


StageSide = Annotated[int, Field(ge=16, le=8192)]
"""A side of a stage, in units."""


class Production(Checked):
    """Everything made for one film. Stage sizes are in stage units: one unit is one pixel at full size.
    `shots` are its shots in the order in which they play."""

    kind: Literal["production"] = "production"
    id: Id
    name: Name
    rate: Rate = Rate()
    width: StageSide = 1280
    height: StageSide = 720
    paper: Colour = "#f4ead6ff"
    backdrop: Id | None = None
    swatches: dict[Id, Swatch] = {}
    shots: tuple[Id, ...] = ()

    def check(self) -> None:
        filed("swatch", self.swatches)
