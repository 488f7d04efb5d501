"""Commands on the keys of a motion."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Mapping
from typing import Annotated, Literal

from pydantic import Field

from sorvan.core.change.command import MotionCommand, Tried, several
from sorvan.core.errors import Refusal
from sorvan.core.model.base import Id, Number, Value
from sorvan.core.model.documents import Documents, owners
from sorvan.core.model.motion import (
    CHOICES,
    LONGEST,
    Channel,
    ChannelKind,
    Ease,
    Even,
    Frame,
    Hold,
    Key,
    Motion,
    Outside,
    channel_id,
)
from sorvan.core.model.puppet import ROOT, Chain, Dial, Joint, Piece, Puppet
from sorvan.core.motion.hand import typed
from sorvan.core.plan.dials import kind_of
from sorvan.core.timing.channels import evaluate


class KeyAt(Value):
    """A key, by its channel and frame."""

    channel: str
    frame: Frame


class NewKey(Value):
    """A value to key. Without an ease, the key keeps its own or takes that of the gap it falls in."""

    joint: Id
    kind: ChannelKind
    frame: Frame
    value: Annotated[tuple[Number, ...], Field(min_length=1, max_length=2)]
    ease: Ease | None = None


Keys = Annotated[tuple[KeyAt, ...], Field(min_length=1, max_length=100_000)]


class SetKeys(MotionCommand):
    """Key values; a key that is there already gets the new value."""

    do: Literal["set-keys"] = "set-keys"
    keys: Annotated[tuple[NewKey, ...], Field(min_length=1, max_length=100_000)]

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        keys: dict[str, dict[int, Key]] = {}
        made: dict[str, Channel] = {}
        for new in self.keys:
            if new.joint not in owners(puppet, new.kind):
                raise Refusal("A key is for something that is gone.", where=new.joint, kind="missing")
            if new.frame >= motion.length:
                raise Refusal(
                    f"Frame {new.frame + 1} lies beyond the end of “{motion.name}”, which has {motion.length} frames.",
                    remedy="Make the motion longer first.",
                )
            id = channel_id(new.joint, new.kind)
            if id not in keys:
                made[id] = motion.channels.get(id) or Channel(joint=new.joint, kind=new.kind)
                keys[id] = dict(made[id].keys)
            own = keys[id]
            ease = new.ease or (own[new.frame].ease if new.frame in own else _ease_at(own, new.frame, new.kind))
            own[new.frame] = Key(value=typed(new.kind, new.value), ease=ease)
        return motion.with_channels(*(made[id].changed(keys=own) for id, own in keys.items()))

    def label(self, documents: Documents) -> str:
        puppet = documents.puppet(documents.motion(self.motion).puppet)
        joints = sorted({k.joint for k in self.keys})
        frames = sorted({k.frame for k in self.keys})
        where = f"frame {frames[0] + 1}" if len(frames) == 1 else f"{len(frames)} frames"
        return (
            f"Key {several(len(joints), 'joint', owner_name(puppet, self.keys[0].joint, self.keys[0].kind))} at {where}"
        )


class KeyPose(MotionCommand):
    """Key the whole pose at a frame: every channel that has keys anywhere at what it holds there, and
    whatever is tried."""

    do: Literal["key-pose"] = "key-pose"
    frame: Frame
    tried: Tried = {}

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        held = {id: self._value(c, motion) for id, c in motion.channels.items()}
        keys = tuple(
            NewKey(joint=id.rpartition(".")[0], kind=kind_of(id), frame=self.frame, value=value)
            for id, value in (held | self.tried).items()
        )
        return SetKeys(motion=motion.id, keys=keys).on(motion, puppet) if keys else motion

    def _value(self, channel: Channel, motion: Motion) -> tuple[float, ...]:
        at = min(self.frame, motion.length - 1)
        return tuple(
            round(float(v), 4) for v in evaluate(channel, motion.length, motion.cycle, channel.kind in CHOICES)[:, at]
        )

    def label(self, documents: Documents) -> str:
        return f"Key the whole pose at frame {self.frame + 1}"


class ChosenKeys(MotionCommand):
    """A command on some keys of a motion. Raises `Refusal` if one of them is gone."""

    keys: Keys

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        chosen = _chosen(motion, self.keys)
        return motion.with_channels(
            *(motion.channels[id].changed(keys=self.rekeyed(motion, id, frames)) for id, frames in chosen.items())
        )

    @abstractmethod
    def rekeyed(self, motion: Motion, channel: str, chosen: set[int]) -> dict[int, Key]:
        """What the channel's keys are after this command, the chosen ones given by their frames."""


class RemoveKeys(ChosenKeys):
    """Take keys away; a channel without keys goes too."""

    do: Literal["remove-keys"] = "remove-keys"

    def rekeyed(self, motion: Motion, channel: str, chosen: set[int]) -> dict[int, Key]:
        return {f: k for f, k in motion.channels[channel].keys.items() if f not in chosen}

    def label(self, documents: Documents) -> str:
        channels = len({k.channel for k in self.keys})
        return f"Remove {several(len(self.keys), 'key')} on {several(channels, 'channel')}"


class MoveKeys(ChosenKeys):
    """Move keys by so many frames; a key they land on is replaced. In a cycle they go round the seam."""

    do: Literal["move-keys"] = "move-keys"
    by: Annotated[int, Field(ge=-LONGEST, le=LONGEST)]

    def rekeyed(self, motion: Motion, channel: str, chosen: set[int]) -> dict[int, Key]:
        held = motion.channels[channel].keys
        kept = {f: k for f, k in held.items() if f not in chosen}
        return {**kept, **{self._target(motion, f): held[f] for f in sorted(chosen)}}

    def _target(self, motion: Motion, frame: int) -> int:
        target = frame + self.by
        if motion.cycle:
            return target % motion.length
        if not 0 <= target < motion.length:
            raise Refusal(
                f"The keys would leave the motion's {motion.length} frames.",
                where=motion.name,
                remedy="Move them less far, or make the motion longer first.",
            )
        return target

    def landed(self, motion: Motion) -> tuple[KeyAt, ...]:
        """Where the keys are once they are moved."""
        return tuple(KeyAt(channel=k.channel, frame=self._target(motion, k.frame)) for k in self.keys)

    def label(self, documents: Documents) -> str:
        return f"Move {several(len(self.keys), 'key')} by {self.by:+d} {'frame' if abs(self.by) == 1 else 'frames'}"


class EaseGaps(ChosenKeys):
    """Give the gaps that start at these keys an ease."""

    do: Literal["ease-gaps"] = "ease-gaps"
    ease: Ease

    def rekeyed(self, motion: Motion, channel: str, chosen: set[int]) -> dict[int, Key]:
        held = motion.channels[channel].keys
        return {f: k.changed(ease=self.ease) if f in chosen else k for f, k in held.items()}

    def label(self, documents: Documents) -> str:
        names = {"even": "Even out", "hold": "Hold", "slow": "Ease", "bezier": "Ease"}
        return f"{names[self.ease.kind]} {several(len(self.keys), 'gap')}"


class SetOutside(MotionCommand):
    """Say what channels do before their first and after their last key."""

    do: Literal["set-outside"] = "set-outside"
    channels: Annotated[tuple[str, ...], Field(min_length=1)]
    outside: Outside

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        for id in self.channels:
            if id not in motion.channels:
                raise Refusal("A channel has no keys any more.", where=id, kind="missing")
        return motion.with_channels(*(motion.channels[id].changed(outside=self.outside) for id in self.channels))

    def label(self, documents: Documents) -> str:
        what = several(len(self.channels), "channel")
        return {
            "hold": f"Let {what} hold outside the keys",
            "repeat": f"Repeat {what}",
            "repeat-and-add": f"Repeat and add {what}",
            "back-and-forth": f"Play {what} back and forth",
        }[self.outside]


KeyCommand = SetKeys | KeyPose | RemoveKeys | MoveKeys | EaseGaps | SetOutside


def owner_name(puppet: Puppet, id: str, kind: ChannelKind) -> str:
    """What the owner of a channel is called; nothing if it is gone."""
    if id == ROOT:
        return puppet.name
    held: Mapping[str, Piece | Chain | Dial | Joint] = {
        "show": puppet.pieces,
        "reach": puppet.chains,
        "dial": puppet.dials,
    }.get(kind, puppet.joints)  # type: ignore[assignment]
    return held[id].name if id in held else ""


def _ease_at(keys: dict[int, Key], frame: int, kind: ChannelKind) -> Ease:
    before = [f for f in keys if f < frame]
    # A drawing stays until the next one is chosen.
    return keys[max(before)].ease if before else Hold() if kind == "show" else Even()


def _chosen(motion: Motion, keys: tuple[KeyAt, ...]) -> dict[str, set[int]]:
    """The chosen frames by channel. Raises `Refusal` if one of the keys is gone."""
    chosen: dict[str, set[int]] = {}
    for key in keys:
        channel = motion.channels.get(key.channel)
        if channel is None or key.frame not in channel.keys:
            raise Refusal(
                f"There is no key at frame {key.frame + 1} any more.",
                where=key.channel,
                remedy="Select the keys again.",
                kind="missing",
            )
        chosen.setdefault(key.channel, set()).add(key.frame)
    return chosen
