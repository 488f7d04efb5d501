"""Commands on drawings that become others."""

from __future__ import annotations

from abc import abstractmethod
from typing import Annotated, Literal

from pydantic import Field

from sorvan.core.change.command import Command, PuppetCommand, several
from sorvan.core.change.drawings import AddDrawings, drawing
from sorvan.core.change.given import Given
from sorvan.core.change.keys import ChosenKeys, NewKey, SetKeys
from sorvan.core.errors import Refusal, missing
from sorvan.core.model.base import Id, Value
from sorvan.core.model.channel import DrawingChange, Key
from sorvan.core.model.channels import channel_id
from sorvan.core.model.documents import Documents
from sorvan.core.model.ease import Even, Hold
from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import Drawing, Lone, Mark, Morph, Pairing, Piece, Puppet, WayBetween
from sorvan.core.model.times import Frame
from sorvan.core.rig.riding import with_morph
from sorvan.core.rig.skeleton import piece


class MorphCommand(PuppetCommand):
    """A command on how one of a piece's drawings becomes another, and back."""

    piece: Id
    first: Id
    second: Id

    def on(self, puppet: Puppet) -> Puppet:
        held = piece(puppet, self.piece)
        for id in (self.first, self.second):
            drawing(held, id)
        if self.first == self.second:
            raise Refusal("A drawing can't become itself.", where=held.name, remedy="Choose another drawing.")
        return with_morph(puppet, held, self.morphed(_whole(held, self.first, self.second)))

    @abstractmethod
    def morphed(self, morph: Morph) -> Morph:
        """How it becomes the other after this command."""

    def between(self, puppet: Puppet) -> str:
        """The two drawings in words."""
        held = piece(puppet, self.piece)
        one, two = (drawing(held, id).name for id in (self.first, self.second))
        return f"“{one}” becomes “{two}”"


def _whole(held: Piece, first: str, second: str) -> Morph:
    """How the first becomes the second as it is, filed under an id of its own."""
    found = held.morph(first, second)
    if found.id in held.morphs:
        return found
    free = next(f"m{n}" for n in range(len(held.morphs) + 1) if f"m{n}" not in held.morphs)
    return found.changed(id=free)


class SetMorph(MorphCommand):
    """Say how a drawing becomes another; only the fields given are changed."""

    do: Literal["set-morph"] = "set-morph"
    way: WayBetween | None = None
    colours: Literal["oklab", "srgb"] | None = None
    lone: Lone | None = None
    pairs: Annotated[tuple[Pairing, ...], Field(max_length=400)] | None = None

    def morphed(self, morph: Morph) -> Morph:
        given = {f: v for f in ("way", "colours", "lone", "pairs") if (v := getattr(self, f)) is not None}
        return morph.changed(**given)

    def said(self, puppet: Puppet) -> str:
        return f"{'Pair the shapes by which' if self.pairs is not None else 'Say how'} {self.between(puppet)}"


class PairShapes(MorphCommand):
    """Say which shape of the second drawing a shape of the first becomes, both by their number, or that it goes alone."""

    do: Literal["pair-shapes"] = "pair-shapes"
    shape: Annotated[int, Field(ge=0)]
    becomes: Annotated[int, Field(ge=0)] | None = None

    def morphed(self, morph: Morph) -> Morph:
        taken = self.becomes is not None
        others = [p for p in morph.pairs if p.first != self.shape and not (taken and p.second == self.becomes)]
        return morph.changed(pairs=(*others, Pairing(first=self.shape, second=self.becomes)))

    def said(self, puppet: Puppet) -> str:
        return f"Pair the shapes by which {self.between(puppet)}"


class MarkGiven(Given, of=Mark):
    """What of a match mark is given."""


class SetMark(MorphCommand):
    """Set a match mark, or change what is given of the one with its id."""

    do: Literal["set-mark"] = "set-mark"
    mark: MarkGiven

    def morphed(self, morph: Morph) -> Morph:
        return morph.changed(marks={**morph.marks, self.mark.told_id: self.mark.among(morph.marks, Mark, "mark")})

    def said(self, puppet: Puppet) -> str:
        known = piece(puppet, self.piece).morph(self.first, self.second).marks
        return f"{'Move' if self.mark.told_id in known else 'Set'} a mark where {self.between(puppet)}"


class RemoveMark(MorphCommand):
    """Take a match mark away."""

    do: Literal["remove-mark"] = "remove-mark"
    mark: Id

    def morphed(self, morph: Morph) -> Morph:
        if self.mark not in morph.marks:
            raise missing("mark", self.mark)
        return morph.changed(marks={id: m for id, m in morph.marks.items() if id != self.mark})

    def said(self, puppet: Puppet) -> str:
        return f"Remove a mark where {self.between(puppet)}"


class ChangeGaps(ChosenKeys):
    """Say how the drawings at these keys give way to the next: they stay, make room half way, or become it."""

    do: Literal["change-gaps"] = "change-gaps"
    change: DrawingChange

    def rekeyed(self, motion: Motion, channel: str, chosen: set[int]) -> dict[int, Key]:
        held = motion.channels[channel]
        if held.kind != "show":
            raise Refusal(
                "Only drawings can become others.", where=channel, remedy="Select keys of a piece’s drawings alone."
            )

        def changed(key: Key) -> Key:
            # On a hold nothing would ever come of it.
            ease = Even() if self.change != "hold" and isinstance(key.ease, Hold) else key.ease
            return key.by_hand(change=None if self.change == "hold" else self.change, ease=ease)

        return {f: changed(k) if f in chosen else k for f, k in held.keys.items()}

    def label(self, documents: Documents) -> str:
        what = several(len(self.keys), "drawing")
        return {
            "hold": f"Hold {what}",
            "cut": f"Cut from {what} to the next half way",
            "morph": f"Let {what} become the next",
        }[self.change]


class KeptBetween(Value):
    """An in-between that is now a drawing, and the frame at which it shows."""

    frame: Frame
    drawing: Drawing


class KeepBetweens(Command):
    """Make in-betweens drawings of the piece, and key them where they were seen; up to the next drawing each is held,
    or, as before, becomes it."""

    do: Literal["keep-betweens"] = "keep-betweens"
    motion: Id
    piece: Id
    betweens: Annotated[tuple[KeptBetween, ...], Field(min_length=1, max_length=500)]
    change: Literal["hold", "morph"] = "hold"

    def result(self, documents: Documents) -> Documents:
        motion = documents.motion(self.motion)
        drawings = tuple(b.drawing for b in self.betweens)
        after = AddDrawings(puppet=motion.puppet, piece=self.piece, drawings=drawings).result(documents)
        numbers = {d.id: d.number for d in piece(after.puppet(motion.puppet), self.piece).drawings}
        keys = tuple(
            NewKey(joint=self.piece, kind="show", frame=b.frame, value=(float(numbers[b.drawing.id]),), ease=Even())
            for b in self.betweens
        )
        after = SetKeys(motion=self.motion, keys=keys).result(after)
        channel = channel_id(self.piece, "show")
        own = after.motion(self.motion).channels[channel]
        first = min(b.frame for b in self.betweens)
        led = max((f for f in own.keys if f < first), default=None)
        frames = {b.frame for b in self.betweens} | ({led} if led is not None else set())
        change = None if self.change == "hold" else self.change
        rekeyed = {f: k.by_hand(change=change, ease=Even()) if f in frames else k for f, k in own.keys.items()}
        return after.with_(after.motion(self.motion).with_channels(own.changed(keys=rekeyed)))

    def label(self, documents: Documents) -> str:
        held = piece(documents.puppet(documents.motion(self.motion).puppet), self.piece)
        return f"Make {several(len(self.betweens), 'in-between')} of “{held.name}” a drawing"


MorphCommands = SetMorph | PairShapes | SetMark | RemoveMark | ChangeGaps | KeepBetweens
