"""Where somebody worked last in a production, so that it opens there again, here or on another machine."""

from __future__ import annotations

from typing import Any

from sqlalchemy import Engine, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.exc import IntegrityError

from sorvan.core.errors import missing
from sorvan.store.tables import lately


def put(engine: Engine, production: str, who: str | None, place: dict[str, Any]) -> None:
    """Keep a place; where nobody signs in, `who` is none. Raises `Refusal` if there is no such production."""
    row = {"production": production, "who": who or "", "place": place}
    kept = insert(lately).values(**row)
    kept = kept.on_conflict_do_update(index_elements=[lately.c.production, lately.c.who], set_={"place": place})
    try:
        with engine.begin() as db:
            db.execute(kept)
    except IntegrityError:
        raise missing("production", production) from None


def of(engine: Engine, production: str, who: str | None) -> dict[str, Any] | None:
    """The place that was kept last, if one was."""
    wanted = select(lately.c.place).where(lately.c.production == production, lately.c.who == (who or ""))
    with engine.connect() as db:
        found: dict[str, Any] | None = db.execute(wanted).scalar_one_or_none()
    return found
