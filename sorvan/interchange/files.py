"""Which importer a file goes to."""

from __future__ import annotations

from sorvan.core.errors import Refusal
from sorvan.interchange import limits
from sorvan.interchange.imported import Imported
from sorvan.interchange.pictures import PNG, read_picture
from sorvan.interchange.svg.read import read_svg


def read_file(data: bytes, filename: str, loose: bool = False) -> Imported:
    """Read one file by what is in it, whatever its name. `loose` accepts unnamed shapes as pieces.

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
    if data.startswith(PNG) or (data[:4] == b"RIFF" and data[8:12] == b"WEBP"):
        return read_picture(data, filename)
    if _looks_like_xml(data):
        return read_svg(data, filename, loose)
    raise Refusal(
        "This is not a kind of file that can be brought in as art.",
        where=filename,
        remedy="Bring in SVG drawings, or PNG or WebP pictures.",
        kind="wrong-type",
    )


def _looks_like_xml(data: bytes) -> bool:
    head = data[:4096].lstrip(b"\xef\xbb\xbf\xff\xfe\x00 \t\r\n").replace(b"\x00", b"")
    return head.startswith(b"<")
