"""Every joint and piece of a puppet at every frame, worked out at once.

In order: channels, what dials add, limits, joints, limbs that reach, bending. The evaluation is
a value: `Evaluation.after` makes the next one from it by working out only what a change touches,
in the frames it touches. The numbers are exactly those a full evaluation gives.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from sorvan.core.art.source import Arts
from sorvan.core.geometry import IDENTITY, Floats, column, compose_blocks, placed_block
from sorvan.core.model.motion import AS_AT_REST, NEUTRAL, Channel, ChannelKind, Motion, channel_id
from sorvan.core.model.production import Production
from sorvan.core.model.puppet import ROOT, Placement, Puppet
from sorvan.core.plan.bending import Bender, benders
from sorvan.core.plan.dials import Values, joint_of, kind_of, with_dials
from sorvan.core.rig import reach
from sorvan.core.rig.skeleton import Skeleton, below, rest_worlds
from sorvan.core.timing.channels import evaluate as evaluate_channel

NO_PRODUCTION = Production(id="none", name="none")


@dataclass(frozen=True)
class Rig:
    """What of a puppet stays the same whatever its motion: looked up once for an evaluation.

    `seats` is `(pieces,)`, the row of each piece's joint; `fits` are, piece by piece,
    `(drawings, 6)`, the transforms of its drawings to that joint; `rest` is which one shows.
    """

    skeleton: Skeleton
    row: Mapping[str, int]
    seats: NDArray[np.intp]
    fits: tuple[Floats, ...]
    at_rest: Floats
    rest: NDArray[np.int16]
    chains: tuple[reach.Plan, ...]
    chain_rests: tuple[tuple[Floats, Floats | None], ...]
    benders: tuple[Bender, ...]

    @classmethod
    def of(cls, puppet: Puppet, production: Production, arts: Arts | None) -> Rig:
        """Look everything up."""
        skeleton = Skeleton.of(puppet.joints)
        row = {id: i for i, id in enumerate(skeleton.ids)}
        pieces = [puppet.pieces[id] for id in puppet.order]
        seats = np.array([row[p.joint] for p in pieces], dtype=np.intp)
        fits = tuple(np.array([p.in_joint(d) for d in p.drawings], dtype=np.float64) for p in pieces)
        rest = np.array([p.drawings.index(p.shown()) for p in pieces], dtype=np.int16)
        at_rest = np.array([f[r] for f, r in zip(fits, rest, strict=True)], dtype=np.float64).reshape(-1, 6, 1)
        chains = reach.prepared(puppet, skeleton) if puppet.chains else ()
        worlds = rest_worlds(puppet) if chains else {}

        def world(at: int) -> Floats | None:
            return None if at < 0 else column(worlds[skeleton.ids[at]] if at else IDENTITY)

        rests = tuple((column(worlds[c.chain.handle]), world(c.parent)) for c in chains)
        bending = benders(puppet, skeleton, production, arts)
        return cls(skeleton, row, seats, fits, at_rest, rest, chains, rests, bending)


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
    to the stage; `shown` is `(pieces, frames)`, which drawing of each piece that is. `points`
    holds for each of the rig's benders `(n, 2, frames)` drawing units. `locals` are joints in
    their parents as turned, `settled` the same after limbs have reached.
    """

    puppet: Puppet
    motion: Motion | None
    blocking: bool
    production: Production
    arts: Arts | None
    rig: Rig
    keyed: Values
    values: Values
    locals: Floats
    settled: Floats
    worlds: Floats
    pieces: Floats
    shown: NDArray[np.int16]
    points: tuple[Floats, ...] = ()
    reached: Mapping[str, reach.Reached] = field(default_factory=dict)

    @property
    def frames(self) -> int:
        """How many frames were evaluated."""
        return int(self.worlds.shape[2])

    @property
    def skeleton(self) -> Skeleton:
        """The joints in the order of the rows of `worlds`."""
        return self.rig.skeleton

    @classmethod
    def full(
        cls,
        puppet: Puppet,
        motion: Motion | None = None,
        blocking: bool = False,
        production: Production = NO_PRODUCTION,
        arts: Arts | None = None,
    ) -> Evaluation:
        """Work everything out from nothing. Without `arts` no piece bends and no colour changes."""
        frames = motion.length if motion else 1
        rig = Rig.of(puppet, production, arts)
        keyed = _values(motion, blocking, {}, None)
        values = with_dials(puppet, keyed, frames)
        count = len(rig.skeleton.ids)
        locals, worlds = np.empty((count, 6, frames)), np.empty((count, 6, frames))
        _fill_locals(puppet, rig.skeleton, values, range(count), locals)
        settled = locals.copy() if rig.chains else locals
        reached = _fill_worlds(rig, values, locals, settled, worlds, None)
        shown = _shown(puppet, rig, values, frames)
        pieces = np.empty((len(puppet.order), 6, frames))
        compose_blocks(worlds[rig.seats], rig.at_rest, pieces)
        _seat_changing(rig, worlds, shown, pieces, range(len(puppet.order)))
        points = tuple(b.points(worlds, 0, frames) for b in rig.benders)
        return cls(
            puppet,
            motion,
            blocking,
            production,
            arts,
            rig,
            keyed,
            values,
            locals,
            settled,
            worlds,
            pieces,
            shown,
            points,
            reached,
        )

    def after(
        self, puppet: Puppet, motion: Motion | None, production: Production | None = None
    ) -> tuple[Evaluation, Touched]:
        """The evaluation of what the documents are now, and what of it is new."""
        production = production or self.production
        shape_kept = (
            _same_puppet(puppet, self.puppet)
            and production.swatches == self.production.swatches
            and (motion.length if motion else 1) == self.frames
        )
        if not shape_kept:
            fresh = Evaluation.full(puppet, motion, self.blocking, production, self.arts)
            return fresh, Touched(0, fresh.frames, tuple(range(len(puppet.order))))
        keyed = _values(motion, self.blocking, self.keyed, self.motion)
        values = with_dials(puppet, keyed, self.frames)
        channels, start, stop = _difference(self, values)
        kept = replace(self, puppet=puppet, motion=motion, production=production, keyed=keyed, values=values)
        if not channels:
            return kept, NOTHING
        return kept._redone(channels, start, stop)

    def _redone(self, channels: frozenset[str], start: int, stop: int) -> tuple[Evaluation, Touched]:
        """Work out anew what these channels move, in frames start…stop-1."""
        span, rig, puppet = slice(start, stop), self.rig, self.puppet
        joints = {joint_of(c) for c in channels if kind_of(c) in ("turn", "move", "scale")} & rig.row.keys()
        dirty = set(range(len(rig.row))) if ROOT in joints else {rig.row[j] for j in below(puppet.joints, joints)}
        reaching = {joint_of(c) for c in channels if kind_of(c) == "reach"}
        windowed = {id: v[:, span] for id, v in self.values.items()}
        locals, worlds, pieces, shown = self.locals.copy(), self.worlds.copy(), self.pieces.copy(), self.shown.copy()
        _fill_locals(puppet, rig.skeleton, windowed, [rig.row[j] for j in joints], locals[:, :, span])
        settled = locals
        if rig.chains:
            settled = self.settled.copy()
            rows = [rig.row[j] for j in joints]
            settled[rows, :, span] = locals[rows, :, span]
        new = _fill_worlds(rig, windowed, locals[:, :, span], settled[:, :, span], worlds[:, :, span], dirty, reaching)
        reached = {id: _patched(self.reached[id], r, span) for id, r in new.items()}
        choosing = {
            puppet.order.index(joint_of(c)) for c in channels if kind_of(c) == "show" and joint_of(c) in puppet.pieces
        }
        if choosing:
            shown[:, span] = _shown(puppet, rig, windowed, stop - start)
        moved = set(np.flatnonzero(np.isin(rig.seats, list(dirty))).tolist()) | choosing
        touched = np.array(sorted(moved), dtype=np.intp)
        block = np.empty((touched.size, 6, stop - start))
        compose_blocks(worlds[rig.seats[touched], :, span], rig.at_rest[touched], block)
        pieces[touched, :, span] = block
        _seat_changing(rig, worlds[:, :, span], shown[:, span], pieces[:, :, span], touched)
        points = list(self.points)
        for i, bender in enumerate(rig.benders):
            if bender.main in dirty or dirty.intersection(bender.rows):
                points[i] = points[i].copy()
                points[i][:, :, span] = bender.points(worlds, start, stop)
                moved.add(bender.piece)
        changed = replace(
            self,
            locals=locals,
            settled=settled,
            worlds=worlds,
            pieces=pieces,
            shown=shown,
            points=tuple(points),
            reached={**self.reached, **reached},
        )
        return changed, Touched(start, stop, tuple(sorted(moved)))

    def pose(self, frame: int, tried: Mapping[str, tuple[float, ...]]) -> Evaluation:
        """One frame by itself, with some channels given tried values instead of their own."""
        keyed = {id: v[:, frame : frame + 1] for id, v in self.keyed.items()}
        for id, numbers in tried.items():
            keyed[id] = np.array(numbers, dtype=np.float64)[:, None]
        rig, puppet = self.rig, self.puppet
        values = with_dials(puppet, keyed, 1)
        at = slice(frame, frame + 1)
        before = {id: v[:, at] for id, v in self.values.items()}
        changed = {c for c in values.keys() | before.keys() if not _equal(values.get(c), before.get(c))}
        joints = {joint_of(c) for c in changed if kind_of(c) in ("turn", "move", "scale")} & rig.row.keys()
        rows = sorted(rig.row[j] for j in joints)
        dirty = set(range(len(rig.row))) if ROOT in joints else {rig.row[j] for j in below(puppet.joints, joints)}
        locals, settled, worlds = (block[:, :, at].copy() for block in (self.locals, self.settled, self.worlds))
        _fill_locals(puppet, rig.skeleton, values, rows, locals)
        settled[rows] = locals[rows]
        reaching = {joint_of(c) for c in changed if kind_of(c) == "reach"}
        solved = _fill_worlds(rig, values, locals, settled, worlds, dirty, reaching)
        reached = {
            id: solved.get(id) or reach.Reached(r.turned[:, at], r.reached[:, at]) for id, r in self.reached.items()
        }
        shown = _shown(puppet, rig, values, 1)
        pieces = np.empty((len(puppet.order), 6, 1))
        compose_blocks(worlds[rig.seats], rig.at_rest, pieces)
        _seat_changing(rig, worlds, shown, pieces, range(len(puppet.order)))
        # Only what shows, and only what moved, is bent: a hand waits for this.
        points = tuple(
            np.zeros((0, 2, 1))
            if shown[b.piece, 0] != b.drawing
            else b.points(worlds, 0, 1)
            if b.main in dirty or dirty.intersection(b.rows)
            else known[:, :, at]
            for b, known in zip(rig.benders, self.points, strict=True)
        )
        return replace(
            self,
            keyed=keyed,
            values=values,
            locals=locals,
            settled=settled,
            worlds=worlds,
            pieces=pieces,
            shown=shown,
            points=points,
            reached=reached,
        )

    def value(self, owner: str, kind: ChannelKind, frame: int) -> tuple[float, ...]:
        """A channel's own value at a frame, before dials; what it neutrally holds if it has no keys."""
        found = self.keyed.get(channel_id(owner, kind))
        if found is None and kind == "dial" and owner in self.puppet.dials:
            return (self.puppet.dials[owner].rest,)
        return NEUTRAL[kind] if found is None else tuple(float(v) for v in found[:, frame])


def _same_puppet(one: Puppet, other: Puppet) -> bool:
    if one is other:
        return True
    names = ("order", "pieces", "joints", "origin", "chains", "dials")
    return all(getattr(one, n) is getattr(other, n) or getattr(one, n) == getattr(other, n) for n in names)


def _equal(one: Floats | None, other: Floats | None) -> bool:
    return one is other or (one is not None and other is not None and np.array_equal(one, other))


def _patched(before: reach.Reached, new: reach.Reached, span: slice) -> reach.Reached:
    turned, reached = before.turned.copy(), before.reached.copy()
    turned[:, span], reached[:, span] = new.turned, new.reached
    return reach.Reached(turned, reached)


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
            # A drawing is chosen, never half chosen.
            held = blocking or channel.kind == "show"
            values[id] = evaluate_channel(channel, motion.length, motion.cycle, held)
    return values


def _same(one: Channel | None, other: Channel) -> bool:
    return one is other or one == other


def _difference(before: Evaluation, values: Values) -> tuple[frozenset[str], int, int]:
    """Which channels differ from before, and the frames they differ in."""
    channels: set[str] = set()
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
            channels.add(id)
            start, stop = min(start, int(changed[0])), max(stop, int(changed[-1]) + 1)
    return frozenset(channels), start, stop


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
