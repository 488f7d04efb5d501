"""What the tests share: a database, a running service, a browser."""

from __future__ import annotations

import os
import re
import secrets
import shutil
import signal
import subprocess
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import httpx
import psycopg
import pytest
from hypothesis import settings
from playwright.sync_api import Browser, Page, expect, sync_playwright
from sqlalchemy import Engine, make_url

from sorvan.core.model.base import fresh_id
from sorvan.core.model.documents import Documents
from sorvan.demo.quay import build
from sorvan.store import assets, log
from sorvan.store.cluster import Cluster, ensure, stop
from sorvan.store.database import connect, migrate
from tests.begun import ROOT, Begun, begin

# The same draws in every run: a change fails by what it does, not by chance. `make search` draws anew, and many more.
SEARCHING = bool(os.environ.get("SORVAN_SEARCH"))
settings.register_profile("repeatable", derandomize=True, deadline=None, max_examples=25)
settings.register_profile("search", derandomize=False, print_blob=True, deadline=None, max_examples=2000)
settings.register_profile("quick", derandomize=True, deadline=None, max_examples=5)
QUICK = bool(os.environ.get("SORVAN_QUICK"))
settings.load_profile("search" if SEARCHING else "quick" if QUICK else "repeatable")


def costly(examples: int) -> settings:
    """For a property of which an example takes long: so many of them, and many more when searching."""
    return settings(max_examples=80 * examples if SEARCHING else min(examples, 3) if QUICK else examples)


# A test waits for what is shown, however busy the machine; only what never comes ends it.
PATIENCE = 60
"""Seconds after which nothing more is expected."""
expect.set_options(timeout=1000 * PATIENCE)
CHROMIUM_FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    # A name that is not this machine's own: over plain HTTP a browser trusts pages there with less.
    "--host-resolver-rules=MAP ferry.test 127.0.0.1",
]
# The shell without a window of its own takes half of the processor's time.
CHROMIUM = shutil.which("chromium-headless-shell") or shutil.which("chromium")
ELSEWHERE = "ferry.test"
"""What the service is called where people reach it from another machine."""


@pytest.fixture(scope="session")
def cluster(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Cluster]:
    """A database server of this test process's own. What it holds need not outlive this machine: it never waits for the
    disk."""
    made = ensure(tmp_path_factory.mktemp("cluster"))
    with psycopg.connect(_plain(made), autocommit=True) as db:
        for setting in ("fsync", "synchronous_commit", "full_page_writes"):
            db.execute(f"ALTER SYSTEM SET {setting} = off")  # type: ignore[call-overload]
        db.execute("SELECT pg_reload_conf()")
    yield made
    stop(made, "immediate")
    shutil.rmtree(made.data, ignore_errors=True)


def _plain(cluster: Cluster) -> str:
    return make_url(cluster.url).set(drivername="postgresql").render_as_string(hide_password=False)


TEMPLATE = "whole"
"""The database with all tables that others are copies of."""


def empty_database(cluster: Cluster) -> str:
    """The address of a new database, with all tables and nothing in them."""
    url, name = make_url(cluster.url), f"t{secrets.token_hex(6)}"
    with psycopg.connect(_plain(cluster), autocommit=True) as db:
        if db.execute("SELECT 1 FROM pg_database WHERE datname = %s", (TEMPLATE,)).fetchone() is None:
            db.execute(f'CREATE DATABASE "{TEMPLATE}"')  # type: ignore[call-overload]
            engine = connect(url.set(database=TEMPLATE).render_as_string(hide_password=False))
            migrate(engine)
            engine.dispose()
        db.execute(f'CREATE DATABASE "{name}" TEMPLATE "{TEMPLATE}"')  # type: ignore[call-overload]
    return url.set(database=name).render_as_string(hide_password=False)


@pytest.fixture
def database(cluster: Cluster) -> str:
    """The address of a database with nothing in it."""
    return empty_database(cluster)


@pytest.fixture
def engine(database: str) -> Iterator[Engine]:
    """An engine on a database with nothing in it."""
    made = connect(database)
    yield made
    made.dispose()


@dataclass
class Service:
    """A running service: its process and its address. Without a database it has one of its own; with a `program` that
    is started, not the one that is loaded already."""

    database: str
    home: Path
    demo: bool = False
    port: int = 0
    more: tuple[str, ...] = ()
    program: tuple[str, ...] = ()
    place: Path = ROOT
    process: subprocess.Popen[str] | Begun = field(init=False)
    address: str = field(init=False)

    def start(self) -> None:
        words = ["serve", "--port", str(self.port), *(["--demo"] if self.demo else []), *self.more]
        environment = {**os.environ, "SORVAN_DATABASE_URL": self.database, "SORVAN_HOME": str(self.home)}
        if not self.database:
            del environment["SORVAN_DATABASE_URL"]
        if self.program:
            pipe = subprocess.PIPE
            self.process = subprocess.Popen(
                [*self.program, *words], env=environment, stdout=pipe, text=True, cwd=self.place
            )
        else:
            self.process = begin(words, environment, self.place, talks=True)
        assert self.process.stdout is not None
        said = self.process.stdout.readline()
        found = re.search(r"http://127\.0\.0\.1:(\d+)/", said)
        assert found, f"the service said {said!r}"
        self.port, self.address = int(found.group(1)), found.group(0).rstrip("/")

    def kill(self) -> None:
        self.process.send_signal(signal.SIGKILL)
        self.process.wait()

    def client(self) -> httpx.Client:
        # No connection is used again: the service closes one that rests, perhaps just when it is asked over it.
        limits = httpx.Limits(max_keepalive_connections=0)
        # No certificate is looked at over plain HTTP: getting ready to costs 30 ms a client.
        return httpx.Client(base_url=f"{self.address}/api", timeout=2 * PATIENCE, limits=limits, verify=False)


@pytest.fixture
def serve(database: str, tmp_path: Path) -> Iterator[Callable[..., Service]]:
    """Start services on an empty database; they end with the test."""
    started: list[Service] = []

    def start(demo: bool = False, *more: str) -> Service:
        service = Service(database, tmp_path / "home", demo, more=more)
        service.start()
        started.append(service)
        return service

    yield start
    for service in started:
        if service.process.poll() is None:
            service.kill()


@pytest.fixture(scope="session")
def shared(cluster: Cluster, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Service]:
    """One running service for all tests that make a production of their own and end nothing."""
    service = Service(empty_database(cluster), tmp_path_factory.mktemp("shared"))
    service.start()
    yield service
    service.kill()


@dataclass(frozen=True)
class Demo:
    """A copy of the demo production in a running service."""

    service: Service
    production: str

    @property
    def address(self) -> str:
        """Where the service is."""
        return self.service.address

    def at(self, bench: str) -> str:
        """The address of a bench of the demo."""
        return f"{self.address}/p/{self.production}/{bench}"

    def client(self) -> httpx.Client:
        return self.service.client()


@pytest.fixture(scope="session")
def demos(shared: Service) -> Iterator[Callable[[], Demo]]:
    """Make copies of the demo production, which is cut once."""
    documents, kept = build()
    production = documents.production
    others = documents.without(production.id).by_id.values()
    engine = connect(shared.database)
    assets.put(engine, kept)

    def make() -> Demo:
        id = fresh_id()
        log.create(engine, Documents({id: production.changed(id=id)}).with_(*others))
        return Demo(shared, id)

    yield make
    engine.dispose()


@pytest.fixture
def demo(demos: Callable[[], Demo]) -> Demo:
    """A copy of the demo production that is this test's own."""
    return demos()


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    """A headless Chromium."""
    with sync_playwright() as playwright:
        made = playwright.chromium.launch(executable_path=CHROMIUM, args=CHROMIUM_FLAGS)
        yield made
        made.close()


@pytest.fixture
def new_page(browser: Browser) -> Iterator[Callable[..., Page]]:
    """Open pages; a script error in any of them fails the test."""
    errors: list[str] = []
    pages: list[Page] = []

    def open_(width: int = 1280, height: int = 800) -> Page:
        # Nothing fades or slides in: what is to be seen is there at once.
        page = browser.new_page(viewport={"width": width, "height": height}, reduced_motion="reduce")
        page.set_default_timeout(1000 * PATIENCE)
        page.on("pageerror", lambda error: errors.append(str(error)))
        pages.append(page)
        return page

    yield open_
    for page in pages:
        page.close()
    assert not errors


def until(look: Callable[[], bool]) -> None:
    """Wait until something is so, however busy the machine."""
    end = time.monotonic() + PATIENCE
    while not look():
        assert time.monotonic() < end, "it never came to be so"
        time.sleep(0.02)


def change(client: httpx.Client, production: str, command: dict[str, Any], **more: Any) -> httpx.Response:
    """Send a change as a window named `test` that has seen everything so far."""
    base = client.get(f"/productions/{production}").json()["seq"]
    body = {"id": secrets.token_hex(8), "window": "test", "base": base, "command": command, **more}
    return client.post(f"/productions/{production}/changes", json=body)
