"""Who may sign in, whose productions are, who else may see or change them, and who did what."""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "users",
        sa.Column("id", sa.String(40), primary_key=True),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("key", sa.String(240), nullable=False),
        sa.Column("password", sa.String(300), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False, server_default=sa.func.now()),
        sa.UniqueConstraint("key", name="users_key_key"),
    )
    op.create_table(
        "signed_in",
        sa.Column("token", sa.String(64), primary_key=True),
        sa.Column("user", sa.String(40), sa.ForeignKey("users.id", ondelete="CASCADE"), nullable=False),
        sa.Column("until", sa.DateTime(timezone=True), nullable=False),
    )
    op.create_table(
        "shares",
        sa.Column("production", sa.String(40), sa.ForeignKey("productions.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("user", sa.String(40), sa.ForeignKey("users.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("may", sa.String(8), nullable=False),
    )
    op.add_column("productions", sa.Column("owner", sa.String(40), nullable=True))
    op.create_foreign_key("productions_owner_fkey", "productions", "users", ["owner"], ["id"], ondelete="SET NULL")
    op.add_column("changes", sa.Column("who", sa.String(120), nullable=False, server_default=""))


def downgrade() -> None:
    op.drop_column("changes", "who")
    op.drop_constraint("productions_owner_fkey", "productions")
    op.drop_column("productions", "owner")
    op.drop_table("shares")
    op.drop_table("signed_in")
    op.drop_table("users")
