"""In-betweens that become drawings of their own."""

from __future__ import annotations

import numpy as np

from sorvan.core.art.drawn import art_of
from sorvan.core.model.art import Art, Flat, Shape
from sorvan.core.model.shape import EditableShape, ShapePoint
from sorvan.core.morph.contour import contours_of
from sorvan.core.morph.ready import Ready

SMOOTH = 0.05
"""How far from straight on (radians) a line may run through a point that is taken for smooth."""


def kept_at(ready: Ready, part: float) -> tuple[Art, EditableShape | None]:
    """The in-between at a part of the way; and, of one outline in flat colours, the shape that it is, whose points can
    be edited. Its pivot lies at nought."""
    art = ready.drawing(part)
    shape = shape_of(art)
    return (art if shape is None else art_of(shape)), shape


def shape_of(art: Art) -> EditableShape | None:
    """The shape with editable points that a drawing is; None if it is more than one outline in flat colours."""
    if len(art.nodes) != 1 or not isinstance(art.nodes[0], Shape):
        return None
    node = art.nodes[0]
    paint = node.stroke.paint if node.stroke else None
    contours = contours_of(node.outline)
    if len(contours) != 1 or not isinstance(node.fill, Flat | None) or not isinstance(paint, Flat | None):
        return None
    if node.stroke is not None and node.stroke.dash:
        return None
    (contour,) = contours
    curves = contour.curves
    arriving = np.roll(curves, 1, axis=0)
    points: list[ShapePoint] = []
    for n, curve in enumerate(curves):
        into = arriving[n, 2] - curve[0] if n or contour.closed else np.zeros(2)
        points.append(_point(curve[0], into, curve[1] - curve[0]))
    if not contour.closed:
        points.append(_point(curves[-1, 3], curves[-1, 2] - curves[-1, 3], np.zeros(2)))
    if len(points) < 2:
        return None
    return EditableShape(
        kind="polygon",
        points=tuple(points),
        closed=contour.closed,
        fill=node.fill.colour if node.fill else None,
        stroke=paint.colour if paint else None,
        width=node.stroke.width if node.stroke else 3.0,
    )


def _point(at: np.ndarray, into: np.ndarray, out: np.ndarray) -> ShapePoint:
    turn = np.arctan2(-into[0] * out[1] + into[1] * out[0], -(into @ out))
    straight = bool(np.hypot(*into) > 1e-6 and np.hypot(*out) > 1e-6 and abs(turn) < SMOOTH)
    x, y = (round(float(v), 3) for v in at)
    a, b = ((round(float(v[0]), 3), round(float(v[1]), 3)) for v in (into, out))
    return ShapePoint(x=x, y=y, smooth=straight, into=a, out=b)
