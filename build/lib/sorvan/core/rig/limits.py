"""How far joints may turn, seen from where their bones point at rest."""

from __future__ import annotations

import math

from sorvan.core.geometry import IDENTITY, Affine, Point
from sorvan.core.model.puppet import Limits, Puppet
from sorvan.core.rig.skeleton import rest_worlds

STEP = 15.0
"""Degrees in whole steps."""


def rest_direction(puppet: Puppet, id: str) -> float:
    """Where a joint's bone points at rest, seen from what the joint hangs on (degrees).

    It points to the first joint that hangs on it; else away from what it hangs on; else down.
    """
    worlds = rest_worlds(puppet)
    here, above = worlds[id].at, puppet.joints[id].parent
    on = worlds[above] if above is not None else IDENTITY
    child = next((j.id for j in puppet.joints.values() if j.parent == id and not j.handle), None)
    ways: list[Point] = []
    if child is not None:
        ways.append((worlds[child].e - here[0], worlds[child].f - here[1]))
    if above is not None:
        ways.append((here[0] - on.e, here[1] - on.f))
    way = next((w for w in ways if math.hypot(*w) >= 1), (0.0, 1.0))
    x, y = on.inverse().arrow(way)
    return math.degrees(math.atan2(y, x))


def pulled_limit(
    puppet: Puppet, id: str, end: str, hand: Point, joint: Affine, on: Affine, whole_steps: bool = False
) -> Limits:
    """A joint's limits with one end (“low” or “high”) where a hand on the stage points.

    `joint` and `on` take the joint, and what it hangs on, to the stage as they stand. Of all turns
    that look alike, the one nearest to where the end was is meant; neither end passes the other.
    """
    limits = puppet.joints[id].limits or Limits(low=0, high=0)
    x, y = on.inverse().arrow((hand[0] - joint.e, hand[1] - joint.f))
    pointed = math.degrees(math.atan2(y, x)) - rest_direction(puppet, id)
    before = limits.low if end == "low" else limits.high
    value = pointed + 360 * round((before - pointed) / 360)
    value = max(-720.0, min(720.0, round(value / STEP) * STEP if whole_steps else float(round(value))))
    if end == "low":
        return Limits(low=min(value, limits.high), high=limits.high)
    return Limits(low=limits.low, high=max(value, limits.low))
