"""Feet that stay where they are in a shot: each time a foot is planted it gets one place on the stage, and keeps it
however its puppet is carried, slowed down, or comes from one motion into the next."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace

import numpy as np

from sorvan.core.geometry import Floats, inverse_block, place_in
from sorvan.core.late import late
from sorvan.core.model.channels import channel_id, owner_of
from sorvan.core.model.puppet import Puppet
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.plan.plants import firmness, travel_of
from sorvan.core.plan.travel import STRETCHED
from sorvan.core.plan.values import PLANT
from sorvan.core.rig.anatomy import anatomy, has_legs
from sorvan.core.shot.performance import Performance
from sorvan.core.shot.spans import SpanLayer
from sorvan.core.shot.travel import Carried, counting

ndimage = late("scipy.ndimage")

FIRM = 1e-6
"""The weight under which a foot is not held at all."""
NEAR = 0.3
"""The part of a leg's length within which a foot of another motion goes on standing where it stood."""
EASED = 9
"""Frames over which a puppet comes down when a leg would not reach, and up again."""


@dataclass(frozen=True)
class Planting:
    """One planting of a joint in the shot: at which of its times (their numbers), how firmly, how flat, and where on
    the stage."""

    joint: str
    at: np.ndarray
    weight: Floats
    flat: float
    place: complex
    layer: int


def stances(doing: Performance, on: Carried, puppet: Puppet) -> dict[str, list[Planting]]:
    """Every planting of each joint, in their order."""
    found: dict[str, list[Planting]] = {}
    for n, layer in enumerate(doing.lower):
        for stance in _stances(puppet, doing, n, layer, on):
            found.setdefault(stance.joint, []).append(stance)
    near = NEAR * (anatomy(puppet).leg if has_legs(puppet) else 0.0)
    return {joint: list(_matched(own, near)) for joint, own in found.items()}


def settled(
    found: Mapping[str, list[Planting]], times: Floats, by_frames: Mapping[str, list[Planting]]
) -> dict[str, list[Planting]]:
    """The plantings at other times than whole frames, each in the place that it has `by_frames`: where a foot stands
    does not depend on when pictures are taken."""

    def placed(stance: Planting) -> Planting:
        middle = float(times[stance.at].mean())
        same = [s for s in by_frames.get(stance.joint, []) if s.layer == stance.layer]
        nearest = min(same, key=lambda s: abs(float(s.at.mean()) - middle), default=stance)
        return replace(stance, place=nearest.place)

    return {joint: [placed(s) for s in own] for joint, own in found.items()}


def held_at(found: Mapping[str, list[Planting]], on: Carried) -> dict[str, Floats]:
    """For each planted joint, under its id and `plant`, how firmly, where (x, y in the puppet's own space) and how
    flat it is held, `(4, times)`."""
    frames = on.place.shape[1]
    inward = inverse_block(on.place)
    held: dict[str, Floats] = {}
    for joint, own in found.items():
        total, flat, place = np.zeros(frames), np.zeros(frames), np.zeros(frames, dtype=np.complex128)
        for stance in own:
            total[stance.at] += stance.weight
            flat[stance.at] += stance.weight * stance.flat
            place[stance.at] += stance.weight * stance.place
        some = total > FIRM
        share = np.where(some, total, 1.0)
        there = place / share
        at = place_in(inward, there.real, there.imag)
        x, told = on.played(at.real)
        values = np.stack([np.minimum(total, 1.0), x, at.imag, flat / share])
        held[channel_id(joint, PLANT)] = np.where(some & told, values, 0.0)
    return held


def lowered(evaluation: Evaluation, held: Mapping[str, Floats]) -> Floats:
    """How far down a puppet has to come at each time so that its legs reach where its feet are held (its own
    units), without a jerk. `evaluation` is of it with nothing planted.

    What is needed at one time is spread over those around it: the greatest of them, then the mean of these.
    """
    needed = np.zeros(evaluation.frames)
    for id, plant in held.items():
        foot = evaluation.rig.footing(evaluation.puppet, owner_of(id))
        if foot.bends < 2:
            continue
        worlds = evaluation.places.made[list(foot.rows)]
        places = worlds[:, 4] + 1j * worlds[:, 5]
        up, sole, columns = foot.roll(worlds[foot.foot])
        end = foot.tip(worlds[foot.foot])
        joint = places[2] if len(places) > 2 and foot.bends <= foot.foot else end
        length = STRETCHED * (np.abs(places[1] - places[0]) + np.abs(joint - places[1]))
        way = plant[1] + 1j * plant[2] + foot.lift(up, sole, columns) - (end - joint) - places[0]
        over = way.imag - np.sqrt(np.maximum(length**2 - way.real**2, 0))
        needed = np.maximum(needed, np.where(plant[0] > 0.5, over, 0.0))
    if not np.any(needed > 0):
        return np.zeros(evaluation.frames)
    most = ndimage.maximum_filter1d(needed, EASED, mode="nearest")
    found: Floats = ndimage.uniform_filter1d(most, EASED, mode="nearest")
    return found


def _stances(puppet: Puppet, doing: Performance, n: int, layer: SpanLayer, on: Carried) -> Iterator[Planting]:
    """The plantings of a span."""
    motion, when = layer.motion, layer.when
    if not motion.plants or not len(when.times):
        return
    counts = counting(doing.lower, layer, on.place.shape[1])[when.at]
    numbers = np.arange(on.place.shape[1])[when.at]
    travel = travel_of(motion)
    for plant in motion.plants.values():
        weight, since, rounds = firmness(motion, plant, when.times)
        held = weight * counts > FIRM
        turned = np.concatenate([[False], np.diff(on.flipped[when.at].astype(np.int8)) != 0])
        edges = held & (~np.roll(held, 1) | (np.diff(rounds, prepend=rounds[0]) != 0) | turned)
        edges[0] = held[0]
        starts = np.flatnonzero(edges)
        for i, start in enumerate(starts):
            limit = starts[i + 1] if i + 1 < len(starts) else len(held)
            stop = start + int(np.argmin(np.append(held[start:limit], False)))
            own = np.arange(start, stop)
            firmest = start + int(np.argmax(weight[own] * counts[own]))
            x = plant.place[0] + motion.ground.runs * since[firmest] + travel.real * rounds[firmest]
            x -= travel.real * when.times[firmest] / motion.length
            at = int(numbers[firmest])
            place = _on_stage(puppet, on, at, on.in_view(at, x), plant.place[1])
            yield Planting(plant.joint, numbers[own], weight[own] * counts[own], float(plant.flat), place, n)


def _on_stage(puppet: Puppet, on: Carried, n: int, x: float, y: float) -> complex:
    """Where a place of the puppet's own space is on the stage; on a way the ground goes along with it."""
    if not on.way.points:
        return complex(place_in(on.place[:, n : n + 1], x, y)[0])
    ox, oy = puppet.origin
    a, b, c, d = (float(v) for v in on.linear[:, n])
    ahead = (x - ox) * on.forward * float(np.hypot(a, b)) * (-1 if on.back is not None and on.back[n] else 1)
    place = complex(on.base[n]) + complex(on.way.at(np.array([on.gone[n] + ahead]))[0])
    return place + complex(c * (y - oy), d * (y - oy))


def _matched(stances: list[Planting], near: float) -> Iterator[Planting]:
    """Stances of one joint, in their order; one of a motion that comes in while the same foot still stands near by
    goes on standing where it stood."""
    known: list[Planting] = []
    for stance in sorted(stances, key=lambda s: (int(s.at[0]), s.layer)):
        beside = [s for s in known if s.layer != stance.layer and stance.at[0] <= s.at[-1]]
        nearest = min(beside, key=lambda s: abs(stance.place - s.place), default=stance)
        if abs(stance.place - nearest.place) < near:
            stance = replace(stance, place=nearest.place)
        yield stance
        known.append(stance)
