"""What the service lets in, and how it says no."""

from __future__ import annotations

import asyncio
import logging
import os
import signal
from pathlib import Path
from typing import Any

import httpx
import pytest
from fastapi import FastAPI
from sqlalchemy import Engine

from sorvan.service.app import create_app
from sorvan.service.request_limits import LETTERS
from sorvan.store.cluster import Cluster
from tests.conftest import Service, change

QUAY = {"name": "Quay"}


@pytest.fixture
def quay(shared: Service) -> tuple[httpx.Client, str]:
    client = shared.client()
    return client, client.post("/productions", json=QUAY).json()["id"]


@pytest.mark.parametrize("sign", ["\\u0000", "\\ud800", "\\udc00\\ud800", "a\\\\\\u0000"])
def test_text_that_cannot_be_written_down_is_refused(quay: tuple[httpx.Client, str], sign: str) -> None:
    client, production = quay
    before = client.get(f"/productions/{production}").json()
    body = f'{{"id":"abcdefgh","window":"w","base":0,"command":{{"do":"add-puppet","id":"b","name":"x{sign}y"}}}}'
    as_json = {"content-type": "application/json"}
    for path, sent in ((f"/productions/{production}/changes", body), ("/productions", f'{{"name":"{sign}"}}')):
        refused = client.post(path, content=sent.encode(), headers=as_json)
        assert refused.status_code == 422 and "can't be written down" in refused.json()["detail"]
        assert refused.headers["content-type"] == "application/problem+json"
    assert client.get("/productions/a%00b").status_code == 404
    assert client.get(f"/productions/{production}").json() == before


@pytest.mark.parametrize("name", ["⛴ \\ud83d\\udea2", "a\\\\u0000b", "\\u00e9"])
def test_all_other_text_is_kept_as_it_is(shared: Service, name: str) -> None:
    body = f'{{"name":"{name}"}}'.encode()
    made = shared.client().post("/productions", content=body, headers={"content-type": "application/json"})
    assert made.status_code == 201
    assert made.json()["name"] == httpx.Response(200, content=body).json()["name"]


def test_a_body_that_is_too_large_is_refused_and_not_kept(shared: Service, quay: tuple[httpx.Client, str]) -> None:
    client, production = quay

    def largest() -> int:
        status = Path(f"/proc/{shared.process.pid}/status").read_text()
        return int(status.split("VmHWM:")[1].split()[0]) * 1024

    before = largest()
    sent = (b" " * (1 << 20) for _ in range(20 * LETTERS >> 20))
    try:
        refused = client.post(f"/productions/{production}/changes", content=sent)
        assert refused.status_code == 413 and "MB were sent" in refused.json()["detail"]
    except (httpx.WriteError, httpx.ReadError):
        pass  # the service hung up while it was still being sent to
    assert largest() < before + 6 * LETTERS


def test_a_change_is_only_made_by_who_has_seen_what_there_is_and_only_as_itself(
    quay: tuple[httpx.Client, str],
) -> None:
    client, production = quay
    adding = {"do": "add-puppet", "id": "a", "name": "Gull"}
    ahead = change(client, production, adding, base=7)
    assert ahead.status_code == 409 and "there are only 0" in ahead.json()["detail"]
    first = change(client, production, adding, id="the-same-id")
    assert change(client, production, adding, id="the-same-id").json()["seq"] == first.json()["seq"] == 1
    other = change(client, production, {**adding, "id": "b"}, id="the-same-id")
    assert other.status_code == 409 and "Add puppet" in other.json()["detail"]
    turn = {"id": "the-same-id", "window": "test", "target": 1}
    assert client.post(f"/productions/{production}/undo", json=turn).status_code == 409
    turn["id"] = "another-id"
    undone = client.post(f"/productions/{production}/undo", json=turn)
    assert undone.status_code == 200
    assert client.post(f"/productions/{production}/undo", json=turn).json()["seq"] == undone.json()["seq"]
    assert client.post(f"/productions/{production}/redo", json=turn).status_code == 409


NEAR = {"sec-fetch-site": "same-origin"}
LINK = {"sec-fetch-site": "cross-site", "sec-fetch-mode": "navigate", "sec-fetch-dest": "document"}


@pytest.mark.parametrize(
    ("method", "path", "headers", "let_in"),
    [
        ("GET", "/api/productions", {}, True),
        ("GET", "/api/productions", NEAR, True),
        ("GET", "/api/productions", {"sec-fetch-site": "none"}, True),
        ("GET", "/api/productions", {"sec-fetch-site": "same-site"}, False),
        ("GET", "/api/productions", LINK, False),
        ("POST", "/api/productions", {"sec-fetch-site": "cross-site"}, False),
        ("POST", "/api/productions", {"origin": "http://quay.example"}, False),
        ("POST", "/api/productions", {"origin": "https://{host}"}, False),
        ("POST", "/api/productions", {"origin": "http://{host}", "sec-fetch-site": "same-origin"}, True),
        ("GET", "/", LINK, True),
        ("GET", "/", {"sec-fetch-site": "cross-site", "sec-fetch-mode": "no-cors", "sec-fetch-dest": "image"}, False),
    ],
)
def test_only_its_own_pages_are_let_in(
    shared: Service, method: str, path: str, headers: dict[str, str], let_in: bool
) -> None:
    host = shared.address.removeprefix("http://")
    sent = {name: value.format(host=host) for name, value in headers.items()}
    body = QUAY if method == "POST" else None
    answer = shared.client().request(method, shared.address + path, headers=sent, json=body)
    assert (answer.status_code != 403) is let_in


def test_heads_and_what_is_nowhere_are_answered_as_they_should_be(shared: Service) -> None:
    client = shared.client()
    for path in ("/health", "/productions", "/nowhere"):
        got, head = client.get(path), client.head(path)
        assert (head.status_code, head.content) == (got.status_code, b"")
        assert head.headers["content-length"] == got.headers["content-length"]
        assert got.headers["cross-origin-resource-policy"] == "same-origin"
    for method in ("GET", "POST", "PUT", "DELETE", "PATCH"):
        nowhere = client.request(method, "/no/where")
        assert nowhere.status_code == 404 and nowhere.headers["content-type"] == "application/problem+json"


def test_a_fault_is_told_with_a_mark_that_the_log_has(
    engine: Engine, tmp_path: Path, caplog: pytest.LogCaptureFixture
) -> None:
    app = create_app(engine, tmp_path, hosts=("testserver",), worker=None)

    @app.get("/api/stumble")
    def stumble() -> None:
        raise RuntimeError("the gull took it")

    with caplog.at_level(logging.ERROR):
        answer = asyncio.run(_asked(app, "/api/stumble"))
    told: dict[str, Any] = answer.json()
    assert answer.status_code == 500 and answer.headers["content-type"] == "application/problem+json"
    assert "gull" not in answer.text and told["id"] in told["remedy"]
    assert f"fault {told['id']} at GET /api/stumble" in caplog.text and "the gull took it" in caplog.text


async def _asked(app: FastAPI, path: str) -> httpx.Response:
    inside = httpx.ASGITransport(app, raise_app_exceptions=False)
    async with httpx.AsyncClient(transport=inside, base_url="http://testserver") as client:
        return await client.get(path)


def test_health_is_told_while_the_database_hangs(serve: Any, cluster: Cluster) -> None:
    service: Service = serve()
    client = service.client()
    assert client.get("/health").json() == {"database": True}
    pids = [int(p.name) for p in Path("/proc").iterdir() if p.name.isdigit() and _belongs(p, cluster)]
    assert pids
    try:
        for pid in pids:
            os.kill(pid, signal.SIGSTOP)
        assert client.get("/health").json() == {"database": False}
    finally:
        for pid in pids:
            os.kill(pid, signal.SIGCONT)
    while not client.get("/health").json()["database"]:
        pass


def _belongs(process: Path, cluster: Cluster) -> bool:
    """Whether a process is the database's: they all work where its data lies."""
    try:
        return (process / "cwd").resolve() == cluster.data.resolve()
    except OSError:
        return False


def test_a_taken_port_is_named_and_another_taken(serve: Any) -> None:
    first: Service = serve()
    second = Service(first.database, first.home, port=first.port)
    second.start()
    try:
        assert second.port != first.port
        assert second.client().get("/health").json() == {"database": True}
    finally:
        second.kill()
