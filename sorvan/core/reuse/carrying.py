"""A motion made for one puppet, done by another: by roles, names and proportions, with feet that stay on the ground."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from fractions import Fraction

import numpy as np

from sorvan.core.errors import Refusal
from sorvan.core.model.channel import Channel, Key, Tangents
from sorvan.core.model.channels import channel_id
from sorvan.core.model.motion import Ground, Motion
from sorvan.core.model.puppet import ROOT, Puppet
from sorvan.core.model.recipe import AnyRecipe
from sorvan.core.model.voice import Voice
from sorvan.core.motion.recipes import without_own
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.plan.turning import Between, seen_from, turnaround_of
from sorvan.core.recipes.doing import with_recipe
from sorvan.core.recipes.registry import kind_of
from sorvan.core.reuse.links import Links
from sorvan.core.reuse.other_legs import held_down, plants_over, stepped
from sorvan.core.reuse.proportions import PLACES, Proportions
from sorvan.core.reuse.recipes import told_anew
from sorvan.core.rig.anatomy import anatomy
from sorvan.core.rig.skeleton import ancestors, rest_worlds


@dataclass(frozen=True)
class CarriedMotion:
    """A motion for another puppet, and sentences on what did not come along, or comes otherwise."""

    motion: Motion
    said: tuple[str, ...] = ()


def carried(
    motion: Motion,
    source: Puppet,
    target: Puppet,
    links: Links,
    id: str,
    rate: Fraction,
    lines: Mapping[str, Voice] | None = None,
) -> CarriedMotion:
    """The source's motion as the target does it, under a new id.

    Limbs point where they pointed and moves are in the target's size; recipes are done anew on it; feet stand where they
    stood, as far as the legs reach. `rate` is frames a second, `lines` the voice lines placed on the motion that the
    target's production has too.
    """
    return _Carrier(motion, source, target, links, id, rate, lines or {}).carried()


@dataclass(eq=False)
class _Carrier:
    motion: Motion
    source: Puppet
    target: Puppet
    links: Links
    id: str
    rate: Fraction
    lines: Mapping[str, Voice]
    said: list[str] = field(default_factory=list)

    def carried(self) -> CarriedMotion:
        motion = self.motion
        seen = self._seen()
        between = self.between = Proportions(
            seen_from(self.source, motion.seen), seen_from(self.target, seen), self.links
        )
        self.before = Evaluation.full(self.source, motion)
        again = self._recipes()
        done_anew = [id for id, r in again.items() if kind_of(r).plans_anew]
        bare = motion
        for id in done_anew:
            bare = without_own(bare, id)
        kept = {id for id in again if id not in done_anew}
        channels = self._channels(bare, kept)
        plants, lost = plants_over(between, motion)
        if lost:
            self.said.append(f"{_several(len(lost), 'plant')} had no limb to hold.")
        sounds = {id: p for id, p in motion.sounds.items() if p.voice in self.lines}
        made = Motion(
            id=self.id, name=motion.name, puppet=self.target.id, length=motion.length, cycle=motion.cycle,
            channels={c.id: c for c in channels if c.keys}, seen=seen, ground=self._ground(), plants=plants,
            poses={f: p if p.recipe in kept else p.changed(recipe=None) for f, p in bare.poses.items()},
            recipes={id: again[id] for id in kept}, sounds=sounds,
        )  # fmt: skip
        for id in done_anew:
            made = self._done(made, again[id])
        frames = {
            c.joint: {f for f, k in c.keys.items() if k.recipe not in done_anew or k.hand}
            for c in bare.channels.values()
            if c.kind == "turn"
        }
        # Plants come along; what they do in the target they do there.
        free = Evaluation.full(self.source, motion.changed(plants={})) if motion.plants else self.before
        made = stepped(between, free, made, self._by_reach(frames))
        stances = 0
        if not any(kind_of(r).sets_time for r in made.recipes.values()):
            # A gait that is planned anew has its own way of stepping.
            made, stances = held_down(between, self.before, made)
        if stances:
            self.said.append(f"Feet are planted in {_several(stances, 'stance')}, so that they stay where they stand.")
        return CarriedMotion(made, tuple(self.said))

    def _seen(self) -> float | None:
        """The view that the motion is made for, if the target has it."""
        dial, seen = turnaround_of(self.target), self.motion.seen
        if dial is None or seen is None or Between.of(dial, np.array([seen])).mirrored[0]:
            return None
        return seen

    def _recipes(self) -> dict[str, AnyRecipe]:
        found: dict[str, AnyRecipe] = {}
        for id, recipe in self.motion.recipes.items():
            told = told_anew(recipe, self.between)
            sound = None if told is None else told.goes_by
            if told is None or (sound is not None and not self._hears(sound)):
                if self._comes(id):
                    self.said.append(f"{recipe.name} comes as keys only: it has nothing here to be done again on.")
            else:
                found[id] = told
        return found

    def _comes(self, recipe: str) -> bool:
        """Whether anything of what a recipe wrote has a place in the target."""
        return any(
            self.links.owner(c.kind, c.joint) is not None and any(k.recipe == recipe for k in c.keys.values())
            for c in self.motion.channels.values()
        )

    def _hears(self, sound: str) -> bool:
        placed = self.motion.sounds.get(sound)
        return placed is not None and placed.voice in self.lines

    def _done(self, made: Motion, recipe: AnyRecipe) -> Motion:
        """The motion with a recipe done on the target; where that can't be, with the keys that it had written."""
        try:
            done, new = with_recipe(made, self.target, recipe, self.rate, self.lines)
            if any(new.keys.values()):
                return done
            why = " ".join(new.said)
        except Refusal as refusal:
            why = refusal.what
        self.said.append(f"{recipe.name} comes as keys only. {why}".strip())
        own = self.motion.changed(
            channels={
                c.id: c.changed(keys={f: k for f, k in c.keys.items() if k.recipe == recipe.id and not k.hand})
                for c in self.motion.channels.values()
            }
        )
        channels = [
            c.changed(keys={**c.keys, **(made.channels[c.id].keys if c.id in made.channels else {})})
            for c in self._channels(own, set(), quiet=True)
        ]
        return made.with_channels(*channels)

    def _channels(self, motion: Motion, kept: set[str], quiet: bool = False) -> list[Channel]:
        """The channels as the target has them. Keys of recipes that are not `kept` are the hand's."""
        found: dict[str, Channel] = {}
        turned = {c.joint for c in motion.channels.values() if c.kind == "turn" and c.keys} | set(self._reaching())
        offsets = self.between.offsets(turned)
        lost: dict[str, int] = {}
        for channel in motion.channels.values():
            if not channel.keys:
                continue
            its = self.links.owner(channel.kind, channel.joint)
            if its is None:
                name = self._name(channel)
                lost[name] = lost.get(name, 0) + len(channel.keys)
                continue
            keys = {f: self._key(channel, its, k, offsets) for f, k in channel.keys.items()}
            there = {f: _kept(k, kept) for f, k in keys.items() if k is not None}
            if len(there) < len(keys):
                name = f"drawings of {self._name(channel)}"
                lost[name] = lost.get(name, 0) + len(keys) - len(there)
            made = channel.changed(joint=its, keys=there)
            found.setdefault(made.id, made)
        for joint, baked in self._baked(offsets).items():
            found[channel_id(joint, "turn")] = baked
        for chain in self.target.chains.values():
            moved = any(channel_id(j, "turn") in found for j in chain.joints)
            if moved and chain.id not in self.links.chains.values():
                found[channel_id(chain.id, "reach")] = Channel(
                    joint=chain.id, kind="reach", keys={0: Key(value=(0.0,))}
                )
        if lost and not quiet:
            told = ", ".join(f"{name} ({_several(n, 'key')})" for name, n in lost.items())
            self.said.append(f"Nothing here answers to {told}.")
        return list(found.values())

    def _name(self, channel: Channel) -> str:
        puppet, id = self.source, channel.joint
        held = puppet.joints.get(id) or puppet.pieces.get(id) or puppet.chains.get(id) or puppet.dials.get(id)
        return f"“{held.name}”" if held else id

    def _key(self, channel: Channel, its: str, key: Key, offsets: Mapping[str, float]) -> Key | None:
        """A key as the target has it; none where its drawing is not there."""
        one, kind = channel.joint, channel.kind
        value = self.between.value(kind, one, its, key.value)
        if value is None:
            return None
        if offset := offsets.get(one, 0.0) if kind == "turn" else 0.0:
            value = (round(value[0] + offset, PLACES),)
        given = key.changed(value=value)
        if key.tangents is None:
            return given
        ends = {
            end: self.between.value(kind, one, its, at)
            for end in ("before", "after")
            if (at := getattr(key.tangents, end)) is not None
        }
        return given.changed(tangents=Tangents.model_validate(ends))

    def _reaching(self) -> dict[str, list[int]]:
        """The source's joints that are turned by a limb that reaches, for which the target has none: at which frames
        they are keyed in the target."""
        found: dict[str, list[int]] = {}
        joints = self.between.source.joints
        for chain in self.source.chains.values():
            if chain.id in self.links.chains:
                continue
            moving = {
                *chain.joints,
                chain.handle,
                *ancestors(joints, chain.handle),
                *ancestors(joints, chain.joints[0]),
            }
            wanted = {channel_id(j, kind) for j in (*moving, ROOT) for kind in ("turn", "move")}
            wanted |= {channel_id(chain.id, "reach")}
            keyed = {f for c in wanted if c in self.motion.channels for f in self.motion.channels[c].keys}
            frames = sorted(f for f in keyed if f < self.motion.length)
            if frames:
                found |= {j: frames for j in chain.joints if j in self.links.joints}
        return found

    def _by_reach(self, frames: dict[str, set[int]]) -> dict[str, set[int]]:
        """The frames in which joints are keyed, those also that reaching turns."""
        return frames | {j: frames.get(j, set()) | set(at) for j, at in self._reaching().items()}

    def _baked(self, offsets: Mapping[str, float]) -> dict[str, Channel]:
        """What reaching does with the source's joints, as turns of the target's."""
        found: dict[str, Channel] = {}
        puppet = self.before.stance
        worlds = rest_worlds(puppet)
        row = {id: i for i, id in enumerate(self.before.skeleton.ids)}

        def turned(joint: str | None) -> np.ndarray[tuple[int], np.dtype[np.float64]]:
            if joint is None:
                world, rest = self.before.worlds[0], 0.0
            else:
                world, rest = self.before.worlds[row[joint]], float(np.arctan2(worlds[joint].b, worlds[joint].a))
            return np.unwrap(np.arctan2(world[1], world[0]) - rest)

        for one, frames in self._reaching().items():
            its = self.links.joints[one]
            by = np.rad2deg(turned(one) - turned(puppet.joints[one].parent))
            by -= 360 * np.round(by[0] / 360)
            values = self.between.turning(its) * by + offsets.get(one, 0.0)
            keys = {f: Key(value=(round(float(values[f]), PLACES),)) for f in frames}
            found[its] = Channel(joint=its, kind="turn", keys=keys)
        return found

    def _ground(self) -> Ground:
        ground = self.motion.ground
        level = ground.level
        if level is not None:
            level = round(self.between.place(0.0, level)[1], PLACES)
            if self.between.legged and self.motion.ground.level == anatomy(self.between.source).ground:
                level = anatomy(self.between.target).ground
        return Ground(level=level, runs=round(ground.runs * self.between.way, 6))


def _kept(key: Key, recipes: set[str]) -> Key:
    return key if key.recipe is None or key.recipe in recipes else key.changed(recipe=None, slot=None, hand=False)


def _several(count: int, noun: str) -> str:
    return f"{count} {noun}{'' if count == 1 else 's'}"
