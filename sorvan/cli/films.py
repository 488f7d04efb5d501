"""Films, animations, pictures and sounds out."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Annotated

import typer
from pydantic import ValidationError

from sorvan.cli.command import find, named, open_database, rate_named
from sorvan.core.errors import Refusal, in_words
from sorvan.core.model.voice import SOUND_RATE
from sorvan.core.plan.plan import Plan
from sorvan.core.timing.rates import per_second
from sorvan.interchange.svg.write import Sources, animated_svg, frame_svg
from sorvan.picture.film import make
from sorvan.picture.formats import BY_ENDING, FORMATS
from sorvan.picture.order import RenderOrder
from sorvan.picture.paint import Painter
from sorvan.picture.sound import wav
from sorvan.picture.studio import Studio
from sorvan.store import assets, log

app = typer.Typer(rich_markup_mode=None)


@app.command()
def render(
    production: str,
    out: Annotated[
        Path,
        typer.Option(
            help=f"the file; its ending says the format: {', '.join(BY_ENDING)} (a ZIP of PNG pictures) or .svg"
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
    kind = "png" if vectors else BY_ENDING.get(out.suffix.lower())
    if kind is None:
        raise Refusal(
            f"“{out.suffix}” is not something to render to.",
            where=str(out),
            remedy=f"End the name in {', '.join(BY_ENDING)} or .svg.",
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
    if heard is not None and FORMATS[kind].form == "sound":
        wav(heard, str(out))
        typer.echo(f"{out}: {len(heard) / SOUND_RATE:.2f} s")
        return
    make(order.show(documents, studio), Painter(studio.asset), settings, out, progress, heard)
    typer.echo(f"{out}: {total} frames, {settings.width} × {settings.height} px")
