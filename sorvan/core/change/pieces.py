"""Commands on pieces: bringing in, placing, ordering, grouping, mirroring."""

from __future__ import annotations

import math
from typing import Annotated, Literal

from pydantic import Field

from sorvan.core.change.command import Command, PuppetCommand, several
from sorvan.core.change.given import over
from sorvan.core.errors import Refusal
from sorvan.core.geometry import Affine, Place
from sorvan.core.kept import kept
from sorvan.core.model.base import Id, Name, Number, Pair, Value
from sorvan.core.model.documents import Documents
from sorvan.core.model.puppet import Drawing, Group, Joint, Piece, Placement, Puppet, Side
from sorvan.core.rig.copies import copied
from sorvan.core.rig.names import side_of
from sorvan.core.rig.removal import without, without_empty_groups
from sorvan.core.rig.riding import fit_of, put_piece, set_pivot
from sorvan.core.rig.sides import free_name, mirror_line, mirrored
from sorvan.core.rig.skeleton import box_of, piece, put_joints, rest_worlds

SEEN = 1e-3
"""Units of a drawing under which it is nothing to look at."""

Pieces = Annotated[tuple[Id, ...], Field(min_length=1, max_length=2000)]


class NewPiece(Value):
    """A piece to bring in: its drawing, and the stage place (units) and scale its pivot gets."""

    id: Id
    name: Name
    side: Side | None = None
    group: Id | None = None
    drawing: Drawing
    at: Pair
    scale: Annotated[float, Field(gt=0)] = 1.0
    opacity: Annotated[float, Field(ge=0, le=1)] = 1.0
    hidden: bool = False


class AddPieces(PuppetCommand):
    """Bring pieces into a puppet, each with a joint of its own at its pivot, in front of what is there."""

    do: Literal["add-pieces"] = "add-pieces"
    pieces: Annotated[tuple[NewPiece, ...], Field(min_length=1, max_length=2000)]
    groups: tuple[Group, ...] = ()
    source: str = ""

    def on(self, puppet: Puppet) -> Puppet:
        pieces, joints, order = dict(puppet.pieces), dict(puppet.joints), list(puppet.order)
        names = {p.name for p in pieces.values()}
        for new in self.pieces:
            if new.id in pieces or new.id in joints:
                raise Refusal("A piece with that id is there already.", where=new.name, kind="conflict")
            name = free_name(new.name, names)
            names.add(name)
            side = new.side or side_of(name)
            joints[new.id] = Joint(id=new.id, name=name, side=side, rest=Placement(x=new.at[0], y=new.at[1]))
            fit = Placement(sx=new.scale, sy=new.scale)
            pieces[new.id] = Piece(
                id=new.id,
                name=name,
                joint=new.id,
                side=side,
                group=new.group,
                drawings=(new.drawing,),
                fit=fit,
                opacity=new.opacity,
                hidden=new.hidden,
            )
            order.append(new.id)
        groups = {**puppet.groups, **{g.id: g for g in self.groups}}
        return puppet.changed(pieces=pieces, joints=joints, groups=groups, order=tuple(order))

    def said(self, puppet: Puppet) -> str:
        what = several(len(self.pieces), "piece", self.pieces[0].name)
        return f"Bring in {what}" + (f" from {self.source}" if self.source else "")


class SetPieces(PuppetCommand):
    """Change names, sides, locks, what is hidden or must not be mirrored; only the fields given are changed."""

    do: Literal["set-pieces"] = "set-pieces"
    pieces: Pieces
    name: Name | None = None
    side: Side | None = None
    hidden: bool | None = None
    locked: bool | None = None
    one_way: bool | None = None

    def on(self, puppet: Puppet) -> Puppet:
        if self.name is not None and len(self.pieces) > 1:
            raise Refusal("One name was given for several pieces.", remedy="Rename them one at a time.")
        given = {f: v for f in ("name", "side", "hidden", "locked", "one_way") if (v := getattr(self, f)) is not None}
        if self.name is not None and self.side is None and side_of(self.name) != "centre":
            # A name that speaks of a side puts the piece there.
            given["side"] = side_of(self.name)
        pieces, joints = dict(puppet.pieces), dict(puppet.joints)
        for id in self.pieces:
            before = piece(puppet, id)
            pieces[id] = before.changed(**given)
            # A joint made from a piece goes by the piece's name and side until it gets its own.
            own = joints[before.joint]
            if not before.owns_joint():
                continue
            shared = {f: v for f, v in given.items() if f in ("name", "side") and getattr(own, f) == getattr(before, f)}
            joints[before.joint] = own.changed(**shared)
        return puppet.changed(pieces=pieces, joints=joints)

    def said(self, puppet: Puppet) -> str:
        what = several(len(self.pieces), "piece", piece(puppet, self.pieces[0]).name)
        if self.name is not None:
            return f"Rename {what}"
        if self.hidden is not None:
            return f"{'Hide' if self.hidden else 'Show'} {what}"
        if self.locked is not None:
            return f"{'Lock' if self.locked else 'Unlock'} {what}"
        if self.one_way is not None:
            return f"{'Never' if self.one_way else 'Do'} mirror {what}"
        return f"Put {what} on the {self.side} side" if self.side != "centre" else f"Put {what} in the centre"


def shift_of(dx: float, dy: float, one_way: bool) -> tuple[float, float]:
    """A way to go, or, with `one_way`, the longer of its two parts."""
    if not one_way:
        return dx, dy
    return (dx, 0.0) if abs(dx) > abs(dy) else (0.0, dy)


class ShiftPieces(PuppetCommand):
    """Move pieces with their pivots by so many stage units; what hangs on them stays.

    `one_way` keeps to the longer of both ways, across or down.
    """

    do: Literal["shift-pieces"] = "shift-pieces"
    pieces: Pieces
    dx: Number
    dy: Number
    one_way: bool = False

    def on(self, puppet: Puppet) -> Puppet:
        worlds = rest_worlds(puppet)
        held = [piece(puppet, id) for id in self.pieces]
        by = Affine.shift(*shift_of(self.dx, self.dy, self.one_way))
        moved = put_joints(puppet, {p.joint: by @ worlds[p.joint] for p in held if p.owns_joint()})
        pieces = dict(moved.pieces)
        for p in held:
            if not p.owns_joint():
                # Its joint is the skeleton's: only the piece moves upon it.
                wanted = by @ (worlds[p.joint] @ p.fit.affine())
                pieces[p.id] = p.changed(fit=fit_of(moved, p, wanted))
        return moved if pieces == moved.pieces else moved.changed(pieces=pieces)

    def said(self, puppet: Puppet) -> str:
        return f"Move {several(len(self.pieces), 'piece', piece(puppet, self.pieces[0]).name)}"


class PlacePiece(PuppetCommand):
    """Put a piece's pivot at a typed place (stage units), turned (degrees) and scaled as typed; only what is given."""

    do: Literal["place-piece"] = "place-piece"
    piece: Id
    x: Number | None = None
    y: Number | None = None
    angle: Number | None = None
    sx: Annotated[float, Field(ge=-100, le=100)] | None = None
    sy: Annotated[float, Field(ge=-100, le=100)] | None = None

    def on(self, puppet: Puppet) -> Puppet:
        if any(size is not None and abs(size) < 0.001 for size in (self.sx, self.sy)):
            raise Refusal(
                "A piece can't be scaled to nothing.", remedy="Type a scale of at least 0.1 %, or hide the piece."
            )
        held = piece(puppet, self.piece)
        given = (self.x, self.y, self.angle, None, self.sx, self.sy)
        return put_piece(puppet, held, Affine.placed(*over(given, place_of(puppet, self.piece))))

    def said(self, puppet: Puppet) -> str:
        return f"Place “{piece(puppet, self.piece).name}”"


class FillStage(Command):
    """Put a piece in the middle of the stage, as large as it must be to cover all of it, or as can be to show whole.

    It keeps its turn and its proportions. Covered is also what a turned piece would leave bare at the corners: the
    stage's corners are looked at along the piece's own axes.
    """

    do: Literal["fill-stage"] = "fill-stage"
    puppet: Id
    piece: Id
    how: Literal["cover", "fit"]

    def result(self, documents: Documents) -> Documents:
        puppet, production = documents.puppet(self.puppet), documents.production
        held = piece(puppet, self.piece)
        joint = rest_worlds(puppet)[held.joint]
        world = joint @ held.in_joint()
        l, t, r, b = held.shown().bounds
        if r - l < SEEN or b - t < SEEN:
            raise Refusal(
                f"“{held.name}” shows nothing that could fill the stage.", remedy="Choose a piece with a size."
            )
        half = production.width / 2, production.height / 2
        if self.how == "fit":
            left, top, right, bottom = box_of(held, world)
            by = min(2 * half[0] / (right - left), 2 * half[1] / (bottom - top))
        else:
            inward = world.inverse()
            corners = [inward.arrow((x * half[0], y * half[1])) for x in (-1, 1) for y in (-1, 1)]
            by = max(
                2 * max(abs(x) for x, _ in corners) / (r - l),
                2 * max(abs(y) for _, y in corners) / (b - t),
            )
        x, y = world.place(((l + r) / 2, (t + b) / 2))
        larger = Affine(by, 0, 0, by, half[0] - by * x, half[1] - by * y)
        return documents.with_(put_piece(puppet, held, larger @ joint @ held.fit.affine()))

    def label(self, documents: Documents) -> str:
        name = piece(documents.puppet(self.puppet), self.piece).name
        return f"Let “{name}” cover the stage" if self.how == "cover" else f"Show “{name}” whole on the stage"


class PullPiece(PuppetCommand):
    """Turn or scale a piece about its pivot by pulling it from one stage point to another.

    `whole_steps` turns by whole steps of 15° and scales both ways alike.
    """

    do: Literal["pull-piece"] = "pull-piece"
    piece: Id
    pull: Literal["turn", "scale"]
    grabbed: Pair
    hand: Pair
    whole_steps: bool = False

    def on(self, puppet: Puppet) -> Puppet:
        held = piece(puppet, self.piece)
        x, y, angle, skew, sx, sy = place_of(puppet, self.piece)
        if self.pull == "turn":
            before = math.atan2(self.grabbed[1] - y, self.grabbed[0] - x)
            angle += math.degrees(math.atan2(self.hand[1] - y, self.hand[0] - x) - before)
            angle = round(angle / 15) * 15.0 if self.whole_steps else round(angle, 2)
        else:
            sx, sy = self._scaled(Affine.placed(x, y, angle, skew, 1, 1), sx, sy)
        return put_piece(puppet, held, Affine.placed(x, y, angle, skew, sx, sy))

    def _scaled(self, frame: Affine, sx: float, sy: float) -> tuple[float, float]:
        inward = frame.inverse()
        (gx, gy), (hx, hy) = inward.place(self.grabbed), inward.place(self.hand)
        if self.whole_steps:
            both = math.hypot(hx, hy) / max(math.hypot(gx, gy), 1e-6)
            fx = fy = both
        else:
            fx, fy = (hx / gx if abs(gx) > 2 else 1.0), (hy / gy if abs(gy) > 2 else 1.0)

        def sized(v: float) -> float:
            return round(math.copysign(max(0.02, min(50.0, abs(v))), v), 4)

        return sized(sx * fx), sized(sy * fy)

    def said(self, puppet: Puppet) -> str:
        return f"{'Turn' if self.pull == 'turn' else 'Scale'} “{piece(puppet, self.piece).name}”"


class SetPivot(PuppetCommand):
    """Put a piece's turning point at a place on the stage (units); either may be null: it stays. Nothing on the stage
    moves."""

    do: Literal["set-pivot"] = "set-pivot"
    piece: Id
    x: Number | None = None
    y: Number | None = None

    def on(self, puppet: Puppet) -> Puppet:
        held = piece(puppet, self.piece)
        return set_pivot(puppet, held, *over((self.x, self.y), place_of(puppet, self.piece)[:2]))

    def said(self, puppet: Puppet) -> str:
        return f"Set the pivot of “{piece(puppet, self.piece).name}”"


class OrderPieces(PuppetCommand):
    """Put pieces, in their present order, just in front of another, or at the very back."""

    do: Literal["order-pieces"] = "order-pieces"
    pieces: Pieces
    in_front_of: Id | None = None

    def on(self, puppet: Puppet) -> Puppet:
        moving = {piece(puppet, id).id for id in self.pieces}
        if self.in_front_of is not None:
            piece(puppet, self.in_front_of)
        moved = [id for id in puppet.order if id in moving]
        resting = [id for id in puppet.order if id not in moving]
        at = 0
        if self.in_front_of is not None:
            behind = puppet.order[: puppet.order.index(self.in_front_of) + 1]
            at = sum(id not in moving for id in behind)
        order = (*resting[:at], *moved, *resting[at:])
        return puppet.changed(order=order)

    def said(self, puppet: Puppet) -> str:
        return f"Reorder {several(len(self.pieces), 'piece', piece(puppet, self.pieces[0]).name)}"


class StepPiece(PuppetCommand):
    """Put a piece one step further to the front, or to the back."""

    do: Literal["step-piece"] = "step-piece"
    piece: Id
    to: Literal["front", "back"]

    def on(self, puppet: Puppet) -> Puppet:
        order = list(puppet.order)
        at = order.index(piece(puppet, self.piece).id)
        beyond = at + (1 if self.to == "front" else -1)
        if 0 <= beyond < len(order):
            order[at], order[beyond] = order[beyond], order[at]
        return puppet.changed(order=tuple(order))

    def said(self, puppet: Puppet) -> str:
        return f"Put “{piece(puppet, self.piece).name}” one step to the {self.to}"


class GroupPieces(PuppetCommand):
    """Keep pieces together under a name, or, with no group, take them out of theirs."""

    do: Literal["group-pieces"] = "group-pieces"
    pieces: Pieces
    group: Id | None = None
    name: Name = "Group"

    def on(self, puppet: Puppet) -> Puppet:
        pieces = dict(puppet.pieces)
        for id in self.pieces:
            pieces[id] = piece(puppet, id).changed(group=self.group)
        groups = dict(puppet.groups)
        if self.group is not None and self.group not in groups:
            groups[self.group] = Group(id=self.group, name=self.name)
        return without_empty_groups(puppet.changed(pieces=pieces, groups=groups))

    def said(self, puppet: Puppet) -> str:
        return f"{'Group' if self.group else 'Ungroup'} {several(len(self.pieces), 'piece')}"


class MirrorPieces(PuppetCommand):
    """Duplicate pieces as the other side, mirrored in the upright line at `line` stage units.

    Without a line the puppet's middle is taken. `ids` gives each copy its id. With `share` both
    sides keep one set of drawings.
    """

    do: Literal["mirror-pieces"] = "mirror-pieces"
    ids: dict[Id, Id]
    line: Number | None = None
    share: bool = False

    def on(self, puppet: Puppet) -> Puppet:
        wanted = [id for id in puppet.order if id in self.ids]
        if not wanted or len(wanted) != len(self.ids):
            raise Refusal("Some of the pieces to mirror are gone.", remedy="Select them again.", kind="missing")
        line = mirror_line(puppet, wanted) if self.line is None else self.line
        return mirrored(puppet, wanted, self.ids, line, self.share)

    def said(self, puppet: Puppet) -> str:
        first = piece(puppet, next(iter(self.ids))).name
        return f"Mirror {several(len(self.ids), 'piece', first)}"


class CopyPieces(PuppetCommand):
    """Copy pieces as they are, with their pins, links and bends, so many stage units beside them. `ids` gives each copy
    its id."""

    do: Literal["copy-pieces"] = "copy-pieces"
    ids: Annotated[dict[Id, Id], Field(min_length=1, max_length=2000)]
    dx: Number = 24.0
    dy: Number = 0.0

    def on(self, puppet: Puppet) -> Puppet:
        wanted = [id for id in puppet.order if id in self.ids]
        if len(wanted) != len(self.ids):
            raise Refusal("Some of the pieces to copy are gone.", remedy="Select them again.", kind="missing")
        return copied(puppet, wanted, self.ids, Affine.shift(self.dx, self.dy))

    def said(self, puppet: Puppet) -> str:
        return f"Copy {several(len(self.ids), 'piece', piece(puppet, next(iter(self.ids))).name)}"


class RemovePieces(Command):
    """Take pieces away with their joints and keys; what hung on them hangs on what they hung on."""

    do: Literal["remove-pieces"] = "remove-pieces"
    puppet: Id
    pieces: Pieces

    def result(self, documents: Documents) -> Documents:
        puppet = documents.puppet(self.puppet)
        going = {piece(puppet, id).id for id in self.pieces}
        carrying = {p.joint for p in puppet.pieces.values() if p.id not in going}
        lost = {id for id in going if puppet.pieces[id].owns_joint()} - carrying - _needed(puppet, going)
        return documents.with_(without(puppet, lost, going)).swept(self.puppet)

    def label(self, documents: Documents) -> str:
        return f"Remove {several(len(self.pieces), 'piece', piece(documents.puppet(self.puppet), self.pieces[0]).name)}"


PieceCommand = (
    AddPieces
    | SetPieces
    | ShiftPieces
    | PlacePiece
    | FillStage
    | PullPiece
    | SetPivot
    | OrderPieces
    | StepPiece
    | GroupPieces
    | MirrorPieces
    | CopyPieces
    | RemovePieces
)


def _needed(puppet: Puppet, going: set[str]) -> set[str]:
    """Joints that chains, or other pieces' bending, use."""
    used = {j for c in puppet.chains.values() for j in (*c.joints, c.handle)}
    return used.union(*(p.attach.nodes for p in puppet.pieces.values() if p.id not in going and p.attach))


def places_of(puppet: Puppet) -> dict[str, Place]:
    """Where every piece's pivot is on the stage, by piece."""
    worlds = rest_worlds(puppet)
    return {p.id: _place_on(p, worlds[p.joint]) for p in puppet.pieces.values()}


@kept()
def _place_on(piece: Piece, world: Affine) -> Place:
    return (world @ piece.fit.affine()).placement()


def place_of(puppet: Puppet, id: str) -> Place:
    """Where one piece's pivot is on the stage."""
    held = piece(puppet, id)
    return (rest_worlds(puppet)[held.joint] @ held.fit.affine()).placement()
