"""Routes that bring art in, and hand art out."""

from __future__ import annotations

from functools import partial
from typing import Annotated, Literal

from fastapi import APIRouter, Form, Request, Response, UploadFile
from pydantic import BaseModel

from sorvan.core.change.commands import AnyCommand
from sorvan.core.change.looks import SetReference
from sorvan.core.errors import Refusal
from sorvan.core.model.art import Picture
from sorvan.core.model.documents import Documents
from sorvan.core.model.puppet import Reference
from sorvan.core.rig.skeleton import piece
from sorvan.interchange import limits
from sorvan.interchange.files import in_folders, read_file
from sorvan.interchange.films import is_film, read_film
from sorvan.interchange.imported import Imported, bring_in, drawings_for, fitted, renew
from sorvan.interchange.sounds import SOUND_MEDIA
from sorvan.picture.studio import ART_MEDIA
from sorvan.service.messages import Importing
from sorvan.service.productions import Ack, ack
from sorvan.service.rig_report import views_named
from sorvan.store import assets

router = APIRouter(prefix="/api", tags=["art"])
SERVED = (ART_MEDIA, "image/png", "image/jpeg", SOUND_MEDIA)


class Report(BaseModel):
    """What an import did, or would do.

    With `offer` set nothing was brought in yet: the files name no pieces, and these many shapes
    can be taken if the page asks again with `loose`. Of a new version, `changed`, `added` and
    `vanished` name drawings, and `same` counts those that did not change.
    """

    notes: list[str]
    pieces: list[str]
    offer: int = 0
    changed: list[str] = []
    added: list[str] = []
    vanished: list[str] = []
    same: int = 0
    views: tuple[str, ...] = ()
    """The views that pieces of the puppet are named by now, and that could be made of them."""
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
    purpose: Annotated[Literal["pieces", "drawings", "new-version", "reference"], Form()] = "pieces",
    target: Annotated[str, Form(max_length=400)] = "",
    dry: Annotated[bool, Form()] = False,
    paths: Annotated[list[str] | None, Form()] = None,
) -> Report:
    """Bring files in: all of them, or, if one can't be read, none.

    They become pieces of a puppet, drawings of its piece `target`, the new version of what came
    from the file `target` (their own name, if none is given), or pictures, or a film, laid under the work.
    `paths` are the files' places in a folder; `dry` only says what would happen.
    """
    room = request.app.state.rooms.room(production)
    if sum(f.size or 0 for f in files) > 4 * limits.BYTES:
        raise Refusal("The files are too large together.", remedy="Bring them in a few at a time.", kind="too-large")
    names = paths if paths and len(paths) == len(files) else [f.filename or "picture" for f in files]
    whole = purpose == "reference"
    told = [0.0]

    def progress(count: int, part: float) -> None:
        now = (count + part) / len(files)
        if now - told[0] >= 0.02:
            told[0] = now
            room.tell(Importing(window=window, part=round(now, 3)))

    if whole and len(files) == 1 and is_film(names[0]):
        film = read_film(files[0].file.read(), names[0], room.documents.production.rate, partial(progress, 0))
        assets.put(request.app.state.engine, film.assets)
        size = (film.width, film.height)
        laying = SetReference(puppet=puppet, reference=_laid(room.documents, film.pictures, size, (0, 0, *size)))
        return Report(
            notes=[*film.notes],
            pieces=[f"{names[0]}, frame {n + 1}" for n in range(len(film.pictures))],
            ack=ack(room.submit(change, window, base, laying)),
        )
    read = in_folders(
        [
            read_file(f.file.read(), name, loose or whole, whole, partial(progress, count))
            for count, (f, name) in enumerate(zip(files, names, strict=True))
        ]
    )
    report = Report(
        notes=[note for found in read for note in found.notes],
        pieces=[piece.name for found in read for piece in found.pieces],
    )
    if not loose and any(found.loose for found in read):
        report.offer = sum(len(f.pieces) for f in read)
        return report
    command = _command(room.documents, puppet, read, purpose, target, report)
    if dry or command is None:
        return report
    for found in read:
        assets.put(request.app.state.engine, found.assets)
    report.ack = ack(room.submit(change, window, base, command))
    if purpose == "pieces":
        report.views = views_named(room.documents.puppet(puppet))
    return report


def _command(
    documents: Documents, puppet: str, read: list[Imported], purpose: str, target: str, report: Report
) -> AnyCommand | None:
    held = documents.puppet(puppet)
    if purpose == "drawings":
        added = drawings_for(puppet, piece(held, target), read)
        return added
    if purpose == "new-version":
        found = renew(documents.production, held, read, target or None)
        report.changed, report.added, report.vanished, report.same = (
            found.changed,
            found.added,
            found.vanished,
            found.same,
        )
        return found.command
    if purpose == "reference":
        return _reference(documents, puppet, read)
    return bring_in(documents.production, puppet, read)


def _reference(documents: Documents, puppet: str, read: list[Imported]) -> SetReference:
    pictures = [node for found in read for p in found.pieces for node in p.art.nodes if isinstance(node, Picture)]
    if not pictures:
        raise Refusal("There is no picture in that.", remedy="Choose PNG or WebP pictures.", kind="wrong-type")
    laid = _laid(documents, tuple(p.asset for p in pictures), read[0].frame, pictures[0].box)
    return SetReference(puppet=puppet, reference=laid)


def _laid(
    documents: Documents, pictures: tuple[str, ...], frame: tuple[float, float], box: tuple[float, float, float, float]
) -> Reference:
    """Pictures laid as large as their frame fits the stage."""
    left, top, scale = fitted(documents.production, frame)
    x, y, w, h = box
    return Reference(pictures=pictures, width=w, height=h, x=left + x * scale, y=top + y * scale, scale=scale)


@router.get("/assets/{asset}")
def get_asset(request: Request, asset: str) -> Response:
    """An asset. It never changes, and is never handed out as anything a browser would run."""
    made = request.app.state.studio.made(asset)
    media, data = made or assets.get(request.app.state.engine, asset)
    headers = {
        "Cache-Control": "private, max-age=31536000, immutable",
        "Content-Security-Policy": "default-src 'none'; sandbox",
        "X-Content-Type-Options": "nosniff",
    }
    return Response(data, media_type=media if media in SERVED else "application/octet-stream", headers=headers)
