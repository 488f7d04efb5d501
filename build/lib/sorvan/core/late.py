"""Libraries that are loaded when something of them is first used: most of what the program does needs few of them."""

from __future__ import annotations

from importlib import import_module
from typing import Any


class _Late:
    """Stands for a module until something of it is wanted."""

    def __init__(self, name: str) -> None:
        self.__name__ = name

    def __getattr__(self, attribute: str) -> Any:
        found = getattr(import_module(self.__name__), attribute)
        setattr(self, attribute, found)
        return found


def late(name: str) -> Any:
    """The module of this name, loaded once one of its attributes is asked for. It comes without types."""
    return _Late(name)
