"""Outlines as plain polygons, and the silhouette of a whole drawing."""

from __future__ import annotations

import math
from collections.abc import Iterator
from functools import reduce

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from sorvan.core.art.source import Arts
from sorvan.core.errors import Refusal
from sorvan.core.geometry import IDENTITY, Affine, Floats, moved
from sorvan.core.model.art import Art, Clip, Layer, Mesh, Node, Outline, Picture, Shape

STEPS = 8
"""Straight steps in which a curve is taken."""
ACROSS = (1024, 512, 256, 128)
"""Cells along the longer side of a picture when its silhouette is traced, the finest first."""
LONGEST_STEP = 12.5
"""Cells along the longest stair that counts as part of a slope."""
RAGGED = 2500
"""Corners from which on a silhouette is too ragged to be traced so finely."""
_T = np.linspace(0, 1, STEPS + 1)[1:, None]


def contours(outline: Outline, m: Affine = IDENTITY) -> list[Floats]:
    """Each contour of an outline as points `(n, 2)` along it."""
    p = moved(np.array(outline.points, dtype=np.float64).reshape(-1, 2), m)
    found: list[list[Floats]] = []
    u = 1 - _T
    for verb, own in outline.segments():
        if verb == "M":
            found.append([p[own]])
        elif verb == "L":
            found[-1].append(p[own])
        elif verb == "Q":
            (a, b), start = p[own], found[-1][-1][-1]
            found[-1].append(u**2 * start + 2 * u * _T * a + _T**2 * b)
        elif verb == "C":
            (a, b, c), start = p[own], found[-1][-1][-1]
            found[-1].append(u**3 * start + 3 * u**2 * _T * a + 3 * u * _T**2 * b + _T**3 * c)
    return [np.concatenate(c) for c in found]


def silhouette(art: Art, arts: Arts) -> BaseGeometry:
    """All that a drawing covers, in drawing units. Raises `Refusal` when it covers nothing."""
    parts = list(_parts(art.nodes, IDENTITY, arts))
    whole = shapely.union_all([p for p in parts if not p.is_empty])
    if whole.is_empty or whole.area < 1e-6:
        raise Refusal("The drawing has nothing in it that could bend.", remedy="Choose a piece with something to see.")
    return whole


def _parts(nodes: tuple[Node, ...], m: Affine, arts: Arts) -> Iterator[BaseGeometry]:
    for node in nodes:
        if isinstance(node, Shape):
            yield from _of_shape(node, m)
        elif isinstance(node, (Picture, Mesh)):
            yield shapely.transform(_of_picture(node, arts), lambda p: moved(p, m))
        else:
            assert isinstance(node, Layer)
            inner = m @ node.matrix
            inside = list(_parts(node.nodes, inner, arts))
            for clip in node.clips:
                limit = _within(clip, inner)
                inside = [shapely.intersection(g, limit) for g in inside]
            yield from inside


def _areas(outline: Outline, m: Affine) -> list[BaseGeometry]:
    return [shapely.make_valid(shapely.Polygon(c)) for c in contours(outline, m) if len(c) > 2]


def _within(clip: Clip, m: Affine) -> BaseGeometry:
    """All that a clip lets show. Without a rule of its own, the holes in it do too."""
    areas = _areas(clip.outline, m)
    if clip.rule == "nonzero":
        return shapely.union_all(areas)
    return reduce(shapely.symmetric_difference, areas, shapely.Polygon())


def _of_shape(shape: Shape, m: Affine) -> Iterator[BaseGeometry]:
    if shape.fill is not None:
        yield from _areas(shape.outline, m)
    if shape.stroke is not None:
        half = shape.stroke.width / 2 * abs(m[0] * m[3] - m[1] * m[2]) ** 0.5
        for c in contours(shape.outline, m):
            closed = np.concatenate([c, c[:1]]) if shape.outline.verbs.endswith("Z") else c
            if len(closed) > 1:
                yield shapely.buffer(shapely.LineString(closed), half, quad_segs=4)


def grain(art: Art, arts: Arts) -> float:
    """How coarsely the silhouette is traced: the longest side of a cell, in drawing units; 0 for outlines."""
    return max((_traced(p, arts)[1] * scale for p, scale in _pictures(art.nodes, 1.0)), default=0.0)


def _pictures(nodes: tuple[Node, ...], scale: float) -> Iterator[tuple[Picture | Mesh, float]]:
    for node in nodes:
        if isinstance(node, (Picture, Mesh)):
            yield node, scale
        elif isinstance(node, Layer):
            a, b, c, d = node.matrix[:4]
            yield from _pictures(node.nodes, scale * max(math.hypot(a, b), math.hypot(c, d)))


def _of_picture(picture: Picture | Mesh, arts: Arts) -> BaseGeometry:
    return _traced(picture, arts)[0]


def _traced(picture: Picture | Mesh, arts: Arts) -> tuple[BaseGeometry, float]:
    """Every pixel that shows at all, in cells of a grid, and their size: the silhouette never cuts one."""
    return arts.kept(("traced", picture.asset, picture.box), lambda: _trace(arts.alpha(picture.asset) > 0, picture.box))


def _trace(showing: NDArray[np.bool_], box: tuple[float, float, float, float]) -> tuple[BaseGeometry, float]:
    height, width = showing.shape
    x, y, w, h = box
    for across in ACROSS:
        cell = max(1, -(-max(height, width) // across))
        sx, sy = w / width * cell, h / height * cell
        rows, columns = -(-height // cell), -(-width // cell)
        padded = np.zeros((rows * cell, columns * cell), dtype=bool)
        padded[:height, :width] = showing
        grid = padded.reshape(rows, cell, columns, cell).any(axis=(1, 3))
        edges = np.diff(np.pad(grid.astype(np.int8), ((0, 0), (1, 1))), axis=1)
        if np.count_nonzero(edges) > RAGGED and across != ACROSS[-1]:
            continue
        at_row, start = np.nonzero(edges == 1)
        _, stop = np.nonzero(edges == -1)
        boxes = shapely.box(x + start * sx, y + at_row * sy, x + stop * sx, y + (at_row + 1) * sy)
        whole = _without_steps(shapely.union_all(boxes), sx, sy)
        if shapely.get_num_coordinates(whole) <= RAGGED:
            break
    return whole, max(sx, sy)


def _without_steps(traced: BaseGeometry, sx: float, sy: float) -> BaseGeometry:
    """The tracing with the inner corners of its stairs cut off straight, so that a slope is a slope.

    It only grows, by no more than a cell across and down.
    """

    def ring(corners: Floats) -> Floats:
        p = corners[:-1]
        before, after = p - np.roll(p, 1, axis=0), np.roll(p, -1, axis=0) - p
        turn = before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0]
        lengths = np.stack([np.abs(e / (sx, sy)).max(axis=1) for e in (before, after)])
        step = (lengths.min(axis=0) < 1.5) & (lengths.max(axis=0) < LONGEST_STEP)
        kept = p[~((turn < 0) & step)]
        return np.concatenate([kept, kept[:1]]) if len(kept) > 2 else corners

    polygons = [
        shapely.Polygon(ring(np.array(g.exterior.coords)), [ring(np.array(h.coords)) for h in g.interiors])
        for g in shapely.get_parts(shapely.orient_polygons(traced))
    ]
    grown = shapely.union_all([traced, *(g if g.is_valid else shapely.make_valid(g) for g in polygons)])
    # Rows of cells leave corners along straight sides.
    return shapely.simplify(grown, 1e-9 * max(sx, sy))
