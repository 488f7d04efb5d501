"""What is to be drawn one frame after the other: one plan, or several that come after and over one another."""

from __future__ import annotations

import threading
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Protocol

from sorvan.core.plan.plan import FrameSheet, Plan


class Show(Protocol):
    """A picture after another. `frames` are numbered from 0."""

    @property
    def frames(self) -> int:
        """How many frames there are."""

    def sheets(self, frame: int) -> list[FrameSheet]:
        """What lies over one another in a frame, the lowest first."""

    def veil(self, frame: int) -> tuple[str, float]:
        """The colour that lies over everything in a frame, and how opaque it is (0 to 1)."""


@dataclass
class Worked:
    """Plans that are worked out when they are first wanted; the last few are kept."""

    make: Callable[[str], Plan]
    most: int = 2
    _kept: dict[str, Plan] = field(default_factory=dict)
    _lock: threading.Lock = field(default_factory=threading.Lock)

    def plan(self, id: str) -> Plan:
        """The plan of this id. Several threads may ask: it is worked out by one of them."""
        with self._lock:
            found = self._kept.pop(id, None)
            if found is None:
                while len(self._kept) >= self.most:
                    self._kept.pop(next(iter(self._kept)))
                found = self.make(id)
            self._kept[id] = found
            return found
