"""What several windows ask for alike is worked out once."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from dataclasses import dataclass, field
from typing import Any, TypeVar

Made = TypeVar("Made")
MOST = 8
"""Things of which the newest answer is kept."""


@dataclass
class _Answer:
    """What was asked for, of which values, and what came of it once it is there."""

    of: tuple[Any, ...]
    made: list[Any] = field(default_factory=list)
    lock: threading.Lock = field(default_factory=threading.Lock)


class Once:
    """Keeps of each thing the newest answer: windows that look at the same come to it one after the other. Safe to use
    from several threads; who asks for what is being worked out waits for it."""

    def __init__(self) -> None:
        self._kept: OrderedDict[Hashable, _Answer] = OrderedDict()
        self._lock = threading.Lock()

    def get(self, what: Hashable, of: tuple[Any, ...], make: Callable[[], Made]) -> Made:
        """The answer to `what` `of` these very values (by identity). Whatever `make` raises is not kept."""
        with self._lock:
            answer = self._kept.get(what)
            if answer is None or [*map(id, answer.of)] != [*map(id, of)]:
                answer = self._kept[what] = _Answer(of)
            self._kept.move_to_end(what)
            while len(self._kept) > MOST:
                self._kept.popitem(last=False)
        with answer.lock:
            if not answer.made:
                answer.made.append(make())
            found: Made = answer.made[0]
        return found

    def forget(self) -> None:
        """Keep nothing: nobody looks any more."""
        with self._lock:
            self._kept.clear()
