"""A triangle mesh over a drawing's silhouette."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING, Any

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from sorvan.core.deform.refine import refined
from sorvan.core.geometry import Floats, Point
from sorvan.core.late import late
from sorvan.core.model.art import Box

if TYPE_CHECKING:
    from scipy.sparse import csr_array
    from scipy.spatial import cKDTree

sparse = late("scipy.sparse")
spatial = late("scipy.spatial")

Ints = NDArray[Any]
MOST_FOR = 3
"""Points for each triangle that was wanted, at most: what fine outlines may make of it."""
BESIDE = 8
"""Triangles that are tried for each point, those whose middles are nearest, before all are."""
CLEARINGS = (0.3, 0.15, 0.07)
"""By which parts of the spacing places are put inwards from the outline, as far as there is room."""
ROUNDS = 8
"""Times that edges of the outline which the triangulation misses are halved."""


@dataclass(frozen=True)
class TriangleMesh:
    """Vertices `(n, 2)` in drawing units, and triangles `(t, 3)` of their rows.

    `pinned` are the rows of the places that were asked to be vertices, in that order.
    """

    vertices: Floats
    triangles: Ints
    pinned: Ints

    @cached_property
    def _tree(self) -> shapely.STRtree:
        return shapely.STRtree(shapely.polygons(self.vertices[self.triangles]))

    @cached_property
    def _middles(self) -> cKDTree:
        return spatial.cKDTree(self.vertices[self.triangles].mean(axis=1))

    def within(self, points: Floats) -> tuple[Ints, Floats]:
        """For points `(m, 2)` the vertices that each lies between and how near it is to each of them: rows `(m, 3)`, and
        weights `(m, 3)` that sum to 1. A point outside every triangle goes with the nearest one, by its plane."""
        corners, count = self.vertices[self.triangles], min(BESIDE, len(self.triangles))
        beside = self._middles.query(points, k=count)[1].reshape(len(points), count)
        near = _between(corners[beside], points[:, None])
        inside = near.min(axis=2) >= 0
        which = inside.argmax(axis=1)
        every = np.arange(len(points))
        found, weights = beside[every, which], near[every, which]
        if len(left := np.flatnonzero(~inside.any(axis=1))):
            _, found[left] = self._tree.query_nearest(shapely.points(points[left]), all_matches=False)
            weights[left] = _between(corners[found[left]], points[left])
        return self.triangles[found], weights

    def touching(self, box: Box) -> Ints:
        """The triangles that reach into a box (left, top, right, bottom), by their rows."""
        return np.sort(self._tree.query(shapely.box(*box), predicate="intersects"))

    def smallest_angle(self) -> float:
        """The smallest angle of any triangle, in degrees."""
        return float(np.rad2deg(_angles(self.vertices, self.triangles).min()))

    def area(self) -> float:
        """The area that the triangles cover, in square units."""
        return float(np.abs(_doubled_areas(self.vertices, self.triangles)).sum() / 2)

    def lengths(self) -> csr_array:
        """The length of every edge, `(n, n)`, each once."""
        t, count = self.triangles, len(self.vertices)
        one, two = np.divmod(np.unique(_edges(t, count)), count)
        long = np.hypot(*(self.vertices[one] - self.vertices[two]).T)
        return sparse.csr_array(sparse.coo_array((long, (one, two)), shape=(count, count)))


def _edges(t: Ints, count: int) -> Ints:
    """The three edges of each triangle, each as one number that both its ends tell, of `count` vertices."""
    ends = np.sort(np.concatenate([t[:, [0, 1]], t[:, [1, 2]], t[:, [0, 2]]]), axis=1)
    found: Ints = ends[:, 0] * count + ends[:, 1]
    return found


def _between(corners: Floats, points: Floats) -> Floats:
    """How near points `(…, 2)` are to each corner of triangles `(…, 3, 2)`, as weights `(…, 3)` that sum to 1; below 0
    for one beyond the side across."""
    a, ab, ac = corners[..., 0, :], corners[..., 1, :] - corners[..., 0, :], corners[..., 2, :] - corners[..., 0, :]
    ap = points - a
    det = ab[..., 0] * ac[..., 1] - ab[..., 1] * ac[..., 0]
    two = (ap[..., 0] * ac[..., 1] - ap[..., 1] * ac[..., 0]) / det
    three = (ab[..., 0] * ap[..., 1] - ab[..., 1] * ap[..., 0]) / det
    return np.stack([1 - two - three, two, three], axis=-1)


def _doubled_areas(v: Floats, t: Ints) -> Floats:
    a, b = v[t[:, 1]] - v[t[:, 0]], v[t[:, 2]] - v[t[:, 0]]
    return a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]


def _angles(v: Floats, t: Ints) -> Floats:
    corners = []
    for i in range(3):
        here, one, two = v[t[:, i]], v[t[:, (i + 1) % 3]], v[t[:, (i + 2) % 3]]
        a, b = one - here, two - here
        cross = np.abs(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0])
        corners.append(np.arctan2(cross, (a * b).sum(axis=1)))
    return np.stack(corners, axis=1)


def mesh_over(
    shape: BaseGeometry, wanted: int, margin: float, pins: Sequence[Point] = (), *, even: bool = False
) -> TriangleMesh:
    """Cover a silhouette with about `wanted` triangles, standing out `margin` units beyond it.

    Nothing of the silhouette is left outside. `pins` become vertices (moved onto the silhouette
    if they lie off it). In an `even` mesh no corner is narrower than 15°, but where the outline has one.
    """
    around = shapely.buffer(shape, margin, join_style="mitre", mitre_limit=2)
    spacing = math.sqrt(around.area * 4 / (math.sqrt(3) * wanted))
    around = shapely.simplify(around, min(margin * 0.65, spacing * 0.25))
    around = shapely.union_all(around)
    # The margin must survive the simplification, or a visible pixel could lie outside.
    if not around.covers(shape):
        around = shapely.union_all([around, shapely.buffer(shape, margin * 0.5, quad_segs=4)])
    parts = [g for g in shapely.get_parts(around) if g.area > 1e-9]
    rings = _rings(parts, spacing, min(spacing * 0.12, margin * 0.6))
    pinned = _onto(around, pins)
    inner = _inside(shapely.union_all(parts), spacing, np.concatenate([*rings, pinned]))
    if even:
        pinned = _clear(pinned, around, spacing)
        points, triangles = refined(
            rings, pinned, inner, spacing, MOST_FOR * wanted, lambda p, t: _kept(p, t, around, shape)
        )
        return _used(points, triangles, len(pinned))
    for _ in range(ROUNDS):
        points = np.concatenate([pinned, *rings, inner])
        triangles = _kept(points, spatial.Delaunay(points).simplices, around, shape)
        finer = _halved(rings, triangles, len(pinned), len(points))
        if sum(map(len, finer)) == sum(map(len, rings)):
            break
        rings = finer
    points = _relaxed(points, triangles, len(points) - len(inner))
    return _used(points, triangles, len(pinned))


def _used(points: Floats, triangles: Ints, pinned: int) -> TriangleMesh:
    """The mesh of the points that triangles use, and of those that are pinned, which come first."""
    used = np.unique(np.concatenate([triangles.ravel(), np.arange(pinned)]))
    row = np.full(len(points), -1, dtype=np.intp)
    row[used] = np.arange(used.size)
    return TriangleMesh(points[used], row[triangles], np.arange(pinned, dtype=np.intp))


def _clear(pinned: Floats, around: BaseGeometry, spacing: float) -> Floats:
    """Places that lie on the outline or hardly beside it, put a little inwards: a mesh that is even there would be
    endlessly fine."""
    found = pinned.copy()
    for part in CLEARINGS:
        inner = shapely.buffer(around, -part * spacing)
        if inner.is_empty:
            continue
        left = np.flatnonzero(shapely.distance(shapely.points(found), around.boundary) < 0.5 * part * spacing)
        points = shapely.points(found[left])
        moved = shapely.get_coordinates(shapely.shortest_line(inner, points))[::2] if len(left) else found[left]
        near = np.hypot(*(moved - found[left]).T) < 2 * part * spacing
        found[left[near]] = moved[near]
    return found


def _rings(parts: Sequence[BaseGeometry], spacing: float, least: float) -> list[Floats]:
    """Points `(n, 2)` along each ring of the outline, in their order, none nearer than `least` to another."""
    rings: list[Floats] = []
    for part in parts:
        for ring in (part.exterior, *part.interiors):
            count = max(6, round(ring.length / spacing))
            along = np.linspace(0, ring.length, count, endpoint=False)
            corners = np.array(ring.coords)[:-1]
            sampled = shapely.get_coordinates(shapely.line_interpolate_point(ring, along))
            # Corners count more than even steps: a step that lies near a corner gives way to it.
            far = spatial.cKDTree(corners).query(sampled)[0] > spacing * 0.5
            way = np.concatenate([[0.0], np.hypot(*np.diff(corners, axis=0).T).cumsum(), along[far]])
            order = np.argsort(way, kind="stable")
            rings.append(np.concatenate([corners, sampled[far]])[order])
    kept = np.split(_apart(np.concatenate(rings), least), np.cumsum([len(r) for r in rings])[:-1])
    return [r[k] for r, k in zip(rings, kept, strict=True)]


def _apart(points: Floats, least: float) -> NDArray[np.bool_]:
    """Which points to keep so that none lies nearer than `least` to one before it."""
    keep = np.ones(len(points), dtype=bool)
    for a, b in spatial.cKDTree(points).query_pairs(least):
        if keep[min(a, b)]:
            keep[max(a, b)] = False
    return keep


def _onto(shape: BaseGeometry, pins: Sequence[Point]) -> Floats:
    placed = []
    for x, y in pins:
        pin = shapely.Point(x, y)
        placed.append((x, y) if shape.covers(pin) else shapely.get_coordinates(shapely.shortest_line(shape, pin))[0])
    return np.array(placed, dtype=np.float64).reshape(-1, 2)


def _inside(shape: BaseGeometry, spacing: float, taken: Floats) -> Floats:
    """Points of an even triangular grid that lie well inside."""
    left, top, right, bottom = shape.bounds
    rise = spacing * math.sqrt(3) / 2
    rows = np.arange(top + rise / 2, bottom, rise)
    columns = np.arange(left + spacing / 4, right + spacing, spacing)
    x = columns[None, :] + np.where(np.arange(len(rows)) % 2, spacing / 2, 0)[:, None]
    grid = np.stack([x.ravel(), np.repeat(rows, len(columns))], axis=1)
    inner = shapely.buffer(shape, -spacing * 0.3)
    shapely.prepare(inner)
    grid = grid[shapely.contains_xy(inner, grid[:, 0], grid[:, 1])]
    if not len(grid):
        return grid
    near, _ = spatial.cKDTree(taken).query(grid)
    return grid[near > spacing * 0.6]


def _kept(points: Floats, triangles: Ints, around: BaseGeometry, shape: BaseGeometry) -> Ints:
    """The triangles that cover something, all turning the same way."""
    area = _doubled_areas(points, triangles)
    triangles = np.where((area < 0)[:, None], triangles[:, [0, 2, 1]], triangles)[np.abs(area) > 1e-9]
    centre = points[triangles].mean(axis=1)
    shapely.prepare(around)
    inside = shapely.contains_xy(around, centre[:, 0], centre[:, 1])
    doubtful = np.flatnonzero(~inside)
    corners = points[triangles[doubtful]]
    shapely.prepare(shape)
    showing = shapely.intersects(shape, shapely.polygons(corners)) if len(doubtful) else np.zeros(0, dtype=bool)
    inside[doubtful[showing]] = True
    return triangles[inside]


def _halved(rings: Sequence[Floats], triangles: Ints, first: int, count: int) -> list[Floats]:
    """The rings with a point in the middle of every step that is no edge of the triangulation.

    Their points are vertices `first`… of `count`, ring by ring.
    """
    edges = np.unique(_edges(triangles, count))
    finer: list[Floats] = []
    for ring in rings:
        rows = first + np.arange(len(ring))
        steps = np.sort(np.stack([rows, np.roll(rows, -1)]), axis=0)
        lost = np.flatnonzero(~np.isin(steps[0] * count + steps[1], edges) & (steps[0] != steps[1]))
        finer.append(np.insert(ring, lost + 1, (ring[lost] + np.roll(ring, -1, axis=0)[lost]) / 2, axis=0))
        first += len(ring)
    return finer


def _relaxed(points: Floats, triangles: Ints, fixed: int) -> Floats:
    """The inner vertices evened out (Laplacian smoothing), as far as no triangle gets worse for it.

    The triangles stay what they are: made anew they might reach across a narrow gap.
    """
    count = len(points)
    rows = np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]])
    both = np.concatenate([rows, rows[:, ::-1]])
    links = sparse.csr_array(sparse.coo_array((np.ones(len(both)), (both[:, 0], both[:, 1])), shape=(count, count)))
    links.data[:] = 1
    degree = np.maximum(np.asarray(links.sum(axis=1)).ravel(), 1)
    narrowest = _angles(points, triangles).min()
    for _ in range(2):
        moved = points.copy()
        moved[fixed:] = ((links @ points) / degree[:, None])[fixed:]
        before, turned_over = narrowest, (_doubled_areas(moved, triangles) <= 0).any()
        if turned_over or (narrowest := _angles(moved, triangles).min()) < before:
            break
        points = moved
    return points


def stiffness(mesh: TriangleMesh) -> tuple[csr_array, Floats]:
    """The cotangent Laplacian `(n, n)`, positive semi-definite, and the area around each vertex `(n,)`.

    Source: Pinkall and Polthier 1993. Weights of blunt corners are kept above zero, so that
    every vertex stays a mean of its neighbours.
    """
    v, t = mesh.vertices, mesh.triangles
    count = len(v)
    angles = np.clip(_angles(v, t), 1e-3, np.pi - 1e-3)
    weight = np.maximum(0.5 / np.tan(angles), 1e-3)
    rows, columns, values = [], [], []
    for i in range(3):
        a, b = t[:, (i + 1) % 3], t[:, (i + 2) % 3]
        rows += [a, b]
        columns += [b, a]
        values += [weight[:, i], weight[:, i]]
    links = sparse.csr_array(
        sparse.coo_array(
            (np.concatenate(values), (np.concatenate(rows), np.concatenate(columns))), shape=(count, count)
        )
    )
    degree = np.asarray(links.sum(axis=1)).ravel()
    diagonal = sparse.csr_array(sparse.coo_array((degree, (np.arange(count), np.arange(count))), shape=(count, count)))
    area = np.zeros(count)
    np.add.at(area, t.ravel(), np.repeat(np.abs(_doubled_areas(v, t)) / 6, 3))
    return diagonal - links, np.maximum(area, 1e-9)


def embedded(mesh: TriangleMesh, points: Floats) -> csr_array:
    """How points `(m, 2)` lie in the mesh: barycentric weights `(m, n)`, each row summing to 1.

    A point outside every triangle goes with the nearest one, by its plane.
    """
    corners, values = mesh.within(points)
    rows = np.repeat(np.arange(len(points)), 3)
    shape = (len(points), len(mesh.vertices))
    return sparse.csr_array(sparse.coo_array((values.ravel(), (rows, corners.ravel())), shape=shape))
