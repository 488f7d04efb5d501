"""Routes that bring art in, and hand art out."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Form, Request, Response, UploadFile
from pydantic import BaseModel

from sorvan.core.errors import Refusal
from sorvan.interchange import limits
from sorvan.interchange.files import read_file
from sorvan.interchange.imported import ART_MEDIA, bring_in
from sorvan.service.productions import Ack, ack
from sorvan.store import assets

router = APIRouter(prefix="/api", tags=["art"])
SERVED = (ART_MEDIA, "image/png")


class Report(BaseModel):
    """What an import did. With `offer` set nothing was brought in yet: the files name no pieces,
    and these many shapes can be taken if the page asks again with `loose`."""

    notes: list[str]
    pieces: list[str]
    offer: int = 0
    ack: Ack | None = None


@router.post("/productions/{production}/art")
def import_art(
    request: Request,
    production: str,
    files: list[UploadFile],
    puppet: Annotated[str, Form()],
    change: Annotated[str, Form(min_length=8, max_length=64)],
    window: Annotated[str, Form(max_length=64)],
    base: Annotated[int, Form(ge=0)],
    loose: Annotated[bool, Form()] = False,
) -> Report:
    """Bring files into a puppet as pieces: all of them, or, if one can't be read, none."""
    room = request.app.state.rooms.room(production)
    if sum(f.size or 0 for f in files) > 4 * limits.BYTES:
        raise Refusal("The files are too large together.", remedy="Bring them in a few at a time.", kind="too-large")
    read = [read_file(f.file.read(), f.filename or "picture", loose) for f in files]
    notes = [note for found in read for note in found.notes]
    names = [piece.name for found in read for piece in found.pieces]
    if not loose and any(found.loose for found in read):
        return Report(notes=notes, pieces=names, offer=sum(len(f.pieces) for f in read))
    command = bring_in(room.documents.production, puppet, read)
    room.documents.puppet(puppet)
    for found in read:
        assets.put(request.app.state.engine, found.assets)
    return Report(notes=notes, pieces=names, ack=ack(room, room.submit(change, window, base, command)))


@router.get("/assets/{asset}")
def get_asset(request: Request, asset: str) -> Response:
    """An asset. It never changes, and is never handed out as anything a browser would run."""
    media, data = assets.get(request.app.state.engine, asset)
    headers = {
        "Cache-Control": "private, max-age=31536000, immutable",
        "Content-Security-Policy": "default-src 'none'; sandbox",
        "X-Content-Type-Options": "nosniff",
    }
    return Response(data, media_type=media if media in SERVED else "application/octet-stream", headers=headers)
