"""What every letter to a page is made of: how it is sent, and what is drawn in some frames."""

from __future__ import annotations

from typing import Any

import msgspec

from sorvan.core.model.base import Value

_encode = msgspec.msgpack.Encoder().encode
KEPT_ENCODED = 4_000_000
"""Bytes from which on a letter is written anew for each window: it would be held twice."""


class Letter(Value):
    """Something the service tells a window."""

    def wire(self) -> dict[str, Any]:
        """What is sent: the fields that were given."""
        return {"type": self.type, **self.model_dump(exclude_unset=True)}  # type: ignore[attr-defined]

    def encoded(self) -> bytes:
        """What is sent, as MessagePack; of a letter to many, which is small as a rule, it is made once."""
        known = self.__dict__.get("_encoded")
        if known is None:
            known = _encode(self.wire())
            if len(known) < KEPT_ENCODED:
                self.__dict__["_encoded"] = known
        return known  # type: ignore[no-any-return]


class ItemView(Value):
    """One thing to draw. `rest` is the drawing (of `arts`) that shows at rest; `masks` name items
    that it shows only inside of (True) or outside of."""

    rest: int
    puppet: str
    piece: str
    arts: tuple[str, ...]
    boxes: tuple[tuple[float, float, float, float], ...]
    hidden: bool
    opacity: float
    masks: tuple[tuple[int, bool], ...]


class BentPoints(Value):
    """Where the points of a drawing of an item lie that bends, or becomes another: frames × points × x y. One that
    becomes another has points only in these `frames` (int32, counted from the first that is sent), and looks
    otherwise in each: so many numbers a frame (`looks` float32, in the order in which its nodes are met)."""

    item: int
    drawing: int
    count: int
    data: bytes
    frames: bytes | None = None
    looks: bytes | None = None


class Drawn(Value):
    """What to draw in some frames: `matrices` frames × items × 6; `shown` int16, frames × items, which
    drawing; `order` int16, which item is the n-th from the back; `opacity` float32, the part of its own
    that each item has (all three left out where all is as at rest); for each limb that reaches its joints when only turned, when only
    reaching (frames × joints × x y), and the blend in percent."""

    matrices: bytes
    shown: bytes | None = None
    order: bytes | None = None
    opacity: bytes | None = None
    points: tuple[BentPoints, ...] = ()
    reached: dict[str, tuple[bytes, bytes, bytes]] = {}


class Posed(Drawn):
    """The same, and where the joints are: frames × joints × 6."""

    worlds: bytes
