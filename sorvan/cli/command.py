"""What the commands of `sorvan` share."""

from __future__ import annotations

import os
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING, TypeVar

from sorvan.core.errors import Refusal

if TYPE_CHECKING:
    from sqlalchemy import Engine

    from sorvan.core.model.motion import Motion
    from sorvan.core.model.production import Rate
    from sorvan.core.model.puppet import Puppet
    from sorvan.core.model.shot import Shot
    from sorvan.service.rooms.rooms import Room

WINDOW = "command line"


def home() -> Path:
    """Where the private database and rendered files lie: SORVAN_HOME, or `.data` here."""
    return Path(os.environ.get("SORVAN_HOME", ".data"))


def open_database() -> Engine:
    """The database, with its tables up to date."""
    from sorvan.store.cluster import database_url
    from sorvan.store.database import connect, migrate

    engine = connect(database_url(home()))
    migrate(engine)
    return engine


def find(engine: Engine, name: str) -> str:
    """The id of the production with this name or id. Raises `Refusal` if there is none, or several."""
    from sorvan.store import log

    found = [p.id for p in log.listed(engine) if name in (p.id, p.name)]
    if not found:
        raise Refusal(
            f"There is no production “{name}”.", remedy="`sorvan list` shows those there are.", kind="missing"
        )
    if len(found) > 1:
        raise Refusal(
            f"{len(found)} productions are called “{name}”.", remedy=f"Name one by its id: {', '.join(found)}."
        )
    return found[0]


def do(room: Room, command: object) -> None:
    """Do a command as the command line."""
    from sorvan.core.model.base import fresh_id

    room.submit(fresh_id(), WINDOW, room.seq, command)  # type: ignore[arg-type]


Named = TypeVar("Named", "Puppet", "Motion", "Shot")


def named(found: list[Named], name: str, what: str, where: str) -> Named:
    """The one puppet, motion or shot of this name or id. Raises `Refusal` if there is none, or several."""
    right = [d for d in found if name in (d.id, d.name)]
    if not right:
        remedy = "`sorvan list` shows those there are."
        raise Refusal(f"There is no {what} “{name}”.", where=where, remedy=remedy, kind="missing")
    if len(right) > 1:
        ids = ", ".join(d.id for d in right)
        raise Refusal(f"{len(right)} {what}s are called “{name}”.", where=where, remedy=f"Name one by its id: {ids}.")
    return right[0]


def read_bytes(path: Path) -> bytes:
    """What is in a file. Raises `Refusal` if it can't be read."""
    try:
        return path.read_bytes()
    except OSError as error:
        raise Refusal(f"The file can't be read: {error.strerror}.", where=str(path), remedy="Check its name.") from None


def rate_named(text: str) -> Rate:
    """The frame rate that is meant by “24” or “24000/1001”. Raises `Refusal` if none is."""
    from sorvan.core.model.production import Rate

    try:
        found = Fraction(text)
        return Rate(numerator=found.numerator, denominator=found.denominator)
    except (ValueError, ZeroDivisionError):
        raise Refusal(f"“{text}” is no frame rate.", remedy="Give one as 24, 25 or 24000/1001.") from None
