"""Feet of another puppet: legs of other lengths turned so that its feet stand where those of the first do."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

import numpy as np

from sorvan.core.geometry import Floats, compose_blocks, inverse_block
from sorvan.core.model.channel import Channel, Key
from sorvan.core.model.channels import channel_id
from sorvan.core.model.motion import Motion, Plant
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.plan.ground_contact import Track, tracks
from sorvan.core.plan.plants import Footing, stood, travel_of
from sorvan.core.plan.travel import free_id, ground_of, runs_of
from sorvan.core.plan.values import PLANT
from sorvan.core.reuse.proportions import Proportions
from sorvan.core.rig.anatomy import Leg, anatomy
from sorvan.core.rig.hinges import wrapped
from sorvan.core.rig.reach import args

SAME = 0.02
"""Degrees by which a leg may be off without being turned anew."""
HELD = 0.004
"""The part of the leg by which a foot may slide in a frame and is held to stand still."""


@dataclass(frozen=True, eq=False)
class _Pair:
    """A leg and the one that answers to it, with the joints that stand on the ground."""

    own: Leg
    its: Leg
    joint: str
    other: str

    @property
    def hips(self) -> tuple[float, float]:
        """How far to the right both hang at rest."""
        return self.own.hip.real, self.its.hip.real


def _pairs(between: Proportions) -> Iterator[_Pair]:
    """The legs of both, by their thighs; one that reaches by itself in the target goes by its handle."""
    if not between.legged:
        return
    legs = {leg.bones[0]: leg for leg in anatomy(between.target).legs}
    led = {between.links.chains.get(id): c.joints for id, c in between.source.chains.items()}
    reaching = {j for id, joints in led.items() if id for j in between.target.chains[id].joints}
    for own in anatomy(between.source).legs:
        its = legs.get(between.links.joints.get(own.bones[0], ""))
        if its is not None and its.bones[0] not in reaching:
            yield _Pair(own, its, own.foot or own.bones[-1], its.foot or its.bones[-1])


def stepped(between: Proportions, before: Evaluation, motion: Motion, frames: Mapping[str, set[int]]) -> Motion:
    """The target's motion with its legs turned, at these frames by the source's joint, so that its feet are where the
    source's are in `before`. Legs that are there already stay as they are."""
    wanted = [
        (p, sorted(set().union(*(frames.get(j, set()) for j in (*p.own.bones, p.joint))))) for p in _pairs(between)
    ]
    if not any(at for _, at in wanted):
        return motion
    after = Evaluation.full(between.target, motion.changed(plants={}))
    channels: list[Channel] = []
    for pair, at in wanted:
        if at:
            channels += _turned(between, pair, before.at_frames(at), after.at_frames(at), motion, at)
    return motion.with_channels(*channels)


def _turned(
    between: Proportions, pair: _Pair, before: Evaluation, after: Evaluation, motion: Motion, at: list[int]
) -> list[Channel]:
    """The channels of a leg, turned so that its foot is where it should be in these frames."""
    own = before.rig.footing(before.puppet, pair.joint)
    its = after.rig.footing(after.puppet, pair.other)
    if not its.bends:
        return []
    place = between.over(own.stands(before.worlds[before.rig.row[pair.joint]]), pair.hips)
    held = np.stack([np.ones(len(at)), place.real, place.imag, np.zeros(len(at))])
    rows = list(its.rows)
    base = None if its.parent < 0 else after.worlds[its.parent]
    locals = _locals(its, after.worlds, base)
    turns = np.zeros((len(rows), len(at)))
    for k, row in enumerate(rows):
        value = after.values.get(channel_id(after.skeleton.ids[row], "turn"))
        turns[k] = 0 if value is None else np.deg2rad(value[0])
    solved = stood(its, locals, base, held, turns)
    further = np.rad2deg(wrapped(args(solved) - args(locals)))[: its.foot + 1]
    if np.abs(further).max() < SAME:
        return []
    found: list[Channel] = []
    for k, by in enumerate(further):
        joint = after.skeleton.ids[rows[k]]
        channel = motion.channels.get(channel_id(joint, "turn")) or Channel(joint=joint, kind="turn")
        if not channel.keys and np.abs(by).max() < SAME:
            continue
        keys = dict(channel.keys)
        for n, frame in enumerate(at):
            turn = (round(float(np.rad2deg(turns[k, n]) + by[n]), 4),)
            keys[frame] = keys[frame].changed(value=turn) if frame in keys else Key(value=turn)
        found.append(channel.changed(keys=keys))
    return found


def _locals(foot: Footing, worlds: Floats, base: Floats | None) -> Floats:
    """The transforms of a leg's joints, each in the one before it."""
    above = [base, *(worlds[r] for r in foot.rows[:-1])]
    found = np.empty((len(foot.rows), 6, worlds.shape[2]))
    for k, (outer, row) in enumerate(zip(above, foot.rows, strict=True)):
        if outer is None:
            found[k] = worlds[row]
        else:
            compose_blocks(inverse_block(outer)[None], worlds[row][None], found[k][None])
    return found


def plants_over(between: Proportions, motion: Motion) -> tuple[dict[str, Plant], list[str]]:
    """What is planted, for the target; and the ids of those that have no limb there to be held by."""
    found: dict[str, Plant] = {}
    lost: list[str] = []
    at_rest = Evaluation.full(between.target)
    legs = {p.joint: p for p in _pairs(between)}
    for plant in motion.plants.values():
        leg = legs.get(plant.joint)
        its = leg.other if leg else between.links.joints.get(plant.joint)
        if its is None or not at_rest.rig.footing(between.target, its).bends:
            lost.append(plant.id)
            continue
        x, y = between.place(*plant.place, leg.hips if leg else None)
        found[plant.id] = plant.changed(joint=its, place=(round(x, 4), round(y, 4)))
    return found, lost


def held_down(between: Proportions, before: Evaluation, motion: Motion) -> tuple[Motion, int]:
    """The target's motion with feet planted where those of the source, in `before`, stand still and these would slide
    or leave the ground; and how many stances that are."""
    pairs = list(_pairs(between))
    if not pairs or before.motion is None:
        return motion, 0
    after = Evaluation.full(between.target, motion)
    own, its = _Ground.of(before), _Ground.of(after)
    plants = dict(motion.plants)
    for pair in pairs:
        (first,), (second,) = tracks(before, [pair.own]), tracks(after, [pair.its])
        still = own.still(first)
        lost = still & ~its.still(second)
        held = after.values.get(channel_id(pair.other, PLANT))
        if held is not None:
            lost &= held[0] < 0.5
        if not lost.any():
            continue
        foot = before.rig.footing(before.puppet, pair.joint)
        place = between.over(foot.stands(before.worlds[before.rig.row[pair.joint]]), pair.hips)
        for start, frames in runs_of(still, motion.cycle, shortest=1):
            steps = (start + np.arange(frames)) % motion.length
            if lost[steps].any():
                id = free_id("stance", plants)
                at = complex(place[start])
                plants[id] = Plant(
                    id=id, joint=pair.other, start=start, frames=min(frames + 1, motion.length),
                    place=(round(at.real, 4), round(its.level, 4)),
                )  # fmt: skip
    return motion.changed(plants=plants), len(plants) - len(motion.plants)


@dataclass(frozen=True, eq=False)
class _Ground:
    """The ground under an evaluated motion, and what counts as standing still on it."""

    motion: Motion
    level: float
    leg: float

    @classmethod
    def of(cls, evaluation: Evaluation) -> _Ground:
        assert evaluation.motion is not None
        return cls(evaluation.motion, ground_of(evaluation.motion, evaluation.puppet), anatomy(evaluation.stance).leg)

    def still(self, track: Track) -> np.ndarray[tuple[int], np.dtype[np.bool_]]:
        """In which frames a foot stands, and does so in the next without sliding."""
        motion = self.motion
        travel = travel_of(motion).real
        slide = track.slide(self.level, motion.ground.runs, motion.cycle, travel)
        stood = track.stands(self.level)
        found = stood & np.roll(stood, -1) & (np.abs(slide) < HELD * self.leg)
        if not motion.cycle:
            found[-1] = False
        return found
