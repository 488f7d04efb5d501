"""Routes that bring art in, and hand art out."""

from __future__ import annotations

from base64 import b64encode
from typing import Annotated, Any

from fastapi import APIRouter, Form, Query, Request, Response, UploadFile
from pydantic import Field, TypeAdapter

from sorvan.core.change.commands import COMMAND
from sorvan.core.errors import Refusal
from sorvan.core.model.base import LATER
from sorvan.interchange import limits
from sorvan.interchange.bringing import Purpose
from sorvan.interchange.sounds import SOUND_MEDIA
from sorvan.picture.studio import ART_MEDIA
from sorvan.service.readers import Readers, along
from sorvan.service.routes.exchanged import Exchanged
from sorvan.service.routes.productions import Ack, ack
from sorvan.service.windows.rig_report import views_named
from sorvan.store import assets

router = APIRouter(prefix="/api", tags=["art"])
SERVED = (ART_MEDIA, "image/png", "image/jpeg", SOUND_MEDIA)


class ChosenPiece(Exchanged):
    """A piece made of parts of a drawing, each by the path that leads to it."""

    name: Annotated[str, Field(max_length=120)]
    parts: Annotated[list[Annotated[str, Field(max_length=400)]], Field(min_length=1, max_length=2000)]


_CHOSEN = TypeAdapter(Annotated[list[ChosenPiece], Field(min_length=1, max_length=2000)], config=LATER)


class PartView(Exchanged):
    """A part of a drawing: the path that leads to it, its name (empty without one), what it is, whether the file hides it,
    how many shapes are in it, its picture as a `data:` address, and its own parts."""

    path: str
    name: str
    kind: str
    hidden: bool
    shapes: int
    picture: str
    parts: list[PartView]


class PartsView(Exchanged):
    """The parts of a drawing, and the pieces that are proposed."""

    tree: list[PartView]
    pieces: list[ChosenPiece]
    named: bool


class Report(Exchanged):
    """What an import did, or would do.

    With `offer` set nothing was brought in yet: the files name no pieces, and these many shapes
    can be taken if the page asks again with `loose`. Of a new version, `changed`, `added` and
    `vanished` name drawings, and `same` counts those that did not change.
    `sized` says why pieces are larger or smaller than in their files.
    """

    notes: list[str]
    pieces: list[str]
    offer: int = 0
    changed: list[str] = []
    added: list[str] = []
    vanished: list[str] = []
    same: int = 0
    sized: str = ""
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
    purpose: Annotated[Purpose, Form()] = "pieces",
    target: Annotated[str, Form(max_length=400)] = "",
    dry: Annotated[bool, Form()] = False,
    paths: Annotated[list[str] | None, Form()] = None,
    chosen: Annotated[str, Form(max_length=1_000_000)] = "",
) -> Report:
    """Bring files in: all of them, or, if one can't be read, none.

    They become pieces of a puppet, drawings of its piece `target`, the new version of what came
    from the file `target` (their own name, if none is given), or pictures, or a film, laid under the work.
    `paths` are the files' places in a folder; `dry` only says what would happen. Of a drawing `chosen` tells what becomes
    a piece, as `/art/parts` tells of its parts: a list of pieces in JSON.
    """
    room = request.app.state.rooms.room(production)
    readers: Readers = request.app.state.readers
    if sum(f.size or 0 for f in files) > 4 * limits.BYTES:
        raise Refusal("The files are too large together.", remedy="Bring them in a few at a time.", kind="too-large")
    names = paths if paths and len(paths) == len(files) else [f.filename or "picture" for f in files]
    documents = room.documents
    order = {
        "job": "art",
        "production": documents.production.model_dump_json().encode(),
        "puppet": documents.puppet(puppet).model_dump_json().encode(),
        "purpose": purpose,
        "target": target,
        "loose": loose,
        "chosen": [(piece.name, piece.parts) for piece in _CHOSEN.validate_json(chosen)] if chosen else None,
    }
    found = readers.read(order, files, names, along(room, window), f"{production}/{change}")
    report = Report.model_validate(found)
    if dry or found["command"] is None:
        return report
    assets.put(request.app.state.engine, found["assets"])
    report.ack = ack(room.submit(change, window, base, COMMAND.validate_json(found["command"])))
    if purpose == "pieces":
        report.views = views_named(room.documents.puppet(puppet))
    return report


@router.post("/productions/{production}/art/parts")
def look_into_drawing(
    request: Request,
    production: str,
    file: UploadFile,
    change: Annotated[str, Form(min_length=8, max_length=64)],
    window: Annotated[str, Form(max_length=64)],
) -> PartsView:
    """What a drawing consists of, to choose from what becomes a piece. Nothing is brought in."""
    room = request.app.state.rooms.room(production)
    readers: Readers = request.app.state.readers
    found = readers.read({"job": "parts"}, [file], None, along(room, window), f"{production}/{change}")
    return PartsView(
        tree=[_part_view(part) for part in found["tree"]],
        pieces=[ChosenPiece(name=name[:120], parts=parts[:2000]) for name, parts in found["pieces"][:2000]],
        named=found["named"],
    )


def _part_view(part: dict[str, Any]) -> PartView:
    picture = part["picture"]
    shown = "data:image/png;base64," + b64encode(picture).decode() if picture else ""
    return PartView(**{**part, "picture": shown, "parts": [_part_view(inner) for inner in part["parts"]]})


@router.delete("/productions/{production}/imports/{change}", status_code=204)
def cancel_import(request: Request, production: str, change: str) -> None:
    """Give up bringing something in. Nothing happens if that is over already."""
    request.app.state.readers.cancel(f"{production}/{change}")


HANDED_OUT = {
    "Cache-Control": "private, max-age=31536000, immutable",
    "Content-Security-Policy": "default-src 'none'; sandbox",
    "X-Content-Type-Options": "nosniff",
}
"""With what an asset is handed out: it never changes, and is nothing that a browser would run."""
MANY = 64
"""Drawings that are handed out in one answer at most."""


@router.get("/assets/{asset}")
def get_asset(request: Request, asset: str) -> Response:
    """An asset. It never changes, and is never handed out as anything a browser would run."""
    made = request.app.state.studio.made(asset)
    media, data = made or assets.get(request.app.state.engine, asset)
    return Response(data, media_type=media if media in SERVED else "application/octet-stream", headers=HANDED_OUT)


@router.get("/arts")
def get_arts(
    request: Request, ids: Annotated[str, Query(pattern=rf"^[0-9a-f]{{64}}(,[0-9a-f]{{64}}){{0,{MANY - 1}}}$")]
) -> Response:
    """Drawings by their ids, in one answer. Those that are not there are left out, and such an answer is not kept."""
    studio, found = request.app.state.studio, dict[str, bytes]()
    wanted = list(dict.fromkeys(ids.split(",")))
    for id in wanted:
        made = studio.made(id)
        if made is not None and made[0] == ART_MEDIA:
            found[id] = made[1]
    found |= assets.several(request.app.state.engine, [id for id in wanted if id not in found], ART_MEDIA)
    body = b",".join(b'"' + id.encode() + b'":' + data for id, data in sorted(found.items()))
    headers = HANDED_OUT if len(found) == len(wanted) else HANDED_OUT | {"Cache-Control": "no-store"}
    return Response(b"{" + body + b"}", media_type="application/json", headers=headers)
