"""Files that cost far more to read than they weigh, or break what reads them. All are made here, by code."""

from __future__ import annotations

import base64
import io
import struct
import zipfile
import zlib
from collections.abc import Callable

import numpy as np

from sorvan.interchange.pictures import PNG
from tests.interchange.art import chunk, openraster, png

PAGE = 'width="1920" height="1080" viewBox="0 0 1920 1080"'


def page(body: str, defs: str = "", head: str = "") -> bytes:
    """An SVG drawing as large as a screen, in one named group."""
    return (
        f'{head}<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" {PAGE}>'
        f'<defs>{defs}</defs><g id="pier">{body}</g></svg>'
    ).encode("utf-8", "surrogatepass")


def blank(side: int) -> bytes:
    """A PNG of so many clear pixels square, which weighs next to nothing."""
    row = b"\0" + bytes(side * 4)
    packer = zlib.compressobj(9)
    data = b"".join(packer.compress(row) for _ in range(side)) + packer.flush()
    head = struct.pack(">IIBBBBB", side, side, 8, 6, 0, 0, 0)
    return PNG + chunk(b"IHDR", head) + chunk(b"IDAT", data) + chunk(b"IEND", b"")


def heavy(side: int, shade: int) -> bytes:
    """A PNG of so many pixels square of one shade, nothing of it packed."""
    data = zlib.compress((b"\0" + bytes([shade]) * (4 * side)) * side, 0)
    head = struct.pack(">IIBBBBB", side, side, 8, 6, 0, 0, 0)
    return PNG + chunk(b"IHDR", head) + chunk(b"IDAT", data) + chunk(b"IEND", b"")


def inside(media: str, data: bytes) -> bytes:
    """A picture inside a drawing."""
    return page(f'<image width="9" height="9" href="data:{media};base64,{base64.b64encode(data).decode()}"/>')


def gif(width: int, height: int) -> bytes:
    """A GIF that claims to be so large."""
    screen = b"GIF89a" + struct.pack("<HHBBB", width, height, 0x80, 0, 0) + bytes(6)
    frame = b"," + struct.pack("<HHHHB", 0, 0, width, height, 0) + b"\x02\x02\x44\x01\x00;"
    return screen + frame


def webp(width: int, height: int) -> bytes:
    """A WebP that claims to be so large."""
    bits = (width - 1) | (height - 1) << 14
    body = b"WEBPVP8L" + struct.pack("<I", 12) + b"\x2f" + struct.pack("<I", bits) + bytes(11)
    return b"RIFF" + struct.pack("<I", len(body)) + body


def _stack_of_words() -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as file:
        file.writestr(zipfile.ZipInfo("mimetype"), "image/openraster")
        with file.open("stack.xml", "w", force_zip64=True) as entry:
            entry.write(b'<image w="9" h="9"><stack>')
            for _ in range(300):
                entry.write(b'<layer name="wave" src="a.png"/>' * 32768)
            entry.write(b"</stack></image>")
    return out.getvalue()


def _many_layers(side: int, count: int) -> bytes:
    picture = blank(side)
    layers = {f"{n}.png": picture for n in range(count)}
    return openraster("".join(f'<layer name="l{n}" src="{n}.png"/>' for n in range(count)), layers)


def _multiplied(levels: int, each: int) -> str:
    defs = '<g id="u0"><rect width="1" height="1"/></g>'
    return defs + "".join(f'<g id="u{n}">' + f'<use href="#u{n - 1}"/>' * each + "</g>" for n in range(1, levels + 1))


def _clips(depth: int, wide: int) -> str:
    shapes = "".join(f'<circle cx="{n}" cy="{n % 97}" r="40"/>' for n in range(wide))
    return f'<clipPath id="c0">{shapes}</clipPath>' + "".join(
        f'<clipPath id="c{n}" clip-path="url(#c{n - 1})">{shapes}</clipPath>' for n in range(1, depth)
    )


def _turbulence() -> str:
    return (
        '<filter id="f" x="0" y="0" width="1" height="1"><feTurbulence baseFrequency=".01" numOctaves="255"/></filter>'
    )


def _nested_patterns(depth: int) -> str:
    return (
        '<pattern id="p0" width="2" height="2" patternUnits="userSpaceOnUse"><rect width="1" height="1"/></pattern>'
        + (
            "".join(
                f'<pattern id="p{n}" width="3" height="3" patternUnits="userSpaceOnUse">'
                f'<rect width="300" height="300" fill="url(#p{n - 1})"/></pattern>'
                for n in range(1, depth)
            )
        )
    )


FILES: dict[str, Callable[[], bytes]] = {
    "40 digits in an arc": lambda: page(f'<path d="M0 0A{"1" * 40}"/>'),
    "80 digits in an arc": lambda: page(f'<path d="M0 0A{"1" * 80}"/>'),
    "a path of a million digits": lambda: page(f'<path d="M0 0L{"1" * 1_000_000}"/>'),
    "a transform of letters": lambda: page(f'<path d="M0 0H9V9z" transform="{"a" * 20_000}"/>'),
    "a transform of 500,000 letters": lambda: page(f'<path d="M0 0H9V9z" transform="{"a" * 500_000}"/>'),
    "a paint of spaces": lambda: page(f'<path d="M0 0H9V9z" fill="url(#{" " * 200_000}"/>'),
    "one word of text": lambda: page('<text x="9" y="99" font-size="90">Ferry</text>'),
    "a large page of text": lambda: page(
        "".join(f'<text y="{n}" font-size="8">{"The last ferry leaves at nine. " * 40}</text>' for n in range(1000))
    ),
    "a wide blur": lambda: page(
        '<rect width="1900" height="1000" filter="url(#f)"/>',
        '<filter id="f"><feGaussianBlur stdDeviation="900"/></filter>',
    ),
    "turbulence": lambda: page('<rect width="1900" height="1000" filter="url(#f)"/>', _turbulence()),
    "nested patterns": lambda: page('<rect width="1900" height="1000" fill="url(#p11)"/>', _nested_patterns(12)),
    "defaults of a document type": lambda: page(
        "<g/>" * 20_000,
        head="<!DOCTYPE svg [<!ATTLIST g " + " ".join(f"a{n} CDATA '{'x' * 4000}'" for n in range(100)) + ">]>",
    ),
    "12,000 pixels square": lambda: blank(12_000),
    "12,000 pixels square in layers": lambda: _many_layers(12_000, 1),
    "20 layers of 8,000 pixels square": lambda: _many_layers(8000, 20),
    "40 layers of 4,000 pixels square": lambda: _many_layers(4000, 40),
    "a list of layers of 300 MB": _stack_of_words,
    "a GIF of 60,000 pixels square": lambda: inside("image/gif", gif(60_000, 60_000)),
    "a WebP of 16,000 pixels square": lambda: inside("image/webp", webp(16_000, 16_000)),
    "a PNG of 12,000 pixels square inside": lambda: inside("image/png", blank(12_000)),
    "100 uses of 1,000 shapes": lambda: page(
        '<use href="#many"/>' * 100, "<g id='many'>" + "<rect width='1' height='1'/>" * 1000 + "</g>"
    ),
    "uses of uses": lambda: page('<use href="#u6"/>', _multiplied(6, 10)),
    "clips of clips": lambda: page('<rect width="1900" height="1000" clip-path="url(#c4)"/>', _clips(5, 2000)),
    "clips on everything": lambda: page('<rect width="90" height="90" clip-path="url(#c3)"/>' * 400, _clips(4, 60)),
    "colours of other spaces": lambda: page(
        "".join(
            f'<rect width="9" height="9" fill="{c}"/>'
            for c in ("oklch(60% .2 40)", "lab(50% 40 -20)", "color(display-p3 1 0 0)", "color(xyz 1 2)", "hwb(1 2 3)")
        )
    ),
    "style nested hundreds deep": lambda: page(
        "<rect width='9' height='9'/>",
        "<style>rect { fill: " + "(" * 900 + ")" * 900 + "} " + "a{" * 900 + "}" * 900 + "</style>",
    ),
    "names of all kinds": lambda: page(f'<g id="{"n" * 10_000}"><rect width="9" height="9"/></g>'),
    "a name with what no text has": lambda: page('<g id="a&#x85;&#xFFFD;\u202e"><rect width="9" height="9"/></g>'),
    "an unknown encoding": lambda: b'<?xml version="1.0" encoding="quay-8"?><svg xmlns="http://www.w3.org/2000/svg"/>',
    "a lone surrogate": lambda: page('<g id="\ud800"><rect width="9" height="9"/></g>'),
    "numbers beyond all": lambda: page('<path d="M0 0L1e999 1e999"/><rect width="1e999" height="1e308"/>'),
    "damaged data in a picture": lambda: _bent_picture(),
    "damaged data in layers": lambda: _bent_layers(),
    "half a WebP": lambda: webp(64, 64),
}


def _bent_picture() -> bytes:
    body = bytearray(zlib.compress(np.random.default_rng(9).bytes(60_000)))
    body[200:260] = bytes(60)
    head = struct.pack(">IIBBBBB", 100, 100, 8, 6, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", bytes(body)) + chunk(b"IEND", b"")


def _bent_layers() -> bytes:
    data = openraster('<layer name="a" src="a.png"/>', {"a.png": png(np.full((40, 40, 4), 90, np.uint8))})
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as source, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as file:
        for entry in source.infolist():
            kind = zipfile.ZIP_STORED if entry.filename == "mimetype" else zipfile.ZIP_DEFLATED
            file.writestr(entry.filename, source.read(entry), kind)
    found = bytearray(out.getvalue())
    at = found.index(b"a.png") + 20
    found[at : at + 12] = bytes(12)
    return bytes(found)
