"""A simple shape drawn here: points, a fill and a stroke. Its art is made from it."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from sorvan.core.model.base import Colour, Number, Pair, Value


class ShapePoint(Value):
    """A point of an outline, in drawing units.

    A smooth point's line runs through without a corner. `into` and `out` are its handles,
    relative to it; a smooth point without handles takes its direction from its neighbours.
    """

    x: Number
    y: Number
    smooth: bool = False
    into: Pair | None = None
    out: Pair | None = None


class EditableShape(Value):
    """One outline with a fill under a stroke, either of which may be missing."""

    kind: Literal["rectangle", "ellipse", "polygon", "freehand"]
    points: Annotated[tuple[ShapePoint, ...], Field(min_length=2, max_length=4000)]
    closed: bool = True
    fill: Colour | None = "#c9a36aff"
    stroke: Colour | None = "#23364dff"
    width: Annotated[float, Field(gt=0, le=1000)] = 3.0
