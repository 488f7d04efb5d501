"""Captured motion: what a pointer did over time, made into keys of a joint's place or turn.

The raw samples stay with the recipe, so that smoothing, speed, span and the number of keys can be chosen
again later. However far from the pivot the hand began, the joint goes on from where it is.
"""

from __future__ import annotations

from collections.abc import Mapping
from itertools import pairwise
from typing import Any

import numpy as np
from numpy.typing import NDArray

from sorvan.core.errors import missing
from sorvan.core.geometry import Floats, inverse_block, place_in
from sorvan.core.late import late
from sorvan.core.model.channel import Channel, Key, Tangents
from sorvan.core.model.channels import channel_id
from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import ROOT
from sorvan.core.model.recipe import Capture
from sorvan.core.motion.recipes import Written
from sorvan.core.motion.sheet import fewest
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.recipes.kind import Chosen, Kind, On, OtherPuppet, Sizes, choose_first
from sorvan.core.timing.channels import at as value_at

ndimage = late("scipy.ndimage")

FINE = 8
"""Steps a frame in which samples are smoothed."""


class Capturing(Kind[Capture]):
    """What a pointer did over time."""

    of = Capture
    name = "Capture"
    does = "what a pointer does, recorded while all else plays"

    def write(self, recipe: Capture, on: On) -> Written:
        """The keys of a capture. Raises `Refusal` if its joint is gone."""
        motion, puppet = on.motion, on.stands
        if recipe.joint != ROOT and recipe.joint not in puppet.joints:
            raise missing("joint", recipe.joint)
        frames, hand, said = _followed(recipe, motion.length)
        if len(frames) < 2:
            return Written({}, said=("The recording is too short: keep the pointer moving for some frames.",))
        evaluation = Evaluation.full(puppet, motion)
        id = channel_id(recipe.joint, "turn" if recipe.what == "turn" else "move")
        if recipe.what == "turn":
            values = _turned(evaluation, recipe.joint, frames, hand)
        else:
            values = _carried(evaluation, recipe.joint, frames, hand)
        return Written({id: _keys(values, frames, recipe, motion)}, said=said)

    def begun(self, base: Mapping[str, Any], on: On, chosen: Chosen) -> Capture:
        raise choose_first("Press Capture over the stage, then draw on it.")

    def scaled(self, recipe: Capture, by: Sizes) -> Capture:
        return recipe.changed(samples=tuple((t, *by.place(x, y)) for t, x, y in recipe.samples))

    def carried_over(self, recipe: Capture, to: OtherPuppet) -> Capture | None:
        joint = to.owner("move" if recipe.what == "place" else "turn", recipe.joint)
        return self.scaled(recipe, to).changed(joint=joint) if joint else None

    def gives_way(self, recipe: Capture, motion: Motion, new: Written, *, again: bool) -> Motion:
        """The motion without the keys that a new recording goes over."""
        if again:
            return motion
        channels = [
            c.changed(keys={f: k for f, k in c.keys.items() if not min(keys) <= f <= max(keys)})
            for id, keys in new.keys.items()
            if (c := motion.channels.get(id)) is not None and keys
        ]
        return motion.with_channels(*channels)


def _followed(recipe: Capture, length: int) -> tuple[NDArray[np.int64], NDArray[np.complex128], tuple[str, ...]]:
    """Where the hand is (stage units) at the whole frames that the recording fills."""
    samples = np.array(recipe.samples, dtype=np.float64)
    time, place = samples[:, 0] - samples[0, 0], samples[:, 1] + 1j * samples[:, 2]
    first, last = (time[-1] * p / 100 for p in (recipe.first, recipe.last))
    fine = np.arange(first, last + 1e-9, 1 / FINE)
    x, y = (np.interp(fine, time, part) for part in (place.real, place.imag))
    if recipe.smooth and len(fine) > 3:
        x, y = (_smoothed(part, recipe.smooth * FINE) for part in (x, y))
    count = frames_of(recipe)
    room = length - recipe.start
    said: tuple[str, ...] = ()
    if count > room:
        said = (f"The recording goes on for {count - room} frames beyond the motion's end; these are left out.",)
    since = np.arange(min(count, max(room, 0)))
    at = first + since * recipe.speed / 100
    found: NDArray[np.complex128] = np.interp(at, fine, x) + 1j * np.interp(at, fine, y)
    if recipe.closing:
        # It is back on the frame after its last, which is the first of the next round.
        part = np.clip((since - (count - recipe.closing)) / recipe.closing, 0, 1)
        back = part * part * (3 - 2 * part)
        found += back * (found[0] - (np.interp(last, fine, x) + 1j * np.interp(last, fine, y)))
    return since + recipe.start, found, said


def frames_of(recipe: Capture) -> int:
    """How many frames a recording fills, its first and its last among them."""
    whole = recipe.samples[-1][0] - recipe.samples[0][0]
    return int(whole * (recipe.last - recipe.first) / recipe.speed + 1e-9) + 1


def _smoothed(values: Floats, sigma: float) -> Floats:
    """Smoothed by a Gaussian; the ends stay, since beyond them the row is taken to go on point-mirrored."""
    reach = min(int(4 * sigma) + 1, len(values) - 1)
    before, after = 2 * values[0] - values[reach:0:-1], 2 * values[-1] - values[-2 : -reach - 2 : -1]
    whole = np.concatenate([before, values, after])
    found: Floats = ndimage.gaussian_filter1d(whole, sigma)[reach : reach + len(values)]
    return found


def _carried(evaluation: Evaluation, joint: str, frames: NDArray[np.int64], hand: NDArray[np.complex128]) -> Floats:
    """The `move` that brings the joint along with the hand from where it is: `(2, frames)`."""
    way = hand - hand[0]
    own = np.array(evaluation.value(joint, "move", int(frames[0])))
    if joint == ROOT:
        return np.stack([own[0] + way.real, own[1] + way.imag])
    rig = evaluation.rig
    above = evaluation.skeleton.parents[rig.row[joint]]
    place = evaluation.worlds[rig.row[joint]][4:6]
    at = place[:, frames[0], None] + np.stack([way.real, way.imag])
    if above < 0:
        inner = at
    else:
        within = place_in(inverse_block(evaluation.worlds[above][:, frames]), at[0], at[1])
        inner = np.stack([within.real, within.imag])
    # Counted from what it holds when it begins, so that nothing jumps there.
    found: Floats = own[:, None] + inner - inner[:, :1]
    return found


def _turned(evaluation: Evaluation, joint: str, frames: NDArray[np.int64], hand: NDArray[np.complex128]) -> Floats:
    """The `turn` that keeps the joint looking after the hand as it does when it begins: `(1, frames)`."""
    row = evaluation.rig.row[joint]
    world = evaluation.worlds[row][:, frames]
    x, y = evaluation.puppet.origin if joint == ROOT else (0.0, 0.0)
    pivot = place_in(world, x, y)
    # The joint turns about its own place and so does not move it, whatever it is keyed to now.
    above = evaluation.skeleton.parents[row] if joint != ROOT else -1
    turns = np.zeros(len(frames))
    sign = np.ones(len(frames))
    if above >= 0:
        on = evaluation.worlds[above][:, frames]
        turns = np.unwrap(np.arctan2(on[1], on[0]))
        sign = np.where(on[0] * on[3] - on[1] * on[2] < 0, -1.0, 1.0)
    aim = np.unwrap(np.angle(hand - pivot))
    own = evaluation.value(joint, "turn", int(frames[0]))[0]
    further = sign * ((aim - aim[0]) - (turns - turns[0]))
    found: Floats = own + np.rad2deg(further)[None]
    return found


def _keys(values: Floats, frames: NDArray[np.int64], recipe: Capture, motion: Motion) -> dict[int, Key]:
    """Every n-th frame, or as few as come within the tolerance."""
    count = len(frames)
    smooth = Tangents() if recipe.what == "place" else None
    if recipe.thin == "every":
        kept = sorted({*range(0, count, recipe.every), count - 1})
    elif smooth is None:
        kept = fewest(values, frames.tolist(), recipe.tolerance)
    else:
        kept = _fewest_smooth(values, frames, recipe.tolerance, motion)
    return {int(frames[i]): Key(value=tuple(round(float(v), 4) for v in values[:, i]), tangents=smooth) for i in kept}


def _fewest_smooth(values: Floats, frames: NDArray[np.int64], tolerance: float, motion: Motion) -> list[int]:
    """Few of the frames whose smooth path misses no place by more than the tolerance: where it is missed the most
    between two keys another is put, until none is left. In a cycle the path runs smoothly through its seam too."""
    count = values.shape[1]
    kept = {0, count - 1}
    while True:
        keys = {
            int(frames[i]): Key(value=(float(values[0, i]), float(values[1, i])), tangents=Tangents())
            for i in sorted(kept)
        }
        path = value_at(Channel(joint="j", kind="move", keys=keys), frames, motion.length, motion.cycle)
        off = np.hypot(*(path - values))
        row = sorted(kept)
        more = set()
        for a, b in pairwise(row):
            if b - a > 1:
                worst = a + 1 + int(np.argmax(off[a + 1 : b]))
                if off[worst] > tolerance:
                    more.add(worst)
        if not more:
            return row
        kept |= more
