"""The list of renders: what was asked for, how far it has come, and the parts that are drawn."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal

from sqlalchemy import Connection, Engine, and_, case, delete, func, insert, select, text, update
from sqlalchemy.exc import IntegrityError

from sorvan.core.errors import missing
from sorvan.core.model import stored
from sorvan.core.model.documents import Documents
from sorvan.store import jobs
from sorvan.store.tables import render_parts, renders

RenderState = Literal["waiting", "running", "done", "cancelled", "failed", "stopped"]
UNFINISHED = ("waiting", "running")


@dataclass(frozen=True)
class Render:
    """One render. `done` of `total` frames are drawn; `file` names the result of one made without parts."""

    id: str
    production: str
    title: str
    settings: dict[str, Any]
    state: RenderState
    done: int
    total: int
    message: str
    file: str
    at: datetime
    place: int = 0

    @property
    def over(self) -> bool:
        """Whether nothing is to be drawn any more."""
        return self.state not in UNFINISHED


@dataclass(frozen=True)
class Stretch:
    """Frames `start` up to `stop` of a render."""

    n: int
    start: int
    stop: int


_DONE = func.coalesce(
    select(func.sum(render_parts.c.done)).where(render_parts.c.render == renders.c.id).scalar_subquery(), renders.c.done
)
_COLUMNS = [_DONE if name == "done" else renders.c[name] for name in Render.__dataclass_fields__]


def add(
    engine: Engine, render: Render, documents: Documents, parts: Sequence[Stretch], sound: bytes | None = None
) -> Render:
    """Put a render on the list and its parts into the queue, all or nothing; `sound` is what is heard (FLAC)."""
    bodies = [d.model_dump(mode="json") for d in documents.by_id.values()]
    with engine.begin() as db:
        last = select(func.max(renders.c.place)).where(renders.c.state.in_(UNFINISHED))
        place = (db.execute(last).scalar() or 0) + 1
        db.execute(
            insert(renders).values(
                place=place,
                done=render.done,
                id=render.id,
                production=render.production,
                title=render.title,
                settings=render.settings,
                state=render.state,
                total=render.total,
                documents=bodies,
                sound=sound,
            )
        )
        rows = [{"render": render.id, "n": p.n, "start": p.start, "stop": p.stop} for p in parts]
        if rows:
            db.execute(insert(render_parts), rows)
        jobs.put(db, render.id, [p.n for p in parts], place)
    return get(engine, render.id)


def get(engine: Engine, id: str) -> Render:
    """One render. Raises `Refusal` if it is gone."""
    with engine.connect() as db:
        row = db.execute(select(*_COLUMNS).where(renders.c.id == id)).first()
    if row is None:
        raise missing("render", id)
    return Render(*row)


def of(engine: Engine, production: str) -> list[Render]:
    """A production's renders: those that are not over in the order in which they are drawn, and then the newest
    first."""
    with engine.connect() as db:
        waits = case((renders.c.state.in_(UNFINISHED), renders.c.place), else_=None)
        rows = db.execute(
            select(*_COLUMNS)
            .where(renders.c.production == production)
            .order_by(waits.asc().nulls_last(), renders.c.at.desc())
        )
        return [Render(*row) for row in rows]


def under_way(engine: Engine, besides: Sequence[str] = ()) -> list[Render]:
    """Every render that is not over, of any production, and those named `besides`."""
    with engine.connect() as db:
        wanted = renders.c.state.in_(UNFINISHED) | renders.c.id.in_(besides)
        return [Render(*row) for row in db.execute(select(*_COLUMNS).where(wanted))]


def documents_to_draw(engine: Engine, id: str) -> Documents:
    """The documents of a render, as they were when it was ordered. Raises `Refusal` if it is gone."""
    with engine.connect() as db:
        bodies = db.execute(select(renders.c.documents).where(renders.c.id == id)).scalar()
    if bodies is None:
        raise missing("render", id)
    return stored.read(bodies)


def begin(engine: Engine, id: str, n: int) -> Stretch | None:
    """Take up a part. None if it is drawn already, or nobody wants it any more."""
    with engine.begin() as db:
        if not _wanted(db, id):
            return None
        row = db.execute(
            update(render_parts)
            .where(render_parts.c.render == id, render_parts.c.n == n, render_parts.c.data.is_(None))
            .values(done=0)
            .returning(render_parts.c.n, render_parts.c.start, render_parts.c.stop)
        ).first()
        if row is not None:
            db.execute(update(renders).where(renders.c.id == id).values(state="running"))
    return Stretch(*row) if row is not None else None


def _wanted(db: Connection, id: str) -> bool:
    state = db.execute(select(renders.c.state).where(renders.c.id == id).with_for_update()).scalar()
    return state in UNFINISHED


def progress(engine: Engine, id: str, n: int, done: int) -> bool:
    """Write down how many frames of a part are drawn. False if nobody wants it any more."""
    with engine.begin() as db:
        told = update(render_parts).where(
            render_parts.c.render == id,
            render_parts.c.n == n,
            render_parts.c.render.in_(select(renders.c.id).where(renders.c.state.in_(UNFINISHED))),
        )
        return db.execute(told.values(done=done)).rowcount > 0


def keep(engine: Engine, id: str, part: Stretch, data: bytes) -> None:
    """Keep a part that is drawn; with the last of them the render is done."""
    with engine.begin() as db:
        if not _wanted(db, id):
            return
        own = and_(render_parts.c.render == id, render_parts.c.n == part.n)
        db.execute(update(render_parts).where(own).values(data=data, done=part.stop - part.start))
        left = select(render_parts.c.n).where(render_parts.c.render == id, render_parts.c.data.is_(None))
        if db.execute(left.limit(1)).first() is None:
            # What was drawn is drawn; at which rate, whoever puts the parts together has to know.
            held = db.execute(select(renders.c.documents).where(renders.c.id == id)).scalar() or []
            rate = [d for d in held if d.get("kind") == "production"]
            db.execute(update(renders).where(renders.c.id == id).values(state="done", message="", documents=rate))


def end(engine: Engine, id: str, state: Literal["cancelled", "failed"], message: str = "") -> None:
    """Let a render be over without a film. What was drawn of it is kept: it can be taken up again."""
    with engine.begin() as db:
        if _wanted(db, id):
            db.execute(update(renders).where(renders.c.id == id).values(state=state, message=message))


def take_up(engine: Engine, id: str) -> None:
    """Let a render that was cancelled, or failed, go on with what is still to be drawn."""
    with engine.begin() as db:
        again = (renders.c.id == id) & renders.c.state.in_(("cancelled", "failed"))
        db.execute(update(renders).where(again).values(state="waiting", message=""))
    queue_again(engine)


def put_before(engine: Engine, id: str, other: str | None) -> None:
    """Let a render be drawn before another one that is not over, or after all of them."""
    with engine.begin() as db:
        rows = db.execute(
            select(renders.c.id)
            .where(renders.c.state.in_(UNFINISHED))
            .order_by(renders.c.place, renders.c.at)
            .with_for_update()
        ).scalars()
        order = [r for r in rows if r != id]
        order.insert(order.index(other) if other in order else len(order), id)
        for place, render in enumerate(order):
            db.execute(update(renders).where(renders.c.id == render).values(place=place))
            jobs.rank(db, render, place)


def parts(engine: Engine, id: str) -> Iterator[bytes]:
    """The drawn parts of a render, in their order, one at a time."""
    with engine.connect() as db:
        numbers = db.execute(
            select(render_parts.c.n).where(render_parts.c.render == id).order_by(render_parts.c.n)
        ).scalars()
        for n in list(numbers):
            own = and_(render_parts.c.render == id, render_parts.c.n == n)
            yield bytes(db.execute(select(render_parts.c.data).where(own)).scalar_one())


def sound(engine: Engine, id: str) -> bytes | None:
    """What is heard in a render (FLAC), if anything is."""
    with engine.connect() as db:
        found = db.execute(select(renders.c.sound).where(renders.c.id == id)).scalar()
    return bytes(found) if found is not None else None


def queue_again(engine: Engine) -> int:
    """Queue every part that is to be drawn and that no job stands for any more. Gives how many."""
    left = text(
        "SELECT p.render, p.n, r.place FROM render_parts p JOIN renders r ON r.id = p.render "
        "WHERE r.state IN ('waiting', 'running') AND p.data IS NULL AND NOT EXISTS "
        f"(SELECT 1 FROM {jobs.SCHEMA}.procrastinate_jobs j WHERE j.status IN ('todo', 'doing') "
        "AND j.args->>'render' = p.render AND (j.args->>'part')::integer = p.n) ORDER BY r.place, r.at, p.n"
    )
    with engine.connect() as db:
        found = [(str(render), int(n), int(place)) for render, n, place in db.execute(left)]
    count = 0
    for render, n, place in found:
        try:
            with engine.begin() as db:
                jobs.put(db, render, [n], place)
            count += 1
        except IntegrityError:
            # Another worker has just queued it.
            continue
    return count


def remove(engine: Engine, id: str) -> None:
    """Take a render off the list, with its parts."""
    with engine.begin() as db:
        db.execute(delete(renders).where(renders.c.id == id))
