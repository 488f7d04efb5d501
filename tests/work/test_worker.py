"""Workers take parts of renders from the database; whatever is killed, what was drawn is kept."""

from __future__ import annotations

import asyncio
import hashlib
import os
import secrets
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator
from datetime import UTC, datetime
from pathlib import Path

import av
import pytest
from sqlalchemy import Engine, select, text

from bench.scenes import production
from sorvan.picture.order import RenderOrder, stretches
from sorvan.service.routes.renders import file_of
from sorvan.store import assets, log, renders
from sorvan.store.cluster import ensure, stop
from sorvan.store.database import connect, migrate
from sorvan.store.jobs import SCHEMA
from sorvan.store.renders import Render, Stretch
from sorvan.store.tables import render_parts
from sorvan.work.parts import TRIES, Drawer, Stumbled
from sorvan.work.worker import PATIENCE, Worker
from tests.begun import Begun, begin
from tests.conftest import ROOT, Service, change
from tests.conftest import until as comes_to_be
from tests.service.test_kill import prepared

FRAMES = 400
DOCUMENTS, KEPT = production(30, FRAMES)


@pytest.fixture
def workers(database: str, tmp_path: Path) -> Iterator[Callable[[], Begun]]:
    started: list[Begun] = []

    def start() -> Begun:
        environment = {**os.environ, "SORVAN_DATABASE_URL": database, "SORVAN_HOME": str(tmp_path)}
        process = begin(["worker"], environment, ROOT)
        started.append(process)
        return process

    yield start
    for process in started:
        process.kill()
        process.wait()


def ordered(engine: Engine, kept: bool = True, **order: object) -> str:
    """A production with a render of it on the list."""
    if "bench" not in {p.id for p in log.listed(engine)}:
        if kept:
            assets.put(engine, KEPT)
        log.create(engine, DOCUMENTS)
    made = RenderOrder.model_validate({"motion": "tree-m", "width": 640, **order})
    settings = made.settings(DOCUMENTS)
    parts = [Stretch(n, a, b) for n, (a, b) in enumerate(stretches(settings))]
    total, now = settings.stop - settings.start, datetime.now(UTC)
    render = Render(secrets.token_hex(8), "bench", "Tree", made.model_dump(), "waiting", 0, total, "", "", now)
    return renders.add(engine, render, made.needed(DOCUMENTS), parts).id


def until(engine: Engine, id: str, wanted: Callable[[Render], bool], seconds: float = 90) -> Render:
    end = time.monotonic() + seconds
    while not wanted(found := renders.get(engine, id)):
        assert time.monotonic() < end, found
        time.sleep(0.05)
    return found


def drawn(engine: Engine, id: str) -> dict[int, str]:
    """The parts that are kept, by a hash of what is in them."""
    with engine.connect() as db:
        rows = db.execute(select(render_parts.c.n, render_parts.c.data).where(render_parts.c.render == id))
        return {n: hashlib.sha256(data).hexdigest() for n, data in rows if data is not None}


def frames_of(path: Path) -> int:
    with av.open(str(path)) as film:
        return sum(1 for _ in film.decode(film.streams.video[0]))


def test_what_a_killed_worker_drew_is_kept_and_another_goes_on(
    engine: Engine, tmp_path: Path, workers: Callable[[], Begun]
) -> None:
    id = ordered(engine)
    first = workers()
    until(engine, id, lambda r: r.done > 100)
    first.send_signal(signal.SIGKILL)
    first.wait()
    before = drawn(engine, id)
    assert before and renders.get(engine, id).state == "running"
    workers()
    found = until(engine, id, lambda r: r.over)
    assert (found.state, found.done, found.total) == ("done", FRAMES, FRAMES)
    after = drawn(engine, id)
    assert {n: after[n] for n in before} == before
    assert frames_of(file_of(engine, tmp_path / "films", found)) == FRAMES
    none_left(engine)


def test_two_workers_share_a_render_and_one_told_to_end_lets_its_part_go(
    engine: Engine, workers: Callable[[], Begun]
) -> None:
    id = ordered(engine)
    pair = [workers(), workers()]
    with engine.connect() as db:
        doing, end = 0, time.monotonic() + 60
        while doing < 2:
            assert time.monotonic() < end
            doing = (
                db.execute(text("SELECT count(*) FROM jobs.procrastinate_jobs WHERE status = 'doing'")).scalar() or 0
            )
            db.rollback()
            time.sleep(0.02)
    pair[0].send_signal(signal.SIGTERM)
    assert pair[0].wait(timeout=20) == 0
    assert until(engine, id, lambda r: r.over).state == "done"


def test_a_cancelled_render_is_let_go_and_the_next_is_drawn(engine: Engine, workers: Callable[[], Begun]) -> None:
    id = ordered(engine, width=1920)
    after = ordered(engine, format="png", first=390)
    workers()
    until(engine, id, lambda r: r.done > 0)
    renders.end(engine, id, "cancelled")
    assert until(engine, after, lambda r: r.over).state == "done"
    assert renders.get(engine, id).state == "cancelled" and not drawn(engine, id)


def test_a_render_that_cannot_be_made_says_why(engine: Engine, workers: Callable[[], Begun]) -> None:
    id = ordered(engine, kept=False)
    workers()
    found = until(engine, id, lambda r: r.over)
    assert found.state == "failed" and "There is no asset" in found.message


def jobs(engine: Engine, sql: str) -> None:
    with engine.begin() as db:
        db.execute(text("SET LOCAL search_path TO jobs, public"))
        db.execute(text(sql))


def test_a_part_that_ends_every_worker_fails_its_render_and_stops_nobody_else(
    engine: Engine, workers: Callable[[], Begun]
) -> None:
    id, after = ordered(engine), ordered(engine, last=3)
    # As it stands when three workers were killed over the first part.
    jobs(engine, f"UPDATE procrastinate_jobs SET status = 'doing', attempts = 3 WHERE args->>'render' = '{id}'")
    workers()
    assert "ended by itself" in until(engine, id, lambda r: r.over).message
    assert until(engine, after, lambda r: r.over).state == "done"


def test_parts_that_no_job_stands_for_are_queued_again(engine: Engine) -> None:
    id = ordered(engine)
    count = len(stretches(RenderOrder(motion="tree-m", width=640).settings(DOCUMENTS)))
    jobs(engine, "DELETE FROM procrastinate_jobs WHERE (args->>'part')::integer > 2")
    assert renders.queue_again(engine) == count - 3
    assert renders.queue_again(engine) == 0
    renders.end(engine, id, "cancelled")
    jobs(engine, "DELETE FROM procrastinate_jobs")
    assert renders.queue_again(engine) == 0


def test_a_render_outlives_the_service_and_shows_what_was_ordered(serve: Callable[..., Service]) -> None:
    service = serve()
    client = service.client()
    id, pieces = prepared(client)
    change(client, id, {"do": "add-motion", "id": "m", "puppet": "a", "name": "flap", "length": 600})
    order = {"motion": "m", "format": "png", "width": 240}
    render = client.post(f"/productions/{id}/renders", json=order).json()
    before = client.post(f"/productions/{id}/renders", json={**order, "last": 1}).json()
    # What is changed from now on is not in it.
    change(client, id, {"do": "shift-pieces", "puppet": "a", "pieces": pieces, "dx": 5000, "dy": 0})

    def now(wanted: str) -> dict[str, object]:
        listed: list[dict[str, object]] = service.client().get(f"/productions/{id}/renders").json()
        return next(r for r in listed if r["id"] == wanted)

    while not now(render["id"])["done"]:
        time.sleep(0.05)
    service.kill()
    service.start()
    done = now(render["id"])["done"]
    assert now(render["id"])["state"] in ("running", "done") and isinstance(done, int) and done > 0
    end = time.monotonic() + 120
    # The part that was under way is given back once its worker has been silent for a while.
    while any(now(r["id"])["state"] != "done" for r in (before, render)):
        assert time.monotonic() < end
        time.sleep(0.1)
    film = service.client().get(f"/productions/{id}/renders/{before['id']}/file").content
    still = service.client().post(f"/productions/{id}/renders", json={**order, "last": 1}).json()
    while now(still["id"])["state"] != "done":
        assert time.monotonic() < end
        time.sleep(0.1)
    assert service.client().get(f"/productions/{id}/renders/{still['id']}/file").content != film


@pytest.mark.parametrize("error", [StopIteration(), RuntimeError("out of paint")])
def test_no_error_keeps_a_worker_waiting_for_ever(engine: Engine, error: Exception) -> None:
    """Some errors never reach whoever waits for a thread: what is raised again must be none of them."""
    id = ordered(engine)
    drawer = Drawer(engine)

    def stumble(*_: object) -> bytes:
        raise error

    drawer._drawn = stumble  # type: ignore[method-assign]
    with pytest.raises(Stumbled, match=type(error).__name__):
        drawer.draw(id, 0, 1, lambda: False)
    assert renders.get(engine, id).state == "running"
    drawer.draw(id, 0, TRIES, lambda: False)
    assert renders.get(engine, id).state == "failed"


def test_a_render_taken_up_again_draws_only_what_is_left(engine: Engine, workers: Callable[[], Begun]) -> None:
    id = ordered(engine)
    workers()
    until(engine, id, lambda r: r.done > 100)
    renders.end(engine, id, "cancelled")
    until(engine, id, lambda r: r.over)
    time.sleep(0.5)
    before = drawn(engine, id)
    assert before
    renders.take_up(engine, id)
    assert until(engine, id, lambda r: r.over).state == "done"
    after = drawn(engine, id)
    assert {n: after[n] for n in before} == before


def test_renders_are_drawn_in_the_order_in_which_they_are_put(engine: Engine) -> None:
    one, two, three = ordered(engine), ordered(engine, format="png"), ordered(engine, format="gif")

    def waiting() -> list[str]:
        with engine.connect() as db:
            rows = db.execute(
                text(
                    "SELECT args->>'render' FROM jobs.procrastinate_jobs WHERE status = 'todo' ORDER BY priority DESC, id"
                )
            )
            return list(dict.fromkeys(rows.scalars()))

    assert waiting() == [one, two, three]
    renders.put_before(engine, three, one)
    assert waiting() == [three, one, two]
    renders.put_before(engine, three, None)
    assert waiting() == [one, two, three]
    assert [r.id for r in renders.of(engine, "bench")] == [one, two, three]


def test_a_worker_outlives_a_production_that_is_removed_while_it_is_drawn(
    engine: Engine, workers: Callable[[], Begun]
) -> None:
    id = ordered(engine)
    worker = workers()
    until(engine, id, lambda r: r.done > 20)
    log.remove(engine, "bench")
    log.create(engine, DOCUMENTS)
    again = ordered(engine)
    assert until(engine, again, lambda r: r.over).state == "done" and worker.poll() is None
    # Of what was removed nothing is left, neither of its film nor of the work on it.
    with engine.connect() as db:
        parts = db.execute(select(render_parts.c.render).distinct()).scalars().all()
        assert parts == [again]
    none_left(engine)


def none_left(engine: Engine) -> None:
    """No job is left. Its row goes a moment after the work that it stood for is done."""
    end = time.monotonic() + 20
    while (left := _jobs(engine)) and time.monotonic() < end:
        time.sleep(0.1)
    assert left == 0


def _jobs(engine: Engine) -> int:
    with engine.connect() as db:
        return int(db.execute(text("SELECT count(*) FROM jobs.procrastinate_jobs")).scalar() or 0)


def test_a_worker_that_is_told_to_end_ends_as_it_should(database: str, engine: Engine) -> None:
    worker = subprocess.Popen(
        [sys.executable, "-m", "sorvan.cli", "worker", "--with-parent"],
        env={**os.environ, "SORVAN_DATABASE_URL": database},
        stdin=subprocess.PIPE,
        stderr=subprocess.PIPE,
        cwd=ROOT,
    )
    jobs_of = "SELECT count(*) FROM jobs.procrastinate_workers"
    with engine.connect() as db:
        end = time.monotonic() + 60
        while not db.execute(text(jobs_of)).scalar():
            assert time.monotonic() < end
            db.rollback()
            time.sleep(0.1)
    worker.terminate()
    # Whoever started it holds its input open all the while.
    code = worker.wait(30)
    _, said = worker.communicate()
    assert code == 0 and b"Fatal" not in said, said[-400:]


def test_a_worker_ends_although_the_word_was_lost(engine: Engine, monkeypatch: pytest.MonkeyPatch) -> None:
    told = 0

    async def hard_of_hearing(_: Worker) -> None:
        nonlocal told
        while told < 3:
            try:
                await asyncio.sleep(3600)
            except asyncio.CancelledError:
                told += 1

    monkeypatch.setattr(Worker, "_work", hard_of_hearing)
    threading.Timer(0.2, lambda: os.kill(os.getpid(), signal.SIGTERM)).start()
    asyncio.run(asyncio.wait_for(Worker(engine)._run(False), 15))
    assert told == 3


@pytest.mark.parametrize("told", ["parent", "signal"])
def test_a_worker_ends_although_the_database_went_first(tmp_path: Path, told: str) -> None:
    own = ensure(tmp_path / "home")
    engine = connect(own.url)
    migrate(engine)
    process = subprocess.Popen(
        [sys.executable, "-m", "sorvan.cli", "worker", "--with-parent"],
        env={**os.environ, "SORVAN_DATABASE_URL": own.url},
        cwd=ROOT,
        stdin=subprocess.PIPE,
        stderr=subprocess.DEVNULL,
    )
    try:
        # It has come up once it has said that it is alive.
        comes_to_be(lambda: bool(_count(engine, f"SELECT count(*) FROM {SCHEMA}.procrastinate_workers")))
        stop(own, "immediate")
        if told == "parent":
            assert process.stdin is not None
            process.stdin.close()
        else:
            process.send_signal(signal.SIGTERM)
        assert process.wait(PATIENCE + 20) == 0
    finally:
        process.kill()
        process.wait()
        engine.dispose()
        stop(own, "immediate")


STUBBORN = """
import asyncio, sys
from sorvan.store.database import connect
from sorvan.work.worker import Worker

async def deaf():
    while True:
        try:
            await asyncio.sleep(60)
        except asyncio.CancelledError:
            pass

class Left(Worker):
    left = []
    async def _work(self):
        self.left.append(asyncio.create_task(deaf()))
        print("up", flush=True)
        await asyncio.sleep(600)

Left(connect("postgresql+psycopg://nobody@127.0.0.1:1/none")).run(with_parent=True)
"""


def test_a_worker_ends_although_something_of_the_queue_never_does() -> None:
    process = subprocess.Popen(
        [sys.executable, "-c", STUBBORN], cwd=ROOT, stdin=subprocess.PIPE, stdout=subprocess.PIPE
    )
    try:
        assert process.stdout is not None and process.stdout.readline() == b"up\n"
        assert process.stdin is not None
        process.stdin.close()
        assert process.wait(PATIENCE + 20) == 0
    finally:
        process.kill()
        process.wait()


def _count(engine: Engine, sql: str) -> int:
    with engine.connect() as db:
        return int(db.scalar(text(sql)))
