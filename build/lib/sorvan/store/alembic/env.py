"""Runs migrations on the connection that `sorvan.store.database.migrate` hands over."""

from alembic import context

from sorvan.store.tables import metadata

connection = context.config.attributes["connection"]
context.configure(connection=connection, target_metadata=metadata)
with context.begin_transaction():
    context.run_migrations()
