"""The bend sheet: a mesh that handles pull about, every triangle staying as rigid as it can.

Source: Sorkine and Alexa 2007, “As-Rigid-As-Possible Surface Modeling”. In the plane a turn is
a unit complex number, so the local step is one product and the whole is solved for all frames
together with one factorisation.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray
from shapely import Point as ShapelyPoint
from shapely.geometry.base import BaseGeometry

from sorvan.core.deform.mesh import TriangleMesh, embedded, mesh_over, stiffness
from sorvan.core.deform.skin import Skin, evenly, skin_of
from sorvan.core.geometry import Complexes, Floats, Point
from sorvan.core.late import late
from sorvan.core.model.art import Art
from sorvan.core.model.puppet import BendSheet

if TYPE_CHECKING:
    from scipy.sparse import csr_array
    from scipy.sparse.linalg import SuperLU

sparse = late("scipy.sparse")
csgraph = late("scipy.sparse.csgraph")
sparse_linalg = late("scipy.sparse.linalg")
spatial = late("scipy.spatial")

FAINT = 1e-4
"""The weight of an edge that ties a loose part to the rest; those within a part weigh about one."""
MOST_TIES = 24
"""Vertices of a loose part that are tied."""
RIM = tuple((math.cos(math.tau * k / 8), math.sin(math.tau * k / 8)) for k in range(8))
"""Directions in which the edge of a patch is marked."""
ROUNDS = 8
"""Times that turns and places are worked out in turn."""
BLOCK = 16
"""Frames solved together. Blocks start at multiples of this and are filled up, so that a frame's
numbers do not depend on which others were asked for."""


@dataclass(frozen=True)
class Solver:
    """A mesh with its system factored. The first `pinned` vertices go where handles say: the handles themselves, then what
    lies in the patches that turn with them. `owner` is the handle of each, `off` how far from that it lies at rest, and
    `turning` whether a handle has a patch."""

    mesh: TriangleMesh
    pinned: int
    owner: NDArray[np.intp]
    off: Complexes
    turning: NDArray[np.bool_]
    factor: SuperLU | None
    to_pinned: csr_array
    turns: csr_array
    pulls: csr_array
    shares: Floats
    """How much each handle has to say at each vertex `(n, handles)` (harmonic; rows sum to 1)."""


@dataclass(frozen=True)
class SheetReady:
    """A skin lying in a solver's mesh: `lies` `(points, vertices)`."""

    skin: Skin
    solver: Solver
    lies: csr_array


def solver_over(shape: BaseGeometry, sheet: BendSheet, handles: Sequence[Point]) -> Solver:
    """The mesh over a silhouette with handles at these places (drawing units), factored."""
    patches = [*sheet.patches, *[0.0] * (len(handles) - len(sheet.handles))]
    rims = [p for at, far in zip(handles, patches, strict=True) if far for p in _rim(shape, at, far)]
    return solver_on(
        mesh_over(shape, sheet.triangles, sheet.margin, [*handles, *rims], even=True), len(handles), patches
    )


def _rim(shape: BaseGeometry, at: Point, far: float) -> list[Point]:
    """Places on the edge of a patch, so that the mesh has some there however coarse it is."""
    around = [at[0] + far * c + 1j * (at[1] + far * s) for c, s in RIM]
    return [(p.real, p.imag) for p in around if shape.contains(ShapelyPoint(p.real, p.imag))]


def solver_on(mesh: TriangleMesh, handles: int, patches: Sequence[float] = ()) -> Solver:
    """Factor a mesh whose first vertices are handles; what lies as near to each as `patches` tell turns with it."""
    mesh, owner = _patched(mesh, handles, patches)
    pinned = len(owner)
    v = mesh.vertices[:, 0] + 1j * mesh.vertices[:, 1]
    aside = v[:pinned] - v[owner]
    turning = np.zeros(handles, dtype=bool)
    turning[owner[handles:]] = True
    own = np.zeros((pinned, handles))
    own[np.arange(pinned), owner] = 1
    laplacian = _tied(mesh, stiffness(mesh)[0], pinned)
    count = len(v)
    entries = sparse.coo_array(laplacian)
    rows, columns = entries.coords
    off = rows != columns
    rows, columns, weight = rows[off], columns[off], -entries.data[off]
    away = v[columns] - v[rows]
    diagonal = np.arange(count)

    def with_ends(values: Complexes, way: int) -> csr_array:
        """Each entry where the edge is, and `way` times the row's sum on the diagonal."""
        ends = np.zeros(count, dtype=np.complex128)
        np.add.at(ends, rows, values)
        where = (np.concatenate([rows, diagonal]), np.concatenate([columns, diagonal]))
        return sparse.csr_array(sparse.coo_array((np.concatenate([values, way * ends]), where), shape=(count, count)))

    turns = with_ends(weight * away.conj(), -1)
    pulls = with_ends(-weight * away / 2, 1)
    free = sparse.csr_array(laplacian)[pinned:]
    to_pinned = sparse.csr_array(free[:, :pinned])
    factor = sparse_linalg.splu(sparse.csc_array(free[:, pinned:])) if count > pinned else None
    shares = np.zeros((count, handles))
    shares[:pinned] = own
    if factor is not None:
        shares[pinned:] = np.clip(factor.solve(-(to_pinned @ own)), 0, 1)
        shares[pinned:] /= np.maximum(shares[pinned:].sum(axis=1, keepdims=True), 1e-12)
    return Solver(mesh, pinned, owner, aside, turning, factor, to_pinned, turns, pulls, shares)


def _patched(mesh: TriangleMesh, handles: int, patches: Sequence[float]) -> tuple[TriangleMesh, NDArray[np.intp]]:
    """The mesh with what lies in patches right behind the handles, and the handle that each of all of them goes with."""
    owner = np.arange(handles, dtype=np.intp)
    wide = [k for k, far in enumerate(patches) if far > 0]
    if not wide:
        return mesh, owner
    v = mesh.vertices[handles:]
    part = np.stack([np.hypot(*(v - mesh.vertices[k]).T) / patches[k] for k in wide], axis=1)
    found = np.flatnonzero(part.min(axis=1) <= 1 + 1e-6)
    nearest = np.array(wide, dtype=np.intp)[part[found].argmin(axis=1)]
    rest = np.setdiff1d(np.arange(len(v)), found)
    order = np.concatenate([owner, handles + found, handles + rest])
    row = np.empty(len(order), dtype=np.intp)
    row[order] = np.arange(len(order))
    return TriangleMesh(mesh.vertices[order], row[mesh.triangles], owner), np.concatenate([owner, nearest])


def _tied(mesh: TriangleMesh, laplacian: csr_array, pinned: int) -> csr_array:
    """The Laplacian with faint edges from every part that no handle holds to the nearest that is held.

    Without them nothing would say where a loose speck of a drawing goes.
    """
    _, part = csgraph.connected_components(laplacian)
    loose = set(part.tolist()) - set(part[:pinned].tolist())
    held = np.isin(part, list(loose), invert=True)
    ties: list[NDArray[np.intp]] = []
    while loose and held.any():
        rows = np.flatnonzero(held)
        strays = np.flatnonzero(~held)
        far, nearest = spatial.cKDTree(mesh.vertices[rows]).query(mesh.vertices[strays], k=min(2, len(rows)))
        far, nearest = far.reshape(len(strays), -1), nearest.reshape(len(strays), -1)
        here = part[strays[np.argmin(far[:, 0])]]
        own = np.flatnonzero(part[strays] == here)
        own = own[np.argsort(far[own, 0], kind="stable")][:MOST_TIES]
        for k in range(nearest.shape[1]):
            ties.append(np.stack([strays[own], rows[nearest[own, k]]]))
        held = held | (part == here)
        loose.discard(here)
    if not ties:
        return laplacian
    a, b = np.concatenate(ties, axis=1)
    count, weight = laplacian.shape[0], np.full(2 * len(a), FAINT)
    one, two = np.concatenate([a, b]), np.concatenate([b, a])
    edges = sparse.coo_array((weight, (one, two)), shape=(count, count))
    ends = sparse.coo_array((weight, (one, one)), shape=(count, count))
    return sparse.csr_array(laplacian + ends - edges)


def sheet_ready(art: Art, solver: Solver) -> SheetReady:
    """The drawing as a skin on the sheet, its outlines cut about as fine as the mesh."""
    mesh = solver.mesh
    spacing = np.sqrt(mesh.area() * 4 / (np.sqrt(3) * max(len(mesh.triangles), 1)))

    def cuts(along: Floats) -> list[Floats]:
        return [evenly(np.hypot(step[:, 0], step[:, 1]), 1.5 * spacing) for step in np.diff(along, axis=1)]

    return skin_pulled(skin_of(art, mesh, cuts), solver)


def skin_pulled(skin: Skin, solver: Solver) -> SheetReady:
    """A skin that lies in the drawing, on its sheet."""
    return SheetReady(skin, solver, embedded(solver.mesh, skin.points))


def pulled(ready: SheetReady, places: Complexes, turns: Complexes, start: int = 0, stop: int | None = None) -> Floats:
    """Where the skin's points go in frames `start`…`stop`-1, `(n, 2, stop - start)`.

    `places` `(handles, frames)` is where each handle is in every frame, drawing units; `turns` (the same) is how it is
    turned (a unit number): that of a handle with a patch counts, and of a single one.
    """
    stop = places.shape[1] if stop is None else stop
    found = solved(ready.solver, places, turns, start, stop)
    points = ready.lies @ found
    return np.stack([points.real, points.imag], axis=1)


def solved(solver: Solver, places: Complexes, turns: Complexes, start: int, stop: int) -> Complexes:
    """Every vertex `(n, stop - start)`, worked out in whole blocks."""
    turns = np.broadcast_to(turns, places.shape)
    whole = stop - start == 1 and places.shape[1] == 1
    if whole:
        return _block(solver, places, turns)
    first = start // BLOCK * BLOCK
    parts: list[Complexes] = []
    for at in range(first, stop, BLOCK):
        chosen = np.minimum(np.arange(at, at + BLOCK), places.shape[1] - 1)
        parts.append(_block(solver, places[:, chosen], turns[:, chosen]))
    return np.concatenate(parts, axis=1)[:, start - first : stop - first]


def _block(solver: Solver, places: Complexes, turns: Complexes) -> Complexes:
    v = solver.mesh.vertices[:, 0] + 1j * solver.mesh.vertices[:, 1]
    rest = v[: len(places)]
    frames = places.shape[1]
    turn = _handle_turns(rest, places, turns, solver.turning)
    held = places[solver.owner] + turns[solver.owner] * solver.off[:, None]
    # Where each handle alone would take a vertex, mixed by what each has to say there.
    z = np.zeros((len(v), frames), dtype=np.complex128)
    for k in range(len(places)):
        z += solver.shares[:, k, None] * (places[k] + turn[k] * (v[:, None] - rest[k]))
    z[: solver.pinned] = held
    if solver.factor is None:
        return z
    fixed = solver.to_pinned @ held
    for _ in range(ROUNDS):
        way = solver.turns @ z
        size = np.abs(way)
        way = np.where(size > 1e-12, way / np.maximum(size, 1e-12), 1.0)
        right = (solver.pulls @ way)[solver.pinned :] - fixed
        both = solver.factor.solve(np.concatenate([right.real, right.imag], axis=1))
        z[solver.pinned :] = both[:, :frames] + 1j * both[:, frames:]
    return z


def _handle_turns(rest: Complexes, places: Complexes, own: Complexes, turning: NDArray[np.bool_]) -> Complexes:
    """How much the sheet has turned at each handle: as a handle with a patch itself is, else by its ways to the others, the
    nearest first."""
    count = len(rest)
    if count == 1:
        return own
    turns = np.array(own)
    for k in np.flatnonzero(~turning):
        others = [i for i in range(count) if i != k]
        away = rest[others] - rest[k]
        square = np.maximum(np.abs(away) ** 2, 1e-9)
        total = np.zeros(places.shape[1], dtype=np.complex128)
        for i, a, s in zip(others, away, square, strict=True):
            total += a.conjugate() / (s * s) * (places[i] - places[k])
        size = np.abs(total)
        turns[k] = np.where(size > 1e-15, total / np.maximum(size, 1e-15), 1.0)
    return turns
