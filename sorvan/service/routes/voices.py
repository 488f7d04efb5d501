"""Routes to voice lines: sounds brought in, their sounds found, charts in and out, and what came of them."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Annotated

from fastapi import APIRouter, Form, Query, Request, Response, UploadFile
from pydantic import Field

from sorvan.core.change.charting import SetChart
from sorvan.core.change.voices import AddVoice, SetVoice
from sorvan.core.checks.finding import Finding, mendable
from sorvan.core.checks.voice import findings
from sorvan.core.errors import Refusal
from sorvan.core.model.base import fresh_id
from sorvan.core.model.documents import Documents
from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import MouthChart, Puppet
from sorvan.core.model.recipe import Mouths
from sorvan.core.model.voice import SOUND_RATE, Chart, Recording, Voice
from sorvan.core.planning.speaking import goes_on, moods_on, needed_for, placed_on, reasons, spoken
from sorvan.core.timing.rates import per_second, seconds
from sorvan.core.voice.accents import accents
from sorvan.core.voice.captions import cues, web_vtt
from sorvan.core.voice.loudness import loudness, with_loudness
from sorvan.core.voice.mouths import letters, sounds_by_mouth
from sorvan.core.voice.sheet import exposure_sheet
from sorvan.core.voice.stand_ins import stand_ins
from sorvan.interchange.charts import ChartFormat, write_chart
from sorvan.interchange.imported import stem
from sorvan.picture.order import RenderOrder
from sorvan.picture.sheets import exposure_pdf
from sorvan.picture.sound import samples_of
from sorvan.service.attachments import attachment
from sorvan.service.heavy import IN_TURN
from sorvan.service.letters.messages import FindingView
from sorvan.service.readers import Readers, along
from sorvan.service.rooms.aligners import Aligners
from sorvan.service.rooms.rooms import Room
from sorvan.service.routes.exchanged import Exchanged
from sorvan.service.routes.productions import Ack, ChangeId, ack
from sorvan.service.windows.rig_report import finding_view
from sorvan.speech.espeak import languages
from sorvan.store import assets

router = APIRouter(prefix="/api", tags=["voices"])


class SoundReport(Exchanged):
    """A sound that was brought in: the line that has it, what there was to say, and the change."""

    voice: str
    notes: list[str]
    ack: Ack
    needs: int | None = None
    """How many frames its motion would need for it, if it goes on after the motion has ended."""


class SpokenLanguage(Exchanged):
    """A language that texts can be said in."""

    code: str
    name: str


class Align(Exchanged):
    """What is said in a line, and in which language. Without a text only loudness is gone by; with `spread` the
    text is laid out over what is heard by length alone."""

    text: Annotated[str, Field(max_length=40_000)]
    language: Annotated[str, Field(pattern=r"^[A-Za-z0-9-]{2,24}$")] = "en-us"
    spread: bool = False


class Run(Exchanged):
    """A stretch of one mouth: first frame and end (from 0), and why it is shown."""

    start: int
    end: int
    mouth: str
    why: str


class FillingIn(Exchanged):
    """The mouth that fills in for one that is not there, for which sounds, and a word in which one is heard."""

    mouth: str
    sounds: tuple[str, ...]
    heard: str | None


class Exposed(Exchanged):
    """What the program makes of the lines on a motion: why each mouth is shown, likely mistakes, and the words
    that bear an accent (line, time in it, word, size)."""

    runs: list[Run]
    findings: list[FindingView]
    accents: list[tuple[str, float, str, float]]
    letters: dict[str, str]
    """The mouth that each letter of the keyboard puts in."""
    sounds: dict[str, list[str]]
    """The sounds that each mouth takes."""
    moods: dict[int, str]
    """From which frames on which mood holds."""
    missing: dict[str, FillingIn]
    """The groups that the set has no mouth for, and what fills in."""


class SheetLine(Exchanged):
    """One frame of the exposure sheet."""

    frame: int
    word: str
    phones: str
    mouth: str
    pose: str
    note: str


def _room(request: Request, production: str) -> Room:
    room: Room = request.app.state.rooms.room(production)
    return room


@router.get("/languages")
def list_languages() -> list[SpokenLanguage]:
    """Every language that a voice speaks."""
    return [SpokenLanguage(code=found.code, name=found.name) for found in languages()]


@router.post("/productions/{production}/voices", status_code=201)
def bring_sound(
    request: Request,
    production: str,
    file: UploadFile,
    change: ChangeId,
    window: Annotated[str, Form(max_length=64)],
    base: Annotated[int, Form(ge=0)],
    motion: Annotated[str | None, Form()] = None,
    at: Annotated[float, Form()] = 0.0,
    shot: Annotated[str | None, Form()] = None,
    row: Annotated[int, Form(ge=0, le=9)] = 0,
    voice: Annotated[str | None, Form()] = None,
) -> SoundReport:
    """Bring a sound in: as a new line, placed on a motion or in a shot, or as the new sound of a line."""
    room = _room(request, production)
    name = file.filename or "sound"
    readers: Readers = request.app.state.readers
    found = readers.read({"job": "sound"}, [file], [name], along(room, window), f"{production}/{change}")
    recording = Recording.model_validate_json(found["recording"])
    assets.put(request.app.state.engine, found["assets"])
    if voice is not None:
        done = room.submit(change, window, base, SetVoice(voice=voice, sound=recording))
    else:
        voice = fresh_id()
        adding = AddVoice(
            id=voice,
            name=stem(name)[:120] or "Line",
            sound=recording,
            motion=motion,
            placed=f"s{voice}"[:40],
            at=at,
            shot=shot,
            row=row,
        )
        done = room.submit(change, window, base, adding)
    needs = _needed(room.documents, motion, f"s{voice}"[:40]) if motion is not None else None
    return SoundReport(voice=voice, notes=list(recording.said), ack=ack(done), needs=needs)


def _needed(documents: Documents, motion: str, sound: str) -> int | None:
    """The frames that a motion needs for a sound on it, if that goes on after its end."""
    held = documents.motion(motion)
    if sound not in held.sounds:
        return None
    placed, line = placed_on(held, sound, documents.lines_on(held))
    rate = per_second(documents.production.rate)
    return needed_for(placed, line, rate) if goes_on(held, placed, line, rate) else None


@router.post("/productions/{production}/voices/{voice}/align", status_code=202)
def align(request: Request, production: str, voice: str, wanted: Align) -> None:
    """Begin to find the sounds of a line; windows are told how it goes."""
    room = _room(request, production)
    line = room.documents.voice(voice)
    if line.sound is None:
        raise Refusal("This line has no sound.", where=line.name, remedy="Bring one in first.", kind="empty")
    sound = assets.get(request.app.state.engine, line.sound.asset)[1]
    aligners: Aligners = request.app.state.aligners
    aligners.start(room, line, wanted.text, wanted.language, sound, spread=wanted.spread)


@router.delete("/productions/{production}/voices/{voice}/align", status_code=204)
def cancel_align(request: Request, production: str, voice: str) -> None:
    """Stop finding the sounds of a line; its chart stays as it was."""
    request.app.state.aligners.cancel(production, voice)


@router.post("/productions/{production}/voices/{voice}/chart")
def bring_chart(
    request: Request,
    production: str,
    voice: str,
    file: UploadFile,
    change: ChangeId,
    window: Annotated[str, Form(max_length=64)],
    base: Annotated[int, Form(ge=0)],
) -> Ack:
    """Read a line's chart from a TextGrid or a CSV file."""
    room = _room(request, production)
    line = room.documents.voice(voice)
    readers: Readers = request.app.state.readers
    order = {"job": "chart", "seconds": line.seconds}
    found = readers.read(order, [file], errand=f"{production}/{change}")
    chart = Chart.model_validate_json(found["chart"])
    if line.sound is not None:
        samples = samples_of(assets.get(request.app.state.engine, line.sound.asset)[1]).mean(axis=1)
        chart = with_loudness(chart, loudness(samples, SOUND_RATE), line.seconds)
    return ack(room.submit(change, window, base, SetChart(voice=voice, chart=chart)))


@router.get("/productions/{production}/voices/{voice}/chart")
def get_chart(request: Request, production: str, voice: str, format: ChartFormat = "long") -> Response:
    """A line's chart as TextGrid, long or short, or as CSV."""
    line = _room(request, production).documents.voice(voice)
    ending = "csv" if format == "csv" else "TextGrid"
    return attachment(
        write_chart(line, format), f"{line.name}.{ending}", "text/csv" if format == "csv" else "text/plain"
    )


def _on(request: Request, production: str, motion: str) -> tuple[Documents, Motion, Puppet, dict[str, Voice]]:
    documents = _room(request, production).documents
    held = documents.motion(motion)
    return documents, held, documents.puppet(held.puppet), documents.lines_on(held)


@router.get("/productions/{production}/motions/{motion}/exposure")
def exposure(request: Request, production: str, motion: str) -> Exposed:
    """What the program makes of the lines on a motion."""
    documents, held, puppet, lines = _on(request, production, motion)
    rate = per_second(documents.production.rate)
    runs: list[Run] = []
    for recipe in held.recipes.values():
        if isinstance(recipe, Mouths) and recipe.sound in held.sounds:
            try:
                done = spoken(held, puppet, recipe, rate, lines)
            except Refusal:
                continue
            if done is not None:
                runs += [Run(start=a, end=b, mouth=m, why=why) for a, b, m, why in reasons(done)]
    found: list[Finding] = [mendable(f, documents) for f in findings(puppet, held, lines, rate)]
    stressed = [(p.id, a.at, a.word, a.size) for p in held.sounds.values() for a in accents(lines[p.voice])]
    chart = puppet.mouths
    return Exposed(
        runs=runs,
        findings=[finding_view(f) for f in found],
        accents=stressed,
        letters=letters(chart) if chart else {},
        sounds=sounds_by_mouth(chart) if chart else {},
        moods=moods_on(held, rate),
        missing=_filling_in(chart, lines.values()) if chart else {},
    )


def _filling_in(chart: MouthChart, lines: Iterable[Voice]) -> dict[str, FillingIn]:
    found = stand_ins(chart, lines).items()
    return {str(group): FillingIn(mouth=s.mouth.id, sounds=s.sounds, heard=s.heard) for group, s in found}


@router.get("/productions/{production}/motions/{motion}/sheet")
def sheet(request: Request, production: str, motion: str) -> list[SheetLine]:
    """The exposure sheet of a motion, a line for each frame."""
    documents, held, puppet, lines = _on(request, production, motion)
    found = exposure_sheet(held, lines, puppet.mouths, per_second(documents.production.rate))
    return [SheetLine(**line.__dict__) for line in found]


@router.get("/productions/{production}/captions")
def captions(
    request: Request,
    production: str,
    motion: str | None = None,
    shot: str | None = None,
    first: Annotated[int, Query(ge=1)] = 1,
) -> Response:
    """What is said on a motion, in a shot or, without either, in the whole film as WebVTT, for a film that begins
    with a frame (from 1)."""
    documents = _room(request, production).documents
    begins = float(seconds(first - 1, documents.production.rate))
    lines = {v.id: v for v in documents.voices()}
    heard = RenderOrder(motion=motion, shot=shot).cues(documents)
    return Response(web_vtt(cues(heard, lines), begins), media_type="text/vtt")


@router.get("/productions/{production}/motions/{motion}/sheet.pdf", dependencies=[IN_TURN])
def sheet_pdf(request: Request, production: str, motion: str) -> Response:
    """The exposure sheet of a motion as PDF."""
    documents, held, puppet, lines = _on(request, production, motion)
    rate = per_second(documents.production.rate)
    data = exposure_pdf(f"{puppet.name} · {held.name}", exposure_sheet(held, lines, puppet.mouths, rate), rate)
    return attachment(data, f"{held.name} exposure sheet.pdf", "application/pdf")
