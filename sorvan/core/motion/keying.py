"""Keys that a hand makes."""

from __future__ import annotations

from collections.abc import Mapping

from sorvan.core.model.channel import Key, Tangents
from sorvan.core.model.channels import CHOICES, ChannelKind
from sorvan.core.model.ease import Ease, Even, Hold


def keyed(
    keys: Mapping[int, Key], frame: int, kind: ChannelKind, value: tuple[float, ...], ease: Ease | None = None
) -> Key:
    """A value keyed by hand at a frame of a channel: the key that is there changed, or a new one that
    takes the ease of the gap it falls in. A new place lies on a smooth path if those beside it do."""
    if frame in keys:
        return keys[frame].by_hand(value=value, ease=ease or keys[frame].ease)
    smooth = kind == "move" and all(k.tangents is not None for k in keys.values())
    before = max((f for f in keys if f < frame), default=None)
    # A drawing put into a gap in which one becomes another is on that way too.
    change = keys[before].change if before is not None else None
    found = Key(value=value, ease=ease or _ease_at(keys, frame, kind), tangents=Tangents() if smooth else None)
    return found.changed(change=change) if change else found


def _ease_at(keys: Mapping[int, Key], frame: int, kind: ChannelKind) -> Ease:
    before = [f for f in keys if f < frame]
    # A drawing stays until the next one is chosen.
    return keys[max(before)].ease if before else Hold() if kind in CHOICES else Even()
