"""Art in."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from sorvan.cli.command import do, find, open_database, read_bytes
from sorvan.core.change.command import several
from sorvan.core.change.production import AddPuppet
from sorvan.core.errors import Refusal
from sorvan.core.model.base import fresh_id
from sorvan.core.model.documents import Documents
from sorvan.core.model.production import Production
from sorvan.interchange.files import read_file
from sorvan.interchange.imported import bring_in, stem, told
from sorvan.service.rooms.rooms import Rooms
from sorvan.store import assets, log

app = typer.Typer(rich_markup_mode=None)


@app.command("import")
def import_(
    files: Annotated[list[Path], typer.Argument(help="SVG, OpenRaster, PNG, JPEG or WebP files")],
    production: Annotated[str, typer.Option(help="the production; made if there is none of this name")],
    puppet: Annotated[str | None, typer.Option(help="the puppet; named after the first file if not given")] = None,
    loose: Annotated[bool, typer.Option(help="take top-level shapes as pieces where nothing is named")] = False,
) -> None:
    """Bring art into a production as the pieces of a puppet."""
    engine = open_database()
    read = [read_file(read_bytes(f), f.name, loose) for f in files]
    for note in told(read):
        typer.echo(note, err=True)
    if not loose and any(found.loose for found in read):
        raise Refusal(
            "Nothing in the drawing is named, so nothing was brought in.",
            remedy="Add --loose to take its top-level shapes as pieces.",
        )
    try:
        id = find(engine, production)
    except Refusal as refusal:
        if refusal.kind != "missing":
            raise
        made = Production(id=fresh_id(), name=production)
        log.create(engine, Documents({made.id: made}))
        id = made.id
    room = Rooms(engine).room(id)
    name = puppet or stem(files[0].name)
    existing = next((p.id for p in room.documents.puppets() if p.name == name), None)
    target = existing or fresh_id()
    if existing is None:
        do(room, AddPuppet(id=target, name=name))
    command = bring_in(room.documents.production, target, read)
    for found in read:
        assets.put(engine, found.assets)
    do(room, command)
    typer.echo(f"{several(len(command.pieces), 'piece')} brought into “{name}” of “{production}”.")
