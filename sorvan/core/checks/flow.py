"""Mistakes in how a motion flows: at its seam, and from frame to frame."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise

import numpy as np

from sorvan.core.change.keys import NewKey, SetKeys
from sorvan.core.change.poses import InsertTime
from sorvan.core.checks.finding import Finding
from sorvan.core.checks.motion_seen import MotionSeen
from sorvan.core.geometry import Floats
from sorvan.core.model.channel import Channel
from sorvan.core.model.channels import KINDS, channel_id
from sorvan.core.model.ease import Hold, Slow
from sorvan.core.model.motion import Motion
from sorvan.core.plan.plants import travel_of
from sorvan.core.plan.turning import Between, turnaround_of
from sorvan.core.timing.channels import keys_in_order, travels

SPIKE = 3.5
"""How many times larger than both its neighbours a step must be to be a pop."""
POPS = 14.0
"""Degrees in one frame below which nothing pops."""
QUICK = 2.0
"""How many times larger than nearly all other steps of the joint a pop is."""


def first_picture_twice(seen: MotionSeen) -> Iterator[Finding]:
    """A cycle whose last frame shows its first picture again stops for a frame in every round."""
    motion, worlds = seen.motion, seen.evaluation.pieces
    if not motion.cycle or motion.length < 4 or travel_of(motion) or not len(worlds):
        return
    steps = np.abs(np.diff(worlds, axis=2)).max(axis=(0, 1))
    again = np.abs(worlds[:, :, -1] - worlds[:, :, 0]).max()
    if again < 1e-6 and np.median(steps) > 1e-3 and steps[0] > 1e-3 and steps[-1] > 1e-3:
        last = motion.length - 1
        yield Finding(
            "first picture twice",
            f"Frame {motion.length} shows the same picture as frame 1, so that the cycle stops for a frame in every round.",
            frame=last,
            mend=InsertTime(motion=motion.id, at=last, frames=-1),
            mending="Take the last frame out",
        )


def seam(seen: MotionSeen) -> Iterator[Finding]:
    """Values, and their speed, that jump where a cycle leads back to its beginning."""
    motion = seen.motion
    if not motion.cycle or motion.length < 6:
        return
    for id, channel in motion.channels.items():
        if KINDS[channel.kind].unseen is None or id not in seen.evaluation.keyed:
            continue
        shows = seen.showing(channel.joint)
        # What shows on neither side of the seam, or only appears there, is not seen to jump.
        if not (shows[-1] and shows[0]) and not (channel.kind == "opacity" and (shows[-1] or shows[0])):
            continue
        values = seen.evaluation.keyed[id]
        grown = np.zeros(len(values))
        if travels(channel, motion.length, True):
            grown = np.array(channel.keys[motion.length].value) - np.array(channel.keys[0].value)
        ring = np.concatenate([values, values[:, :3] + grown[:, None]], axis=1)
        steps = np.diff(ring, axis=1)
        least = KINDS[channel.kind].unseen or 0.0
        n = motion.length
        # The step over the seam against those on both sides of it, and the largest anywhere else.
        over, sides = steps[:, n - 1], np.abs(steps[:, [n - 2, n]]).max(axis=1)
        elsewhere = np.abs(np.delete(steps[:, : n + 1], n - 1, axis=1)).max(axis=1)
        jump = float((np.abs(over) - np.maximum(2.5 * sides, 1.5 * elsewhere)).max())
        unit = KINDS[channel.kind].unit
        if jump > least:
            yield Finding(
                "seam",
                f"{seen.owner(channel)} jumps by {float(np.abs(over).max()):.1f} {unit} where the cycle starts again.",
                joints=seen.joints_of(channel),
                frame=n - 1,
                keys=tuple((id, f) for f in (max(channel.keys),)),
                mend=_led_on(seen, channel),
                mending="Lead the last key on to the first",
            )
            continue
        turns = np.abs(np.diff(steps, axis=1)).max(axis=0)
        here, rest = float(turns[[n - 2, n - 1]].max()), np.delete(turns[: n + 1], [n - 2, n - 1])
        # Where a gait sets a foot down its speed changes in one frame, as it should.
        planned = any(k.recipe is not None and not k.hand for f, k in channel.keys.items() if f in (0, n))
        # What falls and bounces strikes there, at its fastest.
        strikes = channel.kind == "move" and float((steps[:, n - 1] * steps[:, n]).sum()) < 0
        if not planned and not strikes and here > 2 * least and here > 2.2 * float(rest.max()):
            yield Finding(
                "seam",
                f"The speed of {seen.owner(channel)} jumps by {here:.1f} {unit} a frame where the cycle starts again.",
                joints=seen.joints_of(channel),
                frame=0,
                keys=((id, 0),) if 0 in channel.keys else (),
                mend=_slowed(seen, channel),
                mending="Slow it into and out of the seam",
            )


def _led_on(seen: MotionSeen, channel: Channel) -> SetKeys | None:
    """The gap over the seam drawn in between instead of held."""
    line = keys_in_order(channel, seen.motion.length, True)
    if len(line) < 2 or not isinstance(line[-2][1].ease, Hold):
        return None
    frame, key = line[-2]
    return SetKeys(motion=seen.motion.id, keys=(NewKey(joint=channel.joint, kind=channel.kind, frame=frame, value=key.value, ease=Slow(out=50, into=50)),))  # fmt: skip


def _slowed(seen: MotionSeen, channel: Channel) -> SetKeys | None:
    """The gaps on both sides of the first key slow towards it and from it."""
    line = keys_in_order(channel, seen.motion.length, True)
    if 0 not in channel.keys or len(line) < 3:
        return None
    last, first = line[-2], line[0]
    keys = [
        NewKey(joint=channel.joint, kind=channel.kind, frame=last[0], value=last[1].value, ease=Slow(out=0, into=60)),
        NewKey(joint=channel.joint, kind=channel.kind, frame=first[0], value=first[1].value, ease=Slow(out=60, into=0)),
    ]
    if isinstance(last[1].ease, Slow):
        keys[0] = keys[0].changed(ease=Slow(out=last[1].ease.out, into=60))
    if isinstance(first[1].ease, Slow):
        keys[1] = keys[1].changed(ease=Slow(out=60, into=first[1].ease.into))
    return SetKeys(motion=seen.motion.id, keys=tuple(keys))


def pops(seen: MotionSeen) -> Iterator[Finding]:
    """Joints that jump in a single frame, unlike before and after, or away and back in two."""
    motion, n = seen.motion, seen.motion.length
    if n < 6:
        return
    given_way = _views_given_way(seen)
    for id in seen.puppet.joints:
        channel = channel_id(id, "turn")
        if _as_planned(motion, channel):
            continue
        turned = seen.turned(id)
        steps = np.diff(np.concatenate([turned, turned[:3]]) if motion.cycle else turned)
        if motion.cycle:
            steps = steps - 360 * np.round(steps / 360)
        size = np.abs(steps)
        if size.max(initial=0) < POPS:
            continue
        beside = np.maximum(np.concatenate([[0], size[:-1]]), np.concatenate([size[1:], [0]]))
        lone = (size > POPS) & (size > SPIKE * beside + 2)
        # What moves as fast elsewhere is only quick.
        spikes = [at for at in np.flatnonzero(lone) if size[at] > QUICK * np.quantile(np.delete(size, at), 0.85)]
        held, shows = _jumps_meant(motion, id), seen.showing(id)
        for alone in (at + 1 for at in _there_and_back(steps)):
            frame = alone % n
            if held & {(alone + k) % n for k in (-1, 0, 1)} or {alone - 1, alone} & given_way or not shows[frame]:
                continue
            yield Finding(
                "pop",
                f"{seen.joint(id)} jumps by {min(size[alone - 1], size[alone]):.0f}° to frame {frame + 1} and back,"
                " and moves little before and after.",
                joints=(id,),
                frame=frame,
                keys=((channel, frame),) if _has_key(motion, channel, frame) else (),
            )
        for at in spikes:
            # A jump over the seam is the seam's.
            if (motion.cycle and not 0 < at < n - 1) or int(at) in given_way or held & {int(at) % n, (int(at) + 1) % n}:
                continue
            if not (shows[at % n] and shows[(at + 1) % n]):
                continue
            yield Finding(
                "pop",
                f"{seen.joint(id)} jumps by {size[at]:.0f}° from frame {at % n + 1} to {(at + 1) % n + 1},"
                " and moves little before and after.",
                joints=(id,),
                frame=int(at + 1) % n,
                keys=tuple((channel, int(f)) for f in (at, at + 1) if _has_key(motion, channel, int(f))),
            )


def _there_and_back(steps: Floats) -> list[int]:
    """The steps after which there is one back in the very next frame, of hardly any before and after."""
    size = np.abs(steps)
    away, back = size[:-1], size[1:]
    before, after = np.concatenate([[0.0], size[:-2]]), np.concatenate([size[2:], [0.0]])
    less = np.minimum(away, back)
    found = (less > POPS) & (steps[:-1] * steps[1:] < 0) & (less > SPIKE * np.maximum(before, after) + 2)
    return [
        int(at) for at in np.flatnonzero(found) if less[at] > QUICK * np.quantile(np.delete(size, [at, at + 1]), 0.85)
    ]


def _views_given_way(seen: MotionSeen) -> set[int]:
    """The frames after which another view of a puppet is held."""
    dial = turnaround_of(seen.puppet)
    turned = seen.evaluation.values.get(channel_id(dial.id, "dial")) if dial is not None else None
    if dial is None or turned is None or dial.between != "hold":
        return set()
    return set(np.flatnonzero(np.diff(Between.of(dial, turned[0]).nearest)).tolist())


def _as_planned(motion: Motion, channel: str) -> bool:
    """Whether a recipe wrote all keys of a channel and nobody has changed them since."""
    held = motion.channels.get(channel)
    return held is not None and all(k.recipe is not None and not k.hand for k in held.keys.values())


def _has_key(motion: Motion, channel: str, frame: int) -> bool:
    return channel in motion.channels and frame in motion.channels[channel].keys


def _jumps_meant(motion: Motion, joint: str) -> set[int]:
    """The frames at which a joint's held keys give way to the next."""
    channel = motion.channels.get(channel_id(joint, "turn"))
    if channel is None:
        return set()
    line = keys_in_order(channel, motion.length, motion.cycle)
    ends = {end for (_, key), (end, _) in pairwise(line) if isinstance(key.ease, Hold)}
    return {(end + round(channel.delay)) % motion.length for end in ends}
