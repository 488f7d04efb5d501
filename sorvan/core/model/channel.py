"""Channels: one value over time, by its keys."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, field_validator

from sorvan.core.model.base import Checked, Id, Number, Pair, Value
from sorvan.core.model.channels import CHOICES, KINDS, ChannelKind, channel_id
from sorvan.core.model.ease import Ease, Even
from sorvan.core.model.times import LONGEST, Frame, Time

DrawingChange = Literal["hold", "cut", "morph"]
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
    change: DrawingChange | None = None
    recipe: Id | None = None
    slot: Annotated[int, Field(ge=0, lt=LONGEST)] | None = None
    hand: bool = False

    def by_hand(self, **given: Any) -> Key:
        """This key changed by hand, whose it is from then on."""
        return self.changed(**given, hand=True) if self.recipe is not None else self.changed(**given)


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
    delay: Annotated[float, Field(ge=-1000, le=1000), Time.LASTS] = 0.0
    keys: Annotated[dict[Frame, Key], Time.FILED] = {}

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
            if len(key.value) != len(KINDS[self.kind].neutral):
                raise ValueError(
                    f"a {self.kind} key has {len(KINDS[self.kind].neutral)} numbers; frame {frame + 1} has {len(key.value)}"
                )
            if key.tangents is not None and self.kind != "move":
                raise ValueError(f"only the path of a place can be smooth, not a {self.kind}")
            if key.change is not None and self.kind != "show":
                raise ValueError(f"only a drawing can become another, not a {self.kind}")
