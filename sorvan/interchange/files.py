"""Which importer a file goes to."""

from __future__ import annotations

import re
import zlib

from sorvan.core.errors import Refusal
from sorvan.interchange import limits
from sorvan.interchange.imported import Imported, Progress, unheard
from sorvan.interchange.openraster import looks_like_openraster, read_openraster
from sorvan.interchange.pictures import JPEG, PNG, read_picture
from sorvan.interchange.svg.fallen import Fits, as_large
from sorvan.interchange.svg.read import ChosenParts, DrawingParts, parts_of, read_svg


def read_file(
    data: bytes,
    filename: str,
    loose: bool = False,
    whole: bool = False,
    progress: Progress = unheard,
    fits: Fits = as_large,
    chosen: ChosenParts | None = None,
    again: bool = False,
) -> Imported:
    """Read one file by what is in it, whatever its name. `loose` accepts unnamed shapes as pieces,
    `whole` leaves pictures their empty margins, `fits` says how large a drawing will be on the stage, and
    `chosen` which of its parts become pieces, `again` if this is a new version, which may lack some.

    Raises `Refusal` for anything that can't be read; nothing is kept then.
    """
    if not data.strip():
        raise Refusal("The file is empty.", where=filename, remedy="Export it again, then bring it in.", kind="empty")
    if len(data) > limits.BYTES:
        raise Refusal(
            f"The file is {len(data) / 2**20:.0f} MB.",
            where=filename,
            remedy=f"Files up to {limits.BYTES // 2**20} MB can be brought in; split it or save smaller pictures.",
            kind="too-large",
        )
    if data.startswith(b"\x1f\x8b"):
        data = _unzipped(data, filename)
    if looks_like_openraster(data):
        return read_openraster(data, filename, progress)
    if data.startswith((PNG, JPEG)) or (data[:4] == b"RIFF" and data[8:12] == b"WEBP"):
        return read_picture(data, filename, whole)
    if _looks_like_xml(data):
        return read_svg(data, filename, loose, progress, fits, chosen, again)
    raise Refusal(
        "This is not a kind of file that can be brought in as art.",
        where=filename,
        remedy="Bring in SVG drawings (also .svgz), OpenRaster files, or PNG, JPEG or WebP pictures.",
        kind="wrong-type",
    )


def parts_in(data: bytes, filename: str, progress: Progress = unheard) -> DrawingParts:
    """What a drawing consists of, to be chosen from. Raises `Refusal` if it is none, or can't be read."""
    if data.startswith(b"\x1f\x8b"):
        data = _unzipped(data, filename)
    if len(data) > limits.BYTES or not _looks_like_xml(data):
        raise Refusal(
            "Only of a drawing can parts be chosen.",
            where=filename,
            remedy="Choose an SVG drawing; layers and pictures come in as they are.",
            kind="wrong-type",
        )
    return parts_of(data, filename, progress)


def in_folders(read: list[Imported]) -> list[Imported]:
    """Pictures that came with the folders they lie in: folders become groups, pictures that are
    numbered or named alike keep the order of their names, and all stand in one frame."""
    folders = [
        tuple(p for p in found.source.replace("\\", "/").split("/")[:-1] if p not in ("", ".", "..")) for found in read
    ]
    if not any(folders):
        return read
    # The folder that all came from is no group of its own.
    shared = folders[0]
    for path in folders:
        shared = shared[
            : next(
                (i for i, (a, b) in enumerate(zip(shared, path, strict=False)) if a != b), min(len(shared), len(path))
            )
        ]
    frame = (max(f.frame[0] for f in read), max(f.frame[1] for f in read))
    for found, path in zip(read, folders, strict=True):
        for piece in found.pieces:
            piece.groups = (*(name[:120] for name in path[len(shared) :]), *piece.groups)
        found.frame = frame
    return sorted(read, key=lambda f: natural(f.source))


def natural(name: str) -> list[tuple[int, int, str]]:
    """A key that sorts “arm 2” before “arm 10”."""
    return [(0, int(t), "") if t.isdigit() else (1, 0, t.lower()) for t in re.findall(r"\d{1,12}|\D+|\d", name)]


def _unzipped(data: bytes, filename: str) -> bytes:
    """What is in a gzip file, as an `.svgz` is (RFC 1952). Raises `Refusal` if it is damaged or too much."""
    unpack = zlib.decompressobj(wbits=31)
    try:
        found = unpack.decompress(data, limits.BYTES + 1)
        whole = unpack.eof
    except zlib.error:
        found, whole = b"", False
    if len(found) > limits.BYTES:
        raise Refusal(
            f"The file unpacks to more than {limits.BYTES // 2**20} MB.",
            where=filename,
            remedy="Split it, or make it simpler.",
            kind="too-large",
        )
    if not whole:
        raise Refusal("The file is damaged.", where=filename, remedy="Export it again.", kind="damaged")
    return found


def _looks_like_xml(data: bytes) -> bool:
    head = data[:4096].lstrip(b"\xef\xbb\xbf\xff\xfe\x00 \t\r\n").replace(b"\x00", b"")
    return head.startswith(b"<")
