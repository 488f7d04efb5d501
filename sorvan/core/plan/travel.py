"""Travel matched to the stride: where feet stand in a walk made by hand, how fast the ground goes by under
them, and plants that hold them there."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from itertools import count
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from sorvan.core.errors import Refusal
from sorvan.core.geometry import Floats, place_in
from sorvan.core.model.channel import Channel, Key
from sorvan.core.model.channels import channel_id
from sorvan.core.model.motion import Motion, Plant
from sorvan.core.model.puppet import ROOT, Puppet
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.plan.plants import travel_of
from sorvan.core.plan.turning import seen_from
from sorvan.core.rig.anatomy import Leg, anatomy, has_legs
from sorvan.core.timing.channels import evaluate

GroundWay = Literal["spot", "forward"]
LOW = 0.035
"""A foot whose lowest point is nearer to the ground than this part of the leg may be standing."""
STRETCHED = 0.997
"""The part of its length to which a leg is stretched at most to keep its foot where it is."""
SHORTEST = 2
"""Frames in the shortest stance."""
ON = channel_id(ROOT, "move")


@dataclass(frozen=True)
class Stance:
    """A foot on the ground for some frames; in a cycle it may go round the seam."""

    joint: str
    start: int
    frames: int


def ground_of(motion: Motion, puppet: Puppet) -> float:
    """How far down the ground under a motion lies (units)."""
    if motion.ground.level is not None:
        return motion.ground.level
    return anatomy(seen_from(puppet, motion.seen)).ground if has_legs(puppet) else puppet.origin[1]


@dataclass(frozen=True)
class _Foot:
    """A foot over the frames, before anything is planted: where its heel stands, or would, and how high its
    lowest point is above the ground."""

    leg: Leg
    joint: str
    heel: NDArray[np.complex128]
    height: Floats


def _feet(evaluation: Evaluation, ground: float) -> list[_Foot]:
    found = []
    for leg in anatomy(evaluation.stance).legs:
        joint = leg.foot or leg.bones[-1]
        footing = evaluation.rig.footing(evaluation.puppet, joint)
        world = evaluation.worlds[evaluation.rig.row[joint]]
        up, flat, _ = footing.roll(world)
        heel = footing.stands(world)
        low = np.where(up > 0, (heel + flat).imag if leg.toe is None else heel.imag, heel.imag)
        found.append(_Foot(leg, joint, heel, ground - low))
    return found


def stances(evaluation: Evaluation, motion: Motion) -> tuple[list[Stance], float]:
    """Where feet stand, as they are keyed: low, and carried back under the body; and how far the ground goes
    by under them in a frame (units, to the right if positive) if the puppet stayed where it is. `evaluation`
    is of the motion with nothing planted.

    Raises `Refusal` if the puppet has no legs, or none of them stands.
    """
    puppet = evaluation.puppet
    feet = _feet(evaluation, ground_of(motion, puppet))
    root = _standing_place(evaluation)
    size = anatomy(evaluation.stance).leg
    last = None if motion.cycle else 1
    moves = [np.roll((f.heel - root).real, -1) - (f.heel - root).real for f in feet]
    low = [f.height < LOW * size for f in feet]
    together = [lo & np.roll(lo, -1) for lo in low]
    if last:
        for t in together:
            t[-1] = False
    drift = sum(float(np.median(m[t])) for m, t in zip(moves, together, strict=True) if t.any())
    way = np.sign(drift)
    found: list[Stance] = []
    speeds: list[Floats] = []
    for foot, move, down in zip(feet, moves, together, strict=True):
        carried = down & (move * way > 0)
        for start, frames in runs_of(carried, motion.cycle):
            found.append(Stance(foot.joint, start, min(frames + 1, motion.length)))
            speeds.append(move[np.arange(start, start + frames) % motion.length])
    if not found:
        raise Refusal(
            f"No foot of “{puppet.name}” stands on the ground in “{motion.name}”.",
            where=motion.name,
            remedy="Bring the feet down to the ground line in the poses where they stand, or set the ground's level.",
        )
    return found, float(np.concatenate(speeds).mean())


def _standing_place(evaluation: Evaluation) -> NDArray[np.complex128]:
    return place_in(evaluation.worlds[0], *evaluation.puppet.origin)


def runs_of(on: NDArray[np.bool_], ring: bool, shortest: int = SHORTEST) -> list[tuple[int, int]]:
    """Where something is so for some frames on end: starts and lengths."""
    frames = len(on)
    if on.all():
        return [(0, max(frames - 1, 1))]
    if not on.any():
        return []
    first = int(np.flatnonzero(~on)[0]) if ring else 0
    turned = np.roll(on, -first) if ring else on
    edges = np.flatnonzero(np.diff(np.concatenate([[0], turned.astype(np.int8), [0]])))
    pairs = [(int(s), int(e)) for s, e in edges.reshape(-1, 2)]
    return [((s + first) % frames, e - s) for s, e in pairs if e - s >= shortest]


def matched(motion: Motion, puppet: Puppet, way: GroundWay, keeping: bool = False) -> Motion:
    """The motion with its travel equal to the stride, and its feet planted where they stand.

    On the spot the ground runs under it; forward the whole puppet is carried on. `keeping`, the ground goes on
    running as fast as it does, if it does. Raises `Refusal` as
    `stances` does.
    """
    bare = motion.changed(plants={})
    found, speed = stances(Evaluation.full(puppet, bare), motion)
    if keeping and motion.ground.runs:
        speed = motion.ground.runs
    level = round(ground_of(motion, puppet), 4)
    base = _without_travel(bare)
    if way == "forward":
        bare = bare.with_channels(_carried(bare, base, -speed))
        bare = bare.changed(ground=motion.ground.changed(level=level, runs=0.0))
    else:
        bare = _kept_on_spot(bare, base)
        bare = bare.changed(ground=motion.ground.changed(level=level, runs=round(speed, 6)))
    evaluation = Evaluation.full(puppet, bare)
    feet = {f.joint: f for f in _feet(evaluation, level)}
    reaches = {s.joint: _reach(evaluation, s.joint, level) for s in found}
    kept = {id: p for id, p in motion.plants.items() if p.joint not in {s.joint for s in found}}
    travel = travel_of(bare).real
    for stance in sorted(found, key=lambda s: (s.joint, s.start)):
        steps = np.arange(stance.start, stance.start + stance.frames)
        rounds, at = np.divmod(steps, motion.length)
        x = feet[stance.joint].heel[at].real + travel * rounds - bare.ground.runs * (steps - stance.start)
        gone = travel * rounds - bare.ground.runs * (steps - stance.start)
        low, high = (reach[at] + gone for reach in reaches[stance.joint])
        place, first, last = _where(float(x.mean()), low, high)
        id = free_id("stance", kept)
        start = (stance.start + first) % motion.length
        at_start = place + bare.ground.runs * first - travel * ((stance.start + first) // motion.length)
        kept[id] = Plant(
            id=id, joint=stance.joint, start=start, frames=last - first + 1, place=(round(at_start, 4), level)
        )
    return bare.changed(plants=kept)


def _where(wanted: float, low: Floats, high: Floats) -> tuple[float, int, int]:
    """The place nearest to a wanted one that lies within every frame's reach, and the first and last frame
    it holds for; where no place will do for all, the outer frames that ask for too much are let go."""
    first, last = 0, len(low) - 1
    while True:
        least, most = float(low[first : last + 1].max()), float(high[first : last + 1].min())
        if least <= most or last - first < SHORTEST:
            return min(max(wanted, least), max(most, least)), first, last
        # The end at which the reach lies farthest from the middle goes first.
        middle = (least + most) / 2
        over = [max(float(low[i]) - middle, middle - float(high[i])) for i in (first, last)]
        if over[0] > over[1]:
            first += 1
        else:
            last -= 1


def _reach(evaluation: Evaluation, joint: str, level: float) -> tuple[Floats, Floats]:
    """The leftmost and the rightmost place at which the heel of a foot can stand at each frame, its leg not
    quite stretched."""
    foot = evaluation.rig.footing(evaluation.puppet, joint)
    worlds = evaluation.worlds[list(foot.rows)]
    places = worlds[:, 4] + 1j * worlds[:, 5]
    far = np.full(evaluation.frames, 1e6)
    if foot.bends < 2:
        return -far, far
    up, sole, columns = foot.roll(worlds[foot.foot])
    end = foot.tip(worlds[foot.foot])
    joint_at = places[2] if len(places) > 2 and foot.bends <= foot.foot else end
    length = STRETCHED * (np.abs(places[1] - places[0]) + np.abs(joint_at - places[1]))
    # From the heel's place to where the bones that bend must end.
    off = foot.lift(up, sole, columns) - (end - joint_at)
    down = level + off.imag - places[0].imag
    half = np.sqrt(np.maximum(length**2 - down**2, 0))
    middle = places[0].real - off.real
    return middle - half, middle + half


def free_id(prefix: str, taken: Collection[str]) -> str:
    """The first numbered id with a prefix that isn't taken yet."""
    return next(id for n in count(1) if (id := f"{prefix}-{n}") not in taken)


def _without_travel(motion: Motion) -> Floats:
    """Where the whole puppet is keyed to be at each frame, without what carries it on."""
    channel = motion.channels.get(ON)
    if channel is None:
        return np.zeros((2, motion.length))
    values = evaluate(channel, motion.length, motion.cycle)
    travel = travel_of(motion)
    return values - np.stack([np.full(motion.length, t) for t in (travel.real, travel.imag)]) * (
        np.arange(motion.length) / motion.length
    )


def _carried(motion: Motion, base: Floats, speed: float) -> Channel:
    """The channel that carries the whole puppet on by so much a frame, beside what it is keyed to do."""
    last = motion.length if motion.cycle else motion.length - 1
    frames = [0, last] if not np.any(base - base[:, :1]) and last > 0 else list(range(last + 1))
    keys = {}
    for f in frames:
        x, y = base[:, f % motion.length]
        keys[f] = Key(value=(round(float(x) + speed * f, 4), round(float(y), 4)))
    return Channel(joint=ROOT, kind="move", keys=keys, outside="repeat-and-add" if motion.cycle else "hold")


def _kept_on_spot(motion: Motion, base: Floats) -> Motion:
    if not travel_of(motion):
        return motion
    if not np.any(base - base[:, :1]):
        return motion.changed(channels={id: c for id, c in motion.channels.items() if id != ON})
    keys = {f: Key(value=(round(float(x), 4), round(float(y), 4))) for f, (x, y) in enumerate(base.T)}
    return motion.with_channels(Channel(joint=ROOT, kind="move", keys=keys))
