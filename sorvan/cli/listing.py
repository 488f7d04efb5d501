"""What there is."""

from __future__ import annotations

import typer

from sorvan.cli.command import open_database
from sorvan.core.change.command import several
from sorvan.store import log

app = typer.Typer(rich_markup_mode=None)


@app.command("list")
def list_() -> None:
    """List all productions with their puppets, motions and shots."""
    engine = open_database()
    for listed in log.listed(engine):
        typer.echo(f"{listed.id}  {listed.name}")
        documents = log.load(engine, listed.id).documents
        for puppet in documents.puppets():
            typer.echo(f"  {puppet.name}: {several(len(puppet.pieces), 'piece')}")
            for motion in documents.motions(puppet.id):
                typer.echo(f"    {motion.name}: {motion.length} frames{', a cycle' if motion.cycle else ''}")
        for n, shot in enumerate(documents.shots()):
            typer.echo(f"  shot {n + 1}, {shot.name}: {shot.frames} frames, {shot.stage}")
