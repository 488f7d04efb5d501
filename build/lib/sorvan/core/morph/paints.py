"""Fills and lines of two shapes as the same kinds of paint, so that the one can become the other."""

from __future__ import annotations

from sorvan.core.geometry import IDENTITY, Affine
from sorvan.core.model.art import Flat, Paint, Rule, Stroke
from sorvan.core.morph.looks import stops_alike
from sorvan.core.morph.pairs import Leaf

NOTHING_WIDE = 0.01
"""The width of a line that is not there yet."""


def rule_of(a: Leaf, b: Leaf) -> Rule:
    """With holes inside and outside are told by counting outlines: it does not matter then which way they go round."""
    if "evenodd" in (a.shape.rule, b.shape.rule):
        return "evenodd"
    for leaf in (a, b):
        ways = {c.area > 0 for c in leaf.contours if abs(c.area) > 1e-6}
        if len(ways) > 1:
            return "evenodd"
    return "nonzero"


def under(paint: Paint | None, m: Affine) -> Paint | None:
    """A paint in the units of the whole drawing."""
    if paint is None or isinstance(paint, Flat) or m == IDENTITY:
        return paint
    return paint.changed(matrix=m @ paint.matrix)


def alike_paints(a: Paint | None, b: Paint | None) -> list[tuple[Paint, Paint]]:
    """Two paints as pairs of the same kind with as many numbers, the one over the other if there are two."""
    if a is None and b is None:
        return []
    if a is None or b is None:
        there = a or b
        assert there is not None
        clear = _clear(there)
        return [(there, clear) if a is not None else (clear, there)]
    if isinstance(a, Flat) and isinstance(b, Flat):
        return [(a, b)]
    if isinstance(a, Flat) and not isinstance(b, Flat):
        return [(b.changed(stops=tuple(s.changed(colour=a.colour) for s in b.stops)), b)]
    if isinstance(b, Flat) and not isinstance(a, Flat):
        return [(a, a.changed(stops=tuple(s.changed(colour=b.colour) for s in a.stops)))]
    assert not isinstance(a, Flat)
    assert not isinstance(b, Flat)
    if a.kind == b.kind and a.spread == b.spread:
        one, two = stops_alike(a.stops, b.stops)
        return [(a.changed(stops=one), b.changed(stops=two))]
    return [(a, a), (_clear(b), b)]


def _clear(paint: Paint) -> Paint:
    if isinstance(paint, Flat):
        return Flat(colour=f"{paint.colour[:7]}00")
    return paint.changed(stops=tuple(s.changed(colour=f"{s.colour[:7]}00") for s in paint.stops))


def alike_strokes(a: Leaf, b: Leaf) -> tuple[Stroke, Stroke] | None:
    """The lines of two shapes, as one kind of paint; a line that is missing in one comes from, or goes to, nothing."""
    one, two = (_stroke(leaf) for leaf in (a, b))
    if one is None and two is None:
        return None
    if one is None or two is None:
        there = one or two
        assert there is not None
        thin = there.changed(width=NOTHING_WIDE)
        return (there, thin) if one is not None else (thin, there)
    paints = alike_paints(one.paint, two.paint)
    # Gradients of two kinds can't lie over one another on a line: its colour goes from the one's to the other's middle.
    first, second = (
        paints[0] if len(paints) == 1 else (Flat(colour=_middle(one.paint)), Flat(colour=_middle(two.paint)))
    )
    return one.changed(paint=first), one.changed(paint=second, width=two.width)


def _middle(paint: Paint) -> str:
    return paint.colour if isinstance(paint, Flat) else paint.stops[len(paint.stops) // 2].colour


def _stroke(leaf: Leaf) -> Stroke | None:
    stroke = leaf.shape.stroke
    if stroke is None:
        return None
    scale = abs(leaf.matrix.determinant) ** 0.5
    dash = tuple(d * scale for d in stroke.dash)
    paint = under(stroke.paint, leaf.matrix)
    return stroke.changed(paint=paint, width=max(stroke.width * scale, 1e-3), dash=dash)
