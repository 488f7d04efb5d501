"""Routes about the views of a puppet that can be turned."""

from __future__ import annotations

from fastapi import APIRouter, Request

from sorvan.core.art.mirror import mirror_image
from sorvan.core.change.in_views import DrawInView
from sorvan.core.change.views import turnaround, view_at
from sorvan.core.model.base import Id, asset_id, fresh_id
from sorvan.core.plan.turning import seen_from
from sorvan.core.rig.skeleton import piece
from sorvan.picture.studio import ART_MEDIA
from sorvan.service.routes.exchanged import Errand
from sorvan.service.routes.productions import Ack, ack
from sorvan.store import assets

router = APIRouter(prefix="/api/productions/{production}", tags=["turns"])


class RightWayRound(Errand):
    """A piece that is to be seen the right way round in a view in the mirror."""

    puppet: Id
    dial: Id
    at: float
    piece: Id


@router.post("/right-way-round")
def draw_right_way_round(request: Request, production: str, asked: RightWayRound) -> Ack:
    """Give a piece a drawing of its own in a view: the mirror image of the one that is seen there."""
    room = request.app.state.rooms.room(production)
    puppet = room.documents.puppet(asked.puppet)
    view = view_at(turnaround(puppet, asked.dial), asked.at)
    held = piece(seen_from(puppet, view.at), asked.piece)
    shown = held.shown()
    data = mirror_image(request.app.state.studio.art(shown.art)).model_dump_json().encode()
    name = f"{shown.name}, other way round"[:120]
    made = shown.with_art(asset_id(data), shown.bounds, id=fresh_id(), name=name)
    assets.put(request.app.state.engine, {made.art: (ART_MEDIA, data)})
    command = DrawInView(puppet=asked.puppet, dial=asked.dial, at=asked.at, piece=asked.piece, drawing=made)
    return ack(room.submit(asked.change, asked.window, asked.base, command))
