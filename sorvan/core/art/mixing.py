"""Between two drawings: outlines of the same points half way, whatever else the one over the other."""

from __future__ import annotations

from collections.abc import Sequence
from difflib import SequenceMatcher

from sorvan.core.geometry import Affine
from sorvan.core.model.art import Art, Flat, Layer, Node, Outline, Paint, Shape, Stroke

Shift = tuple[float, float]


def mixed(a: Art, b: Art, t: float, from_a: Shift, from_b: Shift) -> Art:
    """The drawing so far on the way (0 to 1) from one to another, in units in which `from_a` of the one and `from_b`
    of the other lie at nought.

    Shapes of the two that have the same segments, in their order, become one another: points, line widths and
    colours (sRGB) in even parts. What has no partner in the other stays as it is in the first until it goes, and
    comes over it by and by in the second.
    """
    moved = Affine.shift(-from_a[0], -from_a[1]), Affine.shift(-from_b[0], -from_b[1])
    one, two = _kind(a.nodes), _kind(b.nodes)
    nodes: list[Node] = []
    for what, i, j, k, m in SequenceMatcher(None, one, two, autojunk=False).get_opcodes():
        if what == "equal":
            nodes += [_between(x, y, t, from_a, from_b) for x, y in zip(a.nodes[i:j], b.nodes[k:m], strict=True)]
            continue
        if j > i:
            nodes.append(Layer(matrix=moved[0], nodes=a.nodes[i:j]))
        if m > k:
            nodes.append(Layer(matrix=moved[1], opacity=t, nodes=b.nodes[k:m]))
    left = [v - s for v, s in zip(a.bounds, (*from_a, *from_a), strict=True)]
    right = [v - s for v, s in zip(b.bounds, (*from_b, *from_b), strict=True)]
    low = (min(left[0], right[0]), min(left[1], right[1]))
    return Art(bounds=(*low, max(left[2], right[2]), max(left[3], right[3])), nodes=tuple(nodes))


def _kind(nodes: Sequence[Node]) -> list[tuple[object, ...]]:
    """What two nodes must share to become one another; nothing else is like a picture or a layer."""
    return [
        ("shape", n.outline.verbs, n.rule, _flat(n.fill), n.stroke and _flat(n.stroke.paint))
        if isinstance(n, Shape) and _plain(n)
        else ("alone", id(n))
        for n in nodes
    ]


def _flat(paint: Paint | None) -> bool:
    return isinstance(paint, Flat)


def _plain(shape: Shape) -> bool:
    return (shape.fill is None or _flat(shape.fill)) and (shape.stroke is None or _flat(shape.stroke.paint))


def _between(a: Node, b: Node, t: float, from_a: Shift, from_b: Shift) -> Shape:
    assert isinstance(a, Shape)
    assert isinstance(b, Shape)
    points = tuple(
        (p - from_a[n % 2]) * (1 - t) + (q - from_b[n % 2]) * t
        for n, (p, q) in enumerate(zip(a.outline.points, b.outline.points, strict=True))
    )
    return a.changed(
        outline=Outline(verbs=a.outline.verbs, points=tuple(round(p, 4) for p in points)),
        fill=_paint(a.fill, b.fill, t),
        stroke=_line(a.stroke, b.stroke, t),
    )


def _paint(a: Paint | None, b: Paint | None, t: float) -> Paint | None:
    return Flat(colour=colour_between(a.colour, b.colour, t)) if isinstance(a, Flat) and isinstance(b, Flat) else a


def _line(a: Stroke | None, b: Stroke | None, t: float) -> Stroke | None:
    if a is None or b is None:
        return a
    paint = _paint(a.paint, b.paint, t)
    assert paint is not None
    return a.changed(paint=paint, width=a.width * (1 - t) + b.width * t)


def colour_between(a: str, b: str, t: float) -> str:
    """A colour so far on the way from one to another, each of its levels in even parts (sRGB)."""
    levels = [(int(a[i : i + 2], 16), int(b[i : i + 2], 16)) for i in (1, 3, 5, 7)]
    return "#" + "".join(f"{round(x * (1 - t) + y * t):02x}" for x, y in levels)
