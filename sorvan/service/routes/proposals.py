"""A rig proposed for loose pieces."""

from __future__ import annotations

from fastapi import APIRouter, Request

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


class ProposalView(Exchanged):
    """A proposed rig, from the body outwards, and the loose joints that are left open."""

    hangs: list[HangView]
    open: list[str]


@router.get("/puppets/{puppet}/proposed-rig")
def propose_rig(request: Request, production: str, puppet: str) -> ProposalView:
    """The rig that the loose pieces of a puppet seem to be made for. Nothing is changed by it."""
    room = request.app.state.rooms.room(production)
    found = proposed(room.documents.puppet(puppet), request.app.state.studio)
    return ProposalView(
        hangs=[
            HangView(hung=hung, sure=h.sure, why=h.why, limb=h.limb)
            for hung, h in zip(hung_as_proposed(found), found.hangs, strict=True)
        ],
        open=list(found.open),
    )
