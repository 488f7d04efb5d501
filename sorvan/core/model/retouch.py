"""What was done to a drawing here: parts changed, and lines erased and drawn over them. What it was before stays."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from sorvan.core.model.base import AssetId, Colour, Number, Pair, Value
from sorvan.core.model.shape import EditableShape

Width = Annotated[float, Field(gt=0, le=1000)]


class PartChange(Value):
    """What of one part of a drawing is otherwise: moved by so much (drawing units), turned (degrees) and sized (percent)
    about its middle, painted anew, or left out."""

    x: Number = 0.0
    y: Number = 0.0
    turn: Annotated[float, Field(ge=-360, le=360)] = 0.0
    size: Annotated[float, Field(ge=1, le=10_000)] = 100.0
    fill: Colour | None = None
    stroke: Colour | None = None
    out: bool = False


class DrawnLine(Value):
    """A line of a hand (drawing units): it wipes away what lies under it, or is drawn over it in a colour."""

    do: Literal["wipe", "draw"]
    points: Annotated[tuple[Pair, ...], Field(min_length=1, max_length=4000)]
    width: Width
    colour: Colour = "#23364dff"


class Retouch(Value):
    """How a drawing was made of another, of which nothing is lost: its parts in another order (`order`, from the back, by
    their places in it; as they lie there, when empty) and changed, by place; then the lines, one after the other.

    `shape` is the shape that it was, when it was drawn here.
    """

    of: AssetId
    order: Annotated[tuple[Annotated[int, Field(ge=0, le=1999)], ...], Field(max_length=2000)] = ()
    parts: Annotated[dict[Annotated[int, Field(ge=0, le=1999)], PartChange], Field(max_length=2000)] = {}
    lines: Annotated[tuple[DrawnLine, ...], Field(max_length=500)] = ()
    shape: EditableShape | None = None
