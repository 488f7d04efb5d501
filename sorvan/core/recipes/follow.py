"""Follow-through: joints that swing behind what carries them, each a damped spring.

A joint's angle on the stage obeys θ″ = ω²(θ₀ - θ) - 2ζω θ′ - (p/l)·a: θ₀ is where its keys and what it
hangs on would have it, a the part of its pivot's acceleration that lies across the bone, l the bone's
length, ω = 2π·frequency and ζ the damping (the driven damped pendulum, linear in its restoring force).
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

import numpy as np

from sorvan.core.errors import missing
from sorvan.core.geometry import Complexes, Floats
from sorvan.core.late import late
from sorvan.core.model.channel import Key
from sorvan.core.model.channels import channel_id
from sorvan.core.model.puppet import ROOT, Puppet
from sorvan.core.model.recipe import Follow
from sorvan.core.motion.recipes import Written
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.recipes.kind import Chosen, Kind, On, OtherPuppet, all_over, choose_first
from sorvan.core.rig.skeleton import children, rest_worlds

interpolate = late("scipy.interpolate")

SUBSTEPS = 16
"""Steps of the spring in a frame."""
SHORT = 40.0
"""The length of a bone that has no tip (units)."""
ROUNDS = 6
"""Rounds of a cycle that are let pass until the swing repeats itself."""


class Following(Kind[Follow]):
    """A chain swings behind what carries it."""

    of = Follow
    name = "Follow-through"
    does = "a chain swings behind what carries it"

    def write(self, recipe: Follow, on: On) -> Written:
        """The keys of the joints' swing. The first joint is the one nearest to what carries the chain."""
        motion, puppet, per_second = on.motion, on.stands, float(on.rate)
        evaluation = Evaluation.full(puppet, motion)
        row = {id: i for i, id in enumerate(evaluation.skeleton.ids)}
        worlds = evaluation.worlds
        end = min(recipe.end or motion.length - 1, motion.length - 1)
        whole = motion.cycle and recipe.start == 0 and end == motion.length - 1
        frames = np.arange(recipe.start, end + 1)
        if len(frames) < 3:
            return Written({}, said=("The stretch is too short to swing in.",))
        keys: dict[str, dict[int, Key]] = {}
        lag: Floats = np.zeros(len(frames))
        for n, id in enumerate(chain_of(puppet, recipe.joints)):
            world = worlds[row[id]][:, frames]
            facing = np.sign(world[0] * world[3] - world[1] * world[2])
            wanted = np.unwrap(np.arctan2(world[1], world[0])) + lag
            bone = _bone(puppet, id, world)
            place = world[4] + 1j * world[5]
            omega = 2 * np.pi * recipe.frequency / recipe.slower**n / per_second
            swung = _spring(wanted, place, bone, omega, recipe.damping, recipe.pull / 100, whole)
            further = swung - wanted
            lag = lag + further
            values = evaluation.keyed.get(channel_id(id, "turn"))
            own = np.zeros(len(frames)) if values is None else values[0][frames]
            turn = own + np.rad2deg(further) * facing
            at = [*range(0, len(frames), recipe.every)]
            if not whole and at[-1] != len(frames) - 1:
                at.append(len(frames) - 1)
            keys[channel_id(id, "turn")] = {int(frames[i]): Key(value=(round(float(turn[i]), 3),)) for i in at}
        return Written(keys)

    def begun(self, base: Mapping[str, Any], on: On, chosen: Chosen) -> Follow:
        if chosen.joint in (None, ROOT):
            raise choose_first("Select the joint nearest to what carries the chain.")
        return Follow(joints=(chosen.joint,), **base)

    def carried_over(self, recipe: Follow, to: OtherPuppet) -> Follow | None:
        joints = all_over([to.owner("turn", j) for j in recipe.joints])
        return recipe.changed(joints=joints) if joints else None


def chain_of(puppet: Puppet, joints: tuple[str, ...]) -> list[str]:
    """The chain: the joints named, or from one joint on down as long as just one joint hangs on the last.

    Raises `Refusal` if one is gone.
    """
    found = list(joints)
    for id in found:
        if id not in puppet.joints:
            raise missing("joint", id)
    while len(joints) == 1:
        below = [c for c in children(puppet.joints, found[-1]) if not puppet.joints[c].handle]
        if len(below) != 1 or len(found) >= 24:
            break
        found.append(below[0])
    return found


def _bone(puppet: Puppet, id: str, world: Floats) -> Complexes:
    """From the joint to its tip, `(frames,)` stage units: to what hangs on it, else across its piece."""
    rest = rest_worlds(puppet)
    tips = [rest[c].at for c in children(puppet.joints, id) if not puppet.joints[c].handle]
    piece = next((p for p in puppet.pieces.values() if p.joint == id), None)
    if not tips and piece is not None:
        l, t, r, b = piece.shown().bounds
        middle = (rest[id] @ piece.in_joint()).place(((l + r) / 2, (t + b) / 2))
        tips = [(2 * middle[0] - rest[id].e, 2 * middle[1] - rest[id].f)]
    x, y = rest[id].inverse().place(tips[0]) if tips else (0.0, SHORT)
    found = world[0] * x + world[2] * y + 1j * (world[1] * x + world[3] * y)
    return np.where(np.abs(found) < 1.0, SHORT * 1j, found)


def _spring(
    wanted: Floats, place: Complexes, bone: Complexes, omega: float, damping: float, pull: float, whole: bool
) -> Floats:
    """Where the spring is at each frame, radians `(frames,)`; round and round if `whole`."""
    turned = float(wanted[-1] + (wanted[1] - wanted[0]) - wanted[0]) if whole else 0.0
    # What a whole round adds is a number of full turns.
    turned = 2 * np.pi * round(turned / (2 * np.pi))
    lean = np.unwrap(np.angle(bone)) - wanted
    targets, across_x, across_y, lengths, leans = _between_frames(
        np.stack([wanted, place.real, place.imag, np.abs(bone), lean]), whole, turned
    )
    h, rub, stiff = 1.0 / SUBSTEPS, 2 * damping * omega, omega * omega
    angle, speed = float(wanted[0]), 0.0
    found = np.empty(len(wanted))
    for lap in range(ROUNDS if whole else 1):
        for i, target in enumerate(targets):
            if i % SUBSTEPS == 0:
                found[i // SUBSTEPS] = angle - lap * turned
            heading = angle + leans[i]
            across = math.cos(heading) * across_y[i] - math.sin(heading) * across_x[i]
            speed += h * (stiff * (target + lap * turned - angle) - rub * speed - pull * across / lengths[i])
            angle += h * speed
    return found


def _between_frames(rows: Floats, whole: bool, turned: float) -> tuple[list[float], ...]:
    """At every step between frames: target, the pivot's acceleration across and down, bone length and lean.

    Cubic splines through the frames; in a cycle round the seam.
    """
    count = rows.shape[1]
    added = np.array([[turned], [0.0], [0.0], [0.0], [0.0]])
    if whole:
        rows = np.concatenate([rows - added, rows, rows + added], axis=1)
    spline = interpolate.CubicSpline(np.arange(rows.shape[1]), rows, axis=1, bc_type="natural")
    fine = np.arange(count * SUBSTEPS) / SUBSTEPS + (count if whole else 0)
    values, bends = spline(fine), spline(fine, 2)
    return tuple(r.tolist() for r in (values[0], bends[1], bends[2], values[3], values[4]))
