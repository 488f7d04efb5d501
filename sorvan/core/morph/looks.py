"""What a drawing looks like, as numbers that can change from frame to frame.

They stand in the order in which the painters meet what they belong to: of a shape those of its fill, then those of its
stroke; of a layer its opacity, before what lies in it. A flat paint has four (red, green, blue, opacity, 0 to 1). A
gradient has the six of its matrix, its geometry (linear: start and end; radial: focus, its radius, centre, radius), and
five for each stop: where it is, and its colour. A stroke has its width after its paint.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from sorvan.core.art.colours import rgba
from sorvan.core.geometry import Affine, Floats
from sorvan.core.model.art import (
    Art,
    Clip,
    Flat,
    Layer,
    Linear,
    Node,
    Outline,
    Paint,
    Radial,
    Shape,
    Stop,
    Stroke,
)


def levels(colour: str) -> list[float]:
    """The four numbers of a colour."""
    return [v / 255 for v in rgba(colour)]


def of_paint(paint: Paint) -> list[float]:
    """The numbers of a paint."""
    if isinstance(paint, Flat):
        return levels(paint.colour)
    geometry = (
        [*paint.start, *paint.end]
        if isinstance(paint, Linear)
        else [*paint.focus, paint.focus_radius, *paint.centre, paint.radius]
    )
    return [*paint.matrix, *geometry, *(v for s in paint.stops for v in (s.at, *levels(s.colour)))]


def colours_of(paint: Paint) -> list[int]:
    """Where among the numbers of a paint its colours begin."""
    if isinstance(paint, Flat):
        return [0]
    first = 10 if isinstance(paint, Linear) else 12
    return [first + 5 * k + 1 for k in range(len(paint.stops))]


class HandedOut:
    """Numbers, or points, handed out in the order in which a drawing's nodes are met."""

    def __init__(self, values: Floats) -> None:
        self._values, self._at = values, 0

    def take(self, count: int) -> Floats:
        """The next so many."""
        self._at += count
        return self._values[self._at - count : self._at]


def settled(art: Art, points: Floats, looks: Floats) -> Art:
    """The drawing with these points `(n, 2)` and this look `(m,)` in it, and the box that then holds it."""
    p, v = HandedOut(points), HandedOut(looks)
    nodes = tuple(_node(n, p, v) for n in art.nodes)
    wide = max((float(s.width) for s in _strokes(nodes)), default=0.0)
    if len(points):
        low, high = points.min(axis=0) - wide / 2 - 1, points.max(axis=0) + wide / 2 + 1
        bounds = tuple(round(float(x), 3) for x in (*low, *high))
        return art.changed(bounds=bounds, nodes=nodes)
    return art.changed(nodes=nodes)


def _strokes(nodes: Sequence[Node]) -> list[Stroke]:
    found: list[Stroke] = []
    for node in nodes:
        if isinstance(node, Shape) and node.stroke is not None:
            found.append(node.stroke)
        elif isinstance(node, Layer):
            found += _strokes(node.nodes)
    return found


def _node(node: Node, points: HandedOut, looks: HandedOut) -> Node:
    if isinstance(node, Shape):
        outline = _outline(node.outline, points)
        fill = painted(node.fill, looks.take(size_of(node.fill))) if node.fill is not None else None
        stroke = node.stroke
        if stroke is not None:
            paint = painted(stroke.paint, looks.take(size_of(stroke.paint)))
            stroke = stroke.changed(paint=paint, width=max(float(looks.take(1)[0]), 1e-3))
        return node.changed(outline=outline, fill=fill, stroke=stroke)
    if isinstance(node, Layer):
        opacity = float(np.clip(looks.take(1)[0], 0, 1))
        clips = tuple(Clip(outline=_outline(c.outline, points), rule=c.rule) for c in node.clips)
        return node.changed(opacity=opacity, clips=clips, nodes=tuple(_node(n, points, looks) for n in node.nodes))
    return node


def _outline(outline: Outline, points: HandedOut) -> Outline:
    own = points.take(len(outline.points) // 2)
    return Outline(verbs=outline.verbs, points=tuple(np.round(own, 4).ravel().tolist()))


def size_of(paint: Paint) -> int:
    """How many numbers a paint has."""
    if isinstance(paint, Flat):
        return 4
    return (10 if isinstance(paint, Linear) else 12) + 5 * len(paint.stops)


def painted(paint: Paint, numbers: Floats) -> Paint:
    """The paint with other numbers."""
    v = [float(n) for n in numbers]
    if isinstance(paint, Flat):
        return Flat(colour=hex_of(v))
    first = size_of(paint) - 5 * len(paint.stops)
    stops = tuple(Stop(at=min(max(v[k], 0.0), 1.0), colour=hex_of(v[k + 1 : k + 5])) for k in range(first, len(v), 5))
    matrix = Affine(*v[:6])
    if isinstance(paint, Linear):
        return paint.changed(matrix=matrix, start=tuple(v[6:8]), end=tuple(v[8:10]), stops=stops)
    assert isinstance(paint, Radial)
    return paint.changed(
        matrix=matrix,
        focus=tuple(v[6:8]),
        focus_radius=max(v[8], 0.0),
        centre=tuple(v[9:11]),
        radius=max(v[11], 0.0),
        stops=stops,
    )


def hex_of(four: Sequence[float]) -> str:
    """Red, green, blue and opacity, 0 to 1, as `#rrggbbaa`."""
    return "#" + "".join(f"{round(min(max(v, 0.0), 1.0) * 255):02x}" for v in four)


def stops_alike(first: Sequence[Stop], second: Sequence[Stop]) -> tuple[tuple[Stop, ...], tuple[Stop, ...]]:
    """Two gradients' stops with as many in each, without either looking other than before."""
    if len(first) == len(second):
        return tuple(first), tuple(second)
    places = sorted({s.at for s in first} | {s.at for s in second})
    return _at(first, places), _at(second, places)


def _at(stops: Sequence[Stop], places: Sequence[float]) -> tuple[Stop, ...]:
    table: NDArray[np.float64] = np.array([levels(s.colour) for s in stops])
    own = [s.at for s in stops]
    return tuple(Stop(at=p, colour=hex_of([float(np.interp(p, own, table[:, k])) for k in range(4)])) for p in places)
