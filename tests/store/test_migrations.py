"""The migrations make the tables that the code uses."""

from __future__ import annotations

from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import Engine

from sorvan.store.database import migrate
from sorvan.store.tables import metadata


def test_migrations_and_tables_agree(engine: Engine) -> None:
    with engine.connect() as db:
        assert compare_metadata(MigrationContext.configure(db), metadata) == []
    migrate(engine)  # a second time changes nothing
