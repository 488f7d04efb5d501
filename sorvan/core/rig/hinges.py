"""Joints in a row turned so that the end of the last bone comes to a place, in all frames at once.

Places are complex numbers (x + iy), one array entry a frame, seen from the first joint. Everything is
element-wise and every frame is solved by itself from how the joints are turned.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from sorvan.core.geometry import Complexes, Floats
from sorvan.core.model.puppet import Limits

HALVINGS, STEPS = 20, 14
"""Rounds in which the one bend of a limb of more than two bones is found, and steps of least squares after it."""
DAMPING = 1e-3
"""How much of what the joints could do a step of least squares holds back."""
LONGEST_STEP = 0.2
"""Radians that a joint may turn in one step of least squares."""
HARDLY = 1e-7
"""A part of a length that nobody sees."""
MISSED = 0.002
"""The part of its length by which a limb may miss its target before the other bend is looked at."""
CLEARLY_BENT = 0.35
"""Radians from which on a bent joint goes on bending the way it is bent."""


@dataclass(frozen=True)
class Hinges:
    """How joints in a row give. `side` is +1 when the row bends clockwise (or that a frame), `ways` say the
    same of each joint between two bones, which may differ, as in a hind leg; `limits` are each joint's
    in radians."""

    side: float | Floats
    ways: tuple[float, ...]
    limits: tuple[tuple[float, float] | None, ...]


def wrapped(angle: Floats) -> Floats:
    """Radians brought to -π…π."""
    return angle - 2 * np.pi * np.round(angle / (2 * np.pi))


def bent(hinges: Hinges, bones: Complexes, target: Complexes, signs: Floats, turns: Floats) -> Floats:
    """The further turns `(bones, frames)` that bring the end of these bones to a target, seen from the anchor."""
    match len(bones):
        case 1:
            return limited(hinges, 0, np.angle(target * bones[0].conj()), turns[0])[None]
        case 2:
            return _two_bones(hinges, bones, target, signs, turns)
        case _:
            return _many_bones(hinges, bones, target, signs, turns)


def signs_of(locals: Floats) -> Floats:
    """Which way a positive turn of each joint goes, seen from what the limb hangs on."""
    det = locals[:, 0] * locals[:, 3] - locals[:, 1] * locals[:, 2]
    flips = np.where(det < 0, -1.0, 1.0)
    return np.concatenate([np.ones((1, locals.shape[2])), np.cumprod(flips, axis=0)[:-1]])


def limited(hinges: Hinges, k: int, delta: Floats, turn: Floats) -> Floats:
    """A joint's further turn (in its own counting) kept so that the whole stays within its limits."""
    limits = hinges.limits[k]
    if limits is None:
        return delta
    low, high = limits
    whole = turn + delta
    # Of all turns that look alike, the one nearest to the middle of the range is meant.
    middle = (low + high) / 2
    whole = middle + wrapped(whole - middle)
    return np.minimum(np.maximum(whole, low), high) - turn


def _two_bones(hinges: Hinges, bones: Complexes, target: Complexes, signs: Floats, turns: Floats) -> Floats:
    """Both joints' further turns; by the other bend where limits forbid the one that is meant."""
    meant = _one_bend(hinges, hinges.side, bones, target, signs, turns)
    if hinges.limits[0] is None and hinges.limits[1] is None:
        return meant
    other = _one_bend(hinges, -hinges.side, bones, target, signs, turns)
    missed, missed_too = (np.abs(target - laid(bones, d, signs).sum(axis=0)) for d in (meant, other))
    slack = MISSED * np.abs(bones).sum(axis=0)
    chosen: Floats = np.where((missed > slack) & (missed_too < missed - slack), other, meant)
    return chosen


def _one_bend(
    hinges: Hinges, side: float | Floats, bones: Complexes, target: Complexes, signs: Floats, turns: Floats
) -> Floats:
    """Both joints' further turns by the law of cosines (Euclid, Elements II.12–13), bending to one side."""
    upper, lower = np.abs(bones[0]), np.abs(bones[1])
    reach = np.abs(target)
    d = np.maximum(np.minimum(reach, upper + lower), np.abs(upper - lower) + 1e-9)
    at_anchor = np.arccos(np.clip((upper**2 + d**2 - lower**2) / np.maximum(2 * upper * d, 1e-12), -1, 1))
    at_middle = np.arccos(np.clip((upper**2 + lower**2 - d**2) / np.maximum(2 * upper * lower, 1e-12), -1, 1))
    first = np.angle(target) - side * at_anchor
    second = first + side * (np.pi - at_middle)
    bend = signs[1] * wrapped(second - np.angle(bones[1]) - first + np.angle(bones[0]))
    bend = limited(hinges, 1, bend, turns[1])
    # Limits may have changed the bend: aim what the limb is now at the target.
    whole = bones[0] + bones[1] * np.exp(1j * signs[1] * bend)
    root = wrapped(np.angle(target * whole.conj()))
    return np.stack([limited(hinges, 0, root, turns[0]), bend])


def laid(bones: Complexes, deltas: Floats, signs: Floats) -> Complexes:
    """The bones after further turns of their joints, each turning all behind it."""
    found: Complexes = bones * np.exp(1j * np.cumsum(signs[: len(bones)] * deltas, axis=0))
    return found


def _many_bones(hinges: Hinges, bones: Complexes, target: Complexes, signs: Floats, turns: Floats) -> Floats:
    """Further turns of a longer limb.

    One number bends all joints together, from straight by way of what they are to curled, each within
    its limits; it is solved for the distance, and the limb aimed. Damped least squares then arrive
    (Wampler 1986, IEEE Trans. SMC 16:1; Buss and Kim 2005, J. Graphics Tools 10:3), joints at a limit
    standing aside. Every step is continuous in the target, so a target that moves smoothly never makes
    the limb jump.
    """
    deltas = _one_number(hinges, bones, np.abs(target), signs, turns)
    aimed = np.angle(target * laid(bones, deltas, signs).sum(axis=0).conj())
    deltas[0] = limited(hinges, 0, aimed, turns[0])
    for _ in range(STEPS):
        deltas = _least_squares(hinges, bones, target, signs, turns, deltas)
    return deltas


def _one_number(hinges: Hinges, bones: Complexes, distance: Floats, signs: Floats, turns: Floats) -> Floats:
    """The joints bent together so that the end is so far from the anchor, or as near to that as may be."""
    count = len(bones)
    bend = np.angle(bones[1:] * bones[:-1].conj())
    fixed = np.array(hinges.ways)[:, None]
    # What is bent plainly as it is goes on that way; what is nearly straight, the way it gives.
    plain = np.clip(np.abs(bend) / CLEARLY_BENT, 0, 1)
    way = plain * np.sign(bend) + (1 - plain) * fixed
    round_ = 2 * np.pi / count if len(set(hinges.ways)) == 1 else 0.95 * np.pi
    straight, curled = np.zeros(bones.shape), np.zeros(bones.shape)
    for k in range(1, count):
        straight[k] = limited(hinges, k, -signs[k] * bend[k - 1], turns[k])
        curl = np.maximum(np.abs(bend[k - 1]), round_) * way[k - 1]
        curled[k] = limited(hinges, k, signs[k] * (curl - bend[k - 1]), turns[k])

    def bent(t: Floats) -> Floats:
        return np.maximum(-t, 0) * straight + np.maximum(t, 0) * curled

    low, high = -np.ones(distance.shape), np.ones(distance.shape)
    for _ in range(HALVINGS):
        t = (low + high) / 2
        far = np.abs(laid(bones, bent(t), signs).sum(axis=0)) > distance
        low, high = np.where(far, t, low), np.where(far, high, t)
    return bent((low + high) / 2)


def _least_squares(
    hinges: Hinges, bones: Complexes, target: Complexes, signs: Floats, turns: Floats, deltas: Floats
) -> Floats:
    """One damped step towards the target. A joint that its limit stops is left out, and the others make up for it."""
    count = len(bones)
    q = laid(bones, deltas, signs)
    off = target - q.sum(axis=0)
    # How the end moves with each joint's turn: at right angles to the way to it.
    ways = 1j * np.cumsum(q[::-1], axis=0)[::-1] * signs[:count]
    after = deltas
    for _ in range(2):
        xx, yy = (ways.real**2).sum(axis=0), (ways.imag**2).sum(axis=0)
        xy = (ways.real * ways.imag).sum(axis=0)
        damp = DAMPING * (xx + yy) + 1e-9
        xx, yy = xx + damp, yy + damp
        det = xx * yy - xy * xy
        u, v = (yy * off.real - xy * off.imag) / det, (xx * off.imag - xy * off.real) / det
        step = np.clip(ways.real * u + ways.imag * v, -LONGEST_STEP, LONGEST_STEP)
        after = np.stack([limited(hinges, k, deltas[k] + step[k], turns[k]) for k in range(count)])
        stopped = np.abs(after - deltas - step) > 1e-12
        if not stopped.any():
            break
        ways = np.where(stopped, 0, ways)
    return after


def turned(locals: Floats, by: Floats) -> None:
    """Turn transforms `(joints, 6, frames)` in place by radians `(joints, frames)`."""
    co, si = np.cos(by), np.sin(by)
    a, b, c, d = (locals[:, i].copy() for i in range(4))
    locals[:, 0], locals[:, 1] = co * a - si * b, si * a + co * b
    locals[:, 2], locals[:, 3] = co * c - si * d, si * c + co * d


def in_radians(limits: Limits | None) -> tuple[float, float] | None:
    """A joint's limits as hinges hold them."""
    return None if limits is None else (math.radians(limits.low), math.radians(limits.high))
