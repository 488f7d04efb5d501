"""The first tables: productions, documents, the change log, assets and renders."""

from datetime import datetime

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None


def _production() -> sa.Column[str]:
    return sa.Column("production", sa.String(40), sa.ForeignKey("productions.id", ondelete="CASCADE"), nullable=False)


def _now(name: str) -> sa.Column[datetime]:
    return sa.Column(name, sa.DateTime(timezone=True), nullable=False, server_default=sa.func.now())


def upgrade() -> None:
    op.create_table(
        "productions",
        sa.Column("id", sa.String(40), primary_key=True),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("seq", sa.BigInteger, nullable=False, server_default="0"),
        _now("created"),
        _now("changed"),
    )
    op.create_table(
        "documents",
        _production(),
        sa.Column("id", sa.String(40)),
        sa.Column("revision", sa.BigInteger, nullable=False),
        sa.Column("body", sa.JSON, nullable=False),
        sa.PrimaryKeyConstraint("production", "id"),
    )
    op.create_table(
        "changes",
        _production(),
        sa.Column("seq", sa.BigInteger, autoincrement=False),
        sa.Column("id", sa.String(64), nullable=False),
        sa.Column("window", sa.String(64), nullable=False),
        sa.Column("kind", sa.String(8), nullable=False),
        sa.Column("state", sa.String(8), nullable=False),
        sa.Column("target", sa.BigInteger),
        sa.Column("label", sa.String(300), nullable=False),
        sa.Column("command", sa.JSON),
        sa.Column("writes", sa.JSON, nullable=False),
        _now("at"),
        sa.PrimaryKeyConstraint("production", "seq"),
        sa.UniqueConstraint("production", "id", name="changes_production_id_key"),
    )
    op.create_index("changes_by_state", "changes", ["production", "kind", "state", "seq"])
    op.create_table(
        "assets",
        sa.Column("id", sa.String(64), primary_key=True),
        sa.Column("media", sa.String(120), nullable=False),
        sa.Column("data", sa.LargeBinary, nullable=False),
    )
    op.create_table(
        "renders",
        sa.Column("id", sa.String(40), primary_key=True),
        _production(),
        sa.Column("title", sa.String(300), nullable=False),
        sa.Column("settings", sa.JSON, nullable=False),
        sa.Column("state", sa.String(12), nullable=False),
        sa.Column("done", sa.Integer, nullable=False, server_default="0"),
        sa.Column("total", sa.Integer, nullable=False),
        sa.Column("message", sa.String(600), nullable=False, server_default=""),
        sa.Column("file", sa.String(200), nullable=False, server_default=""),
        _now("at"),
    )
    op.create_index("renders_by_production", "renders", ["production", "at"])
