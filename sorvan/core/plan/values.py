"""The values of channels over frames, by channel id, and what goes along with them under ids of its own."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from sorvan.core.geometry import Floats
from sorvan.core.model.channels import AS_AT_REST, NEUTRAL, ChannelKind, channel_id, kind_of
from sorvan.core.model.puppet import ROOT, Puppet

Values = Mapping[str, Floats]
"""Channel values by channel id, each `(numbers, frames)`."""


PLANT = "plant"
"""The kind under which plants go along with the channels' values: `weight, x, y, flat` over the frames."""
SEEN = channel_id(ROOT, "seen")  # type: ignore[arg-type]
"""Under this goes along, over the frames, from where (degrees) what is played is made to be seen; `AS_IT_TURNS` where it
is made for whatever view it is in."""
ASPECT = channel_id(ROOT, "aspect")  # type: ignore[arg-type]
"""Under this goes along, over the frames, whether (1 or 0) what is made for one view is seen from another, where it is
seen from and what it is made for (degrees)."""
AS_IT_TURNS = -1.0
_BESIDE: dict[str, tuple[float, ...]] = {
    PLANT: (0.0, 0.0, 0.0, 0.0),
    "seen": (AS_IT_TURNS,),
    "aspect": (0.0, 0.0, 0.0),
}
"""What goes along with the channels, when there is nothing of it."""

AT_REST = (AS_AT_REST, AS_AT_REST, 0.0)
"""What a `show` channel gives over the frames: the number of the drawing, of that which it is becoming, and how far it
has come; as it is when nothing is keyed."""


def neutral(channel: str) -> tuple[float, ...]:
    """What a channel, or what goes along with them, gives when nothing is keyed."""
    kind = kind_of(channel)
    if kind in _BESIDE:
        return _BESIDE[kind]
    return AT_REST if kind == "show" else NEUTRAL[kind]


def unkeyed(puppet: Puppet, owner: str, kind: ChannelKind, seen: float | None = None) -> tuple[float, ...]:
    """What a puppet's channel holds as long as it has no keys: a dial stands at its rest, and the one that turns the
    puppet where the motion is made to be `seen` from (degrees), if that is told."""
    if kind != "dial":
        return NEUTRAL[kind]
    dial = puppet.dials[owner]
    return (seen if dial.turns and seen is not None else dial.rest,)


def added(kind: str, change: Floats, before: Floats | None) -> Floats:
    """A change to what a channel gives, or to what it gives when nothing is keyed."""
    return change + (np.array(neutral(f".{kind}"))[:, None] if before is None else before)
