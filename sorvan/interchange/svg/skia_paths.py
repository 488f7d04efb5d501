"""Outlines as Skia paths: for exact bounds and for uniting clip shapes."""

from __future__ import annotations

import skia

from sorvan.core.model.art import Art, Box, Clip, Layer, Mesh, Node, Outline, Picture
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


def bounds_of(nodes: tuple[Node, ...] | list[Node]) -> Box | None:
    """The box of everything that shows, strokes and clips considered; None if nothing does."""
    total: skia.Rect | None = None
    for node in nodes:
        found = _node_bounds(node)
        if found is None:
            continue
        if total is None:
            total = found
        else:
            total.join(found)
    if total is None or total.isEmpty():
        return None
    return (round(total.left(), 4), round(total.top(), 4), round(total.right(), 4), round(total.bottom(), 4))


def _node_bounds(node: Node) -> skia.Rect | None:
    if isinstance(node, (Picture, Mesh)):
        x, y, w, h = node.box
        return skia.Rect.MakeXYWH(x, y, w, h)
    if isinstance(node, Layer):
        inside = bounds_of(node.nodes)
        if inside is None or node.opacity == 0:
            return None
        rect = skia.Rect.MakeLTRB(*inside)
        for clip in node.clips:
            if not rect.intersect(path_of(clip.outline, clip.rule).computeTightBounds()):
                return None
        return matrix_of(node.matrix).mapRect(rect)
    points = node.outline.points
    if node.stroke is None and node.outline.straight and points:
        xs, ys = points[::2], points[1::2]
        return skia.Rect.MakeLTRB(min(xs), min(ys), max(xs), max(ys)) if node.fill is not None else None
    path = path_of(node.outline, node.rule)
    if node.stroke is not None:
        outlined = skia.Path()
        pen_for(node.stroke).getFillPath(path, outlined)
        found = outlined.computeTightBounds()
        if node.fill is not None:
            found.join(path.computeTightBounds())
        return found
    return path.computeTightBounds() if node.fill is not None else None


def art_of(nodes: list[Node]) -> Art | None:
    """A drawing of these nodes; None if nothing of it shows."""
    box = bounds_of(nodes)
    return Art(bounds=box, nodes=tuple(nodes)) if box else None
