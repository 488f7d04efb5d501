"""Outlines as Skia paths: for exact bounds and for uniting clip shapes."""

from __future__ import annotations

from collections.abc import Sequence

import skia

from sorvan.core.model.art import Art, Box, Clip, Layer, Node, Outline, Shape
from sorvan.picture.paint import matrix_of, path_of, pen_for


def from_path(path: skia.Path) -> Clip:
    """A Skia path without conics as a clip."""
    verbs: list[str] = []
    points: list[float] = []
    letters = {
        skia.Path.kMove_Verb: ("M", 0),
        skia.Path.kLine_Verb: ("L", 1),
        skia.Path.kQuad_Verb: ("Q", 1),
        skia.Path.kCubic_Verb: ("C", 1),
    }
    for verb, found in skia.Path.Iter(path, False):
        if verb in letters:
            letter, skipped = letters[verb]
            verbs.append(letter)
            for point in found[skipped:]:
                points.extend((point.x(), point.y()))
        elif verb == skia.Path.kClose_Verb:
            verbs.append("Z")
    even = path.getFillType() == skia.PathFillType.kEvenOdd
    return Clip(outline=Outline(verbs="".join(verbs), points=tuple(points)), rule="evenodd" if even else "nonzero")


def bounds_of(nodes: Sequence[Node]) -> Box | None:
    """The box of everything that shows, strokes and clips considered; None if nothing does."""
    found = [b for node in nodes if (b := _node_bounds(node)) is not None and b[0] < b[2] and b[1] < b[3]]
    if not found:
        return None
    l, t, r, b = zip(*found, strict=True)
    return (round(min(l), 4), round(min(t), 4), round(max(r), 4), round(max(b), 4))


def _node_bounds(node: Node) -> Box | None:
    if isinstance(node, Shape):
        return _shape_bounds(node)
    if isinstance(node, Layer):
        inside = bounds_of(node.nodes)
        if inside is None or node.opacity == 0:
            return None
        rect = skia.Rect.MakeLTRB(*inside)
        for clip in node.clips:
            if not rect.intersect(path_of(clip.outline, clip.rule).computeTightBounds()):
                return None
        return _sides(matrix_of(node.matrix).mapRect(rect))
    x, y, w, h = node.box
    return (x, y, x + w, y + h)


def _shape_bounds(node: Shape) -> Box | None:
    points = node.outline.points
    if node.stroke is None and node.outline.straight and points:
        xs, ys = points[::2], points[1::2]
        return (min(xs), min(ys), max(xs), max(ys)) if node.fill is not None else None
    path = path_of(node.outline, node.rule)
    if node.stroke is not None:
        outlined = skia.Path()
        pen_for(node.stroke).getFillPath(path, outlined)
        found = outlined.computeTightBounds()
        if node.fill is not None:
            found.join(path.computeTightBounds())
        return _sides(found)
    return _sides(path.computeTightBounds()) if node.fill is not None else None


def _sides(rect: skia.Rect) -> Box:
    return (rect.left(), rect.top(), rect.right(), rect.bottom())


def art_of(nodes: Sequence[Node]) -> Art | None:
    """A drawing of these nodes; None if nothing of it shows."""
    box = bounds_of(nodes)
    return Art(bounds=box, nodes=tuple(nodes)) if box else None
