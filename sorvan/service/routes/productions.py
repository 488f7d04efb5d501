"""Routes to productions and to their changes."""

from __future__ import annotations

import contextlib
import os
import tempfile
from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, Form, Request, UploadFile
from fastapi.responses import FileResponse
from pydantic import Field
from starlette.background import BackgroundTask

from sorvan.core.change.commands import AnyCommand
from sorvan.core.change.keys import KeyAt
from sorvan.core.change.retiming import LandingKeys
from sorvan.core.errors import Refusal
from sorvan.core.model.base import Id, Name, fresh_id
from sorvan.core.model.documents import DOCUMENT, Document, Documents
from sorvan.core.model.production import Production
from sorvan.core.model.times import LONGEST
from sorvan.interchange.archive import write_archive_to
from sorvan.service.heavy import IN_TURN
from sorvan.service.letters.messages import StepView, WriteView
from sorvan.service.rooms.rooms import Acknowledged, Rooms, step_view, write_views
from sorvan.service.routes.exchanged import Exchanged
from sorvan.service.who_acts import ACTING, acting_id
from sorvan.store import accounts, assets, lately, log, renders

ChangeId = Annotated[str, Form(min_length=8, max_length=64)]
"""What a page calls a change that it sends with files."""
router = APIRouter(prefix="/api/productions", tags=["productions"])


class ListedView(Exchanged):
    """One line of the list of productions, and what whoever asks may do with it."""

    id: str
    name: str
    changed: str
    may: accounts.May = "own"


class NewProduction(Exchanged):
    """What a new production is called."""

    name: Name


class Whole(Exchanged):
    """A production whole, as of change number `seq`. `left_out` says what of it could not be read."""

    seq: int
    documents: list[Document]
    undo: StepView | None
    redo: StepView | None
    left_out: tuple[str, ...]


class Lately(Exchanged):
    """What was looked at last in a production, and at which frame."""

    puppet: Id | None = None
    motion: Id | None = None
    shot: Id | None = None
    frame: Annotated[int, Field(ge=0, le=LONGEST)] = 0


class Change(Exchanged):
    """A command, with an id of its own (so that sending it twice does it once), the window it
    comes from, and the number of the newest change that window had seen."""

    id: Annotated[str, Field(min_length=8, max_length=64)]
    window: Annotated[str, Field(min_length=1, max_length=64)]
    base: Annotated[int, Field(ge=0)]
    command: AnyCommand


class UndoTurn(Exchanged):
    """Undo or redo of the change with this number."""

    id: Annotated[str, Field(min_length=8, max_length=64)]
    window: Annotated[str, Field(min_length=1, max_length=64)]
    target: int


class Ack(Exchanged):
    """A change is on disk under number `seq`, and wrote this. With nothing to change `seq` is 0.

    Keys that were moved are where `keys` says.
    """

    seq: int
    label: str
    writes: tuple[WriteView, ...]
    undo: StepView | None
    redo: StepView | None
    keys: tuple[KeyAt, ...] = ()


def ack(done: Acknowledged) -> Ack:
    """The answer to a change."""
    return Ack(
        seq=done.seq,
        label=done.label,
        writes=write_views(done.writes),
        undo=step_view(done.undo),
        redo=step_view(done.redo),
    )


def _rooms(request: Request) -> Rooms:
    rooms: Rooms = request.app.state.rooms
    return rooms


@router.get("")
def list_productions(request: Request) -> list[ListedView]:
    """All productions, the last changed first; where people sign in, those that whoever asks may see."""
    found = log.listed(request.app.state.engine)
    user = ACTING.get()
    if not request.app.state.sign_in or user is None:
        return [ListedView(id=p.id, name=p.name, changed=p.changed.isoformat()) for p in found]
    may = accounts.visible(request.app.state.engine, user.id)
    return [
        ListedView(id=p.id, name=p.name, changed=p.changed.isoformat(), may=may[p.id]) for p in found if p.id in may
    ]


@router.post("", status_code=201)
def create_production(request: Request, new: NewProduction) -> ListedView:
    """Start an empty production."""
    production = Production(id=fresh_id(), name=new.name)
    log.create(request.app.state.engine, Documents({production.id: production}), acting_id())
    return next(p for p in list_productions(request) if p.id == production.id)


@router.get("/{production}")
def get_production(request: Request, production: str) -> Whole:
    """A production whole."""
    state = _rooms(request).room(production).state
    return Whole(
        seq=state.seq,
        documents=list(state.documents.by_id.values()),
        undo=step_view(state.undo),
        redo=step_view(state.redo),
        left_out=state.left_out,
    )


@router.get("/{production}/lately")
def get_lately(request: Request, production: str) -> Lately:
    """Where whoever asks worked last in a production."""
    return Lately.model_validate(lately.of(request.app.state.engine, production, acting_id()) or {})


@router.put("/{production}/lately", status_code=204)
def put_lately(request: Request, production: str, place: Lately) -> None:
    """Keep where whoever asks works in a production, so that it opens there again."""
    lately.put(request.app.state.engine, production, acting_id(), place.model_dump(mode="json"))


@router.delete("/{production}", status_code=204)
def remove_production(request: Request, production: str) -> None:
    """Take a production away for good."""
    made = [r.id for r in renders.of(request.app.state.engine, production)]
    log.remove(request.app.state.engine, production)
    _rooms(request).close(production)
    for render in made:
        for file in request.app.state.films.glob(f"{render}.*"):
            file.unlink(missing_ok=True)


@router.post("/{production}/changes")
def change(request: Request, production: str, sent: Change) -> Ack:
    """Make a change. The answer comes when it is on disk."""
    room = _rooms(request).room(production)
    done = ack(room.submit(sent.id, sent.window, sent.base, sent.command, exactly=True))
    if isinstance(sent.command, LandingKeys):
        # By now another window may have shortened the motion, or removed it.
        with contextlib.suppress(Refusal):
            done.keys = sent.command.landed(room.documents.motion(sent.command.motion))
    return done


@router.post("/{production}/undo")
def undo(request: Request, production: str, turn: UndoTurn) -> Ack:
    """Take back the newest change that stands."""
    return ack(_rooms(request).room(production).take_back(turn.id, turn.window, turn.target))


@router.post("/{production}/redo")
def redo(request: Request, production: str, turn: UndoTurn) -> Ack:
    """Bring back the change undone last."""
    return ack(_rooms(request).room(production).bring_back(turn.id, turn.window, turn.target))


@router.get("/{production}/archive", response_class=FileResponse, dependencies=[IN_TURN])
def archive(request: Request, production: str) -> FileResponse:
    """The whole production as one file, in a documented open format."""
    documents = _rooms(request).room(production).documents
    with tempfile.NamedTemporaryFile(suffix=".zip", delete=False) as file:
        try:
            write_archive_to(file.file, documents, assets.of(request.app.state.engine, documents))
        except BaseException:
            Path(file.name).unlink()
            raise
    name = f"{documents.production.name}.sorvan.zip"
    return FileResponse(
        file.name, filename=name, media_type="application/zip", background=BackgroundTask(os.unlink, file.name)
    )


@router.post("/archive", status_code=201)
def load_archive(request: Request, file: UploadFile) -> ListedView:
    """Load a production from an archive, as a production of its own."""
    engine = request.app.state.engine

    def keep(id: str, media: str, data: bytes | bytearray) -> None:
        # Should the archive be refused in the end, a sweep takes it away again.
        assets.put(engine, {id: (media, bytes(data))})

    found = request.app.state.readers.read({"job": "archive", "id": fresh_id()}, [file], keep=keep)
    # One by one: while a document is checked nothing else can be answered.
    read = [DOCUMENT.validate_json(data) for data in found["documents"]]
    documents = Documents({document.id: document for document in read})
    log.create(engine, documents, acting_id())
    return next(p for p in list_productions(request) if p.id == documents.production.id)
