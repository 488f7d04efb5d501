"""Poses and short motions taken into a puppet's book, and put back whole, for a limb, on_its_way or mirrored."""

from __future__ import annotations

from collections.abc import Collection

import numpy as np

from sorvan.core.model.channel import Channel, Key
from sorvan.core.model.channels import channel_id, kind_of, owner_of
from sorvan.core.model.documents import owners
from sorvan.core.model.motion import Motion, Pose
from sorvan.core.model.puppet import Entry, Puppet
from sorvan.core.motion.kept_poses import as_keyed, poses_kept
from sorvan.core.motion.mirror import counterparts, mirrored_key
from sorvan.core.plan.values import unkeyed
from sorvan.core.rig.facing import Facing
from sorvan.core.timing.channels import evaluate, travels
from sorvan.core.timing.laws import on_its_way


def taken(motion: Motion, id: str, name: str, frame: int, frames: int, channels: Collection[str] | None) -> Entry:
    """What all channels that have keys, or these, hold at a frame; of a stretch also their keys in it."""
    found: dict[str, dict[int, Key]] = {}
    last = min(frame + frames, motion.length) - 1
    for channel in motion.channels.values():
        if (channels is not None and channel.id not in channels) or travels(channel, motion.length, motion.cycle):
            continue
        values = evaluate(channel.changed(delay=0.0), motion.length, motion.cycle)
        keys = {f - frame: _plain(k) for f, k in channel.keys.items() if frame <= f <= last}
        for f in {frame, last}:
            keys.setdefault(f - frame, Key(value=tuple(round(float(v), 4) for v in values[:, f])))
        found[channel.id] = dict(sorted(keys.items()))
    return Entry(id=id, name=name, frames=last - frame + 1, keys=found)


def _plain(key: Key) -> Key:
    return key.changed(recipe=None, slot=None, hand=False)


def mirrored(puppet: Puppet, entry: Entry, view: Facing) -> Entry:
    """The entry with its sides swapped."""
    twins = counterparts(puppet)
    found: dict[str, dict[int, Key]] = {}
    for id, keys in entry.keys.items():
        owner, kind = owner_of(id), kind_of(id)
        found[channel_id(twins.get(owner, owner), kind)] = {
            f: mirrored_key(puppet, owner, kind, k, view) for f, k in keys.items()
        }
    return entry.changed(keys=found)


def put_back(
    motion: Motion, puppet: Puppet, entry: Entry, frame: int, percent: float, channels: Collection[str] | None
) -> Motion:
    """The motion with an entry's keys from a frame on, so many percent of the way to them from what it holds;
    all of them, or only those of these channels. What lies beyond the motion's end is left out."""
    part = percent / 100
    changed: list[Channel] = []
    for id, keys in entry.keys.items():
        owner, kind = owner_of(id), kind_of(id)
        if (channels is not None and id not in channels) or owner not in owners(puppet, kind):
            continue
        held = motion.channels.get(id) or Channel(joint=owner, kind=kind)
        if travels(held, motion.length, motion.cycle):
            continue
        neutral = unkeyed(puppet, owner, kind, motion.seen)
        now = as_keyed(held, neutral, motion.length, motion.cycle)
        own = dict(held.keys)
        for f, key in keys.items():
            at = frame + f
            if at >= motion.length:
                continue
            there = np.array(key.value)
            value = tuple(round(float(v), 4) for v in on_its_way(kind, now[:, at], there, part))
            known = own.get(at)
            own[at] = known.by_hand(value=value) if known else key.changed(value=value)
        changed.append(held.changed(keys=own))
    ids = [channel_id(c.joint, c.kind) for c in changed]
    done = poses_kept(motion, motion.with_channels(*changed), puppet, ids)
    if channels is None and frame not in done.poses and changed:
        done = done.changed(poses=done.poses | {frame: Pose(label=entry.name[:40])})
    return done
