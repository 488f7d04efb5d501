"""Pictures as pixels, and pixels as PNG."""

from __future__ import annotations

import numpy as np
import skia

from sorvan.core.errors import Refusal
from sorvan.picture.paint import Pixels


def opened(data: bytes, where: str) -> skia.Image:
    """A picture's header, its pixels still to be read. Raises `Refusal` if it is none."""
    image = skia.Image.MakeFromEncoded(skia.Data.MakeWithCopy(data))
    if image is None:
        raise unreadable(where)
    return image


def pixels_of(image: skia.Image, where: str) -> Pixels:
    """Straight-alpha sRGB RGBA, shape `(height, width, 4)`."""
    info = skia.ImageInfo.Make(
        image.width(), image.height(), skia.kRGBA_8888_ColorType, skia.kUnpremul_AlphaType, skia.ColorSpace.MakeSRGB()
    )
    pixels = np.zeros((image.height(), image.width(), 4), dtype=np.uint8)
    if not image.readPixels(info, pixels, info.minRowBytes(), 0, 0):
        raise unreadable(where)
    return pixels


def unreadable(where: str) -> Refusal:
    """The refusal of a picture that is damaged, or none."""
    return Refusal("The picture can't be read.", where=where, remedy="Save it again as PNG.", kind="damaged")


def png_of(pixels: Pixels) -> bytes:
    """A PNG of RGBA pixels with straight alpha."""
    image = skia.Image.fromarray(np.ascontiguousarray(pixels), colorType=skia.kRGBA_8888_ColorType)
    return bytes(image.encodeToData(skia.kPNG, 100))


def jpeg_of(pixels: Pixels) -> bytes:
    """A JPEG of opaque RGBA pixels."""
    image = skia.Image.fromarray(np.ascontiguousarray(pixels), colorType=skia.kRGBA_8888_ColorType)
    return bytes(image.encodeToData(skia.kJPEG, 82))
