"""OpenRaster files: layers with names, order, places, opacity and visibility.

Source: the OpenRaster specification 0.0.5, “File Layout” and “Layers Stack”.
"""

from __future__ import annotations

import io
import struct
import zipfile
from collections.abc import Iterator
from dataclasses import dataclass
from typing import get_args
from xml.etree.ElementTree import Element, ParseError

from defusedxml import ElementTree
from defusedxml.common import DefusedXmlException

from sorvan.core.errors import Refusal
from sorvan.core.model.art import Art, Blend, Layer, Picture
from sorvan.interchange import limits
from sorvan.interchange.imported import FoundPiece, Imported, Progress, unheard
from sorvan.interchange.pictures import PNG, check_size, decode, png_header, visible_box
from sorvan.picture.images import png_of

MIMETYPE = b"image/openraster"
_ALIKE: tuple[Blend, ...] = get_args(Blend)
MODES: dict[str, Blend] = {f"svg:{mode}": mode for mode in _ALIKE if mode not in ("normal", "plus-lighter")}
MODES |= {"": "normal", "svg:src-over": "normal", "svg:plus": "plus-lighter"}
"""What a layer's `composite-op` is here."""
LAYERS = 2000


@dataclass(frozen=True)
class RasterLayer:
    """A layer of the stack: what it is called, where it lies, and the groups it is in."""

    name: str
    groups: tuple[str, ...]
    file: str
    x: int
    y: int
    opacity: float
    hidden: bool
    mixing: str
    by_group: bool
    """Whether the group it is in is mixed so, not the layer itself."""


def looks_like_openraster(data: bytes) -> bool:
    """Whether a ZIP says in its first entry that it is an OpenRaster file."""
    return data.startswith(b"PK\x03\x04") and MIMETYPE in data[:120]


def read_openraster(data: bytes, filename: str, progress: Progress = unheard) -> Imported:
    """Every layer as a piece, back to front; stacks become groups.

    Raises `Refusal` for a file that is damaged, too large, or not OpenRaster.
    """
    damaged = Refusal(
        "The OpenRaster file is damaged.", where=filename, remedy="Save it again and bring it in.", kind="damaged"
    )
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as file:
            if sum(entry.file_size for entry in file.infolist()) > 8 * limits.BYTES:
                raise Refusal("The file unpacks to more than can be opened here.", where=filename, kind="too-large")
            if file.getinfo("stack.xml").file_size > limits.LIST:
                raise Refusal(
                    f"The file's list of layers is larger than {limits.LIST >> 20} MB.",
                    where=filename,
                    kind="too-large",
                )
            root = ElementTree.fromstring(file.read("stack.xml"), forbid_dtd=True)
            frame = (max(1, _whole(root.get("w"))), max(1, _whole(root.get("h"))))
            result = Imported(filename, frame)
            layers = list(_layers(root, (), filename))
            _check_together(file, layers, filename)
            for count, layer in enumerate(reversed(layers), 1):
                _bring(file, layer, result, filename)
                progress(count / len(layers))
    except (zipfile.BadZipFile, KeyError, EOFError, RuntimeError, NotImplementedError, OSError, ParseError, ValueError):
        raise damaged from None
    except DefusedXmlException:
        raise Refusal(
            "The file's list of layers holds something that is not allowed.", where=filename, kind="damaged"
        ) from None
    if not result.pieces:
        raise Refusal("The file has no layer with anything on it.", where=filename, remedy="Choose another file.")
    return result


def _layers(
    root: Element, groups: tuple[str, ...], filename: str, hidden: bool = False, fade: float = 1.0, mixing: str = ""
) -> Iterator[RasterLayer]:
    """Layers as the stack lists them, the foremost first."""
    if len(groups) > limits.DEPTH:
        raise Refusal("The groups are nested too deeply.", where=filename, kind="too-large")
    count = 0
    for element in root:
        unseen = hidden or element.get("visibility", "visible") == "hidden"
        opacity = fade * min(1.0, max(0.0, _number(element.get("opacity"), 1.0)))
        name = (element.get("name") or "").strip()[:120]
        own = element.get("composite-op") or ""
        mixed = own if MODES.get(own) != "normal" else mixing
        if element.tag == "stack":
            inside = (*groups, name or "Group") if groups or name or root.tag == "stack" else groups
            yield from _layers(element, inside, filename, unseen, opacity, mixed)
        elif element.tag == "layer" and element.get("src"):
            count += 1
            if count > LAYERS:
                raise Refusal(f"The file has more than {LAYERS} layers in one group.", where=filename, kind="too-large")
            yield RasterLayer(
                name or f"Layer {count}",
                groups,
                element.get("src") or "",
                _whole(element.get("x")),
                _whole(element.get("y")),
                opacity,
                unseen,
                mixed,
                mixed != own and bool(groups),
            )


def _check_together(file: zipfile.ZipFile, layers: list[RasterLayer], filename: str) -> None:
    """Raises `Refusal` if the pictures of all layers are too large together."""
    pixels = 0
    for layer in layers:
        with file.open(layer.file) as entry:
            head = entry.read(33)
        if head.startswith(PNG) and len(head) >= 24:
            width, height = struct.unpack(">II", head[16:24])
            check_size(width, height, f"{filename}, layer “{layer.name}”")
            pixels += width * height
    if pixels > limits.ALL_PIXELS:
        raise Refusal(
            f"Its layers have {pixels // 1_000_000:,} million pixels together, which is more than can be opened here.",
            where=filename,
            remedy=f"Save it smaller: {limits.ALL_PIXELS // 1_000_000} million can be. Layers may be cut to what is on them.",
            kind="too-large",
        )


def _bring(file: zipfile.ZipFile, layer: RasterLayer, result: Imported, filename: str) -> None:
    where = f"{filename}, layer “{layer.name}”"
    entry = file.getinfo(layer.file)
    if entry.file_size > limits.BYTES:
        raise Refusal("A layer is too large to open.", where=where, kind="too-large")
    data = file.read(entry)
    if not data.startswith(PNG):
        raise Refusal("A layer is not a PNG picture.", where=where, remedy="Save the file again.", kind="damaged")
    png_header(data, where)
    pixels = decode(data, where)
    box = visible_box(pixels)
    if box is None:
        result.notes.append(f"Layer “{layer.name}” is empty and was left out.")
        return
    l, t, r, b = box
    asset = result.keep("image/png", png_of(pixels[t:b, l:r]))
    left, top = layer.x + l, layer.y + t
    blend = MODES.get(layer.mixing)
    if blend is None:
        result.notes.append(
            f"Layer “{layer.name}” is mixed as {layer.mixing.removeprefix('svg:')}; it is shown plainly."
        )
    if layer.by_group:
        note = f"{layer.groups[-1]}: its blend mode was given to each of its pieces."
        result.notes.extend([note] if note not in result.notes else [])
    picture = Picture(asset=asset, box=(left, top, r - l, b - t))
    node = picture if blend in (None, "normal") else Layer(blend=blend, nodes=(picture,))
    art = Art(bounds=(left, top, left + r - l, top + b - t), nodes=(node,))
    result.pieces.append(FoundPiece(layer.name, layer.groups, art, layer.opacity, layer.hidden))


def _whole(text: str | None) -> int:
    return max(-100_000, min(100_000, int(float(text or 0))))


def _number(text: str | None, otherwise: float) -> float:
    try:
        return float(text) if text else otherwise
    except ValueError:
        return otherwise
