"""What a puppet walks with: its legs, arms and trunk, measured as it stands at rest.

Lengths are stage units. Places at rest are complex numbers, x + iy, with y down.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property

from sorvan.core.errors import Refusal
from sorvan.core.kept import kept
from sorvan.core.model.puppet import ROOT, Puppet, Role
from sorvan.core.rig.facing import view_of
from sorvan.core.rig.roles import roles_of
from sorvan.core.rig.skeleton import ancestors, children, rest_worlds

UPRIGHT = 0.9
"""A foot that points this much more down than forward is a bone of the leg, as in a hind leg."""
WIDER = 1.2
"""A foot's picture that is this much taller than wide is a bone of the leg."""
STRAIGHT = math.radians(4)
"""A joint bent less than this at rest does not say which way it bends."""
SLIGHT = math.radians(25)
"""A joint bent less than this at rest may give the other way, if its limits leave it no other."""


@dataclass(frozen=True)
class Sole:
    """Where a foot can touch the ground, at rest on the stage: heel and toe; one place without a foot. `ball` is
    where it bends when the heel rises: at its toe joint, or at the tip of a stiff foot."""

    heel: complex
    ball: complex
    toe: complex

    @property
    def length(self) -> float:
        """From heel to toe."""
        return abs(self.toe - self.heel)


@dataclass(frozen=True)
class Leg:
    """A leg from the hip on. `bones` are its joints, thigh first; `places` those of the joints and of the end
    of the last bone; `foot` and `toe` are the joints that turn there, if there are any. `bend` is the way
    its knee gives: +1 if the shin turns clockwise against the thigh."""

    bones: tuple[str, ...]
    places: tuple[complex, ...]
    foot: str | None
    toe: str | None
    sole: Sole
    side: str
    bend: float

    @cached_property
    def lengths(self) -> tuple[float, ...]:
        """The length of each bone."""
        return tuple(abs(b - a) for a, b in zip(self.places, self.places[1:], strict=False))

    @property
    def hip(self) -> complex:
        """Where it hangs on the body."""
        return self.places[0]

    @property
    def ankle(self) -> complex:
        """The end of the last bone."""
        return self.places[-1]


@dataclass(frozen=True)
class Arm:
    """An arm: its joints from the shoulder on, the ends of its bones, and its side."""

    joints: tuple[str, ...]
    places: tuple[complex, ...]
    side: str


@dataclass(frozen=True)
class Anatomy:
    """A puppet's walking parts. `body` is the joint that carries them all (or the puppet as a whole),
    `spine` one that leans without the legs; `facing` is +1 to the right, -1 to the left, 0 to the front."""

    body: str
    spine: str | None
    neck: str | None
    head: str | None
    legs: tuple[Leg, ...]
    arms: tuple[Arm, ...]
    facing: int
    ground: float

    @property
    def leg(self) -> float:
        """From hip to ground, on average."""
        return sum(self.ground - leg.hip.imag for leg in self.legs) / len(self.legs)


def has_legs(puppet: Puppet) -> bool:
    """Whether it has anything to walk with."""
    return "thigh" in roles_of(puppet).values()


@kept()
def anatomy(puppet: Puppet) -> Anatomy:
    """Measure a puppet by its roles. Raises `Refusal` if it has no legs."""
    roles = roles_of(puppet)
    thighs = [id for id, role in roles.items() if role == "thigh"]
    if not thighs:
        raise Refusal(
            f"“{puppet.name}” has no legs to walk with.",
            where=puppet.name,
            remedy="Give the joints at the tops of its legs the role “thigh” on the Rig bench.",
        )
    legs = [_leg(puppet, roles, id) for id in thighs]
    facing = _facing(puppet, legs)
    legs = [_turned_to(leg, facing) for leg in legs]
    legs = [_bending(puppet, leg, facing) for leg in legs]
    legs.sort(key=lambda leg: ({"left": 0, "right": 1}.get(leg.side, 2), -facing * leg.hip.real))
    arms = [_arm(puppet, roles, id) for id, role in roles.items() if role == "upper arm"]
    trunk = [id for id, role in roles.items() if role in ("pelvis", "spine", "neck", "head")]
    body = _carrier(puppet, [*thighs, *trunk, *(a.joints[0] for a in arms)])
    loaded = {j for t in thighs for j in (t, *ancestors(puppet.joints, t))}
    order = sorted(puppet.joints, key=lambda j: len(ancestors(puppet.joints, j)))
    spine = next((j for j in order if roles.get(j) == "spine" and j not in loaded), None)
    ground = max(p.imag for leg in legs for p in (leg.sole.heel, leg.sole.toe))
    first = {role: next((j for j in order if roles.get(j) == role), None) for role in ("neck", "head")}
    return Anatomy(body, spine, first["neck"], first["head"], tuple(legs), tuple(arms), facing, ground)


def _place(puppet: Puppet, id: str) -> complex:
    world = rest_worlds(puppet)[id]
    return complex(world.e, world.f)


def _next(puppet: Puppet, roles: dict[str, Role], id: str, role: Role) -> str | None:
    return next((c for c in children(puppet.joints, id) if roles.get(c) == role), None)


def _corners(puppet: Puppet, joints: Iterable[str]) -> list[complex]:
    """The corners, at rest on the stage, of what rides on these joints or bends by them at its end."""
    worlds, wanted = rest_worlds(puppet), set(joints)
    found: list[complex] = []
    for piece in puppet.pieces.values():
        if piece.joint not in wanted:
            continue
        m = worlds[piece.joint] @ piece.in_joint()
        l, t, r, b = piece.shown().bounds
        found += [complex(*m.place(p)) for p in ((l, t), (r, t), (r, b), (l, b))]
    return found


def _leg(puppet: Puppet, roles: dict[str, Role], thigh: str) -> Leg:
    shin = _next(puppet, roles, thigh, "shin")
    foot = _next(puppet, roles, shin or thigh, "foot")
    toe = _next(puppet, roles, foot, "toe") if foot else None
    bones = [j for j in (thigh, shin) if j]
    if foot is not None and _is_bone(puppet, foot, toe, shin or thigh):
        bones, foot, toe = [*bones, foot], toe, None
    places = [_place(puppet, j) for j in bones]
    end = _place(puppet, foot) if foot else _tip(puppet, bones[-1])
    sole = _sole(puppet, foot, toe, end)
    return Leg(tuple(bones), (*places, end), foot, toe, sole, puppet.joints[thigh].side, 0.0)


def _is_bone(puppet: Puppet, foot: str, toe: str | None, above: str) -> bool:
    """Whether what is called a foot is a bone of the leg: it leads well down to the toe, or its picture is
    clearly taller than wide."""
    start, corners = _place(puppet, foot), _corners(puppet, [foot])
    if toe is not None:
        way = _place(puppet, toe) - start
        tall = way.imag > UPRIGHT * abs(way.real)
    elif corners:
        way = complex(0, max(c.imag for c in corners)) - complex(0, start.imag)
        tall = way.imag > WIDER * (max(c.real for c in corners) - min(c.real for c in corners))
    else:
        return False
    return tall and abs(way) > 0.35 * abs(start - _place(puppet, above))


def _tip(puppet: Puppet, joint: str) -> complex:
    """The end of a bone that nothing hangs on: where what rides on it reaches lowest; else straight below."""
    here, corners = _place(puppet, joint), _corners(puppet, [joint])
    if not corners:
        limb = ancestors(puppet.joints, joint)
        far = abs(here - _place(puppet, limb[0])) if limb else 40.0
        return here + 1j * max(far, 1.0)
    low = max(c.imag for c in corners)
    middle = sum(c.real for c in corners) / len(corners)
    # A leg drawn slantwise ends under its own middle line.
    lean = 2 * (middle - here.real) if abs(low - here.imag) > 1 else 0.0
    left, right = min(c.real for c in corners), max(c.real for c in corners)
    return complex(min(max(here.real + lean, left), right), low)


def _sole(puppet: Puppet, foot: str | None, toe: str | None, ankle: complex) -> Sole:
    if foot is None:
        return Sole(ankle, ankle, ankle)
    corners = _corners(puppet, [j for j in (foot, toe) if j])
    if not corners:
        ends = [_place(puppet, c) for c in children(puppet.joints, foot)]
        corners = [*(ends or [ankle]), ankle]
    low = max(c.imag for c in corners)
    left, right = min(c.real for c in corners), max(c.real for c in corners)
    ball = _place(puppet, toe) if toe else complex(right, low)
    return Sole(complex(left, low), ball, complex(right, low))


def _facing(puppet: Puppet, legs: list[Leg]) -> int:
    """The way the feet point, else the way the knees are bent; 0 if they point apart, or say nothing and the
    sides stand beside one another."""
    points = [leg.sole.heel.real + leg.sole.toe.real - 2 * leg.ankle.real for leg in legs if leg.foot]
    size = max((leg.sole.length for leg in legs), default=0.0)
    clear = [p for p in points if abs(p) > 0.12 * size]
    if clear and (all(p > 0 for p in clear) or all(p < 0 for p in clear)):
        return 1 if clear[0] > 0 else -1
    if clear or view_of(puppet) == "front":
        return 0
    bends = [_rest_bend(leg) for leg in legs if len(leg.bones) > 1]
    total = sum(b for b in bends if abs(b) > STRAIGHT)
    # A knee gives forward: the shin of one who faces right turns clockwise.
    return 1 if total >= 0 else -1


def _turned_to(leg: Leg, facing: int) -> Leg:
    """The sole with its heel behind: to the left of one who faces right."""
    if facing >= 0 or leg.foot is None:
        return leg
    s = leg.sole
    ball = s.ball if leg.toe else s.heel
    return Leg(leg.bones, leg.places, leg.foot, leg.toe, Sole(s.toe, ball, s.heel), leg.side, leg.bend)


def _rest_bend(leg: Leg) -> float:
    """How far the second bone is turned against the first at rest, radians clockwise."""
    if len(leg.places) < 3:
        return 0.0
    a, b = leg.places[1] - leg.places[0], leg.places[2] - leg.places[1]
    turned = b * a.conjugate()
    return math.atan2(turned.imag, turned.real) if abs(turned) > 1e-9 else 0.0


def _bending(puppet: Puppet, leg: Leg, facing: int) -> Leg:
    """The way the knee gives: the one way that its limits leave it; else as it is bent at rest; else as its limits leave
    it more room; else forward."""
    bend, room = _rest_bend(leg), 0.0
    way = math.copysign(1.0, bend) if abs(bend) > STRAIGHT else 0.0
    limits = puppet.joints[leg.bones[1]].limits if len(leg.bones) > 1 else None
    if limits is not None:
        room = (limits.high + limits.low) * rest_worlds(puppet)[leg.bones[0]].determinant
        one_way = min(limits.high, -limits.low) < math.degrees(STRAIGHT) and abs(bend) < SLIGHT
        if abs(room) > 1 and (not way or one_way):
            way = math.copysign(1.0, room)
    return Leg(leg.bones, leg.places, leg.foot, leg.toe, leg.sole, leg.side, way or float(facing or 1))


def _arm(puppet: Puppet, roles: dict[str, Role], shoulder: str) -> Arm:
    elbow = _next(puppet, roles, shoulder, "lower arm")
    hand = _next(puppet, roles, elbow or shoulder, "hand")
    joints = tuple(j for j in (shoulder, elbow, hand) if j)
    places = [_place(puppet, j) for j in joints]
    return Arm(joints, (*places, _tip(puppet, joints[-1])), puppet.joints[shoulder].side)


def _carrier(puppet: Puppet, joints: list[str]) -> str:
    """The nearest joint on which all of these hang, or which is one of them and carries the others."""
    lines = [[ROOT, *reversed(ancestors(puppet.joints, j)), j] for j in joints]
    shared = ROOT
    for level in zip(*lines, strict=False):
        if len(set(level)) > 1:
            break
        shared = level[0]
    return shared
