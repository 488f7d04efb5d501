"""Workers."""

from __future__ import annotations

import logging
from typing import Annotated

import typer

from sorvan.cli.command import open_database
from sorvan.work.worker import Worker

app = typer.Typer(rich_markup_mode=None)


@app.command()
def worker(
    with_parent: Annotated[bool, typer.Option(help="end when standard input does")] = False,
) -> None:
    """Draw what is to be rendered, for every service on the same database, until told to end."""
    logging.basicConfig(level=logging.WARNING)
    Worker(open_database()).run(with_parent)
