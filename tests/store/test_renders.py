"""The list of renders: parts are begun, kept and ended, whoever does it and however many at once."""

from __future__ import annotations

import sys
import threading
import time
from datetime import UTC, datetime

import pytest
from sqlalchemy import Engine, text

from sorvan.core.errors import Refusal
from sorvan.core.model.documents import Documents
from sorvan.core.model.production import Production
from sorvan.service.letters.messages import RenderLetter, ToPage
from sorvan.service.rooms.rooms import Rooms
from sorvan.service.routes.renders import Follower
from sorvan.store import log, renders
from sorvan.store.renders import Render, Stretch

QUAY = Documents({"quay": Production(id="quay", name="Quay")})


def ordered(engine: Engine, id: str = "r", parts: int = 3) -> Render:
    if not log.listed(engine):
        log.create(engine, QUAY)
    stretches = [Stretch(n, 10 * n, 10 * n + 10) for n in range(parts)]
    now = datetime.now(UTC)
    order = {"motion": "m", "format": "png"}
    return renders.add(
        engine, Render(id, "quay", "Quay", order, "waiting", 0, 10 * parts, "", "", now), QUAY, stretches
    )


def queued(engine: Engine) -> int:
    with engine.connect() as db:
        return db.execute(text("SELECT count(*) FROM jobs.procrastinate_jobs WHERE status = 'todo'")).scalar() or 0


def test_a_render_goes_from_waiting_to_done_by_its_parts(engine: Engine) -> None:
    render = ordered(engine)
    assert (render.state, render.done, render.over) == ("waiting", 0, False)
    assert queued(engine) == 3
    assert renders.documents_to_draw(engine, "r").by_id == QUAY.by_id
    first = renders.begin(engine, "r", 0)
    assert first == Stretch(0, 0, 10)
    assert renders.progress(engine, "r", 0, 4)
    now = renders.get(engine, "r")
    assert (now.state, now.done) == ("running", 4)
    for n in (2, 0, 1):
        part = renders.begin(engine, "r", n)
        assert part is not None
        renders.keep(engine, "r", part, f"part {n}".encode())
    now = renders.get(engine, "r")
    assert (now.state, now.done, now.over) == ("done", 30, True)
    assert list(renders.parts(engine, "r")) == [b"part 0", b"part 1", b"part 2"]
    # What is drawn is not drawn again.
    assert renders.begin(engine, "r", 1) is None
    assert renders.queue_again(engine) == 0


def test_the_last_parts_kept_at_once_finish_the_render_once(engine: Engine) -> None:
    for n in range(8):
        ordered(engine, f"r{n}", 2)
        both = [renders.begin(engine, f"r{n}", i) for i in range(2)]
        gate = threading.Barrier(2)

        def keep(part: Stretch, id: str, gate: threading.Barrier) -> None:
            gate.wait()
            renders.keep(engine, id, part, b"x")

        threads = [threading.Thread(target=keep, args=(p, f"r{n}", gate)) for p in both]
        for t in threads:
            t.start()
        for t in threads:
            t.join()
        assert renders.get(engine, f"r{n}").state == "done"


@pytest.mark.parametrize("state", ["cancelled", "failed"])
def test_nothing_comes_of_a_render_that_is_over(engine: Engine, state: str) -> None:
    ordered(engine)
    part = renders.begin(engine, "r", 0)
    assert part is not None
    renders.end(engine, "r", state, "why")  # type: ignore[arg-type]
    assert not renders.progress(engine, "r", 0, 5)
    renders.keep(engine, "r", part, b"late")
    assert renders.begin(engine, "r", 1) is None
    now = renders.get(engine, "r")
    assert (now.state, now.message, now.over) == (state, "why", True)
    # The first word counts: a worker that fails after a cancel changes nothing.
    renders.end(engine, "r", "failed", "later")
    assert renders.get(engine, "r").message == "why"


def test_a_removed_production_takes_its_renders_and_leaves_workers_with_nothing(engine: Engine) -> None:
    ordered(engine)
    part = renders.begin(engine, "r", 0)
    assert part is not None
    log.remove(engine, "quay")
    assert not renders.progress(engine, "r", 0, 1)
    renders.keep(engine, "r", part, b"x")
    assert renders.begin(engine, "r", 1) is None and renders.queue_again(engine) == 0
    with pytest.raises(Refusal):
        renders.documents_to_draw(engine, "r")


class Ear:
    def __init__(self) -> None:
        self.told: list[RenderLetter] = []

    def hear(self, message: ToPage) -> None:
        assert isinstance(message, RenderLetter)
        self.told.append(message)


def test_windows_are_told_what_is_new_whoever_draws(engine: Engine) -> None:
    ordered(engine)
    rooms, ear = Rooms(engine), Ear()
    rooms.room("quay").join(ear)
    follower = Follower(engine, rooms, None)
    follower.look()
    follower.look()
    assert [m.render.state for m in ear.told] == ["waiting"]
    renders.begin(engine, "r", 0)
    renders.progress(engine, "r", 0, 3)
    follower.look()
    renders.progress(engine, "r", 0, 6)
    time.sleep(0.02)
    follower.look()
    states = [(m.render.state, m.render.done) for m in ear.told]
    assert states == [("waiting", 0), ("running", 3), ("running", 6)]
    assert ear.told[1].render.seconds_left is None and (ear.told[2].render.seconds_left or 0) > 0
    renders.end(engine, "r", "cancelled")
    follower.look()
    follower.look()
    assert [m.render.state for m in ear.told[3:]] == ["cancelled"]


def test_the_service_has_workers_only_while_needed_and_new_ones_when_they_die(engine: Engine) -> None:
    # As long-lived as a worker: until its standard input is closed.
    command = (sys.executable, "-c", "import sys; sys.stdin.read()")
    rooms = Rooms(engine)
    follower = Follower(engine, rooms, command, 2)
    follower.look()
    assert follower._workers == []
    ordered(engine)
    follower.look()
    first, other = follower._workers
    follower.look()
    assert follower._workers == [first, other]
    first.kill()
    first.wait()
    follower.look()
    assert len(follower._workers) == 2 and other in follower._workers and first not in follower._workers
    second = next(w for w in follower._workers if w is not other)
    assert second.poll() is None
    follower.stop()
    assert (second.returncode, other.returncode) == (0, 0)
