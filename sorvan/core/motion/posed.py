"""What parts of a puppet hold at a frame of a motion, as a hand keys it."""

from __future__ import annotations

from collections.abc import Collection, Iterable

import numpy as np

from sorvan.core.model.channels import KINDS, channel_id, kind_of, owner_of
from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import Puppet
from sorvan.core.motion.retime import Bound
from sorvan.core.plan.values import unkeyed
from sorvan.core.timing.channels import at, travels


def posed(motion: Motion, puppet: Puppet, frame: int, channels: Iterable[str]) -> dict[str, tuple[float, ...]]:
    """What channels hold at a frame as they are keyed, those without keys what they hold at rest. Mouths to words and what
    goes on from round to round are no part of a pose, and left out."""
    left = Bound.of(motion).channels
    left |= {id for id, c in motion.channels.items() if travels(c, motion.length, motion.cycle)}
    here = np.array([min(frame, motion.length - 1)])
    found: dict[str, tuple[float, ...]] = {}
    for id in channels:
        channel = motion.channels.get(id)
        if id in left:
            continue
        if channel is None or not channel.keys:
            found[id] = at_rest(motion, puppet, id)
        else:
            values = at(channel.changed(delay=0.0), here, motion.length, motion.cycle)[:, 0]
            found[id] = tuple(round(float(v), 4) for v in values)
    return found


def at_rest(motion: Motion, puppet: Puppet, channel: str) -> tuple[float, ...]:
    """What a channel of a motion holds without keys."""
    return unkeyed(puppet, owner_of(channel), kind_of(channel), motion.seen)


def owned(puppet: Puppet, joints: Collection[str]) -> set[str]:
    """Joints, the pieces that ride on them, and the limbs that a handle among them leads."""
    pieces = (p.id for p in puppet.pieces.values() if p.joint in joints)
    return {*joints, *pieces, *(c.id for c in puppet.chains.values() if c.handle in joints)}


def of_joints(joints: Iterable[str]) -> list[str]:
    """Every channel that joints can have."""
    kinds = [kind for kind, facts in KINDS.items() if facts.owner == "joint"]
    return [channel_id(joint, kind) for joint in joints for kind in kinds]
