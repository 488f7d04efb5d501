"""The whole film at a glance: its shots, what is left to do in each, and a picture of each."""

from __future__ import annotations

import hashlib
import threading
from collections import OrderedDict
from collections.abc import Callable
from typing import Annotated, TypeVar

from fastapi import APIRouter, Query, Request, Response

from sorvan.core.change.commands import AnyCommand
from sorvan.core.change.converting import converted
from sorvan.core.checks.in_shots import ShotFinding
from sorvan.core.checks.shots import apart, findings
from sorvan.core.errors import Refusal, missing
from sorvan.core.film.film import film
from sorvan.core.film.reel import Reel, plan_of
from sorvan.core.kept import kept
from sorvan.core.model.documents import AnyDocument, Documents
from sorvan.core.model.production import Rate
from sorvan.core.model.shot import Pass, Shot
from sorvan.core.plan.scene import AtRest, Staged
from sorvan.core.plan.show import Show
from sorvan.core.timing.rates import per_second
from sorvan.picture.images import jpeg_of
from sorvan.picture.paint import Painter, Surface
from sorvan.picture.studio import Studio
from sorvan.service.rooms.rooms import Rooms
from sorvan.service.routes.exchanged import Exchanged

router = APIRouter(prefix="/api/productions/{production}", tags=["overview"])
FrameAsked = Annotated[int | None, Query(ge=1)]
WIDE = 352
"""Pixels across of a shot's picture."""
MOST = 300
"""Pictures that are kept."""
SHOWS = 3
"""Shots and films that are kept to draw more pictures from."""


class ToDo(Exchanged):
    """Something that is likely left to do in a shot or with a puppet, and the command that does it."""

    check: str
    text: str
    cast: str | None
    frame: int | None
    motion: str | None
    puppet: str | None
    joint: str | None
    mend: AnyCommand | None
    mending: str

    @classmethod
    def of(cls, found: ShotFinding) -> ToDo:
        """What was found, as the page is told it."""
        return cls.model_validate(vars(found))


class Alone(Exchanged):
    """What is left to do with a puppet by itself, in its rig and in motions that no shot uses."""

    puppet: str
    name: str
    found: list[ToDo]


class ShotGlance(Exchanged):
    """A shot at a glance: its frames in the film, the pass, whether its poses are held, and what is left to do;
    `picture` changes with how it looks."""

    start: int
    frames: int
    stage: str
    held: bool
    findings: int
    found: list[ToDo]
    picture: str


class Overview(Exchanged):
    """The film at a glance, `frames` and seconds long."""

    frames: int
    seconds: float
    shots: dict[str, ShotGlance]
    apart: list[Alone] = []


class Glance(Exchanged):
    """A production in the list of all: how long its film is and how many shots and puppets it has."""

    seconds: float
    shots: int
    puppets: int
    picture: str


class MovedView(Exchanged):
    """What another frame rate does to the keys of a motion or a shot: how many there are, how many would fall between
    two frames and go to the nearer, and how many give way to another."""

    name: str
    keys: int
    between: int
    lost: int


T = TypeVar("T")


class SmallPictures:
    """Small pictures of shots, kept while nothing in them has changed, and what the last of them were drawn from."""

    def __init__(self) -> None:
        self._kept: OrderedDict[str, bytes] = OrderedDict()
        self._shows: OrderedDict[str, Show] = OrderedDict()
        self._lock = threading.Lock()

    def get(self, key: str, make: Callable[[], bytes]) -> bytes:
        """The picture under this key; made now if it is not kept."""
        return self._of(self._kept, MOST, key, make)

    def show(self, key: str, make: Callable[[], Show]) -> Show:
        """What several pictures are drawn from; worked out now if it is not kept."""
        return self._of(self._shows, SHOWS, key, make)

    def _of(self, kept: OrderedDict[str, T], most: int, key: str, make: Callable[[], T]) -> T:
        with self._lock:
            known = kept.pop(key, None)
            if known is not None:
                kept[key] = known
        if known is None:
            known = make()
            with self._lock:
                kept[key] = known
                while len(kept) > most:
                    kept.popitem(last=False)
        return known


def looks(documents: Documents, ids: set[str]) -> str:
    """A word that changes when one of these documents does."""
    digest = hashlib.sha256()
    for id in sorted(i for i in {*ids, documents.production.id} if i in documents.by_id):
        held = documents.by_id[id]
        digest.update(_digest(held))
    return digest.hexdigest()[:16]


@kept()
def _digest(document: AnyDocument) -> bytes:
    return hashlib.sha256(document.model_dump_json().encode()).digest()


def _documents(request: Request, production: str) -> Documents:
    rooms: Rooms = request.app.state.rooms
    return rooms.room(production).documents


@router.get("/overview")
def overview(request: Request, production: str) -> Overview:
    """All shots of the film, in their order, with what is left to do in each."""
    documents = _documents(request, production)
    if not any(True for _ in documents.shots()):
        return Overview(frames=0, seconds=0.0, shots={}, apart=_apart(documents))
    whole = film(documents)
    shots: dict[str, ShotGlance] = {}
    for part in whole.parts:
        shot = part.shot
        found = [ToDo.of(f) for f in findings(documents, shot)]
        shots[shot.id] = ShotGlance(
            start=part.start,
            frames=part.frames,
            stage=shot.stage,
            held=shot.held,
            findings=len(found),
            found=found,
            picture=looks(documents, shot.uses()),
        )
    seconds = float(whole.frames / per_second(documents.production.rate))
    return Overview(frames=whole.frames, seconds=seconds, shots=shots, apart=_apart(documents))


def _apart(documents: Documents) -> list[Alone]:
    return [
        Alone(puppet=a.puppet.id, name=a.puppet.name, found=[ToDo.of(f) for f in a.found]) for a in apart(documents)
    ]


@router.get("/rate")
def other_rate(
    request: Request,
    production: str,
    numerator: Annotated[int, Query(ge=1, le=120_000)],
    denominator: Annotated[int, Query(ge=1, le=1001)] = 1,
) -> list[MovedView]:
    """What another frame rate would do to the keys, before anything is converted."""
    documents = _documents(request, production)
    found = converted(documents, Rate(numerator=numerator, denominator=denominator))
    return [MovedView(**vars(m)) for m in found.tallies]


@router.get("/glance")
def glance(request: Request, production: str) -> Glance:
    """What the list of productions tells of one."""
    documents = _documents(request, production)
    shots = list(documents.shots())
    frames = film(documents).frames if shots else 0
    lead = _lead(documents)
    return Glance(
        seconds=float(frames / per_second(documents.production.rate)),
        shots=len(shots),
        puppets=sum(1 for p in documents.puppets() if p.id != documents.production.backdrop),
        picture=looks(documents, lead.uses() if isinstance(lead, Shot) else {lead}) if lead is not None else "",
    )


def _lead(documents: Documents) -> Shot | str | None:
    """What stands for a production: its first final shot, its first shot, or its first puppet."""
    shots = list(documents.shots())
    if shots:
        return next((s for s in shots if s.stage == "final"), shots[0])
    puppets = [p.id for p in documents.puppets() if p.order]
    others = [id for id in puppets if id != documents.production.backdrop]
    return next(iter(others or puppets), None)


@router.get("/picture", response_class=Response)
def production_picture(request: Request, production: str) -> Response:
    """A small picture of a production."""
    documents = _documents(request, production)
    lead = _lead(documents)
    if lead is None:
        raise Refusal("There is nothing in this production to see yet.", kind="missing")
    if isinstance(lead, Shot):
        return _picture(request, documents, lead)
    studio: Studio = request.app.state.studio
    return _answer(request, documents, {lead}, 0, lambda: Staged.full(documents, AtRest(puppet=lead), studio).plan())


@router.get("/shots/{shot}/picture", response_class=Response)
def shot_picture(request: Request, production: str, shot: str, frame: FrameAsked = None) -> Response:
    """A small picture of a frame of a shot (from 1), or from the middle of what plays of it."""
    documents = _documents(request, production)
    if shot not in {s.id for s in documents.all_shots()}:
        raise missing("shot", shot)
    return _picture(request, documents, documents.shot(shot), frame)


@router.get("/film/picture", response_class=Response)
def film_picture(request: Request, production: str, frame: Annotated[int, Query(ge=1)] = 1) -> Response:
    """A small picture of a frame of the film (from 1)."""
    documents = _documents(request, production)
    studio: Studio = request.app.state.studio
    whole = film(documents)
    at = min(frame, whole.frames) - 1
    ids = {id for part in whole.at(at) for id in part.shot.uses()}
    every = {id for part in whole.parts for id in part.shot.uses()}
    return _answer(request, documents, ids, at, lambda: Reel.of(documents, whole, studio), every)


def _picture(request: Request, documents: Documents, shot: Shot, frame: int | None = None) -> Response:
    studio: Studio = request.app.state.studio
    first, stop = shot.played
    at = (first + stop) // 2 if frame is None else min(frame, shot.length) - 1
    # Small pictures show what a shot is about, however far it has come; frames that are asked for, as they play.
    seen_as: Pass | None = "final" if frame is None else None
    return _answer(
        request, documents, shot.uses(), at, lambda: plan_of(documents, shot, studio, seen_as), seen_as=seen_as or ""
    )


def _answer(
    request: Request,
    documents: Documents,
    ids: set[str],
    frame: int,
    show: Callable[[], Show],
    every: set[str] | None = None,
    seen_as: str = "",
) -> Response:
    """A picture of a frame that these documents make; `every` are those that all of the show is made of."""
    studio: Studio = request.app.state.studio
    pictures: SmallPictures = request.app.state.pictures
    production = documents.production

    def key(ids: set[str]) -> str:
        return f"{looks(documents, ids)}/{','.join(sorted(ids))}/{request.url.path}/{seen_as}"

    def make() -> bytes:
        shown = pictures.show(key(every or ids), show)
        high = max(2, round(WIDE * production.height / production.width))
        return jpeg_of(Surface(WIDE, high).draw(Painter(studio.asset), shown, frame))

    # The page asks under a new word when it looks otherwise.
    return Response(
        pictures.get(f"{key(ids)}/{frame}", make),
        media_type="image/jpeg",
        headers={"Cache-Control": "private, max-age=600"},
    )
