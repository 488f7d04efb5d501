"""Recipes told anew for another puppet: its joints in place of those of the first, lengths in its own size."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from sorvan.core.model.channel import ChannelKind, channel_id
from sorvan.core.model.recipe import (
    Accents,
    Anticipate,
    AnyRecipe,
    Blink,
    Bounce,
    Capture,
    Follow,
    Gait,
    Mouths,
    Settle,
    Squash,
)
from sorvan.core.reuse.proportions import Proportions

Owner = Callable[[str, str], str | None]
"""What answers to the owner (by kind and id) of a channel."""


def told_anew(recipe: AnyRecipe, between: Proportions) -> AnyRecipe | None:
    """The recipe as it is for the target; none where what it works on has no answer there."""
    owner, size = between.links.owner, between.size
    # A gait and mouths count their keys anew.
    away = () if isinstance(recipe, Gait | Mouths) else (_slot(owner, slot) for slot in recipe.left_out)
    bare = recipe.changed(left_out=tuple(slot for slot in away if slot is not None), said=())
    match bare:
        case Gait():
            step = None if bare.step is None else min(bare.step * size, 1e4)
            facing = bare.facing
            if between.across and facing != "auto":
                facing = "right" if facing == "left" else "left"
            return bare.changed(step=step, facing=facing)
        case Follow():
            joints = _all(owner("turn", j) for j in bare.joints)
            return bare.changed(joints=joints) if joints else None
        case Settle() | Anticipate():
            channels = _all(_channel(owner, c) for c in bare.channels)
            return bare.changed(channels=channels) if channels else None
        case Squash():
            joint = owner("scale", bare.joint)
            return bare.changed(joint=joint) if joint else None
        case Bounce():
            joint = owner("move", bare.joint)
            height, across = min(bare.height * size, 1e5), bare.across * between.way
            return bare.changed(joint=joint, height=height, across=across) if joint else None
        case Capture():
            joint = owner("move" if bare.what == "place" else "turn", bare.joint)
            samples = tuple((t, *between.place(x, y)) for t, x, y in bare.samples)
            return bare.changed(joint=joint, samples=samples) if joint else None
        case Blink():
            dial = owner("dial", bare.dial)
            return bare.changed(dial=dial, shut=between.dial(bare.dial, bare.shut)) if dial else None
        case Mouths():
            return bare if between.target.mouths is not None else None
        case Accents():
            head = owner("turn", bare.head) if bare.head else None
            brows = tuple(b for j in bare.brows if (b := owner("move", j)) is not None)
            lift = max(-200.0, min(200.0, bare.lift * size))
            return bare.changed(head=head, brows=brows, lift=lift) if head or brows else None


def _all(found: Iterable[str | None]) -> tuple[str, ...] | None:
    """All of them, or none if one has no answer."""
    held = tuple(found)
    there = tuple(h for h in held if h is not None)
    return there if len(there) == len(held) else None


def _channel(owner: Owner, id: str) -> str | None:
    own, _, kind = id.rpartition(".")
    its = owner(kind, own)
    return channel_id(its, _kind(kind)) if its is not None else None


def _slot(owner: Owner, slot: str) -> str | None:
    channel, _, number = slot.rpartition("@")
    its = _channel(owner, channel)
    return None if its is None else f"{its}@{number}"


def _kind(kind: str) -> ChannelKind:
    return kind  # type: ignore[return-value]
