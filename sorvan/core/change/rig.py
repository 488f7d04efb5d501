"""Commands on the skeleton."""

from __future__ import annotations

import itertools
from collections.abc import Collection, Mapping
from typing import Annotated, Literal

from pydantic import Field, model_validator

from sorvan.core.change.command import Command, PuppetCommand, several
from sorvan.core.change.given import Given, over
from sorvan.core.change.pieces import Pieces, shift_of
from sorvan.core.errors import Refusal, missing
from sorvan.core.geometry import IDENTITY, Affine
from sorvan.core.model.base import Id, Name, Number, Pair, Value
from sorvan.core.model.documents import Documents
from sorvan.core.model.puppet import ROOT, BendSheet, Joint, Limits, Placement, Puppet, Role, Side
from sorvan.core.rig.names import plain_name, side_of, twin_name
from sorvan.core.rig.reach import check_chain, in_order
from sorvan.core.rig.removal import without, without_idle
from sorvan.core.rig.riding import move_joint, ride
from sorvan.core.rig.sides import free_name, matched
from sorvan.core.rig.skeleton import ancestors, hung, joint, link, piece, rest_worlds


class LinkJoint(PuppetCommand):
    """Hang a joint on another, or, with no parent, on the puppet itself; nothing moves.

    With `world` a handle hangs on nothing, and stays where it is when the puppet is moved.
    """

    do: Literal["link-joint"] = "link-joint"
    joint: Id
    parent: Id | None = None
    world: bool = False

    def on(self, puppet: Puppet) -> Puppet:
        if self.world and not joint(puppet, self.joint).handle:
            raise Refusal("Only a handle can stay in the world.", where=joint(puppet, self.joint).name)
        return checked(link(puppet, self.joint, self.parent, self.world))

    def said(self, puppet: Puppet) -> str:
        child = joint(puppet, self.joint).name
        if self.parent is None:
            return f"Leave “{child}” to the world" if self.world else f"Unlink “{child}”"
        return f"Link “{child}” to “{joint(puppet, self.parent).name}”"


def checked(puppet: Puppet) -> Puppet:
    """The puppet, if all its limbs still hold together. Raises `Refusal` otherwise."""
    for chain in puppet.chains.values():
        check_chain(puppet.joints, chain)
    in_order(puppet)
    return puppet


class RelinkJoints(PuppetCommand):
    """Hang several joints elsewhere in one step; nothing moves. Each names its new parent."""

    do: Literal["relink-joints"] = "relink-joints"
    links: Annotated[dict[Id, Id | None], Field(min_length=1, max_length=2000)]

    def on(self, puppet: Puppet) -> Puppet:
        worlds = rest_worlds(puppet)
        joints = dict(puppet.joints)
        for id, parent in self.links.items():
            joints[id] = joint(puppet, id).changed(parent=parent, world=False)
            if parent is not None:
                joint(puppet, parent)
        for id in self.links:
            if id in _above(joints, id):
                raise Refusal(
                    f"“{joints[id].name}” would hang on itself.", remedy="Link the joints in another way.", kind="loop"
                )
        for id, parent in self.links.items():
            onto: Affine = IDENTITY if parent is None else worlds[parent]
            joints[id] = joints[id].changed(rest=Placement.of(onto.inverse() @ worlds[id]))
        return checked(puppet.changed(joints=joints))

    def said(self, puppet: Puppet) -> str:
        first = joint(puppet, next(iter(self.links))).name
        return f"Re-link {several(len(self.links), 'joint', first)}"


def _above(joints: Mapping[str, Joint], id: str) -> set[str]:
    found: set[str] = set()
    at = joints[id].parent
    while at is not None and at not in found:
        found.add(at)
        at = joints[at].parent
    return found


class NewJoint(Value):
    """A joint or handle to make at a stage place (units). `parent` may be one made before it.

    Without a name it is numbered. A joint never hangs on a handle: meant to, it hangs on nothing.
    """

    id: Id
    name: Name | None = None
    at: Pair
    parent: Id | None = None
    side: Side | None = None
    handle: bool = False
    world: bool = False


class AddJoints(PuppetCommand):
    """Draw joints, or handles, over the art. Handles made for a `sheet` pull that piece's mesh."""

    do: Literal["add-joints"] = "add-joints"
    joints: Annotated[tuple[NewJoint, ...], Field(min_length=1, max_length=500)]
    sheet: Id | None = None

    def on(self, puppet: Puppet) -> Puppet:
        joints, worlds = dict(puppet.joints), dict(rest_worlds(puppet))
        taken = {j.name for j in joints.values()}
        for new in self.joints:
            if new.id in joints or new.id in puppet.pieces or new.id == ROOT:
                raise Refusal("A joint with that id is there already.", where=new.name or new.id, kind="conflict")
            name = free_name(new.name, taken) if new.name else _numbered("handle" if new.handle else "joint", taken)
            if new.parent is not None and new.parent not in joints:
                raise missing("joint", new.parent)
            above = None if new.parent is None else joints[new.parent]
            if above is not None and above.handle and not new.handle:
                above = None
            side = new.side or (side_of(name) if side_of(name) != "centre" else above.side if above else "centre")
            made = Joint(id=new.id, name=name, side=side, handle=new.handle, rest=Placement(x=new.at[0], y=new.at[1]))
            worlds[new.id] = made.rest.affine()
            if above or new.world:
                made = hung(made, above.id if above else None, new.world, worlds)
                worlds[new.id] = (worlds[above.id] if above else IDENTITY) @ made.rest.affine()
            joints[new.id] = made
            taken.add(name)
        puppet = puppet.changed(joints=joints)
        if self.sheet is not None:
            held = piece(puppet, self.sheet)
            before = held.attach if isinstance(held.attach, BendSheet) else None
            handles = tuple(j.id for j in self.joints)
            attach = before.changed(handles=before.handles + handles) if before else BendSheet(handles=handles)
            puppet = puppet.with_pieces(held.changed(attach=attach))
        return puppet

    def said(self, puppet: Puppet) -> str:
        noun = "handle" if self.joints[0].handle else "joint"
        what = several(len(self.joints), noun, self.joints[0].name) if self.joints[0].name else f"a {noun}"
        return f"{'Set' if noun == 'handle' else 'Draw'} {what}"


def _numbered(noun: str, taken: Collection[str]) -> str:
    """The first of “joint 1”, “joint 2”… that is not taken."""
    return next(name for n in itertools.count(1) if (name := f"{noun} {n}") not in taken)


class InsertJoint(Command):
    """Put a new joint between a joint and what it hangs on; nothing moves."""

    do: Literal["insert-joint"] = "insert-joint"
    puppet: Id
    id: Id
    name: Name
    above: Id
    at: Pair | None = None

    def result(self, documents: Documents) -> Documents:
        puppet = documents.puppet(self.puppet)
        below = joint(puppet, self.above)
        worlds = rest_worlds(puppet)
        here, up = worlds[below.id], worlds[below.parent] if below.parent else worlds[below.id]
        at = self.at or ((here.e + up.e) / 2, (here.f + up.f) / 2)
        new = NewJoint(id=self.id, name=self.name, at=at, parent=below.parent, side=below.side)
        made = AddJoints(puppet=self.puppet, joints=(new,)).apply(documents).puppet(self.puppet)
        made = link(made, below.id, self.id)
        chains = {
            id: c.changed(joints=_between(c.joints, below.parent, below.id, self.id)) for id, c in made.chains.items()
        }
        return documents.with_(checked(made.changed(chains=chains)))

    def label(self, documents: Documents) -> str:
        return f"Insert a joint above “{joint(documents.puppet(self.puppet), self.above).name}”"


def _between(joints: tuple[str, ...], above: str | None, below: str, new: str) -> tuple[str, ...]:
    if above in joints and below in joints:
        at = joints.index(below)
        return (*joints[:at], new, *joints[at:])
    return joints


class MoveJoints(PuppetCommand):
    """Move joints or handles at rest by so many stage units; pieces and other joints stay.

    `one_way` keeps to the longer of both ways, across or down.
    """

    do: Literal["move-joints"] = "move-joints"
    joints: Annotated[tuple[Id, ...], Field(min_length=1, max_length=2000)]
    dx: Number
    dy: Number
    one_way: bool = False

    def on(self, puppet: Puppet) -> Puppet:
        dx, dy = shift_of(self.dx, self.dy, self.one_way)
        for id in self.joints:
            joint(puppet, id)
            x, y = rest_worlds(puppet)[id].at
            puppet = move_joint(puppet, id, x + dx, y + dy)
        return puppet

    def said(self, puppet: Puppet) -> str:
        return f"Move {several(len(self.joints), 'joint', joint(puppet, self.joints[0]).name)}"


class PlaceJoint(PuppetCommand):
    """Put a joint or a handle at a typed place at rest (stage units); either may be null: it stays. Pieces and other joints
    stay."""

    do: Literal["place-joint"] = "place-joint"
    joint: Id
    at: tuple[Number | None, Number | None]

    def on(self, puppet: Puppet) -> Puppet:
        joint(puppet, self.joint)
        return move_joint(puppet, self.joint, *over(self.at, rest_worlds(puppet)[self.joint].at))

    def said(self, puppet: Puppet) -> str:
        return f"Move “{joint(puppet, self.joint).name}”"


class RemoveJoints(Command):
    """Take joints or handles away; what hung on one hangs on what it hung on, and nothing moves.

    Pieces that rode on one ride on the joint above. Its keys go.
    """

    do: Literal["remove-joints"] = "remove-joints"
    puppet: Id
    joints: Annotated[tuple[Id, ...], Field(min_length=1, max_length=2000)]

    def result(self, documents: Documents) -> Documents:
        puppet = documents.puppet(self.puppet)
        for id in self.joints:
            gone = joint(puppet, id)
            for p in [p for p in puppet.pieces.values() if p.joint == id]:
                if gone.parent is None:
                    raise Refusal(
                        f"“{p.name}” rides on “{gone.name}”, which hangs on nothing else.",
                        where=gone.name,
                        remedy="Attach the piece to another joint first, or remove the piece.",
                    )
                puppet = ride(puppet, p, gone.parent)
            puppet = without(puppet, (id,))
        return documents.with_(checked(puppet)).swept(self.puppet)

    def label(self, documents: Documents) -> str:
        found = joint(documents.puppet(self.puppet), self.joints[0])
        return f"Remove {several(len(self.joints), 'handle' if found.handle else 'joint', found.name)}"


class LimitsGiven(Given, of=Limits):
    """What of the limits of a turn is given."""


class SetJoints(PuppetCommand):
    """Change names, sides, roles or turning limits of joints; only the fields given are changed."""

    do: Literal["set-joints"] = "set-joints"
    joints: Annotated[tuple[Id, ...], Field(min_length=1, max_length=2000)]
    name: Name | None = None
    side: Side | None = None
    role: Role | None = None
    limits: LimitsGiven | None = None

    @model_validator(mode="after")
    def _one_name(self) -> SetJoints:
        if self.name is not None and len(self.joints) > 1:
            raise ValueError("one name was given for several joints")
        return self

    def on(self, puppet: Puppet) -> Puppet:
        given: dict[str, object] = {f: getattr(self, f) for f in ("name", "side", "role") if f in self.model_fields_set}
        given = {f: v for f, v in given.items() if v is not None or f == "role"}
        if self.name is not None and self.side is None and side_of(self.name) != "centre":
            # A name that speaks of a side puts the joint there.
            given["side"] = side_of(self.name)
        return puppet.with_joints(*(self._changed(joint(puppet, id), given) for id in self.joints))

    def _changed(self, held: Joint, given: dict[str, object]) -> Joint:
        if "limits" not in self.model_fields_set:
            return held.changed(**given)
        if self.limits is None:
            return held.changed(**given, limits=None)
        limits = self.limits.over(held.limits) if held.limits else self.limits.anew(Limits, "limit")
        return held.changed(**given, limits=limits)

    def said(self, puppet: Puppet) -> str:
        what = several(len(self.joints), "joint", joint(puppet, self.joints[0]).name)
        if self.name is not None:
            return f"Rename {what}"
        if "limits" in self.model_fields_set:
            return f"{'Limit the turn of' if self.limits else 'Let turn freely:'} {what}"
        if "role" in self.model_fields_set:
            return f"Give {what} the role {self.role}" if self.role else f"Leave the role of {what} to be guessed"
        return f"Put {what} on the {self.side} side"


class RidePieces(Command):
    """Let pieces ride rigidly on a joint, leaving them where they are.

    A joint that was there only to carry such a piece goes.
    """

    do: Literal["ride-pieces"] = "ride-pieces"
    puppet: Id
    pieces: Pieces
    joint: Id

    def result(self, documents: Documents) -> Documents:
        puppet = documents.puppet(self.puppet)
        if joint(puppet, self.joint).handle:
            raise Refusal("A piece rides on a joint, not on a handle.", remedy="Choose a joint.")
        left: set[str] = set()
        for id in self.pieces:
            held = piece(puppet, id)
            if held.joint == id and self.joint != id:
                left.add(id)
            puppet = ride(puppet, held, self.joint)
            puppet = puppet.with_pieces(puppet.pieces[id].changed(attach=None))
        return documents.with_(without_idle(documents, puppet, left))

    def label(self, documents: Documents) -> str:
        puppet = documents.puppet(self.puppet)
        what = several(len(self.pieces), "piece", piece(puppet, self.pieces[0]).name)
        return f"Attach {what} to “{joint(puppet, self.joint).name}”"


class MatchTwin(PuppetCommand):
    """Make the joint's twin on the other side agree with it: place, limits, role, and how its pieces bend."""

    do: Literal["match-twin"] = "match-twin"
    joint: Id

    def on(self, puppet: Puppet) -> Puppet:
        return checked(matched(puppet, joint(puppet, self.joint).id))

    def said(self, puppet: Puppet) -> str:
        return f"Match the twin of “{joint(puppet, self.joint).name}”"


class NameTwins(PuppetCommand):
    """Name pairs of joints, left and right, and the pieces that carry them, as twins."""

    do: Literal["name-twins"] = "name-twins"
    pairs: Annotated[tuple[tuple[Id, Id], ...], Field(min_length=1, max_length=1000)]

    def on(self, puppet: Puppet) -> Puppet:
        joints, pieces = dict(puppet.joints), dict(puppet.pieces)
        for pair in self.pairs:
            bare = plain_name(joint(puppet, pair[0]).name)
            both: tuple[Side, Side] = ("left", "right")
            for id, side in zip(pair, both, strict=True):
                # Twins go by one name: a number behind it goes to both.
                taken = {j.name for j in joints.values() if j.id not in pair}
                name = free_name(twin_name(bare, side), taken)
                joints[id] = joint(puppet, id).changed(name=name, side=side)
                for p in puppet.pieces.values():
                    if p.joint == id and p.owns_joint():
                        pieces[p.id] = p.changed(name=name, side=side)
        return puppet.changed(joints=joints, pieces=pieces)

    def said(self, puppet: Puppet) -> str:
        return f"Name {several(len(self.pairs), 'pair', joint(puppet, self.pairs[0][0]).name)} left and right"


RigCommand = (
    LinkJoint
    | PlaceJoint
    | RelinkJoints
    | AddJoints
    | InsertJoint
    | MoveJoints
    | RemoveJoints
    | SetJoints
    | RidePieces
    | MatchTwin
    | NameTwins
)


def chain_between(puppet: Puppet, anchor: str, end: str) -> tuple[str, ...]:
    """The joints from an anchor down to an end. Raises `Refusal` when the end does not hang on it."""
    joint(puppet, anchor)
    line = [joint(puppet, end).id, *ancestors(puppet.joints, end)]
    if anchor not in line or anchor == end:
        raise Refusal(
            f"“{joint(puppet, end).name}” does not hang on “{joint(puppet, anchor).name}”.",
            remedy="Choose the hand or foot as the end, and a joint further up the same limb as the anchor.",
        )
    return tuple(reversed(line[: line.index(anchor) + 1]))


def known(puppet: Puppet, id: str, kind: Literal["chains", "dials"]) -> None:
    """Raises `Refusal` when the puppet has no such chain or dial."""
    if id not in getattr(puppet, kind):
        raise missing(kind[:-1], id)
