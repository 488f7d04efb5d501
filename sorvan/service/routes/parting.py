"""Routes that split pieces into their parts, and join pieces into one."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Request
from pydantic import Field

from sorvan.core.art.parting import parts_of, together
from sorvan.core.change.parting import JoinPieces, NewPart, SplitPiece, plain_piece
from sorvan.core.errors import Refusal
from sorvan.core.model.art import Art, Node, Shape
from sorvan.core.model.base import Id, asset_id, fresh_id
from sorvan.core.model.puppet import Drawing, Preparation
from sorvan.core.rig.skeleton import piece, piece_worlds
from sorvan.interchange.svg.skia_paths import art_of
from sorvan.picture.studio import ART_MEDIA
from sorvan.service.routes.exchanged import Errand
from sorvan.service.routes.productions import Ack, ack
from sorvan.store import assets

router = APIRouter(prefix="/api/productions/{production}", tags=["art"])
MOST = 500
"""Parts into which a piece can be split."""


class Parting(Errand):
    """A piece of a puppet to be split, or pieces to be joined into the first."""

    puppet: Id
    pieces: Annotated[tuple[Id, ...], Field(min_length=1, max_length=500)]


@router.post("/split")
def split_piece(request: Request, production: str, asked: Parting) -> Ack:
    """Let each part of a piece become a piece of its own; the rearmost stays the piece itself."""
    room = request.app.state.rooms.room(production)
    held = plain_piece(piece(room.documents.puppet(asked.puppet), asked.pieces[0]), "split")
    drawing = held.drawings[0]
    parts = [(node, art) for node in parts_of(request.app.state.studio.art(drawing.art)) if (art := art_of([node]))]
    if not 2 <= len(parts) <= MOST:
        count = "one part only" if len(parts) < 2 else f"{len(parts)} parts, more than {MOST}"
        raise Refusal(
            f"“{held.name}” has {count}.", where=held.name, remedy="Only a piece of several parts can be split."
        )
    made = {art: (ART_MEDIA, data) for art, data in (stored(art) for _, art in parts)}
    assets.put(request.app.state.engine, made)
    (_, first), *others = parts
    command = SplitPiece(
        puppet=asked.puppet,
        piece=held.id,
        kept=drawing.with_art(stored(first)[0], first.bounds, made=_split(drawing, 0, len(parts))),
        parts=tuple(
            NewPart(
                id=fresh_id(),
                name=name_of(node) or f"{held.name} {n}"[:120],
                drawing=Drawing(
                    id=fresh_id(),
                    name=name_of(node) or f"{drawing.name} {n}"[:120],
                    art=stored(art)[0],
                    pivot=_middle(art),
                    bounds=art.bounds,
                    source=drawing.source,
                    made=_split(drawing, n - 1, len(parts)),
                ),
            )
            for n, (node, art) in enumerate(others, 2)
        ),
    )
    return ack(room.submit(asked.change, asked.window, asked.base, command))


@router.post("/join")
def join_pieces(request: Request, production: str, asked: Parting) -> Ack:
    """Make one piece of several, as they lie over one another at rest; the first keeps its joint, pivot and keys."""
    room = request.app.state.rooms.room(production)
    puppet = room.documents.puppet(asked.puppet)
    into = plain_piece(piece(puppet, asked.pieces[0]), "joined")
    if len(set(asked.pieces)) < 2:
        raise Refusal("One piece alone can't be joined.", where=into.name, remedy="Choose several pieces.")
    worlds = piece_worlds(puppet)
    back = worlds[into.id].inverse()
    chosen = [plain_piece(piece(puppet, id), "joined") for id in puppet.order if id in asked.pieces]
    art = together(
        [
            (
                request.app.state.studio.art(each.drawings[0].art),
                back @ worlds[each.id],
                1.0 if each.id == into.id else min(1.0, each.opacity / (into.opacity or 1.0)),
            )
            for each in chosen
        ]
    )
    id, data = stored(art)
    assets.put(request.app.state.engine, {id: (ART_MEDIA, data)})
    command = JoinPieces(
        puppet=asked.puppet,
        into=into.id,
        others=tuple(each.id for each in chosen if each.id != into.id),
        drawing=into.drawings[0].with_art(id, art.bounds, made=_joined([each.drawings[0] for each in chosen])),
    )
    return ack(room.submit(asked.change, asked.window, asked.base, command))


def _split(drawing: Drawing, nth: int, of: int) -> Preparation | None:
    """How a part of a drawing is made of what that came from. What was split or joined before is not made again."""
    before = drawing.made or Preparation()
    if not drawing.source:
        return None
    if before.nth is not None or before.joined:
        return Preparation(joined=before.joined or (drawing.source,))
    return before.changed(nth=nth, of=of)


def _joined(drawings: list[Drawing]) -> Preparation | None:
    """How a drawing is made of several."""
    places = [place for d in drawings for place in ((d.made and d.made.joined) or (d.source,)) if place]
    return Preparation(joined=tuple(dict.fromkeys(places))) if places else None


def stored(art: Art) -> tuple[str, bytes]:
    """The id and the bytes of a drawing."""
    data = art.model_dump_json().encode()
    return asset_id(data), data


def _middle(art: Art) -> tuple[float, float]:
    l, t, r, b = art.bounds
    return (round((l + r) / 2, 3), round((t + b) / 2, 3))


def name_of(node: Node) -> str:
    """What a part was called where it was drawn."""
    return node.name if isinstance(node, Shape) else ""
