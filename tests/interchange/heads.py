"""A head and its eleven mouths as pictures, named by letters as an animator numbers them."""

from __future__ import annotations

import numpy as np

from tests.interchange.art import png

MOUTHS = {
    "1 A I": (60, 50), "2 O": (34, 40), "3 E K": (72, 22), "4 Ch Sh J": (44, 20), "5 R": (36, 22), "6 D S T": (56, 16),
    "7 L": (50, 28), "8 W U": (24, 20), "9 M B P": (58, 8), "10 F V": (54, 14), "11 surprised": (40, 56),
}  # fmt: skip
"""How wide and high each mouth is, in pixels."""


def pictures() -> list[dict[str, object]]:
    """The files, each a picture of the whole stage of 640 × 360."""

    def file(name: str, box: tuple[int, int, int, int], colour: tuple[int, int, int]) -> dict[str, object]:
        pixels = np.zeros((360, 640, 4), np.uint8)
        left, top, right, bottom = box
        pixels[top:bottom, left:right] = (*colour, 255)
        return {"name": f"{name}.png", "mimeType": "image/png", "buffer": png(pixels)}

    head = file("head", (220, 40, 420, 320), (224, 176, 144))
    mouths = [
        file(name, (320 - w // 2, 250 - h // 2, 320 + w // 2, 250 + h // 2), (120 + 10 * n, 30, 20 * n))
        for n, (name, (w, h)) in enumerate(MOUTHS.items())
    ]
    return [head, *mouths]
