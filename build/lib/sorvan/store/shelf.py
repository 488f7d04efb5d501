"""The shelf of rigs: puppets kept beside all productions, with their motions."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import ColumnElement, Engine, delete, insert, select

from sorvan.core.errors import missing
from sorvan.core.model.kit import Kit
from sorvan.store.tables import rigs


@dataclass(frozen=True)
class Shelved:
    """One rig on the shelf."""

    id: str
    name: str
    at: datetime
    kit: Kit


def _whose(owner: str | None) -> ColumnElement[bool]:
    return rigs.c.owner.is_(None) if owner is None else rigs.c.owner == owner


def listed(engine: Engine, owner: str | None) -> list[Shelved]:
    """The rigs on somebody's shelf, the last saved first."""
    with engine.connect() as db:
        rows = db.execute(
            select(rigs.c.id, rigs.c.name, rigs.c.at, rigs.c.body).where(_whose(owner)).order_by(rigs.c.at.desc())
        ).all()
    return [Shelved(r.id, r.name, r.at, Kit.model_validate(r.body)) for r in rows]


def names(engine: Engine, owner: str | None) -> set[str]:
    """What the rigs on somebody's shelf are called."""
    with engine.connect() as db:
        return set(db.scalars(select(rigs.c.name).where(_whose(owner))))


def get(engine: Engine, id: str, owner: str | None) -> Shelved:
    """One rig. Raises `Refusal` if it is not on the shelf."""
    with engine.connect() as db:
        row = db.execute(
            select(rigs.c.id, rigs.c.name, rigs.c.at, rigs.c.body).where(rigs.c.id == id, _whose(owner))
        ).first()
    if row is None:
        raise missing("rig on the shelf", id)
    return Shelved(row.id, row.name, row.at, Kit.model_validate(row.body))


def picture(engine: Engine, id: str, owner: str | None) -> bytes:
    """The picture of a rig (PNG). Raises `Refusal` if it is not on the shelf."""
    with engine.connect() as db:
        found = db.scalar(select(rigs.c.picture).where(rigs.c.id == id, _whose(owner)))
    if found is None:
        raise missing("rig on the shelf", id)
    return bytes(found)


def put(engine: Engine, id: str, name: str, owner: str | None, kit: Kit, picture: bytes) -> None:
    """Put a rig on somebody's shelf."""
    with engine.begin() as db:
        db.execute(
            insert(rigs).values(id=id, name=name, owner=owner, body=kit.model_dump(mode="json"), picture=picture)
        )


def remove(engine: Engine, id: str, owner: str | None) -> None:
    """Take a rig off the shelf. Raises `Refusal` if it is not there."""
    with engine.begin() as db:
        gone = db.execute(delete(rigs).where(rigs.c.id == id, _whose(owner))).rowcount
    if not gone:
        raise missing("rig on the shelf", id)
