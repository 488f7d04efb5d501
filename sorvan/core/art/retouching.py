"""Drawings touched up here: parts changed, lines wiped away and drawn over, and the original as it was."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from functools import reduce
from itertools import groupby

import shapely
from shapely.geometry.base import BaseGeometry

from sorvan.core.art.colours import recoloured_node
from sorvan.core.art.drawn import art_of, smoothed
from sorvan.core.art.parting import opened, wrapped
from sorvan.core.geometry import IDENTITY, Affine
from sorvan.core.model.art import Art, Box, Clip, Layer, Node, Outline
from sorvan.core.model.retouch import DrawnLine, PartChange, Retouch
from sorvan.core.model.shape import EditableShape

NEAR = 0.02
"""The part of a line's width by which what is kept of a hand's way may be off."""
ROUND = 8
"""Straight steps in a quarter of a line's round end."""
AIR = 0.02
"""How far what is not wiped away reaches beyond a drawing, in its longer sides, so that no edge of it is cut off."""
BoxOf = Callable[[Sequence[Node]], Box | None]
"""The box (drawing units) of all that shows of some nodes; None if nothing does."""


def in_order(count: int, how: Retouch) -> list[int]:
    """The places of a drawing's parts from the back. Those that are not there are passed over, and those that no order
    names lie in front."""
    named = [i for i in how.order if i < count]
    return [*named, *(i for i in range(count) if i not in named)]


def retouched(art: Art, how: Retouch, box_of: BoxOf) -> list[Node]:
    """The nodes of a drawing touched up so. What lies round all of it, as a fade does, goes on lying round all."""
    around, parts = opened(art)
    changes = [(i, how.parts.get(i, PartChange())) for i in in_order(len(parts), how)]
    left = [changed_part(around, parts[i], change, box_of) for i, change in changes if not change.out]
    nodes: list[Node] = [wrapped(around, left)] if around and left else left
    for wiping, lines in groupby(how.lines, lambda line: line.do == "wipe"):
        if not wiping:
            nodes += [node for line in lines for node in drawn(line).nodes]
        elif (box := box_of(nodes)) is not None:
            clip = _all_but(list(lines), box)
            nodes = [Layer(clips=(clip,), nodes=tuple(nodes))] if clip else []
    return nodes


def drawn(line: DrawnLine) -> Art:
    """The drawing that a line of a hand makes by itself."""
    points = smoothed(line.points, NEAR * line.width)
    if len(points) < 2:
        points = (*points, points[0].changed(x=points[0].x + NEAR * line.width))
    return art_of(
        EditableShape(kind="freehand", points=points, closed=False, fill=None, stroke=line.colour, width=line.width)
    )


def changed_part(around: Sequence[Layer], node: Node, change: PartChange, box_of: BoxOf) -> Node:
    """A part within the layers round it as it is changed, whether it is left out or not: all that is filled in one colour,
    and all lines in another."""
    paints = {"fill": change.fill, "stroke": change.stroke}
    found = recoloured_node(node, lambda use, colour: paints[use] or colour) if any(paints.values()) else node
    box = box_of([wrapped(around, [node])])
    if box is None or (change.x, change.y, change.turn, change.size) == (0, 0, 0, 100):
        return found
    x, y, by = (box[0] + box[2]) / 2, (box[1] + box[3]) / 2, change.size / 100
    placed = Affine.placed(x + change.x, y + change.y, change.turn, 0, by, by) @ Affine.shift(-x, -y)
    outer = reduce(Affine.__matmul__, (layer.matrix for layer in around), IDENTITY)
    return Layer(matrix=outer.inverse() @ placed @ outer, nodes=(found,))


def _all_but(lines: Iterable[DrawnLine], box: Box) -> Clip | None:
    """All of a drawing that fills a box but what these lines go over; None if they go over all of it."""
    l, t, r, b = box
    air = AIR * max(r - l, b - t, 1.0)
    whole = shapely.box(l - air, t - air, r + air, b + air)
    left = shapely.difference(whole, shapely.union_all([_gone_over(line) for line in lines]))
    if left.is_empty:
        return None
    rings = [
        list(ring.coords)[:-1] for polygon in shapely.get_parts(left) for ring in (polygon.exterior, *polygon.interiors)
    ]
    points = tuple(round(v, 3) for ring in rings for x, y in ring for v in (x, y))
    return Clip(
        outline=Outline(verbs="".join("M" + "L" * (len(ring) - 1) + "Z" for ring in rings), points=points),
        rule="evenodd",
    )


def _gone_over(line: DrawnLine) -> BaseGeometry:
    way = line.points if len(line.points) > 1 else (*line.points, line.points[0])
    kept = shapely.simplify(shapely.LineString(way), NEAR * line.width)
    return shapely.buffer(kept, line.width / 2, quad_segs=ROUND)
