"""A motion done the other way round: its puppet looks, goes and stands as in a mirror put up where it stands at first."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from sorvan.core.model.channel import Channel, Key
from sorvan.core.model.channels import channel_id
from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import ROOT, Puppet
from sorvan.core.motion.mirror import across, over
from sorvan.core.timing.channels import at

_MOVE, _TURN, _SCALE = (channel_id(ROOT, kind) for kind in ("move", "turn", "scale"))


def looks_round(motion: Motion) -> bool:
    """Whether the puppet is turned round when the motion begins."""
    channel = motion.channels.get(_SCALE)
    return channel is not None and channel.keys[min(channel.keys)].value[0] < 0


def turned_round(motion: Motion, puppet: Puppet) -> Motion:
    """The whole performance in a mirror that stands upright where the puppet stands at frame 0: its size across changes
    sign, it goes and leans the other way, the ground runs the other way under it, and feet are planted on the other
    side. Done twice it is as it was."""
    channels: list[Channel] = []
    middle = 0.0
    scale = motion.channels.get(_SCALE) or Channel(joint=ROOT, kind="scale", keys={0: Key(value=(1.0, 1.0))})
    channels.append(_each(scale, lambda k: k.changed(value=across(k.value))))
    if turn := motion.channels.get(_TURN):
        channels.append(_each(turn, lambda k: k.changed(value=(0.0 - k.value[0],))))
    if move := motion.channels.get(_MOVE):
        middle = float(at(move, np.array([0]), motion.length, motion.cycle)[0, 0])
        channels.append(_each(move, lambda k: k.changed(value=across(k.value, middle), tangents=over(k.tangents))))
    where = puppet.origin[0] + middle
    plants = {id: p.changed(place=across(p.place, where)) for id, p in motion.plants.items()}
    ground = motion.ground.changed(runs=0.0 - motion.ground.runs)
    return motion.with_channels(*channels).changed(plants=plants, ground=ground)


def _each(channel: Channel, other: Callable[[Key], Key]) -> Channel:
    return channel.changed(keys={f: other(k) for f, k in channel.keys.items()})
