"""What comes in from outside is read in a process of its own: it may die of it, and nothing else does."""

from __future__ import annotations

import hashlib
import io
import json
import logging
import os
import resource
import secrets
import signal
import sys
import tempfile
import threading
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import httpx
import pytest
from fastapi import UploadFile

from sorvan.core.errors import Refusal
from sorvan.core.model.production import Production
from sorvan.core.model.puppet import Puppet
from sorvan.interchange import limits
from sorvan.service.readers import Readers
from tests.conftest import Service, change, until
from tests.interchange import hurtful
from tests.interchange.art import svg
from tests.service.test_http import bring, documents

COME_IN = {
    "a transform of letters",
    "a transform of 500,000 letters",
    "one word of text",
    "nested patterns",
    "clips on everything",
    "colours of other spaces",
    "names of all kinds",
    "a name with what no text has",
}
"""What there is no reason to refuse."""
PLAIN = svg('<g id="post"><rect width="9" height="9"/></g>')


def ordered(**more: Any) -> dict[str, Any]:
    return {
        "job": "art",
        "production": Production(id="p", name="Quay").model_dump_json().encode(),
        "puppet": Puppet(id="a", name="Post").model_dump_json().encode(),
        "purpose": "pieces",
        "target": "",
        "loose": True,
        **more,
    }


def upload(data: bytes, name: str = "post.svg") -> UploadFile:
    return UploadFile(io.BytesIO(data), filename=name)


@pytest.fixture(scope="module")
def readers() -> Iterator[Readers]:
    made = Readers()
    yield made
    made.stop()


DYING = """
import os, resource, sys, time
own = int(open("/proc/self/statm").read().split()[0]) * resource.getpagesize()
resource.setrlimit(resource.RLIMIT_AS, (own + {most}, resource.RLIM_INFINITY))
sys.stdin.buffer.read(int.from_bytes(sys.stdin.buffer.read(4), "big"))
taken = bytearray({taken})
time.sleep(0.5)
os.kill(os.getpid(), {signal})
"""
"""A reader that takes so much memory, and dies of a signal as a library does that is refused more."""


@pytest.mark.parametrize("number", [signal.SIGABRT, signal.SIGSEGV])
def test_a_reader_that_dies_of_its_memory_is_told_from_one_that_breaks(
    number: int, caplog: pytest.LogCaptureFixture
) -> None:
    for taken, kind in ((limits.MEMORY * 3 // 4, "too-large"), (0, "damaged")):
        caplog.clear()
        script = DYING.format(most=limits.MEMORY, taken=taken, signal=int(number))
        readers = Readers(command=(sys.executable, "-c", script))
        with caplog.at_level(logging.ERROR), pytest.raises(Refusal) as refused:
            readers.read(ordered(), [upload(b"<svg/>", "a.svg")])
        readers.stop()
        assert refused.value.kind == kind
        assert ("failed" in caplog.text) == (kind == "damaged")


# What lasts too long is told further down, beside what the service does meanwhile.
@pytest.mark.parametrize("name", [name for name in hurtful.FILES if name != "a wide blur"])
def test_hurtful_files_come_in_or_are_refused_in_words(
    readers: Readers, name: str, caplog: pytest.LogCaptureFixture
) -> None:
    before = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss
    data = hurtful.FILES[name]()
    with caplog.at_level(logging.ERROR):
        try:
            found = readers.read(ordered(), [upload(data, f"{name}.svg")])
        except Refusal as refusal:
            assert name not in COME_IN, refusal.sentence()
            assert refusal.what.endswith(".") and refusal.where
            assert refusal.kind in ("too-large", "too-deep", "unsafe", "damaged", "refused")
        else:
            assert name in COME_IN
            assert found["pieces"] and all(len(piece) <= 120 for piece in found["pieces"])
    # Nothing broke the reader that it did not foresee.
    assert "failed" not in caplog.text
    after = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss
    assert after <= max(before, 600 * 1024)


def test_a_reader_is_let_go_of_when_it_has_grown(readers: Readers) -> None:
    readers.read(ordered(), [upload(PLAIN)])
    (first,) = [r for r in readers._idle if r.alive][:1]
    assert first.began_with is not None and first.began_with < 400 * 1024 * 1024
    first.worn = True
    readers.read(ordered(), [upload(PLAIN)])
    assert first not in [r for r in readers._idle if r.alive]


def _readers_of(service: Service) -> list[int]:
    """The processes that read for a service."""
    found = []
    for process in Path("/proc").iterdir():
        try:
            parent = (process / "stat").read_text().rsplit(")", 1)[1].split()[1]
            if int(parent) == service.process.pid and b"sorvan.work.reading" in (process / "cmdline").read_bytes():
                found.append(int(process.name))
        except (OSError, IndexError, ValueError):
            continue
    return found


@pytest.fixture
def quay(serve: Any) -> tuple[Service, httpx.Client, str]:
    service: Service = serve()
    client = service.client()
    production = client.post("/productions", json={"name": "Quay"}).json()["id"]
    assert change(client, production, {"do": "add-puppet", "id": "a", "name": "Post"}).status_code == 200
    return service, client, production


def _meanwhile(service: Service, production: str, data: bytes, **more: Any) -> tuple[threading.Thread, list[Any]]:
    """An import that goes on while the test does."""
    answers: list[Any] = []

    def work() -> None:
        with service.client() as client:
            try:
                answers.append(bring(client, production, "a", data, "pier.svg", **more))
            except httpx.HTTPError as error:
                answers.append(error)

    thread = threading.Thread(target=work)
    thread.start()
    return thread, answers


def test_while_a_hurtful_file_is_read_everything_else_is_answered(quay: tuple[Service, httpx.Client, str]) -> None:
    service, client, production = quay
    assert bring(client, production, "a", PLAIN).status_code == 200
    before = documents(client, production)
    thread, answers = _meanwhile(service, production, hurtful.FILES["a wide blur"]())
    answered = 0
    while thread.is_alive():
        assert client.get("/health").json() == {"database": True}
        assert len(documents(client, production)) == len(before)
        answered += 1
    thread.join()
    refused = answers[0]
    assert refused.status_code == 413 and "got no further for 3 seconds" in refused.json()["detail"]
    assert answered > 10
    assert documents(client, production) == before
    assert bring(client, production, "a", PLAIN, "second.svg").status_code == 200


def test_an_import_is_cancelled(quay: tuple[Service, httpx.Client, str]) -> None:
    service, client, production = quay
    before = documents(client, production)
    id = secrets.token_hex(8)
    thread, answers = _meanwhile(service, production, hurtful.FILES["turbulence"](), change=id)
    until(lambda: bool(_readers_of(service)))
    while thread.is_alive():
        assert client.delete(f"/productions/{production}/imports/{id}").status_code == 204
        thread.join(0.1)
    assert answers[0].status_code == 409 and answers[0].json()["kind"] == "cancelled"
    assert documents(client, production) == before
    assert bring(client, production, "a", PLAIN).status_code == 200


def test_what_is_cancelled_before_it_has_come_is_not_brought_in(quay: tuple[Service, httpx.Client, str]) -> None:
    _, client, production = quay
    id = secrets.token_hex(8)
    assert client.delete(f"/productions/{production}/imports/{id}").status_code == 204
    cancelled = bring(client, production, "a", PLAIN, change=id)
    assert cancelled.status_code == 409 and cancelled.json()["kind"] == "cancelled"
    assert bring(client, production, "a", PLAIN, change=id).status_code == 200


def test_an_archive_may_be_larger_than_the_memory_that_reading_it_takes(readers: Readers) -> None:
    documents = {"production": Production(id="p", name="Quay").model_dump(mode="json"), "puppets": [], "motions": []}
    kept = {hashlib.sha256(data).hexdigest(): data for data in (hurtful.heavy(7000, n) for n in range(3))}
    # As it comes over HTTP: in memory as long as it is small, then on disk.
    packed = tempfile.SpooledTemporaryFile(max_size=1 << 20)  # noqa: SIM115 - closed with the upload
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_STORED) as file:
        file.writestr("production.json", json.dumps(documents))
        for id, data in kept.items():
            file.writestr(f"assets/{id}.png", data)
    came: dict[str, tuple[str, bool]] = {}

    def keep(id: str, media: str, data: bytes | bytearray) -> None:
        came[id] = (media, data == kept[id])

    found = readers.read({"job": "archive", "id": "q"}, [UploadFile(packed, filename="quay.zip")], keep=keep)
    assert came == dict.fromkeys(kept, ("image/png", True)) and "assets" not in found
    assert sum(map(len, kept.values())) > limits.MEMORY


def test_a_reader_that_is_killed_is_replaced_and_none_outlives_its_service(
    quay: tuple[Service, httpx.Client, str],
) -> None:
    service, client, production = quay
    thread, answers = _meanwhile(service, production, hurtful.FILES["a wide blur"]())
    until(lambda: bool(_readers_of(service)))
    os.kill(_readers_of(service)[0], signal.SIGKILL)
    thread.join()
    assert answers[0].status_code == 413
    assert bring(client, production, "a", PLAIN).status_code == 200
    thread, answers = _meanwhile(service, production, hurtful.FILES["turbulence"]())
    until(lambda: len(_readers_of(service)) > 0)
    readers = _readers_of(service)
    service.kill()
    until(lambda: not any(Path(f"/proc/{r}").exists() for r in readers))
    thread.join()
