"""Performances too long to be held worked out: their places are worked out a stretch at a time, as they are looked at.

Every number is the very one that working out all frames together gives, because every stage looks at each frame by
itself, or at blocks of frames of which a stretch holds whole ones.
"""

from __future__ import annotations

import itertools
import threading
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from sorvan.core.deform.sheet import BLOCK
from sorvan.core.model.puppet import Puppet
from sorvan.core.plan.order import run
from sorvan.core.plan.places import Places, Work
from sorvan.core.plan.ready_morphs import Becoming, becoming
from sorvan.core.plan.rig import Rig
from sorvan.core.plan.values import Values
from sorvan.core.rig import reach

MOST_HELD = 256 * 1024 * 1024
"""Bytes of places beyond which a performance is not held worked out."""
STRETCH = 32 * 1024 * 1024
"""Bytes of places in one stretch, about."""
MOST_KEPT = 4
"""Stretches that are kept."""


def frame_bytes(rig: Rig) -> int:
    """How many bytes the places of one frame take up."""
    joints, pieces = len(rig.skeleton.ids), len(rig.seats)
    blocks = joints * (3 if rig.chains else 2) + pieces
    return 8 * (6 * blocks + 2 * pieces + 2 * sum(b.count for b in rig.benders))


def too_long(rig: Rig, frames: int) -> bool:
    """Whether so many frames are too many to be held worked out."""
    return frames * frame_bytes(rig) > MOST_HELD


class Stretches:
    """The places of a performance, of which the stretches looked at last are kept. Safe to use from several threads."""

    def __init__(self, puppet: Puppet, rig: Rig, values: Values, frames: int, shows: dict[int, Becoming]) -> None:
        self.puppet, self.rig, self.values, self.frames, self.shows = puppet, rig, values, frames, shows
        self.length = max(BLOCK, STRETCH // frame_bytes(rig) // BLOCK * BLOCK)
        self._kept: OrderedDict[int, Places] = OrderedDict()
        self._lock = threading.RLock()

    def at(self, n: int) -> Places:
        """The places of stretch number `n`."""
        with self._lock:
            found = self._kept.get(n)
            if found is None:
                found = self._kept[n] = self._worked_out(
                    slice(n * self.length, min((n + 1) * self.length, self.frames))
                )
            self._kept.move_to_end(n)
            while len(self._kept) > MOST_KEPT:
                self._kept.popitem(last=False)
            return found

    def _worked_out(self, span: slice) -> Places:
        count = span.stop - span.start
        places = Places.blank(self.rig, count)
        places.becoming = {row: b.part(span) for row, b in self.shows.items()}
        windowed = {id: v[:, span] for id, v in self.values.items()}
        run(self.puppet, self.rig, windowed, Work(0, count, of_whole=True), places)
        return places

    def keep_from(self, other: Stretches, start: int, stop: int) -> None:
        """Take over what another kept of frames that are not in `start`…`stop`-1."""
        with other._lock:
            for n, places in other._kept.items():
                if (n + 1) * self.length <= start or n * self.length >= stop:
                    self._kept[n] = places

    def gathered(self, frames: NDArray[np.intp], take: Callable[[Places, Any], NDArray[Any]]) -> NDArray[Any]:
        """What `take` gives of each stretch's places at these frames, put together along the last axis."""
        found: list[NDArray[Any]] = []
        numbers = frames // self.length
        # In one go as long as the frames lie in one stretch.
        edges = [0, *(np.flatnonzero(np.diff(numbers)) + 1), len(frames)]
        for a, b in itertools.pairwise(edges):
            if b > a:
                n = int(numbers[a])
                local = frames[a:b] - n * self.length
                steps = np.diff(local)
                run_on = len(local) == 1 or bool(np.all(steps == 1))
                chosen = slice(int(local[0]), int(local[-1]) + 1) if run_on else local
                found.append(take(self.at(n), chosen))
        return found[0] if len(found) == 1 else np.concatenate(found, axis=-1)


@dataclass(frozen=True)
class Block:
    """An array over all frames, the last of its axes, that is worked out where it is looked at."""

    stretches: Stretches
    of: Callable[[Places], NDArray[Any]]
    lead: tuple[int, ...]

    @property
    def shape(self) -> tuple[int, ...]:
        return (*self.lead, self.stretches.frames)

    @property
    def ndim(self) -> int:
        return len(self.shape)

    def __len__(self) -> int:
        return self.shape[0]

    def __getitem__(self, key: Any) -> Any:
        keys = key if isinstance(key, tuple) else (key,)
        keys = (*keys, *(slice(None),) * (self.ndim - len(keys)))
        *others, frames = keys
        rows = np.arange(self.stretches.frames)[frames]
        if np.ndim(rows) == 0:
            return self._at(others, np.array([rows]))[..., 0]
        if not len(rows):
            return self.of(self.stretches.at(0))[(*others, slice(0, 0))]
        return self._at(others, rows)

    def _at(self, others: list[Any], frames: NDArray[np.intp]) -> NDArray[Any]:
        # Frames first: several lists at once would be taken for pairs.
        return self.stretches.gathered(frames, lambda p, at: self.of(p)[..., at][(*others, slice(None))])

    def __array__(self, dtype: Any = None, copy: bool | None = None) -> NDArray[Any]:
        whole: NDArray[Any] = self[:]
        return whole if dtype is None else whole.astype(dtype)


@dataclass
class Stretched(Places):
    """Places that are worked out as they are looked at; nothing is ever written into them."""

    stretches: Stretches = field(kw_only=True)

    @classmethod
    def over(cls, puppet: Puppet, rig: Rig, values: Values, frames: int) -> Stretched:
        """The places of so many frames of what these channels do."""
        shows = {row: becoming(puppet, id, rig.shows, values) for row, id in enumerate(puppet.order)}
        stretches = Stretches(puppet, rig, values, frames, {row: b for row, b in shows.items() if b.pairs})
        joints, pieces = len(rig.skeleton.ids), len(rig.seats)

        def block(of: Callable[[Places], NDArray[Any]], *lead: int) -> Any:
            return Block(stretches, of, lead)

        def limb(id: str, joints: int) -> reach.Reached:
            return reach.Reached(
                block(lambda p: p.reached[id].turned, joints), block(lambda p: p.reached[id].reached, joints)
            )

        def bent(i: int, count: int) -> Any:
            return block(lambda p: p.points[i], count, 2)

        return cls(
            locals=block(lambda p: p.locals, joints, 6),
            settled=block(lambda p: p.settled, joints, 6),
            planted=block(lambda p: p.planted, joints, 6),
            made=block(lambda p: p.made, joints, 6),
            worlds=block(lambda p: p.worlds, joints, 6),
            pieces=block(lambda p: p.pieces, pieces, 6),
            shown=block(lambda p: p.shown, pieces),
            order=block(lambda p: p.order, pieces),
            opacity=block(lambda p: p.opacity, pieces),
            points=[bent(i, b.count) for i, b in enumerate(rig.benders)],
            reached={p.chain.id: limb(p.chain.id, len(p.rows)) for p in rig.chains},
            becoming=stretches.shows,
            stretches=stretches,
        )

    def after(self, values: Values, start: int, stop: int) -> Stretched:
        """The places once channels have these values, which differ in frames `start`…`stop`-1."""
        old = self.stretches
        now = Stretched.over(old.puppet, old.rig, values, old.frames)
        now.stretches.keep_from(old, start, stop)
        return now

    def _some(self, span: slice | NDArray[np.intp]) -> Places:
        rows = np.arange(self.stretches.frames)[span]
        numbers = rows // self.stretches.length
        if len(rows) and np.all(numbers == numbers[0]):
            # Blocks that are one and the same stay so.
            found = self.stretches.at(int(numbers[0]))._some(rows - numbers[0] * self.stretches.length)
        else:
            found = super()._some(span)
        return replace(found, becoming={row: b.part(span) for row, b in self.becoming.items()})
