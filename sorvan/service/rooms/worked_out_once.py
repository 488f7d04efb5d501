"""What several windows ask for alike is worked out once."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from dataclasses import dataclass, field
from typing import Any, TypeVar

Made = TypeVar("Made")
New = TypeVar("New")
MOST = 16
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

    def brought_up(
        self,
        what: Hashable,
        now: tuple[Any, ...],
        before: Made | None,
        after: Callable[[Made], tuple[Made, New] | None],
        full: Callable[[], Made],
    ) -> tuple[Made, New | None]:
        """What there is of something `now`: worked out `after` what was `before`, if that can be, else in `full`, by
        whoever comes first. With it what is new in it to who had that before; None if all is."""

        def made() -> tuple[Made, Made | None, New | None]:
            found = None if before is None else after(before)
            return (full(), None, None) if found is None else (found[0], before, found[1])

        made_now, came_of, new = self.get(what, now, made)
        if before is not None and came_of is not before:
            # Who comes from elsewhere takes the same over, and looks what is new from there.
            found = after(before)
            return made_now, found[1] if found else None
        return made_now, new

    def forget(self) -> None:
        """Keep nothing: nobody looks any more."""
        with self._lock:
            self._kept.clear()
