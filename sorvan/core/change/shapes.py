"""Commands that draw simple shapes and edit their points."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from sorvan.core.art.drawn import (
    art_of,
    ellipse,
    rectangle,
    smoothed,
    with_corner,
    with_moved,
    with_point,
    without_point,
)
from sorvan.core.change.command import Command, PuppetCommand
from sorvan.core.change.given import over
from sorvan.core.change.pieces import AddPieces, NewPiece
from sorvan.core.errors import Refusal
from sorvan.core.geometry import Point
from sorvan.core.model.art import Art
from sorvan.core.model.base import Colour, Id, Name, Number, Pair, asset_id
from sorvan.core.model.documents import Documents
from sorvan.core.model.puppet import Drawing, Puppet
from sorvan.core.model.shape import EditableShape, ShapePoint
from sorvan.core.rig.riding import with_drawing
from sorvan.core.rig.skeleton import piece, piece_worlds

LEAST = 2.0
"""Stage units that a shape must measure at least, so that a slip of the hand makes nothing."""


class DrawShape(Command):
    """Draw a piece: a rectangle or ellipse between two stage points, a polygon of corners, or a
    hand's line, smoothed to within `smoothing` units."""

    do: Literal["draw-shape"] = "draw-shape"
    puppet: Id
    id: Id
    name: Name
    kind: Literal["rectangle", "ellipse", "polygon", "freehand"]
    points: Annotated[tuple[Pair, ...], Field(min_length=2, max_length=20_000)]
    closed: bool = True
    fill: Colour | None = "#c9a36aff"
    stroke: Colour | None = "#23364dff"
    width: Annotated[float, Field(gt=0, le=1000)] = 3.0
    smoothing: Annotated[float, Field(ge=0.1, le=100)] = 2.0

    def shape(self) -> EditableShape:
        """The shape, in stage units."""
        first, last = self.points[0], self.points[-1]
        points: tuple[ShapePoint, ...]
        match self.kind:
            case "rectangle":
                points = rectangle(first, last)
            case "ellipse":
                points = ellipse(first, last)
            case "polygon":
                points = tuple(ShapePoint(x=x, y=y) for x, y in self.points)
            case "freehand":
                points = smoothed(self.points, self.smoothing, self.closed)
        closed = self.closed and len(points) > 2
        fill = self.fill if closed else None
        return EditableShape(
            kind=self.kind, points=points, closed=closed, fill=fill, stroke=self.stroke, width=self.width
        )

    def result(self, documents: Documents) -> Documents:
        xs, ys = [p[0] for p in self.points], [p[1] for p in self.points]
        if max(xs) - min(xs) < LEAST and max(ys) - min(ys) < LEAST:
            raise Refusal("That shape is too small to see.", remedy="Drag further, or zoom in first.")
        shape = self.shape()
        art = art_of(shape)
        l, t, r, b = art.bounds
        pivot = (round((l + r) / 2, 3), round((t + b) / 2, 3))
        drawn = Drawing(
            id="d0",
            name=self.name,
            art=asset_id(_data(art)),
            pivot=pivot,
            bounds=art.bounds,
            shape=shape,
        )
        new = NewPiece(id=self.id, name=self.name, drawing=drawn, at=pivot)
        return AddPieces(puppet=self.puppet, pieces=(new,)).apply(documents)

    def label(self, documents: Documents) -> str:
        return f"Draw “{self.name}”"


class EditShape(PuppetCommand):
    """Edit the shape of a piece drawn here, on the stage: move a point to a place or shift it by so
    much, add or remove one, make it a corner or smooth, or change what is given of fill and line. Of a place either may be null: it stays. Only the fields that `edit` needs are
    looked at."""

    do: Literal["edit-shape"] = "edit-shape"
    piece: Id
    edit: Literal["move", "shift", "add", "remove", "corner", "smooth", "paint"]
    point: Annotated[int, Field(ge=0)] = 0
    at: tuple[Number | None, Number | None] = (0.0, 0.0)
    fill: Colour | None = None
    stroke: Colour | None = None
    width: Annotated[float, Field(gt=0, le=1000)] = 3.0

    def on(self, puppet: Puppet) -> Puppet:
        held = piece(puppet, self.piece)
        shown = held.shown()
        if shown.shape is None:
            if shown.retouch is not None and shown.retouch.shape is not None:
                raise Refusal(
                    f"“{shown.name}” is touched up, so its points can't be edited.",
                    where=held.name,
                    remedy="Put it back as it was, edit its points, then touch it up.",
                )
            raise Refusal(
                f"“{held.name}” was not drawn here, so its points can't be edited.",
                where=held.name,
                remedy="Change it in the program it was drawn in, then take the new version.",
            )
        world = piece_worlds(puppet)[held.id].inverse()
        points = shown.shape.points
        known = points[self.point] if self.point < len(points) else None
        seen = world.inverse().place((known.x, known.y)) if known and self.edit == "move" else (0.0, 0.0)
        at = world.place(over(self.at, seen))
        if self.edit == "shift" and known:
            (x, y), zero = at, world.place((0.0, 0.0))
            at = (known.x + x - zero[0], known.y + y - zero[1])
        shape = self._edited(shown.shape, at)
        art = art_of(shape)
        changed = shown.changed(shape=shape, art=asset_id(_data(art)), bounds=art.bounds)
        return with_drawing(puppet, held, changed)

    def _edited(self, shape: EditableShape, at: Point) -> EditableShape:
        if self.edit in ("move", "shift", "remove", "corner", "smooth") and self.point >= len(shape.points):
            raise Refusal("That point is gone.", remedy="Look again, and repeat it.", kind="missing")
        match self.edit:
            case "move" | "shift":
                return with_moved(shape, self.point, (round(at[0], 3), round(at[1], 3)))
            case "add":
                return with_point(shape, at)
            case "remove":
                return without_point(shape, self.point)
            case "corner" | "smooth":
                return with_corner(shape, self.point, self.edit == "smooth")
            case "paint":
                return shape.changed(
                    **{f: getattr(self, f) for f in ("fill", "stroke", "width") if f in self.model_fields_set}
                )

    def said(self, puppet: Puppet) -> str:
        name = piece(puppet, self.piece).name
        words = {
            "move": "Move a point of",
            "shift": "Move a point of",
            "add": "Add a point to",
            "remove": "Remove a point of",
            "paint": "Paint",
        }
        return f"{words.get(self.edit, f'Make a point {self.edit} on')} “{name}”"


ShapeCommand = DrawShape | EditShape


def _data(art: Art) -> bytes:
    return art.model_dump_json().encode()


def drawn_arts(documents: Documents) -> dict[str, bytes]:
    """The art of every shape drawn here, by its id."""
    found: dict[str, bytes] = {}
    for puppet in documents.puppets():
        for held in puppet.pieces.values():
            for d in held.drawings:
                if d.shape is not None and d.art not in found:
                    found[d.art] = _data(art_of(d.shape))
    return found
