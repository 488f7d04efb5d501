"""The other side: which channel of a puppet answers to which, and what its values are there."""

from __future__ import annotations

from collections.abc import Mapping

from sorvan.core.kept import kept
from sorvan.core.model.channel import Channel, Key, Tangents
from sorvan.core.model.channels import ChannelKind
from sorvan.core.model.puppet import ROOT, Puppet
from sorvan.core.rig.facing import Facing
from sorvan.core.rig.names import sideless
from sorvan.core.rig.sides import twins
from sorvan.core.rig.skeleton import rest_worlds


@kept()
def counterparts(puppet: Puppet) -> Mapping[str, str]:
    """For each joint, piece and limb that has one, the same on the other side."""
    found = dict(twins(puppet))
    pieces = {(sideless(p.name), p.side): p.id for p in puppet.pieces.values()}
    for (name, side), id in pieces.items():
        for opposite in ("left", "right"):
            if side != "centre" and side != opposite and (name, opposite) in pieces:
                found.setdefault(id, pieces[name, opposite])
    ends = {c.joints[-1]: c.id for c in puppet.chains.values()}
    for end, id in ends.items():
        if found.get(end) in ends:
            found[id] = ends[found[end]]
    return found


def _turnsover(puppet: Puppet, owner: str) -> bool:
    """Whether a turn of the owner looks the other way round in the mirror image of the puppet.

    A twin that is drawn in flipped space turns as its original does.
    """
    worlds, twin = rest_worlds(puppet), counterparts(puppet).get(owner)
    if twin is None or owner not in worlds or twin not in worlds:
        return True
    return worlds[owner].determinant * worlds[twin].determinant > 0


def mirrored_channel(puppet: Puppet, channel: Channel) -> str:
    """The id of the owner on the other side; the same, if it has none."""
    return counterparts(puppet).get(channel.joint, channel.joint)


def mirrored_key(puppet: Puppet, owner: str, kind: ChannelKind, key: Key, view: Facing) -> Key:
    """A key as the other side holds it."""
    if view == "side" or kind not in ("turn", "move"):
        return key
    if owner != ROOT and not _turnsover(puppet, owner):
        return key
    if kind == "turn":
        return key.changed(value=(0.0 - key.value[0],))
    return key.changed(value=across(key.value), tangents=over(key.tangents))


def across(pair: tuple[float, ...], middle: float = 0.0) -> tuple[float, float]:
    """A pair of numbers on the other side of an upright middle."""
    return (2 * middle - pair[0], pair[1])


def over(given: Tangents | None) -> Tangents | None:
    """The tangents of a path on the other side."""
    if given is None:
        return None
    return Tangents(
        before=None if given.before is None else across(given.before),
        after=None if given.after is None else across(given.after),
    )
