"""The service and its workers."""

from __future__ import annotations

import gc
import itertools
import logging
import sys
from pathlib import Path
from socket import SO_REUSEADDR, SOL_SOCKET, socket
from typing import Annotated

import typer
import uvicorn

from sorvan.cli.command import app, home, open_database
from sorvan.service.app import create_app
from sorvan.service.renders import OWN_WORKER
from sorvan.work.worker import Worker


@app.command()
def serve(
    port: Annotated[int, typer.Option(help="port on loopback; 0 takes a free one")] = 8765,
    page: Annotated[Path, typer.Option(help="the built page")] = Path("web/dist"),
    worker: Annotated[bool, typer.Option(help="start a render worker when there is something to render")] = True,
    demo: Annotated[bool, typer.Option(help="load the demo production when there is no production")] = False,
) -> None:
    """Serve Sorvan on this machine."""
    engine = open_database()
    if demo:
        from sorvan.demo.quay import load_demo

        load_demo(engine)
    logging.basicConfig(level=logging.WARNING)
    # Documents are thousands of small values that never form a circle: looking for one at every turn
    # would cost a third of each answer.
    gc.set_threshold(50_000, 20, 20)
    gc.freeze()
    # A change waits for the database several times; a thread that evaluates must not make it wait five milliseconds
    # more each time.
    sys.setswitchinterval(0.001)
    if port and _taken(port):
        typer.echo(f"Port {port} is taken by another program: another one is used instead.", err=True)
        port = 0
    config = uvicorn.Config(
        create_app(engine, home(), page, worker=OWN_WORKER if worker else None),
        host="127.0.0.1",
        port=port,
        log_level="warning",
        ws_per_message_deflate=False,
    )
    # The server opens its own socket: the event loop sends answers at once only over those it made as TCP itself.
    _Announced(config).run()


@app.command()
def worker(
    with_parent: Annotated[bool, typer.Option(help="end when standard input does")] = False,
) -> None:
    """Draw what is to be rendered, for every service on the same database, until told to end."""
    logging.basicConfig(level=logging.WARNING)
    Worker(open_database()).run(with_parent)


def _taken(port: int) -> bool:
    """Whether somebody listens on a port of this machine already."""
    with socket() as mine:
        # As the server does: what a service that has just ended leaves behind does not count.
        mine.setsockopt(SOL_SOCKET, SO_REUSEADDR, 1)
        try:
            mine.bind(("127.0.0.1", port))
        except OSError:
            return True
    return False


class _Announced(uvicorn.Server):
    """Says where it is once it answers, not before."""

    async def startup(self, sockets: list[socket] | None = None) -> None:
        await super().startup(sockets)
        for bound in itertools.chain.from_iterable(s.sockets for s in self.servers):
            print(f"Sorvan is at http://127.0.0.1:{bound.getsockname()[1]}/", flush=True)
