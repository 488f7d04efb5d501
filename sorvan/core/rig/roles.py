"""What each joint is for, told by the user or guessed from its name and its place in the tree."""

from __future__ import annotations

import math

from sorvan.core.kept import kept
from sorvan.core.model.puppet import ROOT, Puppet, Role
from sorvan.core.rig.lexicon import AMBIGUOUS, NATIVE, ROLES, WHOLE_LIMBS, WORN
from sorvan.core.rig.names import side_of, words
from sorvan.core.rig.skeleton import children, rest_worlds, skeleton_of

_PHRASES: tuple[tuple[tuple[str, ...], Role], ...] = (
    (("upper", "arm"), "upper arm"), (("lower", "arm"), "lower arm"), (("fore", "arm"), "lower arm"),
    (("upper", "leg"), "thigh"), (("lower", "leg"), "shin"), (("avant", "bras"), "lower arm"),
)  # fmt: skip
ARM: tuple[Role, ...] = ("upper arm", "lower arm", "hand")
LEG: tuple[Role, ...] = ("thigh", "shin", "foot", "toe")
STANDING: tuple[Role, ...] = ("foot", "toe")
"""What stands on the ground, wherever the puppet goes."""
TRUNK: tuple[Role, ...] = ("pelvis", "spine", "neck")


def role_by_name(name: str) -> Role | None:
    """The role that a name speaks of, in the usual words; none if it speaks of none, or of something worn."""
    found = words(name)
    if WORN.intersection(found):
        return None
    for phrase, role in _PHRASES:
        if all(w in found for w in phrase):
            return role
    if not NATIVE.intersection(found):
        found = [w for w in found if w not in AMBIGUOUS]
    if "hip" in found and side_of(name) != "centre":
        return "thigh"
    for known in (ROLES, WHOLE_LIMBS):
        if roles := [known[w] for w in found if w in known]:
            return roles[-1]
    return None


@kept()
def roles_of(puppet: Puppet) -> dict[str, Role]:
    """The role of every joint that has one: as told, else by its name, else by what it hangs on.

    Of two joints of an arm or leg that hang on one another under the same name (“arm 1”,
    “arm 2”), the further one is the lower part. A joint without a telling name at the end of a
    forearm or shin, with no other there, is its hand or foot.
    """
    joints = {id: j for id, j in puppet.joints.items() if not j.handle}
    told: dict[str, Role] = {id: j.role for id, j in joints.items() if j.role is not None}
    found: dict[str, Role] = {**{id: r for id, j in joints.items() if (r := role_by_name(j.name))}, **told}
    for id in _from_the_root(puppet):
        parent = joints[id].parent if id in joints else None
        if id in told or parent not in found:
            continue
        above, own = found[parent], found.get(id)
        for line in (ARM, LEG):
            if above not in line:
                continue
            at = line.index(above)
            if (own == above and at + 1 < len(line)) or (
                own is None and above in ("lower arm", "shin", "upper arm", "thigh") and _goes_on(puppet, parent, id)
            ):
                found[id] = line[at + 1]
    _trunk(puppet, found, told)
    return found


def _from_the_root(puppet: Puppet) -> list[str]:
    under: dict[str | None, list[str]] = {}
    for j in sorted(puppet.joints.values(), key=lambda j: (j.name, j.id)):
        under.setdefault(j.parent, []).append(j.id)
    order = list(under.get(None, ()))
    for id in order:
        order += under.get(id, ())
    return order


def _goes_on(puppet: Puppet, parent: str, id: str) -> bool:
    """Whether a joint is the one way that a limb goes on, and not something worn upon it."""
    others = [c for c in children(puppet.joints, parent) if not puppet.joints[c].handle]
    if others != [id] or WORN.intersection(words(puppet.joints[id].name)):
        return False
    worlds = rest_worlds(puppet)
    above = puppet.joints[parent].parent
    if above is None:
        return True
    (ax, ay), (bx, by), (cx, cy) = (worlds[j].at for j in (above, parent, id))
    return math.hypot(cx - bx, cy - by) > 0.2 * math.hypot(bx - ax, by - ay)


def _trunk(puppet: Puppet, found: dict[str, Role], told: dict[str, Role]) -> None:
    """With no pelvis named, what both thighs hang on is it, unless that is the spine by name."""
    if "pelvis" in found.values():
        return
    legs = {puppet.joints[id].parent for id, role in found.items() if role == "thigh"}
    for id in legs:
        if id is not None and id not in found and id not in told:
            found[id] = "pelvis"


_GROUPS: dict[Role, str] = {
    **dict.fromkeys(ARM, "arm"), **dict.fromkeys(LEG, "leg"), **dict.fromkeys(TRUNK, "body"),
    "neck": "head", "head": "head", "wing": "wing", "tail": "tail",
}  # fmt: skip
WHOLE, REST, DIALS = "whole puppet", "other parts", "dials"
"""What the threads of the puppet as a whole, of joints without a role, and of dials are grouped under."""


@kept()
def limbs_of(puppet: Puppet) -> dict[str, str]:
    """For everything that can be keyed, by id, the limb that it belongs to: “left arm”, “head”, “body”."""
    roles = roles_of(puppet)
    found: dict[str, str] = {ROOT: WHOLE, **dict.fromkeys(puppet.dials, DIALS)}
    nearest: dict[str | None, str | None] = {None: None}
    for id in skeleton_of(puppet).ids[1:]:
        joint = puppet.joints[id]
        told = nearest[id] = id if id in roles else nearest[joint.parent]
        if told is None:
            found[id] = REST
            continue
        side = puppet.joints[told].side
        group = _GROUPS[roles[told]]
        found[id] = f"{side} {group}" if side != "centre" and group not in ("body", "head") else group
        if joint.handle and joint.side != "centre" and group == "body":
            found[id] = REST
    for chain in puppet.chains.values():
        found[chain.id] = found[chain.handle] = found[chain.joints[-1]]
    return found | {p.id: found[p.joint] for p in puppet.pieces.values()}
