"""Posing in a shot: what has to be laid over a member's motions so that a channel has a value at a frame."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from sorvan.core.errors import missing
from sorvan.core.model.channel import Channel, Key
from sorvan.core.model.channels import channel_id, kind_of, owner_of
from sorvan.core.model.documents import Documents
from sorvan.core.model.shot import Member, Shot
from sorvan.core.plan.values import unkeyed
from sorvan.core.shot.performance import EMPTY, Performance
from sorvan.core.timing.channels import at as value_at
from sorvan.core.timing.laws import apart, more


def under(documents: Documents, shot: Shot, member: Member, frame: int, late: bool) -> dict[str, tuple[float, ...]]:
    """What a member's motions say of each channel at a frame, without what the shot lays over them; `late` with the delays
    of channels."""
    bare = member.changed(over={})
    at = np.array([float(frame)])
    found = Performance.of(documents, shot, bare, at, late, EMPTY)
    return {id: tuple(float(v) for v in values[:, 0]) for id, values in found.values.items()}


def laid(
    documents: Documents,
    shot: Shot,
    member: Member,
    frame: int,
    wanted: Mapping[str, tuple[float, ...]],
    over: int,
    added: bool = False,
    late: bool = True,
) -> dict[str, Channel]:
    """The channels laid over a member's motions with which those that are `wanted` have these values at a frame; with
    `added`, so much more than they have (sizes and shares so many times as much). `late` as channels come in the pass
    that is looked at.

    What is laid comes and goes over so many frames: nothing farther away changes. With 0 it holds until the next
    key. Raises `Refusal` for a channel of something that the puppet has not, and for a size where there is none.
    """
    puppet = documents.puppet(member.puppet)
    below = {} if added else under(documents, shot, member, frame, late)
    owners = {*puppet.joints, *puppet.pieces, *puppet.chains, *puppet.dials}
    found, at = dict(member.over), np.array([frame])
    for id, value in wanted.items():
        owner, kind = owner_of(id), kind_of(id)
        if owner not in owners:
            raise missing("joint", owner)
        rest = unkeyed(puppet, owner, kind)
        channel = found.get(id) or Channel(joint=owner, kind=kind)
        channel = _edged(channel, frame, over, shot.length)
        known = channel.keys.get(frame)
        if added:
            value = more(kind, tuple(float(v) for v in value_at(channel, at, shot.length, False)[:, 0]), value)
        own = value if added else apart(kind, below.get(id, rest), value)
        key = (known or Key(value=own)).changed(value=own)
        found[channel_id(owner, kind)] = channel.changed(keys={**channel.keys, frame: key})
    return found


def _edged(channel: Channel, frame: int, over: int, length: int) -> Channel:
    """The channel with a key so many frames before and after a frame where none holds what lies farther away."""
    if not over:
        return channel
    keys = dict(channel.keys)
    for edge, between in (
        (max(frame - over, 0), range(max(frame - over, 0), frame)),
        (min(frame + over, length - 1), range(frame + 1, min(frame + over, length - 1) + 1)),
    ):
        if edge == frame or any(f in channel.keys for f in between):
            continue
        value = tuple(float(v) for v in value_at(channel, np.array([edge]), length, False)[:, 0])
        keys[edge] = Key(value=tuple(round(v, 4) for v in value))
    return channel.changed(keys=keys)
