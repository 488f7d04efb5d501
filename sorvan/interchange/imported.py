"""What an importer hands over, and the command that brings it into a puppet."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field
from pathlib import PurePath

from sorvan.core.change.drawings import AddDrawings
from sorvan.core.change.pieces import AddPieces, NewPiece
from sorvan.core.errors import Refusal
from sorvan.core.model.art import Art
from sorvan.core.model.base import asset_id, fresh_id
from sorvan.core.model.production import Production
from sorvan.core.model.puppet import Drawing, Group, Piece, Preparation
from sorvan.picture.studio import ART_MEDIA

MOST = 2000
"""Pieces that can be brought in at once."""
ROOM = 0.94
"""The part of the stage that art larger than the stage is brought down to."""


Progress = Callable[[float], None]
"""Told how far an import has come, 0 to 1."""


def unheard(_: float) -> None:
    """For those who do not ask how far it has come."""


@dataclass
class FoundPiece:
    """One piece found in a file: its name, the groups it sits in, and its drawing."""

    name: str
    groups: tuple[str, ...]
    art: Art
    opacity: float = 1.0
    hidden: bool = False
    pivot: tuple[float, float] | None = None
    """Where it turns, if the file says so."""
    parts: tuple[str, ...] = ()
    """The paths of its parts in the file, if they were chosen."""


@dataclass
class Imported:
    """Everything found in one file. `frame` is the size of the whole picture in its own units.

    `loose` says that nothing was named, so that the pieces are only an offer; `vectors` that it may be made larger
    without harm. `trimmed` says of which pictures an empty margin was taken, and how much.
    """

    source: str
    frame: tuple[float, float]
    pieces: list[FoundPiece] = field(default_factory=list)
    assets: dict[str, tuple[str, bytes]] = field(default_factory=dict)
    notes: list[str] = field(default_factory=list)
    trimmed: dict[str, str] = field(default_factory=dict)
    loose: bool = False
    vectors: bool = False

    def keep(self, media: str, data: bytes) -> str:
        """Put an asset by; returns its id."""
        id = asset_id(data)
        self.assets[id] = (media, data)
        return id


FEW = 3
"""Files up to which each has a line of its own about what was done with it."""


def told(read: Sequence[Imported]) -> list[str]:
    """What is to be said of files that came in: what was done alike with many of them in one line."""
    trimmed = {name: by for found in read for name, by in found.trimmed.items()}
    if len(trimmed) > FEW:
        said = [f"{len(trimmed)} pictures: an empty margin was trimmed. Nothing that shows has moved."]
    else:
        said = [f"{name}: an empty margin was trimmed ({by})." for name, by in trimmed.items()]
    return [*(note for found in read for note in found.notes), *said]


def stem(filename: str) -> str:
    """A file's name without folders and ending, fit to be a piece's name."""
    return PurePath(filename.replace("\\", "/")).stem.strip()[:120] or "picture"


def source_of(imported: Imported, found: FoundPiece) -> str:
    """What a drawing remembers of where it came from: its file, and its place in it."""
    return "/".join((imported.source, *found.groups, found.name))[-400:]


def fit(production: Production, frame: tuple[float, float], grow: bool = False) -> float:
    """The scale at which a picture's frame fits the stage: smaller if it is larger than the stage, and, if it may
    `grow`, larger if it is less than half as large."""
    width, height = frame
    whole = min(ROOM * production.width / width, ROOM * production.height / height)
    if (width, height) == (production.width, production.height) or 1 <= whole < (2 if grow else math.inf):
        return 1.0
    return whole


def placed(production: Production, frame: tuple[float, float], scale: float) -> tuple[float, float]:
    """Left and top of a frame in the middle of the stage."""
    return (production.width - frame[0] * scale) / 2, (production.height - frame[1] * scale) / 2


def scale_of(production: Production, files: Sequence[Imported]) -> float:
    """The one scale at which files that came together stand on the stage."""
    frame = (max(f.frame[0] for f in files), max(f.frame[1] for f in files))
    return fit(production, frame, all(f.vectors for f in files))


def drawing_of(imported: Imported, found: FoundPiece, pivot: tuple[float, float] | None = None) -> Drawing:
    """A drawing of something found, its art put by; it turns about its middle unless told."""
    art = imported.keep(ART_MEDIA, found.art.model_dump_json().encode())
    l, t, r, b = found.art.bounds
    middle = (round((l + r) / 2, 3), round((t + b) / 2, 3))
    return Drawing(
        id=fresh_id(),
        name=found.name,
        art=art,
        pivot=pivot or middle,
        bounds=found.art.bounds,
        source=source_of(imported, found),
        made=Preparation(parts=found.parts) if found.parts else None,
    )


def bring_in(production: Production, puppet: str, files: Sequence[Imported]) -> AddPieces:
    """The command that puts everything found on the stage, where it stood in its picture. Pictures that are cut to what
    is in them tell no places: of those each is laid beside the other, so that all can be seen and taken hold of."""
    scale = scale_of(production, files) if files else 1.0
    beside = laid_out(production, files, scale)
    pieces: list[NewPiece] = []
    groups: dict[tuple[str, ...], Group] = {}
    sources: list[str] = []
    for n, imported in enumerate(files):
        left, top = beside[n] if beside else placed(production, imported.frame, scale)
        sources.append(imported.source)
        for found in imported.pieces:
            drawing = drawing_of(imported, found, found.pivot)
            pieces.append(
                NewPiece(
                    id=fresh_id(),
                    name=found.name,
                    group=_group_for(found.groups, groups),
                    drawing=drawing,
                    at=(left + drawing.pivot[0] * scale, top + drawing.pivot[1] * scale),
                    scale=scale,
                    opacity=found.opacity,
                    hidden=found.hidden,
                )
            )
    if len(pieces) > MOST:
        raise Refusal(
            f"The drawing falls into {len(pieces):,} pieces; at most {MOST:,} can be brought in at once.",
            where=", ".join(sources),
            remedy="Group what belongs together in the drawing program, or choose fewer and larger pieces here.",
            kind="too-large",
        )
    if not pieces:
        raise Refusal(
            "There is nothing to bring in.", where=", ".join(sources), remedy="Choose a file with drawings in it."
        )
    source = sources[0] if len(sources) == 1 else f"{len(sources)} files"
    return AddPieces(puppet=puppet, pieces=tuple(pieces), groups=tuple(groups.values()), source=source)


GAP = 0.02
"""The part of the stage's width that is left between pictures laid out."""


def laid_out(production: Production, files: Sequence[Imported], scale: float) -> list[tuple[float, float]]:
    """The left upper corners of pictures laid out in rows about the middle of the stage, if they are loose parts without
    places: several, of one piece each, cut to different sizes. None for any others."""
    if len(files) < 3 or any(len(f.pieces) != 1 for f in files) or len({f.frame for f in files}) == 1:
        return []
    gap, wide = GAP * production.width, 0.94 * production.width
    rows: list[list[tuple[float, float]]] = [[]]
    for width, height in ((f.frame[0] * scale, f.frame[1] * scale) for f in files):
        if rows[-1] and sum(w + gap for w, _ in rows[-1]) + width > wide:
            rows.append([])
        rows[-1].append((width, height))
    tall = sum(max(h for _, h in row) + gap for row in rows) - gap
    found: list[tuple[float, float]] = []
    top = (production.height - tall) / 2
    for row in rows:
        left, high = (production.width - sum(w + gap for w, _ in row) + gap) / 2, max(h for _, h in row)
        for width, height in row:
            found.append((left, top + (high - height) / 2))
            left += width + gap
        top += high + gap
    return found


def drawings_for(puppet: str, held: Piece, files: Iterable[Imported]) -> AddDrawings | None:
    """Everything found, as more drawings of a piece. What overlaps its picture as drawn keeps its
    place; anything else is laid on it middle to middle."""
    shown = held.shown()
    l, t, r, b = shown.bounds
    new: list[Drawing] = []
    for imported in files:
        for found in imported.pieces:
            fl, ft, fr, fb = found.art.bounds
            apart = fl > r or fr < l or ft > b or fb < t
            shift = ((fl + fr - l - r) / 2, (ft + fb - t - b) / 2) if apart else (0.0, 0.0)
            new.append(drawing_of(imported, found, (shown.pivot[0] + shift[0], shown.pivot[1] + shift[1])))
    return AddDrawings(puppet=puppet, piece=held.id, drawings=tuple(new)) if new else None


def _group_for(path: tuple[str, ...], groups: dict[tuple[str, ...], Group]) -> str | None:
    parent: str | None = None
    for depth in range(1, len(path) + 1):
        key = path[:depth]
        if key not in groups:
            groups[key] = Group(id=fresh_id(), name=key[-1], parent=parent)
        parent = groups[key].id
    return parent
