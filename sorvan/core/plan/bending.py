"""Bending in an evaluation: which pieces bend, made ready once, and where their points go."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from sorvan.core.art.colours import dressed
from sorvan.core.art.outlines import grain, silhouette
from sorvan.core.art.source import Arts
from sorvan.core.deform.bend import BendReady, Bones, Weighted, bend_ready, bent, skin_bends, weighted
from sorvan.core.deform.sheet import SheetReady, Solver, pulled, sheet_ready, skin_pulled, solver_over
from sorvan.core.deform.skin import Skin
from sorvan.core.geometry import Affine, Floats, Point, compose_blocks, inverse_block, place_in
from sorvan.core.model.channels import AS_AT_REST, channel_id
from sorvan.core.model.production import Production
from sorvan.core.model.puppet import Bend, BendSheet, Drawing, Piece, Puppet
from sorvan.core.morph.ready import Ready
from sorvan.core.plan.turning import seen_from, turnaround_of
from sorvan.core.rig.skeleton import Skeleton, rest_worlds


@dataclass(frozen=True)
class Bender:
    """One drawing of one bending piece. `rows` are the skeleton rows that move it, `main` its own
    joint's; `seat` takes its drawing to that joint, `rests` take the drawing at rest into each
    node's space. `art` is what the painters draw, with this drawing's points put in."""

    piece: int
    drawing: int
    art: str
    ready: BendReady | SheetReady
    main: int
    seat: Affine
    rows: tuple[int, ...]
    rests: tuple[Affine, ...]
    handles: tuple[Point, ...]

    @property
    def count(self) -> int:
        """How many points move."""
        return len(self.ready.skin.points)

    def points(self, worlds: Floats, start: int, stop: int) -> Floats:
        """Where the points lie in drawing units in frames `start`…`stop`-1, `(n, 2, frames)`.

        `worlds` `(joints + 1, 6, all frames)` takes nodes to the stage.
        """
        frames = worlds.shape[2]
        whole = isinstance(self.ready, SheetReady) and frames > 1
        span = slice(0, frames) if whole else slice(start, stop)
        moves = self._moves(worlds[:, :, span])
        if isinstance(self.ready, BendReady):
            return bent(self.ready, moves)
        places = np.empty((len(self.handles), moves.shape[2]), dtype=np.complex128)
        for k, (x, y) in enumerate(self.handles):
            places[k] = place_in(moves[k], x, y)
        turns = moves[:, 0] + 1j * moves[:, 1]
        turns = np.where(np.abs(turns) > 1e-12, turns / np.maximum(np.abs(turns), 1e-12), 1.0)
        return pulled(self.ready, places, turns, *((start, stop) if whole else (0, stop - start)))

    def _moves(self, worlds: Floats) -> Floats:
        """What has become of each node since rest, seen from the drawing: `(nodes, 6, frames)`."""
        frames = worlds.shape[2]
        drawing = np.empty((1, 6, frames))
        compose_blocks(worlds[self.main][None], np.array(self.seat)[None, :, None], drawing)
        inward = inverse_block(drawing[0])
        moves, step = np.empty((len(self.rows), 6, frames)), np.empty((1, 6, frames))
        for k, (row, rest) in enumerate(zip(self.rows, self.rests, strict=True)):
            compose_blocks(worlds[row][None], np.array(rest)[None, :, None], step)
            compose_blocks(inward[None], step, moves[k][None])
        return moves


def benders(puppet: Puppet, skeleton: Skeleton, production: Production, arts: Arts | None) -> tuple[Bender, ...]:
    """Every drawing that bends. Without art to look at, pieces ride rigidly."""
    if arts is None or not any(p.attach for p in puppet.pieces.values()):
        return ()
    row = {id: i for i, id in enumerate(skeleton.ids)}
    found: list[Bender] = []
    for id in puppet.order:
        piece = puppet.pieces[id]
        if piece.attach is None:
            continue
        for drawing in piece.drawings:
            ready, art = _ready(puppet, piece, drawing, rest_in(puppet, piece, drawing), production, arts)
            found.append(_bender(puppet, row, piece, drawing, ready, art))
    return tuple(found)


def rest_in(puppet: Puppet, piece: Piece, drawing: Drawing) -> Mapping[str, Affine]:
    """Where joints are at rest for a drawing: in the first view that shows it, if one does and the puppet's rest does not."""
    dial = turnaround_of(puppet)
    if dial is None or drawing.id == piece.shown().id:
        return rest_worlds(puppet)
    own = float(drawing.number)
    views = (
        v.at
        for v in dial.views()
        if not v.flips and v.values.get(channel_id(piece.id, "show"), (AS_AT_REST,))[0] == own
    )
    return rest_worlds(seen_from(puppet, next(views, None)))


def _bender(
    puppet: Puppet, row: Mapping[str, int], piece: Piece, drawing: Drawing, ready: BendReady | SheetReady, art: str
) -> Bender:
    """One drawing of a bending piece, made ready, on the joints that move it (their rows)."""
    assert piece.attach is not None
    worlds, nodes, seat = rest_in(puppet, piece, drawing), piece.attach.nodes, piece.in_joint(drawing)
    placed = worlds[piece.joint] @ seat
    return Bender(
        piece=puppet.order.index(piece.id),
        drawing=piece.drawings.index(drawing),
        art=art,
        ready=ready,
        main=row[piece.joint],
        seat=seat,
        rows=tuple(row[n] for n in nodes),
        rests=tuple(worlds[n].inverse() @ placed for n in nodes),
        handles=_lying(ready, nodes),
    )


def ends_bending(
    puppet: Puppet, row: Mapping[str, int], piece: Piece, pair: tuple[Drawing, Drawing], ready: Ready, arts: Arts
) -> tuple[Bender, Bender]:
    """Two drawings of a bending piece of which the first becomes the second, each with the points they have in common:
    those of the first bend as it does, those of the second as that does."""
    attach = piece.attach
    found: list[Bender] = []
    for n, drawing in enumerate(pair):
        places = places_in(piece, drawing, rest_in(puppet, piece, drawing))
        skin = Skin(ready.art, ready.points[n] + np.array(drawing.pivot))
        made: BendReady | SheetReady
        if isinstance(attach, Bend):
            held = _weighted(puppet, attach, drawing, places, arts)
            bones = Bones(attach.joints, places, _parents(puppet, attach.joints))
            made = skin_bends(skin, held, bones, attach.roundness)
        else:
            assert isinstance(attach, BendSheet)
            made = skin_pulled(skin, _solver(attach, drawing, places, arts))
        found.append(_bender(puppet, row, piece, drawing, made, ""))
    return found[0], found[1]


def _lying(ready: BendReady | SheetReady, nodes: tuple[str, ...]) -> tuple[Point, ...]:
    if isinstance(ready, BendReady):
        return ()
    return tuple((float(x), float(y)) for x, y in ready.solver.mesh.vertices[: len(nodes)])


def places_in(piece: Piece, drawing: Drawing, worlds: Mapping[str, Affine]) -> tuple[Point, ...]:
    """Where the nodes that bend a piece lie at rest, in units of one of its drawings."""
    inward = (worlds[piece.joint] @ piece.in_joint(drawing)).inverse()
    return tuple(_rounded(inward.place(worlds[n].at)) for n in (piece.attach.nodes if piece.attach else ()))


def _rounded(p: Point) -> Point:
    return (round(p[0], 6), round(p[1], 6))


def weights_of(puppet: Puppet, piece: Piece, drawing: Drawing, arts: Arts) -> Weighted:
    """The mesh and weights of a piece that bends over joints."""
    assert isinstance(piece.attach, Bend)
    places = places_in(piece, drawing, rest_in(puppet, piece, drawing))
    return _weighted(puppet, piece.attach, drawing, places, arts)


def _parents(puppet: Puppet, joints: tuple[str, ...]) -> tuple[int, ...]:
    """For each joint the row of its nearest ancestor among these joints; -1 if there is none."""
    row = {id: i for i, id in enumerate(joints)}
    found: list[int] = []
    for id in joints:
        above = puppet.joints[id].parent
        while above is not None and above not in row:
            above = puppet.joints[above].parent
        found.append(-1 if above is None else row[above])
    return tuple(found)


def _weighted(puppet: Puppet, bend: Bend, drawing: Drawing, places: tuple[Point, ...], arts: Arts) -> Weighted:
    parents = _parents(puppet, bend.joints)
    key = ("weights", drawing.art, bend.model_dump_json(exclude={"roundness"}), places, parents)

    def make() -> Weighted:
        art = arts.art(drawing.art)
        shape = silhouette(art, arts)
        return weighted(shape, Bones(bend.joints, places, parents), bend, grain(art, arts))

    return arts.kept(key, make)


def _solver(sheet: BendSheet, drawing: Drawing, places: tuple[Point, ...], arts: Arts) -> Solver:
    return arts.kept(
        ("sheet", drawing.art, sheet.model_dump_json(exclude={"handles", "turning"}), sheet.patches, places),
        lambda: solver_over(silhouette(arts.art(drawing.art), arts), sheet, places),
    )


def _ready(
    puppet: Puppet,
    piece: Piece,
    drawing: Drawing,
    worlds: Mapping[str, Affine],
    production: Production,
    arts: Arts,
) -> tuple[BendReady | SheetReady, str]:
    places = places_in(piece, drawing, worlds)
    look = dressed(piece, drawing, production, arts)
    attach = piece.attach
    if isinstance(attach, Bend):
        held = _weighted(puppet, attach, drawing, places, arts)
        parents = _parents(puppet, attach.joints)
        key: tuple[Any, ...] = ("bend", look, drawing.art, attach.model_dump_json(), places, parents)
        bones = Bones(attach.joints, places, parents)
        ready: BendReady | SheetReady = arts.kept(key, lambda: bend_ready(arts.art(look), held, bones, attach))
    else:
        assert isinstance(attach, BendSheet)
        solver = _solver(attach, drawing, places, arts)
        key = (
            "skin",
            look,
            drawing.art,
            attach.model_dump_json(exclude={"handles", "turning"}),
            attach.patches,
            places,
        )
        ready = arts.kept(key, lambda: sheet_ready(arts.art(look), solver))
    return ready, arts.kept(("art", *key), lambda: arts.keep(ready.skin.art))
