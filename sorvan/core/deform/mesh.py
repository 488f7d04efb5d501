"""A triangle mesh over a drawing's silhouette."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.sparse import coo_array, csr_array
from scipy.spatial import Delaunay, cKDTree
from shapely.geometry.base import BaseGeometry

from sorvan.core.geometry import Floats, Point

Ints = NDArray[Any]
ROUNDS = 4
"""Times that edges of the outline which the triangulation misses are halved."""


@dataclass(frozen=True)
class TriangleMesh:
    """Vertices `(n, 2)` in drawing units, and triangles `(t, 3)` of their rows.

    `pinned` are the rows of the places that were asked to be vertices, in that order.
    """

    vertices: Floats
    triangles: Ints
    pinned: Ints

    def smallest_angle(self) -> float:
        """The smallest angle of any triangle, in degrees."""
        return float(np.rad2deg(_angles(self.vertices, self.triangles).min()))

    def area(self) -> float:
        """The area that the triangles cover, in square units."""
        return float(np.abs(_doubled_areas(self.vertices, self.triangles)).sum() / 2)


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


def mesh_over(shape: BaseGeometry, wanted: int, margin: float, pins: Sequence[Point] = ()) -> TriangleMesh:
    """Cover a silhouette with about `wanted` triangles, standing out `margin` units beyond it.

    Nothing of the silhouette is left outside. `pins` become vertices (moved onto the silhouette
    if they lie off it).
    """
    around = shapely.buffer(shape, margin, quad_segs=4)
    spacing = math.sqrt(around.area * 4 / (math.sqrt(3) * wanted))
    around = shapely.simplify(around, min(margin * 0.35, spacing * 0.25))
    around = shapely.union_all(around)
    # The margin must survive the simplification, or a visible pixel could lie outside.
    if not around.covers(shape):
        around = shapely.union_all([around, shapely.buffer(shape, margin * 0.5, quad_segs=4)])
    parts = [g for g in shapely.get_parts(around) if g.area > 1e-9]
    rim = _rim(parts, spacing, min(spacing * 0.12, margin * 0.6))
    pinned = _onto(around, pins)
    inner = _inside(shapely.union_all(parts), spacing, np.concatenate([rim, pinned]) if len(pinned) else rim)
    for _ in range(ROUNDS):
        points = np.concatenate([pinned, rim, inner])
        triangles = _kept(points, Delaunay(points).simplices, around, shape)
        lost = _missing_edges(parts, points, triangles, rim)
        if not len(lost):
            break
        rim = np.concatenate([rim, lost])
    points, triangles = _relaxed(points, triangles, len(pinned) + len(rim), around, shape)
    used = np.unique(np.concatenate([triangles.ravel(), np.arange(len(pinned))]))
    row = np.full(len(points), -1, dtype=np.intp)
    row[used] = np.arange(used.size)
    return TriangleMesh(points[used], row[triangles], np.arange(len(pinned), dtype=np.intp))


def _rim(parts: Sequence[BaseGeometry], spacing: float, least: float) -> Floats:
    rings: list[Floats] = []
    for part in parts:
        for ring in (part.exterior, *part.interiors):
            count = max(6, round(ring.length / spacing))
            ends = shapely.line_interpolate_point(ring, np.linspace(0, ring.length, count, endpoint=False))
            corners = np.array(ring.coords)[:-1]
            sampled = shapely.get_coordinates(ends)
            # Corners count more than even steps: a step that lies near a corner gives way to it.
            near, _ = cKDTree(corners).query(sampled)
            rings += [corners, sampled[near > spacing * 0.5]]
    points = np.concatenate(rings)
    kept: Floats = points[_apart(points, least)]
    return kept


def _apart(points: Floats, least: float) -> NDArray[np.bool_]:
    """Which points to keep so that none lies nearer than `least` to one before it."""
    keep = np.ones(len(points), dtype=bool)
    for a, b in cKDTree(points).query_pairs(least):
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
    near, _ = cKDTree(taken).query(grid)
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


def _missing_edges(parts: Sequence[BaseGeometry], points: Floats, triangles: Ints, rim: Floats) -> Floats:
    """Middles of the outline's steps that are no edge of the triangulation."""
    edges = {tuple(sorted(e)) for t in triangles.tolist() for e in (t[:2], t[1:], (t[0], t[2]))}
    tree = cKDTree(points)
    middles: list[Floats] = []
    for part in parts:
        for ring in (part.exterior, *part.interiors):
            along = shapely.line_locate_point(ring, shapely.points(rim))
            on = shapely.distance(ring, shapely.points(rim)) < 1e-6
            order = rim[on][np.argsort(along[on])]
            _, rows = tree.query(order)
            ring_rows = [*rows.tolist(), int(rows[0])] if len(rows) else []
            for a, b in pairwise(ring_rows):
                if a != b and tuple(sorted((a, b))) not in edges:
                    middles.append((points[a] + points[b]) / 2)
    return np.array(middles).reshape(-1, 2)


def _relaxed(
    points: Floats, triangles: Ints, fixed: int, around: BaseGeometry, shape: BaseGeometry
) -> tuple[Floats, Ints]:
    """Even out the inner vertices (Laplacian smoothing), triangulating anew after each pass."""
    for _ in range(2):
        count = len(points)
        rows = np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]])
        both = np.concatenate([rows, rows[:, ::-1]])
        links = csr_array(coo_array((np.ones(len(both)), (both[:, 0], both[:, 1])), shape=(count, count)))
        links.data[:] = 1
        degree = np.maximum(np.asarray(links.sum(axis=1)).ravel(), 1)
        moved = points.copy()
        moved[fixed:] = ((links @ points) / degree[:, None])[fixed:]
        again = _kept(moved, Delaunay(moved).simplices, around, shape)
        if _angles(moved, again).min() < _angles(points, triangles).min():
            break
        points, triangles = moved, again
    return points, triangles


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
    links = csr_array(
        coo_array((np.concatenate(values), (np.concatenate(rows), np.concatenate(columns))), shape=(count, count))
    )
    degree = np.asarray(links.sum(axis=1)).ravel()
    diagonal = csr_array(coo_array((degree, (np.arange(count), np.arange(count))), shape=(count, count)))
    area = np.zeros(count)
    np.add.at(area, t.ravel(), np.repeat(np.abs(_doubled_areas(v, t)) / 6, 3))
    return diagonal - links, np.maximum(area, 1e-9)


def embedded(mesh: TriangleMesh, points: Floats) -> csr_array:
    """How points `(m, 2)` lie in the mesh: barycentric weights `(m, n)`, each row summing to 1.

    A point outside every triangle goes with the nearest one, by its plane.
    """
    v, t = mesh.vertices, mesh.triangles
    corners = v[t]
    tree = shapely.STRtree(shapely.polygons(corners))
    _, found = tree.query_nearest(shapely.points(points), all_matches=False)
    a, b, c = corners[found, 0], corners[found, 1], corners[found, 2]
    ab, ac, ap = b - a, c - a, points - a
    det = ab[:, 0] * ac[:, 1] - ab[:, 1] * ac[:, 0]
    two = (ap[:, 0] * ac[:, 1] - ap[:, 1] * ac[:, 0]) / det
    three = (ab[:, 0] * ap[:, 1] - ab[:, 1] * ap[:, 0]) / det
    values = np.stack([1 - two - three, two, three], axis=1)
    rows = np.repeat(np.arange(len(points)), 3)
    return csr_array(coo_array((values.ravel(), (rows, t[found].ravel())), shape=(len(points), len(v))))
