"""What an importer hands over, and the command that brings it into a puppet."""

from __future__ import annotations

import secrets
from collections.abc import Iterable
from dataclasses import dataclass, field
from pathlib import PurePath

from sorvan.core.change.pieces import AddPieces, NewPiece
from sorvan.core.errors import Refusal
from sorvan.core.model.art import Art
from sorvan.core.model.base import asset_id
from sorvan.core.model.production import Production
from sorvan.core.model.puppet import Drawing, Group

ART_MEDIA = "application/vnd.sorvan.art+json"

ROOM = 0.94
"""The part of the stage that art larger than the stage is brought down to."""


@dataclass
class Found:
    """One piece found in a file: its name, the groups it sits in, and its drawing."""

    name: str
    groups: tuple[str, ...]
    art: Art


@dataclass
class Imported:
    """Everything found in one file. `frame` is the size of the whole picture in its own units.

    `loose` says that nothing was named, so that the pieces are only an offer.
    """

    source: str
    frame: tuple[float, float]
    pieces: list[Found] = field(default_factory=list)
    assets: dict[str, tuple[str, bytes]] = field(default_factory=dict)
    notes: list[str] = field(default_factory=list)
    loose: bool = False

    def keep(self, media: str, data: bytes) -> str:
        """Put an asset by; returns its id."""
        id = asset_id(data)
        self.assets[id] = (media, data)
        return id


def fresh_id() -> str:
    """A new id for a document, a piece or a joint."""
    return secrets.token_hex(6)


def stem(filename: str) -> str:
    """A file's name without folders and ending, fit to be a piece's name."""
    return PurePath(filename.replace("\\", "/")).stem.strip()[:120] or "picture"


def bring_in(production: Production, puppet: str, files: Iterable[Imported]) -> AddPieces:
    """The command that puts everything found on the stage, where it stood in its picture.

    Each picture's frame is centred on the stage, and made smaller only if it is larger than
    the stage. Pivots start in the middle of each piece.
    """
    pieces: list[NewPiece] = []
    groups: dict[tuple[str, ...], Group] = {}
    sources: list[str] = []
    for imported in files:
        width, height = imported.frame
        scale = min(1.0, ROOM * production.width / width, ROOM * production.height / height)
        if (width, height) == (production.width, production.height):
            scale = 1.0
        left, top = (production.width - width * scale) / 2, (production.height - height * scale) / 2
        sources.append(imported.source)
        for found in imported.pieces:
            art = imported.keep(ART_MEDIA, found.art.model_dump_json().encode())
            l, t, r, b = found.art.bounds
            pivot = (round((l + r) / 2, 3), round((t + b) / 2, 3))
            drawing = Drawing(id=fresh_id(), name=found.name, art=art, pivot=pivot, bounds=found.art.bounds)
            pieces.append(
                NewPiece(
                    id=fresh_id(),
                    name=found.name,
                    group=_group_for(found.groups, groups),
                    drawing=drawing,
                    at=(left + pivot[0] * scale, top + pivot[1] * scale),
                    scale=scale,
                )
            )
    if not pieces:
        raise Refusal(
            "There is nothing to bring in.", where=", ".join(sources), remedy="Choose a file with drawings in it."
        )
    source = sources[0] if len(sources) == 1 else f"{len(sources)} files"
    return AddPieces(puppet=puppet, pieces=tuple(pieces), groups=tuple(groups.values()), source=source)


def _group_for(path: tuple[str, ...], groups: dict[tuple[str, ...], Group]) -> str | None:
    parent: str | None = None
    for depth in range(1, len(path) + 1):
        key = path[:depth]
        if key not in groups:
            groups[key] = Group(id=fresh_id(), name=key[-1], parent=parent)
        parent = groups[key].id
    return parent
