"""Renders are drawn in parts by whichever worker takes them; the queue of jobs has a schema of its own."""

import sqlalchemy as sa
from alembic import op
from procrastinate.schema import SchemaManager

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    op.add_column("renders", sa.Column("documents", sa.JSON, nullable=False, server_default="[]"))
    op.create_table(
        "render_parts",
        sa.Column("render", sa.String(40), sa.ForeignKey("renders.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("n", sa.Integer, primary_key=True),
        sa.Column("start", sa.Integer, nullable=False),
        sa.Column("stop", sa.Integer, nullable=False),
        sa.Column("done", sa.Integer, nullable=False, server_default="0"),
        sa.Column("data", sa.LargeBinary),
    )
    # What an older service left unfinished can't be gone on with: it kept no parts.
    op.execute(
        "UPDATE renders SET state = 'stopped', message = 'The service ended while this was being made. "
        "Start it again.' WHERE state IN ('waiting', 'running')"
    )
    op.execute("CREATE SCHEMA IF NOT EXISTS jobs")
    op.execute("SET LOCAL search_path TO jobs, public")
    # Many statements at once: only the driver itself takes them, and only without parameters.
    driver = op.get_bind().connection.driver_connection
    assert driver is not None
    driver.execute(SchemaManager.get_schema())
    op.execute("SET LOCAL search_path TO public")


def downgrade() -> None:
    op.execute("DROP SCHEMA jobs CASCADE")
    op.drop_table("render_parts")
    op.drop_column("renders", "documents")
