"""Puppets, rigs and motions used again."""

from __future__ import annotations

from dataclasses import replace
from itertools import count
from typing import Annotated, Literal

from pydantic import Field

from sorvan.core.change.command import Command, several
from sorvan.core.change.converting import converted
from sorvan.core.change.production import new_id
from sorvan.core.change.proposing import Hung, TakeRig
from sorvan.core.errors import Refusal
from sorvan.core.model.base import Id, Name, Pair
from sorvan.core.model.documents import Documents
from sorvan.core.model.kit import Kit
from sorvan.core.model.motion import Motion
from sorvan.core.model.production import Rate, Swatch
from sorvan.core.model.puppet import Puppet
from sorvan.core.model.voice import Voice
from sorvan.core.reuse.carrying import CarriedMotion, carried
from sorvan.core.reuse.fitting import Fitted, fitted
from sorvan.core.reuse.links import Links, linked
from sorvan.core.reuse.sizing import Resizing, in_words
from sorvan.core.rig.sides import free_name
from sorvan.core.timing.rates import per_second

Ids = dict[Id, Id]
Answers = dict[Id, Id | None]


def at_rate(kit: Kit, rate: Rate) -> Kit:
    """The kit at another frame rate, everything in the same time."""
    if per_second(rate) == per_second(kit.rate):
        return kit
    found = converted(kit.documents(), rate).documents
    return kit.changed(puppet=found.puppet(kit.puppet.id), motions=tuple(found.motions(kit.puppet.id)), rate=rate)


class BringPuppet(Command):
    """Bring a puppet in with its motions, mouth chart and poses, its swatches and the voice lines it speaks, all as large on
    the stage as they were on theirs.

    `ids` are the new ids of the puppet and its motions by their old ones. Voice lines and swatches that are there
    already are not brought in a second time. Where the frame rate is another, everything keeps its time.
    """

    do: Literal["bring-puppet"] = "bring-puppet"
    kit: Kit
    ids: Ids
    name: Name | None = None

    def result(self, documents: Documents) -> Documents:
        kit = at_rate(self.kit, documents.production.rate)
        if resizing := self._resizing(documents):
            kit = resizing.kit(kit)
        documents, swatches = _with_swatches(documents, kit.swatches)
        documents, voices = _with_voices(documents, kit.voices)
        taken = {p.name for p in documents.puppets()}
        pieces = {
            id: p.changed(swatches={use: swatches[s] for use, s in p.swatches.items()}) if p.swatches else p
            for id, p in kit.puppet.pieces.items()
        }
        new = self._id(documents, kit.puppet.id)
        puppet = kit.puppet.changed(id=new, name=free_name(self.name or kit.puppet.name, taken), pieces=pieces)
        documents = documents.with_(puppet)
        for motion in kit.motions:
            sounds = {id: p.changed(voice=voices[p.voice]) for id, p in motion.sounds.items() if p.voice in voices}
            made = motion.changed(id=self._id(documents, motion.id), puppet=new, sounds=sounds)
            documents = documents.with_(made)
        return documents

    def _resizing(self, documents: Documents) -> Resizing | None:
        own, production = self.kit.stage, documents.production
        return None if own is None else Resizing.between(own, (production.width, production.height))

    def said(self, documents: Documents) -> str:
        """What there is to say of it: at what size it comes, if not at its own."""
        own, resizing = self.kit.stage, self._resizing(documents)
        if own is None or resizing is None:
            return ""
        return f"It was made for a stage of {own[0]} × {own[1]} units, and came {in_words(resizing.size)}."

    def _id(self, documents: Documents, old: str) -> str:
        return _given(documents, self.ids, old)

    def label(self, documents: Documents) -> str:
        return f"Bring in puppet “{self.name or self.kit.puppet.name}”"


def _given(documents: Documents, ids: Ids, old: str) -> str:
    """The new id of something that is brought in."""
    if old not in ids:
        raise Refusal("What is brought in has no new id.", where=old, remedy="Try again.", kind="invalid")
    return new_id(documents, ids[old])


def _with_swatches(documents: Documents, swatches: tuple[Swatch, ...]) -> tuple[Documents, dict[str, str]]:
    """The documents with these swatches too, and the ids they have there: one of the same name and colour is that one."""
    production = documents.production
    there, found = dict(production.swatches), dict[str, str]()
    for swatch in swatches:
        same = next((s for s in there.values() if (s.name, s.colour) == (swatch.name, swatch.colour)), None)
        if same is None:
            id = swatch.id if swatch.id not in there else _free(swatch.id, there)
            same = there[id] = swatch.changed(id=id, name=free_name(swatch.name, {s.name for s in there.values()}))
        found[swatch.id] = same.id
    return documents.with_(production.changed(swatches=there)) if found else documents, found


def _with_voices(documents: Documents, voices: tuple[Voice, ...]) -> tuple[Documents, dict[str, str]]:
    """The documents with these voice lines too, and the ids they have there: the same line is not brought in twice."""
    found: dict[str, str] = {}
    for voice in voices:
        same = next((v for v in documents.voices() if v.changed(id=voice.id) == voice), None)
        if same is None:
            same = voice if voice.id not in documents.by_id else voice.changed(id=_free(voice.id, documents.by_id))
            documents = documents.with_(same)
        found[voice.id] = same.id
    return documents, found


def _free(wanted: str, taken: object) -> str:
    return next(id for n in count(2) if (id := f"{wanted[:34]}-{n}") not in taken)  # type: ignore[operator]


def motions_for(
    documents: Documents, kit: Kit, target: Puppet, links: Links, ids: Ids
) -> tuple[Documents, list[CarriedMotion]]:
    """The documents with the motions of a kit as `target` does them, and what there is to say of each. The kit is at the
    production's rate."""
    documents, voices = _with_voices(documents, kit.voices)
    rate = per_second(documents.production.rate)
    told: list[CarriedMotion] = []
    for motion in kit.motions:
        sounds = {id: p.changed(voice=voices[p.voice]) for id, p in motion.sounds.items() if p.voice in voices}
        heard = motion.changed(sounds=sounds)
        new = _given(documents, ids, motion.id)
        made = carried(heard, kit.puppet, target, links, new, rate, documents.lines_on(heard))
        taken = {m.name for m in documents.motions(target.id)}
        name = free_name(motion.name, taken)
        told.append(CarriedMotion(made.motion.changed(name=name), made.said))
        documents = documents.with_(told[-1].motion)
    return documents, told


class PutRig(Command):
    """Put a rig on the art of a puppet: joints, limits, limbs that reach, bends, dials, mouths and poses, and the kit's
    motions with it.

    `joints` are the puppet's by those of the rig that they answer to, `pins` where they turn (stage units). Pieces for
    which the rig has nothing are `hung` as proposed. What was set by hand stays as it is. `ids` are the new ids of the
    motions by their old ones.
    """

    do: Literal["put-rig"] = "put-rig"
    puppet: Id
    kit: Kit
    joints: Annotated[Ids, Field(max_length=1000)]
    pins: dict[Id, Pair] = {}
    hung: Annotated[tuple[Hung, ...], Field(max_length=500)] = ()
    ids: Ids = {}

    def fitted(self, documents: Documents) -> Fitted:
        """The puppet with the rig on it, and what does not fit."""
        puppet = documents.puppet(self.puppet)
        here = {a: b for a, b in self.joints.items() if a in self.kit.puppet.joints and b in puppet.joints}
        found = fitted(self.kit.puppet, puppet, here, self.pins)
        if not self.hung:
            return found
        left = tuple(h.joint for h in self.hung if h.parent is not None)
        return replace(
            found,
            puppet=TakeRig(puppet=puppet.id, hung=self.hung).on(found.puppet),
            over=tuple(j for j in found.over if j not in left),
        )

    def carried(self, documents: Documents) -> tuple[Documents, Fitted, list[CarriedMotion]]:
        """The documents after it, the puppet with the rig, and what there is to say of its motions."""
        found = self.fitted(documents)
        kit = at_rate(self.kit, documents.production.rate)
        # A piece that rides elsewhere now leaves its own joint, and what was keyed on that, behind.
        there = documents.with_(found.puppet).swept(found.puppet.id)
        after, told = motions_for(there, kit, found.puppet, found.links, self.ids)
        return after, found, told

    def result(self, documents: Documents) -> Documents:
        return self.carried(documents)[0]

    def label(self, documents: Documents) -> str:
        return f"Put the rig of “{self.kit.puppet.name}” on “{documents.puppet(self.puppet).name}”"


class CarryMotions(Command):
    """Let a puppet do the motions of another: limbs by their roles, in its own proportions, with feet that stay on the
    ground. `told` are joints that answer to one another by hand; `ids` the new ids of the motions by their old ones."""

    do: Literal["carry-motions"] = "carry-motions"
    puppet: Id
    kit: Kit
    ids: Ids
    told: Answers = {}

    def carried(self, documents: Documents) -> tuple[Documents, Links, list[CarriedMotion]]:
        """The documents after it, what answers to what, and what there is to say of each motion."""
        target = documents.puppet(self.puppet)
        links = linked(self.kit.puppet, target, self.told)
        if not links.joints and not links.pieces:
            raise Refusal(
                f"Nothing of “{target.name}” answers to “{self.kit.puppet.name}”.",
                where=target.name,
                remedy="Name the joints alike, or give them their roles on the Rig bench.",
            )
        kit = at_rate(self.kit, documents.production.rate)
        after, told = motions_for(documents, kit, target, links, self.ids)
        return after, links, told

    def result(self, documents: Documents) -> Documents:
        return self.carried(documents)[0]

    def label(self, documents: Documents) -> str:
        names: tuple[Motion, ...] = self.kit.motions
        what = several(len(names), "motion", names[0].name if names else "")
        return f"Let “{documents.puppet(self.puppet).name}” do {what} of “{self.kit.puppet.name}”"


ReuseCommand = BringPuppet | PutRig | CarryMotions
