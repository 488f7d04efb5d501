"""Dials: named controls that drive channels."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from sorvan.core.kept import kept
from sorvan.core.model.base import Checked, Id, Name, Number, Ratio, Value
from sorvan.core.model.puppet.joint import Role


class DialStop(Value):
    """What channels hold when a dial stands at `at`: turns and moves are added, scales multiplied,
    a `show` chooses the drawing from here on, an `order` how far to the front.

    On a turnaround a stop is a view with a `name`. One that `flips` shows the puppet in the mirror. One that is made
    `of` another holds what that does, and its own values over them. Turns of motions are made smaller to the
    `shorten`-th part, as what swings towards the eye looks shorter; those of joints of a role to the part that
    `by_role` tells.
    """

    at: Number
    values: dict[str, Annotated[tuple[Number, ...], Field(min_length=1, max_length=2)]] = {}
    name: Annotated[str, Field(max_length=60)] = ""
    flips: bool = False
    of: Number | None = None
    shorten: Ratio = 1.0
    by_role: dict[Role, Ratio] = {}

    def shortens(self, role: Role | None) -> float:
        """To which part turns of joints of this role are made smaller."""
        return self.shorten if role is None else self.by_role.get(role, self.shorten)


class Dial(Checked):
    """A named control that drives channels through its stops. At `rest` it changes nothing.

    One that `turns` is a turnaround: its stops are views all round, in degrees, of which the nearest is seen, or the two
    beside it become one another (`between`). Its view at 0 is the puppet as it is rigged.
    """

    id: Id
    name: Name
    low: Number = 0.0
    high: Number = 100.0
    rest: Number = 0.0
    stops: Annotated[tuple[DialStop, ...], Field(max_length=64)] = ()
    turns: bool = False
    between: Literal["hold", "morph"] = "hold"

    def check(self) -> None:
        if not self.low < self.high or not self.low <= self.rest <= self.high:
            raise ValueError("a dial's rest must lie between its two ends")
        if self.turns:
            self._goes_round()

    def _goes_round(self) -> None:
        if (self.low, self.high, self.rest) != (0.0, 360.0, 0.0):
            raise ValueError("a turnaround goes from 0 to 360 degrees, and rests at 0")
        places = [s.at for s in self.stops]
        if any(not 0 <= p < 360 for p in places) or len(set(places)) != len(places):
            raise ValueError("views lie at different degrees from 0 up to 360")
        own = {s.at for s in self.stops if s.of is None}
        if any(s.of is not None and s.of not in own for s in self.stops):
            raise ValueError("a view can only be made of one that is there, and made of none itself")

    @kept()
    def views(self) -> tuple[DialStop, ...]:
        """The stops in their order, each with all that it holds."""
        return tuple(self.view(s) for s in sorted(self.stops, key=lambda s: s.at))

    def view(self, stop: DialStop) -> DialStop:
        """A view with all that it holds, also of the one it is made of."""
        if stop.of is None:
            return stop
        made_of = next(s for s in self.stops if s.at == stop.of)
        return stop.changed(
            values={**made_of.values, **stop.values},
            shorten=min(stop.shorten, made_of.shorten),
            by_role={**made_of.by_role, **stop.by_role},
        )
