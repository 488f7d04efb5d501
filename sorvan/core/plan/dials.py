"""What dials add to channels."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np
from numpy.typing import NDArray

from sorvan.core.geometry import Floats
from sorvan.core.model.channel import AS_AT_REST, NEUTRAL, channel_id
from sorvan.core.model.puppet import ROOT, Dial, Puppet

Values = Mapping[str, Floats]
"""Channel values by channel id, each `(numbers, frames)`."""
Places = NDArray[np.intp]


PLANT = "plant"
"""The kind under which plants go along with the channels' values: `weight, x, y, flat` over the frames."""


AT_REST = (AS_AT_REST, AS_AT_REST, 0.0)
"""What a `show` channel gives over the frames: the number of the drawing, of that which it is becoming, and how far it
has come; as it is when nothing is keyed."""


def neutral(channel: str) -> tuple[float, ...]:
    """What a channel, or a plant, gives when nothing is keyed."""
    kind = kind_of(channel)
    if kind == PLANT:
        return (0.0, 0.0, 0.0, 0.0)
    return AT_REST if kind == "show" else NEUTRAL[kind]


def joint_of(channel: str) -> str:
    """What a channel id belongs to."""
    return channel.rpartition(".")[0]


def kind_of(channel: str) -> Any:
    """The kind that a channel id speaks of."""
    return channel.rpartition(".")[2]


def with_dials(puppet: Puppet, values: Values, frames: int) -> dict[str, Floats]:
    """The values of all channels with what the dials add, and their limits kept.

    A dial gives nothing at its rest. Between two stops it goes evenly; a drawing is chosen from
    its stop on. Arrays that no dial and no limit touches are the same objects as before.
    """
    found = dict(values)
    for dial in puppet.dials.values():
        held = values.get(channel_id(dial.id, "dial"))
        if held is None or not dial.stops:
            continue
        if dial.turns:
            turn(puppet, dial, held[0], found)
        else:
            _apply(dial, np.clip(held[0], dial.low, dial.high), found, frames)
    for joint in puppet.joints.values():
        id = channel_id(joint.id, "turn")
        if joint.limits is not None and id in found:
            low, high = joint.limits.low, joint.limits.high
            if found[id].min(initial=0.0) < low or found[id].max(initial=0.0) > high:
                found[id] = np.minimum(np.maximum(found[id], low), high)
    return found


def _apply(dial: Dial, at: Floats, found: dict[str, Floats], frames: int) -> None:
    stops = sorted(dial.stops, key=lambda s: s.at)
    places = np.array([s.at for s in stops])
    for channel in sorted({c for s in stops for c in s.values}):
        kind = kind_of(channel)
        table = np.array([s.values.get(channel, NEUTRAL[kind]) for s in stops], dtype=np.float64).T
        if kind == "show":
            found[channel] = _chosen(dial, places, table[0], at, found.get(channel), frames)
            continue
        given = np.stack([np.interp(at, places, row) for row in table])
        rest = np.array([[np.interp(dial.rest, places, row)] for row in table])
        before = found.get(channel)
        if kind == "scale":
            change = given / np.where(np.abs(rest) < 1e-9, 1.0, rest)
            found[channel] = change if before is None else before * change
        else:
            found[channel] = _added(kind, given - rest, before)


def _chosen(dial: Dial, places: Floats, numbers: Floats, at: Floats, before: Floats | None, frames: int) -> Floats:
    """The drawing that a dial chooses; where it stands as at rest, what was chosen without it."""
    stop = np.maximum(np.searchsorted(places, at + 1e-9, side="right") - 1, 0)
    rest = max(int(np.searchsorted(places, dial.rest + 1e-9, side="right")) - 1, 0)
    shown = np.where(stop == rest, AS_AT_REST, numbers[stop])
    own = np.repeat(np.array(AT_REST)[:, None], frames, axis=1) if before is None else before
    return np.where(shown == AS_AT_REST, own, np.stack([shown, shown, np.zeros(len(shown))]))


def turn(puppet: Puppet, dial: Dial, at: Floats, found: dict[str, Floats]) -> None:
    """What a turnaround adds at these degrees: the nearest view, or the two beside become one another; in the mirror
    where a view is, or where it leads to one that is. Turns of motions go only as far as the views let them."""
    views = dial.views()
    places = np.array([v.at for v in views])
    angle = np.mod(at, 360.0)
    low = (np.searchsorted(places, angle + 1e-9, side="right") - 1) % len(views)
    high = (low + 1) % len(views)
    gap = np.mod(places[high] - places[low], 360.0)
    share = np.mod(angle - places[low], 360.0) / np.where(gap > 0, gap, 360.0)
    share = np.where(share < 1e-9, 0.0, share)
    nearest = np.where(share < 0.5, low, high)
    flips = np.array([v.flips for v in views])
    # On the way between a view and one in the mirror the other lies in it too: the way is that of the mirrored half.
    mirrored = np.where(share > 0, flips[low] | flips[high], flips[low]) if dial.between == "morph" else flips[nearest]
    part = share if dial.between == "morph" else np.where(nearest == low, 0.0, 1.0)
    shorten = np.array([v.shorten for v in views])
    by = shorten[low] + part * (shorten[high] - shorten[low])
    if np.any(by != 1):
        for id, own in list(found.items()):
            if kind_of(id) == "turn" and joint_of(id) != ROOT:
                found[id] = own * by
    for channel in sorted({c for v in views for c in v.values}):
        kind = kind_of(channel)
        table = np.array([v.values.get(channel, NEUTRAL[kind]) for v in views], dtype=np.float64).T
        before = found.get(channel)
        if kind == "show":
            piece = puppet.pieces.get(joint_of(channel))
            numbers = np.where(table[0] == AS_AT_REST, piece.shown().number if piece else AS_AT_REST, table[0])
            found[channel] = _seen(numbers, low, high, part, before)
        elif kind == "order":
            found[channel] = _added(kind, table[:, nearest], before)
        elif kind == "scale":
            given = table[:, low] + part * (table[:, high] - table[:, low])
            found[channel] = given if before is None else before * given
        else:
            given = table[:, low] + part * (table[:, high] - table[:, low])
            found[channel] = _added(kind, given - np.array(NEUTRAL[kind])[:, None], before)
    if mirrored.any():
        whole = channel_id(ROOT, "scale")
        face = np.stack([np.where(mirrored, -1.0, 1.0), np.ones(len(angle))])
        found[whole] = face if whole not in found else found[whole] * face


def _added(kind: str, change: Floats, before: Floats | None) -> Floats:
    """A change to what a channel gives, or to what it gives when nothing is keyed."""
    return change + (np.array(neutral(f".{kind}"))[:, None] if before is None else before)


def _seen(numbers: Floats, low: Places, high: Places, part: Floats, before: Floats | None) -> Floats:
    """The drawings that views choose; what a motion chooses itself is what is seen, but where it chooses none."""
    one, two = numbers[low], numbers[high]
    goes = (part > 0) & (part < 1) & (one != two)
    here = np.where(part >= 0.5, two, one)
    views = np.stack([np.where(goes, one, here), np.where(goes, two, here), np.where(goes, part, 0.0)])
    if before is None:
        return views
    return np.where(before[0] == AS_AT_REST, views, before)
