"""The pose book: named poses and short motions kept with a puppet."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated

from pydantic import Field

from sorvan.core.model.base import Id, Name, Value
from sorvan.core.model.channel import LONGEST, Frame, Key


class Entry(Value):
    """A pose, or with more than one of `frames` a short motion: keys by channel and frame, from frame 0 on."""

    id: Id
    name: Name
    frames: Annotated[int, Field(ge=1, le=LONGEST)] = 1
    keys: dict[str, dict[Frame, Key]] = {}

    def without(self, there: Callable[[str], bool]) -> Entry:
        """The entry with only the channels that are there."""
        if all(there(c) for c in self.keys):
            return self
        return self.changed(keys={c: k for c, k in self.keys.items() if there(c)})
