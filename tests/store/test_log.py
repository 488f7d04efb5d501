"""Documents are snapshots that lag behind the log; reading brings them up to it."""

from __future__ import annotations

import threading
from typing import Any

import pytest
from sqlalchemy import Engine, delete, select, update
from sqlalchemy.exc import OperationalError

from sorvan.core.change.command import Command
from sorvan.core.change.commands import COMMAND
from sorvan.core.errors import Refusal
from sorvan.core.model.documents import Documents
from sorvan.core.model.production import Production
from sorvan.picture.studio import ART_MEDIA, NOTHING, Studio
from sorvan.service.letters.messages import Changed, ToPage
from sorvan.service.rooms.rooms import Room, Rooms
from sorvan.store import assets, log
from sorvan.store.tables import assets as asset_table
from sorvan.store.tables import changes
from sorvan.store.tables import documents as table
from tests.core.worlds import piece


class Ear:
    """A window that remembers what it was told."""

    def __init__(self) -> None:
        self.told: list[ToPage] = []

    def hear(self, message: ToPage) -> None:
        self.told.append(message)


def submit(room: Room, command: dict[str, Any], id: str | None = None) -> int:
    made = COMMAND.validate_python(command)
    return room.submit(id or f"change-{room.seq:08}", "w", room.seq, made).seq


@pytest.fixture
def room(engine: Engine) -> Room:
    log.create(engine, Documents({"quay": Production(id="quay", name="Quay")}))
    # The drawing of all pieces that are made up here.
    assets.put(engine, {"0" * 64: (ART_MEDIA, NOTHING.model_dump_json().encode())})
    room = Rooms(engine).room("quay")
    for id in ("whistle", "gull", "pennant"):
        submit(room, {"do": "add-puppet", "id": id, "name": id.title()})
    submit(room, {"do": "add-pieces", "puppet": "gull", "pieces": [piece("body", 0, 0), piece("wing", 9, 0)]})
    submit(room, {"do": "add-motion", "id": "flap", "puppet": "gull", "name": "Flap", "length": 24})
    return room


def bodies(documents: Documents) -> list[str]:
    """The documents as text, in their order."""
    return [d.model_dump_json() for d in documents.by_id.values()]


def revisions(engine: Engine) -> dict[str, int]:
    with engine.connect() as db:
        return {row.id: row.revision for row in db.execute(select(table.c.id, table.c.revision))}


def key(frame: int, degrees: float) -> dict[str, Any]:
    new = {"joint": "wing", "kind": "turn", "frame": frame, "value": [degrees]}
    return {"do": "set-keys", "motion": "flap", "keys": [new]}


def test_a_change_writes_down_only_itself_and_is_there_after_a_restart(engine: Engine, room: Room) -> None:
    assert revisions(engine) == {"quay": 0}, "no document was written since the production was made"
    assert bodies(log.load(engine, "quay").documents) == bodies(room.documents)
    assert list(log.load(engine, "quay").documents.by_id) == ["quay", "whistle", "gull", "pennant", "flap"]

    room.keep_snapshot(lag=0)
    assert revisions(engine) == dict.fromkeys(room.documents.by_id, room.seq) | {"quay": 0}
    assert bodies(log.load(engine, "quay").documents) == bodies(room.documents)

    for frame in (9, 3, 17):
        submit(room, key(frame, frame))
    submit(room, {"do": "remove-puppet", "puppet": "whistle"})
    submit(room, {"do": "add-puppet", "id": "ferry", "name": "Ferry"})
    room.take_back("undo-it-now", "w", room.state.undo.seq if room.state.undo else 0)
    again = log.load(engine, "quay")
    assert bodies(again.documents) == bodies(room.documents)
    assert (again.seq, again.undo, again.redo) == (room.seq, room.state.undo, room.state.redo)
    assert list(again.documents.by_id) == ["quay", "gull", "pennant", "flap"]

    room.keep_snapshot(lag=0)
    assert set(revisions(engine)) == {"quay", "gull", "pennant", "flap"}
    assert bodies(log.load(engine, "quay").documents) == bodies(room.documents)
    room.bring_back("redo-it-now", "w", room.state.redo.seq if room.state.redo else 0)
    assert list(log.load(engine, "quay").documents.by_id)[-1] == "ferry"


@pytest.mark.usefixtures("room")
def test_snapshots_are_taken_now_and_then_by_whoever_looks_around(engine: Engine) -> None:
    rooms = Rooms(engine)
    kept = rooms.room("quay")
    for n in range(210):
        submit(kept, key(n % 24, n))
    assert revisions(engine) == {"quay": 0}
    rooms.look_around()
    assert revisions(engine)["flap"] == kept.seq == kept.state.snapshot
    assert bodies(log.load(engine, "quay").documents) == bodies(kept.documents)


def test_number_and_documents_are_read_in_one_moment(engine: Engine, room: Room) -> None:
    first = room.seq
    over = threading.Event()

    def write() -> None:
        for n in range(120):
            submit(room, {"do": "shift-pieces", "puppet": "gull", "pieces": ["wing"], "dx": 1, "dy": 0})
            if n % 10 == 0:
                room.keep_snapshot(lag=0)
        over.set()

    writer = threading.Thread(target=write)
    writer.start()
    seen = 0
    while not over.is_set():
        state = log.load(engine, "quay")
        moved = state.documents.puppet("gull").joints["wing"].rest.x - 9
        assert moved == state.seq - first
        assert state.undo is not None and state.undo.seq == state.seq
        seen += 1
    writer.join()
    assert seen > 3


def test_what_another_process_wrote_is_taken_up_change_by_change(engine: Engine, room: Room) -> None:
    other, ear = Rooms(engine), Ear()
    there = other.room("quay")
    there.join(ear)
    submit(room, key(4, 40))
    submit(room, {"do": "set-puppet", "puppet": "gull", "name": "Herring gull"})
    other.look_around()
    assert bodies(there.documents) == bodies(room.documents)
    told = [m for m in ear.told if isinstance(m, Changed)]
    assert [m.seq for m in told] == [room.seq - 1, room.seq]
    assert told[1].writes[0].path == ("name",) and told[1].writes[0].after == "Herring gull"
    assert told[1].undo is not None and told[1].undo.seq == room.seq


def test_an_answer_lost_after_the_commit_leaves_no_window_behind(room: Room, monkeypatch: pytest.MonkeyPatch) -> None:
    ear = Ear()
    room.join(ear)
    append = log.append

    def cut_off(*given: Any) -> Any:
        append(*given)
        raise OperationalError("COMMIT", {}, Exception("the line went dead"))

    monkeypatch.setattr(log, "append", cut_off)
    with pytest.raises(OperationalError):
        submit(room, key(4, 40), "lost-on-the-way")
    assert not ear.told, "nobody knows yet whether it is on disk"
    monkeypatch.undo()
    before = room.seq
    assert submit(room, key(4, 40), "lost-on-the-way") == before + 1
    assert [m.seq for m in ear.told if isinstance(m, Changed)] == [before + 1]
    assert room.documents.motion("flap").channels["wing.turn"].keys[4].value == (40.0,)
    assert room.state.undo is not None and room.state.undo.seq == before + 1


def test_what_undo_would_touch_is_told_without_asking_the_database_again(
    room: Room, monkeypatch: pytest.MonkeyPatch
) -> None:
    ear = Ear()
    room.join(ear)

    def away(*_: Any, **__: Any) -> Any:
        raise OperationalError("SELECT", {}, Exception("away"))

    monkeypatch.setattr(log, "newer", away)
    monkeypatch.setattr(log, "load", away)
    seq = submit(room, key(4, 40))
    (told,) = ear.told
    assert isinstance(told, Changed) and told.undo is not None
    assert (told.seq, told.undo.seq) == (seq, seq)


def test_what_an_older_version_wrote_is_told_whole_when_it_comes_back(engine: Engine, room: Room) -> None:
    whole = room.documents.puppet("pennant").model_dump(mode="json")
    seq = submit(room, {"do": "remove-puppet", "puppet": "pennant"})
    with engine.begin() as db:
        (wrote,) = db.execute(select(changes.c.writes).where(changes.c.seq == seq)).scalar_one()
        # It knew of no dials yet.
        del wrote["before"]["dials"]
        db.execute(update(changes).where(changes.c.seq == seq).values(writes=[wrote]))
    again, ear = Rooms(engine).room("quay"), Ear()
    again.join(ear)
    again.take_back("back", "w", seq)
    (told,) = ear.told
    assert isinstance(told, Changed)
    assert [(w.document, w.after) for w in told.writes] == [("pennant", whole)]
    with engine.connect() as db:
        (kept,) = db.execute(select(changes.c.writes).where(changes.c.seq == again.seq)).scalar_one()
    assert kept["after"] == whole, "also to whoever reads the log"


def test_a_production_that_was_spoiled_opens_with_what_is_sound(engine: Engine, room: Room) -> None:
    room.keep_snapshot(lag=0)
    submit(room, key(4, 20))
    with engine.begin() as db:
        body = db.execute(select(table.c.body).where(table.c.id == "gull")).scalar_one()
        body["pieces"]["wing"]["masks"] = [{"piece": "wing"}]
        db.execute(update(table).where(table.c.id == "gull").values(body=body))
        db.execute(update(table).where(table.c.id == "pennant").values(body={"kind": "puppet", "name": "Pennant"}))
        # Also a change that stands in the log alone may be one that no longer may be.
        spoiled = [{"document": "flap", "path": ["length"], "had": True, "before": 24, "has": True, "after": 0}]
        db.execute(update(changes).where(changes.c.seq == room.seq).values(writes=spoiled))
    state = log.load(engine, "quay")
    assert state.left_out == (
        "The puppet “Gull”: the piece “piece wing” › masks was cut from 1 to 0.",
        "The puppet “Pennant” could not be read.",
        "The motion “Flap”: length is now 1.",
    )
    assert [*state.documents.by_id] == ["quay", "whistle", "gull", "flap"]
    # Work goes on, what could not be read is kept as it is, and another window is told the same.
    again = Rooms(engine).room("quay")
    submit(again, {"do": "set-puppet", "puppet": "gull", "name": "Old gull"})
    assert log.load(engine, "quay").left_out[1:] == state.left_out[1:]
    with engine.connect() as db:
        assert db.execute(select(table.c.body).where(table.c.id == "pennant")).scalar_one()["name"] == "Pennant"


def test_what_does_not_hold_together_never_gets_into_the_log(
    engine: Engine, room: Room, monkeypatch: pytest.MonkeyPatch
) -> None:
    before = room.seq
    # A command that forgot to look.
    monkeypatch.setattr(Command, "apply", lambda _, documents: documents.without("gull"))
    with pytest.raises(Refusal, match="gull"):
        submit(room, key(9, 9))
    assert room.seq == before == log.load(engine, "quay").seq and "gull" in room.documents.by_id


def test_art_that_is_not_there_is_refused_and_art_that_has_gone_is_told(engine: Engine, room: Room) -> None:
    strange = piece("fin", 0, 0)
    strange["drawing"]["art"] = "1" * 64
    assets.put(engine, {"2" * 64: ("image/png", b"no drawing")})
    for art in ("1", "2"):
        strange["drawing"]["art"] = art * 64
        with pytest.raises(Refusal, match=f"no drawing “{art * 12}…”"):
            submit(room, {"do": "add-pieces", "puppet": "gull", "pieces": [strange]})
    with engine.begin() as db:
        db.execute(delete(asset_table))
    again = Rooms(engine).room("quay")
    assert again.state.left_out == (
        "The puppet “Gull”: the drawing “body” of “piece body” is gone.",
        "The puppet “Gull”: the drawing “wing” of “piece wing” is gone.",
    )
    # Whatever else there is can be worked on.
    assert submit(again, {"do": "set-pieces", "puppet": "gull", "pieces": ["wing"], "name": "Wing"}) == again.seq
    studio = Studio(lambda id: assets.get(engine, id)[1], forgiving=True)
    assert studio.art("0" * 64) == NOTHING and studio.alpha("0" * 64).shape == (1, 1)
