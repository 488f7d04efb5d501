"""Productions, their documents, and the change log.

Every function here is one transaction: when it returns, what it says is on disk.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal

from sqlalchemy import Connection, Engine, delete, func, insert, select, update
from sqlalchemy.dialects.postgresql import insert as upsert

from sorvan.core.change.writes import Write
from sorvan.core.errors import missing
from sorvan.core.model.documents import DOCUMENT, Documents
from sorvan.store.tables import changes, documents, productions

Kind = Literal["do", "undo", "redo"]


class Stale(Exception):
    """Somebody else wrote in the meantime: load again and repeat."""


@dataclass(frozen=True)
class Listed:
    """One line of the list of productions."""

    id: str
    name: str
    seq: int
    changed: datetime


@dataclass(frozen=True)
class Step:
    """A change that can be undone or redone."""

    seq: int
    label: str
    writes: tuple[Write, ...]


@dataclass(frozen=True)
class Entry:
    """A change to write down. `target` is the change that an undo or redo is about."""

    id: str
    window: str
    kind: Kind
    label: str
    command: Mapping[str, Any] | None
    writes: tuple[Write, ...]
    target: int | None = None


def create(engine: Engine, whole: Documents) -> None:
    """Write down a new production with all its documents."""
    production = whole.production
    with engine.begin() as db:
        db.execute(insert(productions).values(id=production.id, name=production.name, seq=0))
        _put(db, production.id, whole, whole.by_id, 0)


def listed(engine: Engine) -> list[Listed]:
    """All productions, the last changed first."""
    columns = (productions.c.id, productions.c.name, productions.c.seq, productions.c.changed)
    with engine.connect() as db:
        return [Listed(*row) for row in db.execute(select(*columns).order_by(productions.c.changed.desc()))]


def load(engine: Engine, production: str) -> tuple[Documents, int]:
    """A production's documents and the number of its newest change. Raises `Refusal` if it is gone."""
    with engine.connect() as db:
        seq = db.scalar(select(productions.c.seq).where(productions.c.id == production))
        if seq is None:
            raise missing("production", production)
        rows = db.execute(select(documents.c.body).where(documents.c.production == production).order_by(documents.c.id))
        found = [DOCUMENT.validate_python(body) for (body,) in rows]
    return Documents({d.id: d for d in found}), int(seq)


def seqs(engine: Engine, wanted: Iterable[str]) -> dict[str, int]:
    """The newest change's number of each of these productions."""
    with engine.connect() as db:
        rows = db.execute(select(productions.c.id, productions.c.seq).where(productions.c.id.in_(list(wanted))))
        return {id: int(seq) for id, seq in rows}


def remove(engine: Engine, production: str) -> None:
    """Take a production away for good."""
    with engine.begin() as db:
        if not db.execute(delete(productions).where(productions.c.id == production)).rowcount:
            raise missing("production", production)


def append(engine: Engine, production: str, seq: int, entry: Entry, after: Documents) -> int:
    """Write down a change on top of change number `seq`, with the documents it wrote.

    Returns the new change's number. Raises `Stale` if `seq` is not the newest any more.
    """
    with engine.begin() as db:
        moved = db.execute(
            update(productions)
            .where(productions.c.id == production, productions.c.seq == seq)
            .values(seq=seq + 1, name=after.production.name, changed=func.now())
        )
        if not moved.rowcount:
            raise Stale
        of_this = changes.c.production == production
        if entry.kind == "do":
            db.execute(update(changes).where(of_this, changes.c.state == "undone").values(state="dropped"))
        else:
            state = "undone" if entry.kind == "undo" else "done"
            db.execute(update(changes).where(of_this, changes.c.seq == entry.target).values(state=state))
        db.execute(
            insert(changes).values(
                production=production,
                seq=seq + 1,
                id=entry.id,
                window=entry.window,
                kind=entry.kind,
                state="done",
                target=entry.target,
                label=entry.label[:300],
                command=entry.command,
                writes=[w.model_dump(mode="json") for w in entry.writes],
            )
        )
        _put(db, production, after, {w.document for w in entry.writes}, seq + 1)
    return seq + 1


def known(engine: Engine, production: str, change: str) -> tuple[int, str] | None:
    """The number and label of a change already written down under this id."""
    with engine.connect() as db:
        row = db.execute(
            select(changes.c.seq, changes.c.label).where(changes.c.production == production, changes.c.id == change)
        ).first()
    return (int(row[0]), str(row[1])) if row else None


def since(engine: Engine, production: str, base: int, window: str) -> list[Step]:
    """Changes after number `base` that came from other windows."""
    return _steps(
        engine,
        changes.c.production == production,
        changes.c.seq > base,
        changes.c.window != window,
        order=changes.c.seq,
    )


def can_undo(engine: Engine, production: str) -> Step | None:
    """The change that undo takes back, if there is one."""
    return _first(_standing(engine, production, "done", changes.c.seq.desc()))


def can_redo(engine: Engine, production: str) -> Step | None:
    """The change that redo brings back, if there is one."""
    return _first(_standing(engine, production, "undone", changes.c.seq))


def _first(steps: list[Step]) -> Step | None:
    return steps[0] if steps else None


def _standing(engine: Engine, production: str, state: str, order: Any) -> list[Step]:
    return _steps(
        engine,
        changes.c.production == production,
        changes.c.kind == "do",
        changes.c.state == state,
        order=order,
        most=1,
    )


def _steps(engine: Engine, *where: Any, order: Any, most: int | None = None) -> list[Step]:
    query = select(changes.c.seq, changes.c.label, changes.c.writes).where(*where).order_by(order).limit(most)
    with engine.connect() as db:
        return [
            Step(int(seq), label, tuple(Write.model_validate(w) for w in writes))
            for seq, label, writes in db.execute(query)
        ]


def _put(db: Connection, production: str, after: Documents, ids: Iterable[str], revision: int) -> None:
    for id in ids:
        document = after.by_id.get(id)
        if document is None:
            db.execute(delete(documents).where(documents.c.production == production, documents.c.id == id))
            continue
        statement = upsert(documents).values(
            production=production, id=id, revision=revision, body=document.model_dump(mode="json")
        )
        changed = {"revision": statement.excluded.revision, "body": statement.excluded.body}
        db.execute(statement.on_conflict_do_update(index_elements=["production", "id"], set_=changed))
