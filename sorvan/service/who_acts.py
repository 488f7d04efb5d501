"""Who it is that asks for something, where people sign in."""

from __future__ import annotations

from contextvars import ContextVar

from sorvan.store.accounts import User

ACTING: ContextVar[User | None] = ContextVar("acting", default=None)
"""The user on whose behalf something is done; nobody on this machine's own address, which is for whoever sits at it."""


def acting_id() -> str | None:
    """Whose is what is made now."""
    user = ACTING.get()
    return user.id if user else None


def acting_name() -> str:
    """What to call whoever does it in the log."""
    user = ACTING.get()
    return user.name if user else ""
