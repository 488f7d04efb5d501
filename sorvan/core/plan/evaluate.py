"""Every joint and piece of a puppet at every frame, worked out at once.

The evaluation is a value: `Evaluation.after` makes the next one from it by working out only
the joints a change touches, in the frames it touches. The numbers are exactly those a full
evaluation gives.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from sorvan.core.geometry import Floats, column, compose_blocks, placed_block
from sorvan.core.model.motion import NEUTRAL, Channel, ChannelKind, Motion, channel_id
from sorvan.core.model.puppet import ROOT, Puppet, Rest
from sorvan.core.rig.skeleton import Skeleton, below
from sorvan.core.timing.channels import evaluate as evaluate_channel

Values = Mapping[str, Floats]
"""Channel values by channel id, each `(numbers, frames)`."""


@dataclass(frozen=True)
class Touched:
    """What a re-evaluation worked out anew: frames `start` up to `stop`, and these piece rows."""

    start: int
    stop: int
    pieces: tuple[int, ...]


NOTHING = Touched(0, 0, ())


@dataclass(frozen=True)
class Evaluation:
    """A puppet in motion (or at rest, in one frame), evaluated over frames 0…frames-1.

    `worlds` is `(joints + 1, 6, frames)`, row 0 the puppet as a whole; `pieces` is
    `(pieces, 6, frames)` in the puppet's order from back to front, taking each shown drawing
    to the stage.
    """

    puppet: Puppet
    motion: Motion | None
    blocking: bool
    skeleton: Skeleton
    values: Values
    locals: Floats
    worlds: Floats
    pieces: Floats

    @property
    def frames(self) -> int:
        """How many frames were evaluated."""
        return int(self.worlds.shape[2])

    @classmethod
    def full(cls, puppet: Puppet, motion: Motion | None = None, blocking: bool = False) -> Evaluation:
        """Work everything out from nothing."""
        frames = motion.length if motion else 1
        skeleton = Skeleton.of(puppet.joints)
        values = _values(motion, blocking, {}, None)
        rows = len(skeleton.ids)
        locals, worlds = np.empty((rows, 6, frames)), np.empty((rows, 6, frames))
        _fill_locals(puppet, skeleton, values, range(rows), locals)
        _fill_worlds(skeleton, locals, worlds, None)
        pieces = np.empty((len(puppet.order), 6, frames))
        _fill_pieces(puppet, skeleton, worlds, range(len(puppet.order)), pieces)
        return cls(puppet, motion, blocking, skeleton, values, locals, worlds, pieces)

    def after(self, puppet: Puppet, motion: Motion | None) -> tuple[Evaluation, Touched]:
        """The evaluation of what the documents are now, and what of it is new."""
        shape_kept = (
            puppet.order == self.puppet.order
            and puppet.pieces == self.puppet.pieces
            and puppet.joints == self.puppet.joints
            and puppet.origin == self.puppet.origin
            and (motion.length if motion else 1) == self.frames
        )
        if not shape_kept:
            fresh = Evaluation.full(puppet, motion, self.blocking)
            return fresh, Touched(0, fresh.frames, tuple(range(len(puppet.order))))
        values = _values(motion, self.blocking, self.values, self.motion)
        joints, start, stop = _difference(self, values)
        if not joints:
            return Evaluation(
                puppet, motion, self.blocking, self.skeleton, values, self.locals, self.worlds, self.pieces
            ), NOTHING
        return self._redone(puppet, motion, values, joints, start, stop)

    def _redone(
        self, puppet: Puppet, motion: Motion | None, values: Values, joints: frozenset[str], start: int, stop: int
    ) -> tuple[Evaluation, Touched]:
        """Work out anew these joints and all that rides on them, in frames start…stop-1."""
        span = slice(start, stop)
        row = {id: i for i, id in enumerate(self.skeleton.ids)}
        dirty = range(len(row)) if ROOT in joints else sorted(row[j] for j in below(puppet.joints, joints))
        windowed = {id: v[:, span] for id, v in values.items()}
        locals, worlds, pieces = self.locals.copy(), self.worlds.copy(), self.pieces.copy()
        _fill_locals(puppet, self.skeleton, windowed, [row[j] for j in joints], locals[:, :, span])
        _fill_worlds(self.skeleton, locals[:, :, span], worlds[:, :, span], frozenset(dirty))
        touched = tuple(i for i, id in enumerate(puppet.order) if row[puppet.pieces[id].joint] in set(dirty))
        _fill_pieces(puppet, self.skeleton, worlds[:, :, span], touched, pieces[:, :, span])
        result = Evaluation(puppet, motion, self.blocking, self.skeleton, values, locals, worlds, pieces)
        return result, Touched(start, stop, touched)

    def pose(self, frame: int, tried: Mapping[str, tuple[float, ...]]) -> Evaluation:
        """One frame by itself, with some channels given tried values instead of their own."""
        values = {id: v[:, frame : frame + 1] for id, v in self.values.items()}
        for id, numbers in tried.items():
            values[id] = np.array(numbers, dtype=np.float64)[:, None]
        locals = self.locals[:, :, frame : frame + 1].copy()
        row = {id: i for i, id in enumerate(self.skeleton.ids)}
        changed = {row[j] for j in (joint_of(c) for c in tried) if j in row}
        _fill_locals(self.puppet, self.skeleton, values, sorted(changed), locals)
        worlds = np.empty_like(locals)
        _fill_worlds(self.skeleton, locals, worlds, None)
        pieces = np.empty((len(self.puppet.order), 6, 1))
        _fill_pieces(self.puppet, self.skeleton, worlds, range(len(self.puppet.order)), pieces)
        return Evaluation(self.puppet, self.motion, self.blocking, self.skeleton, values, locals, worlds, pieces)

    def value(self, joint: str, kind: ChannelKind, frame: int) -> tuple[float, ...]:
        """A channel's value at a frame; its neutral value when it has no keys."""
        found = self.values.get(channel_id(joint, kind))
        return NEUTRAL[kind] if found is None else tuple(float(v) for v in found[:, frame])


def joint_of(channel: str) -> str:
    """The joint that a channel id belongs to."""
    return channel.rpartition(".")[0]


def kind_of(channel: str) -> ChannelKind:
    """The kind that a channel id speaks of."""
    kind: ChannelKind = channel.rpartition(".")[2]  # type: ignore[assignment]
    return kind


def _values(motion: Motion | None, blocking: bool, known: Values, before: Motion | None) -> Values:
    """Every channel's values, taking over those whose channel and frames are as before."""
    if motion is None:
        return {}
    same_frames = before is not None and (before.length, before.cycle) == (motion.length, motion.cycle)
    values: dict[str, Floats] = {}
    for id, channel in motion.channels.items():
        if same_frames and before is not None and _same(before.channels.get(id), channel):
            values[id] = known[id]
        else:
            values[id] = evaluate_channel(channel, motion.length, motion.cycle, blocking)
    return values


def _same(one: Channel | None, other: Channel) -> bool:
    return one is other or one == other


def _difference(before: Evaluation, values: Values) -> tuple[frozenset[str], int, int]:
    """Which joints' values differ from before, and the frames they differ in."""
    joints: set[str] = set()
    start, stop = before.frames, 0
    for id in before.values.keys() | values.keys():
        old, new = before.values.get(id), values.get(id)
        if old is new:
            continue
        neutral: Floats = np.array(NEUTRAL[kind_of(id)], dtype=np.float64)[:, None]
        left = old if old is not None else neutral
        right = new if new is not None else neutral
        changed = np.flatnonzero(np.any(np.broadcast_to(left != right, (len(neutral), before.frames)), axis=0))
        if changed.size:
            joints.add(joint_of(id))
            start, stop = min(start, int(changed[0])), max(stop, int(changed[-1]) + 1)
    return frozenset(joints & set(before.skeleton.ids)), start, stop


def _fill_locals(puppet: Puppet, skeleton: Skeleton, values: Values, rows: range | list[int], out: Floats) -> None:
    """Each wanted joint's transform in its parent: its rest with its channels added."""
    for row in rows:
        id = skeleton.ids[row]
        turn, move, scale = (values.get(f"{id}.{kind}") for kind in ("turn", "move", "scale"))
        if row == 0:
            _fill_root(puppet, turn, move, scale, out[0])
            continue
        rest = puppet.joints[id].rest
        if turn is None and move is None and scale is None:
            out[row] = column(rest.affine())
        else:
            _fill_keyed(rest, turn, move, scale, out[row])


def _fill_root(puppet: Puppet, turn: Floats | None, move: Floats | None, scale: Floats | None, out: Floats) -> None:
    """The puppet as a whole turns and grows about the place where it stands."""
    ox, oy = puppet.origin
    if turn is None and move is None and scale is None:
        out[:] = column((1, 0, 0, 1, 0, 0))
        return
    _fill_keyed(Rest(x=ox, y=oy), turn, move, scale, out)
    out[4] -= out[0] * ox + out[2] * oy
    out[5] -= out[1] * ox + out[3] * oy


def _fill_keyed(rest: Rest, turn: Floats | None, move: Floats | None, scale: Floats | None, out: Floats) -> None:
    frames = out.shape[1]
    angle = np.full(frames, rest.angle) if turn is None else rest.angle + turn[0]
    x = np.full(frames, rest.x) if move is None else rest.x + move[0]
    y = np.full(frames, rest.y) if move is None else rest.y + move[1]
    sx = np.full(frames, rest.sx) if scale is None else rest.sx * scale[0]
    sy = np.full(frames, rest.sy) if scale is None else rest.sy * scale[1]
    placed_block(x, y, angle, rest.skew, sx, sy, out)


def _fill_worlds(skeleton: Skeleton, locals: Floats, worlds: Floats, wanted: frozenset[int] | None) -> None:
    """Stage transforms level by level; only the `wanted` rows, or all."""
    if wanted is None or 0 in wanted:
        worlds[0] = locals[0]
    parents = np.array(skeleton.parents)
    for first, last in skeleton.levels:
        if wanted is None:
            compose_blocks(worlds[parents[first:last]], locals[first:last], worlds[first:last])
            continue
        rows = np.array([r for r in range(first, last) if r in wanted], dtype=np.intp)
        if rows.size:
            block = np.empty((rows.size, 6, worlds.shape[2]))
            compose_blocks(worlds[parents[rows]], locals[rows], block)
            worlds[rows] = block


def _fill_pieces(
    puppet: Puppet, skeleton: Skeleton, worlds: Floats, rows: range | tuple[int, ...], out: Floats
) -> None:
    """Each wanted piece's transform from its shown drawing to the stage."""
    if not len(rows):
        return
    row = {id: i for i, id in enumerate(skeleton.ids)}
    wanted = [puppet.pieces[puppet.order[r]] for r in rows]
    carriers: NDArray[np.intp] = np.array([row[p.joint] for p in wanted], dtype=np.intp)
    fits = np.stack([column(p.in_joint()) for p in wanted])
    block = np.empty((len(wanted), 6, worlds.shape[2]))
    compose_blocks(worlds[carriers], fits, block)
    out[np.array(rows, dtype=np.intp)] = block
