"""Where feet touch the ground, and how far they slide on it; and the places of joints, to be measured."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from sorvan.core.geometry import Floats, place_in
from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import Puppet
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.rig.anatomy import Leg
from sorvan.core.rig.skeleton import rest_worlds

NEAR, OF_LEG = 0.75, 0.003
"""A foot whose lowest point is nearer to the ground than this (units), or than this part of a short leg,
stands on it."""


@dataclass(frozen=True)
class Track:
    """A foot over time: heel and toe on the stage as complex places, `(frames,)` each."""

    leg: Leg
    heel: NDArray[np.complex128]
    toe: NDArray[np.complex128]

    @property
    def lowest(self) -> Floats:
        """How far down the lowest of both is."""
        return np.maximum(self.heel.imag, self.toe.imag)

    @property
    def near(self) -> float:
        """How near to the ground it stands."""
        return min(NEAR, OF_LEG * sum(self.leg.lengths))

    def stands(self, ground: float) -> NDArray[np.bool_]:
        """Whether the foot is on the ground at each frame."""
        return np.abs(self.lowest - ground) < self.near

    @property
    def joint(self) -> str:
        """The joint that is planted when this foot is."""
        return self.leg.foot or self.leg.bones[-1]

    def slide(self, ground: float, runs: float, cycle: bool, travel: float = 0.0) -> Floats:
        """How far the foot slides on the ground from each frame to the next (units, over the ground that
        itself runs so many units a frame); nought where it is not standing in both. A cycle that carries
        the puppet on goes on by its `travel` in each round.

        A rolling foot changes what it stands on from heel to toe: what stands in both frames counts, or the
        sole's own length where it came down flat in between.
        """
        stood = self.stands(ground)
        then = np.roll(stood, -1)
        moves = np.stack([np.roll(p, -1) - p for p in (self.heel, self.toe)]).real - runs
        moves[:, -1] += travel
        down = np.stack([np.abs(p.imag - ground) < self.near for p in (self.heel, self.toe)])
        then_down = np.roll(down, -1, axis=1)
        each = np.where(down & then_down, np.abs(moves), np.inf)
        # From heel to toe (or back) between two frames the sole lay flat: a heel that is already rising again
        # may still be near the ground, but carries nothing.
        sole = abs(self.leg.sole.toe - self.leg.sole.heel) * np.sign((self.toe - self.heel).real)
        along = (self.toe - self.heel).real
        rolled = np.stack([moves[1] + along - sole, moves[0] - along + sole])
        each = np.concatenate([each, np.where(down & then_down[::-1], np.abs(rolled), np.inf)]).min(axis=0)
        found = np.where(np.isfinite(each), each, 0.0)
        found = np.where(stood & then, found, 0.0)
        if not cycle:
            found[-1] = 0.0
        return found


def tracks(evaluation: Evaluation, legs: Collection[Leg]) -> list[Track]:
    """The feet of an evaluated puppet."""
    return [
        Track(leg, _point(evaluation, leg.foot or leg.bones[-1], leg.sole.heel), _toe(evaluation, leg)) for leg in legs
    ]


def _toe(evaluation: Evaluation, leg: Leg) -> NDArray[np.complex128]:
    return _point(evaluation, leg.toe or leg.foot or leg.bones[-1], leg.sole.toe)


def _point(evaluation: Evaluation, joint: str, at_rest: complex) -> NDArray[np.complex128]:
    """Where a place of the puppet at rest that rides on a joint goes."""
    x, y = rest_worlds(evaluation.stance)[joint].inverse().place((at_rest.real, at_rest.imag))
    world = evaluation.worlds[evaluation.skeleton.ids.index(joint)]
    return place_in(world, x, y)


@dataclass(frozen=True)
class Traced:
    """A joint, or a foot's heel or toe, over time: stage units and degrees, `(frames,)` each."""

    name: str
    x: Floats
    y: Floats
    angle: Floats


def trace(puppet: Puppet, motion: Motion, legs: Collection[Leg], joints: Collection[str] | None = None) -> list[Traced]:
    """Where joints are on the stage in every frame, of all or of these ids, feet also as heel and toe."""
    evaluation = Evaluation.full(puppet, motion)
    found: list[Traced] = []
    names = [j.name for j in puppet.joints.values()]
    row = {id: i for i, id in enumerate(evaluation.skeleton.ids)}
    for id, joint in puppet.joints.items():
        if joints is not None and id not in joints:
            continue
        world = evaluation.worlds[row[id]]
        name = joint.name if names.count(joint.name) == 1 else f"{joint.name} ({id})"
        angle = np.rad2deg(np.unwrap(np.arctan2(world[1], world[0])))
        found.append(Traced(name, world[4], world[5], angle))
        for track in tracks(evaluation, [leg for leg in legs if id == (leg.foot or leg.bones[-1])]):
            for end, place in (("heel", track.heel), ("toe", track.toe)):
                found.append(Traced(f"{name} {end}", place.real, place.imag, angle))
    return found
