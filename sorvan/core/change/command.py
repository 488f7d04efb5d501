"""What every command is."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Container
from typing import Annotated

from pydantic import Field, ValidationError

from sorvan.core.errors import Refusal, in_words
from sorvan.core.model.base import Id, Number, Value
from sorvan.core.model.documents import Documents
from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import Puppet

Tried = dict[str, Annotated[tuple[Number, ...], Field(min_length=1, max_length=2)]]
"""Values that a hand tries, by channel."""


class Command(Value):
    """One thing a user can do to a production: checked, then applied whole or not at all.

    A command is a value and carries every id it will create, so that applying it twice to
    the same documents gives the same documents.
    """

    def apply(self, documents: Documents) -> Documents:
        """The documents after this command, which hold together.

        Raises `Refusal` and changes nothing if it can't be.
        """
        try:
            after = self.result(documents)
        except ValidationError as error:
            raise in_words(error) from None
        after.hold_together(documents)
        return after

    @abstractmethod
    def result(self, documents: Documents) -> Documents:
        """What `apply` checks and gives: the documents after this command."""

    @abstractmethod
    def label(self, documents: Documents) -> str:
        """What undo and redo call it, worked out on the documents it is applied to."""


class PuppetCommand(Command):
    """A command that changes one puppet and nothing else."""

    puppet: Id

    @abstractmethod
    def on(self, puppet: Puppet) -> Puppet:
        """The puppet after this command."""

    def said(self, puppet: Puppet) -> str:
        """What undo and redo call it."""
        raise TypeError(f"{type(self).__name__} says nothing of itself")

    def result(self, documents: Documents) -> Documents:
        return documents.with_(self.on(documents.puppet(self.puppet)))

    def label(self, documents: Documents) -> str:
        return self.said(documents.puppet(self.puppet))


class MotionCommand(Command):
    """A command that changes one motion and nothing else."""

    motion: Id

    @abstractmethod
    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        """The motion, which is this puppet's, after this command."""

    def result(self, documents: Documents) -> Documents:
        motion = documents.motion(self.motion)
        return documents.with_(self.on(motion, documents.puppet(motion.puppet)))


def reached(motion: Motion, frame: int, where: str = "") -> None:
    """Raises `Refusal` unless the motion has this frame."""
    if frame >= motion.length:
        what = f"Frame {frame + 1} lies beyond the end of “{motion.name}”."
        raise Refusal(what, where=where, remedy="Make it longer, or choose an earlier frame.")


def free(known: Container[str], id: str) -> str:
    """An id for something new. Raises `Refusal` if something that is known has it."""
    if id in known:
        raise Refusal("That id is taken already.", where=id, remedy="Try again.", kind="conflict")
    return id


def several(count: int, noun: str, one: str = "") -> str:
    """“the arm” for one thing known by name, “3 pieces” for more."""
    return f"“{one}”" if count == 1 and one else f"{count} {noun}{'' if count == 1 else 's'}"
