"""Joints in their parents and on the stage, limbs reaching and feet planted on the way."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from sorvan.core.geometry import IDENTITY, Floats, compose_blocks, placed_block
from sorvan.core.model.channels import channel_id, kind_of, owner_of
from sorvan.core.model.puppet import ROOT, Placement, Puppet
from sorvan.core.plan.places import Places, Work
from sorvan.core.plan.plants import Footing, stood
from sorvan.core.plan.rig import Rig
from sorvan.core.plan.values import PLANT, Values
from sorvan.core.rig import reach
from sorvan.core.rig.hinges import wrapped
from sorvan.core.rig.skeleton import Skeleton


def joints(puppet: Puppet, rig: Rig, values: Values, work: Work, places: Places, span: slice) -> set[int] | None:
    """Joints in their parents and on the stage. Gives the rows that moved (None: all).

    Limbs reach for their handles, then feet are planted; limbs whose handle or anchor rides on what is
    planted reach again.
    """
    turned = work.turned(rig)
    planted = sorted({id for id in values if kind_of(id) == PLANT} | {channel_id(j, PLANT) for j in work.owners(PLANT)})
    if planted and places.planted is places.settled:
        places.planted = places.settled.copy()
    fill_locals(puppet, rig.skeleton, values, turned, places.locals[:, :, span])
    dirty: set[int] | None = None
    if work.channels is not None:
        dirty = set(range(len(rig.row))) if 0 in turned else _rows_below(rig.skeleton, turned)
    at = _Settling(puppet, rig, values, places, span, dirty)
    at.take_over(turned)
    reaching = work.owners("reach")
    for plan, rest in zip(rig.chains, rig.chain_rests, strict=True):
        if at.touches({plan.handle, *plan.rows, plan.parent}) or plan.chain.id in reaching:
            at.reach(plan, rest)
    if not planted:
        return at.dirty
    feet = [(id, rig.footing(puppet, owner_of(id))) for id in planted]
    feet.sort(key=lambda foot: (foot[1].parent, foot[0]))
    for id, foot in feet:
        if at.touches({*foot.rows, foot.parent}) or owner_of(id) in work.owners(PLANT):
            at.plant(id, foot)
    standing = {row for _, foot in feet for row in foot.rows}
    under = {row for _, foot in feet for row in foot.under}
    for plan, rest in zip(rig.chains, rig.chain_rests, strict=True):
        again = under & {plan.handle, plan.parent} and not plan.under & standing
        if again and at.touches({plan.handle, *plan.rows, plan.parent}):
            at.reach(plan, rest)
    return at.dirty


def _rows_below(skeleton: Skeleton, rows: list[int]) -> set[int]:
    """These rows and those of every joint that rides on them."""
    found = set(rows)
    # A parent always comes before its children.
    for row, parent in enumerate(skeleton.parents):
        if parent in found:
            found.add(row)
    return found


class _Settling:
    """Joints coming to their places in some frames; `dirty` are the rows that move (None: all)."""

    def __init__(
        self, puppet: Puppet, rig: Rig, values: Values, places: Places, span: slice, dirty: set[int] | None
    ) -> None:
        self.puppet, self.rig, self.values, self.places, self.span = puppet, rig, values, places, span
        self.dirty = dirty
        blocks = (places.locals, places.settled, places.planted, places.made)
        self.locals, self.settled, self.planted, self.worlds = (b[:, :, span] for b in blocks)

    def touches(self, rows: set[int]) -> bool:
        """Whether any of these rows moves."""
        return self.dirty is None or bool(self.dirty & rows)

    def take_over(self, turned: list[int]) -> None:
        """Rows as they are turned, before anything reaches."""
        if self.places.settled is not self.places.locals:
            self.settled[turned] = self.locals[turned]
        if self.places.planted is not self.places.settled:
            self.planted[turned] = self.locals[turned]
        compose_rows(self.rig.skeleton, self.planted, self.worlds, self.dirty)

    def _moved(self, under: frozenset[int]) -> None:
        compose_rows(self.rig.skeleton, self.planted, self.worlds, set(under))
        if self.dirty is not None:
            self.dirty |= under

    def reach(self, plan: reach.Limb, rest: tuple[Floats, Floats | None]) -> None:
        """Turn a limb so that it reaches for its handle."""
        rows, frames = list(plan.rows), self.worlds.shape[2]
        held = self.values.get(channel_id(plan.chain.id, "reach"))
        blend = np.full(frames, 1.0) if held is None else np.clip(held[0] / 100, 0, 1)
        base = None if plan.parent < 0 else self.worlds[plan.parent]
        handle = self.worlds[plan.handle]
        solved, found = reach.solve(plan, self.locals[rows], base, handle, rest, blend, self._turns(plan.rows))
        self.settled[rows] = solved
        if self.places.planted is not self.places.settled:
            self.planted[rows] = solved
        id = plan.chain.id
        self.places.reached[id] = self.places.reached[id].with_part(found, self.span)
        self._moved(plan.under)

    def plant(self, id: str, foot: Footing) -> None:
        """Turn a leg so that its foot stays where it is planted."""
        rows = list(foot.rows)
        base = None if foot.parent < 0 else self.worlds[foot.parent]
        held = self.values.get(id)
        settled = self.settled[rows]
        if held is None:
            self.planted[rows] = settled
        else:
            turns = self._turns(foot.rows)
            if self.places.settled is not self.places.locals:
                turns += wrapped(reach.args(settled) - reach.args(self.locals[rows]))
            self.planted[rows] = stood(foot, settled, base, held, turns)
        self._moved(foot.under)

    def _turns(self, rows: tuple[int, ...]) -> Floats:
        """By how much joints are turned from rest (radians, `(rows, frames)`)."""
        found = np.zeros((len(rows), self.worlds.shape[2]))
        for k, row in enumerate(rows):
            turn = self.values.get(channel_id(self.rig.skeleton.ids[row], "turn"))
            if turn is not None:
                found[k] = np.deg2rad(turn[0])
        return found


def fill_locals(puppet: Puppet, skeleton: Skeleton, values: Values, rows: Iterable[int], out: Floats) -> None:
    """Each wanted joint's transform in its parent: its rest with its channels added."""
    moved = {joint for joint, _, kind in (c.rpartition(".") for c in values) if kind in ("turn", "move", "scale")}
    keyed: list[int] = []
    still: list[int] = []
    for row in rows:
        (keyed if skeleton.ids[row] in moved else still).append(row)
    if still:
        rests = [IDENTITY if row == 0 else puppet.joints[skeleton.ids[row]].rest.affine() for row in still]
        out[still] = np.array(rests, dtype=np.float64)[:, :, None]
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
        turn, move, scale = (values.get(channel_id(id, kind)) for kind in ("turn", "move", "scale"))
        angle[i] = rest.angle if turn is None else rest.angle + turn[0]
        x[i], y[i] = (rest.x, rest.y) if move is None else (rest.x + move[0], rest.y + move[1])
        sx[i], sy[i] = (rest.sx, rest.sy) if scale is None else (rest.sx * scale[0], rest.sy * scale[1])
    block = np.empty((len(ids), 6, frames))
    placed_block(x, y, angle, np.array([[rest.skew] for rest in rests]), sx, sy, block)
    return block


def compose_rows(skeleton: Skeleton, locals: Floats, worlds: Floats, wanted: set[int] | None) -> None:
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
