"""From where a puppet is seen."""

from __future__ import annotations

from typing import Literal

from sorvan.core.kept import kept
from sorvan.core.model.puppet import Puppet
from sorvan.core.rig.names import by_depth
from sorvan.core.rig.sides import twins
from sorvan.core.rig.skeleton import rest_worlds

Facing = Literal["side", "front"]
"""From where the puppet is seen. Seen from the side, the limbs of the two sides do the same by turns;
from the front, the one side is the other's mirror image."""

BESIDE = 0.12
"""Twins farther apart across than this part of the puppet's height stand beside one another: a front view."""


@kept()
def view_of(puppet: Puppet) -> Facing:
    """From where the puppet is seen: by the names of its twins, else by how far apart they lie at rest."""
    pairs = twins(puppet)
    if any(by_depth(puppet.joints[id].name) for id in pairs):
        return "side"
    worlds = rest_worlds(puppet)
    if not pairs:
        return "front"
    heights = [w.f for w in worlds.values()]
    tall = max(max(heights) - min(heights), 1e-6)
    apart = [abs(worlds[a].e - worlds[b].e) / tall for a, b in pairs.items()]
    return "front" if sum(apart) / len(apart) > BESIDE else "side"
