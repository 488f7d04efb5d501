"""What was made before and is wanted again."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from typing import Any

Recall = Callable[[Hashable, Callable[[], Any]], Any]
"""What was made for a key before, or is made now."""


def afresh(_: Hashable, make: Callable[[], Any]) -> Any:
    """Nothing kept."""
    return make()
