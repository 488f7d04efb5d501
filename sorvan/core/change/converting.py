"""Another frame rate for a whole production, so that everything keeps its time: keys go to the nearest frame."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal, TypeVar

from sorvan.core.change.command import Command
from sorvan.core.errors import Refusal
from sorvan.core.model.channel import Key
from sorvan.core.model.documents import Documents
from sorvan.core.model.motion import Motion
from sorvan.core.model.production import Rate
from sorvan.core.model.puppet import Puppet
from sorvan.core.model.shot import Shot
from sorvan.core.model.times import LONGEST, Moving, moved, nearest
from sorvan.core.timing.rates import per_second

Held = TypeVar("Held")


@dataclass
class Tally:
    """What another rate does to the keys of one motion, shot or pose book: how many there are, how many would fall between
    two frames and go to the nearer, and how many give way to another that goes to the same."""

    name: str
    keys: int = 0
    between: int = 0
    lost: int = 0


@dataclass
class Conversion:
    """Documents at another rate, and what it does to the keys of each motion, shot and pose book that has any."""

    documents: Documents
    tallies: list[Tally] = field(default_factory=list)


@dataclass(frozen=True)
class _Counting(Moving):
    """Where time goes, and what that does to keys."""

    tally: Tally = field(default_factory=lambda: Tally(""))

    def filed(self, held: Mapping[int, Held]) -> dict[int, Held]:
        """What is filed by frames, by those that it goes to; of keys it is counted how they fare."""
        found = super().filed(held)
        if any(isinstance(value, Key) for value in held.values()):
            self.tally.keys += len(held)
            self.tally.between += sum(frame * self.part != self.place(frame) for frame in held)
            self.tally.lost += len(held) - len(found)
        return found


def converted(documents: Documents, rate: Rate) -> Conversion:
    """All that is there at another rate, in the same time (to the nearest frame).

    Raises `Refusal` if something would have more frames than there can be.
    """
    part = per_second(rate) / per_second(documents.production.rate)
    found = Conversion(documents.with_(documents.production.changed(rate=rate)))
    if part == 1:
        return found
    usual = Moving.at_rate(part)
    timed: list[Puppet | Motion | Shot] = [*documents.puppets(), *documents.motions(), *documents.all_shots()]
    for document in timed:
        for name, frames in _lasting(document):
            _there_can_be(nearest(frames * part), name)
        tally = Tally(document.name)
        found.documents = found.documents.with_(moved(document, _Counting(usual.place, usual.until, part, tally)))
        found.tallies += [tally] if tally.keys else []
    return found


def _lasting(document: Puppet | Motion | Shot) -> list[tuple[str, int]]:
    """What of a document lasts, by name, and how many frames."""
    if isinstance(document, Puppet):
        return [(e.name, e.frames) for e in document.book.values()]
    return [(document.name, document.length)]


def _there_can_be(frames: int, name: str) -> None:
    """Raises `Refusal` if nothing can have so many frames."""
    if frames > LONGEST:
        raise Refusal(
            f"“{name}” would have {frames:,} frames; there are {LONGEST:,} at most.",
            where=name,
            remedy="Make it shorter first, or take it apart.",
        )


class ConvertRate(Command):
    """Give the production another frame rate, and everything in it as many frames as keep its time."""

    do: Literal["convert-rate"] = "convert-rate"
    rate: Rate

    def result(self, documents: Documents) -> Documents:
        return converted(documents, self.rate).documents

    def label(self, documents: Documents) -> str:
        return f"Convert to {float(per_second(self.rate)):.6g} frames a second"
