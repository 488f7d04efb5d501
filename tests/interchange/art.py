"""Art made for the tests, and drawing it with the painter."""

from __future__ import annotations

import io
import struct
import zipfile
import zlib

import numpy as np
from numpy.typing import NDArray

from sorvan.core.model.art import Art
from sorvan.core.plan.plan import Item
from sorvan.interchange.imported import Imported
from sorvan.picture.paint import Painter, Surface
from sorvan.picture.studio import ART_MEDIA
from tests.plans import still


def svg(body: str, defs: str = "", attributes: str = 'width="100" height="100" viewBox="0 0 100 100"') -> bytes:
    """An SVG drawing of 100 by 100 units."""
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" {attributes}>'
        f"<defs>{defs}</defs>{body}</svg>"
    ).encode()


def png(pixels: NDArray[np.uint8], extra: bytes = b"") -> bytes:
    """A PNG of RGBA pixels, written here byte by byte; `extra` chunks go before the picture data."""
    height, width = pixels.shape[:2]
    rows = b"".join(b"\0" + row.tobytes() for row in pixels)
    head = struct.pack(">IIBBBBB", width, height, 8, 6, 0, 0, 0)
    return (
        b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + extra + chunk(b"IDAT", zlib.compress(rows)) + chunk(b"IEND", b"")
    )


def chunk(kind: bytes, body: bytes) -> bytes:
    """One PNG chunk with its check."""
    return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))


def drawn(imported: Imported, size: int = 100, zoom: int = 1) -> NDArray[np.uint8]:
    """All pieces of an import in their places, painted on nothing, straight alpha."""
    arts: dict[str, Art] = {}
    for found in imported.pieces:
        arts[imported.keep(ART_MEDIA, found.art.model_dump_json().encode())] = found.art
    ids = [imported.keep(ART_MEDIA, f.art.model_dump_json().encode()) for f in imported.pieces]
    boxes = [f.art.bounds for f in imported.pieces]
    hidden = [f.hidden for f in imported.pieces]
    items = tuple(
        Item("p", str(i), (id,), (box,), h) for i, (id, box, h) in enumerate(zip(ids, boxes, hidden, strict=True))
    )
    plan = still((size, size), items)
    painter = Painter(lambda id: imported.assets[id][1])
    return Surface(size * zoom, size * zoom).draw(painter, plan, 0, clear=True)


def openraster(stack: str, layers: dict[str, bytes], size: tuple[int, int] = (100, 80)) -> bytes:
    """An OpenRaster file: its list of layers, and the pictures it names."""
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w") as file:
        file.writestr(zipfile.ZipInfo("mimetype"), "image/openraster")
        file.writestr("stack.xml", f'<image version="0.0.5" w="{size[0]}" h="{size[1]}"><stack>{stack}</stack></image>')
        for name, data in layers.items():
            file.writestr(name, data)
    return buffer.getvalue()


def patch(width: int, height: int, box: tuple[int, int, int, int], colour: tuple[int, int, int]) -> NDArray[np.uint8]:
    """Clear pixels with an opaque box in them."""
    pixels = np.zeros((height, width, 4), dtype=np.uint8)
    left, top, right, bottom = box
    pixels[top:bottom, left:right] = (*colour, 255)
    return pixels
