"""Colours of a drawing: what they are, linked to swatches, and corrected.

Both painters get drawings whose colours are final, so a preview and a film can't differ.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import lru_cache
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from sorvan.core.art.source import Arts
from sorvan.core.model.art import Art, Flat, Layer, Linear, Mesh, Node, Paint, Picture, Radial, Shape, Stroke
from sorvan.core.model.production import Production
from sorvan.core.model.puppet import Correction, Drawing, Piece

Use = Literal["fill", "stroke"]
Recolour = Callable[[Use, str], str]
PLAIN = Correction()


def rgba(colour: str) -> tuple[int, int, int, int]:
    """Red, green, blue and opacity, 0 to 255 each, of `#rrggbbaa`."""
    red, green, blue, opacity = (int(colour[i : i + 2], 16) for i in (1, 3, 5, 7))
    return red, green, blue, opacity


def colours_in(art: Art) -> list[str]:
    """Every colour of a drawing as `fill:#rrggbbaa` or `stroke:#rrggbbaa`, in the order drawn."""
    found: dict[str, None] = {}

    def look(use: Use, colour: str) -> str:
        found.setdefault(f"{use}:{colour}")
        return colour

    recoloured(art, look)
    return list(found)


def recoloured(art: Art, change: Recolour, picture: Callable[[str], str] | None = None) -> Art:
    """The drawing with every colour, and if asked every picture, put through a function."""
    return art.changed(nodes=tuple(recoloured_node(n, change, picture) for n in art.nodes))


def recoloured_node(node: Node, change: Recolour, picture: Callable[[str], str] | None = None) -> Node:
    """The same for a part of a drawing."""
    if isinstance(node, Shape):
        fill = _paint(node.fill, "fill", change) if node.fill else None
        stroke: Stroke | None = None
        if node.stroke:
            stroke = node.stroke.changed(paint=_paint(node.stroke.paint, "stroke", change))
        return node.changed(fill=fill, stroke=stroke)
    if isinstance(node, (Picture, Mesh)):
        return node.changed(asset=picture(node.asset)) if picture else node
    assert isinstance(node, Layer)
    return node.changed(nodes=tuple(recoloured_node(n, change, picture) for n in node.nodes))


def _paint(paint: Paint, use: Use, change: Recolour) -> Paint:
    if isinstance(paint, Flat):
        return paint.changed(colour=change(use, paint.colour))
    assert isinstance(paint, (Linear, Radial))
    stops = tuple(s.changed(colour=change(use, s.colour)) for s in paint.stops)
    return paint.changed(stops=stops)


@lru_cache(maxsize=256)
def _table(correction: Correction) -> NDArray[np.float64]:
    """What each of the 256 levels becomes under brightness, contrast and gamma, 0…1.

    v → clamp((v - ½)·(1 + c) + ½ + b), then v^(1/gamma); c grows threefold above zero.
    """
    v = np.arange(256) / 255
    contrast = correction.contrast / 100
    slope = 1 + contrast if contrast < 0 else 1 + 3 * contrast
    straight = np.clip((v - 0.5) * slope + 0.5 + correction.brightness / 100, 0, 1)
    table: NDArray[np.float64] = straight ** (1 / correction.gamma)
    table.flags.writeable = False
    return table


def corrected_levels(levels: NDArray[np.uint8], correction: Correction) -> NDArray[np.uint8]:
    """Straight-alpha sRGB levels `(…, 3)` corrected and tinted."""
    tint = np.array(rgba(correction.tint)[:3]) / 255
    part = correction.amount / 100
    mixed = _table(correction)[levels] * (1 - part) + tint * part
    return np.rint(mixed * 255).astype(np.uint8)


def corrected(colour: str, correction: Correction) -> str:
    """One colour `#rrggbbaa` corrected; its alpha stays."""
    if correction == PLAIN:
        return colour
    levels = np.array(rgba(colour)[:3], dtype=np.uint8)
    r, g, b = corrected_levels(levels, correction)
    return f"#{r:02x}{g:02x}{b:02x}{colour[7:]}"


def swatched(colour: str, swatch: str) -> str:
    """A colour replaced by a swatch, as see-through as both together."""
    alpha = rgba(colour)[3] * rgba(swatch)[3] / 255
    return f"{swatch[:7]}{round(alpha):02x}"


def swatch_changes(links: Mapping[str, str], production: Production) -> dict[str, str]:
    """The colours that swatch links replace; links to swatches that are gone do nothing."""
    return {
        which: swatched(which.partition(":")[2], production.swatches[swatch].colour)
        for which, swatch in links.items()
        if swatch in production.swatches
    }


def dressed(piece: Piece, drawing: Drawing, production: Production, arts: Arts | None) -> str:
    """The id of a drawing with the piece's swatches and correction in it, made ready for the painters."""
    changes = swatch_changes(piece.swatches, production)
    if arts is None or (not changes and piece.colour == PLAIN):
        return drawing.art
    correction = piece.colour

    def change(use: Use, colour: str) -> str:
        return corrected(changes.get(f"{use}:{colour}", colour), correction)

    toned = None if correction == PLAIN else (lambda picture: arts.toned(picture, correction))
    key = ("dressed", drawing.art, correction, tuple(sorted(changes.items())))
    return arts.kept(key, lambda: arts.keep(recoloured(arts.art(drawing.art), change, toned)))
