"""The pose book: named poses and short motions kept with a puppet."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated

from pydantic import Field

from sorvan.core.model.base import Id, Name, Value
from sorvan.core.model.channel import Key
from sorvan.core.model.times import LONGEST, Frame, Moving, allowed, nearest


class Entry(Value):
    """A pose, or with more than one of `frames` a short motion: keys by channel and frame, from frame 0 on."""

    id: Id
    name: Name
    frames: Annotated[int, Field(ge=1, le=LONGEST)] = 1
    keys: dict[str, dict[Frame, Key]] = {}

    def moved(self, moving: Moving) -> Entry:
        """The entry where its times go; a pose stays one frame."""
        frames = nearest(self.frames * moving.part) if self.frames > 1 else 1
        return self.changed(
            frames=allowed(Entry, "frames", frames), keys={c: moving.filed(k) for c, k in self.keys.items()}
        )

    def without(self, there: Callable[[str], bool]) -> Entry:
        """The entry with only the channels that are there."""
        if all(there(c) for c in self.keys):
            return self
        return self.changed(keys={c: k for c, k in self.keys.items() if there(c)})
