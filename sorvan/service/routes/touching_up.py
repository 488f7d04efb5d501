"""Routes that touch up a piece's drawing while its original stays, and tell of what it consists."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Path, Request

from sorvan.core.art.colours import colours_in
from sorvan.core.art.outlines import silhouette
from sorvan.core.art.parting import opened, wrapped
from sorvan.core.art.retouching import changed_part, in_order, retouched
from sorvan.core.change.drawings import drawing
from sorvan.core.change.retouching import RetouchDrawing, TouchUp
from sorvan.core.errors import Refusal
from sorvan.core.model.art import Art, Box
from sorvan.core.model.base import Colour, Id
from sorvan.core.model.retouch import PartChange, Retouch
from sorvan.core.rig.skeleton import piece
from sorvan.interchange.svg.skia_paths import art_of, bounds_of
from sorvan.picture.studio import ART_MEDIA, Studio
from sorvan.service.routes.exchanged import Errand, Exchanged
from sorvan.service.routes.parting import MOST, name_of, stored
from sorvan.service.routes.productions import Ack, ack
from sorvan.store import assets

router = APIRouter(prefix="/api/productions/{production}", tags=["art"])


class TouchingUp(Errand):
    """What is done to a drawing of a piece."""

    puppet: Id
    piece: Id
    drawing: Id
    touch: TouchUp


class RetouchedPart(Exchanged):
    """A part of a drawing: its place in the original (from the back), the box that it fills now (drawing units), the
    colours that it has now, and how it is changed."""

    part: int
    name: str
    box: Box
    fill: Colour | None
    stroke: Colour | None
    change: PartChange


@router.post("/touch-up")
def touch_up(request: Request, production: str, asked: TouchingUp) -> Ack:
    """Do something to a drawing; what it was before stays, and it can be put back."""
    room, studio = request.app.state.rooms.room(production), request.app.state.studio
    puppet = room.documents.puppet(asked.puppet)
    held = piece(puppet, asked.piece)
    before = drawing(held, asked.drawing)
    original = studio.art(before.retouch.of if before.retouch else before.art)
    how = asked.touch.over(puppet, held, before, len(opened(original)[1]))
    art = original if how is None else art_of(retouched(original, how, bounds_of))
    if art is None or (how is not None and not _shows(art, studio)):
        raise Refusal(
            f"Nothing of “{before.name}” would be left.",
            where=held.name,
            remedy="Leave something of it, or remove the drawing instead.",
        )
    id, data = stored(art)
    assets.put(request.app.state.engine, {id: (ART_MEDIA, data)})
    command = RetouchDrawing(
        puppet=puppet.id,
        piece=held.id,
        drawing=before.id,
        edit=asked.touch.edit,
        retouch=how,
        art=id,
        bounds=art.bounds,
    )
    return ack(room.submit(asked.change, asked.window, asked.base, command))


@router.get("/puppets/{puppet}/pieces/{piece}/drawings/{drawing}/parts")
def drawing_parts(
    request: Request,
    production: str,
    puppet: str,
    held: Annotated[str, Path(alias="piece")],
    shown: Annotated[str, Path(alias="drawing")],
) -> list[RetouchedPart]:
    """The parts of a drawing, from the back."""
    documents = request.app.state.rooms.room(production).documents
    d = drawing(piece(documents.puppet(puppet), held), shown)
    how = d.retouch or Retouch(of=d.art)
    original = request.app.state.studio.art(how.of)
    around, parts = opened(original)
    if len(parts) > MOST:
        raise Refusal(
            f"“{d.name}” has {len(parts)} parts, more than can be changed one by one ({MOST}).",
            where=d.name,
            remedy="Group its parts in the program it was drawn in; lines can be wiped off and drawn on it.",
        )
    found: list[RetouchedPart] = []
    for i in in_order(len(parts), how):
        change = how.parts.get(i, PartChange())
        alone = art_of([wrapped(around, [changed_part(around, parts[i], change, bounds_of)])])
        if alone is None:
            continue
        colours = dict(reversed([c.split(":") for c in colours_in(alone)]))
        found.append(
            RetouchedPart(
                part=i,
                name=name_of(parts[i]) or f"part {i + 1}",
                box=alone.bounds,
                fill=colours.get("fill"),
                stroke=colours.get("stroke"),
                change=change,
            )
        )
    return found


def _shows(art: Art, studio: Studio) -> bool:
    try:
        silhouette(art, studio)
    except Refusal:
        return False
    return True
