"""PNG, JPEG and WebP pictures: checked before they are opened, trimmed, kept as PNG."""

from __future__ import annotations

import struct
import zlib
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import skia
from numpy.typing import NDArray

from sorvan.core.errors import Refusal
from sorvan.core.model.art import Art, Picture
from sorvan.interchange import limits
from sorvan.interchange.imported import FoundPiece, Imported, stem
from sorvan.picture.images import opened, pixels_of, png_of, unreadable

PNG = b"\x89PNG\r\n\x1a\n"
JPEG = b"\xff\xd8"


@dataclass(frozen=True)
class Header:
    """What a picture says of itself: its size in pixels and its offset in a larger picture."""

    width: int
    height: int
    offset: tuple[int, int] = (0, 0)


def check_size(width: int, height: int, where: str) -> None:
    """Raises `Refusal` for a picture too large to open."""
    if width > limits.SIDE or height > limits.SIDE or width * height > limits.PIXELS:
        raise Refusal(
            f"The picture is {width:,} × {height:,} pixels, which is more than can be opened here.",
            where=where,
            remedy=f"Save it with at most {limits.PIXELS // 1_000_000} million pixels and no side over {limits.SIDE:,}.",
            kind="too-large",
        )
    if width < 1 or height < 1:
        raise Refusal("The picture has no pixels.", where=where, remedy="Export it again from the drawing program.")


def _broken(where: str) -> Refusal:
    return Refusal(
        "The PNG breaks off or is damaged.",
        where=where,
        remedy="Copy or export the file again; nothing was brought in.",
        kind="damaged",
    )


def _chunks(data: bytes | bytearray, where: str) -> Iterator[tuple[bytes, memoryview]]:
    """The chunks of a PNG up to its end, each checked (PNG 3rd edition, §5). Raises `Refusal` if one is damaged."""
    whole, at = memoryview(data), len(PNG)
    while at + 12 <= len(whole):
        length, kind = struct.unpack(">I4s", whole[at : at + 8])
        body, check = whole[at + 8 : at + 8 + length], whole[at + 8 + length : at + 12 + length]
        if len(body) != length or len(check) != 4:
            break
        if zlib.crc32(body, zlib.crc32(kind)) != struct.unpack(">I", check)[0]:
            break
        yield kind, body
        if kind == b"IEND":
            return
        at += 12 + length
    raise _broken(where)


def png_header(data: bytes, where: str) -> Header:
    """What a PNG says of itself, all its chunks checked. Raises `Refusal` if any is damaged."""
    header, offset = None, (0, 0)
    for kind, body in _chunks(data, where):
        if kind == b"IHDR" and len(body) == 13:
            width, height = struct.unpack(">II", body[:8])
            check_size(width, height, where)
            header = Header(width, height)
        elif kind == b"oFFs" and len(body) == 9 and body[8] == 0:
            offset = struct.unpack(">ii", body[:8])
    if header is None:
        raise _broken(where)
    return Header(header.width, header.height, offset)


_PIECE = 1 << 16
_CHANNELS = {0: 1, 2: 3, 3: 1, 4: 2, 6: 4}
_PASSES = ((0, 0, 8, 8), (4, 0, 8, 8), (0, 4, 4, 8), (2, 0, 4, 4), (0, 2, 2, 4), (1, 0, 2, 2), (0, 1, 1, 2))
"""Where each pass of an interlaced PNG begins, across and down, and its steps (PNG 3rd edition, §8.2)."""


def whole_png(data: bytes | bytearray, where: str) -> int:
    """How many pixels a PNG has, all of which are there; they are never held at once. Raises `Refusal` if it is too
    large, damaged, or its pixels are fewer or more than it says."""
    pixels = wanted = got = 0
    unpacking = zlib.decompressobj()
    for kind, body in _chunks(data, where):
        if kind == b"IHDR" and len(body) == 13:
            width, height, depth, colour, _, _, interlaced = struct.unpack(">IIBBBBB", body)
            check_size(width, height, where)
            bits, pixels = depth * _CHANNELS.get(colour, 0), width * height
            sizes = [(-(-(width - x) // dx), -(-(height - y) // dy)) for x, y, dx, dy in _PASSES]
            rows = sizes if interlaced else [(width, height)]
            wanted = sum((1 + -(-w * bits // 8)) * h for w, h in rows if w > 0 and h > 0)
        elif kind == b"IDAT":
            # A little at a time: what is left over of each piece is copied.
            for at in range(0, len(body), _PIECE):
                rest: bytes | memoryview = body[at : at + _PIECE]
                while len(rest) and got <= wanted:
                    try:
                        got += len(unpacking.decompress(rest, 1 << 20))
                    except zlib.error:
                        raise _broken(where) from None
                    rest = unpacking.unconsumed_tail
    if not pixels or got != wanted:
        raise _broken(where)
    return int(pixels)


def decode(data: bytes, where: str) -> NDArray[np.uint8]:
    """The pixels of a whole picture, straight-alpha sRGB RGBA, shape `(height, width, 4)`. Raises `Refusal` if it is
    too large, or breaks off."""
    try:
        codec = skia.Codec.MakeFromData(skia.Data.MakeWithoutCopy(data))
    except RuntimeError:
        raise unreadable(where) from None
    size = codec.dimensions()
    check_size(size.width(), size.height(), where)
    info = skia.ImageInfo.Make(
        size.width(), size.height(), skia.kRGBA_8888_ColorType, skia.kUnpremul_AlphaType, skia.ColorSpace.MakeSRGB()
    )
    pixels = np.zeros((size.height(), size.width(), 4), dtype=np.uint8)
    if codec.getPixels(info, pixels, info.minRowBytes()) != skia.Codec.kSuccess:
        raise unreadable(where)
    # A camera's picture may lie on its side and say so.
    upright = codec.getOrigin() == skia.EncodedOrigin.kTopLeft_EncodedOrigin
    return pixels if upright else pixels_of(opened(data, where), where)


def visible_box(pixels: NDArray[np.uint8]) -> tuple[int, int, int, int] | None:
    """Left, top, right, bottom of the pixels that show at all; None if none does."""
    alpha = pixels[:, :, 3]
    rows, columns = np.flatnonzero(alpha.any(axis=1)), np.flatnonzero(alpha.any(axis=0))
    if not rows.size:
        return None
    return (int(columns[0]), int(rows[0]), int(columns[-1]) + 1, int(rows[-1]) + 1)


def read_picture(data: bytes, filename: str, whole: bool = False) -> Imported:
    """One picture as one piece, its empty margin trimmed (unless `whole`) without moving what shows."""
    offset = png_header(data, filename).offset if data.startswith(PNG) else (0, 0)
    if data.startswith(JPEG):
        check_jpeg(data, filename)
    elif not data.startswith(PNG):
        check_webp(data, filename)
    pixels = decode(data, filename)
    height, width = pixels.shape[:2]
    box = (0, 0, width, height) if whole else visible_box(pixels)
    if box is None:
        raise Refusal("The picture is empty: every pixel is clear.", where=filename, remedy="Choose another file.")
    left, top, right, bottom = box
    result = Imported(filename, (width, height))
    asset = result.keep("image/png", png_of(pixels[top:bottom, left:right]))
    ox, oy = offset
    place = (left + ox, top + oy)
    picture = Picture(asset=asset, box=(*place, right - left, bottom - top))
    bounds = (place[0], place[1], right + ox, bottom + oy)
    result.pieces.append(FoundPiece(stem(filename), (), Art(bounds=bounds, nodes=(picture,))))
    if offset != (0, 0):
        result.notes.append(f"{filename}: placed {ox} × {oy} pixels into its picture, as the file says.")
        result.frame = (max(width + ox, 1), max(height + oy, 1))
    if (right - left, bottom - top) != (width, height):
        result.trimmed[filename] = f"{width} × {height} → {right - left} × {bottom - top} px"
    return result


def check_webp(data: bytes, where: str) -> None:
    """Read the canvas size from a WebP before opening it (RFC 9649, §2)."""
    kind, size = data[12:16], struct.unpack("<I", data[4:8])[0] if len(data) > 8 else 0
    if size + 8 > len(data) or len(data) < 30:
        raise Refusal("The WebP breaks off.", where=where, remedy="Copy or export the file again.", kind="damaged")
    if kind == b"VP8X":
        width = int.from_bytes(data[24:27], "little") + 1
        height = int.from_bytes(data[27:30], "little") + 1
    elif kind == b"VP8L":
        bits = int.from_bytes(data[21:25], "little")
        width, height = (bits & 0x3FFF) + 1, ((bits >> 14) & 0x3FFF) + 1
    else:
        width, height = (int.from_bytes(data[i : i + 2], "little") & 0x3FFF for i in (26, 28))
    check_size(width, height, where)


def check_jpeg(data: bytes, where: str) -> None:
    """Read the size from the frame header (ITU-T T.81, B.2.2)."""
    at = 2
    while at + 9 < len(data) and data[at] == 0xFF:
        marker = data[at + 1]
        if 0xC0 <= marker <= 0xCF and marker not in (0xC4, 0xC8, 0xCC):
            check_size(
                int.from_bytes(data[at + 7 : at + 9], "big"), int.from_bytes(data[at + 5 : at + 7], "big"), where
            )
            return
        at += 2 + int.from_bytes(data[at + 2 : at + 4], "big")
