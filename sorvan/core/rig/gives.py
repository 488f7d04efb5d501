"""Which way joints in a row give: as they are bent at rest, as their limits leave them room, as such a joint does."""

from __future__ import annotations

import itertools
from collections.abc import Sequence

import numpy as np

from sorvan.core.geometry import Complexes
from sorvan.core.model.puppet import Puppet
from sorvan.core.rig.anatomy import anatomy, has_legs
from sorvan.core.rig.roles import roles_of
from sorvan.core.rig.skeleton import rest_worlds

PLAIN_BEND = 0.06
"""A joint that is bent less than this at rest (radians) does not say by that which way it gives."""


def rest_side(puppet: Puppet, joints: Sequence[str], bones: Complexes) -> float:
    """The way a limb gives (+1 clockwise, seen from what it hangs on): as it is bent at rest; if straight, as a joint
    of it may turn; else as an elbow or a knee there does. `joints` turn, `bones` are theirs at rest, `(joints,)`."""
    turns = [float((b * a.conjugate()).imag) for a, b in itertools.pairwise(bones)]
    if turns and abs(sum(turns)) > 1e-3 * float(np.sum(np.abs(bones))) ** 2 / len(bones) ** 2:
        return 1.0 if sum(turns) > 0 else -1.0
    for id in joints[1:]:
        if (limits := puppet.joints[id].limits) and limits.high + limits.low != 0:
            return 1.0 if limits.high + limits.low > 0 else -1.0
    return _as_its_kind(puppet, joints) or 1.0


def ways(puppet: Puppet, joints: Sequence[str], bones: Complexes, side: float) -> tuple[float, ...]:
    """The way each joint between two bones gives: as it is bent at rest, unless its limits leave it
    more room on the other side; one that is straight, as its limits say, else as the whole limb."""
    own_side = rest_side(puppet, joints, bones)
    found: list[float] = []
    for (before, after), id in zip(itertools.pairwise(bones), joints[1:], strict=True):
        bend = float(np.angle(after * before.conjugate()))
        limits = puppet.joints[id].limits
        way = np.sign(bend) if abs(bend) > PLAIN_BEND else own_side
        if limits is not None:
            turns = (np.deg2rad(limits.low), np.deg2rad(limits.high))
            room = (max(0.0, bend + turns[1]), max(0.0, -bend - turns[0]))
            own, other = room if way > 0 else room[::-1]
            if (abs(bend) <= PLAIN_BEND and room[0] != room[1]) or other > 1.5 * own:
                way = 1.0 if room[0] >= room[1] else -1.0
        found.append(float(way))
    # Told to bend the other way, every joint does.
    return tuple(w * side * own_side for w in found)


def _as_its_kind(puppet: Puppet, joints: Sequence[str]) -> float:
    """The way a straight arm or leg gives; 0 for what is neither.

    Seen from the side, elbows give backwards and knees forwards. Seen from the front they go out from the body, and
    the elbow of an arm that is held out goes down.
    """
    roles = roles_of(puppet)
    kind = next((roles[j] for j in joints if roles.get(j) in ("upper arm", "lower arm", "thigh", "shin")), None)
    if kind is None:
        return 0.0
    arm, facing = kind in ("upper arm", "lower arm"), anatomy(puppet).facing if has_legs(puppet) else 0
    worlds = rest_worlds(puppet)
    above = puppet.joints[joints[0]].parent
    # Counted in what the limb hangs on, which may be mirrored.
    seen = 1.0 if above is None or worlds[above].determinant > 0 else -1.0
    if facing:
        return seen * (-facing if arm else facing)
    (x, y), (ex, ey) = worlds[joints[0]].at, worlds[joints[-1]].at
    middle = worlds[above].e if above is not None else puppet.origin[0]
    out = 1.0 if x > middle else -1.0
    # Bent clockwise, what lies between the ends of a limb goes to the left of its way.
    aside = out * (ey - y) + (0.5 if arm else 0.0) * (x - ex)
    return seen * (1.0 if aside > 0 else -1.0)
