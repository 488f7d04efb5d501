"""A whole production as one ZIP: `production.json` after a published schema, and its assets.

The ZIP holds `production.json`, `schema.json` (the JSON Schema of the former), and under
`assets/` each drawing, picture and sound, named by the SHA-256 of its bytes.
"""

from __future__ import annotations

import io
import json
import zipfile
import zlib
from collections.abc import Callable, Iterable, Mapping
from typing import IO, Any, BinaryIO, Literal

from pydantic import ValidationError

from sorvan.core.errors import Refusal
from sorvan.core.model.base import Value, asset_id
from sorvan.core.model.documents import AnyDocument, Documents
from sorvan.core.model.motion import Motion
from sorvan.core.model.production import Production
from sorvan.core.model.puppet import Puppet
from sorvan.core.model.shot import Shot
from sorvan.core.model.voice import Voice
from sorvan.interchange import limits
from sorvan.interchange.assured import Assured
from sorvan.interchange.imported import Progress, unheard
from sorvan.interchange.sounds import PEAKS_MEDIA, SOUND_MEDIA
from sorvan.picture.studio import ART_MEDIA

KeptFiles = dict[str, tuple[str, bytes]]
KeepFile = Callable[[str, str, bytes | bytearray], None]
"""Takes an asset: its id, its media type and its bytes."""
_ENDINGS = {
    ART_MEDIA: "json", "image/png": "png", "image/jpeg": "jpg", SOUND_MEDIA: "flac", PEAKS_MEDIA: "peaks",
}  # fmt: skip
_MEDIA = {ending: media for media, ending in _ENDINGS.items()}
WHOLE = 1024 * 1024 * 1024
"""Bytes that an archive may unpack to."""


class Archive(Value):
    """The contents of `production.json`."""

    format: Literal["sorvan-production"] = "sorvan-production"
    version: Literal[1] = 1
    production: Production
    puppets: tuple[Puppet, ...]
    motions: tuple[Motion, ...]
    voices: tuple[Voice, ...] = ()
    shots: tuple[Shot, ...] = ()


def schema() -> dict[str, Any]:
    """The JSON Schema (draft 2020-12) of `production.json`."""
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **Archive.model_json_schema()}


def write_archive(documents: Documents, kept: Mapping[str, tuple[str, bytes]]) -> bytes:
    """The archive's bytes. The same production always gives the same bytes."""
    buffer = io.BytesIO()
    write_archive_to(buffer, documents, sorted(kept.items()))
    return buffer.getvalue()


def write_archive_to(out: IO[bytes], documents: Documents, kept: Iterable[tuple[str, tuple[str, bytes]]]) -> None:
    """Write the archive. Assets, in the order of their ids, are asked for one after the other, and not held."""
    archive = Archive(
        production=documents.production,
        puppets=tuple(documents.puppets()),
        motions=tuple(documents.motions()),
        voices=tuple(documents.voices()),
        shots=tuple(documents.all_shots()),
    )
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as file:

        def add(name: str, data: bytes) -> None:
            file.writestr(zipfile.ZipInfo(name, (1980, 1, 1, 0, 0, 0)), data, zipfile.ZIP_DEFLATED)

        add("production.json", archive.model_dump_json(indent=1).encode())
        add("schema.json", json.dumps(schema(), indent=1).encode())
        for id, (media, data) in kept:
            add(f"assets/{id}.{_ENDINGS[media]}", data)


def read_archive(
    data: bytes, filename: str, new_id: str | None = None, progress: Progress = unheard
) -> tuple[Documents, KeptFiles]:
    """The documents and assets of an archive; `new_id` gives the production another id.

    Raises `Refusal` if it is damaged, incomplete, or not an archive at all.
    """
    kept: KeptFiles = {}

    def keep(id: str, media: str, found: bytes | bytearray) -> None:
        kept[id] = (media, bytes(found))

    return read_archive_from(io.BytesIO(data), filename, keep, new_id, progress), kept


def read_archive_from(
    source: BinaryIO, filename: str, keep: KeepFile, new_id: str | None = None, progress: Progress = unheard
) -> Documents:
    """The same, from a file that can be searched in; each asset is handed to `keep`, and not held. What it was handed is
    worth nothing if this raises `Refusal` in the end."""
    try:
        with zipfile.ZipFile(source) as file:
            if sum(entry.file_size for entry in file.infolist()) > WHOLE:
                raise Refusal("The archive unpacks to more than 1 GB.", where=filename, kind="too-large")
            documents = _documents(file.read("production.json"), filename)
            _assets(file, filename, keep, progress).fit(documents, filename)
    except (zipfile.BadZipFile, KeyError, EOFError, RuntimeError, NotImplementedError, OSError, zlib.error):
        raise Refusal(
            "This is not a whole Sorvan archive.", where=filename, remedy="Export the production again.", kind="damaged"
        ) from None
    if new_id:
        production = documents.production
        others = documents.without(production.id).by_id.values()
        documents = Documents({new_id: production.changed(id=new_id)}).with_(*others)
    return documents


def _documents(data: bytes, filename: str) -> Documents:
    """The documents in a production.json, each sound and all holding together."""

    def damaged(what: str, remedy: str = "Export the production again.") -> Refusal:
        return Refusal(f"The archive's production.json {what}", where=filename, remedy=remedy, kind="damaged")

    try:
        archive = Archive.model_validate_json(data)
    except ValidationError as error:
        first = error.errors()[0]
        place = "/".join(map(str, first["loc"])) or "its beginning"
        raise damaged(f"does not follow its schema at {place}: {first['msg']}.") from None
    found: list[AnyDocument] = [
        archive.production, *archive.puppets, *archive.motions, *archive.voices, *archive.shots
    ]  # fmt: skip
    by_id: dict[str, AnyDocument] = {}
    for document in found:
        if by_id.setdefault(document.id, document) is not document:
            raise damaged(
                f"has two documents with the id “{document.id}”; one is the {document.kind} “{document.name}”."
            )
    documents = Documents(by_id)
    try:
        documents.hold_together(Documents({}))
    except Refusal as refusal:
        raise damaged(f"does not hold together. {refusal.what}") from None
    return documents


def _assets(file: zipfile.ZipFile, filename: str, keep: KeepFile, progress: Progress) -> Assured:
    """Look at the assets, each as everything from outside, and hand them out."""
    found = Assured()
    entries = file.infolist()
    for count, entry in enumerate(entries):
        progress(count / len(entries))
        if not entry.filename.startswith("assets/"):
            continue
        id, _, ending = entry.filename[len("assets/") :].partition(".")
        if ending not in _MEDIA or entry.file_size > 4 * limits.BYTES:
            raise Refusal("The archive holds something that is not art.", where=entry.filename, kind="damaged")
        data = _unpacked(file, entry)
        if asset_id(data) != id:
            raise Refusal("A drawing in the archive is damaged.", where=f"{filename}, {entry.filename}", kind="damaged")
        found.take(id, _MEDIA[ending], data, f"{filename}, {entry.filename}")
        keep(id, _MEDIA[ending], data)
    return found


def _unpacked(file: zipfile.ZipFile, entry: zipfile.ZipInfo) -> bytearray:
    """What is in an entry, held once."""
    data = bytearray(entry.file_size)
    view, at = memoryview(data), 0
    with file.open(entry) as source:
        while part := source.read(min(1 << 20, len(data) - at + 1)):
            if at + len(part) > len(data):
                raise zipfile.BadZipFile("an entry is longer than it says")
            view[at : at + len(part)] = part
            at += len(part)
    view.release()
    return data[:at] if at < len(data) else data
