"""The sound of a render, mixed when it was ordered."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("renders", sa.Column("sound", sa.LargeBinary()))


def downgrade() -> None:
    op.drop_column("renders", "sound")
