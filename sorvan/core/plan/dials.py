"""What dials add to channels."""

from __future__ import annotations

import numpy as np

from sorvan.core.geometry import Floats
from sorvan.core.kept import kept
from sorvan.core.model.channels import AS_AT_REST, NEUTRAL, channel_id, kind_of
from sorvan.core.model.puppet import Dial, Puppet
from sorvan.core.plan.turning import turn, turnaround_of
from sorvan.core.plan.values import AT_REST, Values, added


def with_dials(puppet: Puppet, values: Values, frames: int) -> dict[str, Floats]:
    """The values of all channels with what the dials add, and their limits kept.

    A dial moves nothing at its rest; a drawing and an opacity that a stop holds there are held, also by a dial without
    keys. Between two stops it goes evenly; a drawing is chosen from its stop on. Arrays that no dial and no limit
    touches are the same objects as before.
    """
    found = dict(values)
    for dial in puppet.dials.values():
        held = values.get(channel_id(dial.id, "dial"))
        if not dial.stops or dial.turns:
            continue
        if held is not None:
            _apply(dial, np.clip(held[0], dial.low, dial.high), found, frames)
        elif still := {c for c in _holds(dial) if kind_of(c) != "show" or c not in found}:
            _apply(dial, np.full(frames, dial.rest), found, frames, still)
    for joint in puppet.joints.values():
        id = channel_id(joint.id, "turn")
        if joint.limits is not None and id in found:
            low, high = joint.limits.low, joint.limits.high
            if found[id].min(initial=0.0) < low or found[id].max(initial=0.0) > high:
                found[id] = np.minimum(np.maximum(found[id], low), high)
    # Limits count from how a joint lies in its view, as they do from its rest.
    if (turning := turnaround_of(puppet)) is not None:
        turn(puppet, turning, found, frames)
    return found


@kept()
def _holds(dial: Dial) -> frozenset[str]:
    """The channels that a dial holds at its rest."""
    here = (c for s in dial.stops if s.at == dial.rest for c in s.values)
    return frozenset(c for c in here if kind_of(c) in ("show", "opacity"))


def _apply(dial: Dial, at: Floats, found: dict[str, Floats], frames: int, only: set[str] | None = None) -> None:
    stops = sorted(dial.stops, key=lambda s: s.at)
    places, holds = np.array([s.at for s in stops]), _holds(dial)
    for channel in sorted({c for s in stops for c in s.values} if only is None else only):
        kind = kind_of(channel)
        table = np.array([s.values.get(channel, NEUTRAL[kind]) for s in stops], dtype=np.float64).T
        if kind == "show":
            found[channel] = _chosen(dial, places, table[0], at, found.get(channel), frames, channel in holds)
            continue
        if kind == "opacity" and channel in holds:
            own = found.get(channel, np.full((1, frames), NEUTRAL[kind][0]))
            found[channel] = own * np.interp(at, places, table[0]) / 100
            continue
        given = np.stack([np.interp(at, places, row) for row in table])
        rest = np.array([[np.interp(dial.rest, places, row)] for row in table])
        before = found.get(channel)
        if kind == "scale":
            change = given / np.where(np.abs(rest) < 1e-9, 1.0, rest)
            found[channel] = change if before is None else before * change
        else:
            found[channel] = added(kind, given - rest, before)


def _chosen(
    dial: Dial, places: Floats, numbers: Floats, at: Floats, before: Floats | None, frames: int, holds: bool
) -> Floats:
    """The drawing that a dial chooses; where it stands as at rest what was chosen without it, or, if nothing was, the one
    that it `holds` there."""
    stop = np.maximum(np.searchsorted(places, at + 1e-9, side="right") - 1, 0)
    rest = max(int(np.searchsorted(places, dial.rest + 1e-9, side="right")) - 1, 0)
    shown = numbers[stop] if holds and before is None else np.where(stop == rest, AS_AT_REST, numbers[stop])
    own = np.repeat(np.array(AT_REST)[:, None], frames, axis=1) if before is None else before
    return np.where(shown == AS_AT_REST, own, np.stack([shown, shown, np.zeros(len(shown))]))
