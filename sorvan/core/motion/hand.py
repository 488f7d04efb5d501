"""The hand on the stage: how a pull on a joint becomes channel values.

A `Grip` is taken when the hand closes on the puppet and keeps what was true then; each
movement of the hand gives the values to try. Nothing here writes a key.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np

from sorvan.core.deform.bend import BendReady
from sorvan.core.errors import Refusal, missing
from sorvan.core.geometry import IDENTITY, Affine, Point
from sorvan.core.model.channels import NEUTRAL, ChannelKind, channel_id
from sorvan.core.model.puppet import ROOT, Limits, Puppet
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.plan.ground_contact import tracks
from sorvan.core.plan.travel import ground_of
from sorvan.core.plan.values import ASPECT
from sorvan.core.rig.anatomy import anatomy, has_legs
from sorvan.core.rig.skeleton import children

JointPull = Literal["turn", "move", "scale"]
"""What one joint is made to do."""
TriedValues = dict[str, tuple[float, ...]]

SNAP = 6.0
"""Units from the ground within which what is moved snaps to it."""
STEP = 15.0
"""Degrees that a turn snaps to while the user asks for whole steps."""


@dataclass
class Grip:
    """A hand holding one joint in one way, from the moment it closed at `grabbed` (stage units)."""

    joint: str
    pull: JointPull
    grabbed: Point
    centre: Point
    parent: Affine
    world: Affine
    start: tuple[float, ...]
    limits: Limits | None = None
    turned: float = 0.0
    floor: float | None = None
    """How much farther down (units) what is held would stand on the ground, if it snaps to that."""

    def at(self, hand: Point, whole_steps: bool = False) -> TriedValues:
        """The values to try with the hand at this place (stage units).

        `whole_steps` turns by whole steps of 15°, moves along one axis only and scales both
        axes alike.
        """
        match self.pull:
            case "turn":
                values = self._turn(hand, whole_steps)
            case "move":
                values = self._move(hand, whole_steps)
            case "scale":
                values = self._scale(hand, whole_steps)
        return {channel_id(self.joint, self.pull): values}

    def _turn(self, hand: Point, whole_steps: bool) -> tuple[float, ...]:
        before = math.atan2(self.grabbed[1] - self.centre[1], self.grabbed[0] - self.centre[0])
        now = math.atan2(hand[1] - self.centre[1], hand[0] - self.centre[0])
        turned = math.degrees(now - before)
        # Angles are unbounded: carrying the hand round and round keeps on winding.
        turned += 360.0 * round((self.turned - turned) / 360.0)
        self.turned = turned
        # Under a mirrored parent a turn that looks clockwise is counted the other way.
        signed = turned if self.parent.determinant > 0 else -turned
        value = self.start[0] + signed
        value = round(value / STEP) * STEP if whole_steps else round(value, 3)
        if self.limits is not None:
            value = min(max(value, self.limits.low), self.limits.high)
        return (value,)

    def _move(self, hand: Point, whole_steps: bool) -> tuple[float, ...]:
        dx, dy = hand[0] - self.grabbed[0], hand[1] - self.grabbed[1]
        if whole_steps:
            dx, dy = (dx, 0.0) if abs(dx) >= abs(dy) else (0.0, dy)
        if self.floor is not None and abs(dy - self.floor) < SNAP:
            dy = self.floor
        mx, my = self.parent.inverse().arrow((dx, dy))
        return (round(self.start[0] + mx, 3), round(self.start[1] + my, 3))

    def _scale(self, hand: Point, whole_steps: bool) -> tuple[float, ...]:
        inward = self.world.inverse()
        (gx, gy), (hx, hy) = inward.place(self.grabbed), inward.place(hand)
        if whole_steps:
            grown = math.hypot(hx, hy) / max(math.hypot(gx, gy), 1e-6)
            fx = fy = grown
        else:
            fx = hx / gx if abs(gx) > 4 else 1.0
            fy = hy / gy if abs(gy) > 4 else 1.0
        return (_sized(self.start[0] * fx), _sized(self.start[1] * fy))


def _sized(factor: float) -> float:
    """Keep a scale away from zero, where a joint would have no inside to pull by."""
    bounded = max(0.02, min(50.0, abs(factor)))
    return round(math.copysign(bounded, factor), 4)


def grip(pose: Evaluation, joint: str, pull: JointPull, grabbed: Point, snap: bool = False) -> Grip:
    """Close the hand on a joint of a one-frame evaluation; with `snap` a foot, a handle or the whole puppet that is
    moved snaps to the ground. Raises `Refusal` if the joint is gone."""
    if joint not in pose.skeleton.ids:
        raise missing("joint", joint)
    if ASPECT in pose.values and pose.values[ASPECT][0, 0] > 0:
        raise Refusal(
            f"“{pose.puppet.name}” does this in the view at {pose.values[ASPECT][2, 0]:g}°, and is seen from"
            f" {pose.values[ASPECT][1, 0]:g}°.",
            where=pose.motion.name if pose.motion else pose.puppet.name,
            remedy="Turn it back to pose it, or make the motion for any view.",
        )
    world, parent = stands(pose, joint)
    centre = world.place(pose.puppet.origin) if joint == ROOT else world.at
    about = pose.puppet.origin if joint == ROOT else (0.0, 0.0)
    start = pose.value(joint, pull, 0)
    # Scaling measures the hand in the joint's own space as it stood; for the whole puppet that
    # space is centred on where it stands.
    x, y = world.place(about)
    centred = world._replace(e=x, f=y)
    limits = None if joint == ROOT else pose.puppet.joints[joint].limits
    floor = _floor(pose, joint) if snap and pull == "move" else None
    return Grip(joint, pull, grabbed, centre, parent, centred, start, limits, floor=floor)


def stands(pose: Evaluation, joint: str) -> tuple[Affine, Affine]:
    """What takes a joint, and what it hangs on, to the stage in a one-frame evaluation."""
    row = pose.skeleton.ids.index(joint)
    above = pose.skeleton.parents[row]
    return _affine(pose, row), _affine(pose, above) if row and above >= 0 else IDENTITY


def _floor(pose: Evaluation, joint: str) -> float | None:
    """How far the lowest of what a joint carries to the ground is above it; None for one that does not stand."""
    if pose.motion is None:
        return None
    ground = ground_of(pose.motion, pose.puppet)
    feet = tracks(pose, anatomy(pose.stance).legs) if has_legs(pose.puppet) else []
    own = [float(f.lowest[0]) for f in feet if joint in (ROOT, f.joint)]
    if not own and (joint == ROOT or pose.puppet.joints[joint].handle):
        x, y = pose.puppet.origin if joint == ROOT else (0.0, 0.0)
        own = [_affine(pose, pose.skeleton.ids.index(joint)).place((x, y))[1]]
    return ground - max(own) if own else None


def joint_under(pose: Evaluation, piece: str, hand: Point) -> str:
    """The joint that a hand on a piece means: of one that bends, the one that moves the place under
    the hand most; of any other, the joint it rides on. Raises `Refusal` if the piece is gone."""
    if piece not in pose.puppet.pieces:
        raise missing("piece", piece)
    held = pose.puppet.pieces[piece]
    row = pose.puppet.order.index(piece)
    for bender, points in zip(pose.rig.benders, pose.points, strict=True):
        shown = bender.piece == row and bender.drawing == pose.shown[row, 0]
        if shown and isinstance(bender.ready, BendReady) and len(points):
            x, y = Affine(*pose.pieces[row, :, 0].tolist()).inverse().place(hand)
            nearest = int(np.argmin(np.hypot(points[:, 0, 0] - x, points[:, 1, 0] - y)))
            return pose.skeleton.ids[bender.rows[int(np.argmax(bender.ready.weights[nearest]))]]
    return held.joint


def turning(puppet: Puppet, joint: str) -> str:
    """The joint that a turning hand on a joint means: on the bare tip of a limb, which carries
    nothing that could be seen to turn, the one it hangs on, so that the tip follows the hand."""
    held = puppet.joints.get(joint)
    if held is None or held.handle or held.parent is None or children(puppet.joints, joint):
        return joint
    carries = any(p.joint == joint for p in puppet.pieces.values())
    return joint if carries else held.parent


def typed(kind: ChannelKind, numbers: tuple[float, ...]) -> tuple[float, ...]:
    """Numbers typed for a channel, checked. Raises `Refusal` for a kind, count or value that won't do."""
    if kind not in NEUTRAL:
        raise Refusal(f"“{kind}” is no kind of channel.", remedy=f"Use one of {', '.join(NEUTRAL)}.")
    if len(numbers) != len(NEUTRAL[kind]) or not all(math.isfinite(n) for n in numbers):
        raise Refusal(
            f"A {kind} takes {len(NEUTRAL[kind])} plain number{'s' if len(NEUTRAL[kind]) > 1 else ''}.",
            remedy="Type the numbers again.",
        )
    return numbers


def _affine(pose: Evaluation, row: int) -> Affine:
    return Affine(*pose.worlds[row, :, 0].tolist())
