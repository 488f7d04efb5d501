"""Commands on a line's phoneme chart."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from sorvan.core.change.voices import LineCommand
from sorvan.core.errors import Refusal
from sorvan.core.model.base import Id
from sorvan.core.model.documents import Documents
from sorvan.core.model.voice import Chart, Seconds, Voice, Word
from sorvan.core.timing.rates import per_second
from sorvan.core.voice import charting
from sorvan.core.voice.charting import Tier

ChartText = Annotated[str, Field(max_length=80)]


class SetChart(LineCommand):
    """Put a chart in place of the one a line has, with the text, the language and the pronunciations it was found by."""

    do: Literal["set-chart"] = "set-chart"
    chart: Chart
    text: Annotated[str, Field(max_length=40_000)] | None = None
    language: str | None = None

    def on(self, voice: Voice) -> Voice:
        given = {f: v for f in ("text", "language") if (v := getattr(self, f)) is not None}
        return voice.changed(chart=self.chart, **given)

    def said(self, voice: Voice) -> str:
        how = {
            "text": "Find the sounds of", "voice": "Find the sounds of", "loudness": "Find loudness in",
            "file": "Read the chart of", "hand": "Set the chart of", "none": "Empty the chart of",
        }  # fmt: skip
        return f"{how[self.chart.source]} “{voice.name}”"


class MoveBoundary(LineCommand):
    """Move the time (seconds) at which a word or a sound begins `to` another, or `by` so much; the one before it ends
    there, and a boundary of the other tier at the same place goes along.

    With `snap` it goes to the nearest frame of the motion named by `on_motion`, on which the line is placed as
    `sound`.
    """

    do: Literal["move-boundary"] = "move-boundary"
    tier: Tier
    entry: Id
    to: float | None = None
    by: float | None = None
    snap: bool = False
    on_motion: Id | None = None
    sound: Id | None = None

    def result(self, documents: Documents) -> Documents:
        voice = documents.voice(self.voice)
        return documents.with_(voice.changed(chart=charting.moved(voice, self.tier, self.entry, self._to(documents))))

    def _to(self, documents: Documents) -> float:
        held = charting.tier_of(documents.voice(self.voice).chart, self.tier).get(self.entry)
        to = self.to if self.to is not None else (held.start if held else 0.0) + (self.by or 0.0)
        if not self.snap or self.on_motion is None:
            return to
        rate = per_second(documents.production.rate)
        placed = documents.motion(self.on_motion).sounds.get(self.sound or "")
        at = placed.at if placed is not None else 0.0
        return float(round((at + to) * float(rate)) / rate) - at

    def on(self, voice: Voice) -> Voice:
        raise TypeError("where a boundary goes depends on more than its line")

    def said(self, voice: Voice) -> str:
        held = charting.tier_of(voice.chart, self.tier).get(self.entry)
        name = (held.text if isinstance(held, Word) else held.label if held else "") or "a pause"
        return f"Move where “{name}” begins"


class SplitEntry(LineCommand):
    """Cut a word or sound in two at a time (seconds); the second part is `called` so."""

    do: Literal["split-entry"] = "split-entry"
    tier: Tier
    entry: Id
    new: Id
    at: Seconds
    called: ChartText = ""

    def on(self, voice: Voice) -> Voice:
        return voice.changed(chart=charting.split(voice, self.tier, self.entry, self.at, self.new, self.called))

    def said(self, voice: Voice) -> str:
        return f"Split a {'word' if self.tier == 'words' else 'sound'} of “{voice.name}”"


class MergeEntry(LineCommand):
    """Take away the boundary at which a word or sound begins; the one before it goes on."""

    do: Literal["merge-entry"] = "merge-entry"
    tier: Tier
    entry: Id

    def on(self, voice: Voice) -> Voice:
        return voice.changed(chart=charting.merged(voice, self.tier, self.entry))

    def said(self, voice: Voice) -> str:
        return f"Merge two {'words' if self.tier == 'words' else 'sounds'} of “{voice.name}”"


class LabelEntry(LineCommand):
    """Call a word or sound otherwise; nothing is a pause."""

    do: Literal["label-entry"] = "label-entry"
    tier: Tier
    entry: Id
    called: ChartText

    def on(self, voice: Voice) -> Voice:
        if self.tier == "phones" and len(self.called.strip()) > 24:
            raise Refusal("That is too long for a sound.", where=self.called[:24], remedy="At most 24 letters fit.")
        return voice.changed(chart=charting.relabelled(voice, self.tier, self.entry, self.called))

    def said(self, voice: Voice) -> str:
        return f"Call a {'word' if self.tier == 'words' else 'sound'} “{self.called or 'pause'}”"


class PutEntry(LineCommand):
    """Let a word or sound begin at a time (seconds), as when somebody taps along."""

    do: Literal["put-entry"] = "put-entry"
    tier: Tier
    entry: Id
    at: Seconds
    called: ChartText = ""

    def on(self, voice: Voice) -> Voice:
        return voice.changed(chart=charting.put(voice, self.tier, self.entry, self.at, self.called))

    def said(self, voice: Voice) -> str:
        return f"Tap “{self.called or 'pause'}” into “{voice.name}”"


class SetAccent(LineCommand):
    """Say whether a word bears an accent; None leaves it to be worked out."""

    do: Literal["set-accent"] = "set-accent"
    entry: Id
    accent: bool | None

    def on(self, voice: Voice) -> Voice:
        word = charting.entry(voice, "words", self.entry)
        words = {**voice.chart.words, self.entry: word.changed(accent=self.accent)}
        return voice.changed(chart=voice.chart.changed(words=words))

    def said(self, voice: Voice) -> str:
        return f"{'Stress' if self.accent else 'Do not stress'} a word of “{voice.name}”"


ChartCommand = SetChart | MoveBoundary | SplitEntry | MergeEntry | LabelEntry | PutEntry | SetAccent
