"""The order in which renders are drawn."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("renders", sa.Column("place", sa.Integer(), nullable=False, server_default="0"))


def downgrade() -> None:
    op.drop_column("renders", "place")
