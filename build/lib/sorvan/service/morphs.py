"""Routes and letters about drawings that become others."""

from __future__ import annotations

from typing import Annotated, Literal

import numpy as np
from fastapi import APIRouter, Request
from pydantic import Field

from sorvan.core.change.drawings import drawing
from sorvan.core.change.morphs import Between, KeepBetweens
from sorvan.core.geometry import Floats
from sorvan.core.model.base import Id
from sorvan.core.model.channel import Frame
from sorvan.core.morph.ready import Ready
from sorvan.core.morph.trouble import advice, troubles
from sorvan.core.motion.betweens import betweens_at
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.plan.morphing import made_so
from sorvan.core.rig.skeleton import piece
from sorvan.picture.studio import ART_MEDIA
from sorvan.service.exchanged import Exchanged
from sorvan.service.morph_messages import AdviceView, GoingView, LookAtMorph, MetView, MorphLetter, TroubleView
from sorvan.service.productions import Ack, ack
from sorvan.store import assets

router = APIRouter(prefix="/api/productions/{production}", tags=["morphs"])


class BetweensAsked(Exchanged):
    """In-betweens of a piece's drawings in a motion that are to become drawings, at these frames."""

    motion: Id
    piece: Id
    frames: Annotated[tuple[Frame, ...], Field(min_length=1, max_length=500)]
    then: Literal["hold", "morph"] = "hold"
    change: Annotated[str, Field(min_length=8, max_length=64)]
    window: Annotated[str, Field(max_length=64)]
    base: Annotated[int, Field(ge=0)]


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
        betweens=tuple(Between(frame=f, drawing=d) for f, d, _ in found),
        change=asked.then,
    )
    return ack(room.submit(asked.change, asked.window, asked.base, command))


def morph_letter(evaluation: Evaluation, wanted: LookAtMorph) -> MorphLetter:
    """How one of a piece's drawings becomes another, as it is or as it is tried. Raises `Refusal` if one is gone."""
    held = piece(evaluation.puppet, wanted.piece)
    one, two = (drawing(held, id) for id in (wanted.first, wanted.second))
    morph = wanted.tried or held.morph(one.id, two.id)
    arts = evaluation.arts
    assert arts is not None
    ready, art = made_so(held, (one, two), morph, evaluation.production, arts)
    parts = np.array(wanted.parts)
    bad = troubles(ready, parts) if wanted.measure else []
    told = advice(arts.art(one.art), arts.art(two.art), (one.pivot, two.pivot), morph, parts) if wanted.advise else []
    return MorphLetter(
        n=wanted.n,
        piece=held.id,
        first=one.id,
        second=two.id,
        art=art,
        box=ready.box,
        count=ready.points.shape[1],
        ends=_f32(ready.points),
        parts=len(parts),
        points=_f32(ready.points_at(parts).transpose(2, 0, 1)),
        looks=_f32(ready.looks_at(parts).T),
        going=_going(ready),
        met=tuple({m.id: MetView(id=m.id, first=m.first, second=m.second) for m in ready.met}.values()),
        crossed=ready.crossed,
        shapes=ready.shapes,
        troubles=tuple(
            TroubleView(kind=t.kind, going=t.going, amounts=_f32(t.amounts), worst=t.worst, at=t.at) for t in bad
        ),
        advice=tuple(AdviceView(mark=a.mark, before=round(a.before, 4), after=round(a.after, 4)) for a in told),
        measured=wanted.measure,
    )


def _going(ready: Ready) -> tuple[GoingView, ...]:
    return tuple(
        GoingView(
            first=g.first,
            second=g.second,
            contours=tuple((c.start, c.stop) for c in g.contours),
            closed=g.closed,
            name=g.name,
        )
        for g in ready.going
    )


def _f32(values: Floats) -> bytes:
    return np.ascontiguousarray(values, dtype="<f4").tobytes()
