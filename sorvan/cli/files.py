"""Art and productions in and out, and films."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Annotated

import typer
from pydantic import ValidationError

from sorvan.cli.command import app, do, find, home, named, open_database, rate_named, read_bytes
from sorvan.core.change.production import AddPuppet
from sorvan.core.errors import Refusal, in_words
from sorvan.core.model.documents import Documents
from sorvan.core.model.production import Production
from sorvan.core.model.voice import SOUND_RATE
from sorvan.core.plan.plan import Plan
from sorvan.core.timing.rates import per_second
from sorvan.interchange.archive import read_archive, write_archive_to
from sorvan.interchange.files import read_file
from sorvan.interchange.imported import bring_in, fresh_id, stem
from sorvan.interchange.svg.write import Sources, animated_svg, frame_svg
from sorvan.picture.film import Format, make
from sorvan.picture.order import RenderOrder
from sorvan.picture.paint import Painter
from sorvan.picture.sound import wav
from sorvan.picture.studio import Studio
from sorvan.service.rooms import Rooms
from sorvan.store import assets, log
from sorvan.store.sweep import GRACE, sweep_assets, sweep_films


@app.command("import")
def import_(
    files: Annotated[list[Path], typer.Argument(help="SVG, PNG or WebP files")],
    production: Annotated[str, typer.Option(help="the production; made if there is none of this name")],
    puppet: Annotated[str | None, typer.Option(help="the puppet; named after the first file if not given")] = None,
    loose: Annotated[bool, typer.Option(help="take top-level shapes as pieces where nothing is named")] = False,
) -> None:
    """Bring art into a production as the pieces of a puppet."""
    engine = open_database()
    read = [read_file(read_bytes(f), f.name, loose) for f in files]
    for note in (n for found in read for n in found.notes):
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
    typer.echo(f"{len(command.pieces)} pieces brought into “{name}” of “{production}”.")


@app.command("list")
def list_() -> None:
    """List all productions with their puppets, motions and shots."""
    engine = open_database()
    for listed in log.listed(engine):
        typer.echo(f"{listed.id}  {listed.name}")
        documents = log.load(engine, listed.id).documents
        for puppet in documents.puppets():
            typer.echo(f"  {puppet.name}: {len(puppet.pieces)} pieces")
            for motion in documents.motions(puppet.id):
                typer.echo(f"    {motion.name}: {motion.length} frames{', a cycle' if motion.cycle else ''}")
        for n, shot in enumerate(documents.shots()):
            typer.echo(f"  shot {n + 1}, {shot.name}: {shot.frames} frames, {shot.stage}")


ENDINGS: dict[str, Format] = {
    ".mp4": "mp4",
    ".webm": "webm",
    ".gif": "gif",
    ".apng": "apng",
    ".webp": "webp",
    ".zip": "png",
    ".wav": "wav",
}


@app.command()
def render(
    production: str,
    out: Annotated[
        Path,
        typer.Option(
            help=f"the file; its ending says the format: {', '.join(ENDINGS)} (a ZIP of PNG pictures) or .svg"
        ),
    ],
    motion: Annotated[str | None, typer.Option(help="a motion's name")] = None,
    shot: Annotated[str | None, typer.Option(help="a shot's name")] = None,
    film: Annotated[bool, typer.Option("--film", help="all shots in their order")] = False,
    first: Annotated[int | None, typer.Option("--from", help="first frame, from 1")] = None,
    last: Annotated[int | None, typer.Option("--to", help="last frame, included")] = None,
    width: Annotated[int | None, typer.Option(help="width in pixels")] = None,
    clear: Annotated[bool, typer.Option(help="leave the paper and the backdrop out (PNG, APNG and WebP)")] = False,
    blur: Annotated[int, typer.Option(help="motion blur: pictures for each frame, 1 to 32")] = 1,
    shutter: Annotated[float, typer.Option(help="how long the shutter is open, in degrees of 360")] = 180.0,
    seen_as: Annotated[
        str | None, typer.Option("--pass", help="blocking, breakdown or final; each shot's own if not given")
    ] = None,
    rate: Annotated[
        str | None, typer.Option(help="pictures a second, as 12, 60 or 24000/1001; the production's own if not given")
    ] = None,
    quiet: Annotated[bool, typer.Option(help="leave the sound out")] = False,
) -> None:
    """Render a motion, a shot or the whole film: to a film, an animation, pictures or a sound."""
    vectors = out.suffix.lower() == ".svg"
    kind = "png" if vectors else ENDINGS.get(out.suffix.lower())
    if kind is None:
        raise Refusal(
            f"“{out.suffix}” is not something to render to.",
            where=str(out),
            remedy=f"End the name in {', '.join(ENDINGS)} or .svg.",
        )
    if (motion is not None) + (shot is not None) + film != 1:
        raise Refusal(
            "It is not clear what to render.", where=production, remedy="Give one of --motion, --shot and --film."
        )
    engine = open_database()
    documents = log.load(engine, find(engine, production)).documents
    given: dict[str, object] = {"format": kind, "first": first, "last": last, "width": width, "clear": clear}
    given |= {"blur": blur, "shutter": shutter, "seen_as": seen_as, "sound": not quiet}
    if rate is not None:
        given["rate"] = rate_named(rate)
    if motion is not None:
        given["motion"] = named(list(documents.motions()), motion, "motion", production).id
    elif shot is not None:
        given["shot"] = named(list(documents.shots()), shot, "shot", production).id
    try:
        order = RenderOrder.model_validate(given)
    except ValidationError as error:
        raise in_words(error) from None
    settings = order.settings(documents)
    studio = Studio(lambda id: assets.get(engine, id)[1])
    total = settings.stop - settings.start

    def progress(done: int) -> None:
        if sys.stderr.isatty():
            typer.echo(f"\r{done} of {total} frames", err=True, nl=False)

    if vectors:
        sources = Sources.of(studio)
        show, start = order.show(documents, studio), settings.start
        if total == 1 or not isinstance(show, Plan):
            data = frame_svg(show, start, sources, order.name(documents))
        else:
            own = per_second(settings.rate)
            data = animated_svg(show, start, settings.stop, own, sources, order.name(documents))
        out.write_bytes(data)
        typer.echo(f"{out}: {total if isinstance(show, Plan) else 1} frames")
        return
    heard = order.heard(documents, lambda id: assets.get(engine, id)[1])
    if heard is not None and kind == "wav":
        wav(heard, str(out))
        typer.echo(f"{out}: {len(heard) / SOUND_RATE:.2f} s")
        return
    make(order.show(documents, studio), Painter(studio.asset), settings, out, progress, heard)
    typer.echo(f"{out}: {total} frames, {settings.width} × {settings.height} px")


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
