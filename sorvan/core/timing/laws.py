"""How values of channels lie over one another, by the law of their kind."""

from __future__ import annotations

import numpy as np

from sorvan.core.errors import Refusal
from sorvan.core.geometry import Floats
from sorvan.core.model.channels import AS_AT_REST, KINDS, ChannelKind

Numbers = tuple[float, ...]
LEAST = 1e-6
"""Below this a size or a share is nothing."""


def laid(kind: ChannelKind, below: Floats, own: Floats) -> Floats:
    """Values with others laid over them, `(numbers, times)` each: added, multiplied, so much of them (from 100 percent on
    so much of what is lacking), or these instead."""
    match KINDS[kind].law:
        case "sum":
            return below + own
        case "product":
            return below * own
        case "share":
            return np.where(own <= 100, below * own / 100, below + (100 - below) * (own - 100) / 100)
        case "choice":
            return np.where(own[0] == AS_AT_REST, below, own)


def apart(kind: ChannelKind, below: Numbers, value: Numbers) -> Numbers:
    """What has to be laid over one value to make it another. Raises `Refusal` where there is no such thing: of nothing no
    product is anything."""
    match KINDS[kind].law:
        case "sum":
            return tuple(round(v - b, 4) for v, b in zip(value, below, strict=True))
        case "product":
            return tuple(_times(v, b) for v, b in zip(value, below, strict=True))
        case "share":
            return tuple(_share(v, b) for v, b in zip(value, below, strict=True))
        case "choice":
            return value


def more(kind: ChannelKind, own: Numbers, by: Numbers) -> Numbers:
    """What is laid over with so much more to it; sizes and shares so many times as much."""
    match KINDS[kind].law:
        case "sum":
            return tuple(round(v + b, 4) for v, b in zip(own, by, strict=True))
        case "product":
            return tuple(round(v * b, 6) for v, b in zip(own, by, strict=True))
        case "share":
            return tuple(round(v * b / 100, 4) for v, b in zip(own, by, strict=True))
        case "choice":
            return by


def on_its_way(kind: str, below: Floats, above: Floats, weight: Floats | float) -> Floats:
    """One value on its way to another, by how much of the way it has come, beyond either end too. What is chosen changes
    half way."""
    if kind not in KINDS or KINDS[kind].chosen:  # type: ignore[index]
        return np.where(np.asarray(weight) >= 0.5, above, below)
    return np.where(np.asarray(weight) == 1, above, below + weight * (above - below))


def _times(value: float, below: float) -> float:
    if abs(below) > LEAST:
        return round(value / below, 6)
    if abs(value) <= LEAST:
        return 1.0
    raise Refusal(
        "The motion makes it nothing here, and nothing times anything stays that.",
        remedy="Give it a size in the motion itself.",
    )


def _share(value: float, below: float) -> float:
    if value > below:
        return round(100 + 100 * (value - below) / max(100 - below, LEAST), 4)
    return round(100 * value / below, 4) if below > LEAST else 100.0
