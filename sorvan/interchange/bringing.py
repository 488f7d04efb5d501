"""From files to the command that brings them into a puppet: the whole of an import but for keeping it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import partial
from typing import Literal

from sorvan.core.change.commands import AnyCommand
from sorvan.core.change.looks import ReferenceGiven, SetReference
from sorvan.core.errors import Refusal
from sorvan.core.model.art import Picture
from sorvan.core.model.production import Production
from sorvan.core.model.puppet import Puppet, Reference
from sorvan.core.reuse.sizing import in_words
from sorvan.core.rig.skeleton import piece
from sorvan.interchange.files import in_folders, read_file
from sorvan.interchange.imported import Imported, bring_in, drawings_for, fit, placed, scale_of, told, unheard
from sorvan.interchange.kinds import is_film
from sorvan.interchange.renewing import chosen_from, renew
from sorvan.interchange.svg.read import ChosenParts

Purpose = Literal["pieces", "drawings", "new-version", "reference"]


@dataclass
class Brought:
    """What an import would do: what there is to say of it, the command, and the assets that the command needs.

    With `offer` set there is no command: the files name no pieces, and these many shapes can be taken if they are
    asked for `loose`. Of a new version, `changed`, `added` and `vanished` name drawings, and `same` counts those
    that did not change. `sized` says why pieces are larger or smaller than in their files.
    """

    notes: list[str]
    pieces: list[str]
    offer: int = 0
    changed: list[str] = field(default_factory=list)
    added: list[str] = field(default_factory=list)
    vanished: list[str] = field(default_factory=list)
    same: int = 0
    sized: str = ""
    command: AnyCommand | None = None
    assets: dict[str, tuple[str, bytes]] = field(default_factory=dict)


def brought(
    files: Sequence[tuple[str, bytes]],
    production: Production,
    puppet: Puppet,
    purpose: Purpose = "pieces",
    target: str = "",
    loose: bool = False,
    progress: Callable[[float], None] = unheard,
    chosen: ChosenParts | None = None,
) -> Brought:
    """Read files, each with its name, as pieces of a puppet, drawings of its piece `target`, the new version of what
    came from the file `target` (their own name, if none is given), or as what is laid under the work. Of a drawing the
    parts that are `chosen` become pieces.

    Raises `Refusal` if one of them can't be read.
    """

    def along(count: int, part: float) -> None:
        progress((count + part) / len(files))

    whole = purpose == "reference"
    if whole and len(files) == 1 and is_film(files[0][0]):
        return _film(files[0], production, puppet.id, partial(along, 0))
    again = purpose == "new-version"
    read = in_folders(
        [
            read_file(
                data,
                name,
                loose or whole,
                whole,
                partial(along, count),
                partial(fit, production, grow=True),
                # What was chosen once is chosen again.
                chosen_from(puppet, target or name) if again else chosen,
                again,
            )
            for count, (name, data) in enumerate(files)
        ]
    )
    result = Brought(
        notes=told(read),
        pieces=[piece.name for found in read for piece in found.pieces],
    )
    if not loose and any(found.loose for found in read):
        result.offer = sum(len(f.pieces) for f in read)
        return result
    if purpose == "drawings":
        result.command = drawings_for(puppet.id, piece(puppet, target), read)
    elif purpose == "new-version":
        found = renew(production, puppet, read, target or None)
        result.changed, result.added, result.vanished = found.changed, found.added, found.vanished
        result.same, result.command = found.same, found.command
        result.notes += [
            f"“{name}” was split or joined here in a way that the new version does not fit: it stays as it is."
            for name in found.stayed
        ]
    elif purpose == "reference":
        result.command = _reference(production, puppet.id, read)
    else:
        result.command = bring_in(production, puppet.id, read)
        result.sized = _sized(production, read)
    for imported in read:
        result.assets |= imported.assets
    return result


def _sized(production: Production, read: list[Imported]) -> str:
    """Why the files are brought in larger or smaller than they are."""
    scale = scale_of(production, read)
    if scale == 1:
        return ""
    width, height = (max(f.frame[i] for f in read) for i in (0, 1))
    what = read[0].source if len(read) == 1 else "The files"
    be = "it is" if len(read) == 1 else "they are"
    return f"{what}: {round(width, 1):g} × {round(height, 1):g} units; {be} brought in {in_words(scale)}, to fit the stage."


def _film(file: tuple[str, bytes], production: Production, puppet: str, progress: Callable[[float], None]) -> Brought:
    # What decodes films takes much room, and few ask for it.
    from sorvan.interchange.films import read_film

    name, data = file
    film = read_film(data, name, production.rate, progress)
    size = (film.width, film.height)
    return Brought(
        notes=[*film.notes],
        pieces=[f"{name}, frame {n + 1}" for n in range(len(film.pictures))],
        command=SetReference(
            puppet=puppet, reference=ReferenceGiven.whole(_laid(production, film.pictures, size, (0, 0, *size)))
        ),
        assets=film.assets,
    )


def _reference(production: Production, puppet: str, read: list[Imported]) -> SetReference:
    pictures = [node for found in read for p in found.pieces for node in p.art.nodes if isinstance(node, Picture)]
    if not pictures:
        raise Refusal("There is no picture in that.", remedy="Choose PNG, JPEG or WebP pictures.", kind="wrong-type")
    laid = _laid(production, tuple(p.asset for p in pictures), read[0].frame, pictures[0].box)
    return SetReference(puppet=puppet, reference=ReferenceGiven.whole(laid))


def _laid(
    production: Production,
    pictures: tuple[str, ...],
    frame: tuple[float, float],
    box: tuple[float, float, float, float],
) -> Reference:
    """Pictures laid as large as their frame fits the stage."""
    scale = fit(production, frame)
    left, top = placed(production, frame, scale)
    x, y, w, h = box
    return Reference(pictures=pictures, width=w, height=h, x=left + x * scale, y=top + y * scale, scale=scale)
