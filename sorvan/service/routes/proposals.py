"""A rig proposed for loose pieces."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Request
from pydantic import Field

from sorvan.core.change.proposing import Hung, hung_as_proposed
from sorvan.core.rig.proposal import proposed
from sorvan.service.routes.exchanged import Exchanged

router = APIRouter(prefix="/api/productions/{production}", tags=["rig"])


class HangView(Exchanged):
    """What is proposed for one joint, how sure it is (0 to 1) and why, and the limb it belongs to."""

    hung: Hung
    sure: float
    why: str
    limb: str


class QuestionView(Exchanged):
    """What a loose joint hangs on, which is not clear: the likeliest answers, and that which is taken for right until
    somebody says."""

    joint: str
    among: list[str]
    proposed: str | None


class ProposalView(Exchanged):
    """A proposed rig, from the body outwards, the loose joints that are left open, and what is not clear."""

    hangs: list[HangView]
    open: list[str]
    questions: list[QuestionView]


ANSWER = r"^[A-Za-z0-9_-]{1,40}:([A-Za-z0-9_-]{1,40})?$"


@router.get("/puppets/{puppet}/proposed-rig")
def propose_rig(
    request: Request,
    production: str,
    puppet: str,
    said: Annotated[tuple[Annotated[str, Field(pattern=ANSWER)], ...], Query(max_length=300)] = (),
) -> ProposalView:
    """The rig that the loose pieces of a puppet seem to be made for, where somebody `said` what joints hang on, by that:
    `joint:other`, or `joint:` for nothing. Nothing is changed by it."""
    room = request.app.state.rooms.room(production)
    answers = {joint: on or None for joint, _, on in (answer.partition(":") for answer in said)}
    found = proposed(room.documents.puppet(puppet), request.app.state.studio, answers)
    return ProposalView(
        hangs=[
            HangView(hung=hung, sure=h.sure, why=h.why, limb=h.limb)
            for hung, h in zip(hung_as_proposed(found), found.hangs, strict=True)
        ],
        open=list(found.open),
        questions=[QuestionView(joint=q.joint, among=list(q.among), proposed=q.proposed) for q in found.questions],
    )
