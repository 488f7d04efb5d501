"""Productions, their documents, and the change log.

Every function here is one transaction: when it returns, what it says is on disk.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal

from sqlalchemy import Connection, Engine, delete, func, insert, select, text, update
from sqlalchemy.dialects.postgresql import insert as upsert

from sorvan.core.change.writes import Write, replayed
from sorvan.core.errors import missing
from sorvan.core.model import stored
from sorvan.core.model.documents import Documents
from sorvan.store.tables import changes, documents, productions, users

EntryKind = Literal["do", "undo", "redo"]


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
    """A change that was made, with what it wrote."""

    seq: int
    label: str
    writes: tuple[Write, ...]
    who: str = ""


@dataclass(frozen=True)
class LogEntry:
    """A change to write down. `target` is the change that an undo or redo is about."""

    id: str
    window: str
    kind: EntryKind
    label: str
    command: Mapping[str, Any] | None
    writes: tuple[Write, ...]
    target: int | None = None
    who: str = ""


def create(engine: Engine, whole: Documents, owner: str | None = None) -> None:
    """Write down a new production with all its documents, as somebody's (a user's id). What nobody signed in for is the
    first one's who may sign in, if anybody may."""
    production = whole.production
    with engine.begin() as db:
        if owner is None:
            # Whoever is added meanwhile waits for this, or this for them.
            db.execute(text("LOCK TABLE users IN SHARE MODE"))
            owner = db.scalar(select(users.c.id).order_by(users.c.at, users.c.id).limit(1))
        db.execute(insert(productions).values(id=production.id, name=production.name, seq=0, snapshot=0, owner=owner))
        _put(db, production.id, whole, whole.by_id, 0)


def listed(engine: Engine) -> list[Listed]:
    """All productions, the last changed first."""
    columns = (productions.c.id, productions.c.name, productions.c.seq, productions.c.changed)
    with engine.connect() as db:
        return [Listed(*row) for row in db.execute(select(*columns).order_by(productions.c.changed.desc()))]


@dataclass(frozen=True)
class State:
    """A production at one moment: its documents, the number of its newest change, and what undo and
    redo would touch. `snapshot` is the change up to which the documents are written down whole, `left_out` tells what
    of that could not be read."""

    documents: Documents
    seq: int
    undo: Step | None = None
    redo: Step | None = None
    snapshot: int = 0
    left_out: tuple[str, ...] = ()


def load(engine: Engine, production: str) -> State:
    """A production as it is now: its snapshots, brought up to the log, as far as they are sound.

    Raises `Refusal` if it is gone.
    """
    with _one_moment(engine) as db:
        row = db.execute(
            select(productions.c.seq, productions.c.snapshot, productions.c.name).where(productions.c.id == production)
        ).first()
        if row is None:
            raise missing("production", production)
        of_this = documents.c.production == production
        rows = db.execute(
            select(documents.c.id, documents.c.body).where(of_this).order_by(documents.c.place, documents.c.id)
        ).all()
        steps = _steps(db, changes.c.production == production, changes.c.seq > row.snapshot, order=changes.c.seq)
        standing = _standing(db, production)
    bodies: dict[str, Any] = {str(row.id): row.body for row in rows}
    for step in steps:
        replayed(bodies, step.writes)
    found = stored.opened(bodies, production, row.name)
    return State(found.documents, int(row.seq), *standing, snapshot=int(row.snapshot), left_out=found.left_out)


def newer(engine: Engine, production: str, seq: int) -> tuple[list[Step], Step | None, Step | None]:
    """The changes after number `seq` as they were written, and what undo and redo would touch now."""
    with _one_moment(engine) as db:
        found = _steps(db, changes.c.production == production, changes.c.seq > seq, order=changes.c.seq)
        return found, *_standing(db, production)


def _one_moment(engine: Engine) -> Connection:
    """A connection on which everything that is read is of one and the same moment."""
    return engine.connect().execution_options(isolation_level="REPEATABLE READ")


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


def append(engine: Engine, production: str, seq: int, entry: LogEntry, name: str) -> tuple[Step | None, Step | None]:
    """Write down a change on top of change number `seq`, as number `seq` + 1; `name` is the production's now.

    Only the change itself is written; documents follow when a snapshot is taken. Gives what undo and
    redo would touch from then on. Raises `Stale` if `seq` is not the newest any more.
    """
    with engine.begin() as db:
        moved = db.execute(
            update(productions)
            .where(productions.c.id == production, productions.c.seq == seq)
            .values(seq=seq + 1, name=name, changed=func.now())
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
                who=entry.who,
            )
        )
        if entry.kind == "do":
            return Step(seq + 1, entry.label, entry.writes, entry.who), None
        return _standing(db, production)


def keep_snapshot(engine: Engine, production: str, state: State) -> bool:
    """Write down whole what the log has changed since the last snapshot. Says whether it was needed still."""
    with engine.begin() as db:
        before = db.scalar(select(productions.c.snapshot).where(productions.c.id == production).with_for_update())
        if before is None or before >= state.seq:
            return False
        writes = db.scalars(
            select(changes.c.writes).where(
                changes.c.production == production, changes.c.seq > before, changes.c.seq <= state.seq
            )
        )
        _put(db, production, state.documents, {w["document"] for found in writes for w in found}, state.seq)
        db.execute(update(productions).where(productions.c.id == production).values(snapshot=state.seq))
    return True


What = tuple[EntryKind, Any]
"""What a change is: its kind, and the command that it did or the change that it took back or brought back."""


def known(engine: Engine, production: str, change: str) -> tuple[Step, What] | None:
    """A change already written down under this id, and what it is."""
    this = (changes.c.production == production, changes.c.id == change)
    with _one_moment(engine) as db:
        row = db.execute(select(changes.c.kind, changes.c.command, changes.c.target).where(*this)).first()
        step = _first(_steps(db, *this, order=changes.c.seq, most=1))
    if row is None or step is None:
        return None
    return step, (row.kind, row.command if row.kind == "do" else row.target)


def since(engine: Engine, production: str, base: int, window: str) -> list[Step]:
    """Changes after number `base` that came from other windows."""
    of_others = (changes.c.production == production, changes.c.seq > base, changes.c.window != window)
    with engine.connect() as db:
        return _steps(db, *of_others, order=changes.c.seq)


def _first(steps: list[Step]) -> Step | None:
    return steps[0] if steps else None


def _standing(db: Connection, production: str) -> tuple[Step | None, Step | None]:
    """The change that undo would take back, and the one that redo would bring back."""
    made = (changes.c.production == production, changes.c.kind == "do")
    undo = _steps(db, *made, changes.c.state == "done", order=changes.c.seq.desc(), most=1)
    redo = _steps(db, *made, changes.c.state == "undone", order=changes.c.seq, most=1)
    return _first(undo), _first(redo)


def _steps(db: Connection, *where: Any, order: Any, most: int | None = None) -> list[Step]:
    columns = (changes.c.seq, changes.c.label, changes.c.writes, changes.c.who)
    query = select(*columns).where(*where).order_by(order).limit(most)
    return [
        Step(int(seq), label, tuple(Write.model_validate(w) for w in writes), who)
        for seq, label, writes, who in db.execute(query)
    ]


def _put(db: Connection, production: str, after: Documents, ids: Iterable[str], revision: int) -> None:
    of_this = documents.c.production == production
    for id in ids:
        document = after.by_id.get(id)
        if document is None:
            db.execute(delete(documents).where(of_this, documents.c.id == id))
            continue
        statement = upsert(documents).values(
            production=production, id=id, revision=revision, body=document.model_dump(mode="json")
        )
        changed = {"revision": statement.excluded.revision, "body": statement.excluded.body}
        db.execute(statement.on_conflict_do_update(index_elements=["production", "id"], set_=changed))
    for place, id in enumerate(after.by_id):
        db.execute(
            update(documents).where(of_this, documents.c.id == id, documents.c.place != place).values(place=place)
        )
