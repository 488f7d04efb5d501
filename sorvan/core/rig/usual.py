"""How far joints usually turn, by what they are for."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

from sorvan.core.geometry import Point
from sorvan.core.kept import kept
from sorvan.core.model.puppet import Limits, Puppet, Role, Side
from sorvan.core.rig.roles import roles_of
from sorvan.core.rig.skeleton import box_of, children, piece_worlds, rest_worlds

_EVEN: dict[Role, float] = {"head": 45, "neck": 40, "spine": 45, "hand": 80, "foot": 50, "toe": 50}
"""Degrees to either side."""
EVEN = 12.0
"""Degrees up to which limits of twins differ because their art does."""
_BENT: dict[Role, tuple[float, float, float]] = {
    # From straight, for one who faces right; and to either side, for one who faces us.
    "shin": (-5, 150, 110),
    "lower arm": (-150, 5, 150),
    "thigh": (-130, 60, 110),
}


def facing_of(pins: Mapping[str, Point], middles: Mapping[str, Point], roles: Mapping[str, Role]) -> int:
    """Which way a figure faces by its feet: +1 to the right, -1 to the left, 0 to the front."""
    ways = [
        1 if middles[id][0] > pins[id][0] else -1
        for id, role in roles.items()
        if role == "foot"
        and id in pins
        and abs(middles[id][0] - pins[id][0]) > 0.15 * abs(middles[id][1] - pins[id][1])
    ]
    return ways[0] if len(set(ways)) == 1 else 0


@kept()
def faces(puppet: Puppet) -> int:
    """Which way a puppet faces, as it hangs at rest, by its feet: +1 to the right, -1 to the left, 0 to the front. A foot
    that hangs on nothing yet is seen against the lower end of the shin on its side."""
    roles = roles_of(puppet)
    worlds, placed = rest_worlds(puppet), piece_worlds(puppet)
    middles: dict[str, Point] = {}
    ankles: dict[Side, Point] = {}
    for p in puppet.pieces.values():
        role, (left, top, right, bottom) = roles.get(p.joint), box_of(p, placed[p.id])
        if role == "foot":
            middles.setdefault(p.joint, ((left + right) / 2, (top + bottom) / 2))
        elif role == "shin":
            ankles[puppet.joints[p.joint].side] = ((left + right) / 2, bottom)
    pins = {id: worlds[id].at for id in middles}
    for id in middles:
        joint = puppet.joints[id]
        if joint.parent is None and joint.side in ankles:
            pins[id] = ankles[joint.side]
    feet: dict[str, Role] = dict.fromkeys(middles, "foot")
    return facing_of(pins, middles, feet)


def rest_bend(puppet: Puppet, id: str) -> float:
    """Degrees that a shin or lower arm is turned, at rest, against what it hangs on; 0 for anything else."""
    roles = roles_of(puppet)
    ends = [c for c in children(puppet.joints, id) if roles.get(c) in ("hand", "foot")]
    above = puppet.joints[id].parent
    if roles.get(id) not in ("shin", "lower arm") or len(ends) != 1 or above is None:
        return 0.0
    worlds = rest_worlds(puppet)
    return _bend([worlds[j].at for j in (above, id, ends[0])])


def near(one: Limits, other: Limits) -> bool:
    """Whether limits differ no more than the art of two sides does: twins are given the same then."""
    return max(abs(one.low - other.low), abs(one.high - other.high)) <= EVEN


def flipped_limits(limits: Limits | None) -> Limits | None:
    """The turning range of the mirror image."""
    return None if limits is None else Limits(low=-limits.high, high=-limits.low)


def usual_limits(role: Role, facing: int, chain: Sequence[Point]) -> Limits | None:
    """How far a joint usually turns from its rest, or None if it turns freely. `chain` are the places of what it hangs on,
    of itself, and of the end of its bone: what is bent at rest has that much less, or more, to go."""
    if role in _EVEN:
        return Limits(low=-_EVEN[role], high=_EVEN[role])
    if role not in _BENT:
        return None
    low, high, even = _BENT[role]
    if facing == 0:
        low, high = -even, even
    elif facing < 0:
        low, high = -high, -low
    bent = _bend(chain) if role != "thigh" and len(chain) == 3 else 0.0
    return Limits(low=float(round(min(low - bent, 0))), high=float(round(max(high - bent, 0))))


def _bend(chain: Sequence[Point]) -> float:
    """Degrees that the second of two bones is turned against the first."""
    a, b, c = (complex(*p) for p in chain)
    if abs(b - a) < 1e-6 or abs(c - b) < 1e-6:
        return 0.0
    way = (c - b) / (b - a)
    return math.degrees(math.atan2(way.imag, way.real))
