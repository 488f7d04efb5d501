"""Which joint, piece, limb and dial of one puppet answers to which of another: by names, roles, sides and proportions."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field

import numpy as np

from sorvan.core.art.source import Arts
from sorvan.core.errors import Refusal
from sorvan.core.geometry import Floats
from sorvan.core.kept import kept
from sorvan.core.late import late
from sorvan.core.model.channels import belongs_to
from sorvan.core.model.puppet import ROOT, Piece, Puppet, Role, Side
from sorvan.core.rig.anatomy import anatomy, has_legs
from sorvan.core.rig.names import side_of, sideless
from sorvan.core.rig.proposal import proposed
from sorvan.core.rig.roles import role_by_name, roles_of
from sorvan.core.rig.sides import other as opposite
from sorvan.core.rig.skeleton import box_of, piece_worlds, rest_worlds
from sorvan.core.rig.usual import faces

optimize = late("scipy.optimize")

SURE = 0.5
"""What is less sure than this is left without an answer."""
NEAR = 0.16
"""How far apart, in parts of the figure's height, two parts lie that are likely the same."""
ALIKE = 0.12
"""By how much of a score the likeliest answer must be ahead of the next."""
CLEARLY = 0.04
"""The part of a puppet's height that twins lie apart at least where it is clear which lies to the left."""
CLEAR = 0.8
"""What is as sure as this tells where the rest lies."""
ENOUGH = 3
"""Pairs from which on the one figure is laid over the other by them, and not by the boxes around both."""


@dataclass(frozen=True)
class Links:
    """What of a source answers to what of a target, by ids; of drawings the numbers, by source piece. `sure` is, by the
    source's joint, how sure (0 to 1), and `why` says by what."""

    joints: Mapping[str, str] = field(default_factory=dict)
    pieces: Mapping[str, str] = field(default_factory=dict)
    chains: Mapping[str, str] = field(default_factory=dict)
    dials: Mapping[str, str] = field(default_factory=dict)
    drawings: Mapping[str, Mapping[int, int]] = field(default_factory=dict)
    sure: Mapping[str, float] = field(default_factory=dict)
    why: Mapping[str, str] = field(default_factory=dict)

    def owner(self, kind: str, id: str) -> str | None:
        """What answers to the owner of a channel of this kind."""
        if id == ROOT:
            return ROOT
        held = {"piece": self.pieces, "chain": self.chains, "dial": self.dials}
        return held.get(belongs_to(kind) or "joint", self.joints).get(id)


@dataclass(frozen=True)
class _Part:
    """A joint with what tells it: its words, role and side, its place (stage units) and how large it is there; nought
    without a picture."""

    id: str
    words: tuple[str, ...]
    role: Role | None
    side: Side
    place: complex
    size: complex


@kept()
def _parts(puppet: Puppet) -> tuple[_Part, ...]:
    roles, worlds, laid = roles_of(puppet), rest_worlds(puppet), piece_worlds(puppet)
    found: list[_Part] = []
    for joint in puppet.joints.values():
        if joint.handle:
            continue
        own = puppet.pieces.get(joint.id)
        place, size = complex(*worlds[joint.id].at), 0j
        if own is not None and own.owns_joint():
            l, t, r, b = box_of(own, laid[own.id])
            place, size = complex((l + r) / 2, (t + b) / 2), complex(r - l, b - t)
        role = roles.get(joint.id) or role_by_name(joint.name)
        found.append(_Part(joint.id, sideless(joint.name), role, _side(joint.side, joint.name), place, size))
    return tuple(found)


def frame_of(puppet: Puppet) -> tuple[complex, complex]:
    """The box around a puppet at rest: its left upper corner and its size (stage units)."""
    laid = piece_worlds(puppet)
    boxes = [box_of(p, laid[p.id]) for p in puppet.pieces.values() if not puppet.unseen(p)]
    if not boxes:
        places = [complex(*w.at) for w in rest_worlds(puppet).values()] or [complex(*puppet.origin)]
        boxes = [(p.real, p.imag, p.real, p.imag) for p in places]
    l, t = min(b[0] for b in boxes), min(b[1] for b in boxes)
    r, b = max(b[2] for b in boxes), max(b[3] for b in boxes)
    return complex(l, t), complex(max(r - l, 1e-6), max(b - t, 1e-6))


def faces_across(source: Puppet, target: Puppet) -> bool:
    """Whether one looks to the left and the other to the right."""
    if not (has_legs(source) and has_legs(target)):
        return False
    return anatomy(source).facing * anatomy(target).facing < 0


def hinted(puppet: Puppet, arts: Arts) -> Puppet:
    """A puppet, to be linked by, whose loose pieces have the roles and sides that would be proposed for them."""
    try:
        hangs = proposed(puppet, arts).hangs
    except Refusal:
        return puppet
    joints = [
        puppet.joints[h.joint].changed(**{f: v for f in ("role", "side") if (v := getattr(h, f)) is not None})
        for h in hangs
        if h.role is not None or h.side is not None
    ]
    return puppet.with_joints(*joints)


def _sided_as(source: Puppet, target: Puppet) -> Puppet:
    """The target with its sides swapped where it clearly has its left where the source has its right: one of them is
    named as the paper has it, is seen from behind, or has sides by nothing but its form. A limb that points outwards does
    so on either. Where they face opposite ways, that is so because one is drawn as the other's mirror image."""
    across = faces(source) * faces(target) < 0 or faces_across(source, target)
    if _lies_left(source) * _lies_left(target) * (-1 if across else 1) >= 0:
        return target
    joints = [j.changed(side=opposite(_side(j.side, j.name))) for j in target.joints.values()]
    pieces = [p.changed(side=opposite(_side(p.side, p.name))) for p in target.pieces.values()]
    return target.with_joints(*joints).with_pieces(*pieces)


def _side(told: Side, name: str) -> Side:
    return told if told != "centre" else side_of(name)


def _lies_left(puppet: Puppet) -> int:
    """Whether the parts of the left lie to the left (-1) or to the right (1) of their like on the right; 0 if that is not
    clear, as from the side."""
    at: dict[tuple[Role, Side], float] = {}
    for part in _parts(puppet):
        if part.role is not None and part.side != "centre":
            at[part.role, part.side] = part.place.real
    apart = [at[role, "left"] - at[role, "right"] for role, side in at if side == "left" and (role, "right") in at]
    total, tall = sum(apart), frame_of(puppet)[1].imag
    return 0 if abs(total) < CLEARLY * tall * len(apart) or not apart else 1 if total > 0 else -1


def linked(source: Puppet, target: Puppet, told: Mapping[str, str | None] | None = None) -> Links:
    """What of the source answers to what of the target. What is not clear is left without an answer.

    `told` are answers given by hand, by the source's joint; None for those that are to have none.
    """
    told = {} if told is None else told
    target = _sided_as(source, target)
    # What is gone meanwhile has no answer, and is none.
    given = {a: b for a, b in told.items() if b is not None and a in source.joints and b in target.joints}
    own = tuple(p for p in _parts(source) if p.id not in told)
    its = tuple(p for p in _parts(target) if p.id not in given.values())
    joints, sure, _ = _matched(own, its, laid_over(source, target, {}))
    clear = {id: joints[id] for id in joints if sure[id] >= CLEAR}
    joints, sure, why = _matched(own, its, laid_over(source, target, clear | given))
    joints |= given
    sure |= dict.fromkeys(given, 1.0)
    why |= dict.fromkeys(given, "told by hand")
    if has_legs(source) and has_legs(target):
        carriers = anatomy(source).body, anatomy(target).body
        if ROOT not in carriers and carriers[0] not in {*joints, *told} and carriers[1] not in joints.values():
            joints[carriers[0]], sure[carriers[0]], why[carriers[0]] = carriers[1], 0.8, "it carries the legs"
    pieces = _pieces(source, target, joints)
    chains = _chains(source, target, joints)
    for one, other in chains.items():
        joints[source.chains[one].handle] = target.chains[other].handle
    _handles(source, target, joints)
    return Links(joints, pieces, chains, _dials(source, target), _drawings(source, target, pieces), sure, why)


def laid_over(source: Puppet, target: Puppet, joints: Mapping[str, str]) -> Floats:
    """What lays the source at rest over the target: x scale, x shift, y scale, y shift (units). By the places of the
    joints that answer to one another, if they are enough; else by the boxes around both. The x scale is below nought where
    they face opposite ways."""
    over = _boxes_over(source, target, faces_across(source, target))
    if len(joints) < ENOUGH:
        return over
    one, other = ({p.id: p for p in _parts(puppet)} for puppet in (source, target))
    pairs = [(one[a].place, other[b].place) for a, b in joints.items() if a in one and b in other]
    tall = frame_of(target)[1].imag
    if not (has_legs(source) and has_legs(target)) and _opposite(pairs, tall):
        over = _boxes_over(source, target, True)
    return _pairs_over(pairs, over, tall) if len(pairs) >= ENOUGH else over


def _opposite(pairs: list[tuple[complex, complex]], tall: float) -> bool:
    """Whether what lies to the right in the one lies to the left in the other."""
    one, other = (np.real(np.array(p)) for p in zip(*pairs, strict=True))
    if min(np.ptp(one), np.ptp(other)) < 0.1 * tall:
        return False
    return float(np.corrcoef(one, other)[0, 1]) < -0.6


def _boxes_over(source: Puppet, target: Puppet, across: bool) -> Floats:
    """What lays the box around the one over that around the other: x scale, x shift, y scale, y shift."""
    (a, s), (b, t) = frame_of(source), frame_of(target)
    x, y = t.real / s.real, t.imag / s.imag
    if across:
        return np.array([-x, b.real + t.real + x * a.real, y, b.imag - y * a.imag])
    return np.array([x, b.real - x * a.real, y, b.imag - y * a.imag])


def _pairs_over(pairs: list[tuple[complex, complex]], before: Floats, size: float) -> Floats:
    """What lays places over those that they are known to answer to, by least squares in x and in y."""
    found = before.copy()
    for k, part in enumerate((np.real, np.imag)):
        one, other = (part(np.array(p)) for p in zip(*pairs, strict=True))
        scale = before[2 * k]
        # A row of parts one above the other says nothing about the breadth.
        if np.ptp(one) * abs(scale) > 0.2 * size:
            scale = float(np.polyfit(one, other, 1)[0])
        if scale * before[2 * k] > 0:
            found[2 * k : 2 * k + 2] = scale, float(np.mean(other - scale * one))
    return found


def _matched(
    own: tuple[_Part, ...], its: tuple[_Part, ...], over: Floats
) -> tuple[dict[str, str], dict[str, float], dict[str, str]]:
    if not own or not its:
        return {}, {}, {}
    height = max(np.ptp([p.place.imag for p in its]), *(p.size.imag for p in its), 1e-6)
    scores = np.array([[_score(a, b, over, height) for b in its] for a in own])
    joints: dict[str, str] = {}
    sure: dict[str, float] = {}
    why: dict[str, str] = {}
    for i, j in zip(*optimize.linear_sum_assignment(-scores), strict=True):
        score = scores[i, j]
        others = np.concatenate([np.delete(scores[i], j), np.delete(scores[:, j], i)])
        ahead = score - (others.max() if others.size else 0.0)
        named = own[i].words == its[j].words and own[i].words
        likely = min(0.99, 0.35 + 0.4 * score) - (0.0 if ahead >= ALIKE else 0.25 * (1 - ahead / ALIKE))
        if likely >= SURE:
            joints[own[i].id], sure[own[i].id] = its[j].id, round(float(likely), 2)
            same = own[i].role is not None and own[i].role == its[j].role
            why[own[i].id] = "by its name" if named else "by what it is for" if same else "by where it lies"
    return joints, sure, why


def _score(a: _Part, b: _Part, over: Floats, height: float) -> float:
    """How well two joints answer to one another; far below nothing where they can't."""
    if {a.side, b.side} == {"left", "right"}:
        return -9.0
    if a.role and b.role and a.role != b.role and a.words != b.words:
        return -1.0
    both = set(a.words) | set(b.words)
    named = 0.5 * len(set(a.words) & set(b.words)) / len(both) if both else 0.0
    if a.words and a.words == b.words:
        named = 1.0
    role = 0.8 if a.role is not None and a.role == b.role else 0.0
    where = complex(over[0] * a.place.real + over[1], over[2] * a.place.imag + over[3])
    far = abs(where - b.place) / height
    near = float(np.exp(-((far / NEAR) ** 2)))
    if a.size and b.size:
        one = abs(over[0] * a.size.real), abs(over[2] * a.size.imag)
        ratio = [min(p, q) / max(p, q, 1e-9) for p, q in zip(one, (b.size.real, b.size.imag), strict=True)]
        near *= 0.3 + 0.7 * ratio[0] * ratio[1]
    side = 0.0 if a.side == b.side else -0.2
    return named + role + side + 0.7 * near


def _pieces(source: Puppet, target: Puppet, joints: Mapping[str, str]) -> dict[str, str]:
    """What pieces answer to: those that own joints that do; else those of one name; else those that ride there alone."""
    found: dict[str, str] = {}
    for p in source.pieces.values():
        its = target.pieces.get(joints.get(p.joint, ""))
        if p.owns_joint() and its is not None and its.owns_joint():
            found[p.id] = its.id
    ways: tuple[Callable[[Piece, Piece], bool], ...] = (
        lambda one, other: one.side == other.side and sideless(one.name) == sideless(other.name),
        lambda one, other: joints.get(one.joint) == other.joint,
    )
    for alike in ways:
        for p in source.pieces.values():
            if p.id in found:
                continue
            left = [q for q in target.pieces.values() if q.id not in found.values() and alike(p, q)]
            if len(left) == 1:
                found[p.id] = left[0].id
    return found


def _chains(source: Puppet, target: Puppet, joints: Mapping[str, str]) -> dict[str, str]:
    """Limbs that reach, by the joint at their end."""
    ends = {c.joints[-1]: c.id for c in target.chains.values()}
    found = {c.id: ends.get(joints.get(c.joints[-1], "")) for c in source.chains.values()}
    return {one: other for one, other in found.items() if other is not None}


def _handles(source: Puppet, target: Puppet, joints: dict[str, str]) -> None:
    """Handles of the same name and side."""
    free = [j for j in target.joints.values() if j.handle and j.id not in joints.values()]
    for one in source.joints.values():
        if one.handle and one.id not in joints:
            same = [j for j in free if j.side == one.side and sideless(j.name) == sideless(one.name)]
            if len(same) == 1:
                joints[one.id] = same[0].id
                free.remove(same[0])


def _dials(source: Puppet, target: Puppet) -> dict[str, str]:
    """Dials of one name; turnarounds whatever they are called."""
    found: dict[str, str] = {}
    for dial in source.dials.values():
        for other in target.dials.values():
            same = dial.name.casefold() == other.name.casefold() and dial.turns == other.turns
            if other.id not in found.values() and (same or (dial.turns and other.turns)):
                found[dial.id] = other.id
                break
    return found


def _drawings(source: Puppet, target: Puppet, pieces: Mapping[str, str]) -> dict[str, dict[int, int]]:
    """The numbers of drawings of one name, by piece."""
    found: dict[str, dict[int, int]] = {}
    for one, other in pieces.items():
        by_name = {d.name.casefold(): d.number for d in target.pieces[other].drawings}
        own = ((d.number, by_name.get(d.name.casefold())) for d in source.pieces[one].drawings)
        found[one] = {number: its for number, its in own if its is not None}
    return found


def unanswered(puppet: Puppet, links: Iterable[str]) -> list[str]:
    """The joints with a picture of their own, or a role, that have no answer among these, by id."""
    there, roles = set(links), roles_of(puppet)
    return [
        j.id
        for j in puppet.joints.values()
        if not j.handle and j.id not in there and (j.id in puppet.pieces or j.id in roles)
    ]
