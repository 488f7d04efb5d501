"""Whole productions in and out, and what nothing needs any more."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from sorvan.cli.command import find, home, open_database, read_bytes
from sorvan.core.errors import Refusal
from sorvan.core.model.base import fresh_id
from sorvan.interchange.archive import read_archive, write_archive_to
from sorvan.store import assets, log
from sorvan.store.sweep import GRACE, sweep_assets, sweep_films

app = typer.Typer(rich_markup_mode=None)


@app.command()
def export(production: str, out: Annotated[Path, typer.Option(help="the archive to write")]) -> None:
    """Write a whole production to one archive."""
    engine = open_database()
    documents = log.load(engine, find(engine, production)).documents
    with out.open("wb") as file:
        write_archive_to(file, documents, assets.of(engine, documents))
    typer.echo(str(out))


@app.command()
def load(archive: Path) -> None:
    """Load a production from an archive."""
    engine = open_database()
    taken = {p.id for p in log.listed(engine)}
    documents, kept = read_archive(read_bytes(archive), archive.name)
    if documents.production.id in taken:
        documents, kept = read_archive(read_bytes(archive), archive.name, new_id=fresh_id())
    assets.put(engine, kept)
    log.create(engine, documents)
    typer.echo(f"{documents.production.id}  {documents.production.name}")


@app.command()
def sweep(
    older: Annotated[float, typer.Option(help="hours for which what nothing needs is kept")] = GRACE / 3600,
) -> None:
    """Remove art, sounds and films that no production, change or render needs any more."""
    if older < 0:
        raise Refusal("Hours can't be less than none.", where="--older", remedy="Give 0 or more.", kind="invalid")
    engine = open_database()
    for what, (count, size) in (
        ("assets", sweep_assets(engine, older * 3600)),
        ("films", sweep_films(engine, home() / "renders", older * 3600)),
    ):
        typer.echo(f"{count} {what} removed, {size / 1e6:.1f} MB")
