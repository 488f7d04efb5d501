"""Every joint and piece of a puppet at every frame, worked out at once.

The evaluation is a value: `Evaluation.after` makes the next one from it by working out only
the joints a change touches, in the frames it touches. The numbers are exactly those a full
evaluation gives.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from sorvan.core.geometry import IDENTITY, Floats, column, compose_blocks, placed_block
from sorvan.core.model.motion import NEUTRAL, Channel, ChannelKind, Motion, channel_id
from sorvan.core.model.puppet import ROOT, Puppet, Rest
from sorvan.core.rig.skeleton import Skeleton, below
from sorvan.core.timing.channels import evaluate as evaluate_channel

Values = Mapping[str, Floats]
"""Channel values by channel id, each `(numbers, frames)`."""


@dataclass(frozen=True)
class Seats:
    """How the pieces sit, in their order: the row of each one's joint, and its transform there.

    `rows` is `(pieces,)`, `fits` is `(pieces, 6, 1)`.
    """

    rows: NDArray[np.intp]
    fits: Floats

    @classmethod
    def of(cls, puppet: Puppet, skeleton: Skeleton) -> Seats:
        """Look every piece up once."""
        row = {id: i for i, id in enumerate(skeleton.ids)}
        pieces = [puppet.pieces[id] for id in puppet.order]
        rows = np.array([row[p.joint] for p in pieces], dtype=np.intp)
        fits = np.array([p.in_joint() for p in pieces], dtype=np.float64).reshape(-1, 6, 1)
        return cls(rows, fits)


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
    seats: Seats

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
        seats = Seats.of(puppet, skeleton)
        pieces = np.empty((len(puppet.order), 6, frames))
        compose_blocks(worlds[seats.rows], seats.fits, pieces)
        return cls(puppet, motion, blocking, skeleton, values, locals, worlds, pieces, seats)

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
            return replace(self, puppet=puppet, motion=motion, values=values), NOTHING
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
        touched = np.flatnonzero(np.isin(self.seats.rows, list(dirty)))
        block = np.empty((touched.size, 6, stop - start))
        compose_blocks(worlds[self.seats.rows[touched], :, span], self.seats.fits[touched], block)
        pieces[touched, :, span] = block
        changed = replace(
            self, puppet=puppet, motion=motion, values=values, locals=locals, worlds=worlds, pieces=pieces
        )
        return changed, Touched(start, stop, tuple(touched.tolist()))

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
        compose_blocks(worlds[self.seats.rows], self.seats.fits, pieces)
        return replace(self, values=values, locals=locals, worlds=worlds, pieces=pieces)

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
    keyed: list[int] = []
    for row in rows:
        id = skeleton.ids[row]
        if any(f"{id}.{kind}" in values for kind in ("turn", "move", "scale")):
            keyed.append(row)
        elif row == 0:
            out[0] = column(IDENTITY)
        else:
            out[row] = column(puppet.joints[id].rest.affine())
    if keyed:
        out[keyed] = _keyed_locals(puppet, [skeleton.ids[row] for row in keyed], values, out.shape[2])
        if keyed[0] == 0:
            # The puppet as a whole turns and grows about the place where it stands.
            ox, oy = puppet.origin
            out[0, 4] -= out[0, 0] * ox + out[0, 2] * oy
            out[0, 5] -= out[0, 1] * ox + out[0, 3] * oy


def _keyed_locals(puppet: Puppet, ids: list[str], values: Values, frames: int) -> Floats:
    """Transforms `(joints, 6, frames)` of joints that have channels, all worked out together."""
    standing = Rest(x=puppet.origin[0], y=puppet.origin[1])
    rests = [standing if id == ROOT else puppet.joints[id].rest for id in ids]
    angle, x, y, sx, sy = np.empty((5, len(ids), frames))
    for i, (id, rest) in enumerate(zip(ids, rests, strict=True)):
        turn, move, scale = (values.get(f"{id}.{kind}") for kind in ("turn", "move", "scale"))
        angle[i] = rest.angle if turn is None else rest.angle + turn[0]
        x[i], y[i] = (rest.x, rest.y) if move is None else (rest.x + move[0], rest.y + move[1])
        sx[i], sy[i] = (rest.sx, rest.sy) if scale is None else (rest.sx * scale[0], rest.sy * scale[1])
    block = np.empty((len(ids), 6, frames))
    placed_block(x, y, angle, np.array([[rest.skew] for rest in rests]), sx, sy, block)
    return block


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
