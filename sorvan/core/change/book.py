"""Commands on the pose book."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from sorvan.core.change.command import Command, MotionCommand, PuppetCommand, reached
from sorvan.core.errors import Refusal, missing
from sorvan.core.model.base import Id, Name
from sorvan.core.model.documents import Documents
from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import Entry, Puppet
from sorvan.core.model.times import LONGEST, Frame
from sorvan.core.motion.book import mirrored, put_back, taken
from sorvan.core.rig.facing import Facing, view_of


class KeepInBook(Command):
    """Keep the pose at a frame, or a stretch of frames, in the puppet's book: what all channels that have keys
    hold there, or only these."""

    do: Literal["keep-in-book"] = "keep-in-book"
    motion: Id
    id: Id
    name: Name
    frame: Frame
    frames: Annotated[int, Field(ge=1, le=LONGEST)] = 1
    channels: tuple[str, ...] | None = None

    def result(self, documents: Documents) -> Documents:
        motion = documents.motion(self.motion)
        reached(motion, self.frame, self.name)
        entry = taken(motion, self.id, self.name, self.frame, self.frames, self.channels)
        if not entry.keys:
            raise Refusal("There is no pose to keep: nothing has keys.", where=motion.name, remedy="Key a pose first.")
        puppet = documents.puppet(motion.puppet)
        return documents.with_(puppet.changed(book=puppet.book | {self.id: entry}))

    def label(self, documents: Documents) -> str:
        return f"Keep “{self.name}” in the pose book"


def entry_of(puppet: Puppet, id: str) -> Entry:
    """An entry of the book. Raises `Refusal` if it is gone."""
    if id not in puppet.book:
        raise missing("pose in the book", id)
    return puppet.book[id]


class PutFromBook(MotionCommand):
    """Put a pose or a short motion from the book into a motion from a frame on: whole or on some channels, so many
    percent of the way to it, with its sides swapped if `mirrored`."""

    do: Literal["put-from-book"] = "put-from-book"
    entry: Id
    frame: Frame
    percent: Annotated[float, Field(ge=-100, le=200)] = 100.0
    mirrored: bool = False
    channels: tuple[str, ...] | None = None
    view: Facing | None = None

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        entry = entry_of(puppet, self.entry)
        reached(motion, self.frame, entry.name)
        if self.mirrored:
            entry = mirrored(puppet, entry, self.view or view_of(puppet))
        return put_back(motion, puppet, entry, self.frame, self.percent, self.channels)

    def label(self, documents: Documents) -> str:
        puppet = documents.puppet(documents.motion(self.motion).puppet)
        name = puppet.book[self.entry].name if self.entry in puppet.book else "a pose"
        how = "" if self.percent == 100 else f" by {self.percent:g} %"
        return f"Put “{name}”{' mirrored' if self.mirrored else ''}{how} at frame {self.frame + 1}"


class NameInBook(PuppetCommand):
    """Rename a pose of the book."""

    do: Literal["name-in-book"] = "name-in-book"
    entry: Id
    name: Name

    def on(self, puppet: Puppet) -> Puppet:
        entry = entry_of(puppet, self.entry).changed(name=self.name)
        return puppet.changed(book=puppet.book | {self.entry: entry})

    def said(self, puppet: Puppet) -> str:
        return f"Call a pose of the book “{self.name}”"


class RemoveFromBook(PuppetCommand):
    """Take a pose out of the book; where it was put it stays."""

    do: Literal["remove-from-book"] = "remove-from-book"
    entry: Id

    def on(self, puppet: Puppet) -> Puppet:
        entry_of(puppet, self.entry)
        return puppet.changed(book={id: e for id, e in puppet.book.items() if id != self.entry})

    def said(self, puppet: Puppet) -> str:
        return f"Take “{entry_of(puppet, self.entry).name}” out of the pose book"


BookCommand = KeepInBook | PutFromBook | NameInBook | RemoveFromBook
