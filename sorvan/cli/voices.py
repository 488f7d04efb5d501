"""Phoneme charts and mouths from a sound and its text."""

from __future__ import annotations

import csv
import sys
from pathlib import Path
from typing import Annotated

import typer
from sqlalchemy import Engine

from sorvan.cli.command import do, find, named, open_database, rate_named, read_bytes
from sorvan.core.change.charting import SetChart
from sorvan.core.change.recipes import DoRecipe
from sorvan.core.change.voices import AddVoice
from sorvan.core.errors import Refusal
from sorvan.core.model.base import fresh_id
from sorvan.core.model.motion import Motion
from sorvan.core.model.recipe import Mouths
from sorvan.core.model.voice import Voice, ends
from sorvan.core.planning.speaking import usable
from sorvan.core.timing.rates import per_second
from sorvan.core.voice.exposure import expose, problem
from sorvan.core.voice.mouths import usual_chart
from sorvan.core.voice.reasons import why
from sorvan.core.voice.track import ExposureSettings
from sorvan.interchange.charts import read_chart, write_chart
from sorvan.interchange.imported import stem
from sorvan.interchange.sounds import ReadSound, mono_of, read_sound
from sorvan.service.rooms.rooms import Rooms
from sorvan.speech.charts import Wanted, chart
from sorvan.store import assets

app = typer.Typer(rich_markup_mode=None)

SoundOption = Annotated[Path, typer.Argument(help="WAV, FLAC, OGG, MP3, or a film with sound")]
TextOption = Annotated[str, typer.Option(help="what is said; without it only loudness is gone by")]
LanguageOption = Annotated[str, typer.Option(help="its language, as en-us, de or fr-fr")]


def _listened(sound: Path, text: str, language: str) -> tuple[ReadSound, Voice]:
    """A sound read, and its line with the chart that was found."""
    read = read_sound(read_bytes(sound), sound.name)
    for said in read.recording.said:
        typer.echo(said, err=True)

    def tell(part: float, what: str) -> None:
        if sys.stderr.isatty():
            typer.echo(f"\r{what}: {100 * part:3.0f} %   ", err=True, nl=False)

    kept = read.assets[read.recording.asset][1]
    found = chart(Wanted(mono_of(kept), text, language), tell)
    if sys.stderr.isatty():
        typer.echo("", err=True)
    if found.note:
        typer.echo(found.note, err=True)
    line = Voice(
        id=fresh_id(),
        name=stem(sound.name)[:120] or "Line",
        text=text,
        language=language,
        sound=read.recording,
        chart=found,
    )
    return read, line


@app.command()
def align(
    sound: SoundOption,
    out: Annotated[Path, typer.Option(help="the .TextGrid to write, or .csv")],
    text: TextOption = "",
    language: LanguageOption = "en-us",
    short: Annotated[bool, typer.Option("--short", help="write a short TextGrid")] = False,
) -> None:
    """Find when each word and sound of a text is heard in a recording, and write it as TextGrid or CSV."""
    if out.suffix.lower() not in (".textgrid", ".csv"):
        raise Refusal(
            f"“{out.suffix}” is no kind of chart.", where=str(out), remedy="End the name in .TextGrid or .csv."
        )
    _, line = _listened(sound, text, language)
    out.write_bytes(write_chart(line, "csv" if out.suffix.lower() == ".csv" else "short" if short else "long"))
    words = [w for w in line.chart.words.values() if w.text]
    unsure = [w.text for w in words if w.sure < 0.3]
    typer.echo(f"{out}: {len(words)} words, {sum(1 for p in line.chart.phones.values() if p.label)} sounds")
    if unsure:
        typer.echo(f"Less sure: {', '.join(unsure[:12])}", err=True)


@app.command()
def speak(
    sound: SoundOption,
    text: TextOption = "",
    language: LanguageOption = "en-us",
    out: Annotated[Path | None, typer.Option(help="a CSV file of mouths by frame; printed if not given")] = None,
    rate: Annotated[str, typer.Option(help="frames a second, as 24, 25 or 24000/1001")] = "24",
    lead: Annotated[float, typer.Option(help="frames by which mouths come before the sound")] = 1.5,
    hold: Annotated[int, typer.Option(help="frames that a mouth stays at least")] = 2,
    twos: Annotated[bool, typer.Option("--twos", help="change on every second frame")] = False,
    by: Annotated[Path | None, typer.Option("--chart", help="a TextGrid or CSV to go by instead of the text")] = None,
    production: Annotated[str | None, typer.Option(help="put the line into this production")] = None,
    motion: Annotated[str | None, typer.Option(help="and its mouths on this motion")] = None,
    at: Annotated[float, typer.Option(help="when the line begins on it (seconds)")] = 0.0,
) -> None:
    """Make mouths for a recording: frame (from 1), mouth, and why. With a production and a motion they are keyed
    there by the puppet's own mouth chart; without, they are the ten usual ones."""
    if by is not None:
        read = read_sound(read_bytes(sound), sound.name)
        found = read_chart(read_bytes(by), by.name, read.recording.seconds)
        line = Voice(id=fresh_id(), name=stem(sound.name), text=text, sound=read.recording, chart=found)
    else:
        read, line = _listened(sound, text, language)
    if (production is None) != (motion is None):
        raise Refusal("A production and a motion belong together.", remedy="Give both, or neither.")
    if production is not None and motion is not None:
        _put(open_database(), production, motion, read, line, at, (lead, hold, twos))
        return
    frames = per_second(rate_named(rate))
    count = int(line.seconds * frames) + 2
    set_up = problem(line, usual_chart(), 0.0, float(frames), count, ExposureSettings(lead, hold, twos))
    if set_up is None:
        raise Refusal("Nothing is said in this sound.", where=sound.name, kind="empty")
    done = expose(set_up)
    rows = [(a + 1, b - a, set_up.mouths[m].name, why(done, a)) for a, b, m in done.runs()]
    file = out.open("w", newline="", encoding="utf-8") if out is not None else sys.stdout
    writer = csv.writer(file)
    writer.writerow(("frame", "frames", "mouth", "why"))
    writer.writerows(rows)
    if out is not None:
        file.close()
        typer.echo(f"{out}: {len(rows)} mouths over {count} frames")


def _put(
    engine: Engine, production: str, motion: str, read: ReadSound, line: Voice, at: float, how: tuple[float, int, bool]
) -> None:
    room = Rooms(engine).room(find(engine, production))
    held = named(list(room.documents.motions()), motion, "motion", production)
    assert isinstance(held, Motion)
    usable(room.documents.puppet(held.puppet))
    assets.put(engine, read.assets)
    placed = fresh_id()
    do(
        room,
        AddVoice(
            id=line.id, name=line.name, text=line.text, language=line.language, sound=line.sound, motion=held.id,
            placed=placed, at=at,
        ),
    )  # fmt: skip
    do(room, SetChart(voice=line.id, chart=line.chart))
    lead, hold, twos = how
    recipe = Mouths(id=fresh_id(), name="Mouths", sound=placed, lead=lead, hold=hold, twos=twos)
    do(room, DoRecipe(motion=held.id, recipe=recipe))
    done = room.documents.motion(held.id)
    for said in done.recipes[recipe.id].said:
        typer.echo(said, err=True)
    count = sum(1 for c in done.channels.values() for k in c.keys.values() if k.recipe == recipe.id)
    words = sum(1 for _, w, _ in ends(line.chart.words, line.seconds) if w.text)
    typer.echo(f"“{held.name}”: {count} mouths for {words} words")
