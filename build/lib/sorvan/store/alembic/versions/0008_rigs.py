"""The shelf of rigs."""

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "rigs",
        sa.Column("id", sa.String(40), primary_key=True),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("owner", sa.String(40), nullable=True),
        sa.Column("body", sa.JSON, nullable=False),
        sa.Column("picture", sa.LargeBinary, nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False, server_default=sa.func.now()),
        sa.ForeignKeyConstraint(["owner"], ["users.id"], ondelete="CASCADE", name="rigs_owner_fkey"),
    )


def downgrade() -> None:
    op.drop_table("rigs")
