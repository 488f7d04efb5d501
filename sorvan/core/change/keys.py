"""Commands on the keys of a motion."""

from __future__ import annotations

import math
from abc import abstractmethod
from collections.abc import Mapping
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from sorvan.core.change.command import MotionCommand, several
from sorvan.core.errors import Refusal
from sorvan.core.model.base import Id, Number, Value
from sorvan.core.model.channel import Channel, Key, Outside
from sorvan.core.model.channels import KINDS, ChannelKind, Owner, channel_id
from sorvan.core.model.documents import Documents, owners
from sorvan.core.model.ease import Ease, SpacingChart
from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import ROOT, Chain, Dial, Joint, Piece, Puppet
from sorvan.core.model.times import LONGEST, Frame
from sorvan.core.motion.hand import typed
from sorvan.core.motion.kept_poses import poses_kept
from sorvan.core.motion.keying import keyed
from sorvan.core.motion.recipes import left_out
from sorvan.core.plan.values import unkeyed
from sorvan.core.timing.channels import at, gaps


class KeyAt(Value):
    """A key, by its channel and frame."""

    channel: str
    frame: Frame


class NewKey(Value):
    """A value to key; of two numbers either may be null: it is what is seen there. Without an ease, the key keeps its own
    or takes that of the gap it falls in."""

    joint: Id
    kind: ChannelKind
    frame: Frame
    value: Annotated[tuple[Number | None, ...], Field(min_length=1, max_length=2)]
    ease: Ease | None = None

    def whole(self, channel: Channel, length: int, cycle: bool, rest: tuple[float, ...]) -> tuple[float, ...]:
        """The value with what is seen at its frame in a channel as it was before, which without keys is at `rest`. Raises
        `Refusal` if there are too many numbers or too few."""
        if None not in self.value or len(self.value) != len(rest):
            return typed(self.kind, tuple(math.nan if v is None else v for v in self.value))
        seen = at(channel, np.array([self.frame]), length, cycle)[:, 0] if channel.keys else rest
        return typed(self.kind, tuple(float(s) if v is None else v for v, s in zip(self.value, seen, strict=True)))


Keys = Annotated[tuple[KeyAt, ...], Field(min_length=1, max_length=100_000)]


class SetKeys(MotionCommand):
    """Key values; a key that is there already gets the new value. Where a channel gets its first key later than a card, or
    than the first frame, what was seen at each earlier one is keyed there too: nothing changes unseen."""

    do: Literal["set-keys"] = "set-keys"
    keys: Annotated[tuple[NewKey, ...], Field(min_length=1, max_length=100_000)]

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        keys: dict[str, dict[int, Key]] = {}
        made: dict[str, Channel] = {}
        for key in self.keys:
            if key.joint not in owners(puppet, key.kind):
                raise Refusal("A key is for something that is gone.", where=key.joint, kind="missing")
            id = channel_id(key.joint, key.kind)
            # What goes on from round to round has its round end there.
            goes_on = id in motion.channels and motion.channels[id].outside == "repeat-and-add"
            closing = key.frame == motion.length and motion.cycle and goes_on
            if key.frame >= motion.length and not closing:
                raise Refusal(
                    f"Frame {key.frame + 1} lies beyond the end of “{motion.name}”, which has {motion.length} frames.",
                    remedy="Make the motion longer first.",
                )
            if id not in keys:
                made[id] = motion.channels.get(id) or Channel(joint=key.joint, kind=key.kind)
                keys[id] = dict(made[id].keys)
            own = keys[id]
            rest = unkeyed(puppet, key.joint, key.kind, motion.seen)
            value = key.whole(made[id], motion.length, motion.cycle, rest)
            own[key.frame] = keyed(own, key.frame, key.kind, value, key.ease)
        after = motion.with_channels(*(made[id].changed(keys=own) for id, own in keys.items()))
        return poses_kept(motion, after, puppet, keys)

    def label(self, documents: Documents) -> str:
        puppet = documents.puppet(documents.motion(self.motion).puppet)
        joints = sorted({k.joint for k in self.keys})
        frames = sorted({k.frame for k in self.keys})
        where = f"frame {frames[0] + 1}" if len(frames) == 1 else f"{len(frames)} frames"
        return (
            f"Key {several(len(joints), 'joint', owner_name(puppet, self.keys[0].joint, self.keys[0].kind))} at {where}"
        )


class ChosenKeys(MotionCommand):
    """A command on some keys of a motion. Raises `Refusal` if one of them is gone."""

    keys: Keys

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        chosen = chosen_frames(motion, self.keys)
        return motion.with_channels(
            *(motion.channels[id].changed(keys=self.rekeyed(motion, id, frames)) for id, frames in chosen.items())
        )

    @abstractmethod
    def rekeyed(self, motion: Motion, channel: str, chosen: set[int]) -> dict[int, Key]:
        """What the channel's keys are after this command, the chosen ones given by their frames."""


class RemoveKeys(ChosenKeys):
    """Take keys away; a channel without keys goes too. What a recipe wrote there it will leave out."""

    do: Literal["remove-keys"] = "remove-keys"

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        return left_out(motion, chosen_frames(motion, self.keys), super().on(motion, puppet))

    def rekeyed(self, motion: Motion, channel: str, chosen: set[int]) -> dict[int, Key]:
        return {f: k for f, k in motion.channels[channel].keys.items() if f not in chosen}

    def label(self, documents: Documents) -> str:
        channels = len({k.channel for k in self.keys})
        return f"Remove {several(len(self.keys), 'key')} on {several(channels, 'channel')}"


class HoldThroughout(ChosenKeys):
    """Let a channel hold throughout what a chosen key of it holds (the first, if several are chosen): its other keys go."""

    do: Literal["hold-throughout"] = "hold-throughout"

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        chosen = chosen_frames(motion, self.keys)
        gone = {id: motion.channels[id].keys.keys() - {min(frames)} for id, frames in chosen.items()}
        return left_out(motion, gone, super().on(motion, puppet))

    def rekeyed(self, motion: Motion, channel: str, chosen: set[int]) -> dict[int, Key]:
        return {min(chosen): motion.channels[channel].keys[min(chosen)]}

    def label(self, documents: Documents) -> str:
        return f"Hold {several(len({k.channel for k in self.keys}), 'channel')} throughout"


class EaseGaps(ChosenKeys):
    """Give the gaps that start at these keys an ease."""

    do: Literal["ease-gaps"] = "ease-gaps"
    ease: Ease

    def rekeyed(self, motion: Motion, channel: str, chosen: set[int]) -> dict[int, Key]:
        held = motion.channels[channel].keys
        return {f: k.by_hand(ease=self.ease) if f in chosen else k for f, k in held.items()}

    def label(self, documents: Documents) -> str:
        names = {"even": "Even out", "hold": "Hold", "chart": "Chart"}
        return f"{names.get(self.ease.kind, 'Ease')} {several(len(self.keys), 'gap')}"


SNAPS = tuple(sorted({k / n for n in (6, 8) for k in range(-n // 2, n + n // 2 + 1)}))
"""Where a tick snaps to: halves and thirds, and halves of these."""


class ChartGaps(MotionCommand):
    """Draw the timing chart of gaps by hand: one tick of the gap `of` a key is moved `to` a progress, though not past the
    next, and all the gaps get the chart that comes of it."""

    do: Literal["chart-gaps"] = "chart-gaps"
    keys: Keys
    of: KeyAt
    tick: Annotated[int, Field(ge=1, lt=LONGEST)]
    to: Annotated[float, Field(ge=-0.5, le=1.5)]
    snap: bool = False

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        chart = self.charted(motion)
        return EaseGaps(motion=self.motion, keys=self.keys, ease=chart).on(motion, puppet)

    def charted(self, motion: Motion) -> SpacingChart:
        """The chart. Raises `Refusal` if the gap or its tick is gone."""
        chosen_frames(motion, (self.of,))
        channel = motion.channels[self.of.channel]
        gap = next((g for g in gaps(channel, motion.length, motion.cycle) if g.start == self.of.frame), None)
        count = gap.end - gap.start if gap else 0
        if gap is None or not 1 <= self.tick < count:
            raise Refusal("That tick is gone.", where=self.of.channel, remedy="Select the key again.", kind="missing")
        to = min(SNAPS, key=lambda s: abs(s - self.to)) if self.snap else self.to
        done = [float(p) for p in gap.progress]
        # Ticks keep their order; beyond the poses, and where they are out of order already, they go as they are pulled.
        low = done[self.tick - 1] if self.tick > 1 else -math.inf
        high = done[self.tick + 1] if self.tick < count - 1 else math.inf
        if low <= done[self.tick] <= high:
            to = min(max(to, low), high)
        done[self.tick] = round(to, 4)
        return SpacingChart(ticks=tuple((i / count, done[i]) for i in range(1, count)))

    def label(self, documents: Documents) -> str:
        return f"Chart {several(len(self.keys), 'gap')}"


class SetOutside(MotionCommand):
    """Say what channels do after their last key, and before their first if that is not the same."""

    do: Literal["set-outside"] = "set-outside"
    channels: Annotated[tuple[str, ...], Field(min_length=1)]
    outside: Outside
    before: Outside | None = None

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        for id in self.channels:
            if id not in motion.channels:
                raise Refusal("A channel has no keys any more.", where=id, kind="missing")
        given = {"outside": self.outside, "before": self.before}
        return motion.with_channels(*(motion.channels[id].changed(**given) for id in self.channels))

    def label(self, documents: Documents) -> str:
        what = several(len(self.channels), "channel")
        return {
            "hold": f"Let {what} hold outside the keys",
            "repeat": f"Repeat {what}",
            "repeat-and-add": f"Repeat and add {what}",
            "back-and-forth": f"Play {what} back and forth",
        }[self.outside]


KeyCommand = SetKeys | RemoveKeys | HoldThroughout | EaseGaps | ChartGaps | SetOutside


def owner_name(puppet: Puppet, id: str, kind: ChannelKind) -> str:
    """What the owner of a channel is called; nothing if it is gone."""
    if id == ROOT:
        return puppet.name
    all_: dict[Owner, Mapping[str, Piece | Chain | Dial | Joint]] = {
        "piece": puppet.pieces, "chain": puppet.chains, "dial": puppet.dials, "joint": puppet.joints,
    }  # fmt: skip
    held = all_[KINDS[kind].owner]
    return held[id].name if id in held else ""


def chosen_frames(motion: Motion, keys: tuple[KeyAt, ...]) -> dict[str, set[int]]:
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
