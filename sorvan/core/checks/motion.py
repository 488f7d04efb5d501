"""Mistakes in a motion."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from sorvan.core.change.keys import KeyAt, NewKey, RemoveKeys, SetKeys, owner_name
from sorvan.core.change.plants import MatchTravel, PlantFoot
from sorvan.core.change.poses import InsertTime
from sorvan.core.change.production import SetMotion
from sorvan.core.change.retiming import MoveKeys, WrapKeys
from sorvan.core.checks.finding import Finding, mendable
from sorvan.core.errors import Refusal
from sorvan.core.geometry import Floats
from sorvan.core.model.channel import CHOICES, LONGEST, OF_PIECES, Channel, ChannelKind
from sorvan.core.model.documents import Documents
from sorvan.core.model.ease import Hold, Slow
from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import ROOT, Puppet
from sorvan.core.motion.feet import Track, tracks
from sorvan.core.motion.travel import ground_of, runs_of, stances
from sorvan.core.plan.dials import PLANT
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.plan.plants import travel_of
from sorvan.core.rig.anatomy import anatomy, has_legs
from sorvan.core.rig.facing import view_of
from sorvan.core.rig.skeleton import below, rest_worlds
from sorvan.core.timing.channels import keys_in_order, travels

SLIDES = 0.5
"""Units a frame that a standing foot may slide before it is told."""
SINKS = 1.0
"""Units that a foot may be below the ground before it is told."""
UNSEEN: dict[ChannelKind, float] = {"turn": 1.0, "move": 1.0, "scale": 0.01, "reach": 5.0, "dial": 2.0, "opacity": 5.0}
"""How much a channel may jump before anybody sees it: degrees, units, times its size, percent."""
SPIKE = 3.5
"""How many times larger than both its neighbours a step must be to be a pop."""
POPS = 14.0
"""Degrees in one frame below which nothing pops."""
QUICK = 2.0
"""How many times larger than nearly all other steps of the joint a pop is."""
NEAR = 2
"""Frames from a pose within which a key looks as if it was meant to be the pose's."""


@dataclass(frozen=True)
class Seen:
    """A motion evaluated, with what the checks ask of it worked out once."""

    evaluation: Evaluation
    motion: Motion

    @property
    def puppet(self) -> Puppet:
        return self.evaluation.puppet

    def owner(self, channel: Channel) -> str:
        return f"“{owner_name(self.puppet, channel.joint, channel.kind)}”"

    def joint(self, id: str) -> str:
        return f"“{self.puppet.joints[id].name}”"

    @cached_property
    def ground(self) -> float:
        return ground_of(self.motion, self.puppet)

    @cached_property
    def feet(self) -> list[Track]:
        return tracks(self.evaluation, anatomy(self.puppet).legs) if has_legs(self.puppet) else []

    def slide(self, foot: Track) -> Floats:
        travel = travel_of(self.motion).real
        return foot.slide(self.ground, self.motion.ground.runs, self.motion.cycle, travel)

    def held(self, joint: str) -> NDArray[np.bool_]:
        """In which frames a joint is wholly planted."""
        found = self.evaluation.values.get(f"{joint}.{PLANT}")
        return np.zeros(self.motion.length, dtype=bool) if found is None else found[0] >= 1

    def turned(self, joint: str) -> Floats:
        """How far a joint is turned from its rest in the end, after reaching and planting (degrees)."""
        local = self.evaluation.places.planted[self.evaluation.rig.row[joint]]
        way = np.where(local[0] ** 2 + local[1] ** 2 > 0, np.arctan2(local[1], local[0]), 0.0)
        # A size below nought turns the axis round, which is no turn.
        scale = self.evaluation.values.get(f"{joint}.scale")
        if scale is not None:
            way = np.where(scale[0] < 0, way + np.pi, way)
        rest = self.puppet.joints[joint].rest
        way = way + (np.pi if rest.sx < 0 else 0.0) - np.deg2rad(rest.angle)
        found: Floats = np.rad2deg(np.unwrap(way))
        return found - 360.0 * float(np.round(found[0] / 360))


Check = Callable[[Seen], Iterator[Finding]]


def findings(evaluation: Evaluation) -> list[Finding]:
    """Every likely mistake in the motion that was evaluated, the gravest kinds first. Mends that would be
    refused are left out."""
    motion = evaluation.motion
    if motion is None or evaluation.blocking:
        return []
    seen = Seen(evaluation, motion)
    documents = Documents({evaluation.puppet.id: evaluation.puppet, motion.id: motion})
    return [mendable(f, documents) for check in CHECKS for f in check(seen)]


def frames_said(first: int, last: int) -> str:
    """Frames as they are counted on the screen."""
    return f"at frame {first + 1}" if first == last else f"between frames {first + 1} and {last + 1}"


def first_picture_twice(seen: Seen) -> Iterator[Finding]:
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


def seam(seen: Seen) -> Iterator[Finding]:
    """Values, and their speed, that jump where a cycle leads back to its beginning."""
    motion = seen.motion
    if not motion.cycle or motion.length < 6:
        return
    for id, channel in motion.channels.items():
        if channel.kind in CHOICES or id not in seen.evaluation.keyed:
            continue
        values = seen.evaluation.keyed[id]
        grown = np.zeros(len(values))
        if travels(channel, motion.length, True):
            grown = np.array(channel.keys[motion.length].value) - np.array(channel.keys[0].value)
        ring = np.concatenate([values, values[:, :3] + grown[:, None]], axis=1)
        steps = np.diff(ring, axis=1)
        least = UNSEEN[channel.kind]
        n = motion.length
        # The step over the seam against those on both sides of it, and the largest anywhere else.
        over, sides = steps[:, n - 1], np.abs(steps[:, [n - 2, n]]).max(axis=1)
        elsewhere = np.abs(np.delete(steps[:, : n + 1], n - 1, axis=1)).max(axis=1)
        jump = float((np.abs(over) - np.maximum(2.5 * sides, 1.5 * elsewhere)).max())
        unit = _unit(channel.kind)
        if jump > least:
            yield Finding(
                "seam",
                f"{seen.owner(channel)} jumps by {float(np.abs(over).max()):.1f} {unit} where the cycle starts again.",
                joints=_joints(seen, channel),
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
                joints=_joints(seen, channel),
                frame=0,
                keys=((id, 0),) if 0 in channel.keys else (),
                mend=_slowed(seen, channel),
                mending="Slow it into and out of the seam",
            )


def _joints(seen: Seen, channel: Channel) -> tuple[str, ...]:
    return (channel.joint,) if channel.joint in seen.puppet.joints else ()


def _unit(kind: ChannelKind) -> str:
    return {"turn": "degrees", "move": "units", "scale": "times its size"}.get(kind, "percent")


def _led_on(seen: Seen, channel: Channel) -> SetKeys | None:
    """The gap over the seam drawn in between instead of held."""
    line = keys_in_order(channel, seen.motion.length, True)
    if len(line) < 2 or not isinstance(line[-2][1].ease, Hold):
        return None
    frame, key = line[-2]
    return SetKeys(motion=seen.motion.id, keys=(NewKey(joint=channel.joint, kind=channel.kind, frame=frame, value=key.value, ease=Slow(out=50, into=50)),))  # fmt: skip


def _slowed(seen: Seen, channel: Channel) -> SetKeys | None:
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


def sliding_feet(seen: Seen) -> Iterator[Finding]:
    """Feet that slide while they stand."""
    motion = seen.motion
    found: list[tuple[Track, int, int, float]] = []
    for foot in seen.feet:
        slide = np.where(seen.held(foot.joint), 0.0, seen.slide(foot))
        for start, frames in runs_of(slide > SLIDES, motion.cycle, shortest=2):
            found.append((foot, start, frames, float(slide[(start + np.arange(frames)) % motion.length].max())))
    if (skating := _skating(seen)) is not None:
        yield skating
        return
    for foot, start, frames, most in found:
        yield Finding(
            "foot slide",
            f"{seen.joint(foot.joint)} slides by up to {most:.1f} units a frame"
            f" {frames_said(start, (start + frames) % motion.length)}.",
            joints=(foot.joint,),
            frame=start,
            mend=_planted(seen, foot, start, frames + 1),
            mending="Plant it there",
        )


def _skating(seen: Seen) -> Finding | None:
    """A walk on the spot under which the ground does not go by."""
    motion = seen.motion
    if not motion.cycle or motion.ground.runs or travel_of(motion) or motion.plants or not has_legs(seen.puppet):
        return None
    try:
        found, speed = stances(motion, seen.puppet)
    except Refusal:
        return None
    joints = tuple(dict.fromkeys(s.joint for s in found))
    if len(joints) < 2 or abs(speed) < SLIDES:
        return None
    return Finding(
        "foot slide",
        f"The feet slide by {abs(speed):.1f} units a frame: the puppet walks on the spot, and the ground does not go by.",
        joints=joints,
        frame=found[0].start,
        mend=MatchTravel(motion=motion.id),
        mending="Match the ground to the stride",
    )


def _planted(seen: Seen, foot: Track, start: int, frames: int) -> PlantFoot:
    n = 1
    while f"mend-{n}" in seen.motion.plants:
        n += 1
    return PlantFoot(motion=seen.motion.id, id=f"mend-{n}", joint=foot.joint, start=start, frames=frames)


def out_of_reach(seen: Seen) -> Iterator[Finding]:
    """What is planted where its limb can't reach."""
    motion = seen.motion
    for joint in dict.fromkeys(p.joint for p in motion.plants.values()):
        foot, row = seen.evaluation.rig.footing(seen.puppet, joint), seen.evaluation.rig.row[joint]
        plant = seen.evaluation.values[f"{joint}.{PLANT}"]
        missed = np.abs(foot.stands(seen.evaluation.worlds[row]) - (plant[1] + 1j * plant[2]))
        for start, frames in runs_of(seen.held(joint) & (missed > SLIDES), motion.cycle, shortest=1):
            most = float(missed[(start + np.arange(frames)) % motion.length].max())
            yield Finding(
                "planted out of reach",
                f"{seen.joint(joint)} is planted where its limb can't reach: it misses by up to {most:.1f} units"
                f" {frames_said(start, (start + frames - 1) % motion.length)}. Bring the body nearer, or let it go sooner.",
                joints=(joint,),
                frame=start,
            )


def sunken_feet(seen: Seen) -> Iterator[Finding]:
    """Feet that go through the ground."""
    for foot in seen.feet:
        deep = foot.lowest - seen.ground
        for start, frames in runs_of(deep > SINKS, seen.motion.cycle, shortest=1):
            most = float(deep[(start + np.arange(frames)) % seen.motion.length].max())
            yield Finding(
                "foot through the ground",
                f"{seen.joint(foot.joint)} goes {most:.1f} units into the ground"
                f" {frames_said(start, (start + frames - 1) % seen.motion.length)}.",
                joints=(foot.joint,),
                frame=start,
                mend=_planted(seen, foot, start, frames),
                mending="Plant it there",
            )


def pops(seen: Seen) -> Iterator[Finding]:
    """Joints that jump in a single frame, unlike before and after."""
    motion, n = seen.motion, seen.motion.length
    if n < 6:
        return
    for id in seen.puppet.joints:
        if _as_planned(motion, f"{id}.turn"):
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
        held = _jumps_meant(motion, id)
        for at in spikes:
            # A jump over the seam is the seam's.
            if (motion.cycle and not 0 < at < n - 1) or held & {int(at) % n, (int(at) + 1) % n}:
                continue
            yield Finding(
                "pop",
                f"{seen.joint(id)} jumps by {size[at]:.0f}° from frame {at % n + 1} to {(at + 1) % n + 1},"
                " and moves little before and after.",
                joints=(id,),
                frame=int(at + 1) % n,
                keys=tuple((f"{id}.turn", int(f)) for f in (at, at + 1) if _has_key(motion, f"{id}.turn", int(f))),
            )


def _as_planned(motion: Motion, channel: str) -> bool:
    """Whether a recipe wrote all keys of a channel and nobody has changed them since."""
    held = motion.channels.get(channel)
    return held is not None and all(k.recipe is not None and not k.hand for k in held.keys.values())


def _has_key(motion: Motion, channel: str, frame: int) -> bool:
    return channel in motion.channels and frame in motion.channels[channel].keys


def _jumps_meant(motion: Motion, joint: str) -> set[int]:
    """The frames at which a joint's held keys give way to the next."""
    channel = motion.channels.get(f"{joint}.turn")
    if channel is None:
        return set()
    line = keys_in_order(channel, motion.length, motion.cycle)
    ends = {end for (_, key), (end, _) in pairwise(line) if isinstance(key.ease, Hold)}
    return {(end + round(channel.delay)) % motion.length for end in ends}


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


def stray_keys(seen: Seen) -> Iterator[Finding]:
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
                joints=_joints(seen, channel),
                frame=frame,
                keys=((id, frame),),
                mend=MoveKeys(motion=motion.id, keys=key, by=nearest - frame)
                if free
                else RemoveKeys(motion=motion.id, keys=key),
                mending=f"Move it to the pose at frame {nearest + 1}" if free else "Take it away",
            )


def beyond_limits(seen: Seen) -> Iterator[Finding]:
    """Keys that ask for more than a joint's limits let it turn, and joints led past them."""
    for id, joint in seen.puppet.joints.items():
        if joint.limits is None:
            continue
        low, high = joint.limits.low, joint.limits.high
        channel = seen.motion.channels.get(f"{id}.turn")
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
                keys=tuple((f"{id}.turn", f) for f in over),
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


def twins_together(seen: Seen) -> Iterator[Finding]:
    """Arms that swing with the leg of their own side in a walk."""
    motion, puppet = seen.motion, seen.puppet
    if not motion.cycle or motion.length < 8 or not has_legs(puppet) or view_of(puppet) == "front":
        return
    made = anatomy(puppet)
    if len(made.legs) != 2:
        return
    swings = [_swing(seen, leg.bones[0], leg.places[1] - leg.places[0]) for leg in made.legs]
    wide = min(np.ptp(s) for s in swings)
    # Legs that go by turns make it a walk or a run.
    if wide < 10 or _together(swings[0], swings[1]) > -0.5:
        return
    for arm in made.arms:
        own = next((s for s, leg in zip(swings, made.legs, strict=True) if leg.side == arm.side), None)
        swing = _swing(seen, arm.joints[0], arm.places[1] - arm.places[0])
        if own is None or np.ptp(swing) < 6 or _together(swing, own) < 0.4:
            continue
        channels = {f"{j}.turn" for j in below(puppet.joints, [arm.joints[0]])} & motion.channels.keys()
        keys = tuple(
            KeyAt(channel=c, frame=f) for c in sorted(channels) for f in motion.channels[c].keys if f < motion.length
        )
        half = motion.length // 2
        yield Finding(
            "arm with leg",
            f"{seen.joint(arm.joints[0])} swings forward with the leg of its own side; it should go with the other.",
            joints=(arm.joints[0],),
            frame=int(np.argmax(np.abs(swing - swing.mean()))),
            keys=tuple((k.channel, k.frame) for k in keys),
            mend=WrapKeys(motion=motion.id, keys=keys, by=half, start=0, end=motion.length - 1) if keys else None,
            mending="Let it swing half a cycle later",
        )


def _swing(seen: Seen, joint: str, bone: complex) -> Floats:
    """Where a bone points over time (degrees), as it lies at rest `bone`."""
    inward = rest_worlds(seen.puppet)[joint].inverse()
    x, y = inward.arrow((bone.real, bone.imag))
    m = seen.evaluation.worlds[seen.evaluation.rig.row[joint]]
    angle = np.arctan2(m[1] * x + m[3] * y, m[0] * x + m[2] * y)
    found: Floats = np.rad2deg(np.unwrap(angle))
    return found


def _together(one: Floats, two: Floats) -> float:
    a, b = one - one.mean(), two - two.mean()
    size = float(np.sqrt((a**2).sum() * (b**2).sum()))
    return float((a * b).sum()) / size if size > 1e-9 else 0.0


def beyond_the_end(seen: Seen) -> Iterator[Finding]:
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
        joints=tuple(dict.fromkeys(j for id, _ in late for j in _joints(seen, motion.channels[id]))),
        frame=motion.length - 1,
        keys=tuple(late),
        mend=SetMotion(motion=motion.id, length=end + 1)
        if grows
        else RemoveKeys(motion=motion.id, keys=tuple(KeyAt(channel=c, frame=f) for c, f in late)),
        mending=f"Make it {end + 1} frames long" if grows else "Take them away",
    )


def hidden_keys(seen: Seen) -> Iterator[Finding]:
    """Keys of what can't be seen to move: pieces that are hidden, and joints that only reach."""
    puppet, motion = seen.puppet, seen.motion
    for id, channel in motion.channels.items():
        frame = min(min(channel.keys), motion.length - 1)
        if channel.kind in OF_PIECES:
            piece = puppet.pieces.get(channel.joint)
            if piece is not None and puppet.unseen(piece):
                yield _hidden(
                    seen, id, frame, f"{seen.owner(channel)} is hidden, so its keys are not seen.", (piece.id,)
                )
            continue
        if channel.joint in puppet.joints and channel.joint != ROOT and not _moves_anything(puppet, channel.joint):
            text = f"{seen.owner(channel)} moves only pieces that are hidden, so its keys are not seen."
            yield _hidden(seen, id, frame, text, ())
    for chain in puppet.chains.values():
        blend = seen.evaluation.values.get(f"{chain.id}.reach")
        if len(chain.joints) != 3 or (blend is not None and blend.min() < 100):
            continue
        for joint in chain.joints[:2]:
            turns = motion.channels.get(f"{joint}.turn")
            if turns is not None and len({k.value for k in turns.keys.values()}) > 1:
                text = f"{seen.joint(joint)} is keyed to turn, but “{chain.name}” reaches all the way and decides."
                yield _hidden(seen, turns.id, min(turns.keys), text, ())


def _hidden(seen: Seen, channel: str, frame: int, text: str, pieces: tuple[str, ...]) -> Finding:
    held = seen.motion.channels[channel]
    keys = tuple((channel, f) for f in held.keys)
    return Finding(
        "hidden keys", text, _joints(seen, held), pieces, frame=min(frame, seen.motion.length - 1), keys=keys
    )


def _moves_anything(puppet: Puppet, joint: str) -> bool:
    """Whether a piece that shows rides on the joint or what hangs on it, bends by it, or reaches for it."""
    under = below(puppet.joints, [joint])
    chained = {j for c in puppet.chains.values() if c.handle in under for j in c.joints}
    under = under | below(puppet.joints, list(chained)) if chained else under
    seen = [p for p in puppet.pieces.values() if not puppet.unseen(p)]
    return any(p.joint in under or (p.attach is not None and under & set(p.attach.nodes)) for p in seen) or not seen


CHECKS: Sequence[Check] = (
    beyond_the_end,
    first_picture_twice,
    seam,
    out_of_reach,
    sunken_feet,
    sliding_feet,
    pops,
    stray_keys,
    beyond_limits,
    twins_together,
    hidden_keys,
)
