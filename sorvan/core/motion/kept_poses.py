"""What was seen stays when something gets its first key later than a pose."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping

import numpy as np

from sorvan.core.geometry import Floats
from sorvan.core.model.channel import Channel
from sorvan.core.model.ease import Ease
from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import Puppet
from sorvan.core.motion.keying import keyed
from sorvan.core.plan.values import unkeyed
from sorvan.core.timing.channels import evaluate


def poses_kept(before: Motion, after: Motion, puppet: Puppet, channels: Collection[str]) -> Motion:
    """A motion in which channels have got keys: where one begins later than it did, or than a card, each earlier card, or
    else the first frame, holds what was seen there `before`."""
    found: Mapping[str, Channel] = {
        id: begun_kept(
            before.channels.get(id),
            c := after.channels[id],
            unkeyed(puppet, c.joint, c.kind, before.seen),
            before.length,
            before.cycle,
            before.poses,
        )
        for id in channels
        if id in after.channels
    }
    new = [c for id, c in found.items() if c is not after.channels[id]]
    return after.with_channels(*new) if new else after


def begun_kept(
    before: Channel | None,
    after: Channel,
    rest: tuple[float, ...],
    length: int,
    cycle: bool,
    poses: Iterable[int] = (),
    ease: Ease | None = None,
) -> Channel:
    """A channel that has got keys: where it begins with another than it did, each of the poses before that, or else the first
    frame, holds what was seen there `before`, which without keys is at `rest`; new keys have this ease, if one is told.

    A channel that comes late is kept as it is keyed: its keys stay on their poses, and what they do comes later.
    """
    first = min(after.keys, default=0)
    if before is not None and first == min(before.keys, default=None):
        return after
    marks = [f for f in poses if f < first] or ([0] if first else [])
    if not marks:
        return after
    was = as_keyed(before, rest, length, cycle)
    keys = {f: keyed({}, f, after.kind, tuple(round(float(v), 4) for v in was[:, f]), ease) for f in marks}
    return after.changed(keys=keys | after.keys)


def as_keyed(channel: Channel | None, rest: tuple[float, ...], length: int, cycle: bool) -> Floats:
    """What a channel holds at each frame, `(numbers, frames)`, as it is keyed: without its delay, and without keys at rest."""
    if channel is None or not channel.keys:
        return np.repeat(np.array(rest, dtype=np.float64)[:, None], length, axis=1)
    return evaluate(channel.changed(delay=0.0), length, cycle)
