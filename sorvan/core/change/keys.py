"""Commands on the keys of a motion."""

from __future__ import annotations

from collections.abc import Container, Mapping
from typing import Annotated, Literal

from pydantic import Field

from sorvan.core.change.command import Command, several
from sorvan.core.errors import Refusal
from sorvan.core.model.base import Id, Number, Value
from sorvan.core.model.documents import Documents
from sorvan.core.model.motion import (
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


class SetKeys(Command):
    """Key values; a key that is there already gets the new value."""

    do: Literal["set-keys"] = "set-keys"
    motion: Id
    keys: Annotated[tuple[NewKey, ...], Field(min_length=1, max_length=100_000)]

    def apply(self, documents: Documents) -> Documents:
        motion = documents.motion(self.motion)
        puppet = documents.puppet(motion.puppet)
        channels = dict(motion.channels)
        keys: dict[str, dict[int, Key]] = {}
        for new in self.keys:
            if new.joint not in owners(puppet, new.kind):
                raise Refusal("A key is for something that is gone.", where=new.joint, kind="missing")
            if new.frame >= motion.length:
                raise Refusal(
                    f"Frame {new.frame + 1} lies beyond the end of “{motion.name}”, which has {motion.length} frames.",
                    remedy="Make the motion longer first.",
                )
            id = channel_id(new.joint, new.kind)
            if id not in channels:
                channels[id] = Channel(joint=new.joint, kind=new.kind)
            own = keys.setdefault(id, dict(channels[id].keys))
            ease = new.ease or (own[new.frame].ease if new.frame in own else _ease_at(own, new.frame, new.kind))
            own[new.frame] = Key(value=typed(new.kind, new.value), ease=ease)
        for id, own in keys.items():
            channels[id] = channels[id].model_copy(update={"keys": dict(sorted(own.items()))})
        return documents.with_(motion.model_copy(update={"channels": channels}))

    def label(self, documents: Documents) -> str:
        puppet = documents.puppet(documents.motion(self.motion).puppet)
        joints = sorted({k.joint for k in self.keys})
        frames = sorted({k.frame for k in self.keys})
        where = f"frame {frames[0] + 1}" if len(frames) == 1 else f"{len(frames)} frames"
        return (
            f"Key {several(len(joints), 'joint', owner_name(puppet, self.keys[0].joint, self.keys[0].kind))} at {where}"
        )


class RemoveKeys(Command):
    """Take keys away; a channel without keys goes too."""

    do: Literal["remove-keys"] = "remove-keys"
    motion: Id
    keys: Keys

    def apply(self, documents: Documents) -> Documents:
        motion = documents.motion(self.motion)
        own = _chosen(motion, self.keys)
        channels = dict(motion.channels)
        for id, frames in own.items():
            left = {f: k for f, k in channels[id].keys.items() if f not in frames}
            if left:
                channels[id] = channels[id].model_copy(update={"keys": left})
            else:
                del channels[id]
        return documents.with_(motion.model_copy(update={"channels": channels}))

    def label(self, documents: Documents) -> str:
        channels = len({k.channel for k in self.keys})
        return f"Remove {several(len(self.keys), 'key')} on {several(channels, 'channel')}"


class MoveKeys(Command):
    """Move keys by so many frames; a key they land on is replaced. In a cycle they go round the seam."""

    do: Literal["move-keys"] = "move-keys"
    motion: Id
    keys: Keys
    by: Annotated[int, Field(ge=-LONGEST, le=LONGEST)]

    def apply(self, documents: Documents) -> Documents:
        motion = documents.motion(self.motion)
        channels = dict(motion.channels)
        for id, frames in _chosen(motion, self.keys).items():
            held = channels[id].keys
            kept = {f: k for f, k in held.items() if f not in frames}
            moved = {self._target(motion, f): held[f] for f in sorted(frames)}
            channels[id] = channels[id].model_copy(update={"keys": dict(sorted({**kept, **moved}.items()))})
        return documents.with_(motion.model_copy(update={"channels": channels}))

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

    def label(self, documents: Documents) -> str:
        return f"Move {several(len(self.keys), 'key')} by {self.by:+d} {'frame' if abs(self.by) == 1 else 'frames'}"


class SetEase(Command):
    """Give the gaps that start at these keys an ease."""

    do: Literal["set-ease"] = "set-ease"
    motion: Id
    keys: Keys
    ease: Ease

    def apply(self, documents: Documents) -> Documents:
        motion = documents.motion(self.motion)
        channels = dict(motion.channels)
        for id, frames in _chosen(motion, self.keys).items():
            eased = {
                f: k.model_copy(update={"ease": self.ease}) if f in frames else k for f, k in channels[id].keys.items()
            }
            channels[id] = channels[id].model_copy(update={"keys": eased})
        return documents.with_(motion.model_copy(update={"channels": channels}))

    def label(self, documents: Documents) -> str:
        names = {"even": "Even out", "hold": "Hold", "slow": "Ease", "bezier": "Ease"}
        return f"{names[self.ease.kind]} {several(len(self.keys), 'gap')}"


class SetOutside(Command):
    """Say what channels do before their first and after their last key."""

    do: Literal["set-outside"] = "set-outside"
    motion: Id
    channels: Annotated[tuple[str, ...], Field(min_length=1)]
    outside: Outside

    def apply(self, documents: Documents) -> Documents:
        motion = documents.motion(self.motion)
        channels = dict(motion.channels)
        for id in self.channels:
            if id not in channels:
                raise Refusal("A channel has no keys any more.", where=id, kind="missing")
            channels[id] = channels[id].model_copy(update={"outside": self.outside})
        return documents.with_(motion.model_copy(update={"channels": channels}))

    def label(self, documents: Documents) -> str:
        what = several(len(self.channels), "channel")
        return {
            "hold": f"Let {what} hold outside the keys",
            "repeat": f"Repeat {what}",
            "repeat-and-add": f"Repeat and add {what}",
            "back-and-forth": f"Play {what} back and forth",
        }[self.outside]


def owners(puppet: Puppet, kind: ChannelKind) -> Container[str]:
    """The ids that can have a channel of this kind."""
    match kind:
        case "show":
            return puppet.pieces
        case "reach":
            return puppet.chains
        case "dial":
            return puppet.dials
        case _:
            return puppet.joints.keys() | {ROOT}


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
