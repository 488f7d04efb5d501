"""Reaching the database."""

from __future__ import annotations

import errno
from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine
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
    config = Config()
    config.set_main_option("script_location", str(HERE / "alembic"))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")
