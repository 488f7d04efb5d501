"""The kinds of channels, in one table: all that is said of a kind is said here."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal, NamedTuple, get_args

ChannelKind = Literal["turn", "move", "scale", "show", "order", "opacity", "reach", "dial"]
Owner = Literal["joint", "piece", "chain", "dial"]
"""What a channel belongs to: a joint, a handle or the puppet as a whole; a piece; a chain; a dial."""
Law = Literal["sum", "product", "share", "choice"]
"""How a value lies over another: it is added, it multiplies it, it takes so much of it (percent, and from 100 on gives so
much of what is lacking), or it stands instead of it."""
CarriedAs = Literal["turned", "placed", "drawn", "ranged", "same"]
"""What becomes of a value on another puppet: it goes the same way round, into its space and size, to the drawing that
answers, as far along the range, or stays."""

AS_AT_REST = -1.0
"""What a `show` channel holds for the drawing that shows at rest."""


@dataclass(frozen=True)
class Facts:
    """What is so of a kind of channel: what it belongs to, what it holds when nothing is keyed, in which unit; how it lies
    over another, and whether it is `chosen`, never half chosen; whether dials drive it; what becomes of it on another
    puppet; below which change nobody sees that it jumps (none: it is meant to); between which ends it is `typed` (none:
    anything); and what it is `called` on the page."""

    owner: Owner
    neutral: tuple[float, ...]
    unit: str
    law: Law
    called: str
    carried: CarriedAs = "same"
    chosen: bool = False
    driven: bool = True
    unseen: float | None = None
    typed: tuple[float, float] | None = None


KINDS: dict[ChannelKind, Facts] = {
    "turn": Facts("joint", (0.0,), "degrees", "sum", "turn", "turned", unseen=1.0),
    "move": Facts("joint", (0.0, 0.0), "units", "sum", "place", "placed", unseen=1.0),
    "scale": Facts("joint", (1.0, 1.0), "times its size", "product", "size", unseen=0.01, typed=(0.01, 100.0)),
    "show": Facts("piece", (AS_AT_REST,), "", "choice", "drawing", "drawn", chosen=True),
    "order": Facts("piece", (0.0,), "", "sum", "in front", chosen=True, typed=(-500.0, 500.0)),
    "opacity": Facts("piece", (100.0,), "percent", "share", "opacity", unseen=5.0, typed=(0.0, 100.0)),
    "reach": Facts("chain", (100.0,), "percent", "share", "reach", driven=False, unseen=5.0, typed=(0.0, 100.0)),
    "dial": Facts("dial", (0.0,), "", "sum", "dial", "ranged", driven=False, unseen=2.0),
}
"""By kind: no turn, no move, whole size, the drawing of the rest, no place farther to the front, as opaque as the piece
is, the limb reaching all the way; a dial stands at its own rest."""

NEUTRAL: dict[ChannelKind, tuple[float, ...]] = {kind: facts.neutral for kind, facts in KINDS.items()}
CHOICES: frozenset[ChannelKind] = frozenset(kind for kind, facts in KINDS.items() if facts.chosen)
"""Kinds whose values are chosen, never half chosen and never added up round by round."""
assert KINDS.keys() == set(get_args(ChannelKind))


class ChannelId(NamedTuple):
    """What a channel goes by: one for each owner and kind."""

    owner: str
    kind: ChannelKind

    @classmethod
    def of(cls, text: str) -> ChannelId:
        """As it is written."""
        owner, _, kind = text.rpartition(".")
        return cls(owner, kind)  # type: ignore[arg-type]

    def __str__(self) -> str:
        return f"{self.owner}.{self.kind}"


def channel_id(owner: str, kind: str) -> str:
    """The id of a channel as it is written."""
    return f"{owner}.{kind}"


def owner_of(channel: str) -> str:
    """What a channel belongs to."""
    return ChannelId.of(channel).owner


def kind_of(channel: str) -> Any:
    """The kind that a channel id speaks of."""
    return ChannelId.of(channel).kind


def belongs_to(kind: str) -> Owner | None:
    """What has channels of a kind; nothing, if there is no such kind."""
    return KINDS[kind].owner if kind in KINDS else None  # type: ignore[index]
