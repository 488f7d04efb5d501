"""Feet that stay: where planted joints stand in every frame, and legs turned so that they do.

A foot stands on its heel while its toe is up, on all of its sole while it lies flat, and on its ball, or the
tip of a stiff foot, while its heel is up; what it stands on stays where it is. Places are complex stage
units. Everything is element-wise, so that some frames give exactly the numbers that all give.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise
from typing import Any

import numpy as np
from numpy.typing import NDArray

from sorvan.core.geometry import IDENTITY, Affine, Complexes, Floats, compose_blocks, inverse_block, place_in
from sorvan.core.model.channels import channel_id
from sorvan.core.model.motion import Motion, Plant
from sorvan.core.model.puppet import ROOT, Puppet
from sorvan.core.plan.values import PLANT
from sorvan.core.rig.anatomy import Leg, anatomy, has_legs
from sorvan.core.rig.hinges import Hinges, bent, in_radians, signs_of, turned
from sorvan.core.rig.skeleton import Skeleton, below, rest_worlds
from sorvan.core.timing.channels import travels

CLEARLY = 0.05
"""Radians by which a knee must be bent to say which way it gives; below that its leg says."""


def travel_of(motion: Motion) -> complex:
    """How far a cycle carries the whole puppet on in each round (units)."""
    channel = motion.channels.get(channel_id(ROOT, "move"))
    if channel is None or not travels(channel, motion.length, motion.cycle):
        return 0j
    return complex(*channel.keys[motion.length].value) - complex(*channel.keys[0].value)


def planted(motion: Motion | None, blocking: bool = False) -> dict[str, Floats]:
    """For each joint that is planted, under its id and `plant`: how firmly (0…1), where (x, y) and how flat
    (0…1) it is held, `(4, frames)`."""
    if motion is None or not motion.plants:
        return {}
    time = np.arange(motion.length)
    if blocking:
        time = _held(motion, time)
    joints = {p.joint: [q for q in motion.plants.values() if q.joint == p.joint] for p in motion.plants.values()}
    travel = travel_of(motion)
    return {
        channel_id(joint, PLANT): _together([_one(motion, p, time, travel) for p in own])
        for joint, own in joints.items()
    }


def _held(motion: Motion, time: NDArray[np.int64]) -> NDArray[np.int64]:
    """Each frame's own key pose: the last frame up to it that has a card or a key."""
    keyed = {f for c in motion.channels.values() for f in c.keys if f < motion.length} | {0}
    starts = np.array(sorted(keyed | {f for f in motion.poses if f < motion.length}))
    found = starts[np.searchsorted(starts, time, side="right") - 1]
    return found


def _one(motion: Motion, plant: Plant, time: NDArray[np.int64], travel: complex) -> Floats:
    """One plant over the frames: weight, place, flat."""
    weight, since, rounds = firmness(motion, plant, time)
    x = plant.place[0] + motion.ground.runs * since + travel.real * rounds
    y = plant.place[1] + travel.imag * rounds
    return np.stack([weight, x, y + np.zeros(len(time)), np.full(len(time), 1.0 if plant.flat else 0.0)])


def firmness(motion: Motion, plant: Plant, time: NDArray[Any]) -> tuple[Floats, NDArray[Any], NDArray[Any]]:
    """How firmly a plant holds its joint (0…1) at these times (frames, whole or in parts), how many frames since its
    begin, and which round of a cycle it belongs to."""
    since, rounds = time - plant.start, np.zeros(len(time), dtype=np.int64)
    after = since - (plant.frames - 1)
    if motion.cycle:
        # The frames before a plant belong to its next round.
        rounds, since = np.divmod(since + plant.fade, motion.length)
        since = since - plant.fade
        last = (since < 0) & (since + motion.length - (plant.frames - 1) < -since)
        since, rounds = np.where(last, since + motion.length, since), np.where(last, rounds - 1, rounds)
        after = since - (plant.frames - 1)
    away = np.maximum(np.maximum(-since, after), 0)
    u = np.clip(1 - away / (plant.fade + 1), 0.0, 1.0)
    return u * u * (3 - 2 * u), since, rounds


def _together(found: list[Floats]) -> Floats:
    """Several plants of one joint: where one fades into the next, each counts by its weight."""
    if len(found) == 1:
        return found[0] * np.where(found[0][0] > 0, 1.0, 0.0)
    weights = np.stack([f[0] for f in found])
    total = weights.sum(axis=0)
    share = weights / np.maximum(total, 1e-12)
    rest = [(share * np.stack([f[i] for f in found])).sum(axis=0) for i in (1, 2, 3)]
    return np.stack([np.minimum(total, 1.0), *rest])


@dataclass(frozen=True)
class Footing:
    """A joint that can be planted, made ready: the `rows` of its leg from the hip down to itself, of which
    the first `bends` are turned to bring it there, and the last is its toe if it has one (`toes`). Without
    `foots` it is the end of a bone itself.

    `heel`, `ball` and `end` are at rest on the stage: where it stands on its heel, rolls, and where its
    bones end (its ankle). `at_rest` are the joints' transforms to the stage with nothing moved.
    """

    rows: tuple[int, ...]
    bends: int
    foots: bool
    toes: bool
    parent: int
    under: frozenset[int]
    hinges: Hinges
    heel: complex
    ball: complex
    end: complex
    at_rest: tuple[Affine, ...]

    @property
    def foot(self) -> int:
        """Which of its rows is the planted joint's."""
        return len(self.rows) - 1 - self.toes

    def roll(self, foot: Floats) -> tuple[Floats, Complexes, Complexes]:
        """How far its heel is up (radians, negative with the toe up), where its flat sole points from heel to
        ball, and the linear part that takes rest to now (as two complex columns), for the transforms
        `(6, frames)` that take the joint to the stage."""
        inward = self.at_rest[self.foot].inverse()
        a, b, c, d = foot[:4]
        m = np.stack([a * inward.a + c * inward.b, b * inward.a + d * inward.b])
        n = np.stack([a * inward.c + c * inward.d, b * inward.c + d * inward.d])
        columns: Complexes = np.stack([m[0] + 1j * m[1], n[0] + 1j * n[1]])
        sole = self.ball - self.heel if abs(self.ball - self.heel) > 1e-9 else 1 + 0j
        size = np.sqrt(np.abs(m[0] * n[1] - m[1] * n[0]))
        flipped = m[0] * n[1] - m[1] * n[0] < 0
        flat: Complexes = np.where(flipped, -sole.conjugate(), sole) * size
        now = _applied(columns, sole)
        angle = np.angle(now * flat.conj()) * np.where(flat.real < 0, -1.0, 1.0)
        return angle, flat, columns

    def stands(self, foot: Floats) -> Complexes:
        """Where its heel is, or would be if it lay flat, for what it stands on now."""
        up, flat, columns = self.roll(foot)
        return self.tip(foot) - self.lift(up, flat, columns)

    def tip(self, foot: Floats) -> Complexes:
        """Where the leg ends in it, its ankle, for the transforms that take the joint to wherever."""
        x, y = self.at_rest[self.foot].inverse().place((self.end.real, self.end.imag))
        return place_in(foot, x, y)

    def lift(self, up: Floats, flat: Complexes, columns: Complexes) -> Complexes:
        """From where its heel would be if it lay flat to its end, for what `roll` tells of it: what it stands
        on is the heel, or the ball while the heel is up."""
        rest = np.where(up > 0, self.ball, self.heel) - self.end
        rolls = abs(self.ball - self.heel) > 1e-9
        found: Complexes = np.where(up > 0, flat if rolls else 0, 0) - _applied(columns, rest)
        return found


def _applied(columns: Complexes, way: complex | Complexes) -> Complexes:
    """An arrow at rest as it is now."""
    found: Complexes = columns[0] * way.real + columns[1] * way.imag
    return found


def footing(puppet: Puppet, skeleton: Skeleton, joint: str) -> Footing:
    """A joint made ready to be planted: a foot with its leg, or any joint with the two bones above it."""
    row = {id: i for i, id in enumerate(skeleton.ids)}
    worlds = rest_worlds(puppet)
    leg = _leg(puppet, joint)
    if leg is not None:
        line = [*leg.bones, *([leg.foot] if leg.foot else [])]
        toe = leg.toe if leg.foot == joint else None
        heel, ball, end = leg.sole.heel, leg.sole.ball, leg.ankle
        bend = leg.bend
    else:
        above = puppet.joints[joint].parent
        further = puppet.joints[above].parent if above else None
        line = [j for j in (further, above, joint) if j is not None]
        toe, place = None, complex(*worlds[joint].at)
        heel = ball = end = place
        bend = 0.0
    foots = leg is None or leg.foot is not None
    bends = min(2, max(len(line) - foots, 0))
    parent = puppet.joints[line[0]].parent
    carrier = worlds[parent] if parent else IDENTITY
    bend = bend if carrier.determinant > 0 else -bend
    rows = (*line, toe) if toe else tuple(line)
    return Footing(
        rows=tuple(row[j] for j in rows),
        bends=bends,
        foots=foots,
        toes=toe is not None,
        parent=skeleton.parents[row[line[0]]],
        under=frozenset(row[j] for j in below(puppet.joints, [line[0]])),
        hinges=Hinges(bend or 1.0, (bend or 1.0,), tuple(in_radians(puppet.joints[j].limits) for j in line)),
        heel=heel,
        ball=ball,
        end=end,
        at_rest=tuple(worlds[j] for j in rows),
    )


def _leg(puppet: Puppet, joint: str) -> Leg | None:
    if not has_legs(puppet):
        return None
    return next((leg for leg in anatomy(puppet).legs if (leg.foot or leg.bones[-1]) == joint), None)


def stood(foot: Footing, locals: Floats, base: Floats | None, plant: Floats, turns: Floats) -> Floats:
    """The leg's transforms `(rows, 6, frames)` with its foot where it is planted.

    `locals` are its joints in one another without that, `base` takes what it hangs on to the stage (None:
    nothing carries it), `plant` is weight, place and flat `(4, frames)`, `turns` by how much each joint is
    turned from rest already (radians).
    """
    found = np.array(locals)
    weight = plant[0]
    now = np.flatnonzero(weight > 0)
    if not now.size or not foot.bends:
        return found
    part = np.ascontiguousarray(locals[:, :, now])
    above = None if base is None else np.ascontiguousarray(np.broadcast_to(base, (6, locals.shape[2]))[:, now])
    found[:, :, now] = _stood(foot, part, above, plant[:, now], turns[:, now])
    return found


def _stood(foot: Footing, locals: Floats, base: Floats | None, plant: Floats, turns: Floats) -> Floats:
    weight, place, flat = plant[0], plant[1] + 1j * plant[2], plant[3]
    frames = _in_row(locals)
    world = _onto(base, frames[foot.foot])
    up, sole, columns = foot.roll(world)
    kept = up * (1 - flat * weight)
    turning = np.exp(1j * (kept - up) * np.where(sole.real < 0, -1.0, 1.0))
    # What it stands on stays: its heel, or its ball where that is with the sole laid flat.
    ankle = place + foot.lift(kept, sole, columns * turning)
    places = [f[4] + 1j * f[5] for f in frames]
    end = places[foot.foot] if foot.foots else foot.tip(frames[foot.foot])
    goal = _inward(base, ankle)
    knees_on = foot.bends <= foot.foot
    joint = places[foot.bends] if knees_on else end
    target = joint + weight * (goal - end) - places[0]
    points = [*places[: foot.bends], joint]
    bones = np.stack([b - a for a, b in pairwise(points)])
    signs = signs_of(locals)
    hinges = foot.hinges
    if len(bones) == 2:
        bend = np.angle(bones[1] * bones[0].conj())
        hinges = Hinges(np.where(np.abs(bend) > CLEARLY, np.sign(bend), hinges.side), hinges.ways, hinges.limits)
    found = np.array(locals)
    deltas = bent(hinges, bones, target, signs, turns)
    by = np.zeros((len(locals), locals.shape[2]))
    by[: len(deltas)] = deltas
    if foot.bends == 1:
        # A leg without a knee is drawn up instead of bending.
        reached = bones[0] * np.exp(1j * deltas[0])
        found[0, 4] += (target - reached).real
        found[0, 5] += (target - reached).imag
    after = foot.bends
    if knees_on:
        by[after] = -signs[after] * (signs[: len(deltas)] * deltas).sum(axis=0)
    own = signs[foot.foot] * (1.0 if base is None else np.where(_det(base) < 0, -1.0, 1.0))
    if foot.foots:
        by[foot.foot] += own * (kept - up) * np.where(sole.real < 0, -1.0, 1.0)
    turned(found, by)
    if foot.toes:
        _lay_toe(foot, found, base, kept, weight)
    return found


def _lay_toe(foot: Footing, found: Floats, base: Floats | None, up: Floats, weight: Floats) -> None:
    """Turn the toe so that it lies on the ground while the heel is up."""
    world = _onto(base, _in_row(found)[-1])
    inward = foot.at_rest[-1].inverse()
    a, b, c, d = world[:4]
    x = a * inward.a + c * inward.b + 1j * (b * inward.a + d * inward.b)
    y = a * inward.c + c * inward.d + 1j * (b * inward.c + d * inward.d)
    flipped = (x.conj() * y).imag < 0
    way = np.where((foot.ball - foot.heel).real * np.where(flipped, -1, 1) < 0, -1.0, 1.0)
    angle = np.angle(np.where(flipped, -x, x)) * way
    # The toe's own turn counts in the space of the foot.
    sign = np.where((_det(world) < 0) != (_det(found[-1]) < 0), -1.0, 1.0)
    sunk = np.where(up > 0, np.maximum(angle, 0.0), 0.0) * weight
    turned(found[-1:], (-sign * way * sunk)[None])


def _in_row(locals: Floats) -> list[Floats]:
    """Joints in what the first of them hangs on."""
    frames = [np.array(locals[0])]
    for local in locals[1:]:
        step = np.empty_like(frames[0])
        compose_blocks(frames[-1][None], local[None], step[None])
        frames.append(step)
    return frames


def _det(m: Floats) -> Floats:
    found: Floats = m[0] * m[3] - m[1] * m[2]
    return found


def _onto(base: Floats | None, frame: Floats) -> Floats:
    if base is None:
        return frame
    found = np.empty_like(frame)
    compose_blocks(base[None], frame[None], found[None])
    return found


def _inward(base: Floats | None, place: Complexes) -> Complexes:
    return place if base is None else place_in(inverse_block(base), place.real, place.imag)
