"""Mistakes of feet: that slide, sink, or are planted where they can't be."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from sorvan.core.change.plants import MatchTravel, PlantFoot
from sorvan.core.checks.finding import Finding
from sorvan.core.checks.motion_seen import MotionSeen, frames_said
from sorvan.core.errors import Refusal
from sorvan.core.model.channels import channel_id
from sorvan.core.plan.ground_contact import Track
from sorvan.core.plan.plants import travel_of
from sorvan.core.plan.travel import free_id, runs_of, stances
from sorvan.core.plan.values import PLANT
from sorvan.core.rig.anatomy import has_legs

SLIDES = 0.5
"""Units a frame that a standing foot may slide before it is told."""
SINKS = 1.0
"""Units that a foot may be below the ground before it is told."""


def sliding_feet(seen: MotionSeen) -> Iterator[Finding]:
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


def _skating(seen: MotionSeen) -> Finding | None:
    """A walk on the spot under which the ground does not go by."""
    motion = seen.motion
    if not motion.cycle or motion.ground.runs or travel_of(motion) or motion.plants or not has_legs(seen.puppet):
        return None
    try:
        found, speed = stances(seen.evaluation, motion)
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


def _planted(seen: MotionSeen, foot: Track, start: int, frames: int) -> PlantFoot:
    id = free_id("mend", seen.motion.plants)
    return PlantFoot(motion=seen.motion.id, id=id, joint=foot.joint, start=start, frames=frames)


def out_of_reach(seen: MotionSeen) -> Iterator[Finding]:
    """What is planted where its limb can't reach."""
    motion = seen.motion
    for joint in dict.fromkeys(p.joint for p in motion.plants.values()):
        foot, row = seen.evaluation.rig.footing(seen.puppet, joint), seen.evaluation.rig.row[joint]
        plant = seen.evaluation.values[channel_id(joint, PLANT)]
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


def sunken_feet(seen: MotionSeen) -> Iterator[Finding]:
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
