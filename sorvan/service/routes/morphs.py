"""Routes about drawings that become others."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Request
from pydantic import Field

from sorvan.core.change.morphs import KeepBetweens, KeptBetween
from sorvan.core.model.base import Id
from sorvan.core.model.times import Frame
from sorvan.core.motion.drawing_betweens import betweens_at
from sorvan.core.plan.evaluate import Evaluation
from sorvan.picture.studio import ART_MEDIA
from sorvan.service.routes.exchanged import Errand
from sorvan.service.routes.productions import Ack, ack
from sorvan.store import assets

router = APIRouter(prefix="/api/productions/{production}", tags=["morphs"])


class BetweensAsked(Errand):
    """In-betweens of a piece's drawings in a motion that are to become drawings, at these frames."""

    motion: Id
    piece: Id
    frames: Annotated[tuple[Frame, ...], Field(min_length=1, max_length=500)]
    then: Literal["hold", "morph"] = "hold"


@router.post("/betweens")
def keep_betweens(request: Request, production: str, asked: BetweensAsked) -> Ack:
    """Make in-betweens drawings of the piece, and key them where they are seen."""
    room = request.app.state.rooms.room(production)
    documents = room.documents
    motion = documents.motion(asked.motion)
    evaluation = Evaluation.full(
        documents.puppet(motion.puppet), motion, False, documents.production, request.app.state.studio
    )
    found = betweens_at(evaluation, asked.piece, sorted(set(asked.frames)))
    made = {d.art: (ART_MEDIA, art.model_dump_json().encode()) for _, d, art in found}
    assets.put(request.app.state.engine, made)
    command = KeepBetweens(
        motion=asked.motion,
        piece=asked.piece,
        betweens=tuple(KeptBetween(frame=f, drawing=d) for f, d, _ in found),
        change=asked.then,
    )
    return ack(room.submit(asked.change, asked.window, asked.base, command))
