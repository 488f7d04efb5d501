"""The one order in which a puppet comes to its places, written once.

Channels, dials and limits give values; then, here: joints in their parents, joints on the stage with
limbs reaching on the way, which drawing shows, where pieces sit, and bending. A full evaluation, a
partial one and one frame by itself run these same stages over different spans and rows. Every stage
but one looks at the frames it is asked for alone; bending by a sheet looks at the block of frames
around them, and so gets the places of all frames.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from sorvan.core.geometry import IDENTITY, Floats, column, compose_blocks, placed_block
from sorvan.core.model.channel import AS_AT_REST, channel_id
from sorvan.core.model.puppet import ROOT, Placement, Puppet
from sorvan.core.plan.dials import Values, joint_of, kind_of
from sorvan.core.plan.rig import Rig
from sorvan.core.rig import reach
from sorvan.core.rig.skeleton import Skeleton, below


@dataclass
class Places:
    """Where everything is, in all frames there are; the stages write into them.

    `locals` `(joints + 1, 6, frames)` are joints in their parents as turned, `settled` the same after
    limbs have reached, `worlds` joints on the stage; row 0 is the puppet as a whole. `pieces`
    `(pieces, 6, frames)` take each shown drawing to the stage, from back to front; `shown`
    `(pieces, frames)` is which drawing that is. `points` holds for each of the rig's benders
    `(n, 2, frames)` drawing units.
    """

    locals: Floats
    settled: Floats
    worlds: Floats
    pieces: Floats
    shown: NDArray[np.int16]
    points: list[Floats] = field(default_factory=list)
    reached: dict[str, reach.Reached] = field(default_factory=dict)

    @classmethod
    def blank(cls, rig: Rig, frames: int) -> Places:
        """Room for so many frames, with nothing in it yet."""
        joints, pieces = len(rig.skeleton.ids), len(rig.seats)
        locals = np.empty((joints, 6, frames))
        return cls(
            locals=locals,
            settled=np.empty(locals.shape) if rig.chains else locals,
            worlds=np.empty(locals.shape),
            pieces=np.empty((pieces, 6, frames)),
            shown=np.repeat(rig.rest[:, None], frames, axis=1),
            points=[np.empty((b.count, 2, frames)) for b in rig.benders],
            reached={p.chain.id: reach.Reached.blank(len(p.rows), frames) for p in rig.chains},
        )

    def part(self, span: slice) -> Places:
        """A copy of some frames, to write into."""
        locals = self.locals[:, :, span].copy()
        return Places(
            locals=locals,
            settled=self.settled[:, :, span].copy() if self.settled is not self.locals else locals,
            worlds=self.worlds[:, :, span].copy(),
            pieces=self.pieces[:, :, span].copy(),
            shown=self.shown[:, span].copy(),
            points=[p[:, :, span] for p in self.points],
            reached={id: r.part(span) for id, r in self.reached.items()},
        )


@dataclass(frozen=True)
class Work:
    """What is to be worked out: frames `start` up to `stop` of what these channels move; of
    everything, if no channels are named. Where `glimpse` is set, only drawings that show are bent."""

    start: int
    stop: int
    channels: frozenset[str] | None = None
    glimpse: bool = False

    def turned(self, rig: Rig) -> list[int]:
        """The rows whose own channels these are."""
        if self.channels is None:
            return list(range(len(rig.skeleton.ids)))
        joints = {joint_of(c) for c in self.channels if kind_of(c) in ("turn", "move", "scale")}
        return sorted(rig.row[j] for j in joints & rig.row.keys())

    def owners(self, kind: str) -> set[str]:
        """What these channels of one kind belong to."""
        return {joint_of(c) for c in self.channels or () if kind_of(c) == kind}


def run(puppet: Puppet, rig: Rig, values: Values, work: Work, places: Places) -> tuple[int, ...]:
    """Run the stages in their order. `values` are those of all frames of `places`.

    Gives the rows of the pieces that were worked out anew.
    """
    span = slice(work.start, work.stop)
    windowed = {id: v[:, span] for id, v in values.items()}
    moved = _joints(puppet, rig, windowed, work, places, span)
    choosing = _drawings(puppet, rig, windowed, work, places, span)
    seated = _seats(rig, moved, choosing, places, span)
    return tuple(sorted(seated | _bending(rig, moved, work, places)))


def _joints(puppet: Puppet, rig: Rig, values: Values, work: Work, places: Places, span: slice) -> set[int] | None:
    """Joints in their parents and on the stage, limbs reaching. Gives the rows that moved (None: all)."""
    turned = work.turned(rig)
    locals, settled, worlds = (block[:, :, span] for block in (places.locals, places.settled, places.worlds))
    _fill_locals(puppet, rig.skeleton, values, turned, locals)
    if places.settled is not places.locals:
        settled[turned] = locals[turned]
    dirty: set[int] | None = None
    if work.channels is not None:
        whole = 0 in turned
        dirty = set(range(len(rig.row))) if whole else _rows_below(puppet, rig, turned)
    reached = _fill_worlds(rig, values, locals, settled, worlds, dirty, work.owners("reach"))
    for id, limb in reached.items():
        places.reached[id] = places.reached[id].with_part(limb, span)
    return dirty


def _rows_below(puppet: Puppet, rig: Rig, rows: list[int]) -> set[int]:
    return {rig.row[j] for j in below(puppet.joints, [rig.skeleton.ids[r] for r in rows])}


def _drawings(puppet: Puppet, rig: Rig, values: Values, work: Work, places: Places, span: slice) -> set[int]:
    """Which drawings show. Gives the pieces among which something may have changed."""
    choosing = {row for row, id in enumerate(puppet.order) if id in work.owners("show")}
    if work.channels is None or choosing:
        places.shown[:, span] = _shown(puppet, rig, values, span.stop - span.start)
    return choosing


def _seats(rig: Rig, moved: set[int] | None, choosing: set[int], places: Places, span: slice) -> set[int]:
    """Where pieces sit: on the joints that moved, or by another drawing's pivot. Gives their rows."""
    worlds, pieces = places.worlds[:, :, span], places.pieces[:, :, span]
    if moved is None:
        compose_blocks(worlds[rig.seats], rig.at_rest, pieces)
        seated = set(range(len(rig.seats)))
    else:
        seated = set(np.flatnonzero(np.isin(rig.seats, list(moved))).tolist()) | choosing
        touched = np.array(sorted(seated), dtype=np.intp)
        block = np.empty((touched.size, 6, span.stop - span.start))
        compose_blocks(worlds[rig.seats[touched]], rig.at_rest[touched], block)
        pieces[touched] = block
    _seat_changing(rig, worlds, places.shown[:, span], pieces, seated)
    return seated


def _bending(rig: Rig, moved: set[int] | None, work: Work, places: Places) -> set[int]:
    """Where the points of bending drawings go. Gives the rows of their pieces."""
    bent: set[int] = set()
    for i, bender in enumerate(rig.benders):
        if work.glimpse and places.shown[bender.piece, work.start] != bender.drawing:
            places.points[i] = np.zeros((0, 2, 1))
        elif moved is None or bender.main in moved or moved.intersection(bender.rows):
            points = np.array(places.points[i])
            points[:, :, work.start : work.stop] = bender.points(places.worlds, work.start, work.stop)
            places.points[i] = points
            bent.add(bender.piece)
    return bent


def _fill_locals(puppet: Puppet, skeleton: Skeleton, values: Values, rows: Iterable[int], out: Floats) -> None:
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
        if 0 in keyed:
            # The puppet as a whole turns and grows about the place where it stands.
            ox, oy = puppet.origin
            out[0, 4] -= out[0, 0] * ox + out[0, 2] * oy
            out[0, 5] -= out[0, 1] * ox + out[0, 3] * oy


def _keyed_locals(puppet: Puppet, ids: list[str], values: Values, frames: int) -> Floats:
    """Transforms `(joints, 6, frames)` of joints that have channels, all worked out together."""
    standing = Placement(x=puppet.origin[0], y=puppet.origin[1])
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


def _fill_worlds(
    rig: Rig,
    values: Values,
    locals: Floats,
    settled: Floats,
    worlds: Floats,
    dirty: set[int] | None,
    reaching: Iterable[str] = (),
) -> dict[str, reach.Reached]:
    """Stage transforms of the `dirty` rows (all, if None), limbs reaching on the way.

    What reaching moves is written into `settled` and added to `dirty`.
    """
    _compose_rows(rig.skeleton, settled, worlds, dirty)
    reached: dict[str, reach.Reached] = {}
    for plan, rest in zip(rig.chains, rig.chain_rests, strict=True):
        feeds = {plan.handle, *plan.rows, *((plan.parent,) if plan.parent >= 0 else ())}
        if dirty is not None and not dirty & feeds and plan.chain.id not in reaching:
            continue
        rows = list(plan.rows)
        frames = worlds.shape[2]
        held = values.get(channel_id(plan.chain.id, "reach"))
        blend = np.full(frames, 1.0) if held is None else np.clip(held[0] / 100, 0, 1)
        turns = np.zeros((len(rows), frames))
        for k, row in enumerate(rows):
            turn = values.get(channel_id(rig.skeleton.ids[row], "turn"))
            if turn is not None:
                turns[k] = np.deg2rad(turn[0])
        base = None if plan.parent < 0 else worlds[plan.parent]
        solved, found = reach.solve(plan, locals[rows], base, worlds[plan.handle], rest, blend, turns)
        settled[rows] = solved
        reached[plan.chain.id] = found
        _compose_rows(rig.skeleton, settled, worlds, set(plan.under))
        if dirty is not None:
            dirty |= plan.under
    return reached


def _compose_rows(skeleton: Skeleton, locals: Floats, worlds: Floats, wanted: set[int] | None) -> None:
    """Stage transforms level by level; only the `wanted` rows, or all."""
    if wanted is None or 0 in wanted:
        worlds[0] = locals[0]
    parents = np.array(skeleton.parents)
    free = frozenset(skeleton.free)
    for first, last in skeleton.levels:
        whole = wanted is None and not free
        rows = (
            np.arange(first, last)
            if whole
            else np.array(
                [r for r in range(first, last) if (wanted is None or r in wanted) and r not in free], dtype=np.intp
            )
        )
        if whole:
            compose_blocks(worlds[parents[first:last]], locals[first:last], worlds[first:last])
        elif rows.size:
            block = np.empty((rows.size, 6, worlds.shape[2]))
            compose_blocks(worlds[parents[rows]], locals[rows], block)
            worlds[rows] = block
        for row in free:
            if first <= row < last and (wanted is None or row in wanted):
                worlds[row] = locals[row]


def _shown(puppet: Puppet, rig: Rig, values: Values, frames: int) -> NDArray[np.int16]:
    """Which drawing of each piece shows, `(pieces, frames)`."""
    shown = np.repeat(rig.rest[:, None], frames, axis=1)
    for row, id in enumerate(puppet.order):
        held = values.get(channel_id(id, "show"))
        if held is None:
            continue
        for index, drawing in enumerate(puppet.pieces[id].drawings):
            shown[row][np.round(held[0]) == drawing.number] = index
        shown[row][held[0] == AS_AT_REST] = rig.rest[row]
    return shown


def _seat_changing(rig: Rig, worlds: Floats, shown: NDArray[np.int16], pieces: Floats, rows: Iterable[int]) -> None:
    """Seat the pieces anew whose drawing changes over the frames: each drawing has its own pivot."""
    changing = np.flatnonzero(np.any(shown != rig.rest[:, None], axis=1))
    for row in np.intersect1d(changing, np.asarray(list(rows), dtype=np.intp)):
        fits = np.ascontiguousarray(rig.fits[row][shown[row]].T)
        compose_blocks(worlds[rig.seats[row]][None], fits[None], pieces[row][None])
