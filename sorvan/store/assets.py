"""Art and pictures, kept under the hash of their bytes."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping

from sqlalchemy import Engine, func, select
from sqlalchemy.dialects.postgresql import insert

from sorvan.core.errors import missing
from sorvan.core.model.art import Art
from sorvan.core.model.documents import Documents
from sorvan.store.tables import assets

_MEDIA = {
    "drawing": ("application/vnd.sorvan.art",),
    "picture": ("image/",),
    "sound": ("audio/", "application/x-sorvan-peaks"),
}  # fmt: skip
"""How the media types of what documents name begin."""


def lacking(engine: Engine, documents: Documents, before: Documents | None = None) -> Iterator[tuple[str, str]]:
    """What documents name, and did not name `before`, that is not there or is something else: what it is to be (drawing,
    picture, sound), and its id."""
    known = _named(before) if before else {}
    named = {kind: ids - known.get(kind, frozenset()) for kind, ids in _named(documents).items()}
    wanted = frozenset().union(*named.values())
    if not wanted:
        return
    with engine.connect() as db:
        rows = db.execute(select(assets.c.id, assets.c.media).where(assets.c.id.in_(wanted))).all()
    there = {str(row.id): str(row.media) for row in rows}
    for kind, ids in named.items():
        yield from ((kind, id) for id in sorted(ids) if not there.get(id, "").startswith(_MEDIA[kind]))


def _named(documents: Documents) -> dict[str, frozenset[str]]:
    return {
        "drawing": documents.art_assets(),
        "picture": documents.picture_assets(),
        "sound": documents.sound_assets(),
    }


def put(engine: Engine, found: Mapping[str, tuple[str, bytes]]) -> None:
    """Keep assets given as id → (media type, bytes); of those already there it is noted that they came in again."""
    if not found:
        return
    # In one order, so that two who bring in the same never wait for one another.
    rows = [{"id": id, "media": media, "data": data} for id, (media, data) in sorted(found.items())]
    with engine.begin() as db:
        keeping = insert(assets).on_conflict_do_update(index_elements=["id"], set_={"at": func.now()})
        db.execute(keeping, rows)


def get(engine: Engine, id: str) -> tuple[str, bytes]:
    """An asset's media type and bytes. Raises `Refusal` if it is not there."""
    with engine.connect() as db:
        row = db.execute(select(assets.c.media, assets.c.data).where(assets.c.id == id)).first()
    if row is None:
        raise missing("asset", id)
    return str(row[0]), bytes(row[1])


def several(engine: Engine, ids: Iterable[str], media: str) -> dict[str, bytes]:
    """Those of some assets that are there and of this media type, by their ids."""
    wanted = select(assets.c.id, assets.c.data).where(assets.c.id.in_(list(ids)), assets.c.media == media)
    with engine.connect() as db:
        return {str(id): bytes(data) for id, data in db.execute(wanted)}


def of(engine: Engine, documents: Documents) -> Iterator[tuple[str, tuple[str, bytes]]]:
    """Everything that documents name, and every picture that their drawings use, in the order of the ids; one after the
    other, as it is asked for."""
    wanted = set().union(*_named(documents).values())
    for id in documents.art_assets():
        wanted |= Art.model_validate_json(get(engine, id)[1]).pictures()
    return ((id, get(engine, id)) for id in sorted(wanted))
