"""Dials: named controls that drive channels."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from sorvan.core.model.base import Checked, Id, Name, Number, Value


class DialStop(Value):
    """What channels hold when a dial stands at `at`: turns and moves are added, scales multiplied,
    a `show` chooses the drawing from here on, an `order` how far to the front."""

    at: Number
    values: dict[str, Annotated[tuple[Number, ...], Field(min_length=1, max_length=2)]] = {}


class Dial(Checked):
    """A named control that drives channels through its stops. At `rest` it changes nothing."""

    id: Id
    name: Name
    low: Number = 0.0
    high: Number = 100.0
    rest: Number = 0.0
    stops: Annotated[tuple[DialStop, ...], Field(max_length=64)] = ()

    def check(self) -> None:
        if not self.low < self.high or not self.low <= self.rest <= self.high:
            raise ValueError("a dial's rest must lie between its two ends")
