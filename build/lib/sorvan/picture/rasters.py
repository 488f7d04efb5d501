"""Drawings that bend, drawn to pictures where only pixels can say what they look like."""

from __future__ import annotations

import math

import skia

from sorvan.core.model.art import Art
from sorvan.core.plan.plan import Cel
from sorvan.picture.paint import Painter

FINE = 2.0
"""Pixels of such a picture in a drawing unit."""
AIR = 3.0


class Rasteriser:
    """Draws items of cels to PNG pictures."""

    def __init__(self, painter: Painter) -> None:
        self.painter = painter

    def __call__(self, cel: Cel, index: int, own: int) -> tuple[bytes, tuple[float, float, float, float]]:
        """An item in one of its cel's own frames, and the box where it lies (x, y, width, height in drawing units)."""
        drawing = int(cel.shown[index, own])
        moved = cel.moved(index, drawing, own)
        assert moved is not None
        points, looks = moved
        (left, top), (right, bottom) = points.min(axis=0) - AIR, points.max(axis=0) + AIR
        width, height = (max(math.ceil(FINE * float(d)), 1) for d in (right - left, bottom - top))
        surface = skia.Surface.MakeRaster(skia.ImageInfo.MakeN32Premul(width, height, skia.ColorSpace.MakeSRGB()))
        canvas = surface.getCanvas()
        canvas.clear(skia.ColorTRANSPARENT)
        canvas.scale(FINE, FINE)
        canvas.translate(-float(left), -float(top))
        self.painter.changed(canvas, cel.items[index].arts[drawing], points, looks)
        png = bytes(surface.makeImageSnapshot().encodeToData(skia.kPNG, 100))
        return png, (float(left), float(top), width / FINE, height / FINE)


def thumbnail(painter: Painter, art: Art, side: int) -> bytes:
    """A PNG of a drawing in a square of so many pixels, on nothing."""
    left, top, right, bottom = art.bounds
    scale = side / max(right - left, bottom - top, 1e-9)
    surface = skia.Surface.MakeRaster(skia.ImageInfo.MakeN32Premul(side, side, skia.ColorSpace.MakeSRGB()))
    canvas = surface.getCanvas()
    canvas.clear(skia.ColorTRANSPARENT)
    canvas.translate((side - (right - left) * scale) / 2, (side - (bottom - top) * scale) / 2)
    canvas.scale(scale, scale)
    canvas.translate(-left, -top)
    canvas.drawPicture(painter.record(art))
    return bytes(surface.makeImageSnapshot().encodeToData(skia.kPNG, 100))
