"""The service."""

from __future__ import annotations

import contextlib
import gc
import itertools
import logging
import sys
from pathlib import Path
from socket import AF_INET, AF_INET6, SO_REUSEADDR, SOL_SOCKET, getaddrinfo, getfqdn, gethostname, socket
from typing import Annotated

import typer
import uvicorn

from sorvan.cli.command import home, open_database
from sorvan.core.errors import Refusal
from sorvan.service.access import LOOPBACK
from sorvan.service.app import create_app
from sorvan.service.routes.renders import OWN_WORKER
from sorvan.store import accounts
from sorvan.store.cluster import revival

app = typer.Typer(rich_markup_mode=None)
PAGE = Path(__file__).parent.parent / "page"
"""The built page, beside the code."""


@app.command()
def serve(
    port: Annotated[int, typer.Option(help="port; 0 takes a free one")] = 8765,
    host: Annotated[str, typer.Option(help="address to serve on; beyond this machine people sign in")] = "127.0.0.1",
    reached_as: Annotated[
        list[str] | None, typer.Option(help="a name under which it is reached, as behind a proxy; people sign in")
    ] = None,
    page: Annotated[Path, typer.Option(help="another built page than its own")] = PAGE,
    worker: Annotated[bool, typer.Option(help="start a render worker when there is something to render")] = True,
    demo: Annotated[bool, typer.Option(help="load the demo production when there is no production")] = False,
) -> None:
    """Serve Sorvan: on this machine, for whoever sits at it, or for others, who sign in."""
    engine = open_database()
    sign_in = bool(reached_as) or host not in OWN
    if sign_in and not accounts.listed(engine):
        raise Refusal(
            "Nobody may sign in yet, and beyond this machine everybody must.",
            where=f"--host {host}",
            remedy="Let somebody: sorvan user add NAME.",
        )
    if demo:
        from sorvan.demo.quay import load_demo

        if not load_demo(engine):
            typer.echo("There are productions already, so the demo is not loaded.", err=True)
    logging.basicConfig(level=logging.WARNING)
    # Documents are thousands of small values that never form a circle: looking for one at every turn
    # would cost a third of each answer.
    gc.set_threshold(50_000, 20, 20)
    gc.freeze()
    # A change waits for the database several times; a thread that evaluates must not make it wait five milliseconds
    # more each time.
    sys.setswitchinterval(0.001)
    if port and _taken(host, port):
        typer.echo(f"Port {port} is taken by another program: another one is used instead.", err=True)
        port = 0
    config = uvicorn.Config(
        create_app(
            engine,
            home(),
            page,
            worker=OWN_WORKER if worker else None,
            revive=revival(home()),
            hosts=(*LOOPBACK, *_names(host, reached_as or [])),
            sign_in=sign_in,
        ),
        host=host,
        port=port,
        log_level="warning",
        ws_per_message_deflate=False,
    )
    # The server opens its own socket: the event loop sends answers at once only over those it made as TCP itself.
    _Announced(config, "127.0.0.1" if host in ANYWHERE else host).run()


def _names(host: str, reached_as: list[str]) -> list[str]:
    """What pages may call the service: what it was told, and where it serves on every address all of this machine's."""
    names = [*reached_as, host]
    if host in ANYWHERE:
        names = [*reached_as, gethostname(), getfqdn()]
        with contextlib.suppress(OSError):
            names += [str(address[0]) for *_, address in getaddrinfo(gethostname(), None)]
    return [f"[{name}]" if ":" in name and not name.startswith("[") else name for name in names]


def _taken(host: str, port: int) -> bool:
    """Whether somebody listens on a port of this machine already."""
    with socket(AF_INET6 if ":" in host else AF_INET) as mine:
        # As the server does: what a service that has just ended leaves behind does not count.
        mine.setsockopt(SOL_SOCKET, SO_REUSEADDR, 1)
        try:
            mine.bind((host, port))
        except OSError:
            return True
    return False


OWN = ("127.0.0.1", "localhost", "::1")
"""Addresses that only this machine reaches."""
ANYWHERE = ("0.0.0.0", "::")
"""Addresses that stand for all of this machine's."""


class _Announced(uvicorn.Server):
    """Says where it is once it answers, not before."""

    def __init__(self, config: uvicorn.Config, name: str) -> None:
        super().__init__(config)
        self.name = f"[{name}]" if ":" in name else name

    async def startup(self, sockets: list[socket] | None = None) -> None:
        await super().startup(sockets)
        for bound in itertools.chain.from_iterable(s.sockets for s in self.servers):
            print(f"Sorvan is at http://{self.name}:{bound.getsockname()[1]}/", flush=True)
