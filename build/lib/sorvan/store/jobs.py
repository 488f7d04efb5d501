"""The queue of jobs in the database, kept by procrastinate in a schema of its own."""

from __future__ import annotations

from collections.abc import Iterable

from sqlalchemy import Connection, Engine, text

SCHEMA = "jobs"
QUEUE = "renders"
DRAW = "draw-part"
"""The task that draws one part of a render; it is called with the render's id and the part's number."""


def address(engine: Engine) -> str:
    """Where the database is, as libpq reads it."""
    return engine.url.set(drivername="postgresql").render_as_string(hide_password=False)


def lock_of(render: str, part: int) -> str:
    """What keeps a part from being queued twice."""
    return f"{render}/{part}"


def put(db: Connection, render: str, parts: Iterable[int], place: int = 0) -> None:
    """Queue these parts of a render, together with whatever else the transaction does; those of a render with a
    lower `place` are taken first.

    Raises `IntegrityError` if one of them waits already.
    """
    db.execute(text(f"SET LOCAL search_path TO {SCHEMA}, public"))
    for part in parts:
        db.execute(
            text(
                "SELECT procrastinate_defer_jobs_v1(ARRAY[ROW(:queue, :task, CAST(:priority AS integer), NULL, :lock, "
                "jsonb_build_object('render', CAST(:render AS text), 'part', CAST(:part AS integer)), NULL)"
                "::procrastinate_job_to_defer_v1])"
            ),
            {
                "queue": QUEUE,
                "task": DRAW,
                "lock": lock_of(render, part),
                "render": render,
                "part": part,
                "priority": -place,
            },
        )
    db.execute(text("SET LOCAL search_path TO public"))


def rank(db: Connection, render: str, place: int) -> None:
    """Let the parts of a render that wait be taken before those of renders with a higher `place`."""
    db.execute(
        text(
            f"UPDATE {SCHEMA}.procrastinate_jobs SET priority = CAST(:priority AS integer) "
            "WHERE status = 'todo' AND args->>'render' = :render"
        ),
        {"priority": -place, "render": render},
    )
