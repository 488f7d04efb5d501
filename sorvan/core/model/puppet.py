"""The puppet: its pieces, and the joints they ride on."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from sorvan.core.geometry import Affine, compose, placed, translation
from sorvan.core.model.art import Box
from sorvan.core.model.base import AssetId, Colour, Id, Name, Number, Pair, Value
from sorvan.core.model.shape import Shape

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


Role = Literal[
    "pelvis", "spine", "neck", "head", "upper arm", "lower arm", "hand", "thigh", "shin", "foot", "toe", "wing", "tail"
]  # fmt: skip


class Limits(Value):
    """How far a joint may turn from its rest, in degrees."""

    low: Annotated[float, Field(ge=-720, le=720)]
    high: Annotated[float, Field(ge=-720, le=720)]

    @model_validator(mode="after")
    def _in_order(self) -> Limits:
        if self.low > self.high:
            raise ValueError("the lower limit lies above the upper one")
        return self


class Joint(Value):
    """A node of the skeleton. A joint without a parent hangs on the puppet itself.

    A handle is a node too: it carries no bone, but chains reach for it and sheets are pulled by
    it. With `world` it does not follow the puppet when that is moved as a whole. `role` is what
    the joint is for, as told by the user; without one it is guessed.
    """

    id: Id
    name: Name
    parent: Id | None = None
    rest: Rest = Rest()
    side: Side = "centre"
    handle: bool = False
    world: bool = False
    role: Role | None = None
    limits: Limits | None = None

    @model_validator(mode="after")
    def _world_has_no_parent(self) -> Joint:
        if self.world and self.parent is not None:
            raise ValueError("a node of the world hangs on nothing")
        return self


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


class Drawing(Value):
    """One picture a piece can show. `pivot` is in the drawing's units and lands on the joint.

    `number` is what a key of the piece's `show` channel holds; it stays when drawings are
    re-ordered. `guide` is how far down (drawing units) the line lies by which drawings are
    registered. `source` says where the art came from, so that a new version can find it.
    `shape` is set when the drawing was drawn here.
    """

    id: Id
    name: Name
    art: AssetId
    pivot: Pair
    bounds: Box
    number: Annotated[int, Field(ge=0, le=9999)] = 0
    guide: Number | None = None
    source: Annotated[str, Field(max_length=400)] = ""
    shape: Shape | None = None


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


class Mask(Value):
    """Another piece that this one shows only inside of, or only outside of."""

    piece: Id
    inside: bool = True


class Dab(Value):
    """A touch of the weight brush, in drawing units: more (or less) of one joint around a place."""

    joint: Id
    x: Number
    y: Number
    radius: Annotated[float, Field(gt=0, le=1e5)]
    amount: Annotated[float, Field(ge=-1, le=1)]


class Bend(Value):
    """A piece that bends over several joints with smooth weights.

    `roundness` is how much of its thickness a bend keeps (0 to 1). `reach` limits, by joint, how
    far from its bone a joint pulls (drawing units). `dabs` is what was painted.
    """

    kind: Literal["bend"] = "bend"
    joints: Annotated[tuple[Id, ...], Field(min_length=2, max_length=32)]
    roundness: Annotated[float, Field(ge=0, le=1)] = 0.5
    reach: dict[Id, Annotated[float, Field(gt=0, le=1e5)]] = {}
    dabs: Annotated[tuple[Dab, ...], Field(max_length=2000)] = ()


class Sheet(Value):
    """A piece laid on a triangle mesh that handles pull about. `triangles` is how many are wanted,
    `margin` how far the mesh stands out beyond the picture (drawing units)."""

    kind: Literal["sheet"] = "sheet"
    handles: Annotated[tuple[Id, ...], Field(min_length=1, max_length=64)]
    triangles: Annotated[int, Field(ge=20, le=4000)] = 300
    margin: Annotated[float, Field(ge=0.5, le=200)] = 4.0


Attach = Annotated[Bend | Sheet, Field(discriminator="kind")]


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


class Piece(Value):
    """One cut-out part. It rides rigidly on its joint unless `attach` says otherwise.

    `shows` is the drawing seen at rest (the first, if none is named). Pieces with the same
    `shared` have the same drawings: what is done to those of one is done to all. `swatches`
    links colours of the art, written `fill:#rrggbbaa` or `stroke:#rrggbbaa`, to the
    production's swatches.
    """

    id: Id
    name: Name
    joint: Id
    side: Side = "centre"
    group: Id | None = None
    drawings: Annotated[tuple[Drawing, ...], Field(min_length=1)]
    shows: Id | None = None
    shared: Id | None = None
    fit: Fit = Fit()
    attach: Attach | None = None
    masks: Annotated[tuple[Mask, ...], Field(max_length=16)] = ()
    opacity: Annotated[float, Field(ge=0, le=1)] = 1.0
    colour: Correction = Correction()
    swatches: dict[str, Id] = {}
    hidden: bool = False
    locked: bool = False

    def shown(self) -> Drawing:
        """The drawing that shows at rest."""
        return next((d for d in self.drawings if d.id == self.shows), self.drawings[0])

    def in_joint(self, drawing: Drawing | None = None) -> Affine:
        """The transform from the units of a drawing (the shown one) to the joint's space."""
        px, py = (drawing or self.shown()).pivot
        return compose(self.fit.affine(), translation(-px, -py))

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


class DialStop(Value):
    """What channels hold when a dial stands at `at`: turns and moves are added, scales multiplied,
    a `show` chooses the drawing from here on."""

    at: Number
    values: dict[str, Annotated[tuple[Number, ...], Field(min_length=1, max_length=2)]] = {}


class Dial(Value):
    """A named control that drives channels through its stops. At `rest` it changes nothing."""

    id: Id
    name: Name
    low: Number = 0.0
    high: Number = 100.0
    rest: Number = 0.0
    stops: Annotated[tuple[DialStop, ...], Field(max_length=64)] = ()

    @model_validator(mode="after")
    def _in_range(self) -> Dial:
        if not self.low < self.high or not self.low <= self.rest <= self.high:
            raise ValueError("a dial's rest must lie between its two ends")
        return self


class Reference(Value):
    """Pictures laid under the work and never rendered, placed by their top left corner (units)."""

    pictures: Annotated[tuple[AssetId, ...], Field(min_length=1, max_length=2000)]
    width: Annotated[float, Field(gt=0, le=1e5)]
    height: Annotated[float, Field(gt=0, le=1e5)]
    x: Number = 0.0
    y: Number = 0.0
    scale: Annotated[float, Field(gt=0, le=100)] = 1.0
    opacity: Annotated[float, Field(ge=0, le=1)] = 0.5
    hidden: bool = False


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
    chains: dict[Id, Chain] = {}
    dials: dict[Id, Dial] = {}
    reference: Reference | None = None

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
        for chain in self.chains.values():
            if any(id not in self.joints for id in (*chain.joints, chain.handle)):
                raise ValueError(f"“{chain.name}” reaches with a joint that is not there")
        return self

    def unseen(self, piece: Piece) -> bool:
        """Whether a piece is hidden, by itself or with a group that it is in."""
        return piece.hidden or any(g.hidden for g in self.around(piece))

    def around(self, piece: Piece) -> list[Group]:
        """The groups a piece is in, innermost first."""
        found: list[Group] = []
        at = piece.group
        while at is not None and at in self.groups and len(found) < 64:
            found.append(self.groups[at])
            at = found[-1].parent
        return found
