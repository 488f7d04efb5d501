"""Reach (inverse kinematics): a limb turned so that its end meets its handle, in all frames at once.

Places are complex numbers (x + iy) in the space of what the limb hangs on, one array entry a
frame. Everything is element-wise and every frame is solved by itself from the turned limb, so
asking for some frames gives exactly the numbers that asking for all gives.
"""

from __future__ import annotations

import itertools
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from sorvan.core.errors import Refusal
from sorvan.core.geometry import Floats, compose_blocks
from sorvan.core.model.puppet import Chain, Joint, Puppet
from sorvan.core.rig.skeleton import Skeleton, ancestors, below

Complexes = NDArray[np.complex128]
ROUNDS, STEPS = 14, 10
"""Passes of cyclic descent over a limb of more than two bones, and of least squares after it."""
NEARLY_STRAIGHT = 0.97
"""A limb that is longer than this part of itself from end to end counts as straight."""


@dataclass(frozen=True)
class Plan:
    """A chain made ready: rows in the skeleton, and what its rest says.

    `parent` is the row that the limb hangs on (-1: the world), `signs` say for each joint which
    way a positive turn goes, `side` is +1 when the limb bends clockwise.
    """

    chain: Chain
    rows: tuple[int, ...]
    parent: int
    handle: int
    side: float
    nearest: float
    limits: tuple[tuple[float, float] | None, ...]
    under: frozenset[int]
    """The rows of its joints and of all that rides on them."""


@dataclass(frozen=True)
class Reached:
    """Where a limb's joints are when only turned, and when only reaching: `(joints, frames)` each."""

    turned: Complexes
    reached: Complexes

    @classmethod
    def blank(cls, joints: int, frames: int) -> Reached:
        """Room for a limb of so many joints."""
        return cls(*np.zeros((2, joints, frames), dtype=np.complex128))

    def part(self, span: slice) -> Reached:
        """Some frames of it."""
        return Reached(self.turned[:, span], self.reached[:, span])

    def with_part(self, new: Reached, span: slice) -> Reached:
        """The same with some frames in their place."""
        turned, reached = self.turned.copy(), self.reached.copy()
        turned[:, span], reached[:, span] = new.turned, new.reached
        return Reached(turned, reached)


def arg(block: Floats) -> Floats:
    """The direction (radians) in which transforms `(6, frames)` turn the x axis."""
    found: Floats = np.arctan2(block[1], block[0])
    return found


def wrapped(angle: Floats) -> Floats:
    """Radians brought to -π…π."""
    return angle - 2 * np.pi * np.round(angle / (2 * np.pi))


def in_order(puppet: Puppet) -> list[Chain]:
    """The chains sorted so that each is solved after all that move its handle or its anchor.

    Raises `Refusal` when two wait for one another, or a handle rides on its own limb.
    """
    waits = {c.id: _waits_for(puppet, c) for c in puppet.chains.values()}
    done: list[Chain] = []
    left = dict(puppet.chains)
    while left:
        ready = [c for c in left.values() if not waits[c.id] & left.keys()]
        if not ready:
            names = " and ".join(f"“{c.name}”" for c in left.values())
            raise Refusal(
                f"{names} would reach in a circle: a handle rides on the limb that reaches for it.",
                remedy="Let the handle hang on the world or on something that the limb does not move.",
                kind="loop",
            )
        for chain in ready:
            done.append(left.pop(chain.id))
    return done


def _waits_for(puppet: Puppet, chain: Chain) -> set[str]:
    above = {chain.handle, *ancestors(puppet.joints, chain.handle)}
    own = {*ancestors(puppet.joints, chain.joints[0])}
    return {
        c.id
        for c in puppet.chains.values()
        if above & set(c.joints)
        or (c.id != chain.id and (own & set(c.joints) or set(c.joints[:-1]) & set(chain.joints[:-1])))
    }


def check_chain(joints: Mapping[str, Joint], chain: Chain) -> None:
    """Raises `Refusal` unless the chain's joints hang on one another in order."""
    for above, below_ in zip(chain.joints, chain.joints[1:], strict=False):
        if joints[below_].parent != above:
            raise Refusal(
                f"“{joints[below_].name}” does not hang on “{joints[above].name}”.",
                where=chain.name,
                remedy="Choose joints that hang on one another, from the anchor to the end.",
            )


def prepared(puppet: Puppet, skeleton: Skeleton) -> tuple[Plan, ...]:
    """Every chain made ready, in the order in which they are solved."""
    row = {id: i for i, id in enumerate(skeleton.ids)}
    plans: list[Plan] = []
    for chain in in_order(puppet):
        rests = np.array([puppet.joints[j].rest.affine() for j in chain.joints])[:, :, None]
        places = _places(rests)[:, 0]
        bones = np.diff(places)
        side = {"clockwise": 1.0, "counter-clockwise": -1.0}.get(chain.bend) or _rest_side(puppet, chain, bones)
        limits = [puppet.joints[j].limits for j in chain.joints]
        plans.append(
            Plan(
                chain=chain,
                rows=tuple(row[j] for j in chain.joints),
                parent=skeleton.parents[row[chain.joints[0]]],
                handle=row[chain.handle],
                side=side,
                nearest=float(abs(places[-1] - places[0])),
                limits=tuple((np.deg2rad(m.low), np.deg2rad(m.high)) if m else None for m in limits),
                under=frozenset(row[j] for j in below(puppet.joints, chain.joints)),
            )
        )
    return tuple(plans)


def _rest_side(puppet: Puppet, chain: Chain, bones: Complexes) -> float:
    """The way a limb gives: as it is bent at rest; if straight, as its middle joint may turn."""
    turns = [float((b * a.conjugate()).imag) for a, b in itertools.pairwise(bones)]
    if turns and abs(sum(turns)) > 1e-3 * float(np.sum(np.abs(bones))) ** 2 / len(bones) ** 2:
        return 1.0 if sum(turns) > 0 else -1.0
    for id in chain.joints[1:-1]:
        if limits := puppet.joints[id].limits:
            return 1.0 if limits.high + limits.low > 0 else -1.0
    return 1.0


def _places(locals: Floats) -> Complexes:
    """Where a limb's joints lie, from their transforms `(joints, 6, frames)` in one another."""
    frame = np.array(locals[0])
    places = [frame[4] + 1j * frame[5]]
    for local in locals[1:]:
        step = np.empty_like(frame)
        compose_blocks(frame[None], local[None], step[None])
        frame = step
        places.append(frame[4] + 1j * frame[5])
    return np.stack(places)


def softened(distance: Floats, length: Floats | float, soft: float, rest: float) -> Floats:
    """How far the end goes when the target is `distance` away from the anchor.

    As asked while there is slack; over the last `soft` part of the length ever slower, with no
    jump in place or speed, towards the full length: d = l - s·exp((a - d)/s) from a = l - s on.
    A limb that rests straighter than that slows down only beyond its rest.
    """
    start = np.minimum(np.maximum(length * (1 - soft), rest), length)
    zone = np.maximum(length - start, 1e-9)
    beyond = np.maximum(distance - start, 0.0)
    return np.where(distance <= start, distance, length - zone * np.exp(-beyond / zone))


def solve(
    plan: Plan,
    locals: Floats,
    base: Floats | None,
    handle: Floats,
    rest: tuple[Floats, Floats | None],
    blend: Floats,
    turns: Floats,
) -> tuple[Floats, Reached]:
    """The limb's transforms with the reach blended in, and both results.

    `locals` are the turned joints in one another `(joints, 6, frames)`, `base` the transform of
    what the limb hangs on (None: the world), `handle` the handle's, both to the stage;
    `rest` is handle and base with nothing moved; `blend` runs 0…1 a frame; `turns` are the
    joints' present turns from rest in radians `(joints, frames)`.
    """
    frames = locals.shape[2]
    places = _places(locals)
    bones = np.diff(places, axis=0)
    target = _inward(base, handle)
    away = target[4] + 1j * target[5] - places[0]
    lengths = np.abs(bones)
    length = lengths.sum(axis=0)
    distance = np.abs(away)
    short = softened(distance, length, plan.chain.soft, plan.nearest)
    grown = np.clip(distance / np.maximum(short, 1e-9), 1.0, plan.chain.stretch)
    reach = np.minimum(distance, short * grown)
    aim = away / np.maximum(distance, 1e-12)
    signs = _signs(locals)
    stretched = bones * grown
    if len(bones) == 1:
        deltas = np.angle(aim * stretched[0].conj())[None]
        deltas = _limited(plan, 0, deltas[0], turns[0])[None]
    elif len(bones) == 2:
        deltas = _two_bones(plan, stretched, aim, reach, signs, turns)
    else:
        deltas = _many_bones(plan, stretched, aim * reach, signs, turns)
    full = np.zeros((len(plan.rows), frames))
    full[:-1] = wrapped(deltas)
    if plan.chain.follow:
        full[-1] = _following(plan, target, rest, full, signs, turns)
    given = full * blend
    solved = np.array(locals)
    _turned(solved, given)
    stretch = 1 + (grown - 1) * blend
    solved[1:, 4:] *= stretch
    reached = np.array(locals)
    _turned(reached, full)
    reached[1:, 4:] *= grown
    return solved, Reached(places, _places(reached))


def _inward(base: Floats | None, m: Floats) -> Floats:
    """Transforms `m` (6, frames) seen from inside `base`."""
    if base is None:
        return m
    a, b, c, d, e, f = base
    det = a * d - b * c
    det = np.where(np.abs(det) < 1e-12, 1e-12, det)
    inverse = np.stack([d / det, -b / det, -c / det, a / det, (c * f - d * e) / det, (b * e - a * f) / det])
    out = np.empty(np.broadcast_shapes(inverse.shape, m.shape))
    compose_blocks(inverse[None], m[None], out[None])
    return out


def _signs(locals: Floats) -> Floats:
    """Which way a positive turn of each joint goes, seen from what the limb hangs on."""
    det = locals[:, 0] * locals[:, 3] - locals[:, 1] * locals[:, 2]
    flips = np.where(det < 0, -1.0, 1.0)
    return np.concatenate([np.ones((1, locals.shape[2])), np.cumprod(flips, axis=0)[:-1]])


def _limited(plan: Plan, k: int, delta: Floats, turn: Floats) -> Floats:
    """A joint's further turn (in its own counting) kept so that the whole stays within its limits."""
    limits = plan.limits[k]
    if limits is None:
        return delta
    low, high = limits
    whole = turn + delta
    # Of all turns that look alike, the one nearest to the middle of the range is meant.
    middle = (low + high) / 2
    whole = middle + wrapped(whole - middle)
    return np.minimum(np.maximum(whole, low), high) - turn


def _two_bones(plan: Plan, bones: Complexes, aim: Complexes, reach: Floats, signs: Floats, turns: Floats) -> Floats:
    """Both joints' further turns by the law of cosines (Euclid, Elements II.12–13)."""
    upper, lower = np.abs(bones[0]), np.abs(bones[1])
    d = np.maximum(np.minimum(reach, upper + lower), np.abs(upper - lower) + 1e-9)
    at_anchor = np.arccos(np.clip((upper**2 + d**2 - lower**2) / np.maximum(2 * upper * d, 1e-12), -1, 1))
    at_middle = np.arccos(np.clip((upper**2 + lower**2 - d**2) / np.maximum(2 * upper * lower, 1e-12), -1, 1))
    first = np.angle(aim) - plan.side * at_anchor
    second = first + plan.side * (np.pi - at_middle)
    bend = signs[1] * wrapped(second - np.angle(bones[1]) - first + np.angle(bones[0]))
    bend = _limited(plan, 1, bend, turns[1])
    # Limits may have changed the bend: aim what the limb is now at the target.
    whole = bones[0] + bones[1] * np.exp(1j * signs[1] * bend)
    root = wrapped(np.angle(aim * whole.conj()))
    return np.stack([_limited(plan, 0, root, turns[0]), bend])


def _many_bones(plan: Plan, bones: Complexes, target: Complexes, signs: Floats, turns: Floats) -> Floats:
    """Further turns of a longer limb: cyclic coordinate descent to come near (Wang and Chen 1991,
    IEEE Trans. Robotics 7:4), then damped least squares to arrive (Wampler 1986, IEEE Trans. SMC 16:1).
    """
    count = len(bones)
    q = np.array(bones)
    deltas = np.zeros(q.shape)
    length = np.abs(q).sum(axis=0)
    # A straight limb has no way to give: start it on the arc that it should bend along, as far as
    # the target is nearer than its end is now.
    chord = np.abs(q.sum(axis=0)) / np.maximum(length, 1e-12)
    straight = np.clip((chord - NEARLY_STRAIGHT) / (1 - NEARLY_STRAIGHT), 0, 1)
    wanted = np.arccos(np.clip(np.abs(target) / np.maximum(length, 1e-12), 0, 1))
    needed = np.maximum(wanted - np.arccos(np.clip(chord, 0, 1)), 0)
    for k in range(1, count):
        start = _limited(plan, k, signs[k] * plan.side * straight * needed * 2 / count, turns[k])
        deltas[k] += start
        q[k:] = q[k:] * np.exp(1j * signs[k] * start)
    for _ in range(ROUNDS):
        for k in range(count - 1, -1, -1):
            tail = q[k:].sum(axis=0)
            wanted = target - q[:k].sum(axis=0)
            turn = signs[k] * np.angle(wanted * tail.conj())
            after = _limited(plan, k, deltas[k] + turn, turns[k])
            q[k:] = q[k:] * np.exp(1j * signs[k] * (after - deltas[k]))
            deltas[k] = after
    for _ in range(STEPS):
        off = target - q.sum(axis=0)
        # How the end moves with each joint's turn: at right angles to the way to it.
        ways = 1j * np.cumsum(q[::-1], axis=0)[::-1] * signs[:count]
        xx, yy = (ways.real**2).sum(axis=0), (ways.imag**2).sum(axis=0)
        xy = (ways.real * ways.imag).sum(axis=0)
        damp = 1e-4 * (xx + yy) + 1e-9
        xx, yy = xx + damp, yy + damp
        det = xx * yy - xy * xy
        u, v = (yy * off.real - xy * off.imag) / det, (xx * off.imag - xy * off.real) / det
        for k in range(count):
            turn = np.clip(ways[k].real * u + ways[k].imag * v, -0.3, 0.3)
            after = _limited(plan, k, deltas[k] + turn, turns[k])
            q[k:] = q[k:] * np.exp(1j * signs[k] * (after - deltas[k]))
            deltas[k] = after
    return deltas


def _following(
    plan: Plan, target: Floats, rest: tuple[Floats, Floats | None], full: Floats, signs: Floats, turns: Floats
) -> Floats:
    """The end joint's further turn that lets it turn as the handle has turned since rest."""
    handle, base = rest
    turned = arg(target) - arg(_inward(base, handle))
    sofar = (signs[:-1] * (turns[:-1] + full[:-1])).sum(axis=0)
    return _limited(plan, len(plan.rows) - 1, wrapped(signs[-1] * (turned - sofar) - turns[-1]), turns[-1])


def _turned(locals: Floats, by: Floats) -> None:
    """Turn transforms `(joints, 6, frames)` in place by radians `(joints, frames)`."""
    co, si = np.cos(by), np.sin(by)
    a, b, c, d = (locals[:, i].copy() for i in range(4))
    locals[:, 0], locals[:, 1] = co * a - si * b, si * a + co * b
    locals[:, 2], locals[:, 3] = co * c - si * d, si * c + co * d
