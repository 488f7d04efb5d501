"""Whatever is killed, nothing acknowledged is lost and nothing is half there."""

from __future__ import annotations

import os
import shutil
import signal
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import httpx

from sorvan.store.cluster import Cluster, restart, start, stop
from tests.conftest import Service, change, until
from tests.service.test_http import GULL, bring, documents
from tests.service.test_live import Window

ROUNDS = int(os.environ.get("SORVAN_KILLS", "2"))
"""Times that the service is killed; by hand more."""


def prepared(client: httpx.Client) -> tuple[str, list[str]]:
    production = client.post("/productions", json={"name": "Quay"}).json()["id"]
    change(client, production, {"do": "add-puppet", "id": "a", "name": "Gull"})
    bring(client, production, "a", GULL)
    return production, sorted(documents(client, production)["a"]["pieces"])


def test_every_acknowledged_edit_outlives_a_killed_service(serve: Callable[..., Service]) -> None:
    service = serve()
    production, pieces = prepared(service.client())
    start = documents(service.client(), production)["a"]
    first = service.client().get(f"/productions/{production}").json()["seq"]
    for _ in range(ROUNDS):
        acknowledged: list[int] = []
        seq = service.client().get(f"/productions/{production}").json()["seq"]

        def edit(client: httpx.Client, seq: int, acknowledged: list[int]) -> None:
            sent = 0
            while sent < 100_000:
                # Both pieces move in one change: half of it would show.
                command = {"do": "shift-pieces", "puppet": "a", "pieces": pieces, "dx": 1, "dy": 0}
                body = {"id": f"edit-{seq}-{sent:05}", "window": "w", "base": seq + sent, "command": command}
                try:
                    answer = client.post(f"/productions/{production}/changes", json=body)
                except httpx.TransportError:
                    return
                if answer.status_code == 503:
                    # On a busy machine the database may take too long: the same again, as a window would.
                    continue
                assert answer.status_code == 200, answer.text
                acknowledged.append(answer.json()["seq"])
                sent += 1

        thread = threading.Thread(target=edit, args=(service.client(), seq, acknowledged))
        thread.start()
        while len(acknowledged) < 25:
            assert thread.is_alive()
            time.sleep(0.005)
        service.kill()
        thread.join()
        service.start()
        now = service.client().get(f"/productions/{production}").json()
        assert now["seq"] in (acknowledged[-1], acknowledged[-1] + 1), "the one in flight may have made it, no other"
        puppet = next(d for d in now["documents"] if d["id"] == "a")
        moved = {round(puppet["joints"][p]["rest"]["x"] - start["joints"][p]["rest"]["x"], 6) for p in pieces}
        assert moved == {float(now["seq"] - first)}, "every change since the first moved both by one unit"


def test_the_service_finds_a_restarted_database_again(serve: Callable[..., Service], cluster: Cluster) -> None:
    service = serve()
    client = service.client()
    production, pieces = prepared(client)
    command = {"do": "shift-pieces", "puppet": "a", "pieces": pieces, "dx": 1, "dy": 0}
    assert change(client, production, command).status_code == 200
    before = client.get(f"/productions/{production}").json()
    body = {"id": "while-it-is-away", "window": "w", "base": before["seq"], "command": command}
    answers: list[httpx.Response] = []

    def keep_trying() -> None:
        while True:
            answers.append(client.post(f"/productions/{production}/changes", json=body))
            if answers[-1].status_code == 200:
                return
            time.sleep(0.1)

    away = threading.Thread(target=restart, args=(cluster, 2.0))
    away.start()
    time.sleep(0.7)
    keep_trying()
    away.join()
    assert answers[0].status_code == 503
    assert answers[0].json()["kind"] == "database-away"
    after = client.get(f"/productions/{production}").json()
    assert after["seq"] == before["seq"] + 1


def test_who_comes_while_the_database_is_away_is_told_so(serve: Callable[..., Service], cluster: Cluster) -> None:
    production, _ = prepared(serve().client())
    # A service that has not opened it yet, and can't.
    service = serve()
    stop(cluster)
    try:
        window = Window(service, production)
        assert window.until("database")["here"] is False
    finally:
        start(cluster)
    until(lambda: bool(service.client().get("/health").json()["database"]))
    assert Window(service, production).until("snapshot")["documents"]


def test_a_window_waits_for_the_database_and_then_shows_what_it_was_asked(
    serve: Callable[..., Service], cluster: Cluster
) -> None:
    maker = serve()
    production, _ = prepared(maker.client())
    # A service that has the production open, and none of its art.
    service = serve()
    assert service.client().get(f"/productions/{production}").status_code == 200
    stop(cluster)
    try:
        window = Window(service, production)
        window.until("snapshot")
        window.send("watch", target={"kind": "rest", "puppet": "a"})
        assert window.until("database")["here"] is False
    finally:
        start(cluster)
    # Which comes first is as it happens, and how often it is told that it is away.
    told: dict[str, Any] = {}
    while not (told.get("plan") and told.get("database", {}).get("here")):
        message = window.until("plan", "database")
        told[message["type"]] = message
    assert told["plan"]["frames"] == 1


def test_the_renderer_outlives_a_database_that_goes_away(serve: Callable[..., Service], cluster: Cluster) -> None:
    service = serve()
    client = service.client()
    production, _ = prepared(client)
    change(client, production, {"do": "add-motion", "id": "m", "puppet": "a", "name": "flap", "length": 120})
    client.post(f"/productions/{production}/renders", json={"motion": "m"})

    def state() -> str:
        answer = client.get(f"/productions/{production}/renders")
        return str(answer.json()[0]["state"]) if answer.status_code == 200 else "away"

    while state() != "running":
        time.sleep(0.05)
    restart(cluster, 2.0)
    end = time.monotonic() + 60
    while state() in ("running", "away", "waiting") and time.monotonic() < end:
        time.sleep(0.1)
    first = state()
    assert first in ("done", "failed"), "it ends, and says how"
    client.post(f"/productions/{production}/renders", json={"motion": "m", "last": 3})
    while state() in ("running", "waiting") and time.monotonic() < end:
        time.sleep(0.1)
    assert state() == "done", "the next one is made"


def test_a_private_database_that_dies_is_started_again(tmp_path: Path) -> None:
    home = tmp_path / "home"
    service = Service("", home)
    service.start()
    try:
        client = service.client()
        production, pieces = prepared(client)
        folder, port, password = (home / "cluster").read_text().split("\n")[:3]
        private = Cluster(Path(folder), int(port), password)
        for _ in range(ROUNDS):
            before = client.get(f"/productions/{production}").json()["seq"]
            os.kill(int((private.data / "postmaster.pid").read_text().split("\n")[0]), signal.SIGKILL)
            until(lambda: not client.get("/health").json()["database"])
            until(lambda: bool(client.get("/health").json()["database"]))
            command = {"do": "shift-pieces", "puppet": "a", "pieces": pieces, "dx": 1, "dy": 0}
            answer = change(client, production, command)
            assert answer.status_code == 200 and answer.json()["seq"] == before + 1
    finally:
        service.kill()
        stop(private, "immediate")
        shutil.rmtree(private.data, ignore_errors=True)
