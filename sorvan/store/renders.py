"""The list of renders: what was asked for and how far it has come."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal

from sqlalchemy import Engine, delete, insert, select, update

from sorvan.core.errors import missing
from sorvan.store.tables import renders

State = Literal["waiting", "running", "done", "cancelled", "failed", "stopped"]


@dataclass(frozen=True)
class Render:
    """One render. `done` of `total` frames are made; `file` names the result once there is one."""

    id: str
    production: str
    title: str
    settings: dict[str, Any]
    state: State
    done: int
    total: int
    message: str
    file: str
    at: datetime


_COLUMNS = [renders.c[name] for name in Render.__dataclass_fields__]


def add(engine: Engine, id: str, production: str, title: str, settings: dict[str, Any], total: int) -> Render:
    """Put a render on the list."""
    with engine.begin() as db:
        db.execute(
            insert(renders).values(
                id=id, production=production, title=title, settings=settings, state="waiting", total=total
            )
        )
    return get(engine, id)


def get(engine: Engine, id: str) -> Render:
    """One render. Raises `Refusal` if it is gone."""
    with engine.connect() as db:
        row = db.execute(select(*_COLUMNS).where(renders.c.id == id)).first()
    if row is None:
        raise missing("render", id)
    return Render(*row)


def of(engine: Engine, production: str) -> list[Render]:
    """A production's renders, the newest first."""
    with engine.connect() as db:
        rows = db.execute(select(*_COLUMNS).where(renders.c.production == production).order_by(renders.c.at.desc()))
        return [Render(*row) for row in rows]


def set_(engine: Engine, id: str, **values: Any) -> None:
    """Write down how a render stands."""
    with engine.begin() as db:
        db.execute(update(renders).where(renders.c.id == id).values(**values))


def remove(engine: Engine, id: str) -> None:
    """Take a render off the list."""
    with engine.begin() as db:
        db.execute(delete(renders).where(renders.c.id == id))


def stop_unfinished(engine: Engine) -> None:
    """Mark what was under way when the service last ended."""
    with engine.begin() as db:
        db.execute(
            update(renders)
            .where(renders.c.state.in_(["waiting", "running"]))
            .values(state="stopped", message="The service ended while this was being made. Start it again.")
        )
