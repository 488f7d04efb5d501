"""Channels: one value over time, by its keys."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, field_validator

from sorvan.core.model.base import Checked, Id, Number, Pair, Value
from sorvan.core.model.ease import Ease, Even

LONGEST = 20_000
"""Frames in the longest motion: a quarter of an hour at 24 frames a second."""

Frame = Annotated[int, Field(ge=0, lt=LONGEST)]

ChannelKind = Literal["turn", "move", "scale", "show", "order", "opacity", "reach", "dial"]
ARITY: dict[ChannelKind, int] = {
    "turn": 1, "move": 2, "scale": 2, "show": 1, "order": 1, "opacity": 1, "reach": 1, "dial": 1,
}  # fmt: skip
AS_AT_REST = -1.0
"""What a `show` channel holds for the drawing that shows at rest."""
NEUTRAL: dict[ChannelKind, tuple[float, ...]] = {
    "turn": (0.0,),
    "move": (0.0, 0.0),
    "scale": (1.0, 1.0),
    "show": (AS_AT_REST,),
    "order": (0.0,),
    "opacity": (100.0,),
    "reach": (100.0,),
    "dial": (0.0,),
}
"""What a channel holds when nothing is keyed: no turn (degrees), no move (units), whole size, the
drawing of the rest, no place farther to the front, as opaque as the piece is (percent of it), the limb
reaching all the way (percent). A dial stands at its own rest."""

CHOICES: frozenset[ChannelKind] = frozenset({"show", "order"})
"""Kinds whose values are chosen, never half chosen and never added."""

OF_PIECES: frozenset[ChannelKind] = frozenset({"show", "order", "opacity"})
"""Kinds that belong to a piece."""

Change = Literal["hold", "cut", "morph"]
"""What a drawing does up to the next key: it stays, it makes room for the next half way (by the ease), or it becomes
the next."""

Outside = Literal["hold", "repeat", "repeat-and-add", "back-and-forth"]


class Tangents(Value):
    """How a path runs through a key: smoothly. A tangent is where the handle of the curve lies, seen
    from the key (units); one that is not given comes out by itself."""

    before: Pair | None = None
    after: Pair | None = None


class Key(Value):
    """A value at a frame, and the ease of the gap that starts here.

    `tangents` make the path of a place smooth through this key; without them it turns sharply here.
    On a `show` channel, `change` says how this drawing gives way to the next; it stays, if nothing is said.
    `recipe` is what wrote the key, as its `slot`-th on this channel; changed by `hand`, it is the
    hand's from then on.
    """

    value: Annotated[tuple[Number, ...], Field(min_length=1, max_length=2)]
    ease: Ease = Even()
    tangents: Tangents | None = None
    change: Change | None = None
    recipe: Id | None = None
    slot: Annotated[int, Field(ge=0, lt=LONGEST)] | None = None
    hand: bool = False

    def by_hand(self, **given: Any) -> Key:
        """This key changed by hand, whose it is from then on."""
        return self.changed(**given, hand=True) if self.recipe is not None else self.changed(**given)


def channel_id(joint: str, kind: ChannelKind) -> str:
    """The name a channel goes by: one for each owner and kind.

    Turn, move and scale belong to a joint or handle, show, order and opacity to a piece, reach to a
    chain, dial to a dial.
    """
    return f"{joint}.{kind}"


class Channel(Checked):
    """One value over time of what `joint` names: a joint's is added to its rest (a scale multiplied).

    `outside` is what it does after its last key, and before its first unless `before` says otherwise.
    All of it comes `delay` frames late. In a cycle keys lie on a ring, so that only a channel that
    repeats and adds has anything outside: its key at the cycle's length says how much each round adds.
    """

    joint: Id
    kind: ChannelKind
    outside: Outside = "hold"
    before: Outside | None = None
    delay: Annotated[float, Field(ge=-1000, le=1000)] = 0.0
    keys: dict[Frame, Key] = {}

    @property
    def id(self) -> str:
        """The name it goes by."""
        return channel_id(self.joint, self.kind)

    @field_validator("keys")
    @classmethod
    def _in_order(cls, keys: dict[int, Key]) -> dict[int, Key]:
        return dict(sorted(keys.items()))

    def check(self) -> None:
        if self.kind in CHOICES and "repeat-and-add" in (self.outside, self.before):
            raise ValueError("what is chosen can't be added in each round")
        for frame, key in self.keys.items():
            if len(key.value) != ARITY[self.kind]:
                raise ValueError(
                    f"a {self.kind} key has {ARITY[self.kind]} numbers; frame {frame + 1} has {len(key.value)}"
                )
            if key.tangents is not None and self.kind != "move":
                raise ValueError(f"only the path of a place can be smooth, not a {self.kind}")
            if key.change is not None and self.kind != "show":
                raise ValueError(f"only a drawing can become another, not a {self.kind}")
