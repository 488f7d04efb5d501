"""Routes to the shelf of rigs."""

from __future__ import annotations

from collections.abc import Iterable

from fastapi import APIRouter, Request, Response

from sorvan.core.model.base import Id, Name, fresh_id
from sorvan.core.model.kit import Kit
from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import Puppet
from sorvan.core.rig.sides import free_name
from sorvan.picture.strips import strip
from sorvan.service.routes.exchanged import Exchanged
from sorvan.service.who_acts import acting_id
from sorvan.store import shelf

router = APIRouter(prefix="/api", tags=["rigs"])
HIGH = 192
"""Pixels that the picture of a puppet is high."""


class MotionGlance(Exchanged):
    """A motion of a puppet: its name, its length in frames, and whether it is a cycle."""

    id: str
    name: str
    frames: int
    cycle: bool


class PuppetGlance(Exchanged):
    """A puppet that can be used again: what it has. `picture` is where its picture is had."""

    puppet: str
    name: str
    pieces: int
    joints: int
    limbs: int
    dials: int
    mouths: bool
    motions: list[MotionGlance]
    picture: str

    @classmethod
    def of(cls, puppet: Puppet, motions: Iterable[Motion], name: str, picture: str) -> PuppetGlance:
        """What there is to tell of a puppet."""
        return cls(
            puppet=puppet.id,
            name=name,
            pieces=len(puppet.pieces),
            joints=sum(not j.handle for j in puppet.joints.values()),
            limbs=len(puppet.chains),
            dials=len(puppet.dials),
            mouths=puppet.mouths is not None,
            motions=[MotionGlance(id=m.id, name=m.name, frames=m.length, cycle=m.cycle) for m in motions],
            picture=picture,
        )


class RigView(Exchanged):
    """A rig on the shelf, and when it was put there."""

    id: str
    at: str
    rig: PuppetGlance


class ToShelve(Exchanged):
    """The puppet whose rig is put on the shelf, and what it is called there."""

    puppet: Id
    name: Name


@router.get("/rigs")
def list_rigs(request: Request) -> list[RigView]:
    """The shelf of rigs, the last saved first; where people sign in, that of whoever asks."""
    return [_view(held) for held in shelf.listed(request.app.state.engine, acting_id())]


def _view(held: shelf.Shelved) -> RigView:
    glance = PuppetGlance.of(held.kit.puppet, held.kit.motions, held.name, f"/api/rigs/{held.id}/picture")
    return RigView(id=held.id, at=held.at.isoformat(), rig=glance)


@router.get("/rigs/{rig}/picture", response_class=Response)
def rig_picture(request: Request, rig: str) -> Response:
    """The picture of a rig on the shelf."""
    return pictured(shelf.picture(request.app.state.engine, rig, acting_id()))


def pictured(data: bytes) -> Response:
    """A small picture that may change."""
    return Response(data, media_type="image/png", headers={"Cache-Control": "private, no-cache"})


@router.delete("/rigs/{rig}", status_code=204)
def remove_rig(request: Request, rig: str) -> None:
    """Take a rig off the shelf. What was made with it stays."""
    shelf.remove(request.app.state.engine, rig, acting_id())


@router.post("/productions/{production}/rigs", status_code=201)
def shelve_rig(request: Request, production: str, asked: ToShelve) -> RigView:
    """Put the rig of a puppet on the shelf, with its motions, as it is now."""
    engine = request.app.state.engine
    documents = request.app.state.rooms.room(production).documents
    kit = Kit.of(documents, asked.puppet)
    picture = strip(documents.production, kit.puppet, None, request.app.state.studio, [0], HIGH)
    id, owner = fresh_id(), acting_id()
    shelf.put(engine, id, free_name(asked.name, shelf.names(engine, owner)), owner, kit, picture)
    return _view(shelf.get(engine, id, owner))
