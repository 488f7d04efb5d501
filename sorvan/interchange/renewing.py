"""New versions of files, compared with what came from them."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field

from sorvan.core.art.parting import parts_of
from sorvan.core.art.retouching import retouched
from sorvan.core.change.drawings import RenewArt, Renewed
from sorvan.core.model.art import Art
from sorvan.core.model.production import Production
from sorvan.core.model.puppet import Drawing, Piece, Puppet
from sorvan.interchange.imported import FoundPiece, Imported, bring_in
from sorvan.interchange.svg.read import ChosenParts
from sorvan.interchange.svg.skia_paths import art_of, bounds_of
from sorvan.picture.studio import ART_MEDIA

Old = tuple[Piece, Drawing]


@dataclass
class Renewal:
    """What a new version of a file changes in a puppet. `stayed` names pieces that were split or joined here in a way that
    the new version does not fit."""

    command: RenewArt | None
    changed: list[str] = field(default_factory=list)
    same: int = 0
    added: list[str] = field(default_factory=list)
    vanished: list[str] = field(default_factory=list)
    stayed: list[str] = field(default_factory=list)


def chosen_from(puppet: Puppet, file: str) -> ChosenParts | None:
    """What was chosen to become pieces when a file was brought in, part by part; None if nothing was."""
    found: dict[tuple[str, ...], str] = {}
    for _, d in _from(puppet, file):
        if d.made is not None and d.made.parts:
            found.setdefault(d.made.parts, d.name)
    return [(name, list(parts)) for parts, name in found.items()] or None


def _from(puppet: Puppet, file: str) -> list[Old]:
    """The drawings that came from a file; those that pieces share once."""
    found: dict[tuple[str, str], Old] = {}
    for p in puppet.pieces.values():
        for d in p.drawings:
            places = (d.source, *(d.made.joined if d.made is not None else ()))
            if any(place == file or place.startswith(f"{file}/") for place in places):
                found.setdefault((p.shared or p.id, d.id), (p, d))
    return list(found.values())


def renew(production: Production, puppet: Puppet, files: Sequence[Imported], as_source: str | None = None) -> Renewal:
    """Compare new versions of files with the drawings that came from them.

    Drawings and what is found belong together by file and place in it, or by the parts that were chosen; failing that, by
    a name that stands once on either side. What was split is split again. `as_source` lets a file stand for one of another
    name.
    """
    result = Renewal(None)
    renewed: list[Renewed] = []
    fresh: list[Imported] = []
    for imported in files:
        unknown = _compared(puppet, imported, as_source or imported.source, result, renewed)
        if unknown:
            fresh.append(Imported(as_source or imported.source, imported.frame, unknown, vectors=imported.vectors))
    added = bring_in(production, puppet.id, fresh) if fresh else None
    for new in fresh:
        files[0].assets.update(new.assets)
    if renewed or added:
        sources = ", ".join([f.source for f in files][:3])
        result.command = RenewArt(puppet=puppet.id, renewed=tuple(renewed), added=added, source=sources)
    return result


def _compared(
    puppet: Puppet, imported: Imported, name: str, result: Renewal, renewed: list[Renewed]
) -> list[FoundPiece]:
    """Compare one file, under the name that what came from it knows. Gives what is found there for the first time."""
    left: dict[object, list[Old]] = {}
    joined: dict[str, list[Old]] = {}
    for p, d in _from(puppet, name):
        made = d.made
        if made is not None and made.joined:
            for place in made.joined:
                joined.setdefault(place, []).append((p, d))
        else:
            left.setdefault(made.parts if made is not None and made.parts else d.source, []).append((p, d))
    unknown: list[FoundPiece] = []
    stayed: dict[str, None] = {}
    for found in imported.pieces:
        place = "/".join((name, *found.groups, found.name))[-400:]
        key: object = found.parts or place
        if key in left:
            _renewed(imported, found, left.pop(key), result, renewed, stayed)
        elif place in joined:
            stayed |= dict.fromkeys(p.name for p, _ in joined[place])
        else:
            unknown.append(found)
    for found in list(unknown):
        alike = [key for key, old in left.items() if any(found.name in (d.name, p.name) for p, d in old)]
        if len(alike) == 1 and sum(f.name == found.name for f in unknown) == 1:
            _renewed(imported, found, left.pop(alike[0]), result, renewed, stayed)
            unknown.remove(found)
    result.vanished += dict.fromkeys(d.name for old in left.values() for _, d in old)
    result.added += [f.name for f in unknown]
    result.stayed += stayed
    return unknown


def _renewed(
    imported: Imported,
    found: FoundPiece,
    old: Iterable[Old],
    result: Renewal,
    renewed: list[Renewed],
    stayed: dict[str, None],
) -> None:
    """The drawings of one place, as they are in the new version."""
    split: list[Art] | None = None
    changed = same = 0
    for piece, drawing in old:
        art = found.art
        if drawing.made is not None and drawing.made.nth is not None:
            if split is None:
                split = [part for node in parts_of(found.art) if (part := art_of([node]))]
            if len(split) != drawing.made.of:
                stayed[piece.name] = None
                continue
            art = split[drawing.made.nth]
        id, how = imported.keep(ART_MEDIA, art.model_dump_json().encode()), drawing.retouch
        if id == (how.of if how else drawing.art):
            same += 1
            continue
        changed += 1
        if how is not None:
            # What was touched up is touched up again, as far as it is still there.
            how = how.changed(of=id, shape=None)
            art = art_of(retouched(art, how, bounds_of)) or art
            id = imported.keep(ART_MEDIA, art.model_dump_json().encode())
        renewed.append(Renewed(piece=piece.id, drawing=drawing.id, art=id, bounds=art.bounds, retouch=how))
    if changed:
        result.changed.append(found.name)
    elif same:
        result.same += 1
