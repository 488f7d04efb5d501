"""Where the core gets drawings from, and where it puts those that it makes."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from typing import Protocol, TypeVar

import numpy as np
from numpy.typing import NDArray

from sorvan.core.model.art import Art
from sorvan.core.model.puppet import Correction

Held = TypeVar("Held")


class Arts(Protocol):
    """Drawings and pictures by their ids. Whoever holds the files provides one."""

    def art(self, id: str) -> Art:
        """The drawing with this id. Raises `Refusal` if it is gone."""
        ...

    def alpha(self, picture: str) -> NDArray[np.uint8]:
        """How much each pixel of a picture covers, `(height, width)`."""
        ...

    def keep(self, art: Art) -> str:
        """Make a drawing available to the painters; returns its id."""
        ...

    def toned(self, picture: str, correction: Correction) -> str:
        """A picture with its colours corrected, made available to the painters; returns its id."""
        ...

    def kept(self, key: Hashable, make: Callable[[], Held]) -> Held:
        """What was made for this key before; else it is made now and kept for a while."""
        ...
