"""How much each joint moves each place of a bending piece."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from sorvan.core.deform.mesh import TriangleMesh, stiffness
from sorvan.core.geometry import Floats, Point
from sorvan.core.late import late
from sorvan.core.model.puppet import Dab

sparse = late("scipy.sparse")
sparse_linalg = late("scipy.sparse.linalg")

Bone = tuple[Point, Point]
CORNERS = 600
"""Corners of an outline from which on what can be seen past it is told by a plainer one."""
HEAT = 0.05
"""How strongly a bone holds what lies near it (c in Baran and Popović 2007, §4)."""


def bone_weights(mesh: TriangleMesh, shape: BaseGeometry, bones: Sequence[Bone]) -> Floats:
    """The weight of each bone at each vertex, `(vertices, bones)`; each row sums to 1.

    Heat spreads from every bone through the drawing, never across a gap: a bone warms only the
    vertices that it is the nearest to and can see (Baran and Popović 2007, “Automatic Rigging
    and Animation of 3D Characters”, §4: (-Δ + H) w = H p with H = c/d²).
    """
    v = mesh.vertices
    distance, nearest = _distances(v, bones)
    scale = float(np.sqrt(mesh.area() / max(len(v), 1)))
    hidden = np.where(_visible(v, distance, nearest, shape, scale * 1e-3), distance, np.inf)
    least = hidden.min(axis=1)
    ties = hidden <= least[:, None] + scale * 1e-3
    source = np.where(np.isfinite(least)[:, None] & ties, 1.0, 0.0)
    count = np.maximum(source.sum(axis=1), 1)
    laplacian, area = stiffness(mesh)
    heat = np.where(np.isfinite(least), HEAT / np.maximum(least, scale * 0.05) ** 2, 0.0) * area
    if not heat.any():
        heat = area / scale**2
        source = (distance <= distance.min(axis=1)[:, None] + scale * 1e-3).astype(np.float64)
        count = source.sum(axis=1)
    # A part that no bone sees still belongs to the nearest one, weakly.
    faint = area * 1e-6 / scale**2
    fallback = (distance <= distance.min(axis=1)[:, None] + scale * 1e-3).astype(np.float64)
    fallback /= fallback.sum(axis=1)[:, None]
    system = sparse.csc_array(laplacian + sparse.diags_array(heat + faint))
    right = heat[:, None] * source / count[:, None] + faint[:, None] * fallback
    weights: Floats = sparse_linalg.splu(system).solve(right)
    return normalised(np.maximum(weights, 0.0))


def normalised(weights: Floats) -> Floats:
    """Weights without their faintest parts, each row summing to 1."""
    strong = np.where(weights < 0.004, 0.0, weights)
    total = strong.sum(axis=1, keepdims=True)
    return np.where(total > 0, strong / np.maximum(total, 1e-12), 1.0 / weights.shape[1])


def _distances(v: Floats, bones: Sequence[Bone]) -> tuple[Floats, Floats]:
    """How far each vertex is from each bone `(n, k)`, and the bone's nearest place `(n, k, 2)`."""
    a = np.array([b[0] for b in bones])
    along = np.array([b[1] for b in bones]) - a
    square = np.maximum((along**2).sum(axis=1), 1e-12)
    from_a = v[:, None, :] - a[None]
    t = np.clip((from_a * along).sum(axis=2) / square, 0, 1)
    nearest = a[None] + t[:, :, None] * along
    return np.hypot(*np.moveaxis(v[:, None, :] - nearest, 2, 0)), nearest


def _visible(v: Floats, distance: Floats, nearest: Floats, shape: BaseGeometry, tie: float) -> NDArray[np.bool_]:
    """Whether the straight way from each vertex to each bone crosses no gap in the drawing, `(n, k)`, told of the nearest
    that can be seen and of those that are hardly farther.

    Whatever stands out over the edge, at either end, is let in.
    """
    count, bones = nearest.shape[:2]
    drawn = _plainer(shape)
    # A little wider than what the ways begin in, so that it covers those that begin at its edge.
    room = shapely.buffer(drawn, 1e-6 * float(np.ptp(v)) + 1e-9)
    shapely.prepare(drawn)
    shapely.prepare(room)
    ends = v.copy()
    out = np.flatnonzero(~shapely.contains_xy(drawn, v[:, 0], v[:, 1]))
    ends[out] = shapely.get_coordinates(shapely.shortest_line(drawn, shapely.points(v[out])))[::2]
    ways = shapely.linestrings(np.stack([np.repeat(ends, bones, axis=0), nearest.reshape(-1, 2)], axis=1))
    seen: NDArray[np.bool_] = shapely.covers(room, ways)
    least = np.where(seen.reshape(count, bones), distance, np.inf).min(axis=1, keepdims=True)
    doubtful = np.flatnonzero(~seen & (distance <= least + tie).ravel())
    seen[doubtful] = shapely.get_num_geometries(shapely.intersection(ways[doubtful], room)) == 1
    return seen.reshape(count, bones)


def _plainer(shape: BaseGeometry) -> BaseGeometry:
    """A drawing's outline with no more corners than can be looked past from everywhere."""
    left, top, right, bottom = shape.bounds
    step = 0.0005 * max(right - left, bottom - top)
    found = shape
    for _ in range(7):
        if shapely.get_num_coordinates(found) <= CORNERS:
            break
        simpler = shape.simplify(step)
        found = found if simpler.is_empty else simpler
        step *= 2
    return found


def limited(weights: Floats, points: Floats, bones: Sequence[Bone], reach: Mapping[int, float]) -> Floats:
    """Weights with some bones' pull fading to nothing at a distance (drawing units), by bone row."""
    if not reach:
        return weights
    distance, _ = _distances(points, bones)
    result = weights.copy()
    for row, radius in reach.items():
        t = np.clip(2 - 2 * distance[:, row] / radius, 0, 1)
        result[:, row] *= t * t * (3 - 2 * t)
    empty = result.sum(axis=1) < 0.02
    result[empty] = np.where(distance[empty] == distance[empty].min(axis=1, keepdims=True), 1.0, 0.0)
    return normalised(result)


def painted(weights: Floats, points: Floats, dabs: Sequence[Dab], row: Mapping[str, int]) -> Floats:
    """Weights after touches of the brush, in the order made; the other joints give way in proportion."""
    result = weights.copy()
    for dab in dabs:
        if dab.joint not in row:
            continue
        own = row[dab.joint]
        t = np.clip(1 - np.hypot(points[:, 0] - dab.x, points[:, 1] - dab.y) / dab.radius, 0, 1)
        before = result[:, own].copy()
        after = np.clip(before + dab.amount * t * t * (3 - 2 * t), 0, 1)
        left = 1 - before
        others = np.where(left > 1e-9, (1 - after) / np.maximum(left, 1e-9), 1.0)
        result *= others[:, None]
        alone = (left <= 1e-9) & (after < 1)
        if alone.any() and result.shape[1] > 1:
            # Nothing else held this place: what was taken away goes to all others alike.
            result[alone] = ((1 - after[alone]) / (result.shape[1] - 1))[:, None]
        result[:, own] = after
    return normalised(result)
