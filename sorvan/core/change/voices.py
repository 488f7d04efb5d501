"""Commands on voice lines, and on where they are heard."""

from __future__ import annotations

from abc import abstractmethod
from typing import Annotated, Literal

from pydantic import Field

from sorvan.core.change.command import Command, MotionCommand
from sorvan.core.change.given import Given, over
from sorvan.core.change.production import new_id
from sorvan.core.change.shots import HeardGiven, PlaceHeard
from sorvan.core.errors import missing
from sorvan.core.model.base import Id, Name, Number
from sorvan.core.model.documents import Documents
from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import Puppet
from sorvan.core.model.shot import Heard
from sorvan.core.model.voice import Chart, Placed, Recording, Voice
from sorvan.core.voice.charting import test_chart

SaidText = Annotated[str, Field(max_length=40_000)]


class LineCommand(Command):
    """A command that changes one voice line and nothing else."""

    voice: Id

    @abstractmethod
    def on(self, voice: Voice) -> Voice:
        """The line after this command."""

    @abstractmethod
    def said(self, voice: Voice) -> str:
        """What undo and redo call it."""

    def result(self, documents: Documents) -> Documents:
        return documents.with_(self.on(documents.voice(self.voice)))

    def label(self, documents: Documents) -> str:
        return self.said(documents.voice(self.voice))


class AddVoice(Command):
    """Make a voice line; with a `motion` it is placed there, `at` so many seconds, under the id `placed`, or with a
    `shot` in that, on a `row`. A `test` line has no sound, and a chart that speaks every mouth once."""

    do: Literal["add-voice"] = "add-voice"
    id: Id
    name: Name
    text: SaidText = ""
    language: str = "en-us"
    sound: Recording | None = None
    motion: Id | None = None
    placed: Id | None = None
    at: float = 0.0
    shot: Id | None = None
    row: Annotated[int, Field(ge=0, le=9)] = 0
    test: bool = False

    def result(self, documents: Documents) -> Documents:
        line = Voice(
            id=new_id(documents, self.id),
            name=self.name,
            text=self.text,
            language=self.language,
            sound=self.sound,
            chart=test_chart() if self.test else Chart(),
        )
        after = documents.with_(line)
        if self.shot is not None:
            heard = Heard(id=self.placed or self.id, voice=self.id, at=self.at, row=self.row)
            return PlaceHeard(shot=self.shot, sound=HeardGiven.whole(heard)).result(after)
        if self.motion is None:
            return after
        placed = Placed(id=self.placed or self.id, voice=self.id, at=self.at)
        return PlaceSound(motion=self.motion, sound=PlacedGiven.whole(placed)).result(after)

    def label(self, documents: Documents) -> str:
        return f"Add line “{self.name}”"


class SetVoice(LineCommand):
    """Change a line's name, text, language, how words are pronounced (null: as usual), or its sound; only what is
    given."""

    do: Literal["set-voice"] = "set-voice"
    name: Name | None = None
    text: SaidText | None = None
    language: str | None = None
    spoken: dict[str, str | None] | None = None
    sound: Recording | None = None

    def on(self, voice: Voice) -> Voice:
        given = {f: v for f in ("name", "text", "language", "spoken", "sound") if (v := getattr(self, f)) is not None}
        if self.spoken is not None:
            given["spoken"] = over(self.spoken, voice.spoken)
        if self.sound is not None and (voice.chart.phones or voice.chart.words):
            given["chart"] = _within(voice.chart, self.sound.seconds)
        return voice.changed(**given)

    def said(self, voice: Voice) -> str:
        what = {"name": "Rename", "text": "Set the text of", "language": "Set the language of"}
        what |= {"spoken": "Set how words are said in", "sound": "Set the sound of"}
        given = [f for f in what if getattr(self, f) is not None]
        return f"{what[given[0]] if given else 'Leave'} “{voice.name}”"


def _within(chart: Chart, seconds: float) -> Chart:
    """The chart without what begins after a shorter sound has ended."""
    return chart.changed(
        words={i: w for i, w in chart.words.items() if w.start < seconds - 0.01},
        phones={i: p for i, p in chart.phones.items() if p.start < seconds - 0.01},
    )


class RemoveVoice(Command):
    """Take a voice line away, from wherever it is heard too. Mouths that were made for it stay."""

    do: Literal["remove-voice"] = "remove-voice"
    voice: Id

    def result(self, documents: Documents) -> Documents:
        documents.voice(self.voice)
        left = [
            m.changed(sounds={id: p for id, p in m.sounds.items() if p.voice != self.voice})
            for m in documents.motions()
            if any(p.voice == self.voice for p in m.sounds.values())
        ]
        shots = [
            s.changed(sounds={id: p for id, p in s.sounds.items() if p.voice != self.voice})
            for s in documents.all_shots()
            if any(p.voice == self.voice for p in s.sounds.values())
        ]
        return documents.without(self.voice).with_(*left, *shots)

    def label(self, documents: Documents) -> str:
        return f"Remove line “{documents.voice(self.voice).name}”"


class PlacedGiven(Given, of=Placed):
    """What of a sound on a motion is given."""


class PlaceSound(MotionCommand):
    """Let a line be heard on a motion, or change what is given of when and how loud it is heard there."""

    do: Literal["place-sound"] = "place-sound"
    sound: PlacedGiven

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        sound = self._placed(motion)
        return motion.changed(sounds={**motion.sounds, sound.id: sound})

    def _placed(self, motion: Motion) -> Placed:
        return self.sound.among(motion.sounds, Placed, "line on this motion")

    def label(self, documents: Documents) -> str:
        motion = documents.motion(self.motion)
        sound = self._placed(motion)
        known = sound.voice in documents.by_id
        name = documents.voice(sound.voice).name if known else "a line"
        held = motion.sounds.get(sound.id)
        if held is None:
            return f"Place “{name}”"
        if held.mute != sound.mute:
            return f"{'Mute' if sound.mute else 'Let hear'} “{name}”"
        return f"Move “{name}”" if held.at != sound.at else f"Set the level of “{name}”"


class NudgeSound(MotionCommand):
    """Let a line be heard so many seconds later on a motion, or, with less than nought, earlier."""

    do: Literal["nudge-sound"] = "nudge-sound"
    sound: Id
    by: Number

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        if self.sound not in motion.sounds:
            raise missing("line on this motion", self.sound)
        held = motion.sounds[self.sound]
        return motion.changed(sounds={**motion.sounds, held.id: held.later(self.by)})

    def label(self, documents: Documents) -> str:
        held = documents.motion(self.motion).sounds.get(self.sound)
        return f"Move “{documents.voice(held.voice).name if held else 'a line'}”"


class LiftSound(MotionCommand):
    """Let a line be heard on a motion no more; the line itself stays."""

    do: Literal["lift-sound"] = "lift-sound"
    sound: Id

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        if self.sound not in motion.sounds:
            raise missing("line on this motion", self.sound)
        return motion.changed(sounds={id: p for id, p in motion.sounds.items() if id != self.sound})

    def label(self, documents: Documents) -> str:
        return f"Take a line off “{documents.motion(self.motion).name}”"


VoiceCommand = AddVoice | SetVoice | RemoveVoice | PlaceSound | NudgeSound | LiftSound
