"""Mistakes of limbs that go together."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from sorvan.core.change.keys import KeyAt
from sorvan.core.change.retiming import WrapKeys
from sorvan.core.checks.finding import Finding
from sorvan.core.checks.motion_seen import MotionSeen
from sorvan.core.geometry import Floats
from sorvan.core.model.channels import channel_id
from sorvan.core.rig.anatomy import anatomy, has_legs
from sorvan.core.rig.facing import view_of
from sorvan.core.rig.skeleton import below, rest_worlds


def twins_together(seen: MotionSeen) -> Iterator[Finding]:
    """Arms that swing with the leg of their own side in a walk."""
    motion, puppet = seen.motion, seen.evaluation.stance
    if not motion.cycle or motion.length < 8 or not has_legs(puppet) or view_of(puppet) == "front":
        return
    made = anatomy(puppet)
    if len(made.legs) != 2:
        return
    swings = [_swing(seen, leg.bones[0], leg.places[1] - leg.places[0]) for leg in made.legs]
    wide = min(np.ptp(s) for s in swings)
    # Legs that go by turns make it a walk or a run.
    if wide < 10 or _together(swings[0], swings[1]) > -0.5:
        return
    for arm in made.arms:
        own = next((s for s, leg in zip(swings, made.legs, strict=True) if leg.side == arm.side), None)
        swing = _swing(seen, arm.joints[0], arm.places[1] - arm.places[0])
        if own is None or np.ptp(swing) < 6 or _together(swing, own) < 0.4:
            continue
        channels = {channel_id(j, "turn") for j in below(puppet.joints, [arm.joints[0]])} & motion.channels.keys()
        keys = tuple(
            KeyAt(channel=c, frame=f) for c in sorted(channels) for f in motion.channels[c].keys if f < motion.length
        )
        half = motion.length // 2
        yield Finding(
            "arm with leg",
            f"{seen.joint(arm.joints[0])} swings forward with the leg of its own side; it should go with the other.",
            joints=(arm.joints[0],),
            frame=int(np.argmax(np.abs(swing - swing.mean()))),
            keys=tuple((k.channel, k.frame) for k in keys),
            mend=WrapKeys(motion=motion.id, keys=keys, by=half, start=0, end=motion.length - 1) if keys else None,
            mending="Let it swing half a cycle later",
        )


def _swing(seen: MotionSeen, joint: str, bone: complex) -> Floats:
    """Where a bone points over time (degrees), as it lies at rest `bone`."""
    inward = rest_worlds(seen.evaluation.stance)[joint].inverse()
    x, y = inward.arrow((bone.real, bone.imag))
    m = seen.evaluation.worlds[seen.evaluation.rig.row[joint]]
    angle = np.arctan2(m[1] * x + m[3] * y, m[0] * x + m[2] * y)
    found: Floats = np.rad2deg(np.unwrap(angle))
    return found


def _together(one: Floats, two: Floats) -> float:
    a, b = one - one.mean(), two - two.mean()
    size = float(np.sqrt((a**2).sum() * (b**2).sum()))
    return float((a * b).sum()) / size if size > 1e-9 else 0.0
