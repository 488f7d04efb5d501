"""Reaching the database."""

from __future__ import annotations

import errno
from pathlib import Path

from sqlalchemy import Connection, Engine, create_engine, inspect, text
from sqlalchemy.exc import InterfaceError, OperationalError
from sqlalchemy.exc import TimeoutError as PoolTimeout

HERE = Path(__file__).parent
AWAY = (OperationalError, InterfaceError, PoolTimeout)
"""What the database driver raises while the database can't be reached."""


DISK_FULL = "53100"
"""The database's own word for it (PostgreSQL error codes, class 53)."""


def full(error: BaseException) -> bool:
    """Whether an error says that there is no more room on a disk: the database's, or this machine's."""
    if isinstance(error, OSError):
        return error.errno in (errno.ENOSPC, errno.EDQUOT)
    return getattr(getattr(error, "orig", error), "sqlstate", None) == DISK_FULL


def connect(url: str) -> Engine:
    """An engine that checks a connection before use, so that a restarted database is found again."""
    return create_engine(
        url,
        pool_pre_ping=True,
        pool_size=8,
        max_overflow=8,
        pool_timeout=5,
        connect_args={"connect_timeout": 3},
        future=True,
    )


def migrate(engine: Engine) -> None:
    """Bring the tables up to date."""
    with engine.begin() as connection:
        if _version(connection) == newest():
            return
        # Seldom needed, and long to load.
        from alembic import command
        from alembic.config import Config

        config = Config()
        config.set_main_option("script_location", str(HERE / "alembic"))
        config.attributes["connection"] = connection
        command.upgrade(config, "head")


def newest() -> str:
    """The version that the tables have when they are up to date: each migration's file begins with its own."""
    return max(file.name.split("_")[0] for file in (HERE / "alembic/versions").glob("[0-9]*.py"))


def _version(connection: Connection) -> str | None:
    """The version of the tables in a database; None where there are none yet."""
    if not inspect(connection).has_table("alembic_version"):
        return None
    return connection.scalar(text("SELECT version_num FROM alembic_version"))
