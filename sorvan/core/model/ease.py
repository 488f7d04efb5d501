"""Eases: how a value gets from one key to the next, in the vocabulary of the W3C CSS easing functions."""

from __future__ import annotations

import itertools
from typing import Annotated, Literal

from pydantic import Field

from sorvan.core.model.base import Checked, Value


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


FamilyName = Literal["quadratic", "cubic", "quartic", "sine", "circular", "back", "elastic", "bounce"]


class Family(Value):
    """A curve of a known family, slow out of the first key, slow into the second, or both.

    `amount` belongs to two of them: how far a `back` overshoots (the published factor, 1.70158 by
    default), and how much of the gap one swing of an `elastic` takes (0.3 by default).
    """

    kind: Literal["family"] = "family"
    family: FamilyName
    slow: Literal["out", "in", "both"] = "both"
    amount: Annotated[float, Field(ge=0.05, le=10)] | None = None


Share = Annotated[float, Field(gt=0, lt=1)]
Progressed = Annotated[float, Field(ge=-10, le=11)]


class SpacingChart(Checked):
    """A timing chart: how far the value has come at shares of the gap's time, even between them.

    It is the CSS `linear()` function, and keeps its shape when the gap is retimed. A tick of a chart
    drawn by hand lies where an in-between falls: at its frame's share of the gap.
    """

    kind: Literal["chart"] = "chart"
    ticks: Annotated[tuple[tuple[Share, Progressed], ...], Field(min_length=1, max_length=480)]

    def check(self) -> None:
        times = [t for t, _ in self.ticks]
        if any(b <= a for a, b in itertools.pairwise(times)):
            raise ValueError("the ticks of a timing chart come one after another")


Ease = Annotated[Even | Hold | Slow | Bezier | Family | SpacingChart, Field(discriminator="kind")]
