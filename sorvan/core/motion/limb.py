"""A hand that pulls a part of a limb: the joints between it and where the limb begins turn, so that it goes along.

Nothing has to be prepared: the same sums as for limbs that reach for a handle are made anew for each place of the
hand, and what comes of them are turns to key.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal, Protocol

import numpy as np

from sorvan.core.errors import Refusal, missing
from sorvan.core.geometry import Affine, Complexes, Floats, Point
from sorvan.core.model.channels import channel_id
from sorvan.core.model.puppet import ROOT, Limits, Puppet
from sorvan.core.motion.hand import TriedValues, grip, joint_under, stands, turning
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.plan.values import PLANT
from sorvan.core.rig.anatomy import anatomy, has_legs
from sorvan.core.rig.gives import PLAIN_BEND, rest_side, ways
from sorvan.core.rig.hinges import Hinges, bent, in_radians
from sorvan.core.rig.roles import REST, limbs_of, roles_of
from sorvan.core.rig.skeleton import ancestors, below, children

Pull = Literal["turn", "move", "scale", "limb"]
"""What a hand on the stage does to what it pulls: to one joint, or to the limb up to it."""

ENDS = ("hand", "foot", "toe")
"""What a limb is pulled by, and isn't turned itself."""
HELD = 1.0
"""Units from a joint within which a hand holds the joint itself, and nothing that it could turn."""
NEARLY = 0.25
"""Radians by which a last bone may be held aside of where the bone before it points, and still count as straight on."""


class Grasp(Protocol):
    """What a hand holds: asked for the values to try wherever the hand is."""

    joint: str

    def at(self, hand: Point, whole_steps: bool = False) -> TriedValues:
        """The values to try with the hand at this place (stage units)."""
        ...


@dataclass(frozen=True)
class LimbEnd:
    """What a limb ends in: a hand, a foot. It keeps its direction while the limb bends, so that a foot stays flat."""

    joint: str
    turn: float
    sign: float
    limits: Limits | None


@dataclass
class LimbGrip:
    """A hand that holds a part of a limb. `joints` turn, the first where the limb `begins` (seen from `base`, which it
    hangs on); `bones` lead from each to the next and from the last to a place that goes where the hand goes, `aside` of it."""

    joint: str
    joints: tuple[str, ...]
    grabbed: Point
    base: Affine
    begins: complex
    aside: complex
    bones: Complexes
    signs: Floats
    turns: Floats
    hinges: Hinges
    end: LimbEnd | None
    held: list[float]
    """The turns (degrees) last tried: of all that look alike the nearest to these is meant."""

    def at(self, hand: Point, whole_steps: bool = False) -> TriedValues:
        """The turns that bring what is held to the hand, or as near as the limb goes; with `whole_steps` it goes along
        one axis only."""
        x, y = hand
        if whole_steps:
            across = abs(x - self.grabbed[0]) >= abs(y - self.grabbed[1])
            x, y = (x, self.grabbed[1]) if across else (self.grabbed[0], y)
        target = np.array([complex(*self.base.inverse().place((x, y))) + self.aside - self.begins])
        further = bent(self.hinges, self.bones, target, self.signs, self.turns)
        found: TriedValues = {}
        for k, id in enumerate(self.joints):
            turn = math.degrees(float(self.turns[k, 0] + further[k, 0]))
            if self.hinges.limits[k] is None:
                turn -= 360.0 * round((turn - self.held[k]) / 360.0)
            self.held[k] = turn
            found[channel_id(id, "turn")] = (round(turn, 3),)
        if self.end is not None:
            # All that its limb has turned in all, turned back.
            whole = sum(
                float(self.signs[k, 0]) * (self.held[k] - math.degrees(float(self.turns[k, 0])))
                for k in range(len(self.joints))
            )
            back = self.end.turn - self.end.sign * whole
            if self.end.limits is not None:
                back = min(max(back, self.end.limits.low), self.end.limits.high)
            found[channel_id(self.end.joint, "turn")] = (round(back, 3),)
        return found


def take(
    pose: Evaluation,
    pull: Pull,
    joint: str,
    piece: str | None,
    at: Point,
    *,
    snap: bool = False,
    begins: str | None = None,
) -> Grasp:
    """Close the hand, in a one-frame evaluation, on a piece or else on a joint's own pin.

    A limb that is pulled begins at the joint `begins`, or where it hangs on the body. Raises `Refusal` if what is
    meant is gone, or can't be pulled.
    """
    if piece is not None:
        joint = joint_under(pose, piece, at)
    if pull == "turn":
        joint = turning(pose.puppet, joint)
    if pull != "limb":
        return grip(pose, joint, pull, at, snap)
    if joint == ROOT or (joint in pose.puppet.joints and pose.puppet.joints[joint].handle):
        return grip(pose, joint, "move", at, snap)
    # Refuses what can't be posed at all.
    whole = grip(pose, joint, "turn", at)
    joints = _turning(pose, joint, piece is not None, at, begins)
    reaches = [c for c in pose.puppet.chains.values() if set(c.joints[:-1]) & set(joints) and _reaching(pose, c.id)]
    if reaches:
        # Its turns come from its handle: that is what follows the hand.
        return grip(pose, reaches[-1].handle, "move", at, snap)
    if not joints:
        return whole
    _not_planted(pose, joints)
    return _gripped(pose, joint, joints, at)


def _gripped(pose: Evaluation, joint: str, joints: tuple[str, ...], at: Point) -> LimbGrip:
    puppet = pose.stance
    base = stands(pose, joints[0])[1]
    inward = base.inverse()
    end = _end(puppet, joint, joints[-1])
    last = stands(pose, joints[-1])[0]
    local = last.inverse().place(stands(pose, end)[0].at) if end else _along(puppet, joints, last, at)
    places = [complex(*inward.place(p)) for p in (*(stands(pose, j)[0].at for j in joints), last.place(local))]
    bones = np.diff(np.array(places))[:, None]
    # How each joint counts its turns: under a mirrored one clockwise looks the other way.
    signs = [
        math.copysign(1.0, stands(pose, j)[1].determinant * base.determinant)
        for j in (*joints, *([end] if end else []))
    ]
    held = [float(pose.value(j, "turn", 0)[0]) for j in joints]
    rest = _at_rest(puppet, joints, local)
    side = rest_side(puppet, joints, rest)
    gives = ways(puppet, joints, rest, side)
    bends = np.angle(bones[1:, 0] * bones[:-1, 0].conj())
    if len(bends):
        side = float(np.sign(bends[0])) if abs(bends[0]) > PLAIN_BEND else gives[0]
    hinges = Hinges(side, gives, tuple(in_radians(puppet.joints[j].limits) for j in joints))
    kept = LimbEnd(end, float(pose.value(end, "turn", 0)[0]), signs[-1], puppet.joints[end].limits) if end else None
    return LimbGrip(
        joint=joint,
        joints=joints,
        grabbed=at,
        base=base,
        begins=places[0],
        aside=places[-1] - complex(*inward.place(at)),
        bones=bones,
        signs=np.array(signs[: len(joints)])[:, None],
        turns=np.deg2rad(held)[:, None],
        hinges=hinges,
        end=kept,
        held=held,
    )


def _end(puppet: Puppet, joint: str, last: str) -> str | None:
    """What a limb whose last bone turns at `last` ends in, if that is, or carries, what is pulled."""
    line = [joint, *ancestors(puppet.joints, joint)]
    return line[line.index(last) - 1] if line[0] != last else None


def _along(puppet: Puppet, joints: tuple[str, ...], last: Affine, at: Point) -> Point:
    """The place on a limb's last bone (in its joint's own space) that goes along with a hand which holds what rides on
    it: as far down the bone as the hand is, so that where across it was held doesn't tell which way the limb is bent."""
    held = complex(*last.inverse().place(at))
    groups, own = limbs_of(puppet), joints[-1]
    below_ = [c for c in children(puppet.joints, own) if groups[c] == groups[own] and not puppet.joints[c].handle]
    if below_:
        way = complex(*puppet.joints[below_[0]].rest.affine().at)
    elif len(joints) > 1:
        # Drawn nearly straight on, it counts as straight.
        rest = puppet.joints[own].rest.affine()
        way = complex(*rest.inverse().arrow(rest.at))
        way = held if abs(np.angle(held * way.conjugate())) > NEARLY else way
    else:
        way = held
    way /= max(abs(way), 1e-9)
    far = (held * way.conjugate()).real
    return (far * way.real, far * way.imag) if far > HELD else (held.real, held.imag)


def _at_rest(puppet: Puppet, joints: tuple[str, ...], local: Point) -> Complexes:
    """The bones as they lie at rest, seen from what the limb hangs on; the last to a place in its joint's own space."""
    frame = puppet.joints[joints[0]].rest.affine()
    places = [frame.at]
    for j in joints[1:]:
        frame = frame @ puppet.joints[j].rest.affine()
        places.append(frame.at)
    found: Complexes = np.diff(np.array([complex(*p) for p in (*places, frame.place(local))]))
    return found


def _turning(pose: Evaluation, joint: str, carries: bool, at: Point, begins: str | None) -> tuple[str, ...]:
    """The joints that turn when a place that rides on a joint is pulled, or (unless it `carries` that) its own pin:
    from where the limb begins down to the last bone before what it is pulled by."""
    puppet = pose.stance
    if joint not in puppet.joints:
        raise missing("joint", joint)
    line = [*reversed(ancestors(puppet.joints, joint)), joint]
    if begins is not None and begins not in line:
        if begins not in puppet.joints:
            raise missing("joint", begins)
        raise Refusal(
            f"“{puppet.joints[joint].name}” doesn't hang on “{puppet.joints[begins].name}”, where the limb is to begin.",
            where=puppet.joints[joint].name,
            remedy="Let it begin by itself, or at a joint that carries what you pull.",
        )
    limb = line[line.index(begins or _beginning(puppet, line)) :]
    bones = _bones(puppet)
    known = [k for k, j in enumerate(limb) if j in bones]
    if known:
        limb = limb[: known[-1] + 1]
    near = math.dist(stands(pose, joint)[0].at, at) < HELD
    if limb[-1] == joint and (not carries or near):
        limb = limb[:-1]
    return tuple(limb)


def _beginning(puppet: Puppet, line: list[str]) -> str:
    """Where the limb begins in which this line of joints, from the root down, ends."""
    groups, first = limbs_of(puppet), len(line) - 1
    while first > 1:
        above = line[first - 1]
        others = [c for c in children(puppet.joints, above) if not puppet.joints[c].handle]
        if groups[above] != groups[line[first]] or (groups[above] == REST and len(others) > 1):
            break
        first -= 1
    return line[first]


def _bones(puppet: Puppet) -> set[str]:
    """The joints that turn bones of limbs, as their roles tell."""
    found = {id for id, role in roles_of(puppet).items() if role not in ENDS}
    return found | {j for leg in anatomy(puppet).legs for j in leg.bones} if has_legs(puppet) else found


def _reaching(pose: Evaluation, chain: str) -> bool:
    held = pose.values.get(channel_id(chain, "reach"))
    return held is None or float(held[0, 0]) > 0


def _not_planted(pose: Evaluation, joints: tuple[str, ...]) -> None:
    """Raises `Refusal` if the end of this limb is planted, and would be brought back at once."""
    groups = limbs_of(pose.puppet)
    for id in below(pose.puppet.joints, joints):
        held = pose.values.get(channel_id(id, PLANT))
        if held is not None and float(held[0, 0]) > 0 and groups[id] == groups[joints[-1]]:
            name = pose.puppet.joints[id].name
            raise Refusal(
                f"“{name}” is planted at this frame: it stays where it is, however its limb is pulled.",
                where=name,
                remedy="Let go of it here, or move the body.",
            )
