"""The way of a joint over the stage: its keys and the handles of its smooth path, seen and pulled on the stage."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from sorvan.core.errors import Refusal, missing
from sorvan.core.geometry import IDENTITY, Affine, Point
from sorvan.core.model.channel import Channel, Key, Tangents
from sorvan.core.model.channels import channel_id
from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import ROOT, Puppet
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.timing.channels import keys_in_order, travels
from sorvan.core.timing.paths import tangents

End = Literal["before", "after"]


@dataclass(frozen=True)
class WayKey:
    """A key of a place on the stage, with where the handles of its path lie if that is smooth there."""

    frame: int
    at: Point
    before: Point | None = None
    after: Point | None = None


def way_keys(evaluation: Evaluation, joint: str) -> list[WayKey]:
    """The keys of a joint's place, where they are on the stage in their frames."""
    motion = evaluation.motion
    channel = motion.channels.get(channel_id(joint, "move")) if motion else None
    if motion is None or channel is None:
        return []
    handles = _handles(channel, motion)
    found: list[WayKey] = []
    for frame, key in channel.keys.items():
        if frame > motion.length - (not travels(channel, motion.length, motion.cycle)):
            continue
        on, rest = _space(evaluation, joint, min(frame, motion.length - 1))
        x, y = rest[0] + key.value[0], rest[1] + key.value[1]
        before, after = handles.get(frame, ((0.0, 0.0), (0.0, 0.0)))
        ends = None if key.tangents is None else [on.place((x + dx, y + dy)) for dx, dy in (before, after)]
        found.append(WayKey(frame, on.place((x, y)), *(ends or (None, None))))
    return found


def _handles(channel: Channel, motion: Motion) -> dict[int, tuple[Point, Point]]:
    line = keys_in_order(channel, motion.length, motion.cycle)
    ring = motion.cycle and not travels(channel, motion.length, motion.cycle)
    found = tangents([k for _, k in line], ring) if line else []
    return {f: h for (f, _), h in reversed([*zip(line, found, strict=True)])}


def _space(evaluation: Evaluation, joint: str, frame: int) -> tuple[Affine, Point]:
    """What takes a joint's place to the stage at a frame, and where its rest lies in that space."""
    if joint == ROOT:
        return IDENTITY, evaluation.puppet.origin
    if joint not in evaluation.puppet.joints:
        raise missing("joint", joint)
    rest = evaluation.puppet.joints[joint].rest
    above = evaluation.skeleton.parents[evaluation.rig.row[joint]]
    on = Affine(*evaluation.worlds[above, :, frame].tolist()) if above >= 0 else IDENTITY
    return on, (rest.x, rest.y)


def _key(motion: Motion, joint: str, frame: int) -> Key:
    channel = motion.channels.get(channel_id(joint, "move"))
    if channel is None or frame not in channel.keys:
        raise Refusal("That key is gone.", where=f"frame {frame + 1}", kind="missing")
    return channel.keys[frame]


def pulled_key(motion: Motion, puppet: Puppet, joint: str, frame: int, to: Point) -> Key:
    """A key of a joint's place with the joint at a point of the stage in its frame."""
    key = _key(motion, joint, frame)
    on, rest = _space(Evaluation.full(puppet, motion), joint, min(frame, motion.length - 1))
    x, y = on.inverse().place(to)
    return key.by_hand(value=(round(x - rest[0], 4), round(y - rest[1], 4)))


def pulled_handle(motion: Motion, puppet: Puppet, joint: str, frame: int, end: End, to: Point, alone: bool) -> Key:
    """A key with the handle on one side of its path at a point of the stage. The other stays in line with it,
    as long as it is (or as this, if it has no length), unless this is pulled `alone`."""
    key = _key(motion, joint, frame)
    on, rest = _space(Evaluation.full(puppet, motion), joint, min(frame, motion.length - 1))
    x, y = on.inverse().place(to)
    pulled = complex(x - rest[0] - key.value[0], y - rest[1] - key.value[1])
    handles = _handles(motion.channels[channel_id(joint, "move")], motion)
    other = complex(*handles[frame][1 if end == "before" else 0])
    if not alone and abs(pulled) > 1e-9:
        other = -pulled / abs(pulled) * (abs(other) if abs(other) > 1e-6 else abs(pulled))
    mine, others = (round(pulled.real, 4), round(pulled.imag, 4)), (round(other.real, 4), round(other.imag, 4))
    held = Tangents(before=mine, after=others) if end == "before" else Tangents(before=others, after=mine)
    return key.by_hand(tangents=held)
