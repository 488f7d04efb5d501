"""The drawings a production's evaluation looks at, and those it makes on the way."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable, Iterable
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

from sorvan.core.art.colours import corrected_levels
from sorvan.core.model.art import Art
from sorvan.core.model.base import asset_id
from sorvan.core.model.puppet import Correction
from sorvan.picture.images import opened, pixels_of, png_of
from sorvan.picture.paint import Assets

Held = TypeVar("Held")
MOST_KEPT = 400
MOST_BYTES = 384 * 1024 * 1024
ART_MEDIA = "application/vnd.sorvan.art+json"


class Studio:
    """Reads assets through `assets`; what the core makes of them is had from `asset` as well.

    Safe to use from several threads.
    """

    def __init__(self, assets: Assets) -> None:
        self._assets = assets
        self._made: OrderedDict[str, tuple[str, bytes]] = OrderedDict()
        self._kept: OrderedDict[Hashable, Any] = OrderedDict()
        self._bytes = 0
        self._lock = threading.RLock()

    def asset(self, id: str) -> bytes:
        """An asset's bytes, whether it was brought in or made."""
        made = self.made(id)
        return made[1] if made else self._assets(id)

    def made(self, id: str) -> tuple[str, bytes] | None:
        """Media type and bytes of something that the core made, if it did."""
        with self._lock:
            return self._made.get(id)

    def gather(self, arts: Iterable[str]) -> dict[str, tuple[str, bytes]]:
        """These drawings and every picture they use, as media type and bytes, for another process."""
        found: dict[str, tuple[str, bytes]] = {}
        for id in sorted(set(arts)):
            found[id] = (ART_MEDIA, self.asset(id))
            for picture in self.art(id).pictures():
                found[picture] = ("image/png", self.asset(picture))
        return found

    def art(self, id: str) -> Art:
        """The drawing with this id."""
        return self.kept(("art", id), lambda: Art.model_validate_json(self.asset(id)))

    def alpha(self, picture: str) -> NDArray[np.uint8]:
        """How much each pixel of a picture covers, `(height, width)`."""
        return self.kept(("alpha", picture), lambda: np.ascontiguousarray(self._pixels(picture)[:, :, 3]))

    def keep(self, art: Art) -> str:
        """Make a drawing available to the painters."""
        return self.put(ART_MEDIA, art.model_dump_json().encode())

    def toned(self, picture: str, correction: Correction) -> str:
        """A picture with its colours corrected."""

        def make() -> str:
            pixels = self._pixels(picture)
            pixels[:, :, :3] = corrected_levels(pixels[:, :, :3], correction)
            return self.put("image/png", png_of(pixels))

        return self.kept(("toned", picture, correction), make)

    def put(self, media: str, data: bytes) -> str:
        """Keep something made; returns its id."""
        id = asset_id(data)
        with self._lock:
            if id not in self._made:
                self._made[id] = (media, data)
                self._bytes += len(data)
            while self._bytes > MOST_BYTES and len(self._made) > 1:
                _, (_, old) = self._made.popitem(last=False)
                self._bytes -= len(old)
                # What pointed at it must be made anew.
                self._kept.clear()
        return id

    def kept(self, key: Hashable, make: Callable[[], Held]) -> Held:
        """What was made for this key before; else it is made now and kept for a while."""
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
                found: Held = self._kept[key]
                return found
        value = make()
        with self._lock:
            self._kept[key] = value
            while len(self._kept) > MOST_KEPT:
                self._kept.popitem(last=False)
        return value

    def _pixels(self, picture: str) -> NDArray[np.uint8]:
        return pixels_of(opened(self.asset(picture), picture), picture)
