"""Commands on many keys at once: scaled, reversed, pasted, delayed, baked, thinned, and their paths."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Collection
from typing import Annotated, Literal

from pydantic import Field

from sorvan.core.change.command import Command, MotionCommand, several
from sorvan.core.change.keys import ChosenKeys, KeyAt, Keys, chosen_frames
from sorvan.core.errors import Refusal, missing
from sorvan.core.model.base import Id
from sorvan.core.model.channel import Channel, Key, Tangents
from sorvan.core.model.channels import KINDS, NEUTRAL, ChannelId, channel_id
from sorvan.core.model.documents import Documents, owners
from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import Puppet
from sorvan.core.model.times import LONGEST, Frame
from sorvan.core.motion import sheet
from sorvan.core.motion.kept_poses import poses_kept
from sorvan.core.motion.mirror import mirrored_channel, mirrored_key
from sorvan.core.rig.facing import Facing, view_of
from sorvan.core.rig.skeleton import ancestors
from sorvan.core.timing.channels import ends_of_travel, travels

ManyChannels = Annotated[tuple[str, ...], Field(min_length=1, max_length=2000)]
Factor = Annotated[float, Field(ge=0.05, le=20)]


def within(motion: Motion, frame: int) -> int:
    """A frame that is one of the motion's; in a cycle, brought round the seam. Raises `Refusal` otherwise."""
    if motion.cycle:
        return frame % motion.length
    if not 0 <= frame < motion.length:
        raise Refusal(
            f"The keys would leave the motion's {motion.length} frames.",
            where=motion.name,
            remedy="Move them less far, or make the motion longer first.",
        )
    return frame


def _travel(motion: Motion, channel: Channel) -> tuple[float, ...]:
    """How much farther a channel is after each round of a cycle."""
    if not travels(channel, motion.length, motion.cycle):
        return tuple(0.0 for _ in NEUTRAL[channel.kind])
    return tuple(b - a for a, b in zip(channel.keys[0].value, channel.keys[motion.length].value, strict=True))


def _stay(motion: Motion) -> Refusal:
    return Refusal(
        "These keys say how far the cycle goes on in each round: they stay at its ends.",
        where=motion.name,
        remedy="Change their values, or choose others with them.",
    )


class LandingKeys(ChosenKeys):
    """A command that puts the chosen keys on other frames of their channels; a key they land on is replaced. Those that
    say how far a cycle goes on stay at its ends."""

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        chosen = chosen_frames(motion, self.keys)
        if all(f <= ends_of_travel(motion.channels[id], motion.length, motion.cycle) for id, f in chosen.items()):
            raise _stay(motion)
        return super().on(motion, puppet)

    @abstractmethod
    def to(self, motion: Motion, frame: int, span: tuple[int, int]) -> int:
        """The frame that a key goes to; `span` is that of all chosen keys."""

    def rekeyed(self, motion: Motion, channel: str, chosen: set[int]) -> dict[int, Key]:
        held = motion.channels[channel].keys
        ends = ends_of_travel(motion.channels[channel], motion.length, motion.cycle)
        chosen = chosen - ends
        landed = self.landing(motion, motion.channels[channel], chosen) if chosen else {}
        if len(landed) != len(chosen):
            raise Refusal(
                "There is no room: two keys would fall on one frame.",
                where=motion.name,
                remedy="Scale them less, or thin them first.",
            )
        if ends and 0 in landed:
            # What a round begins with it ends with, so much farther on.
            value = landed[0].value
            far = tuple(v + t for v, t in zip(value, _travel(motion, motion.channels[channel]), strict=True))
            landed[motion.length] = held[motion.length].by_hand(value=far)
        return {f: k for f, k in held.items() if f not in chosen} | landed

    def landing(self, motion: Motion, channel: Channel, chosen: Collection[int]) -> dict[int, Key]:
        """The chosen keys of a channel by the frames they land on; what goes round the seam of a cycle that goes on is so
        much farther on, or back."""
        span, travel = self._span(), _travel(motion, channel)
        found: dict[int, Key] = {}
        for frame in sorted(chosen):
            rounds, key = self.rounds(motion, frame), channel.keys[frame]
            value = tuple(v - rounds * t for v, t in zip(key.value, travel, strict=True)) if rounds else key.value
            found[self.to(motion, frame, span)] = key.by_hand(value=value)
        return found

    def rounds(self, motion: Motion, frame: int) -> int:
        """How many times a key goes round the seam of a cycle on its way."""
        return 0

    def landed(self, motion: Motion) -> tuple[KeyAt, ...]:
        """Where the keys are afterwards."""
        span = self._span()
        ends = {(c.id, f) for c in motion.channels.values() for f in ends_of_travel(c, motion.length, motion.cycle)}
        return tuple(
            k if (k.channel, k.frame) in ends else KeyAt(channel=k.channel, frame=self.to(motion, k.frame, span))
            for k in self.keys
        )

    def _span(self) -> tuple[int, int]:
        frames = [k.frame for k in self.keys]
        return min(frames), max(frames)


class MoveKeys(LandingKeys):
    """Move keys by so many frames; a key they land on is replaced. In a cycle they go round the seam."""

    do: Literal["move-keys"] = "move-keys"
    by: Annotated[int, Field(ge=-LONGEST, le=LONGEST)]

    def to(self, motion: Motion, frame: int, span: tuple[int, int]) -> int:
        return within(motion, frame + self.by)

    def rounds(self, motion: Motion, frame: int) -> int:
        return (frame + self.by) // motion.length if motion.cycle else 0

    def label(self, documents: Documents) -> str:
        return f"Move {several(len(self.keys), 'key')} by {self.by:+d} {'frame' if abs(self.by) == 1 else 'frames'}"


class ScaleKeys(LandingKeys):
    """Scale keys in time about a frame; they land on whole frames."""

    do: Literal["scale-keys"] = "scale-keys"
    about: Annotated[float, Field(ge=0, le=LONGEST)]
    factor: Factor

    def to(self, motion: Motion, frame: int, span: tuple[int, int]) -> int:
        return within(motion, self._scaled(frame))

    def rounds(self, motion: Motion, frame: int) -> int:
        return self._scaled(frame) // motion.length if motion.cycle else 0

    def _scaled(self, frame: int) -> int:
        return round(self.about + (frame - self.about) * self.factor)

    def label(self, documents: Documents) -> str:
        return f"Scale {several(len(self.keys), 'key')} to {100 * self.factor:g} % of their time"


class ReverseKeys(LandingKeys):
    """Play keys from their end to their start, in place, with the eases between them."""

    do: Literal["reverse-keys"] = "reverse-keys"

    def to(self, motion: Motion, frame: int, span: tuple[int, int]) -> int:
        return span[0] + span[1] - frame

    def landing(self, motion: Motion, channel: Channel, chosen: Collection[int]) -> dict[int, Key]:
        return sheet.reversed_keys(channel, chosen, *self._span())

    def label(self, documents: Documents) -> str:
        return f"Reverse {several(len(self.keys), 'key')}"


class WrapKeys(LandingKeys):
    """Shift keys by some frames inside a stretch, from its end round to its start."""

    do: Literal["wrap-keys"] = "wrap-keys"
    by: Annotated[int, Field(ge=-LONGEST, le=LONGEST)]
    start: Frame
    end: Frame

    def to(self, motion: Motion, frame: int, span: tuple[int, int]) -> int:
        if span[0] < self.start or span[1] > self.end:
            raise Refusal("Some keys lie outside the stretch to wrap in.", remedy="Make the stretch wider.")
        return self.start + (frame - self.start + self.by) % (self.end - self.start + 1)

    def label(self, documents: Documents) -> str:
        return f"Shift {several(len(self.keys), 'key')} round by {several(abs(self.by), 'frame')}"


class PasteKeys(Command):
    """Put copies of keys of a motion of the same puppet down from a frame on, `reverse`d in time or
    `mirrored` to the other side; or those of one joint `onto` others, each of them so many frames `later` than the one
    before."""

    do: Literal["paste-keys"] = "paste-keys"
    motion: Id
    source: Id
    keys: Keys
    at: Frame
    reverse: bool = False
    mirrored: bool = False
    view: Facing | None = None
    onto: Annotated[tuple[Id, ...], Field(max_length=200)] = ()
    later: Annotated[int, Field(ge=-240, le=240)] = 0

    def result(self, documents: Documents) -> Documents:
        motion, source = documents.motion(self.motion), documents.motion(self.source)
        if motion.puppet != source.puppet:
            raise Refusal("Those keys are another puppet's.", where=source.name, remedy="Copy keys of this puppet.")
        puppet = documents.puppet(motion.puppet)
        pasted = self._pasted(motion, source, puppet)
        ids = [channel_id(c.joint, c.kind) for c in pasted]
        return documents.with_(poses_kept(motion, motion.with_channels(*pasted), puppet, ids))

    def _pasted(self, motion: Motion, source: Motion, puppet: Puppet) -> list[Channel]:
        chosen = chosen_frames(source, self.keys)
        start, end = sheet.span(chosen)
        found: dict[str, Channel] = {}
        for id, frames in chosen.items():
            channel = source.channels[id]
            frames -= ends_of_travel(channel, source.length, source.cycle)
            if not frames:
                continue
            keys = {f: channel.keys[f] for f in frames}
            if self.reverse:
                keys = sheet.reversed_keys(channel, frames, start, end)
            fresh = {f: k.changed(recipe=None, slot=None, hand=False) for f, k in keys.items()}
            if self.mirrored:
                view = self.view or view_of(puppet)
                fresh = {f: mirrored_key(puppet, channel.joint, channel.kind, k, view) for f, k in fresh.items()}
            for n, owner in enumerate(self._owners(puppet, channel)):
                like = source.channels.get(channel_id(owner, channel.kind), channel)
                target = motion.channels.get(channel_id(owner, channel.kind)) or like.changed(joint=owner, keys={})
                landed = {within(motion, f - start + self.at + n * self.later): k for f, k in fresh.items()}
                if len(landed) != len(fresh):
                    raise Refusal(
                        f"There is no room: the keys lie over more than the {motion.length} frames of the cycle.",
                        where=motion.name,
                        remedy="Paste fewer, or make the motion longer first.",
                    )
                found[target.id] = target.changed(keys=target.keys | landed)
        if not found:
            raise _stay(source)
        return list(found.values())

    def _owners(self, puppet: Puppet, channel: Channel) -> tuple[str, ...]:
        """What gets the keys of a channel. Raises `Refusal` where that can't have them."""
        if not self.onto:
            return (mirrored_channel(puppet, channel) if self.mirrored else channel.joint,)
        if len({ChannelId.of(k.channel).owner for k in self.keys}) > 1:
            raise Refusal(
                "Those are keys of several, and would all go onto each.", remedy="Copy the keys of one joint only."
            )
        if KINDS[channel.kind].owner != "joint":
            raise Refusal(
                f"Only turns, places and sizes can go onto other joints, and not {KINDS[channel.kind].called}.",
                remedy="Copy keys of a joint's turn, place or size.",
            )
        for id in self.onto:
            if id not in owners(puppet, channel.kind):
                raise missing("joint", id)
        return self.onto

    def label(self, documents: Documents) -> str:
        how = " mirrored" if self.mirrored else " reversed" if self.reverse else ""
        onto = f" onto {several(len(self.onto), 'joint')}" if self.onto else ""
        return f"Paste {several(len(self.keys), 'key')}{how}{onto} at frame {self.at + 1}"


class ChannelsCommand(MotionCommand):
    """A command on whole channels of a motion."""

    channels: ManyChannels

    def held(self, motion: Motion) -> list[Channel]:
        """The channels. Raises `Refusal` if one has no keys any more."""
        for id in self.channels:
            if id not in motion.channels:
                raise Refusal("A channel has no keys any more.", where=id, remedy="Select it again.", kind="missing")
        return [motion.channels[id] for id in self.channels]


class SetDelay(ChannelsCommand):
    """Let channels come so many frames late, each further joint down a chain by `growing` more."""

    do: Literal["set-delay"] = "set-delay"
    delay: Annotated[float, Field(ge=-500, le=500)]
    growing: Annotated[float, Field(ge=-100, le=100)] = 0.0

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        held = self.held(motion)
        depths = {c.joint: len(ancestors(puppet.joints, c.joint)) if c.joint in puppet.joints else 0 for c in held}
        steps = {depth: n for n, depth in enumerate(sorted(set(depths.values())))}
        return motion.with_channels(
            *(c.changed(delay=round(self.delay + self.growing * steps[depths[c.joint]], 4)) for c in held)
        )

    def label(self, documents: Documents) -> str:
        late = f"{self.delay:g} frame{'' if abs(self.delay) == 1 else 's'} late"
        return f"Let {several(len(self.channels), 'channel')} come {late}{' and later down the chain' if self.growing else ''}"


class WriteDelay(ChannelsCommand):
    """Write the delay of channels into their keys."""

    do: Literal["write-delay"] = "write-delay"

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        return motion.with_channels(
            *(sheet.delay_written(c, motion.length, motion.cycle) for c in self.held(motion) if c.delay)
        )

    def label(self, documents: Documents) -> str:
        return f"Write the delay of {several(len(self.channels), 'channel')} into the keys"


class StretchCommand(ChannelsCommand):
    """A command on all frames of channels from `start` to `end`, both included."""

    start: Frame
    end: Frame

    def stretch(self, motion: Motion) -> tuple[int, int]:
        """The stretch as far as the motion goes. Raises `Refusal` if it is empty."""
        end = min(self.end, motion.length - 1)
        if end <= self.start:
            raise Refusal("The stretch is empty.", remedy="Choose an end that lies after the start.")
        return self.start, end


class BakeKeys(StretchCommand):
    """Key channels at every n-th frame of a stretch, at what they hold there."""

    do: Literal["bake-keys"] = "bake-keys"
    every: Annotated[int, Field(ge=1, le=240)] = 1

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        start, end = self.stretch(motion)
        return motion.with_channels(
            *(sheet.baked(c, motion.length, motion.cycle, start, end, self.every) for c in self.held(motion))
        )

    def label(self, documents: Documents) -> str:
        every = "every frame" if self.every == 1 else f"every {self.every} frames"
        return f"Key {several(len(self.channels), 'channel')} on {every}"


class ThinKeys(StretchCommand):
    """Leave the fewest keys in a stretch that keep every value within a tolerance (in the channel's unit)."""

    do: Literal["thin-keys"] = "thin-keys"
    tolerance: Annotated[float, Field(ge=0, le=1e4)] = 0.5

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        start, end = self.stretch(motion)
        return motion.with_channels(
            *(sheet.thinned(c, motion.length, motion.cycle, start, end, self.tolerance) for c in self.held(motion))
        )

    def label(self, documents: Documents) -> str:
        return f"Thin {several(len(self.channels), 'channel')} to within {self.tolerance:g}"


class ShapePath(ChosenKeys):
    """Make the path through keys of a place smooth, with these tangents or such as come out by
    themselves, or sharp."""

    do: Literal["shape-path"] = "shape-path"
    tangents: Tangents | None = None

    def rekeyed(self, motion: Motion, channel: str, chosen: set[int]) -> dict[int, Key]:
        held = motion.channels[channel]
        if held.kind != "move":
            raise Refusal("Only a place has a path.", remedy="Select keys of a place.")
        return {f: k.by_hand(tangents=self.tangents) if f in chosen else k for f, k in held.keys.items()}

    def label(self, documents: Documents) -> str:
        return f"Make the path {'sharp' if self.tangents is None else 'smooth'} at {several(len(self.keys), 'key')}"


RetimingCommand = (
    MoveKeys | ScaleKeys | ReverseKeys | WrapKeys | PasteKeys | SetDelay | WriteDelay | BakeKeys | ThinKeys | ShapePath
)
