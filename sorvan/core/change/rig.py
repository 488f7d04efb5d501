"""Commands on the skeleton."""

from __future__ import annotations

from typing import Literal

from sorvan.core.change.command import Command
from sorvan.core.model.base import Id
from sorvan.core.model.documents import Documents
from sorvan.core.rig.skeleton import joint, link


class LinkJoint(Command):
    """Hang a joint on another, or, with no parent, on the puppet itself; nothing moves."""

    do: Literal["link-joint"] = "link-joint"
    puppet: Id
    joint: Id
    parent: Id | None = None

    def apply(self, documents: Documents) -> Documents:
        return documents.with_(link(documents.puppet(self.puppet), self.joint, self.parent))

    def label(self, documents: Documents) -> str:
        puppet = documents.puppet(self.puppet)
        child = joint(puppet, self.joint).name
        if self.parent is None:
            return f"Unlink “{child}”"
        return f"Link “{child}” to “{joint(puppet, self.parent).name}”"
