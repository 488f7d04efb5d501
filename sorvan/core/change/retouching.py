"""Commands that make versions of a drawing: a copy of it, and what is changed of one while its original stays."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from sorvan.core.art.drawn import simplified
from sorvan.core.art.retouching import NEAR, in_order
from sorvan.core.change.command import PuppetCommand
from sorvan.core.change.drawings import drawing, numbered
from sorvan.core.errors import Refusal
from sorvan.core.geometry import Affine
from sorvan.core.model.art import Box
from sorvan.core.model.base import AssetId, Colour, Id, Number, Pair, Value
from sorvan.core.model.puppet import Drawing, Piece, Puppet
from sorvan.core.model.retouch import DrawnLine, PartChange, Retouch, Width
from sorvan.core.rig.riding import with_drawing, with_drawings
from sorvan.core.rig.skeleton import piece, rest_worlds

Edit = Literal["wipe", "draw", "part", "shift", "order", "lift", "restore"]
SAID: dict[Edit, str] = {
    "wipe": "Wipe a line off",
    "draw": "Draw a line on",
    "part": "Change a part of",
    "shift": "Move a part of",
    "order": "Reorder the parts of",
    "lift": "Take back a line on",
    "restore": "Put back as it was:",
}


class CopyDrawing(PuppetCommand):
    """Copy a drawing within its piece, next to it, and show the copy: a version that can be changed while the first
    stays."""

    do: Literal["copy-drawing"] = "copy-drawing"
    piece: Id
    drawing: Id
    id: Id

    def on(self, puppet: Puppet) -> Puppet:
        held = piece(puppet, self.piece)
        row = list(numbered(held, (drawing(held, self.drawing).changed(id=self.id),)))
        row.insert([d.id for d in row].index(self.drawing) + 1, row.pop())
        changed = with_drawings(puppet, held, tuple(row))
        return changed.with_pieces(changed.pieces[held.id].changed(shows=self.id))

    def said(self, puppet: Puppet) -> str:
        held = piece(puppet, self.piece)
        return f"Copy the drawing “{drawing(held, self.drawing).name}” of “{held.name}”"


class TouchUp(Value):
    """What is done to a drawing: a line of a hand (stage units, at rest) wiped off or drawn on it; one of its parts
    changed, shifted (stage units) or put at another place of their order (both counted from the back); a line taken back
    (counted as they were made); or everything. Of a part's change what is given is changed."""

    edit: Edit
    points: Annotated[tuple[Pair, ...], Field(max_length=20_000)] = ()
    width: Width = 4.0
    colour: Colour = "#23364dff"
    part: Annotated[int, Field(ge=0, le=1999)] = 0
    x: Number | None = None
    y: Number | None = None
    turn: Annotated[float, Field(ge=-360, le=360)] | None = None
    size: Annotated[float, Field(ge=1, le=10_000)] | None = None
    fill: Colour | None = None
    stroke: Colour | None = None
    out: bool | None = None
    by: Pair = (0.0, 0.0)
    to: Annotated[int, Field(ge=0, le=1999)] = 0
    line: Annotated[int, Field(ge=0, le=499)] = 0

    def over(self, puppet: Puppet, held: Piece, d: Drawing, parts: int) -> Retouch | None:
        """How a drawing, the original of which has so many parts, is touched up after this; None as it was. Raises
        `Refusal` when what it speaks of is gone."""
        before = d.retouch or Retouch(of=d.art)
        match self.edit:
            case "wipe" | "draw":
                if not self.points:
                    raise Refusal("A line needs a place.", remedy="Drag over the drawing.")
                return before.changed(lines=(*before.lines, self._line(puppet, held, d, self.edit)))
            case "lift":
                _there(self.line, len(before.lines), "line")
                after = before.changed(lines=before.lines[: self.line] + before.lines[self.line + 1 :])
            case "part" | "shift":
                _there(self.part, parts, "part")
                was = before.parts.get(self.part, PartChange())
                if self.edit == "shift":
                    x, y = _inner(puppet, held, d).arrow(self.by)
                    changed = was.changed(x=round(was.x + x, 3), y=round(was.y + y, 3))
                else:
                    changed = was.changed(
                        **{f: getattr(self, f) for f in PartChange.model_fields if f in self.model_fields_set}
                    )
                others = {i: c for i, c in before.parts.items() if i != self.part}
                after = before.changed(parts=others if changed == PartChange() else others | {self.part: changed})
            case "order":
                row = in_order(parts, before)
                _there(self.part, parts, "part")
                row.remove(self.part)
                row.insert(self.to, self.part)
                after = before.changed(order=() if row == sorted(row) else tuple(row))
            case "restore":
                return None
        return after if after.parts or after.order or after.lines else None

    def _line(self, puppet: Puppet, held: Piece, d: Drawing, do: Literal["wipe", "draw"]) -> DrawnLine:
        """The line in the drawing's own units."""
        inner = _inner(puppet, held, d)
        width = self.width * abs(inner.determinant) ** 0.5
        # A hand tells far more places than a line as wide needs.
        kept = simplified([inner.place(p) for p in self.points], NEAR / 4 * width)
        points = tuple((round(x, 3), round(y, 3)) for x, y in kept)
        return DrawnLine(do=do, points=points, width=width, colour=self.colour)


def _inner(puppet: Puppet, held: Piece, d: Drawing) -> Affine:
    """What takes the stage, at rest, to the units of a drawing."""
    return (rest_worlds(puppet)[held.joint] @ held.in_joint(d)).inverse()


def _there(at: int, count: int, what: str) -> None:
    if at >= count:
        raise Refusal(f"That {what} is gone.", remedy="Look again, and repeat it.", kind="missing")


class RetouchDrawing(PuppetCommand):
    """Show a drawing touched up, as `art`; without `retouch`, as it was."""

    do: Literal["retouch-drawing"] = "retouch-drawing"
    piece: Id
    drawing: Id
    edit: Edit
    retouch: Retouch | None
    art: AssetId
    bounds: Box

    def on(self, puppet: Puppet) -> Puppet:
        held = piece(puppet, self.piece)
        before = drawing(held, self.drawing)
        original = before.retouch.of if before.retouch else before.art
        if original != (self.retouch.of if self.retouch else self.art):
            raise Refusal(
                "The drawing has changed meanwhile.", where=before.name, remedy="Do it again.", kind="conflict"
            )
        shape = before.retouch.shape if before.retouch else before.shape
        how = self.retouch
        given = {"shape": shape} if how is None else {"retouch": how.changed(shape=shape)}
        return with_drawing(puppet, held, before.with_art(self.art, self.bounds, **given))

    def said(self, puppet: Puppet) -> str:
        return f"{SAID[self.edit]} “{drawing(piece(puppet, self.piece), self.drawing).name}”"


RetouchCommand = CopyDrawing | RetouchDrawing
