"""Commands on which shots there are, in which order, and on a shot as a whole."""

from __future__ import annotations

from abc import abstractmethod
from typing import Annotated, Literal

from pydantic import Field

from sorvan.core.change.command import Command, several
from sorvan.core.change.given import Given
from sorvan.core.change.production import new_id
from sorvan.core.errors import Refusal, missing
from sorvan.core.model.base import Id, Name, Number, Value
from sorvan.core.model.documents import Documents
from sorvan.core.model.shot import Close, Heard, Join, Member, Pass, Shot
from sorvan.core.model.times import LONGEST, Frame
from sorvan.core.staging.length import put_in, split
from sorvan.core.timing.rates import per_second

Length = Annotated[int, Field(ge=1, le=LONGEST)]


class ShotCommand(Command):
    """A command that changes one shot and nothing else."""

    shot: Id

    @abstractmethod
    def on(self, shot: Shot, documents: Documents) -> Shot:
        """The shot after this command."""

    @abstractmethod
    def said(self, shot: Shot) -> str:
        """What undo and redo call it."""

    def result(self, documents: Documents) -> Documents:
        return documents.with_(self.on(documents.shot(self.shot), documents))

    def label(self, documents: Documents) -> str:
        return self.said(documents.shot(self.shot))


class AddShot(Command):
    """Make an empty shot of so many frames, after another one or at the end. The production's backdrop stands in it. It
    plays all that it holds, until it is taken back to an earlier pass."""

    do: Literal["add-shot"] = "add-shot"
    id: Id
    name: Name
    length: Length = 72
    after: Id | None = None

    def result(self, documents: Documents) -> Documents:
        shot = Shot(id=new_id(documents, self.id), name=self.name, length=self.length, stage="final")
        behind = documents.backdrop()
        if behind is not None:
            shot = shot.with_cast(Member(id="backdrop", puppet=behind.id, name=behind.name, at=behind.origin))
        return _filed(documents.with_(shot), self.id, self.after)

    def label(self, documents: Documents) -> str:
        return f"Add shot “{self.name}”"


def _filed(documents: Documents, new: str, after: str | None) -> Documents:
    """The documents with a new shot in the order of the film."""
    order = list(documents.production.shots)
    at = order.index(after) + 1 if after in order else len(order)
    return documents.with_(documents.production.changed(shots=(*order[:at], new, *order[at:])))


class JoinGiven(Given, of=Join):
    """What of how a shot begins is given."""


class CloseGiven(Given, of=Close):
    """What of how a shot ends is given."""


class SetShot(ShotCommand):
    """Change a shot's name, note, pass, how it begins and ends, or the frames that play; only what is given. `first` and
    `stop` are frames from 0, the latter excluded; both null: all of them. It closes with nothing if `close` is null."""

    do: Literal["set-shot"] = "set-shot"
    name: Name | None = None
    note: Annotated[str, Field(max_length=2000)] | None = None
    stage: Pass | None = None
    join: JoinGiven | None = None
    close: CloseGiven | None = None
    first: Frame | None = None
    stop: Length | None = None

    def on(self, shot: Shot, documents: Documents) -> Shot:
        given: dict[str, object] = {f: v for f in ("name", "note", "stage") if (v := getattr(self, f)) is not None}
        given |= {f: getattr(self, f) for f in ("first", "stop") if f in self.model_fields_set}
        if self.join is not None:
            given["join"] = self.join.over(shot.join)
        if "close" in self.model_fields_set:
            given["close"] = self.close and self.close.over(shot.close or Close())
        return shot.changed(**given)

    def said(self, shot: Shot) -> str:
        if self.stage is not None:
            return f"Take “{shot.name}” to its {self.stage} pass"
        what = {
            "name": "Rename",
            "note": "Note on",
            "join": "Set how to begin",
            "close": "Set how to end",
            "first": "Set what plays of",
        }
        what["stop"] = what["first"]
        return f"{next((what[f] for f in what if f in self.model_fields_set), 'Leave')} “{shot.name}”"


class SetPass(Command):
    """Take shots to a pass."""

    do: Literal["set-pass"] = "set-pass"
    shots: Annotated[tuple[Id, ...], Field(min_length=1, max_length=2000)]
    stage: Pass

    def result(self, documents: Documents) -> Documents:
        return documents.with_(*(documents.shot(id).changed(stage=self.stage) for id in self.shots))

    def label(self, documents: Documents) -> str:
        what = several(len(self.shots), "shot", documents.shot(self.shots[0]).name)
        return f"Take {what} to the {self.stage} pass"


class RemoveShots(Command):
    """Take shots out of the film. What their cast does stays: motions, lines and puppets are kept."""

    do: Literal["remove-shots"] = "remove-shots"
    shots: Annotated[tuple[Id, ...], Field(min_length=1)]

    def result(self, documents: Documents) -> Documents:
        for id in self.shots:
            documents.shot(id)
        order = tuple(s for s in documents.production.shots if s not in self.shots)
        return documents.without(*self.shots).with_(documents.production.changed(shots=order))

    def label(self, documents: Documents) -> str:
        one = documents.shot(self.shots[0]).name
        return f"Remove {'shot ' if len(self.shots) == 1 else ''}{several(len(self.shots), 'shot', one)}"


class OrderShots(Command):
    """Let a shot play in another place of the film: after another one, or first."""

    do: Literal["order-shots"] = "order-shots"
    shot: Id
    after: Id | None = None

    def result(self, documents: Documents) -> Documents:
        documents.shot(self.shot)
        order = [s for s in documents.production.shots if s != self.shot]
        if self.after is not None and self.after not in order:
            documents.shot(self.after)
            return documents
        at = 0 if self.after is None else order.index(self.after) + 1
        return documents.with_(documents.production.changed(shots=(*order[:at], self.shot, *order[at:])))

    def label(self, documents: Documents) -> str:
        return f"Move “{documents.shot(self.shot).name}” in the film"


class DuplicateShot(Command):
    """Make the same shot once more, right after it. Both use the same motions."""

    do: Literal["duplicate-shot"] = "duplicate-shot"
    shot: Id
    id: Id
    name: Name | None = None

    def result(self, documents: Documents) -> Documents:
        held = documents.shot(self.shot)
        name = self.name or f"{held.name[:110]} again"
        return _filed(documents.with_(held.changed(id=new_id(documents, self.id), name=name)), self.id, self.shot)

    def label(self, documents: Documents) -> str:
        return f"Duplicate “{documents.shot(self.shot).name}”"


class SplitShot(Command):
    """Cut a shot in two before a frame: the second goes on where the first ends. Each holds all of the shot, and plays its
    own part of it."""

    do: Literal["split-shot"] = "split-shot"
    shot: Id
    at: Frame
    id: Id
    name: Name | None = None

    def result(self, documents: Documents) -> Documents:
        held = documents.shot(self.shot)
        one, two = split(held, self.at)
        two = two.changed(id=new_id(documents, self.id), name=self.name or f"{held.name[:110]}, on")
        return _filed(documents.with_(one, two), self.id, self.shot)

    def label(self, documents: Documents) -> str:
        return f"Cut “{documents.shot(self.shot).name}” in two at frame {self.at + 1}"


class InsertShotTime(ShotCommand):
    """Put frames into a shot from a frame on, across everything in it, or, with less than none, take frames out."""

    do: Literal["insert-shot-time"] = "insert-shot-time"
    at: Annotated[int, Field(ge=0, le=LONGEST)]
    frames: Annotated[int, Field(ge=-LONGEST, le=LONGEST)]

    def on(self, shot: Shot, documents: Documents) -> Shot:
        rate = float(per_second(documents.production.rate))
        lasts = {s.voice: documents.voice(s.voice).seconds for s in shot.sounds.values()}
        return put_in(shot, self.at, self.frames, rate, lasts)

    def said(self, shot: Shot) -> str:
        way = "Put in" if self.frames > 0 else "Take out"
        return f"{way} {several(abs(self.frames), 'frame')} at frame {self.at + 1} of “{shot.name}”"


class SetShotLength(ShotCommand):
    """Make a shot longer or shorter at its end; what the cast does stays where it is."""

    do: Literal["set-shot-length"] = "set-shot-length"
    length: Length

    def on(self, shot: Shot, documents: Documents) -> Shot:
        given: dict[str, object] = {"length": self.length}
        if shot.stop is not None and shot.stop > self.length:
            given["stop"] = None
        if shot.first is not None and shot.first >= self.length:
            given["first"] = None
        return shot.changed(**given)

    def said(self, shot: Shot) -> str:
        return f"Make “{shot.name}” {several(self.length, 'frame')} long"


class Arranged(Value):
    """A shot's place in a film: which frames of it play (from 0, `stop` excluded), and how it begins. One that is
    not there is made, empty and long enough."""

    shot: Id
    name: Name
    first: Frame = 0
    stop: Length
    join: Join = Join()


class ArrangeFilm(Command):
    """Let the film be these shots, in this order. Shots that are not named are left out of it, and go."""

    do: Literal["arrange-film"] = "arrange-film"
    shots: Annotated[tuple[Arranged, ...], Field(min_length=1, max_length=2000)]

    def result(self, documents: Documents) -> Documents:
        order: list[str] = []
        gone = {s.id for s in documents.all_shots()} - {a.shot for a in self.shots}
        documents = documents.without(*gone)
        for wanted in self.shots:
            if wanted.shot in order:
                raise Refusal(
                    f"“{wanted.name}” plays twice.", where=wanted.shot, remedy="Duplicate the shot, and use each once."
                )
            held = documents.by_id.get(wanted.shot)
            if held is None:
                documents = AddShot(id=wanted.shot, name=wanted.name, length=wanted.stop).result(documents)
            shot = documents.shot(wanted.shot)
            if wanted.stop > shot.length or wanted.first >= wanted.stop:
                raise Refusal(
                    f"“{shot.name}” has {shot.length} frames, and not {wanted.first + 1} to {wanted.stop}.",
                    where=shot.name,
                    remedy="Make it longer on the Shots bench, or shorter in the timeline.",
                )
            whole = wanted.first == 0 and wanted.stop == shot.length
            played = {"first": None, "stop": None} if whole else {"first": wanted.first, "stop": wanted.stop}
            documents = documents.with_(shot.changed(name=wanted.name, join=wanted.join, **played))
            order.append(wanted.shot)
        return documents.with_(documents.production.changed(shots=tuple(order)))

    def label(self, documents: Documents) -> str:
        return f"Arrange the film: {several(len(self.shots), 'shot')}"


class HeardGiven(Given, of=Heard):
    """What of a sound in a shot is given."""


class PlaceHeard(ShotCommand):
    """Let a line or an effect be heard in a shot, or change what is given of when, how loud and on which row."""

    do: Literal["place-heard"] = "place-heard"
    sound: HeardGiven

    def on(self, shot: Shot, documents: Documents) -> Shot:
        sound = self.sound.among(shot.sounds, Heard, f"sound in “{shot.name}”")
        documents.voice(sound.voice)
        return shot.changed(sounds={**shot.sounds, sound.id: sound})

    def said(self, shot: Shot) -> str:
        return f"{'Set' if self.sound.told_id in shot.sounds else 'Place'} a sound in “{shot.name}”"


class NudgeHeard(ShotCommand):
    """Let something be heard so many seconds later in a shot, or, with less than nought, earlier."""

    do: Literal["nudge-heard"] = "nudge-heard"
    sound: Id
    by: Number

    def on(self, shot: Shot, documents: Documents) -> Shot:
        if self.sound not in shot.sounds:
            raise missing(f"sound in “{shot.name}”", self.sound)
        held = shot.sounds[self.sound]
        return shot.changed(sounds={**shot.sounds, held.id: held.later(self.by)})

    def said(self, shot: Shot) -> str:
        return f"Move a sound in “{shot.name}”"


class LiftHeard(ShotCommand):
    """Let something be heard in a shot no more."""

    do: Literal["lift-heard"] = "lift-heard"
    sounds: Annotated[tuple[Id, ...], Field(min_length=1)]

    def on(self, shot: Shot, documents: Documents) -> Shot:
        return shot.changed(sounds={id: s for id, s in shot.sounds.items() if id not in self.sounds})

    def said(self, shot: Shot) -> str:
        return f"Take {several(len(self.sounds), 'sound')} out of “{shot.name}”"


ShotsCommand = (
    AddShot | SetShot | SetPass | RemoveShots | OrderShots | DuplicateShot | SplitShot | InsertShotTime | SetShotLength
    | PlaceHeard | NudgeHeard | LiftHeard | ArrangeFilm
)  # fmt: skip
