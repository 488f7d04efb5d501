"""Rooms: open as long as somebody is in them, and never in one another's way."""

from __future__ import annotations

import asyncio
import gc
import threading
from typing import Any

import pytest
from sqlalchemy import Engine

from sorvan.core.change.production import AddPuppet
from sorvan.core.model.documents import Documents
from sorvan.core.model.production import Production
from sorvan.core.plan.scene import AtRest
from sorvan.picture.studio import Studio
from sorvan.service.letters.messages import MeshLetter, Watch
from sorvan.service.rooms.rooms import RECENT, Rooms
from sorvan.service.windows import windows
from sorvan.service.windows.views import WatchedScene
from sorvan.service.windows.windows import Window
from sorvan.store import log


def productions(engine: Engine, *ids: str) -> None:
    for id in ids:
        log.create(engine, Documents({id: Production(id=id, name="Quay")}))


def test_rooms_that_nobody_is_in_are_let_go_and_come_back_as_they_were(engine: Engine) -> None:
    ids = [f"p{n}" for n in range(40)]
    productions(engine, *ids)
    rooms = Rooms(engine)
    held = rooms.room(ids[0])
    for n, id in enumerate(ids):
        rooms.room(id).submit(f"change-{n}", "w", 0, AddPuppet(id="a", name=f"Gull {n}"))
    gc.collect()
    assert {r.id for r in rooms.open()} == {ids[0], *ids[-RECENT:]}
    # As long as somebody holds a room there is no second of it.
    assert rooms.room(ids[0]) is held
    for n, id in enumerate(ids):
        assert rooms.room(id).documents.puppet("a").name == f"Gull {n}"


def test_who_opens_a_large_production_holds_up_nobody_else(engine: Engine, monkeypatch: pytest.MonkeyPatch) -> None:
    productions(engine, "large", "small")
    rooms, load = Rooms(engine), log.load
    begun, go_on = threading.Event(), threading.Event()
    loads: list[str] = []

    def slow(engine: Engine, id: str) -> Any:
        loads.append(id)
        if id == "large":
            begun.set()
            go_on.wait()
        return load(engine, id)

    monkeypatch.setattr(log, "load", slow)
    found: list[Any] = []
    openers = [threading.Thread(target=lambda: found.append(rooms.room("large"))) for _ in range(3)]
    for opener in openers:
        opener.start()
    begun.wait()
    assert rooms.room("small").id == "small"
    go_on.set()
    for opener in openers:
        opener.join()
    assert loads.count("large") == 1 and all(f is found[0] for f in found)


def test_a_page_that_closes_while_something_is_worked_out_for_it_leaves_nothing_held(
    engine: Engine, monkeypatch: pytest.MonkeyPatch
) -> None:
    productions(engine, "p")
    begun, go_on = threading.Event(), threading.Event()

    def long(_: WatchedScene) -> list[Any]:
        begun.set()
        go_on.wait()
        return [MeshLetter(piece="a", joint="b", vertices=b"", triangles=b"")]

    monkeypatch.setattr(WatchedScene, "start", long)
    monkeypatch.setattr(WatchedScene, "busy", False)
    monkeypatch.setattr(WatchedScene, "arts", lambda _: frozenset(["art"]))
    monkeypatch.setattr(windows, "HOLDING", ("mesh",))
    studio = Studio(lambda _: b"")

    async def life() -> None:
        window = Window(Rooms(engine).room("p"), studio, asyncio.get_running_loop())
        window.studio.hold(window, ["art before"])
        window.open()
        window.ask(Watch(target=AtRest(puppet="a")))
        await asyncio.to_thread(begun.wait)
        window.close()
        go_on.set()
        await asyncio.to_thread(window._worker.join)
        assert window.view is None

    asyncio.run(life())
    assert studio._holders == {}
