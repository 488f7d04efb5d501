"""All documents of a production together."""

from __future__ import annotations

from collections.abc import Container, Iterator
from dataclasses import dataclass
from typing import Annotated

from pydantic import Field, TypeAdapter

from sorvan.core.errors import Refusal, missing
from sorvan.core.model.base import LATER
from sorvan.core.model.channel import Channel
from sorvan.core.model.channels import KINDS, ChannelKind
from sorvan.core.model.motion import Motion
from sorvan.core.model.production import Production
from sorvan.core.model.puppet import ROOT, Puppet
from sorvan.core.model.shot import Copies, Member, Shot, motions_of
from sorvan.core.model.voice import Voice

AnyDocument = Production | Puppet | Motion | Voice | Shot
Document = Annotated[AnyDocument, Field(discriminator="kind")]
DOCUMENT: TypeAdapter[AnyDocument] = TypeAdapter(Document, config=LATER)


def owners(puppet: Puppet, kind: ChannelKind) -> Container[str]:
    """The ids that can have a channel of this kind."""
    match KINDS[kind].owner:
        case "piece":
            return puppet.pieces
        case "chain":
            return puppet.chains
        case "dial":
            return puppet.dials
        case "joint":
            return _Joints(puppet)


@dataclass(frozen=True)
class _Joints:
    """The joints of a puppet, and the puppet as a whole."""

    puppet: Puppet

    def __contains__(self, id: object) -> bool:
        return id == ROOT or id in self.puppet.joints


def _owned(channel: Channel, puppet: Puppet) -> bool:
    return channel.joint in owners(puppet, channel.kind)


@dataclass(frozen=True)
class Documents:
    """An immutable snapshot: one production, its puppets, its motions, its voice lines and its shots, by id."""

    by_id: dict[str, AnyDocument]

    @property
    def production(self) -> Production:
        """The one production document. Raises `Refusal` if it is gone."""
        found = next((d for d in self.by_id.values() if isinstance(d, Production)), None)
        if found is None:
            raise Refusal("The production is gone.", kind="missing")
        return found

    def puppets(self) -> Iterator[Puppet]:
        """Every puppet, in the order they were made."""
        return (d for d in self.by_id.values() if isinstance(d, Puppet))

    def motions(self, puppet: str | None = None) -> Iterator[Motion]:
        """Every motion, or those of one puppet."""
        return (d for d in self.by_id.values() if isinstance(d, Motion) and puppet in (None, d.puppet))

    def puppet(self, id: str) -> Puppet:
        """The puppet with this id. Raises `Refusal` when it is gone."""
        found = self.by_id.get(id)
        if not isinstance(found, Puppet):
            raise missing("puppet", id)
        return found

    def motion(self, id: str) -> Motion:
        """The motion with this id. Raises `Refusal` when it is gone."""
        found = self.by_id.get(id)
        if not isinstance(found, Motion):
            raise missing("motion", id)
        return found

    def voices(self) -> Iterator[Voice]:
        """Every voice line, in the order they were made."""
        return (d for d in self.by_id.values() if isinstance(d, Voice))

    def voice(self, id: str) -> Voice:
        """The voice line with this id. Raises `Refusal` when it is gone."""
        found = self.by_id.get(id)
        if not isinstance(found, Voice):
            raise missing("voice line", id)
        return found

    def lines_on(self, motion: Motion) -> dict[str, Voice]:
        """The voice lines that are placed on a motion, by their id."""
        return {p.voice: self.voice(p.voice) for p in motion.sounds.values() if p.voice in self.by_id}

    def shots(self) -> Iterator[Shot]:
        """Every shot, in the order in which they play."""
        return (d for id in self.production.shots if isinstance(d := self.by_id.get(id), Shot))

    def all_shots(self) -> Iterator[Shot]:
        """Every shot, in the order they were made."""
        return (d for d in self.by_id.values() if isinstance(d, Shot))

    def shot(self, id: str) -> Shot:
        """The shot with this id. Raises `Refusal` when it is gone."""
        found = self.by_id.get(id)
        if not isinstance(found, Shot):
            raise missing("shot", id)
        return found

    def backdrop(self) -> Puppet | None:
        """The set that stands behind every motion, if one is chosen and still there."""
        chosen = self.production.backdrop
        found = self.by_id.get(chosen) if chosen else None
        return found if isinstance(found, Puppet) else None

    def only(self, ids: Container[str]) -> Documents:
        """A snapshot that has nothing but these."""
        return Documents({id: d for id, d in self.by_id.items() if id in ids})

    def with_(self, *documents: AnyDocument) -> Documents:
        """A snapshot in which these stand in place of what had their ids."""
        return Documents({**self.by_id, **{d.id: d for d in documents}})

    def without(self, *ids: str) -> Documents:
        """A snapshot that lacks these."""
        return Documents({k: v for k, v in self.by_id.items() if k not in ids})

    def swept(self, puppet: str) -> Documents:
        """A snapshot in which the puppet's motions have lost the channels and plants of what it has no more."""
        held = self.puppet(puppet)
        swept: list[Motion] = []
        for motion in self.motions(puppet):
            channels = {id: c for id, c in motion.channels.items() if _owned(c, held)}
            plants = {id: p for id, p in motion.plants.items() if p.joint in held.joints}
            if len(channels) != len(motion.channels) or len(plants) != len(motion.plants):
                swept.append(motion.changed(channels=channels, plants=plants))
        return self.with_(*swept, *self._shots_swept(held))

    def _shots_swept(self, puppet: Puppet) -> Iterator[Shot]:
        """The shots that laid keys over what a puppet has no more, without them."""
        for shot in self.all_shots():
            casts: list[Member] = []
            for member in shot.members().values():
                over = {id: c for id, c in member.over.items() if member.puppet != puppet.id or _owned(c, puppet)}
                if len(over) != len(member.over):
                    casts.append(member.changed(over=over))
            if casts:
                yield shot.with_cast(*casts)

    def without_cast(self, puppet: str) -> Documents:
        """A snapshot in which a puppet is in the cast of no shot."""
        found = self
        for shot in self.all_shots():
            if gone := [id for id, c in shot.cast.items() if c.puppet == puppet]:
                found = found.with_(shot.without(*gone))
        return found

    def without_motion(self, motion: str, but_for: str | None = None) -> Documents:
        """A snapshot in which nobody in any shot does this motion, but for the puppet named."""
        found = self
        for shot in self.all_shots():
            casts: list[Member | Copies] = []
            for cast in shot.cast.values():
                if motion not in motions_of(cast) or cast.puppet == but_for:
                    continue
                if isinstance(cast, Member):
                    casts.append(cast.changed(spans={id: s for id, s in cast.spans.items() if s.motion != motion}))
                else:
                    casts.append(cast.changed(motion=None))
            if casts:
                found = found.with_(shot.with_cast(*casts))
        return found

    def hold_together(self, since: Documents) -> None:
        """Raises `Refusal` if a document that is not as it was in `since` speaks of what is not there."""
        touched = {id for id in {*self.by_id, *since.by_id} if self.by_id.get(id) is not since.by_id.get(id)}
        for motion in self.motions():
            if touched & {motion.id, motion.puppet}:
                puppet = self.puppet(motion.puppet)
                for channel in motion.channels.values():
                    if not _owned(channel, puppet):
                        raise missing(f"owner of keys in “{motion.name}”", channel.joint)
                for plant in motion.plants.values():
                    if plant.joint not in puppet.joints:
                        raise missing(f"joint planted in “{motion.name}”", plant.joint)
            if touched & {motion.id, *(p.voice for p in motion.sounds.values())}:
                for placed in motion.sounds.values():
                    self.voice(placed.voice)
        production = next((d for d in self.by_id.values() if isinstance(d, Production)), None)
        if production is None:
            return
        for shot in self.all_shots():
            self._has_all_of(shot, touched)
        if production.id in touched or any(
            isinstance(self.by_id.get(id) or since.by_id.get(id), Shot) for id in touched
        ):
            there = {s.id for s in self.all_shots()}
            if set(production.shots) != there or len(production.shots) != len(there):
                raise missing(
                    "shot in the order of the film", next(iter(set(production.shots) ^ there), "the same twice")
                )
        if production.backdrop is not None:
            self.puppet(production.backdrop)
        for puppet in self.puppets():
            if touched & {puppet.id, production.id}:
                for swatch in (s for piece in puppet.pieces.values() for s in piece.swatches.values()):
                    if swatch not in production.swatches:
                        raise missing("swatch", swatch)

    def _has_all_of(self, shot: Shot, touched: set[str]) -> None:
        """Raises `Refusal` if a shot, or what it speaks of, has changed and speaks of what is not there."""
        for cast in shot.cast.values():
            motions = motions_of(cast)
            if not touched & {shot.id, cast.puppet, *motions}:
                continue
            puppet = self.puppet(cast.puppet)
            for id in motions:
                if self.motion(id).puppet != puppet.id:
                    raise missing(f"motion of “{puppet.name}”", id)
            for channel in cast.over.values() if isinstance(cast, Member) else ():
                if not _owned(channel, puppet):
                    raise missing(f"owner of keys in “{shot.name}”", channel.joint)
        if touched & {shot.id, *(p.voice for p in shot.sounds.values())}:
            for placed in shot.sounds.values():
                self.voice(placed.voice)

    def art_assets(self) -> frozenset[str]:
        """The assets that the pieces' drawings name directly, and what those that are touched up were."""
        drawings = [d for p in self.puppets() for piece in p.pieces.values() for d in piece.drawings]
        return frozenset(d.art for d in drawings) | {d.retouch.of for d in drawings if d.retouch}

    def sound_assets(self) -> frozenset[str]:
        """The sounds that voice lines name, and their peaks."""
        return frozenset(id for v in self.voices() if v.sound for id in (v.sound.asset, v.sound.peaks))

    def picture_assets(self) -> frozenset[str]:
        """The pictures that are named directly: those laid under the work."""
        return frozenset(id for p in self.puppets() if p.reference for id in p.reference.pictures)
