"""What every command of `sorvan` shares, and how they are run."""

from __future__ import annotations

import os
import sys
from fractions import Fraction
from importlib import import_module
from pathlib import Path
from typing import TypeVar

import typer
from sqlalchemy import Engine

from sorvan.core.errors import Refusal
from sorvan.core.model.motion import Motion
from sorvan.core.model.production import Rate
from sorvan.core.model.puppet import Puppet
from sorvan.core.model.shot import Shot
from sorvan.interchange.imported import fresh_id
from sorvan.service.rooms import Room
from sorvan.store import log
from sorvan.store.cluster import database_url
from sorvan.store.database import connect, migrate

app = typer.Typer(
    no_args_is_help=True,
    add_completion=False,
    pretty_exceptions_enable=False,
    help="The same work as in the page, without the page.",
)
WINDOW = "command line"


def home() -> Path:
    """Where the private database and rendered files lie: SORVAN_HOME, or `.data` here."""
    return Path(os.environ.get("SORVAN_HOME", ".data"))


def open_database() -> Engine:
    """The database, with its tables up to date."""
    engine = connect(database_url(home()))
    migrate(engine)
    return engine


def find(engine: Engine, name: str) -> str:
    """The id of the production with this name or id. Raises `Refusal` if there is none, or several."""
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
    room.submit(fresh_id(), WINDOW, room.seq, command)  # type: ignore[arg-type]


Named = TypeVar("Named", Puppet, Motion, Shot)


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


def main() -> None:
    """Run the command; a refusal goes to stderr, and the exit code says what kind of failure it was.

    1: refused as asked. 2: wrong use of the command. 3: something named is not there.
    """
    for room in ("files", "motions", "voices", "people", "serving"):
        import_module(f"sorvan.cli.{room}")
    try:
        app()
    except Refusal as refusal:
        print(f"sorvan: {refusal.sentence()}", file=sys.stderr)
        sys.exit(3 if refusal.kind == "missing" else 1)


def rate_named(text: str) -> Rate:
    """The frame rate that is meant by “24” or “24000/1001”. Raises `Refusal` if none is."""
    try:
        found = Fraction(text)
        return Rate(numerator=found.numerator, denominator=found.denominator)
    except (ValueError, ZeroDivisionError):
        raise Refusal(f"“{text}” is no frame rate.", remedy="Give one as 24, 25 or 24000/1001.") from None
