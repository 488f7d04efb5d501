"""The motion: channels of keys, and the eases between them."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, field_validator

from sorvan.core.model.base import Checked, Id, Name, Number, Value

LONGEST = 20_000
"""Frames in the longest motion: a quarter of an hour at 24 frames a second."""

Frame = Annotated[int, Field(ge=0, lt=LONGEST)]


class Even(Value):
    """Equal steps: the CSS `linear` keyword."""

    kind: Literal["even"] = "even"


class Hold(Value):
    """The value stays until the next key: CSS `steps(1, jump-end)`."""

    kind: Literal["hold"] = "hold"


class Slow(Value):
    """Slow out of the first key and slow into the second, each in percent; 0/0 is even again.

    The percentages are how far the handles of a CSS `cubic-bezier()` reach in time:
    `cubic-bezier(out/100, 0, 1 - in/100, 1)`.
    """

    kind: Literal["slow"] = "slow"
    out: Annotated[float, Field(ge=0, le=100)] = 0.0
    into: Annotated[float, Field(ge=0, le=100)] = 0.0


class Bezier(Value):
    """A CSS `cubic-bezier(x1, y1, x2, y2)` (CSS Easing Functions Level 2, §2.2)."""

    kind: Literal["bezier"] = "bezier"
    x1: Annotated[float, Field(ge=0, le=1)]
    y1: Annotated[float, Field(ge=-10, le=10)]
    x2: Annotated[float, Field(ge=0, le=1)]
    y2: Annotated[float, Field(ge=-10, le=10)]


Ease = Annotated[Even | Hold | Slow | Bezier, Field(discriminator="kind")]

ChannelKind = Literal["turn", "move", "scale", "show", "reach", "dial"]
ARITY: dict[ChannelKind, int] = {"turn": 1, "move": 2, "scale": 2, "show": 1, "reach": 1, "dial": 1}
AS_AT_REST = -1.0
"""What a `show` channel holds for the drawing that shows at rest."""
NEUTRAL: dict[ChannelKind, tuple[float, ...]] = {
    "turn": (0.0,),
    "move": (0.0, 0.0),
    "scale": (1.0, 1.0),
    "show": (AS_AT_REST,),
    "reach": (100.0,),
    "dial": (0.0,),
}
"""What a channel holds when nothing is keyed: no turn (degrees), no move (units), whole size, the
drawing of the rest, the limb reaching all the way (percent). A dial stands at its own rest."""

CHOICES: frozenset[ChannelKind] = frozenset({"show"})
"""Kinds whose values are chosen, never half chosen and never added."""

Outside = Literal["hold", "repeat", "repeat-and-add", "back-and-forth"]


class Key(Value):
    """A value at a frame, and the ease of the gap that starts here."""

    value: Annotated[tuple[Number, ...], Field(min_length=1, max_length=2)]
    ease: Ease = Even()


def channel_id(joint: str, kind: ChannelKind) -> str:
    """The name a channel goes by: one for each owner and kind.

    Turn, move and scale belong to a joint or handle, show to a piece, reach to a chain, dial to
    a dial.
    """
    return f"{joint}.{kind}"


class Channel(Checked):
    """One value over time of what `joint` names: a joint's is added to its rest (a scale multiplied)."""

    joint: Id
    kind: ChannelKind
    outside: Outside = "hold"
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
        if self.kind in CHOICES and self.outside == "repeat-and-add":
            raise ValueError("a drawing is chosen, so there is nothing to add in each round")
        for frame, key in self.keys.items():
            if len(key.value) != ARITY[self.kind]:
                raise ValueError(
                    f"a {self.kind} key has {ARITY[self.kind]} numbers; frame {frame + 1} has {len(key.value)}"
                )


class Motion(Checked):
    """A timed performance of one puppet. In a cycle, frame `length` is frame 0 again."""

    kind: Literal["motion"] = "motion"
    id: Id
    name: Name
    puppet: Id
    length: Annotated[int, Field(ge=1, le=LONGEST)] = 48
    cycle: bool = False
    channels: dict[str, Channel] = {}

    def check(self) -> None:
        for id, channel in self.channels.items():
            if id != channel.id:
                raise ValueError(f"the channel “{channel.id}” is filed under “{id}”")

    def with_channels(self, *channels: Channel) -> Motion:
        """This motion with these channels in place of those that had their ids; one without keys goes."""
        found = {**self.channels, **{c.id: c for c in channels}}
        return self.changed(channels={id: c for id, c in found.items() if c.keys})
