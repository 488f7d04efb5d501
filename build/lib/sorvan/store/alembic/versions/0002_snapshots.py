"""Documents become snapshots that may lag behind the log, and keep the order in which they were made."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    op.add_column("productions", sa.Column("snapshot", sa.BigInteger, nullable=False, server_default="0"))
    op.execute("UPDATE productions SET snapshot = seq")
    op.add_column("documents", sa.Column("place", sa.Integer, nullable=False, server_default="0"))
    # Until now they came sorted by id; the production itself is always the first.
    op.execute(
        "UPDATE documents SET place = numbered.n FROM (SELECT production, id, row_number() OVER "
        "(PARTITION BY production ORDER BY id <> production, id) AS n FROM documents) AS numbered "
        "WHERE documents.production = numbered.production AND documents.id = numbered.id"
    )


def downgrade() -> None:
    op.drop_column("documents", "place")
    op.drop_column("productions", "snapshot")
