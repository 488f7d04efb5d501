"""Commands on who speaks: a line's mouths made, and a mouth put in by hand."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from sorvan.core.change.command import Command
from sorvan.core.change.keys import NewKey, SetKeys
from sorvan.core.change.mouths import chart_of
from sorvan.core.change.production import AddMotion, SetMotion
from sorvan.core.change.recipes import BeginRecipe, ChangeRecipe
from sorvan.core.change.voices import LiftSound
from sorvan.core.errors import Refusal, missing
from sorvan.core.model.base import Id
from sorvan.core.model.channel import Key
from sorvan.core.model.channels import kind_of, owner_of
from sorvan.core.model.documents import Documents
from sorvan.core.model.ease import Hold
from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import MouthChart
from sorvan.core.model.recipe import Mouths
from sorvan.core.model.times import Frame
from sorvan.core.model.voice import Placed, Voice
from sorvan.core.planning.speaking import mood_at, moods_on, needed_for, placed_on
from sorvan.core.timing.rates import per_second
from sorvan.core.voice.mouths import shown


def _mouths_of(motion: Motion, sound: str) -> Mouths | None:
    """The recipe that has a sound of a motion spoken."""
    return next((r for r in motion.recipes.values() if isinstance(r, Mouths) and r.sound == sound), None)


class MakeMouths(Command):
    """Make the mouths of a line on a motion, or make them again. The first time the motion is made as long as its line,
    unless it is a cycle: a line that is longer would be cut off."""

    do: Literal["make-mouths"] = "make-mouths"
    motion: Id
    sound: Id
    id: Id

    def result(self, documents: Documents) -> Documents:
        motion = documents.motion(self.motion)
        known = _mouths_of(motion, self.sound)
        if known is not None:
            return ChangeRecipe(motion=motion.id, recipe=known.id).result(documents)
        if not motion.cycle:
            documents = FitToLine(motion=motion.id, sound=self.sound).result(documents)
        return BeginRecipe(motion=motion.id, id=self.id, kind="mouths", sound=self.sound).result(documents)

    def label(self, documents: Documents) -> str:
        motion = documents.motion(self.motion)
        _, line = placed_on(motion, self.sound, documents.lines_on(motion))
        return f"Make the mouths of “{line.name}”{' again' if _mouths_of(motion, self.sound) else ''}"


class FitToLine(Command):
    """Give a line the time that it needs: its motion is made longer, or, where that is a cycle, the line gets a motion of
    its `own`, of the same puppet and under this id."""

    do: Literal["fit-to-line"] = "fit-to-line"
    motion: Id
    sound: Id
    own: Id | None = None

    def result(self, documents: Documents) -> Documents:
        motion = documents.motion(self.motion)
        placed, line, needed = self._line(documents)
        if not motion.cycle:
            return SetMotion(motion=motion.id, length=needed).result(documents) if needed > motion.length else documents
        if self.own is None or any(r.goes_by == placed.id for r in motion.recipes.values()):
            raise Refusal(
                f"“{motion.name}” is a cycle: made longer, it would be another.",
                where=line.name,
                remedy="Make a motion that is no cycle, and bring the line in there.",
            )
        documents = LiftSound(motion=motion.id, sound=placed.id).result(documents)
        documents = AddMotion(id=self.own, puppet=motion.puppet, name=line.name, length=needed).result(documents)
        return documents.with_(documents.motion(self.own).changed(sounds={placed.id: placed.changed(at=0.0)}))

    def _line(self, documents: Documents) -> tuple[Placed, Voice, int]:
        """The sound, its line, and how many frames that needs; on a motion of its own it is heard from the start."""
        motion = documents.motion(self.motion)
        placed, line = placed_on(motion, self.sound, documents.lines_on(motion))
        heard = placed.changed(at=0.0) if motion.cycle else placed
        return placed, line, needed_for(heard, line, per_second(documents.production.rate))

    def label(self, documents: Documents) -> str:
        motion = documents.motion(self.motion)
        _, line, needed = self._line(documents)
        if motion.cycle:
            return f"Give “{line.name}” a motion of its own"
        return f"Make “{motion.name}” {max(motion.length, needed)} frames long for “{line.name}”"


class PutMouth(Command):
    """Let a mouth show from a frame on, as it looks in the mood that holds there. Without a mouth it is that of the
    set which comes `by` places after the one that shows."""

    do: Literal["put-mouth"] = "put-mouth"
    motion: Id
    frame: Frame
    mouth: Id | None = None
    by: Annotated[int, Field(ge=-24, le=24)] = 0

    def result(self, documents: Documents) -> Documents:
        motion = documents.motion(self.motion)
        chart = chart_of(documents.puppet(motion.puppet))
        id = self.mouth if self.mouth is not None else _next(chart, motion, self.frame, self.by)
        if id not in chart.mouths:
            raise missing("mouth", id)
        mouth = chart.mouths[id]
        seen = shown(mouth, mood_at(moods_on(motion, per_second(documents.production.rate)), self.frame))
        if seen is None or not seen.values:
            raise Refusal("Nothing shows this mouth yet.", where=mouth.name, remedy="Drag a drawing onto it.")
        key = NewKey(
            joint=owner_of(chart.channel),
            kind=kind_of(chart.channel),
            frame=self.frame,
            value=seen.values[:1],
            ease=Hold(),
        )
        return SetKeys(motion=motion.id, keys=(key,)).result(documents)

    def label(self, documents: Documents) -> str:
        return f"Put in a mouth at frame {self.frame + 1}"


def _next(chart: MouthChart, motion: Motion, frame: int, by: int) -> str:
    """The mouth so many places after the one that shows at a frame, round and round."""
    all = list(chart.mouths)
    if not all:
        raise Refusal("The set has no mouths yet.", remedy="Add one, and drag a drawing onto it.")
    channel = motion.channels.get(chart.channel)
    before: list[Key] = [k for f, k in sorted(channel.keys.items()) if f <= frame] if channel else []
    value = before[-1].value[0] if before else None
    now = next((n for n, m in enumerate(chart.mouths.values()) if any(value in v for v in m.shows.values())), -1)
    # With none there the first comes next, and the last before it.
    return all[(now + by + (1 if now < 0 and by < 0 else 0)) % len(all)]


SpeakingCommand = MakeMouths | PutMouth | FitToLine
