"""Drawings held in memory, for tests of what the core makes of them."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from sorvan.core.art.colours import corrected_levels
from sorvan.core.model.art import Art, Flat, Node, Outline, Picture, Shape
from sorvan.core.model.base import asset_id
from sorvan.core.model.puppet import Correction


class Shelf:
    """Arts and pictures by id; what the core makes is put here too."""

    def __init__(self) -> None:
        self.arts: dict[str, Art] = {}
        self.pictures: dict[str, NDArray[np.uint8]] = {}
        self._kept: dict[Hashable, Any] = {}

    def art(self, id: str) -> Art:
        return self.arts[id]

    def alpha(self, picture: str) -> NDArray[np.uint8]:
        return self.pictures[picture][:, :, 3]

    def keep(self, art: Art) -> str:
        id = asset_id(art.model_dump_json().encode())
        self.arts[id] = art
        return id

    def picture(self, pixels: NDArray[np.uint8]) -> str:
        id = asset_id(pixels.tobytes())
        self.pictures[id] = pixels
        return id

    def toned(self, picture: str, correction: Correction) -> str:
        pixels = self.pictures[picture].copy()
        pixels[:, :, :3] = corrected_levels(pixels[:, :, :3], correction)
        return self.picture(pixels)

    def kept(self, key: Hashable, make: Callable[[], Any]) -> Any:
        if key not in self._kept:
            self._kept[key] = make()
        return self._kept[key]


def polygon(*points: tuple[float, float], fill: str = "#336699ff") -> Node:
    """A filled polygon."""
    flat = tuple(v for p in points for v in p)
    return Shape(outline=Outline(verbs="M" + "L" * (len(points) - 1) + "Z", points=flat), fill=Flat(colour=fill))


def drawing(*nodes: Node) -> Art:
    """A drawing of these nodes, its bounds taken from their numbers."""
    xs: list[float] = []
    ys: list[float] = []
    for node in nodes:
        if isinstance(node, Shape):
            xs += node.outline.points[::2]
            ys += node.outline.points[1::2]
        elif isinstance(node, Picture):
            x, y, w, h = node.box
            xs += [x, x + w]
            ys += [y, y + h]
    return Art(bounds=(min(xs), min(ys), max(xs), max(ys)), nodes=nodes)
