"""Taking what is proposed for loose pieces."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from sorvan.core.change.command import PuppetCommand, several
from sorvan.core.change.rig import RelinkJoints
from sorvan.core.errors import Refusal
from sorvan.core.model.base import Id, Name, Pair, Value
from sorvan.core.model.puppet import Limits, Puppet, Role, Side
from sorvan.core.rig.proposal import Proposal
from sorvan.core.rig.riding import move_joint
from sorvan.core.rig.skeleton import joint


class Hung(Value):
    """What one joint is to have: what it hangs on, where it turns (stage units), its role, side and limits; what is not
    given stays."""

    joint: Id
    parent: Id | None = None
    pin: Pair | None = None
    role: Role | None = None
    side: Side | None = None
    limits: Limits | None = None


def hung_as_proposed(proposal: Proposal) -> tuple[Hung, ...]:
    """What each joint is to have, as it was proposed."""
    return tuple(
        Hung(joint=h.joint, parent=h.parent, pin=h.pin, role=h.role, side=h.side, limits=h.limits)
        for h in proposal.hangs
    )


class TakeRig(PuppetCommand):
    """Rig loose pieces as it was proposed, all at once; nothing moves, and nothing that was set by hand changes.

    `limb` is what it is called where one limb is taken. Raises `Refusal` where a joint has been set by hand meanwhile.
    """

    do: Literal["take-rig"] = "take-rig"
    hung: Annotated[tuple[Hung, ...], Field(min_length=1, max_length=500)]
    limb: Name | None = None

    def on(self, puppet: Puppet) -> Puppet:
        for each in self.hung:
            held = joint(puppet, each.joint)
            mine = [
                what
                for what, given, before in (
                    ("hangs on something", each.parent, held.parent),
                    ("has a role", each.role, held.role),
                    ("has limits", each.limits, held.limits),
                )
                if given is not None and before is not None
            ]
            if mine:
                raise Refusal(
                    f"“{held.name}” {mine[0]} already, set by hand.",
                    where=held.name,
                    remedy="Ask for a new proposal, which leaves that as it is.",
                    kind="conflict",
                )
        for each in self.hung:
            if each.pin is not None:
                puppet = move_joint(puppet, each.joint, *each.pin)
        links: dict[str, str | None] = {each.joint: each.parent for each in self.hung if each.parent is not None}
        if links:
            puppet = RelinkJoints(puppet=puppet.id, links=links).on(puppet)
        joints, pieces = dict(puppet.joints), dict(puppet.pieces)
        for each in self.hung:
            given = {f: v for f in ("role", "side", "limits") if (v := getattr(each, f)) is not None}
            joints[each.joint] = joints[each.joint].changed(**given)
            if each.side is not None and each.joint in pieces and pieces[each.joint].owns_joint():
                pieces[each.joint] = pieces[each.joint].changed(side=each.side)
        return puppet.changed(joints=joints, pieces=pieces)

    def said(self, puppet: Puppet) -> str:
        first = joint(puppet, self.hung[0].joint).name
        if self.limb is not None:
            return f"Rig the {self.limb} as proposed"
        return f"Rig {several(len(self.hung), 'piece', first)} as proposed"
