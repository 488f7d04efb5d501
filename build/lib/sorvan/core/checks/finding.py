"""What a check finds."""

from __future__ import annotations

from dataclasses import dataclass, replace

from sorvan.core.change.command import Command
from sorvan.core.errors import Refusal
from sorvan.core.model.documents import Documents


@dataclass(frozen=True)
class Finding:
    """A likely mistake: what it is, which joints and pieces show it, and the command that mends it. In a
    motion, the `frame` where it is seen and the `keys`, by channel and frame, that it is about."""

    check: str
    text: str
    joints: tuple[str, ...] = ()
    pieces: tuple[str, ...] = ()
    mend: Command | None = None
    mending: str = ""
    frame: int | None = None
    keys: tuple[tuple[str, int], ...] = ()


def mendable(found: Finding, documents: Documents) -> Finding:
    """The finding, without its mend if that would be refused."""
    try:
        if found.mend is not None:
            found.mend.apply(documents)
    except Refusal:
        return replace(found, mend=None, mending="")
    return found
