"""The film on paper, as vectors and as a timeline: contact sheets, SVG, and OpenTimelineIO both ways."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated

from fastapi import APIRouter, Form, Query, Request, Response, UploadFile

from sorvan.core.change.commands import COMMAND
from sorvan.core.errors import Refusal
from sorvan.core.film.reel import plan_of
from sorvan.core.model.documents import Documents
from sorvan.core.model.shot import Shot
from sorvan.core.plan.plan import Plan
from sorvan.core.shot.struck_poses import struck_frames
from sorvan.core.timing.rates import per_second
from sorvan.interchange.svg.write import Sources, animated_svg, frame_svg
from sorvan.interchange.timelines import write_timeline
from sorvan.picture.order import RenderOrder
from sorvan.picture.paint import Painter, Surface
from sorvan.picture.sheets import Sight, contact_pdf
from sorvan.picture.studio import Studio
from sorvan.service.attachments import attachment
from sorvan.service.heavy import IN_TURN
from sorvan.service.rooms.rooms import Room, Rooms
from sorvan.service.routes.productions import Ack, ChangeId, ack

router = APIRouter(prefix="/api/productions/{production}", tags=["papers"])
WIDE = 480
"""Pixels across of a picture on a contact sheet."""
MOST_FRAMES = 600
"""Frames of an animated SVG."""


def _room(request: Request, production: str) -> Room:
    rooms: Rooms = request.app.state.rooms
    return rooms.room(production)


@router.get("/contact-sheet.pdf", response_class=Response, dependencies=[IN_TURN])
def contact_sheet(
    request: Request,
    production: str,
    shot: str | None = None,
    every: Annotated[int | None, Query(ge=1, le=1000)] = None,
) -> Response:
    """Pictures of a shot, or of all shots of the film, as PDF: the poses that are struck, or every n-th frame."""
    documents = _room(request, production).documents
    shots = [documents.shot(shot)] if shot is not None else list(documents.shots())
    title = shots[0].name if shot is not None else documents.production.name
    studio: Studio = request.app.state.studio
    data = contact_pdf(title, (s for held in shots for s in _sights(documents, held, studio, every)))
    return attachment(data, f"{title} contact sheet.pdf", "application/pdf")


def _sights(documents: Documents, shot: Shot, studio: Studio, every: int | None) -> Iterator[Sight]:
    production = documents.production
    plan, painter = plan_of(documents, shot, studio, "final"), Painter(studio.asset)
    surface = Surface(WIDE, max(2, round(WIDE * production.height / production.width)))
    first, stop = shot.played
    frames = range(first, stop, every) if every is not None else struck_frames(documents, shot)
    for frame in frames:
        yield Sight(surface.draw(painter, plan, frame).copy(), f"{shot.name}, frame {frame + 1}")


@router.get("/frame.svg", response_class=Response, dependencies=[IN_TURN])
def frame_picture(
    request: Request,
    production: str,
    motion: str | None = None,
    shot: str | None = None,
    frame: Annotated[int, Query(ge=1)] = 1,
) -> Response:
    """A frame (from 1) of a motion, a shot or, without either, the film as SVG."""
    documents = _room(request, production).documents
    order = RenderOrder(motion=motion, shot=shot, first=frame, last=frame)
    at, name = order.settings(documents).start, order.name(documents)
    studio: Studio = request.app.state.studio
    data = frame_svg(order.show(documents, studio), at, Sources.of(studio), f"{name}, frame {frame}")
    return attachment(data, f"{name} {frame}.svg", "image/svg+xml")


@router.get("/animated.svg", response_class=Response, dependencies=[IN_TURN])
def animated_picture(
    request: Request,
    production: str,
    motion: str | None = None,
    shot: str | None = None,
    first: Annotated[int | None, Query(ge=1)] = None,
    last: Annotated[int | None, Query(ge=1)] = None,
) -> Response:
    """A motion or a shot, or some frames of it, as animated SVG."""
    documents = _room(request, production).documents
    order = RenderOrder(motion=motion, shot=shot, first=first, last=last)
    settings, name = order.settings(documents), order.name(documents)
    studio: Studio = request.app.state.studio
    show = order.show(documents, studio)
    if not isinstance(show, Plan):
        raise Refusal("The whole film is too much for one picture.", remedy="Choose a shot or a motion.")
    if settings.stop - settings.start > MOST_FRAMES:
        raise Refusal(
            f"{settings.stop - settings.start} frames are too many for one picture.",
            where=name,
            remedy=f"Choose {MOST_FRAMES} of them at most.",
        )
    rate = per_second(documents.production.rate)
    data = animated_svg(show, settings.start, settings.stop, rate, Sources.of(studio), name)
    return attachment(data, f"{name}.svg", "image/svg+xml")


@router.get("/timeline.otio", response_class=Response)
def timeline(request: Request, production: str) -> Response:
    """The film as an OpenTimelineIO timeline."""
    documents = _room(request, production).documents
    return attachment(write_timeline(documents), f"{documents.production.name}.otio", "application/json")


@router.post("/timeline")
def bring_timeline(
    request: Request,
    production: str,
    file: UploadFile,
    change: ChangeId,
    window: Annotated[str, Form(max_length=64)],
    base: Annotated[int, Form(ge=0)],
) -> Ack:
    """Let the film be as an OpenTimelineIO timeline says: which shots, in which order, and which frames of them."""
    room = _room(request, production)
    # The pieces and keys that a timeline says nothing of stay here.
    spoken_of = [room.documents.production, *room.documents.all_shots()]
    order = {"job": "timeline", "documents": [d.model_dump_json().encode() for d in spoken_of]}
    found = request.app.state.readers.read(order, [file], errand=f"{production}/{change}")
    return ack(room.submit(change, window, base, COMMAND.validate_json(found["command"])))
