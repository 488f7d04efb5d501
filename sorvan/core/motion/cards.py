"""The cards of the pose strip: each lasts until the next, and can be retimed, put elsewhere and copied whole."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from itertools import pairwise

from sorvan.core.errors import Refusal
from sorvan.core.model.channel import Channel, Key
from sorvan.core.model.channels import channel_id
from sorvan.core.model.motion import Motion, Pose
from sorvan.core.model.puppet import Puppet
from sorvan.core.motion.mirror import mirrored_channel, mirrored_key
from sorvan.core.motion.recipes import left_out
from sorvan.core.motion.retime import Bound, retimed, stretched
from sorvan.core.rig.facing import Facing
from sorvan.core.timing.channels import ends_of_travel, evaluate, travels
from sorvan.core.timing.laws import on_its_way


@dataclass(frozen=True)
class Card:
    """A pose from its frame up to where the next begins."""

    frame: int
    end: int
    pose: Pose

    @property
    def frames(self) -> int:
        """How long it lasts."""
        return self.end - self.frame


def cards(motion: Motion) -> list[Card]:
    """The cards of a motion in order; those beyond its end are left out."""
    frames = [f for f in motion.poses if f < motion.length]
    return [Card(f, end, motion.poses[f]) for f, end in pairwise([*frames, motion.length])]


def card(motion: Motion, frame: int) -> Card:
    """The card at a frame. Raises `Refusal` if there is none."""
    found = next((c for c in cards(motion) if c.frame == frame), None)
    if found is None:
        raise Refusal(
            f"There is no pose at frame {frame + 1} any more.",
            where=motion.name,
            remedy="Select the pose again.",
            kind="missing",
        )
    return found


def with_length(motion: Motion, frame: int, frames: int, follow: bool) -> Motion:
    """A card made to last so many frames. Later poses follow and the motion changes its length, or the
    next pose gives way. Raises `Refusal` where there is no room."""
    held = card(motion, frame)
    by = frames - held.frames
    last = held.end == motion.length
    if frames < 1:
        raise Refusal("A pose lasts at least one frame.", where=held.pose.label)
    inside = stretched(held.frame, held.end, held.frame, held.end + by)
    if follow or last:
        end = held.end

        def later(frame: int) -> int:
            return frame + by if frame >= end else inside(frame)

        return retimed(motion, later, motion.length + by)
    following = card(motion, held.end)
    if by >= following.frames:
        raise Refusal(
            f"The next pose has only {following.frames} frame{'s' if following.frames > 1 else ''} to give.",
            where=following.pose.label,
            remedy="Make it longer first, or let later poses follow.",
        )
    onward = stretched(following.frame, following.end, following.frame + by, following.end)
    return retimed(motion, lambda f: inside(f) if f < held.end else onward(f), motion.length)


def reordered(motion: Motion, frames: Collection[int], before: int | None) -> Motion:
    """Some cards put before another, or at the end; each keeps its length and all keys on it."""
    for f in frames:
        card(motion, f)
    row = cards(motion)
    chosen = [c for c in row if c.frame in frames]
    rest = [c for c in row if c.frame not in frames]
    at = len(rest) if before is None else next((i for i, c in enumerate(rest) if c.frame >= before), len(rest))
    return _laid(motion, [*rest[:at], *chosen, *rest[at:]], row[0].frame)


def _laid(motion: Motion, row: Sequence[Card], start: int) -> Motion:
    starts: dict[int, int] = {}
    at = start
    for c in row:
        starts[c.frame] = at
        at += c.frames
    shifts = [(c.frame, c.end, starts[c.frame] - c.frame) for c in row]

    def place(frame: int) -> int:
        return next((frame + by for first, end, by in shifts if first <= frame < end), frame)

    # How a cycle goes on is no part of its poses.
    still = [id for id, c in motion.channels.items() if travels(c, motion.length, motion.cycle)]
    return retimed(motion, place, motion.length, still=still)


def duplicated(motion: Motion, frames: Collection[int]) -> Motion:
    """Copies of some cards put in right after the last of them, as long as they are; what follows goes on later."""
    chosen = [card(motion, f) for f in sorted(frames)]
    end, room = chosen[-1].end, sum(c.frames for c in chosen)
    opened = retimed(motion, lambda f: f + room if f >= end else f, motion.length + room)
    found, at = opened, end
    for c in chosen:
        found = with_copies(found, motion, c.frame, c.end, at, None, "side")
        at += c.frames
    return found


def with_copies(
    motion: Motion, source: Motion, start: int, end: int, at: int, puppet: Puppet | None, view: Facing
) -> Motion:
    """The motion with copies of a source's keys and poses of frames start…end-1, put down from `at` on.

    With a puppet they are those of its other side. Copies are the hand's. What belongs to a sound is not copied.
    """
    by, spoken = at - start, Bound.of(source)
    keys: dict[str, dict[int, Key]] = {}
    made: dict[str, Channel] = {}
    for channel in source.channels.values():
        if travels(channel, source.length, source.cycle):
            continue
        own = spoken.of_channel(channel)
        inside = {f: k for f, k in channel.keys.items() if start <= f < end and f not in own}
        if not inside:
            continue
        owner = mirrored_channel(puppet, channel) if puppet else channel.joint
        like = channel if owner == channel.joint else source.channels.get(channel_id(owner, channel.kind), channel)
        target = motion.channels.get(like.id) or like.changed(joint=owner, keys={})
        made[target.id] = target
        held = keys.setdefault(target.id, dict(target.keys))
        for f, key in inside.items():
            fresh = key.changed(recipe=None, slot=None, hand=False)
            held[f + by] = mirrored_key(puppet, channel.joint, channel.kind, fresh, view) if puppet else fresh
    poses = {f + by: p.changed(recipe=None) for f, p in source.poses.items() if start <= f < end}
    kept = motion.with_channels(*(made[id].changed(keys=k) for id, k in keys.items()))
    return kept.changed(poses=motion.poses | poses)


def without(motion: Motion, frames: Collection[int]) -> Motion:
    """The motion without some poses and all keys at their frames, but for what belongs to a sound, and what says how far
    a cycle goes on."""
    bound = Bound.of(motion)
    gone = {
        c.id: frames_of(c).intersection(frames)
        - bound.of_channel(c).keys()
        - ends_of_travel(c, motion.length, motion.cycle)
        for c in motion.channels.values()
    }
    channels = [
        c.changed(keys={f: k for f, k in c.keys.items() if f not in gone[c.id]})
        for c in motion.channels.values()
        if gone[c.id]
    ]
    poses = {f: p for f, p in motion.poses.items() if f not in frames}
    return left_out(motion, gone, motion.with_channels(*channels).changed(poses=poses))


def frames_of(channel: Channel) -> set[int]:
    """The frames at which a channel has keys."""
    return set(channel.keys)


def mirrored_at(motion: Motion, puppet: Puppet, frame: int, view: Facing) -> Motion:
    """The sides of a pose swapped: each channel keyed at the frame gets what its counterpart holds there.

    A channel whose counterpart has no key there loses its own to it.
    """
    keyed = [c for c in motion.channels.values() if frame in c.keys]
    keys: dict[str, dict[int, Key]] = {c.id: {f: k for f, k in c.keys.items() if f != frame} for c in keyed}
    made: dict[str, Channel] = {c.id: c for c in keyed}
    for channel in keyed:
        owner = mirrored_channel(puppet, channel)
        id = channel_id(owner, channel.kind)
        if id not in made:
            made[id] = motion.channels.get(id) or channel.changed(joint=owner, keys={})
            keys[id] = dict(made[id].keys)
        given = mirrored_key(puppet, channel.joint, channel.kind, channel.keys[frame], view)
        ease = made[id].keys[frame].ease if frame in made[id].keys else given.ease
        keys[id][frame] = given.by_hand(ease=ease)
    return motion.with_channels(*(made[id].changed(keys=k) for id, k in keys.items()))


def half_mirrored(motion: Motion, puppet: Puppet, view: Facing) -> Motion:
    """The second half of a cycle made from its first: sides swapped, half a cycle later.

    Raises `Refusal` for a motion that is no cycle or has an odd number of frames.
    """
    if not motion.cycle or motion.length % 2:
        raise Refusal(
            f"“{motion.name}” is not a cycle." if not motion.cycle else "An odd number of frames has no half.",
            where=motion.name,
            remedy="Make it a cycle first." if not motion.cycle else "Make the cycle one frame longer or shorter.",
        )
    half = motion.length // 2
    late = [f for c in motion.channels.values() for f in c.keys if half <= f < motion.length]
    cleared = without(motion, set(late) | {f for f in motion.poses if half <= f < motion.length})
    return with_copies(cleared, cleared, 0, half, half, puppet, view)


def mixed(motion: Motion, first: int, second: int, percent: float, channels: Collection[str] | None) -> dict[str, Key]:
    """Keys, by channel, of a pose between two frames: so much of the way from the first to the second.

    Less than 0 or more than 100 percent goes beyond. A choice is the nearer one's. Only these channels,
    or all that have keys at either frame.
    """
    part = percent / 100
    found: dict[str, Key] = {}
    for id, channel in motion.channels.items():
        if channels is not None and id not in channels:
            continue
        if channels is None and not {first, second % motion.length} & frames_of(channel):
            continue
        still = channel.changed(delay=0.0)
        values = evaluate(still, motion.length, motion.cycle)
        one, two = values[:, first], values[:, second % motion.length]
        if second >= motion.length and not motion.cycle:
            two = one  # after the last pose there is nothing to go on to
        found[id] = Key(value=tuple(round(float(v), 4) for v in on_its_way(channel.kind, one, two, part)))
    return found
