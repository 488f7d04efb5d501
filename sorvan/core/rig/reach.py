"""Reach (inverse kinematics): a limb turned so that its end meets its handle, in all frames at once.

Places are complex numbers (x + iy) in the space of what the limb hangs on, one array entry a
frame. Everything is element-wise and every frame is solved by itself from the turned limb, so
asking for some frames gives exactly the numbers that asking for all gives.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from sorvan.core.errors import Refusal
from sorvan.core.geometry import Complexes, Floats, compose_blocks, inverse_block
from sorvan.core.model.puppet import Chain, Joint, Puppet
from sorvan.core.rig.gives import rest_side, ways
from sorvan.core.rig.hinges import HARDLY, Hinges, bent, in_radians, limited, signs_of, turned, wrapped
from sorvan.core.rig.skeleton import Skeleton, ancestors, below

NEARLY_STRAIGHT = 0.97
"""A limb that is longer than this part of itself from end to end counts as straight."""


@dataclass(frozen=True)
class Limb:
    """A chain made ready: rows in the skeleton, and what its rest says.

    `parent` is the row that the limb hangs on (-1: the world), `hinges` how its joints give, `nearest`
    how far its end is from its anchor at rest.
    """

    chain: Chain
    rows: tuple[int, ...]
    parent: int
    handle: int
    hinges: Hinges
    nearest: float
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

    def part(self, span: slice | NDArray[np.intp]) -> Reached:
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


def args(blocks: Floats) -> Floats:
    """The directions (radians) in which transforms `(joints, 6, frames)` turn their x axes."""
    found: Floats = np.arctan2(blocks[:, 1], blocks[:, 0])
    return found


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


def prepared(puppet: Puppet, skeleton: Skeleton) -> tuple[Limb, ...]:
    """Every chain made ready, in the order in which they are solved."""
    row = {id: i for i, id in enumerate(skeleton.ids)}
    limbs: list[Limb] = []
    for chain in in_order(puppet):
        rests = np.array([puppet.joints[j].rest.affine() for j in chain.joints])[:, :, None]
        places = _places(rests)[:, 0]
        bones = np.diff(places)
        turning = chain.joints[:-1]
        side = {"clockwise": 1.0, "counter-clockwise": -1.0}.get(chain.bend) or rest_side(puppet, turning, bones)
        limits = [puppet.joints[j].limits for j in chain.joints]
        limbs.append(
            Limb(
                chain=chain,
                rows=tuple(row[j] for j in chain.joints),
                parent=skeleton.parents[row[chain.joints[0]]],
                handle=row[chain.handle],
                hinges=Hinges(side, ways(puppet, turning, bones, side), tuple(in_radians(m) for m in limits)),
                nearest=float(abs(places[-1] - places[0])),
                under=frozenset(row[j] for j in below(puppet.joints, chain.joints)),
            )
        )
    return tuple(limbs)


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
    limb: Limb,
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
    places = _places(locals)
    bones = np.diff(places, axis=0)
    target = _inward(base, handle)
    away = target[4] + 1j * target[5] - places[0]
    length = np.abs(bones).sum(axis=0)
    distance = np.abs(away)
    short = softened(distance, length, limb.chain.soft, limb.nearest)
    grown = np.clip(distance / np.maximum(short, 1e-9), 1.0, limb.chain.stretch)
    goal = away / np.maximum(distance, 1e-12) * np.minimum(distance, short * grown)
    signs = signs_of(locals)
    full = bent(limb.hinges, bones * grown, goal, signs, turns)
    to_handle = _turned_with(target, rest, signs, turns)
    reached = np.array(locals)
    turned(reached, _with_end(limb, full, np.ones_like(blend), to_handle, signs, turns))
    reached[1:, 4:] *= grown
    if np.all(blend >= 1):
        return reached, Reached(places, _places(reached))
    # Between turned and reaching the limb reaches for a place between its turned end and its goal:
    # angles mixed instead would swing round when the handle passes behind.
    end = bones.sum(axis=0)
    whole = blend >= 1
    between = end + blend * (goal - end)
    # Just off the turned end, on the side to which the blend leads: there a limb may bend in two ways.
    start = end * (1 + np.where(np.abs(between) < np.abs(end), -HARDLY, HARDLY))
    between = np.where(whole, goal, np.where(blend > 0, between, start))
    stretch = np.where(whole, grown, 1 + (grown - 1) * blend)
    given = bent(limb.hinges, bones * stretch, between, signs, turns)
    # A limb turned as reaching would never lay it comes back to that as the reach fades.
    off = bent(limb.hinges, bones, start, signs, turns)
    given = given + np.angle(blend + (1 - blend) * np.exp(-1j * off))
    given = np.stack([limited(limb.hinges, k, given[k], turns[k]) for k in range(len(given))])
    solved = np.array(locals)
    turned(solved, _with_end(limb, given, blend, to_handle, signs, turns))
    solved[1:, 4:] *= stretch
    return solved, Reached(places, _places(reached))


def _inward(base: Floats | None, m: Floats) -> Floats:
    """Transforms `m` (6, frames) seen from inside `base`."""
    if base is None:
        return m
    inverse = inverse_block(base)
    out = np.empty(np.broadcast_shapes(inverse.shape, m.shape))
    compose_blocks(inverse[None], m[None], out[None])
    return out


def _turned_with(target: Floats, rest: tuple[Floats, Floats | None], signs: Floats, turns: Floats) -> Floats:
    """How much further the end joint must be turned, seen from what the limb hangs on, to turn as the
    handle has turned since rest."""
    handle, base = rest
    still_to_turn: Floats = arg(target) - arg(_inward(base, handle)) - (signs * turns).sum(axis=0)
    return still_to_turn


def _with_end(limb: Limb, deltas: Floats, blend: Floats, to_handle: Floats, signs: Floats, turns: Floats) -> Floats:
    """The further turns of all joints, the end's own among them: none, or such that it goes with the handle."""
    end = np.zeros_like(blend)
    if limb.chain.follow:
        wanted = np.angle((1 - blend) + blend * np.exp(1j * to_handle))
        sofar = (signs[:-1] * deltas).sum(axis=0)
        end = limited(limb.hinges, len(limb.rows) - 1, wrapped(signs[-1] * (wanted - sofar)), turns[-1])
    return np.concatenate([deltas, end[None]])
