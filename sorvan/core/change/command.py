"""What every command is."""

from __future__ import annotations

from abc import abstractmethod

from sorvan.core.model.base import Value
from sorvan.core.model.documents import Documents


class Command(Value):
    """One thing a user can do to a production: checked, then applied whole or not at all.

    A command is a value and carries every id it will create, so that applying it twice to
    the same documents gives the same documents.
    """

    @abstractmethod
    def apply(self, documents: Documents) -> Documents:
        """The documents after this command. Raises `Refusal` and changes nothing if it can't be."""

    @abstractmethod
    def label(self, documents: Documents) -> str:
        """What undo and redo call it, worked out on the documents it is applied to."""


def several(count: int, noun: str, one: str = "") -> str:
    """“the arm” for one thing known by name, “3 pieces” for more."""
    return f"“{one}”" if count == 1 and one else f"{count} {noun}{'' if count == 1 else 's'}"
