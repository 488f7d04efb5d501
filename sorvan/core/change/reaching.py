"""Commands on limbs that reach, and on pieces that bend."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from sorvan.core.change.command import Command, PuppetCommand, several
from sorvan.core.change.given import Given
from sorvan.core.change.rig import AddJoints, NewJoint, chain_between, checked, known
from sorvan.core.errors import Refusal
from sorvan.core.model.base import Id, Name
from sorvan.core.model.documents import Documents
from sorvan.core.model.puppet import Attach, Bend, BendSheet, Chain, Dab, Piece, Puppet
from sorvan.core.rig.names import fitted
from sorvan.core.rig.removal import without_idle
from sorvan.core.rig.riding import ride
from sorvan.core.rig.roles import STANDING, roles_of
from sorvan.core.rig.skeleton import Skeleton, joint, piece, piece_worlds, rest_worlds


class AddReach(Command):
    """Let a limb reach: from its anchor, which stays put, to its end, which meets a new handle.

    The handle stands where the end stands, so nothing moves. With `world` it stays there when
    the puppet is moved as a whole, and with `follow` the end turns as it does. Untold, a foot does
    both, since it stands on the ground, and nothing else. An existing handle can be named instead
    with `uses`.
    """

    do: Literal["add-reach"] = "add-reach"
    puppet: Id
    id: Id
    name: Name
    anchor: Id
    end: Id
    handle: Id
    uses: bool = False
    world: bool | None = None
    follow: bool | None = None

    def result(self, documents: Documents) -> Documents:
        puppet = documents.puppet(self.puppet)
        joints = chain_between(puppet, self.anchor, self.end)
        if self.id in puppet.chains:
            raise Refusal("A limb with that id reaches already.", where=self.name, kind="conflict")
        stands = roles_of(puppet).get(self.end) in STANDING
        if not self.uses:
            x, y = rest_worlds(puppet)[self.end].at
            end = joint(puppet, self.end)
            new = NewJoint(
                id=self.handle,
                name=fitted(end.name, " handle"),
                at=(x, y),
                side=end.side,
                handle=True,
                world=stands if self.world is None else self.world,
            )
            documents = AddJoints(puppet=self.puppet, joints=(new,)).apply(documents)
            puppet = documents.puppet(self.puppet)
        elif not joint(puppet, self.handle).handle:
            raise Refusal("A limb reaches for a handle, not for a joint.", remedy="Choose a handle.")
        follow = stands if self.follow is None else self.follow
        chain = Chain(id=self.id, name=self.name, joints=joints, handle=self.handle, follow=follow)
        return documents.with_(checked(puppet.with_chains(chain)))

    def label(self, documents: Documents) -> str:
        return f"Let “{self.name}” reach"


class ChainGiven(Given, of=Chain):
    """What of a limb that reaches is given."""


class SetChain(PuppetCommand):
    """Change how a limb reaches: its name, bend, softness, stretch, or what its end does; only what is given."""

    do: Literal["set-chain"] = "set-chain"
    chain: ChainGiven

    def on(self, puppet: Puppet) -> Puppet:
        chain = self._chain(puppet)
        for id in (*chain.joints, chain.handle):
            joint(puppet, id)
        return checked(puppet.changed(chains={**puppet.chains, chain.id: chain}))

    def _chain(self, puppet: Puppet) -> Chain:
        known(puppet, self.chain.told_id, "chains")
        return self.chain.over(puppet.chains[self.chain.told_id])

    def said(self, puppet: Puppet) -> str:
        return f"Change how “{self._chain(puppet).name}” reaches"


class RemoveChain(Command):
    """Let a limb be turned only; its handle stays."""

    do: Literal["remove-chain"] = "remove-chain"
    puppet: Id
    chain: Id

    def result(self, documents: Documents) -> Documents:
        puppet = documents.puppet(self.puppet)
        known(puppet, self.chain, "chains")
        chains = {id: c for id, c in puppet.chains.items() if id != self.chain}
        return documents.with_(puppet.changed(chains=chains)).swept(self.puppet)

    def label(self, documents: Documents) -> str:
        found = documents.puppet(self.puppet).chains.get(self.chain)
        return f"Stop “{found.name if found else self.chain}” reaching"


class BendGiven(Given, of=Bend):
    """What of how a piece bends over joints is given."""


class SheetGiven(Given, of=BendSheet):
    """What of the sheet that a piece lies on is given."""


class SetAttach(Command):
    """Say how a piece bends: over joints, as a sheet with handles, or (with none) not at all; of a way that it bends
    already only what is given is changed.

    A piece that is to bend over joints rides on the first of them.
    """

    do: Literal["set-attach"] = "set-attach"
    puppet: Id
    piece: Id
    attach: Annotated[BendGiven | SheetGiven, Field(discriminator="kind")] | None = None

    def _attach(self, held: Piece) -> Attach | None:
        if self.attach is None:
            return None
        if held.attach is not None and type(held.attach) is self.attach.thing:
            return self.attach.over(held.attach)
        if isinstance(self.attach, BendGiven):
            return self.attach.anew(Bend, "bend")
        return self.attach.anew(BendSheet, "sheet")

    def result(self, documents: Documents) -> Documents:
        puppet = documents.puppet(self.puppet)
        held = piece(puppet, self.piece)
        attach = self._attach(held)
        nodes = attach.nodes if attach is not None else ()
        if any(joint(puppet, id).handle for id in nodes) and isinstance(attach, Bend):
            raise Refusal("A piece bends over joints, not over handles.", remedy="Choose joints of the skeleton.")
        if isinstance(attach, Bend) and held.joint not in nodes:
            puppet = ride(puppet, held, nodes[0])
        changed = puppet.pieces[self.piece].changed(attach=attach)
        puppet = puppet.with_pieces(changed)
        left = {held.id} if held.owns_joint() and not changed.owns_joint() else set()
        return documents.with_(without_idle(documents, puppet, left))

    def label(self, documents: Documents) -> str:
        held = piece(documents.puppet(self.puppet), self.piece)
        name, attach = held.name, self._attach(held)
        if attach is None:
            return f"Make “{name}” rigid"
        return (
            f"Bend “{name}” over {several(len(attach.joints), 'joint')}"
            if isinstance(attach, Bend)
            else f"Lay “{name}” on a bend sheet"
        )


class BendOver(Command):
    """Let a piece that bends over joints bend over one more, or over one less; two stay."""

    do: Literal["bend-over"] = "bend-over"
    puppet: Id
    piece: Id
    joint: Id
    bends: bool

    def _set(self, documents: Documents) -> SetAttach:
        held = piece(documents.puppet(self.puppet), self.piece)
        if not isinstance(held.attach, Bend):
            raise Refusal(f"“{held.name}” does not bend over joints.", remedy="Let it bend first.", kind="missing")
        others = tuple(j for j in held.attach.joints if j != self.joint)
        known = held.attach.joints if self.joint in held.attach.joints else (*others, self.joint)
        joints = known if self.bends else others
        gone = {id: None for id in held.attach.reach if id not in joints}
        dabs = tuple(d for d in held.attach.dabs if d.joint in joints)
        attach = BendGiven.model_validate({"joints": joints, "reach": gone, "dabs": dabs})
        return SetAttach(puppet=self.puppet, piece=self.piece, attach=attach)

    def result(self, documents: Documents) -> Documents:
        return self._set(documents).result(documents)

    def label(self, documents: Documents) -> str:
        return self._set(documents).label(documents)


class BendPiece(Command):
    """Let a piece bend over the joints that lie in it, chosen by where they are."""

    do: Literal["bend-piece"] = "bend-piece"
    puppet: Id
    piece: Id

    def result(self, documents: Documents) -> Documents:
        puppet = documents.puppet(self.puppet)
        held = piece(puppet, self.piece)
        joints = joints_in(puppet, held)
        if len(joints) < 2:
            raise Refusal(
                f"There are fewer than two joints in “{held.name}” that it could bend over.",
                where=held.name,
                remedy="Draw joints along it first: shoulder, elbow, wrist.",
            )
        bend = Bend(joints=joints)
        return SetAttach(puppet=self.puppet, piece=self.piece, attach=BendGiven.whole(bend)).apply(documents)

    def label(self, documents: Documents) -> str:
        return f"Bend “{piece(documents.puppet(self.puppet), self.piece).name}”"


def joints_in(puppet: Puppet, held: Piece) -> tuple[str, ...]:
    """The joints that lie within a piece's drawing at rest, from the root outwards.

    Joints that another piece brought with it are left out, unless the piece rides on one; its
    own pin counts only if something drawn for bending hangs on it or there is no other.
    """
    inward = piece_worlds(puppet)[held.id].inverse()
    l, t, r, b = held.shown().bounds
    air = 0.06 * max(r - l, b - t)
    worlds = rest_worlds(puppet)
    found: list[str] = []
    for id in Skeleton.of(puppet.joints).ids[1:]:
        j = puppet.joints[id]
        x, y = inward.place(worlds[id].at)
        inside = l - air <= x <= r + air and t - air <= y <= b + air
        others = id in puppet.pieces and id != held.id
        if not j.handle and (id == held.joint or (inside and not others)):
            found.append(id)
    drawn = [id for id in found if id != held.id]
    own_leads = any(puppet.joints[id].parent == held.id for id in drawn)
    return tuple(found if own_leads or len(drawn) < 2 else drawn)


class PaintWeights(PuppetCommand):
    """Touches of the weight brush on a piece that bends over joints."""

    do: Literal["paint-weights"] = "paint-weights"
    piece: Id
    dabs: Annotated[tuple[Dab, ...], Field(min_length=1, max_length=500)]

    def on(self, puppet: Puppet) -> Puppet:
        held = piece(puppet, self.piece)
        if not isinstance(held.attach, Bend):
            raise Refusal(f"“{held.name}” does not bend over joints.", remedy="Let it bend first.")
        if any(d.joint not in held.attach.joints for d in self.dabs):
            raise Refusal(f"“{held.name}” does not bend over that joint.", remedy="Choose one that it bends over.")
        if len(held.attach.dabs) + len(self.dabs) > 2000:
            raise Refusal("That is more painting than can be kept.", remedy="Clear what was painted, and begin again.")
        attach = held.attach.changed(dabs=held.attach.dabs + self.dabs)
        return puppet.with_pieces(held.changed(attach=attach))

    def said(self, puppet: Puppet) -> str:
        return f"Paint weights on “{piece(puppet, self.piece).name}”"


ReachCommand = AddReach | SetChain | RemoveChain | SetAttach | BendOver | BendPiece | PaintWeights
