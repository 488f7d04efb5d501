"""Where somebody worked last in a production."""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "lately",
        sa.Column("production", sa.String(40), primary_key=True),
        sa.Column("who", sa.String(40), primary_key=True),
        sa.Column("place", sa.JSON, nullable=False),
        sa.ForeignKeyConstraint(["production"], ["productions.id"], ondelete="CASCADE", name="lately_production_fkey"),
    )


def downgrade() -> None:
    op.drop_table("lately")
