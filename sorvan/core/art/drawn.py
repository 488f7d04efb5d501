"""Shapes drawn here: the art they make, and editing their points."""

from __future__ import annotations

import math
from collections.abc import Sequence

from sorvan.core.errors import Refusal
from sorvan.core.geometry import Point
from sorvan.core.model.art import Art, Flat, Outline, Shape, Stroke
from sorvan.core.model.shape import EditableShape, ShapePoint

ROUND = 4 / 3 * math.tan(math.pi / 8)
"""The handle of a quarter circle, in radii: it is off by at most 0.03 % of the radius."""
CubicPoints = tuple[Point, Point, Point, Point]


def handles(shape: EditableShape, i: int) -> tuple[Point, Point]:
    """A point's handles into and out of it, relative to it. A corner without any has none.

    A smooth point without handles follows its neighbours (Catmull and Rom 1974).
    """
    at, count = shape.points[i], len(shape.points)
    into, out = at.into or (0.0, 0.0), at.out or (0.0, 0.0)
    if not at.smooth or at.into is not None or at.out is not None:
        return into, out
    ends = not shape.closed and i in (0, count - 1)
    if ends or count < 3:
        return into, out
    before, after = shape.points[i - 1], shape.points[(i + 1) % count]
    dx, dy = after.x - before.x, after.y - before.y
    long = math.hypot(dx, dy)
    if not long:
        return into, out
    # A third of the way to each neighbour, so that unequal steps do not overshoot.
    to_before = math.hypot(at.x - before.x, at.y - before.y) / (3 * long)
    to_after = math.hypot(after.x - at.x, after.y - at.y) / (3 * long)
    return (-dx * to_before, -dy * to_before), (dx * to_after, dy * to_after)


def segments(shape: EditableShape) -> list[CubicPoints]:
    """The outline as cubic Béziers, one from each point to the next."""
    count = len(shape.points)
    found: list[CubicPoints] = []
    for i in range(count if shape.closed else count - 1):
        a, b = shape.points[i], shape.points[(i + 1) % count]
        (_, out), (into, _) = handles(shape, i), handles(shape, (i + 1) % count)
        found.append(((a.x, a.y), (a.x + out[0], a.y + out[1]), (b.x + into[0], b.y + into[1]), (b.x, b.y)))
    return found


def art_of(shape: EditableShape) -> Art:
    """The drawing that a shape makes. Raises `Refusal` when nothing of it would show."""
    if shape.fill is None and shape.stroke is None:
        raise Refusal("A shape needs a fill or a line, or nothing of it shows.", remedy="Choose a colour for either.")
    pieces = segments(shape)
    points: list[float] = [*pieces[0][0]]
    verbs = "M"
    for start, one, two, end in pieces:
        if one == start and two == end:
            verbs += "L"
            points += end
        else:
            verbs += "C"
            points += [*one, *two, *end]
    outline = Outline(verbs=verbs + ("Z" if shape.closed else ""), points=tuple(round(v, 4) for v in points))
    stroke = (
        Stroke(paint=Flat(colour=shape.stroke), width=shape.width, cap="round", join="round") if shape.stroke else None
    )
    fill = Flat(colour=shape.fill) if shape.fill else None
    around = shape.width / 2 if shape.stroke else 0.0
    xs = [at(c, 0, t) for c in pieces for t in STEPS]
    ys = [at(c, 1, t) for c in pieces for t in STEPS]
    bounds = (min(xs) - around, min(ys) - around, max(xs) + around, max(ys) + around)
    return Art(bounds=bounds, nodes=(Shape(outline=outline, fill=fill, stroke=stroke),))


STEPS = tuple(i / 16 for i in range(17))


def at(c: CubicPoints, axis: int, t: float) -> float:
    """One coordinate of a cubic Bézier at `t` (Bernstein form)."""
    u = 1 - t
    return u * u * u * c[0][axis] + 3 * u * u * t * c[1][axis] + 3 * u * t * t * c[2][axis] + t * t * t * c[3][axis]


def rectangle(a: Point, b: Point) -> tuple[ShapePoint, ...]:
    """The four corners of an upright rectangle between two opposite ones."""
    (l, r), (t, d) = sorted((a[0], b[0])), sorted((a[1], b[1]))
    return tuple(ShapePoint(x=x, y=y) for x, y in ((l, t), (r, t), (r, d), (l, d)))


def ellipse(a: Point, b: Point) -> tuple[ShapePoint, ...]:
    """The ellipse that fills the rectangle between two points: four smooth points."""
    (l, r), (t, d) = sorted((a[0], b[0])), sorted((a[1], b[1]))
    cx, cy, rx, ry = (l + r) / 2, (t + d) / 2, (r - l) / 2, (d - t) / 2
    hx, hy = rx * ROUND, ry * ROUND
    return (
        ShapePoint(x=cx, y=t, smooth=True, into=(-hx, 0), out=(hx, 0)),
        ShapePoint(x=r, y=cy, smooth=True, into=(0, -hy), out=(0, hy)),
        ShapePoint(x=cx, y=d, smooth=True, into=(hx, 0), out=(-hx, 0)),
        ShapePoint(x=l, y=cy, smooth=True, into=(0, hy), out=(0, -hy)),
    )


def smoothed(stroke: Sequence[Point], within: float, closed: bool = False) -> tuple[ShapePoint, ...]:
    """A hand's line as few points, none of the line further than `within` units from its chords.

    Source: Ramer 1972, Douglas and Peucker 1973. A kept point where the line turns by more than
    60° stays a corner; all others are smooth.
    """
    kept = simplified(list(stroke), within)
    points: list[ShapePoint] = []
    for i, (x, y) in enumerate(kept):
        inside = 0 < i < len(kept) - 1 or (closed and len(kept) > 2)
        smooth = inside and _turn(kept[i - 1], kept[i], kept[(i + 1) % len(kept)]) < math.radians(60)
        points.append(ShapePoint(x=round(x, 3), y=round(y, 3), smooth=smooth))
    return tuple(points)


def simplified(line: list[Point], within: float) -> list[Point]:
    """The fewest of the points of a line so that none of it is further than `within` units from their chords."""
    keep = {0, len(line) - 1}
    waiting = [(0, len(line) - 1)]
    while waiting:
        first, last = waiting.pop()
        (ax, ay), (bx, by) = line[first], line[last]
        dx, dy = bx - ax, by - ay
        square = dx * dx + dy * dy
        worst, where = within, -1
        for i in range(first + 1, last):
            x, y = line[i]
            # To the chord itself, not to the line it lies on: a hand may go back on its way.
            t = min(1.0, max(0.0, ((x - ax) * dx + (y - ay) * dy) / square)) if square else 0.0
            off = math.hypot(x - ax - t * dx, y - ay - t * dy)
            if off > worst:
                worst, where = off, i
        if where > 0:
            keep.add(where)
            waiting += [(first, where), (where, last)]
    return [line[i] for i in sorted(keep)]


def _turn(a: Point, b: Point, c: Point) -> float:
    before, after = math.atan2(b[1] - a[1], b[0] - a[0]), math.atan2(c[1] - b[1], c[0] - b[0])
    return abs(math.remainder(after - before, math.tau))


def with_point(shape: EditableShape, near: Point) -> EditableShape:
    """The shape with a point added where its outline is nearest to a place; it looks as before."""
    best, where, t = math.inf, 0, 0.5
    pieces = segments(shape)
    for i, c in enumerate(pieces):
        for k in range(1, 64):
            off = math.hypot(at(c, 0, k / 64) - near[0], at(c, 1, k / 64) - near[1])
            if off < best:
                best, where, t = off, i, k / 64
    start, one, two, end = pieces[where]
    points, count = list(shape.points), len(shape.points)
    if one == start and two == end:
        points.insert(where + 1, ShapePoint(x=_mix(start, end, t)[0], y=_mix(start, end, t)[1]))
        return shape.changed(points=tuple(points))
    # De Casteljau's halves draw the same curve.
    a, m, b = _mix(start, one, t), _mix(one, two, t), _mix(two, end, t)
    left, right = _mix(a, m, t), _mix(m, b, t)
    x, y = _mix(left, right, t)
    after = (where + 1) % count
    points[where] = _handled(shape, where, out=(a[0] - start[0], a[1] - start[1]))
    points[after] = _handled(shape, after, into=(b[0] - end[0], b[1] - end[1]))
    added = ShapePoint(x=x, y=y, smooth=True, into=(left[0] - x, left[1] - y), out=(right[0] - x, right[1] - y))
    points.insert(where + 1, added)
    return shape.changed(points=tuple(points))


def _handled(shape: EditableShape, i: int, into: Point | None = None, out: Point | None = None) -> ShapePoint:
    own_into, own_out = handles(shape, i)
    return shape.points[i].changed(into=into or own_into, out=out or own_out)


def _mix(a: Point, b: Point, t: float) -> Point:
    return (a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t)


def without_point(shape: EditableShape, i: int) -> EditableShape:
    """The shape without one of its points. Raises `Refusal` if too few would be left."""
    if len(shape.points) <= (3 if shape.closed else 2):
        raise Refusal("A shape can't have fewer points than that.", remedy="Remove the piece instead.")
    return shape.changed(points=shape.points[:i] + shape.points[i + 1 :])


def with_moved(shape: EditableShape, i: int, to: Point) -> EditableShape:
    """The shape with a point put elsewhere; its handles go with it."""
    moved = shape.points[i].changed(x=to[0], y=to[1])
    return shape.changed(points=(*shape.points[:i], moved, *shape.points[i + 1 :]))


def with_corner(shape: EditableShape, i: int, smooth: bool) -> EditableShape:
    """The shape with a point made a corner, or smooth with the direction its neighbours give."""
    made = ShapePoint(x=shape.points[i].x, y=shape.points[i].y, smooth=smooth)
    return shape.changed(points=(*shape.points[:i], made, *shape.points[i + 1 :]))
