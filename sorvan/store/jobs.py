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


def put(db: Connection, render: str, parts: Iterable[int]) -> None:
    """Queue these parts of a render, together with whatever else the transaction does.

    Raises `IntegrityError` if one of them waits already.
    """
    db.execute(text(f"SET LOCAL search_path TO {SCHEMA}, public"))
    for part in parts:
        db.execute(
            text(
                "SELECT procrastinate_defer_jobs_v1(ARRAY[ROW(:queue, :task, 0, NULL, :lock, "
                "jsonb_build_object('render', CAST(:render AS text), 'part', CAST(:part AS integer)), NULL)"
                "::procrastinate_job_to_defer_v1])"
            ),
            {"queue": QUEUE, "task": DRAW, "lock": lock_of(render, part), "render": render, "part": part},
        )
    db.execute(text("SET LOCAL search_path TO public"))
