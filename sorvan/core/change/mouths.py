"""Commands on a puppet's mouth chart."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from sorvan.core.change.command import PuppetCommand
from sorvan.core.errors import Refusal, missing
from sorvan.core.model.base import Id, Name, Number
from sorvan.core.model.puppet import Mouth, MouthChart, MouthGroup, Puppet
from sorvan.core.rig.skeleton import piece
from sorvan.core.voice.mouth_names import by_name
from sorvan.core.voice.mouths import proposed, proposed_dial
from sorvan.core.voice.phonemes import LOOKS


def chart_of(puppet: Puppet) -> MouthChart:
    """The puppet's mouth chart. Raises `Refusal` if it has none."""
    if puppet.mouths is None:
        raise Refusal(
            "This puppet has no mouth chart.", where=puppet.name, remedy="Choose the piece whose drawings are mouths."
        )
    return puppet.mouths


def _mouth(chart: MouthChart, id: str) -> Mouth:
    if id not in chart.mouths:
        raise missing("mouth", id)
    return chart.mouths[id]


class ProposeMouths(PuppetCommand):
    """Make a mouth chart for the drawings of a piece, or for the stops of a dial, by the names of what they show."""

    do: Literal["propose-mouths"] = "propose-mouths"
    piece: Id | None = None
    dial: Id | None = None

    def on(self, puppet: Puppet) -> Puppet:
        if self.dial is not None:
            if self.dial not in puppet.dials:
                raise missing("dial", self.dial)
            dial = puppet.dials[self.dial]
            if len(dial.stops) < 2:
                raise Refusal(
                    f"“{dial.name}” has fewer than two stops.", remedy="Keep a pose on it for each mouth first."
                )
            return puppet.changed(mouths=proposed_dial(puppet, dial))
        if self.piece is None:
            raise Refusal("Nothing is chosen.", remedy="Choose the piece, or the dial, that has the mouths.")
        held = piece(puppet, self.piece)
        if len(held.drawings) < 2:
            raise Refusal(
                f"“{held.name}” has only one drawing.",
                remedy="Add its other mouths as drawings on the Pieces bench first.",
            )
        return puppet.changed(mouths=proposed(held))

    def said(self, puppet: Puppet) -> str:
        held = puppet.pieces.get(self.piece or "") or puppet.dials.get(self.dial or "")
        return f"Make a mouth chart of “{held.name if held else puppet.name}”"


class SetMouths(PuppetCommand):
    """Set a puppet's mouth chart whole, or take it away."""

    do: Literal["set-mouths"] = "set-mouths"
    chart: MouthChart | None

    def on(self, puppet: Puppet) -> Puppet:
        return puppet.changed(mouths=self.chart)

    def said(self, puppet: Puppet) -> str:
        return f"{'Set' if self.chart else 'Remove'} the mouth chart of “{puppet.name}”"


class SetMouth(PuppetCommand):
    """Change a mouth of the chart, or add one: its name, what is seen of it, and what shows it in a mood. A `group`
    that it is told, or a new name that tells one, gives it that one's look."""

    do: Literal["set-mouth"] = "set-mouth"
    mouth: Id
    name: Name | None = None
    look: tuple[float, float, float, float, float] | None = None
    group: MouthGroup | None = None
    speaks: bool | None = None
    mood: Name = "plain"
    shows: Annotated[tuple[Number, ...], Field(max_length=24)] | None = None

    def on(self, puppet: Puppet) -> Puppet:
        chart = chart_of(puppet)
        held = chart.mouths.get(self.mouth)
        if held is None:
            held = Mouth(id=self.mouth, name=self.name or self.mouth, look=LOOKS["half open"])
        given = {f: v for f in ("name", "look", "speaks") if (v := getattr(self, f)) is not None}
        group = self.group or (by_name(self.name).group if self.name is not None else None)
        if group is not None:
            given["group"] = group
            given.setdefault("look", LOOKS[group])
            given.setdefault("speaks", True)
        if self.shows is not None:
            self._there(puppet, chart)
            shows = {**held.shows, self.mood: self.shows}
            given["shows"] = {mood: values for mood, values in shows.items() if values}
        return puppet.changed(mouths=chart.changed(mouths={**chart.mouths, self.mouth: held.changed(**given)}))

    def _there(self, puppet: Puppet, chart: MouthChart) -> None:
        if chart.piece is None:
            return
        numbers = {d.number for d in puppet.pieces[chart.piece].drawings}
        for value in self.shows or ():
            if value not in numbers:
                raise missing("drawing", f"{value:g}")

    def said(self, puppet: Puppet) -> str:
        held = puppet.mouths.mouths.get(self.mouth) if puppet.mouths else None
        if held is None:
            return f"Add mouth “{self.name or self.mouth}”"
        return f"Rename mouth “{held.name}”" if self.name else f"Set mouth “{held.name}”"


class RemoveMouth(PuppetCommand):
    """Take a mouth out of the chart; its drawings stay."""

    do: Literal["remove-mouth"] = "remove-mouth"
    mouth: Id

    def on(self, puppet: Puppet) -> Puppet:
        chart = chart_of(puppet)
        _mouth(chart, self.mouth)
        return puppet.changed(
            mouths=chart.changed(
                mouths={id: m for id, m in chart.mouths.items() if id != self.mouth},
                sounds={s: m for s, m in chart.sounds.items() if m != self.mouth},
            )
        )

    def said(self, puppet: Puppet) -> str:
        held = puppet.mouths.mouths.get(self.mouth) if puppet.mouths else None
        return f"Remove mouth “{held.name if held else self.mouth}”"


class GiveSounds(PuppetCommand):
    """Let sounds, by their labels, be taken by a mouth; without one by the usual."""

    do: Literal["give-sounds"] = "give-sounds"
    labels: Annotated[tuple[Annotated[str, Field(min_length=1, max_length=24)], ...], Field(min_length=1)]
    mouth: Id | None

    def on(self, puppet: Puppet) -> Puppet:
        chart = chart_of(puppet)
        kept = {s: m for s, m in chart.sounds.items() if s not in self.labels}
        if self.mouth is not None:
            _mouth(chart, self.mouth)
            kept |= dict.fromkeys(self.labels, self.mouth)
        return puppet.changed(mouths=chart.changed(sounds=kept))

    def said(self, puppet: Puppet) -> str:
        chart = puppet.mouths
        held = chart.mouths.get(self.mouth) if chart and self.mouth else None
        return f"Give {', '.join(self.labels[:4])} {f'to “{held.name}”' if held else 'back their usual mouth'}"


class SetMouthSet(PuppetCommand):
    """Change what holds for all mouths of a chart: its moods, how fast those that move do, how they blend into
    one another, and the colour behind the thumbnails."""

    do: Literal["set-mouth-set"] = "set-mouth-set"
    moods: Annotated[tuple[Name, ...], Field(min_length=1, max_length=8)] | None = None
    every: Annotated[int, Field(ge=1, le=12)] | None = None
    blend: Annotated[int, Field(ge=0, le=3)] | None = None
    backing: str | None = None

    def on(self, puppet: Puppet) -> Puppet:
        chart = chart_of(puppet)
        given = {f: v for f in ("moods", "every", "blend", "backing") if (v := getattr(self, f)) is not None}
        if self.moods is not None:
            given["mouths"] = {
                id: m.changed(shows={mood: v for mood, v in m.shows.items() if mood in self.moods})
                for id, m in chart.mouths.items()
            }
        return puppet.changed(mouths=chart.changed(**given))

    def said(self, puppet: Puppet) -> str:
        return "Set the moods of the mouths" if self.moods is not None else "Set how mouths are shown"


MouthCommand = ProposeMouths | SetMouths | SetMouth | RemoveMouth | GiveSounds | SetMouthSet
