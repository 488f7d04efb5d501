"""Outlines as plain polygons, and the silhouette of a whole drawing."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from sorvan.core.art.source import Arts
from sorvan.core.errors import Refusal
from sorvan.core.geometry import IDENTITY, Affine, Floats, compose
from sorvan.core.model.art import Art, Layer, Mesh, Node, Outline, Picture, Shape

STEPS = 8
"""Straight steps in which a curve is taken."""
ACROSS = 192
"""Cells along the longer side of a picture when its silhouette is traced."""
_T = np.linspace(0, 1, STEPS + 1)[1:, None]


def moved(points: Floats, m: Affine) -> Floats:
    """Points `(n, 2)` under a transform."""
    return np.stack(
        [m[0] * points[:, 0] + m[2] * points[:, 1] + m[4], m[1] * points[:, 0] + m[3] * points[:, 1] + m[5]], 1
    )


def contours(outline: Outline, m: Affine = IDENTITY) -> list[Floats]:
    """Each contour of an outline as points `(n, 2)` along it."""
    p = moved(np.array(outline.points, dtype=np.float64).reshape(-1, 2), m)
    found: list[list[Floats]] = []
    i = 0
    for verb in outline.verbs:
        if verb == "M":
            found.append([p[i : i + 1]])
            i += 1
        elif verb == "L":
            found[-1].append(p[i : i + 1])
            i += 1
        elif verb == "Q":
            a, b, c = found[-1][-1][-1], p[i], p[i + 1]
            found[-1].append((1 - _T) ** 2 * a + 2 * (1 - _T) * _T * b + _T**2 * c)
            i += 2
        elif verb == "C":
            a, b, c, d = found[-1][-1][-1], p[i], p[i + 1], p[i + 2]
            u = 1 - _T
            found[-1].append(u**3 * a + 3 * u**2 * _T * b + 3 * u * _T**2 * c + _T**3 * d)
            i += 3
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
            inner = compose(m, node.matrix)
            inside = list(_parts(node.nodes, inner, arts))
            for clip in node.clips:
                limit = shapely.union_all(_areas(clip.outline, inner))
                inside = [shapely.intersection(g, limit) for g in inside]
            yield from inside


def _areas(outline: Outline, m: Affine) -> list[BaseGeometry]:
    return [shapely.make_valid(shapely.Polygon(c)) for c in contours(outline, m) if len(c) > 2]


def _of_shape(shape: Shape, m: Affine) -> Iterator[BaseGeometry]:
    if shape.fill is not None:
        yield from _areas(shape.outline, m)
    if shape.stroke is not None:
        half = shape.stroke.width / 2 * abs(m[0] * m[3] - m[1] * m[2]) ** 0.5
        for c in contours(shape.outline, m):
            closed = np.concatenate([c, c[:1]]) if shape.outline.verbs.endswith("Z") else c
            if len(closed) > 1:
                yield shapely.buffer(shapely.LineString(closed), half, quad_segs=4)


def _of_picture(picture: Picture | Mesh, arts: Arts) -> BaseGeometry:
    """Every pixel that shows at all, in cells of a grid: the silhouette never cuts one."""
    alpha = arts.alpha(picture.asset)
    height, width = alpha.shape
    cell = max(1, -(-max(height, width) // ACROSS))
    rows, columns = -(-height // cell), -(-width // cell)
    padded = np.zeros((rows * cell, columns * cell), dtype=bool)
    padded[:height, :width] = alpha > 0
    grid = padded.reshape(rows, cell, columns, cell).any(axis=(1, 3))
    x, y, w, h = picture.box
    sx, sy = w / width * cell, h / height * cell
    edges = np.diff(np.pad(grid.astype(np.int8), ((0, 0), (1, 1))), axis=1)
    at_row, start = np.nonzero(edges == 1)
    _, stop = np.nonzero(edges == -1)
    boxes = shapely.box(x + start * sx, y + at_row * sy, x + stop * sx, y + (at_row + 1) * sy)
    return shapely.union_all(boxes)
