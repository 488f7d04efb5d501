"""Commands that split pieces into their parts, and join pieces into one."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from sorvan.core.change.command import Command, PuppetCommand, several
from sorvan.core.change.pieces import RemovePieces
from sorvan.core.change.rig import RelinkJoints
from sorvan.core.errors import Refusal
from sorvan.core.geometry import Affine
from sorvan.core.model.base import Id, Name, Value
from sorvan.core.model.documents import Documents
from sorvan.core.model.puppet import Drawing, Joint, Piece, Placement, Puppet
from sorvan.core.rig.sides import free_name
from sorvan.core.rig.skeleton import ancestors, children, piece, piece_worlds, rest_worlds


class NewPart(Value):
    """A part that becomes a piece: its drawing, in the units of the piece that it was in."""

    id: Id
    name: Name
    drawing: Drawing


def plain_piece(held: Piece, what: str) -> Piece:
    """A piece that can be split or joined. Raises `Refusal` for one that bends, or has drawings to choose from."""
    reason = (
        "it bends" if held.attach is not None
        else "it shows the same drawings as another" if held.shared is not None
        else "it has several drawings" if len(held.drawings) > 1
        else ""
    )  # fmt: skip
    if reason:
        raise Refusal(
            f"“{held.name}” can't be {what}, because {reason}.",
            where=held.name,
            remedy="Do this before it is rigged so, or take that away first.",
        )
    return held


class SplitPiece(PuppetCommand):
    """Let parts of a piece become pieces of their own, which hang on its joint; the piece keeps the rest as `kept`, with its
    joint, pivot and keys. Nothing moves, and nothing looks different."""

    do: Literal["split-piece"] = "split-piece"
    piece: Id
    kept: Drawing
    parts: Annotated[tuple[NewPart, ...], Field(min_length=1, max_length=500)]

    def on(self, puppet: Puppet) -> Puppet:
        held = plain_piece(piece(puppet, self.piece), "split")
        if (self.kept.id, self.kept.pivot) != (held.drawings[0].id, held.drawings[0].pivot):
            raise Refusal(
                "The piece has changed meanwhile.", where=held.name, remedy="Split it again.", kind="conflict"
            )
        world, carrier = piece_worlds(puppet)[held.id], rest_worlds(puppet)[held.joint]
        pieces, joints, order = dict(puppet.pieces), dict(puppet.joints), list(puppet.order)
        taken = {p.name for p in pieces.values()} | {j.name for j in joints.values()}
        at = order.index(held.id)
        for part in self.parts:
            if part.id in pieces or part.id in joints:
                raise Refusal("A piece with that id is there already.", where=part.name, kind="conflict")
            name = free_name(part.name, taken)
            taken.add(name)
            place = world.place(part.drawing.pivot)
            pinned = carrier._replace(e=place[0], f=place[1])
            joints[part.id] = Joint(
                id=part.id,
                name=name,
                side=held.side,
                parent=held.joint,
                rest=Placement.of(carrier.inverse() @ pinned),
            )
            fit = pinned.inverse() @ world @ Affine.shift(*part.drawing.pivot)
            pieces[part.id] = held.changed(
                id=part.id, name=name, joint=part.id, drawings=(part.drawing,), shows=None, fit=Placement.of(fit)
            )
            at += 1
            order.insert(at, part.id)
        pieces[held.id] = held.changed(drawings=(self.kept,))
        return puppet.changed(pieces=pieces, joints=joints, order=tuple(order))

    def said(self, puppet: Puppet) -> str:
        return f"Split “{piece(puppet, self.piece).name}” into {len(self.parts) + 1} pieces"


class JoinPieces(Command):
    """Make one piece of several: `into` shows them all by `drawing`, and keeps its joint, pivot and keys. What hung on the
    others hangs on it."""

    do: Literal["join-pieces"] = "join-pieces"
    puppet: Id
    into: Id
    others: Annotated[tuple[Id, ...], Field(min_length=1, max_length=500)]
    drawing: Drawing

    def result(self, documents: Documents) -> Documents:
        puppet = documents.puppet(self.puppet)
        held = plain_piece(piece(puppet, self.into), "joined")
        if self.into in self.others:
            raise Refusal("A piece can't be joined with itself.", remedy="Choose the other pieces.")
        above = {held.joint, *ancestors(puppet.joints, held.joint)}
        links: dict[str, str | None] = {}
        for id in self.others:
            other = plain_piece(piece(puppet, id), "joined")
            if other.owns_joint():
                links |= {c: held.joint for c in children(puppet.joints, other.joint) if c not in above}
        links = {c: on for c, on in links.items() if c not in self.others}
        if links:
            puppet = RelinkJoints(puppet=puppet.id, links=links).on(puppet)
        puppet = puppet.with_pieces(puppet.pieces[self.into].changed(drawings=(self.drawing,), shows=None))
        return RemovePieces(puppet=self.puppet, pieces=self.others).apply(documents.with_(puppet))

    def label(self, documents: Documents) -> str:
        name = piece(documents.puppet(self.puppet), self.into).name
        return f"Join {several(len(self.others), 'piece')} with “{name}”"


PartingCommand = SplitPiece | JoinPieces
