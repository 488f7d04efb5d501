"""The drawings a production's evaluation looks at, and those it makes on the way."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable, Iterable
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

from sorvan.core.art.colours import corrected_levels
from sorvan.core.errors import Refusal
from sorvan.core.model.art import Art
from sorvan.core.model.base import asset_id
from sorvan.core.model.puppet import Correction
from sorvan.picture.images import opened, pixels_of, png_of
from sorvan.picture.paint import Assets

Held = TypeVar("Held")
MOST_MADE = 256 * 1024 * 1024
MOST_KEPT = 256 * 1024 * 1024
"""Bytes of assets made, and of what is kept for making them, beyond which the longest unused goes."""
NOTHING = Art(bounds=(0, 0, 0, 0), nodes=())
"""A drawing of which nothing shows."""
ART_MEDIA = "application/vnd.sorvan.art+json"


class Studio:
    """Reads assets through `assets`; what the core makes of them is had from `asset` as well.

    A `forgiving` one takes a drawing that is gone for an empty one, so that all others can be worked on.
    Nothing that somebody holds goes; whatever else goes is made again when it is wanted again. Safe
    to use from several threads.
    """

    def __init__(
        self, assets: Assets, most_made: int = MOST_MADE, most_kept: int = MOST_KEPT, *, forgiving: bool = False
    ) -> None:
        self._assets, self._forgiving = assets, forgiving
        self._most_made, self._most_kept = most_made, most_kept
        self._made: OrderedDict[str, tuple[str, bytes]] = OrderedDict()
        self._kept: OrderedDict[Hashable, tuple[Any, int]] = OrderedDict()
        self._made_bytes = self._kept_bytes = 0
        self._ever: set[str] = set()
        self._holders: dict[Hashable, frozenset[str]] = {}
        self._lock = threading.RLock()

    @property
    def weight(self) -> tuple[int, int]:
        """How much the assets made and what is kept for making them take up."""
        return self._made_bytes, self._kept_bytes

    def hold(self, holder: Hashable, assets: Iterable[str]) -> None:
        """Let none of these go while this holder needs them; what it held before it holds no more."""
        with self._lock:
            held = frozenset(assets)
            pictures = {p for id in held if id in self._made for p in self.art(id).pictures()}
            self._holders[holder] = held | pictures

    def release(self, holder: Hashable) -> None:
        """This holder needs nothing any more."""
        with self._lock:
            self._holders.pop(holder, None)

    def asset(self, id: str) -> bytes:
        """An asset's bytes, whether it was brought in or made."""
        made = self.made(id)
        return made[1] if made else self._assets(id)

    def made(self, id: str) -> tuple[str, bytes] | None:
        """Media type and bytes of something that the core made, if it did."""
        with self._lock:
            return self._made.get(id)

    def art(self, id: str) -> Art:
        """The drawing with this id."""
        try:
            return self.kept(("art", id), lambda: Art.model_validate_json(self.asset(id)))
        except Refusal:
            if not self._forgiving:
                raise
            return NOTHING

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
            self._ever.add(id)
            if id in self._made:
                self._made.move_to_end(id)
                return id
            self._made[id] = (media, data)
            self._made_bytes += len(data)
            if self._made_bytes > self._most_made:
                held = frozenset().union(*self._holders.values())
                for old in [i for i in self._made if i not in held and i != id]:
                    self._made_bytes -= len(self._made.pop(old)[1])
                    if self._made_bytes <= self._most_made:
                        break
        return id

    def kept(self, key: Hashable, make: Callable[[], Held]) -> Held:
        """What was made for this key before; else it is made now and kept for a while."""
        with self._lock:
            if key in self._kept:
                found: Held = self._kept[key][0]
                # An asset that was let go in the meantime is made anew.
                if not (isinstance(found, str) and found in self._ever and found not in self._made):
                    self._kept.move_to_end(key)
                    return found
        value = make()
        weight = weight_of(value)
        with self._lock:
            self._kept_bytes += weight - self._kept.pop(key, (None, 0))[1]
            self._kept[key] = (value, weight)
            while self._kept_bytes > self._most_kept and len(self._kept) > 1:
                self._kept_bytes -= self._kept.popitem(last=False)[1][1]
        return value

    def _pixels(self, picture: str) -> NDArray[np.uint8]:
        try:
            return pixels_of(opened(self.asset(picture), picture), picture)
        except Refusal:
            if not self._forgiving:
                raise
            return np.zeros((1, 1, 4), np.uint8)


def weight_of(value: Any) -> int:
    """About how many bytes a value takes up: arrays and matrices as they say, everything else by its parts."""
    match value:
        case np.ndarray():
            return int(value.nbytes)
        case str() | bytes():
            return 50 + len(value)
        case None | bool() | int() | float() | complex():
            return 32
        case tuple() | list() if value and isinstance(value[0], int | float):
            return 56 + 32 * len(value)
        case tuple() | list() | set() | frozenset():
            return 56 + sum(8 + weight_of(v) for v in value)
        case dict():
            return 64 + sum(weight_of(k) + weight_of(v) for k, v in value.items())
    parts = getattr(value, "__dict__", None)
    if parts is None:
        # A factorisation, say, which tells only its size.
        return 16 * int(getattr(value, "nnz", 64))
    return 64 + sum(weight_of(v) for v in parts.values())
