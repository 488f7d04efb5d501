"""Routes that use puppets, rigs and motions again: from the shelf, from this production or from another."""

from __future__ import annotations

from base64 import b64encode
from typing import Annotated, Literal

from fastapi import APIRouter, Request, Response
from pydantic import Field

from sorvan.core.change.proposing import hung_as_proposed
from sorvan.core.change.reusing import BringPuppet, CarryMotions, PutRig
from sorvan.core.errors import Refusal, missing
from sorvan.core.model.base import Id, fresh_id
from sorvan.core.model.documents import Documents
from sorvan.core.model.kit import Kit
from sorvan.core.model.puppet import Puppet
from sorvan.core.reuse.carrying import CarriedMotion
from sorvan.core.reuse.links import Links, hinted, linked, unanswered
from sorvan.core.reuse.pins import pins_for
from sorvan.core.rig.proposal import proposed
from sorvan.picture.strips import strip
from sorvan.service.routes.exchanged import Errand, Exchanged
from sorvan.service.routes.overview import SmallPictures, looks
from sorvan.service.routes.productions import Ack, ack
from sorvan.service.routes.shelf import HIGH, PuppetGlance, pictured
from sorvan.service.who_acts import acting_id
from sorvan.store import accounts, shelf

router = APIRouter(prefix="/api/productions/{production}", tags=["rigs"])
SEEN = 6
"""Frames of a motion that are shown before it is taken."""


class PuppetSource(Exchanged):
    """Where a puppet is taken from: a rig on the shelf, or a puppet of a production."""

    rig: Id | None = None
    production: Id | None = None
    puppet: Id | None = None


class Fitting(Exchanged):
    """A rig to be put on a puppet of this production, or only motions to be done by it. `told` are answers given by hand:
    the puppet's joints by the rig's, None for those that are to have none. `motions` come along."""

    purpose: Literal["rig", "motions"]
    source: PuppetSource
    puppet: Id
    told: Annotated[dict[Id, Id | None], Field(max_length=1000)] = {}
    motions: Annotated[list[Id], Field(max_length=500)] = []


class Using(Errand, Fitting):
    """The same, done. `bring` brings the puppet in whole instead, and needs no puppet to put it on."""

    purpose: Literal["rig", "motions", "bring"]  # type: ignore[assignment]
    puppet: Id = ""
    name: Annotated[str, Field(max_length=120)] = ""


class PairView(Exchanged):
    """A joint of the rig, and the puppet's that answers to it, if one does; how sure that is (0 to 1), and why."""

    joint: str
    name: str
    other: str | None
    sure: float
    why: str


class CarriedView(Exchanged):
    """A motion that comes along, and what there is to say of it."""

    id: str
    name: str
    said: list[str]


class FittingView(Exchanged):
    """What would come of it. `pairs` are the rig's joints that have pictures or roles; `over` the puppet's pieces for
    which it has no joint, and `hung` those of such that are hung as proposed; `made` the joints and handles that are made besides. `picture` shows the puppet in the first of
    the motions, or at rest (PNG as a `data:` address)."""

    pairs: list[PairView]
    over: list[str]
    hung: list[str]
    made: int
    said: list[str]
    motions: list[CarriedView]
    picture: str


class Used(Exchanged):
    """What was done: the change, the puppet and the first motion of it, and what there is to say of that."""

    ack: Ack
    puppet: str
    motion: str | None
    said: str


def _kit(request: Request, production: str, source: PuppetSource) -> tuple[Kit, str]:
    """The kit that is used, and its name. Raises `Refusal` if whoever asks may not look at it."""
    engine = request.app.state.engine
    if source.rig is not None:
        held = shelf.get(engine, source.rig, acting_id())
        return held.kit, held.name
    documents = _documents(request, source.production or production)
    if source.puppet is None:
        raise Refusal("It is not said which puppet is meant.", kind="invalid")
    kit = Kit.of(documents, source.puppet)
    return kit, kit.puppet.name


def _documents(request: Request, production: str) -> Documents:
    user = acting_id()
    if user is not None and accounts.may(request.app.state.engine, user, production) is None:
        raise missing("production", production)
    documents: Documents = request.app.state.rooms.room(production).documents
    return documents


@router.get("/puppets")
def list_puppets(request: Request, production: str) -> list[PuppetGlance]:
    """The puppets of a production, with what each has."""
    documents = _documents(request, production)
    at = f"/api/productions/{production}/puppets"
    return [
        PuppetGlance.of(p, documents.motions(p.id), p.name, f"{at}/{p.id}/picture")
        for p in documents.puppets()
        if p.pieces
    ]


@router.get("/puppets/{puppet}/picture", response_class=Response)
def puppet_picture(request: Request, production: str, puppet: str) -> Response:
    """A small picture of a puppet at rest."""
    documents = _documents(request, production)
    held, studio = documents.puppet(puppet), request.app.state.studio
    pictures: SmallPictures = request.app.state.pictures
    key = f"{looks(documents, {puppet})}/{puppet} alone"
    return pictured(pictures.get(key, lambda: strip(documents.production, held, None, studio, [0], HIGH)))


@router.post("/fitting")
def look_at_fitting(request: Request, production: str, asked: Fitting) -> FittingView:
    """What would come of putting a rig on a puppet, or of letting it do motions. Nothing is changed."""
    documents = request.app.state.rooms.room(production).documents
    kit, _ = _kit(request, production, asked.source)
    kit = kit.only(asked.motions)
    studio = request.app.state.studio
    links, command = _made(request, documents, kit, asked)
    target = documents.puppet(asked.puppet)
    over: tuple[str, ...] = ()
    made, said = 0, list[str]()
    if isinstance(command, PutRig):
        after, fitted, told = command.carried(documents)
        over, made, said = fitted.over, len(fitted.made), list(fitted.said)
        target = fitted.puppet
    else:
        after, _, told = command.carried(documents)
    first = told[0].motion if told else None
    frames = [round(k * first.length / SEEN) for k in range(SEEN)] if first else [0]
    picture = strip(after.production, target, first, studio, frames, HIGH)
    return FittingView(
        pairs=_pairs(kit.puppet, links),
        over=[target.joints[j].name for j in over],
        hung=[target.joints[h.joint].name for h in command.hung] if isinstance(command, PutRig) else [],
        made=made,
        said=said,
        motions=[_told(m.id, c) for m, c in zip(kit.motions, told, strict=True)],
        picture="data:image/png;base64," + b64encode(picture).decode(),
    )


def _told(id: str, found: CarriedMotion) -> CarriedView:
    return CarriedView(id=id, name=found.motion.name, said=list(found.said))


def _pairs(puppet: Puppet, links: Links) -> list[PairView]:
    """The joints that are told of, as the rig has them from front to back of its tree."""
    shown = {*links.joints, *unanswered(puppet, links.joints)}
    return [
        PairView(
            joint=id,
            name=joint.name,
            other=links.joints.get(id),
            sure=links.sure.get(id, 1.0 if id in links.joints else 0.0),
            why=links.why.get(id, ""),
        )
        for id, joint in puppet.joints.items()
        if id in shown and not joint.handle
    ]


def _made(request: Request, documents: Documents, kit: Kit, asked: Fitting) -> tuple[Links, PutRig | CarryMotions]:
    """What answers to what, and the command that does what is asked."""
    studio = request.app.state.studio
    target = documents.puppet(asked.puppet)
    ids = {m.id: fresh_id() for m in kit.motions}
    if asked.purpose == "motions":
        told = asked.told
        return linked(kit.puppet, target, told), CarryMotions(puppet=target.id, kit=kit, ids=ids, told=told)
    links = linked(kit.puppet, hinted(target, studio), asked.told)
    joints = {one: other for one, other in links.joints.items() if one in kit.puppet.joints}
    pins = pins_for(kit.puppet, target, joints, studio)
    command = PutRig(puppet=target.id, kit=kit, joints=joints, pins=pins, ids=ids)
    fitted = command.fitted(documents)
    hung = hung_as_proposed(proposed(fitted.puppet, studio)) if fitted.over else ()
    left = tuple(h for h in hung if h.joint in fitted.over and h.parent is not None)
    return links, command.changed(hung=left)


@router.post("/reuse")
def use_again(request: Request, production: str, asked: Using) -> Used:
    """Bring a puppet in, put a rig on a puppet, or let it do motions, as one change."""
    room = request.app.state.rooms.room(production)
    kit, name = _kit(request, production, asked.source)
    kit = kit.only(asked.motions)
    command: BringPuppet | PutRig | CarryMotions
    said = ""
    if asked.purpose == "bring":
        ids = {id: fresh_id() for id in (kit.puppet.id, *(m.id for m in kit.motions))}
        command = BringPuppet(kit=kit, ids=ids, name=asked.name or name)
        said = command.said(room.documents)
        puppet = ids[kit.puppet.id]
    else:
        _, command = _made(request, room.documents, kit, asked)
        puppet = asked.puppet
    done = ack(room.submit(asked.change, asked.window, asked.base, command))
    first = next(iter(kit.motions), None)
    return Used(ack=done, puppet=puppet, motion=command.ids[first.id] if first else None, said=said)
