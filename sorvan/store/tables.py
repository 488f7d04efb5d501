"""The tables. Migrations under `alembic/` make them; a test says that the two agree."""

from __future__ import annotations

from sqlalchemy import (
    JSON,
    BigInteger,
    Column,
    DateTime,
    ForeignKey,
    Index,
    Integer,
    LargeBinary,
    MetaData,
    String,
    Table,
    UniqueConstraint,
    func,
)

metadata = MetaData()

users = Table(
    "users",
    metadata,
    Column("id", String(40), primary_key=True),
    Column("name", String(120), nullable=False),
    Column("key", String(240), nullable=False),
    Column("password", String(300), nullable=False),
    Column("at", DateTime(timezone=True), nullable=False, server_default=func.now()),
    UniqueConstraint("key", name="users_key_key"),
)
"""`key` is the name without what makes no difference in one; `password` is hashed (Argon2id, RFC 9106)."""

signed_in = Table(
    "signed_in",
    metadata,
    Column("token", String(64), primary_key=True),
    Column("user", ForeignKey("users.id", ondelete="CASCADE"), nullable=False),
    Column("until", DateTime(timezone=True), nullable=False),
)
"""`token` is the SHA-256 of what the browser holds: who reads this table can't sign in with it."""

productions = Table(
    "productions",
    metadata,
    Column("id", String(40), primary_key=True),
    Column("name", String(120), nullable=False),
    Column("seq", BigInteger, nullable=False, server_default="0"),
    Column("created", DateTime(timezone=True), nullable=False, server_default=func.now()),
    Column("changed", DateTime(timezone=True), nullable=False, server_default=func.now()),
    Column("snapshot", BigInteger, nullable=False, server_default="0"),
    Column("owner", ForeignKey("users.id", ondelete="SET NULL", name="productions_owner_fkey")),
)
"""`seq` is the number of the newest change: the revision of the production as a whole. `snapshot` is
the change up to which its documents were written down whole; later ones stand in the log alone."""

shares = Table(
    "shares",
    metadata,
    Column("production", ForeignKey("productions.id", ondelete="CASCADE"), primary_key=True),
    Column("user", ForeignKey("users.id", ondelete="CASCADE"), primary_key=True),
    Column("may", String(8), nullable=False),
)
"""Who else than its owner `may` look at a production, or edit it."""

lately = Table(
    "lately",
    metadata,
    Column("production", ForeignKey("productions.id", ondelete="CASCADE"), primary_key=True),
    Column("who", String(40), primary_key=True),
    Column("place", JSON, nullable=False),
)
"""Where somebody worked last in a production; `who` is empty where nobody signs in."""

documents = Table(
    "documents",
    metadata,
    Column("production", ForeignKey("productions.id", ondelete="CASCADE"), primary_key=True),
    Column("id", String(40), primary_key=True),
    Column("revision", BigInteger, nullable=False),
    Column("body", JSON, nullable=False),
    Column("place", Integer, nullable=False, server_default="0"),
)
"""Snapshots. `place` puts a production's documents into the order in which they were made."""

changes = Table(
    "changes",
    metadata,
    Column("production", ForeignKey("productions.id", ondelete="CASCADE"), primary_key=True),
    Column("seq", BigInteger, primary_key=True),
    Column("id", String(64), nullable=False),
    Column("window", String(64), nullable=False),
    Column("kind", String(8), nullable=False),
    Column("state", String(8), nullable=False),
    Column("target", BigInteger),
    Column("label", String(300), nullable=False),
    Column("command", JSON),
    Column("writes", JSON, nullable=False),
    Column("at", DateTime(timezone=True), nullable=False, server_default=func.now()),
    Column("who", String(120), nullable=False, server_default=""),
    UniqueConstraint("production", "id", name="changes_production_id_key"),
    Index("changes_by_state", "production", "kind", "state", "seq"),
)
"""`kind` is do, undo or redo. Of a `do`, `state` says whether it stands: done, undone, or
dropped once something new was done after it was undone. `who` did it is told where people sign in."""

assets = Table(
    "assets",
    metadata,
    Column("id", String(64), primary_key=True),
    Column("media", String(120), nullable=False),
    Column("data", LargeBinary, nullable=False),
    Column("at", DateTime(timezone=True), nullable=False, server_default=func.now()),
)
"""`at` is when it was last brought in."""

renders = Table(
    "renders",
    metadata,
    Column("id", String(40), primary_key=True),
    Column("production", ForeignKey("productions.id", ondelete="CASCADE"), nullable=False),
    Column("title", String(300), nullable=False),
    Column("settings", JSON, nullable=False),
    Column("state", String(12), nullable=False),
    Column("done", Integer, nullable=False, server_default="0"),
    Column("total", Integer, nullable=False),
    Column("message", String(600), nullable=False, server_default=""),
    Column("file", String(200), nullable=False, server_default=""),
    Column("at", DateTime(timezone=True), nullable=False, server_default=func.now()),
    Column("documents", JSON, nullable=False, server_default="[]"),
    Column("sound", LargeBinary),
    Column("place", Integer, nullable=False, server_default="0"),
    Index("renders_by_production", "production", "at"),
)
"""`documents` are those that are drawn, as they were when the render was ordered, `sound` is what is heard (FLAC).
Those with a lower `place` are drawn first. `done` and `file` tell of renders made before they had parts."""

render_parts = Table(
    "render_parts",
    metadata,
    Column("render", ForeignKey("renders.id", ondelete="CASCADE"), primary_key=True),
    Column("n", Integer, primary_key=True),
    Column("start", Integer, nullable=False),
    Column("stop", Integer, nullable=False),
    Column("done", Integer, nullable=False, server_default="0"),
    Column("data", LargeBinary),
)
"""Frames `start` up to `stop` of a render: how many are drawn, and, once all are, the finished stretch."""

rigs = Table(
    "rigs",
    metadata,
    Column("id", String(40), primary_key=True),
    Column("name", String(120), nullable=False),
    Column("owner", ForeignKey("users.id", ondelete="CASCADE", name="rigs_owner_fkey")),
    Column("body", JSON, nullable=False),
    Column("picture", LargeBinary, nullable=False),
    Column("at", DateTime(timezone=True), nullable=False, server_default=func.now()),
)
"""The shelf of rigs: `body` is a kit, `picture` its puppet at rest (PNG). Where people sign in each has a shelf."""
