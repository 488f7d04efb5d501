"""Pieces: their drawings, how they sit on their joints, and how they look."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from sorvan.core.geometry import Affine
from sorvan.core.model.art import Box
from sorvan.core.model.base import AssetId, Checked, Colour, Id, Name, Number, Pair, Value, filed
from sorvan.core.model.puppet.attach import Attach
from sorvan.core.model.puppet.joint import Placement, Side
from sorvan.core.model.puppet.morph import Morph
from sorvan.core.model.retouch import Retouch
from sorvan.core.model.shape import EditableShape


class Preparation(Value):
    """What was done to what came from a file before it became a drawing, so that the same is done to a new version:
    `parts` of it were chosen (by their paths in the file); of what it fell into when it was split it is the `nth` (from 0)
    `of` so many; it was `joined` of what came from these places."""

    parts: Annotated[tuple[str, ...], Field(max_length=2000)] = ()
    nth: Annotated[int, Field(ge=0)] | None = None
    of: Annotated[int, Field(ge=2)] | None = None
    joined: Annotated[tuple[str, ...], Field(max_length=2000)] = ()


class Drawing(Value):
    """One picture a piece can show. `pivot` is in the drawing's units and lands on the joint.

    `number` is what a key of the piece's `show` channel holds; it stays when drawings are
    re-ordered. `guide` is how far down, `upright` how far to the right (drawing units) the lines lie by which
    drawings are registered. `source` says where the art came from, and `made` what was done to it here, so that a new
    version can find it.
    `shape` is set when the drawing was drawn here, `retouch` when it was touched up here.
    """

    id: Id
    name: Name
    art: AssetId
    pivot: Pair
    bounds: Box
    number: Annotated[int, Field(ge=0, le=9999)] = 0
    guide: Number | None = None
    upright: Number | None = None
    source: Annotated[str, Field(max_length=400)] = ""
    made: Preparation | None = None
    shape: EditableShape | None = None
    retouch: Retouch | None = None

    def with_art(self, art: str, bounds: Box, **given: object) -> Drawing:
        """The drawing with other art, not the shape or the touched up one that it was, and what else is given."""
        return self.changed(**{"art": art, "bounds": bounds, "shape": None, "retouch": None} | given)


class Mask(Value):
    """Another piece that this one shows only inside of, or only outside of."""

    piece: Id
    inside: bool = True


class Correction(Value):
    """What is done to a piece's colours, leaving its art alone. Neutral as it stands.

    Brightness and contrast are in percent (-100 to 100), gamma is a power; `tint` is mixed in
    by `amount` percent.
    """

    brightness: Annotated[float, Field(ge=-100, le=100)] = 0.0
    contrast: Annotated[float, Field(ge=-100, le=100)] = 0.0
    gamma: Annotated[float, Field(ge=0.1, le=10)] = 1.0
    tint: Colour = "#ffffffff"
    amount: Annotated[float, Field(ge=0, le=100)] = 0.0


class Piece(Checked):
    """One cut-out part. It rides rigidly on its joint unless `attach` says otherwise.

    `shows` is the drawing seen at rest (the first, if none is named). Pieces with the same
    `shared` have the same drawings: what is done to those of one is done to all. `swatches`
    links colours of the art, written `fill:#rrggbbaa` or `stroke:#rrggbbaa`, to the
    production's swatches. `morphs` say how its drawings become one another, where that is not as usual. One that is
    `one_way` must not be seen in the mirror, like a badge with letters or a parting.
    """

    id: Id
    name: Name
    joint: Id
    side: Side = "centre"
    group: Id | None = None
    drawings: Annotated[tuple[Drawing, ...], Field(min_length=1)]
    shows: Id | None = None
    shared: Id | None = None
    fit: Placement = Placement()
    attach: Attach | None = None
    masks: Annotated[tuple[Mask, ...], Field(max_length=16)] = ()
    opacity: Annotated[float, Field(ge=0, le=1)] = 1.0
    colour: Correction = Correction()
    swatches: dict[str, Id] = {}
    morphs: Annotated[dict[Id, Morph], Field(max_length=400)] = {}
    hidden: bool = False
    locked: bool = False
    one_way: bool = False

    def check(self) -> None:
        filed("morph", self.morphs)
        for what in ("id", "number"):
            if len({getattr(d, what) for d in self.drawings}) != len(self.drawings):
                raise ValueError(f"two drawings of “{self.name}” have the same {what}")
        if self.shows is not None and all(d.id != self.shows for d in self.drawings):
            raise ValueError(f"“{self.name}” shows a drawing that it does not have")
        there = {d.id for d in self.drawings}
        pairs = [frozenset((m.first, m.second)) for m in self.morphs.values()]
        if any(not pair <= there for pair in pairs):
            raise ValueError(f"a drawing of “{self.name}” would become one that it does not have")
        if len(set(pairs)) != len(pairs):
            raise ValueError(f"two drawings of “{self.name}” would become one another in two ways")

    def morph(self, first: str, second: str) -> Morph:
        """How the first of these drawings becomes the second."""
        found = next((m for m in self.morphs.values() if m.between(first, second)), None)
        if found is None:
            return Morph(id="usual", first=first, second=second)
        return found if found.first == first else found.turned()

    def shown(self) -> Drawing:
        """The drawing that shows at rest."""
        return next((d for d in self.drawings if d.id == self.shows), self.drawings[0])

    def in_joint(self, drawing: Drawing | None = None) -> Affine:
        """The transform from the units of a drawing (the shown one) to the joint's space."""
        px, py = (drawing or self.shown()).pivot
        return self.fit.affine() @ Affine.shift(-px, -py)

    def owns_joint(self) -> bool:
        """Whether its joint was made with it at its pivot, and so goes where the piece is put."""
        return self.joint == self.id


class Group(Value):
    """Pieces kept together by name; groups may sit in groups."""

    id: Id
    name: Name
    parent: Id | None = None
    hidden: bool = False
    locked: bool = False
