"""The `sorvan` command: the same work as in the page, without the page."""

from __future__ import annotations

import gc
import itertools
import logging
import os
import sys
from csv import writer as csv_writer
from pathlib import Path
from socket import socket
from typing import Annotated

import typer
import uvicorn
from pydantic import ValidationError
from sqlalchemy import Engine

from sorvan.core.change.production import AddMotion, AddPuppet
from sorvan.core.change.recipes import DoRecipe
from sorvan.core.errors import Refusal, in_words
from sorvan.core.model.documents import Documents
from sorvan.core.model.motion import Motion
from sorvan.core.model.production import Production
from sorvan.core.model.puppet import Puppet
from sorvan.core.model.recipe import Gait
from sorvan.core.motion.feet import trace
from sorvan.core.motion.gaits import PRESETS, by_preset
from sorvan.core.rig.anatomy import anatomy
from sorvan.core.rig.roles import roles_of
from sorvan.interchange.archive import read_archive, write_archive
from sorvan.interchange.files import read_file
from sorvan.interchange.imported import bring_in, fresh_id, stem
from sorvan.picture.film import make
from sorvan.picture.order import RenderOrder
from sorvan.picture.paint import Painter
from sorvan.picture.studio import Studio
from sorvan.service.app import create_app
from sorvan.service.renders import OWN_WORKER
from sorvan.service.rooms import Room, Rooms
from sorvan.store import assets, log
from sorvan.store.cluster import database_url
from sorvan.store.database import connect, migrate
from sorvan.work.worker import Worker

app = typer.Typer(no_args_is_help=True, add_completion=False, pretty_exceptions_enable=False, help=__doc__)
WINDOW = "command line"


def home() -> Path:
    """Where the private database and rendered files lie: SORVAN_HOME, or `.data` here."""
    return Path(os.environ.get("SORVAN_HOME", ".data"))


def open_database() -> Engine:
    """The database, with its tables up to date."""
    engine = connect(database_url(home()))
    migrate(engine)
    return engine


def find(engine: Engine, name: str) -> str:
    """The id of the production with this name or id. Raises `Refusal` if there is none, or several."""
    found = [p.id for p in log.listed(engine) if name in (p.id, p.name)]
    if not found:
        raise Refusal(
            f"There is no production “{name}”.", remedy="`sorvan list` shows those there are.", kind="missing"
        )
    if len(found) > 1:
        raise Refusal(
            f"{len(found)} productions are called “{name}”.", remedy=f"Name one by its id: {', '.join(found)}."
        )
    return found[0]


def _do(room: Room, command: object) -> None:
    room.submit(fresh_id(), WINDOW, room.seq, command)  # type: ignore[arg-type]


@app.command("import")
def import_(
    files: Annotated[list[Path], typer.Argument(help="SVG, PNG or WebP files")],
    production: Annotated[str, typer.Option(help="the production; made if there is none of this name")],
    puppet: Annotated[str | None, typer.Option(help="the puppet; named after the first file if not given")] = None,
    loose: Annotated[bool, typer.Option(help="take top-level shapes as pieces where nothing is named")] = False,
) -> None:
    """Bring art into a production as the pieces of a puppet."""
    engine = open_database()
    read = [read_file(_bytes(f), f.name, loose) for f in files]
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
        _do(room, AddPuppet(id=target, name=name))
    command = bring_in(room.documents.production, target, read)
    for found in read:
        assets.put(engine, found.assets)
    _do(room, command)
    typer.echo(f"{len(command.pieces)} pieces brought into “{name}” of “{production}”.")


@app.command("list")
def list_() -> None:
    """List all productions with their puppets and motions."""
    engine = open_database()
    for listed in log.listed(engine):
        typer.echo(f"{listed.id}  {listed.name}")
        documents = log.load(engine, listed.id).documents
        for puppet in documents.puppets():
            typer.echo(f"  {puppet.name}: {len(puppet.pieces)} pieces")
            for motion in documents.motions(puppet.id):
                typer.echo(f"    {motion.name}: {motion.length} frames{', a cycle' if motion.cycle else ''}")


@app.command()
def render(
    production: str,
    motion: Annotated[str, typer.Option(help="the motion's name")],
    out: Annotated[Path, typer.Option(help="an .mp4 file, or a .zip for a PNG sequence")],
    first: Annotated[int | None, typer.Option("--from", help="first frame, from 1")] = None,
    last: Annotated[int | None, typer.Option("--to", help="last frame, included")] = None,
    width: Annotated[int | None, typer.Option(help="width in pixels")] = None,
    clear: Annotated[bool, typer.Option(help="leave the paper and the backdrop out (PNG only)")] = False,
) -> None:
    """Render a motion to a film or to a PNG sequence."""
    if out.suffix not in (".mp4", ".zip"):
        raise Refusal(
            f"“{out.suffix}” is not something to render to.", where=str(out), remedy="End the name in .mp4 or .zip."
        )
    engine = open_database()
    documents = log.load(engine, find(engine, production)).documents
    held = _named(list(documents.motions()), motion, "motion", production)
    kind = "mp4" if out.suffix == ".mp4" else "png"
    order = RenderOrder(motion=held.id).changed(format=kind, first=first, last=last, width=width, clear=clear)
    settings = order.settings(documents)
    studio = Studio(lambda id: assets.get(engine, id)[1])
    total = settings.stop - settings.start

    def progress(done: int) -> None:
        if sys.stderr.isatty():
            typer.echo(f"\r{done} of {total} frames", err=True, nl=False)

    make(order.plan(documents, studio), Painter(studio.asset), settings, out, progress)
    typer.echo(f"{out}: {total} frames, {settings.width} × {settings.height} px")


def _named(found: list[Puppet] | list[Motion], name: str, what: str, where: str) -> Puppet | Motion:
    """The one puppet or motion of this name or id. Raises `Refusal` if there is none, or several."""
    right = [d for d in found if name in (d.id, d.name)]
    if not right:
        remedy = "`sorvan list` shows those there are."
        raise Refusal(f"There is no {what} “{name}”.", where=where, remedy=remedy, kind="missing")
    if len(right) > 1:
        ids = ", ".join(d.id for d in right)
        raise Refusal(f"{len(right)} {what}s are called “{name}”.", where=where, remedy=f"Name one by its id: {ids}.")
    return right[0]


@app.command()
def gait(
    production: str,
    puppet: Annotated[str, typer.Option(help="the puppet's name")],
    gait: Annotated[str, typer.Option(help="walk, run, sneak, limp, skip, trot or gallop")],
    frames: Annotated[int, typer.Option(help="frames of the whole cycle, 8 to 48")],
    name: Annotated[str, typer.Option(help="what the motion is called; done again if it has a gait already")],
    step: Annotated[float | None, typer.Option(help="length of a step in units; a natural one if not given")] = None,
    preset: Annotated[str | None, typer.Option(help="a preset's shape, as tired or proud")] = None,
) -> None:
    """Plan a gait: a cycle with labelled poses, ordinary keys, and feet that stay where they stand."""
    engine = open_database()
    room = Rooms(engine).room(find(engine, production))
    held = _named(list(room.documents.puppets()), puppet, "puppet", production)
    shape = _asked({"kind": "gait", "id": fresh_id(), "name": gait.capitalize(), "gait": gait, "frames": frames}, step)
    if preset is not None:
        if preset not in PRESETS:
            raise Refusal(f"There is no preset “{preset}”.", remedy=f"Use one of {', '.join(PRESETS)}.", kind="missing")
        chosen = by_preset(shape, preset)  # type: ignore[arg-type]
        shape = chosen.changed(gait=shape.gait, frames=shape.frames)
    motion = next((m for m in room.documents.motions(held.id) if m.name == name), None)
    if motion is None:
        id = fresh_id()
        _do(room, AddMotion(id=id, puppet=held.id, name=name, length=frames, cycle=True))
    else:
        id = motion.id
        known = next((r for r in motion.recipes.values() if isinstance(r, Gait)), None)
        shape = shape.changed(id=known.id) if known else shape
    _do(room, DoRecipe(motion=id, recipe=shape))
    done = room.documents.motion(id)
    for said in done.recipes[shape.id].said:
        typer.echo(said, err=True)
    poses = ", ".join(f"{p.label} {f + 1}" for f, p in done.poses.items())
    typer.echo(f"“{name}”: {done.length} frames, {poses}")


def _asked(given: dict[str, object], step: float | None) -> Gait:
    try:
        return Gait.model_validate(given | {"step": step})
    except ValidationError as error:
        raise in_words(error) from None


@app.command("trace")
def trace_(
    production: str,
    motion: Annotated[str, typer.Option(help="the motion's name")],
    csv: Annotated[Path, typer.Option(help="the file to write")],
    joint: Annotated[list[str] | None, typer.Option(help="a joint's name; every joint if none is named")] = None,
) -> None:
    """Write where joints are on the stage in every frame: frame (from 1), joint, x, y (units), angle (degrees).
    Feet are also written as heel and toe."""
    engine = open_database()
    documents = log.load(engine, find(engine, production)).documents
    held = _named(list(documents.motions()), motion, "motion", production)
    assert isinstance(held, Motion)
    puppet = documents.puppet(held.puppet)
    wanted = None
    if joint:
        wanted = {id for id, j in puppet.joints.items() if j.name in joint or id in joint}
        if lacking := [n for n in joint if all(n not in (id, j.name) for id, j in puppet.joints.items())]:
            raise Refusal(f"There is no joint “{lacking[0]}”.", where=puppet.name, kind="missing")
    legs = anatomy(puppet).legs if "thigh" in roles_of(puppet).values() else ()
    rows = trace(puppet, held, legs, wanted)
    with csv.open("w", newline="", encoding="utf-8") as file:
        writer = csv_writer(file)
        writer.writerow(("frame", "joint", "x", "y", "angle"))
        for f in range(held.length):
            writer.writerows((f + 1, r.name, *(f"{float(v[f]):.6f}" for v in (r.x, r.y, r.angle))) for r in rows)
    typer.echo(f"{csv}: {len(rows)} joints and ends of feet over {held.length} frames")


@app.command()
def export(production: str, out: Annotated[Path, typer.Option(help="the archive to write")]) -> None:
    """Write a whole production to one archive."""
    engine = open_database()
    documents = log.load(engine, find(engine, production)).documents
    out.write_bytes(
        write_archive(documents, assets.with_pictures(engine, documents.art_assets(), documents.picture_assets()))
    )
    typer.echo(str(out))


@app.command()
def load(archive: Path) -> None:
    """Load a production from an archive."""
    engine = open_database()
    taken = {p.id for p in log.listed(engine)}
    documents, kept = read_archive(_bytes(archive), archive.name)
    if documents.production.id in taken:
        documents, kept = read_archive(_bytes(archive), archive.name, new_id=fresh_id())
    assets.put(engine, kept)
    log.create(engine, documents)
    typer.echo(f"{documents.production.id}  {documents.production.name}")


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


class _Announced(uvicorn.Server):
    """Says where it is once it answers, not before."""

    async def startup(self, sockets: list[socket] | None = None) -> None:
        await super().startup(sockets)
        for bound in itertools.chain.from_iterable(s.sockets for s in self.servers):
            print(f"Sorvan is at http://127.0.0.1:{bound.getsockname()[1]}/", flush=True)


def _bytes(path: Path) -> bytes:
    try:
        return path.read_bytes()
    except OSError as error:
        raise Refusal(f"The file can't be read: {error.strerror}.", where=str(path), remedy="Check its name.") from None


def main() -> None:
    """Run the command; a refusal goes to stderr, and the exit code says what kind of failure it was.

    1: refused as asked. 2: wrong use of the command. 3: something named is not there.
    """
    try:
        app()
    except Refusal as refusal:
        print(f"sorvan: {refusal.sentence()}", file=sys.stderr)
        sys.exit(3 if refusal.kind == "missing" else 1)


if __name__ == "__main__":
    main()
