"""Keys for values that are known at every frame: as few as hold them, with eases that an animator would choose."""

from __future__ import annotations

from collections.abc import Iterable
from functools import lru_cache

import numpy as np

from sorvan.core.geometry import Floats
from sorvan.core.model.channel import Key
from sorvan.core.model.ease import Even, Family, Slow, SpacingChart
from sorvan.core.timing.eases import AnEase, spacing

PLAIN: tuple[AnEase, ...] = (
    Even(),
    *(Slow(out=o, into=i) for o, i in ((50, 50), (35, 35), (65, 65), (50, 0), (0, 50), (30, 0), (0, 30), (70, 0), (0, 70))),
    *(Family(family="sine", slow=s) for s in ("both", "out", "in")),
)  # fmt: skip
"""What is tried before a timing chart is drawn."""
FAR = 4.0
"""Progress beyond this is no in-between of its two keys any more."""


@lru_cache(maxsize=256)
def _line(span: int) -> Floats:
    """Evenly from 0 to 1 over the frames of a gap."""
    return np.linspace(0, 1, span + 1)


@lru_cache(maxsize=256)
def _plain(span: int) -> Floats:
    """How far each plain ease has come at each frame of a gap, `(eases, frames)`."""
    return np.stack([spacing(ease, span) for ease in PLAIN])


def keys_on_ring(values: Floats, frames: Iterable[int], tolerance: float, digits: int = 4) -> dict[int, Key]:
    """Keys of a cycle: at these frames, and where values turn in between, so that every whole frame has its
    value to within the tolerance. `values` `(numbers, frames)`."""
    count = values.shape[1]
    row = sorted({f % count for f in frames}) or [0]
    ring = np.concatenate([values, values, values[:, :1]], axis=1)
    found: dict[int, Key] = {}
    waiting = [(a, b) for a, b in zip(row, [*row[1:], row[0] + count], strict=True)]
    while waiting:
        start, end = waiting.pop()
        part = ring[:, start : end + 1]
        ease, worst = _ease(part, tolerance)
        if ease is None:
            middle = start + worst
            waiting += [(start, middle), (middle, end)]
            continue
        value = tuple(round(float(v), digits) for v in part[:, 0])
        found[start % count] = Key(value=value, ease=ease)
    return dict(sorted(found.items()))


def _ease(part: Floats, tolerance: float) -> tuple[AnEase | None, int]:
    """The ease of a gap with these values at its frames; or none, and the frame to put a key at."""
    span = part.shape[1] - 1
    if span < 2:
        return Even(), 0
    change = part[:, -1] - part[:, 0]
    off = part - part[:, :1]
    straight = np.abs(off - _line(span) * change[:, None]).max(axis=0)
    if straight.max() <= tolerance:
        return Even(), 0
    main = int(np.argmax(np.abs(change)))
    worst = int(np.argmax(straight[1:-1])) + 1
    if abs(change[main]) < 1e-9 or np.abs(off[main]).max() > FAR * abs(change[main]):
        return None, worst
    done = off[main, :-1] / change[main]
    # All at once; the first that is near enough is the plainest.
    far = np.abs(_plain(span)[:, None, :] * change[None, :, None] - off[None, :, :-1]).max(axis=(1, 2))
    near = np.flatnonzero(far <= tolerance)
    if near.size:
        return PLAIN[int(near[0])], 0
    if np.abs(done * change[:, None] - off[:, :-1]).max() > tolerance:
        return None, worst
    return SpacingChart(ticks=tuple((i / span, round(float(done[i]), 6)) for i in range(1, span))), 0
