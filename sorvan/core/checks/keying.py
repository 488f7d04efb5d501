"""Mistakes of keys: where they lie, and whether anybody sees them."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from sorvan.core.change.keys import KeyAt, NewKey, RemoveKeys, SetKeys
from sorvan.core.change.production import SetMotion
from sorvan.core.change.retiming import MoveKeys
from sorvan.core.checks.finding import Finding
from sorvan.core.checks.motion_seen import MotionSeen
from sorvan.core.model.channels import belongs_to, channel_id
from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import Puppet
from sorvan.core.model.times import LONGEST
from sorvan.core.timing.channels import travels

NEAR = 2
"""Frames from a pose within which a key looks as if it was meant to be the pose's."""


def beside_poses(motion: Motion) -> dict[int, int]:
    """The frames so near to a pose that a key there looks as if it was meant to be the pose's, and that pose's
    frame. Where poses lie close together hardly any frame is beside one."""
    poses = sorted(f for f in motion.poses if f < motion.length)
    if len(poses) < 2:
        return {}
    after = [*poses[1:], poses[0] + motion.length if motion.cycle else motion.length + 3 * NEAR]
    found: dict[int, int] = {}
    for pose, following in zip(poses, after, strict=True):
        near = min(NEAR, (following - pose - 1) // 3)
        for n in range(1, near + 1):
            found.setdefault((pose + n) % motion.length if motion.cycle else pose + n, pose)
            if following < motion.length or motion.cycle:
                found.setdefault((following - n) % motion.length, following % motion.length)
    return {f: p for f, p in found.items() if f < motion.length and f not in motion.poses}


def stray_keys(seen: MotionSeen) -> Iterator[Finding]:
    """Single keys beside the poses, of channels that are otherwise keyed at poses."""
    motion = seen.motion
    poses = np.array([f for f in motion.poses if f < motion.length])
    if len(poses) < 2:
        return
    for id, channel in motion.channels.items():
        own = [f for f, k in channel.keys.items() if (k.recipe is None or k.hand) and f < motion.length]
        on = [f for f in channel.keys if f in motion.poses]
        off = [f for f in own if f not in motion.poses]
        # What is keyed between poses as often as at them is meant so.
        if not off or len(off) > 2 or len(on) < 2 or len(off) > len(on) / 2:
            continue
        for frame in off:
            away = np.abs(poses - frame)
            if motion.cycle:
                away = np.minimum(away, motion.length - away)
            nearest = int(poses[int(np.argmin(away))])
            free = nearest not in channel.keys and away.min() <= NEAR
            where = f"{int(away.min())} frame{'' if away.min() == 1 else 's'} from the nearest pose"
            key = (KeyAt(channel=id, frame=frame),)
            yield Finding(
                "stray key",
                f"{seen.owner(channel)} has a key at frame {frame + 1}, {where}.",
                joints=seen.joints_of(channel),
                frame=frame,
                keys=((id, frame),),
                mend=MoveKeys(motion=motion.id, keys=key, by=nearest - frame)
                if free
                else RemoveKeys(motion=motion.id, keys=key),
                mending=f"Move it to the pose at frame {nearest + 1}" if free else "Take it away",
            )


def nothing_moves(seen: MotionSeen) -> Iterator[Finding]:
    """Keys that all hold one value, in a motion that has time to move."""
    motion = seen.motion
    keyed = [c for c in motion.channels.values() if c.keys]
    if not keyed or motion.length < 2 or any(len({k.value for k in c.keys.values()}) > 1 for c in keyed):
        return
    frames = sorted({f for c in keyed for f in c.keys})
    where = f"only frame {frames[0] + 1} has keys" if len(frames) == 1 else "all keys of a thread hold the same"
    yield Finding(
        "nothing moves",
        f"Nothing moves: {where}. Go to another frame and pose the puppet otherwise there.",
        joints=tuple(dict.fromkeys(j for c in keyed for j in seen.joints_of(c))),
        frame=min(frames[0], motion.length - 1),
        keys=tuple((c.id, f) for c in keyed for f in c.keys),
    )


def beyond_limits(seen: MotionSeen) -> Iterator[Finding]:
    """Keys that ask for more than a joint's limits let it turn, and joints led past them."""
    for id, joint in seen.puppet.joints.items():
        if joint.limits is None:
            continue
        low, high = joint.limits.low, joint.limits.high
        channel = seen.motion.channels.get(channel_id(id, "turn"))
        over = {f: k for f, k in channel.keys.items() if not low - 0.5 <= k.value[0] <= high + 0.5} if channel else {}
        if channel is not None and over:
            frame = min(over)
            asked = over[frame].value[0]
            keys = tuple(
                NewKey(joint=id, kind="turn", frame=f, value=(min(max(k.value[0], low), high),), ease=k.ease)
                for f, k in over.items()
            )
            yield Finding(
                "limit broken",
                f"{seen.joint(id)} is keyed to {asked:.0f}° at frame {frame + 1}; its limits stop it at"
                f" {high if asked > high else low:.0f}°.",
                joints=(id,),
                frame=min(frame, seen.motion.length - 1),
                keys=tuple((channel_id(id, "turn"), f) for f in over),
                mend=SetKeys(motion=seen.motion.id, keys=keys),
                mending="Key it at its limit",
            )
            continue
        turned = seen.turned(id)
        turned = turned - 360 * np.round((turned - (low + high) / 2) / 360)
        past = np.maximum(low - turned, turned - high)
        if past.max(initial=0) > 1.0 and high - low < 359:
            at = int(np.argmax(past))
            yield Finding(
                "limit broken",
                f"{seen.joint(id)} is turned {past[at]:.0f}° past its limits at frame {at + 1}, to keep what it carries in its place.",
                joints=(id,),
                frame=at,
            )


def beyond_the_end(seen: MotionSeen) -> Iterator[Finding]:
    """Keys on frames that the motion does not have."""
    motion = seen.motion
    late: list[tuple[str, int]] = []
    for id, channel in motion.channels.items():
        last = motion.length if travels(channel, motion.length, motion.cycle) else motion.length - 1
        late += [(id, f) for f in channel.keys if f > last]
    if not late:
        return
    end, count = max(f for _, f in late), len(late)
    grows = not motion.cycle and end < LONGEST
    yield Finding(
        "key beyond the end",
        f"{count} key{'' if count == 1 else 's'} up to frame {end + 1} lie{'s' if count == 1 else ''} beyond the"
        f" motion's {motion.length} frames and {'is' if count == 1 else 'are'} never reached.",
        joints=tuple(dict.fromkeys(j for id, _ in late for j in seen.joints_of(motion.channels[id]))),
        frame=motion.length - 1,
        keys=tuple(late),
        mend=SetMotion(motion=motion.id, length=end + 1)
        if grows
        else RemoveKeys(motion=motion.id, keys=tuple(KeyAt(channel=c, frame=f) for c, f in late)),
        mending=f"Make it {end + 1} frames long" if grows else "Take them away",
    )


def hidden_keys(seen: MotionSeen) -> Iterator[Finding]:
    """Keys of what can't be seen to move: pieces that are hidden, and joints that only reach."""
    puppet, motion = seen.puppet, seen.motion
    moving = _moves_something(puppet)
    idle: list[str] = []
    for id, channel in motion.channels.items():
        if belongs_to(channel.kind) == "piece":
            piece = puppet.pieces.get(channel.joint)
            if piece is not None and puppet.unseen(piece):
                yield _hidden(seen, [id], f"{seen.owner(channel)} is hidden, so its keys are not seen.", (piece.id,))
        elif channel.joint in puppet.joints and moving and channel.joint not in moving:
            idle.append(id)
    if idle:
        owners = list(dict.fromkeys(seen.owner(motion.channels[id]) for id in idle))
        names = ", ".join(owners[:3]) + (f" and {len(owners) - 3} more" if len(owners) > 3 else "")
        one = len(owners) == 1
        text = f"{names} {'moves' if one else 'move'} only pieces that are hidden, so {'its' if one else 'their'} keys are not seen."
        yield _hidden(seen, idle, text, ())
    for chain in puppet.chains.values():
        blend = seen.evaluation.values.get(channel_id(chain.id, "reach"))
        if len(chain.joints) != 3 or (blend is not None and blend.min() < 100):
            continue
        for joint in chain.joints[:2]:
            turns = motion.channels.get(channel_id(joint, "turn"))
            if turns is not None and len({k.value for k in turns.keys.values()}) > 1:
                text = f"{seen.joint(joint)} is keyed to turn, but “{chain.name}” reaches all the way and decides."
                yield _hidden(seen, [turns.id], text, ())


def _hidden(seen: MotionSeen, channels: Sequence[str], text: str, pieces: tuple[str, ...]) -> Finding:
    held = [seen.motion.channels[c] for c in channels]
    keys = tuple((c.id, f) for c in held for f in c.keys)
    joints = tuple(dict.fromkeys(j for c in held for j in seen.joints_of(c)))
    first = min(f for _, f in keys)
    return Finding("hidden keys", text, joints, pieces, frame=min(first, seen.motion.length - 1), keys=keys)


def _moves_something(puppet: Puppet) -> frozenset[str]:
    """The joints and handles that a piece which shows rides on, bends by or is reached by, and all that these
    hang on; none at all if no piece shows."""
    found: set[str] = set()
    waiting = [
        n
        for p in puppet.pieces.values()
        if not puppet.unseen(p)
        for n in (p.joint, *(p.attach.nodes if p.attach else ()))
    ]
    by_joint: dict[str, list[str]] = {}
    for chain in puppet.chains.values():
        for joint in chain.joints:
            by_joint.setdefault(joint, []).append(chain.handle)
    while waiting:
        node = waiting.pop()
        if node not in found:
            found.add(node)
            above = puppet.joints[node].parent
            waiting += [*([above] if above else []), *by_joint.get(node, [])]
    return frozenset(found)
