"""How the core says no."""

from __future__ import annotations


class Refusal(Exception):
    """A request that cannot be carried out, told in words a user can act on.

    `what` says what is wrong, `where` names the thing it is wrong with, and `remedy` says
    what to do. Nothing has changed when a refusal is raised.
    """

    def __init__(self, what: str, *, where: str = "", remedy: str = "", kind: str = "refused") -> None:
        super().__init__(what)
        self.what = what
        self.where = where
        self.remedy = remedy
        self.kind = kind

    def sentence(self) -> str:
        """The whole message on one line, for a terminal."""
        head = f"{self.where}: {self.what}" if self.where else self.what
        return f"{head} {self.remedy}".strip()


def missing(noun: str, name: str) -> Refusal:
    """The refusal for something that is not, or no longer, there."""
    return Refusal(
        f"There is no {noun} “{name}” here any more.",
        remedy="It may have been removed in another window; look again and repeat what you meant to do.",
        kind="missing",
    )
