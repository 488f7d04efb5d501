"""The mouth chart: which of a puppet's drawings, or of a dial's places, takes which sound."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from sorvan.core.model.base import Checked, Id, Name, Number, Ratio, Value, filed
from sorvan.core.model.channels import channel_id
from sorvan.core.model.times import Time

PLAIN = "plain"
"""The mood that every set has."""


MouthGroup = Literal[
    "rest", "pressed", "tucked", "narrow", "tongue up", "wide", "half open", "open", "round open", "pucker"
]  # fmt: skip
"""The ten kinds of mouth that a set usually has."""


class Mouth(Value):
    """One mouth of a set. `look` is how open and wide it is, how round, how much teeth and tongue show (0 to 1).
    `group` is which of the usual ones it is, if it is one; one that doesn't `speak` takes no sound by itself.

    `shows` has, by mood, the numbers of its drawings, or the places of the dial; several are shown one after
    the other from its beginning, and the last stays.
    """

    id: Id
    name: Name
    look: tuple[Ratio, Ratio, Ratio, Ratio, Ratio]
    group: MouthGroup | None = None
    speaks: bool = True
    shows: dict[Name, Annotated[tuple[Number, ...], Field(max_length=24)]] = {}


class MouthChart(Checked):
    """The mouths of a puppet: drawings of a `piece`, or places of a `dial`.

    `sounds` says, by the label of a sound, which mouth takes it where that is not its usual one. A mouth
    that moves shows its next drawing after so many frames (`every`). Over so many frames each mouth is
    blended into the next (`blend`). `backing` is the colour behind the thumbnails.
    """

    piece: Id | None = None
    dial: Id | None = None
    moods: Annotated[tuple[Name, ...], Field(min_length=1, max_length=8)] = (PLAIN,)
    mouths: Annotated[dict[Id, Mouth], Field(max_length=24)] = {}
    sounds: dict[Annotated[str, Field(max_length=24)], Id] = {}
    every: Annotated[int, Field(ge=1, le=12), Time.LASTS] = 2
    blend: Annotated[int, Field(ge=0, le=3), Time.LASTS] = 0
    backing: Annotated[str, Field(pattern=r"^#[0-9a-f]{8}$")] = "#f3d9c2ff"

    def check(self) -> None:
        filed("mouth", self.mouths)
        if (self.piece is None) == (self.dial is None):
            raise ValueError("a mouth chart is for the drawings of a piece, or for a dial")
        if self.moods[0] != PLAIN or len(set(self.moods)) != len(self.moods):
            raise ValueError(f"the first mood is called “{PLAIN}”, and no two are called the same")
        for label, taker in self.sounds.items():
            if taker not in self.mouths:
                raise ValueError(f"the sound “{label}” is taken by a mouth that is not there")
        for mouth in self.mouths.values():
            if not mouth.shows.keys() <= set(self.moods):
                raise ValueError(f"“{mouth.name}” has drawings for a mood that is not there")

    @property
    def channel(self) -> str:
        """The channel that its mouths are keyed on."""
        return channel_id(self.piece, "show") if self.piece is not None else channel_id(str(self.dial), "dial")
