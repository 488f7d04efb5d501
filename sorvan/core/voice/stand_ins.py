"""What fills in for the mouths that a set lacks, and where that is heard."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from sorvan.core.model.puppet import Mouth, MouthChart, MouthGroup
from sorvan.core.model.voice import Voice
from sorvan.core.voice.charting import word_at
from sorvan.core.voice.mouths import missing, override
from sorvan.core.voice.phonemes import ARPABET, bare, sound


@dataclass(frozen=True)
class StandIn:
    """The mouth that fills in for a group; the `sounds` that would take a mouth of that group first, and a word in which
    the first of them is heard."""

    mouth: Mouth
    sounds: tuple[str, ...]
    heard: str | None


def stand_ins(chart: MouthChart, lines: Iterable[Voice]) -> dict[MouthGroup, StandIn]:
    """For each group that the set lacks what fills in for its sounds, leaving out those that the chart's own table
    gives to a mouth. A group with no such sounds lacks nothing; “rest” is for pauses."""
    heard = [(line, phone.label, phone.start) for line in lines for phone in line.chart.phones.values()]
    labels = {**dict.fromkeys(ARPABET), **{bare(label): None for _, label, _ in heard if label.strip()}}
    found: dict[MouthGroup, StandIn] = {}
    for group, mouth in missing(chart).items():
        own = [s for s in labels if sound(s).mouths[0][0] == group and override(chart, s) is None]
        word = next((word_at(line, at) for line, label, at in heard if bare(label) in own), "")
        if own or group == "rest":
            found[group] = StandIn(mouth, tuple(own), word or None)
    return found
