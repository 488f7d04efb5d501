"""A drawing made ready to become another: outlines cut alike, paints with as many numbers, one order for both."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from functools import partial

import numpy as np

from sorvan.core.geometry import Affine, Floats, Point
from sorvan.core.model.art import Art, Blend, Box, Clip, Layer, Node, Outline, Paint, Picture, Rule, Shape
from sorvan.core.model.puppet import Mark, Morph
from sorvan.core.morph.contour import Contour, contours_of, straight
from sorvan.core.morph.correspond import Alike, alike
from sorvan.core.morph.looks import colours_of, of_paint
from sorvan.core.morph.paints import alike_paints, alike_strokes, rule_of, under
from sorvan.core.morph.pairs import Leaf, contours_paired, leaves, paired
from sorvan.core.morph.ready import Going, Met, Ready
from sorvan.core.morph.recall import Recall, afresh

RowPair = tuple[int | None, int | None]
"""A shape of the first drawing and what it becomes in the second, by their numbers from the back."""
CutContour = tuple[Floats, Floats, bool]
"""The points of a contour at both ends, and whether it is closed."""
Marks = dict[RowPair, list[tuple[Mark, int, int, float, float]]]
"""By pair of shapes: marks with the contour and the place on it, in the first drawing and in the second."""


@dataclass
class _Making:
    """The shapes of both drawings, and points and numbers as they come up."""

    one: Sequence[Leaf]
    two: Sequence[Leaf]
    pairs: Sequence[RowPair]
    marks: Marks
    morph: Morph
    first: list[Floats] = field(default_factory=list)
    second: list[Floats] = field(default_factory=list)
    count: int = 0
    looks_first: list[float] = field(default_factory=list)
    looks_second: list[float] = field(default_factory=list)
    colours: list[int] = field(default_factory=list)
    going: list[Going] = field(default_factory=list)
    met: list[Met] = field(default_factory=list)
    crossed: list[str] = field(default_factory=list)
    kept: Recall = afresh
    fine: bool = False

    def alike(self, one: Contour, two: Contour, marks: Sequence[tuple[float, float]] = ()) -> Alike:
        """Two contours cut alike."""
        key = ("alike", one.key, two.key, tuple(marks), self.fine)
        found: Alike = self.kept(key, lambda: alike(one, two, marks, self.fine, self.kept))
        return found

    def points(self, a: Floats, b: Floats) -> slice:
        """Take these points up; tells which they are."""
        self.first.append(a)
        self.second.append(b)
        self.count += len(a)
        return slice(self.count - len(a), self.count)

    def paints(self, a: Paint, b: Paint) -> None:
        """Take up the numbers of two paints of the same kind."""
        self.colours += [len(self.looks_first) + c for c in colours_of(a)]
        self.looks_first += of_paint(a)
        self.looks_second += of_paint(b)

    def number(self, a: float, b: float) -> None:
        """Take up one number."""
        self.looks_first.append(a)
        self.looks_second.append(b)


def ready(
    first: Art, second: Art, pivots: tuple[Point, Point], morph: Morph, kept: Recall = afresh, fine: bool = False
) -> Ready:
    """Make a drawing ready to become another, each with its pivot (drawing units). Where contours were cut alike before
    is had from `kept`, so that a mark that is moved costs what its own shape does. `fine`: with points close together
    throughout, as what bends needs them."""
    one, two = leaves(first, pivots[0]), leaves(second, pivots[1])
    marks, lost = _marks_on(one, two, pivots, morph, kept)
    given = [(p.first, p.second) for p in morph.pairs]
    named = {a for a, _ in given}, {b for _, b in given}
    given += [p for p in dict.fromkeys(marks) if p[0] not in named[0] and p[1] not in named[1]]
    pairs = paired(one, two, _once(given))
    making = _Making(one, two, pairs, marks, morph, crossed=lost, kept=kept, fine=fine)
    nodes: list[Node] = []
    rows = _in_one_order(pairs, len(two))
    fades = _around(first, pivots[0]), _around(second, pivots[1])
    nodes += _pictures(first, pivots[0], making, (1.0, 0.0)) + _pictures(second, pivots[1], making, (0.0, 1.0))
    at = 0
    while at < len(rows):
        layers = _layers_of(rows[at], one, two)
        stop = at
        while stop < len(rows) and _layers_of(rows[stop], one, two) == layers:
            stop += 1
        if layers == (0, 0):
            for row in rows[at:stop]:
                nodes += _shape(row, making)
        else:
            nodes.append(_layer(rows[at:stop], layers, fades, making))
        at = stop
    box = _box(first, second, pivots)
    points = (
        np.stack([np.concatenate(making.first), np.concatenate(making.second)]) if making.first else np.zeros((2, 0, 2))
    )
    return Ready(
        art=Art(bounds=box, nodes=tuple(nodes)),
        box=box,
        morph=morph,
        points=points,
        looks=np.array([making.looks_first, making.looks_second]).reshape(2, -1),
        colours=np.array(making.colours, dtype=np.intp),
        going=tuple(making.going),
        met=tuple(making.met),
        crossed=tuple(making.crossed),
        shapes=(len(one), len(two)),
    )


def _once(pairs: Sequence[RowPair]) -> list[RowPair]:
    """The pairs without those of which a shape has a partner already."""
    found: list[RowPair] = []
    for a, b in pairs:
        if all((a is None or a != x) and (b is None or b != y) for x, y in found):
            found.append((a, b))
    return found


def _in_one_order(pairs: Sequence[RowPair], count: int) -> list[RowPair]:
    """The pairs from the back as the first drawing has them; what is only in the second comes after what it lies over
    there."""
    rows = sorted((p for p in pairs if p[0] is not None), key=lambda p: p[0] if p[0] is not None else -1)
    place = {b: (None, b) for a, b in pairs if a is None}
    for b in range(count):
        if b in place:
            below = next((n for n, r in enumerate(rows) if r[1] == b - 1), -1) if b else -1
            rows.insert(below + 1, place[b])
    return rows


def _box(first: Art, second: Art, pivots: tuple[Point, Point]) -> Box:
    boxes = [
        (a.bounds[0] - p[0], a.bounds[1] - p[1], a.bounds[2] - p[0], a.bounds[3] - p[1])
        for a, p in zip((first, second), pivots, strict=True)
    ]
    l, t, r, b = zip(*boxes, strict=True)
    return (min(l), min(t), max(r), max(b))


# Marks


def _marks_on(
    one: Sequence[Leaf], two: Sequence[Leaf], pivots: tuple[Point, Point], morph: Morph, kept: Recall
) -> tuple[Marks, list[str]]:
    """On which shapes the marks lie, and those that lie on nothing. What was marked before has a say in which shapes
    are partners."""
    found: Marks = {}
    lost: list[str] = []
    partner: dict[int, int] = {p.first: p.second for p in morph.pairs if p.first is not None and p.second is not None}
    for mark in morph.marks.values():
        a = np.array(mark.first) - pivots[0]
        b = np.array(mark.second) - pivots[1]
        here = _nearest(one, a, kept)
        there = None
        if here is not None:
            wanted = partner.get(here[0])
            there = _nearest([leaf for leaf in two if wanted is None or leaf.number == wanted], b, kept)
        if here is None or there is None or any(k != here[0] and v == there[0] for k, v in partner.items()):
            lost.append(mark.id)
            continue
        partner.setdefault(here[0], there[0])
        found.setdefault((here[0], there[0]), []).append((mark, here[1], there[1], here[2], there[2]))
    return found, lost


def _nearest(leaves: Sequence[Leaf], at: Floats, kept: Recall) -> tuple[int, int, float] | None:
    """The shape, the contour and the place on it that is nearest."""
    best: tuple[float, tuple[int, int, float]] | None = None
    about = [(leaf, n, *contour.about(at)) for leaf in leaves for n, contour in enumerate(leaf.contours)]
    closest = min((farthest for *_, farthest in about), default=0.0)
    for leaf, n, nearest, _ in about:
        if nearest <= closest:
            contour = leaf.contours[n]
            where, off = kept(("nearest", contour.key, tuple(at.tolist())), partial(contour.nearest, at))
            # Of outlines that lie on one another, the frontmost.
            if best is None or off <= best[0] + 1e-6:
                best = (off, (leaf.number, n, where))
    return None if best is None else best[1]


# Shapes


def _shape(row: RowPair, making: _Making) -> list[Node]:
    a = making.one[row[0]] if row[0] is not None else None
    b = making.two[row[1]] if row[1] is not None else None
    looks: tuple[Leaf, Leaf]
    if a is not None and b is not None:
        cuts, met = _cut(a, b, making.marks.get(row, []), making)
        looks = (a, b)
    else:
        lone = a or b
        assert lone is not None
        cuts, other = _alone(lone, a is not None, making)
        met, looks = [], (lone, other) if a is not None else (other, lone)
    return _drawn(row, cuts, met, looks, making)


def _cut(
    a: Leaf, b: Leaf, marks: Sequence[tuple[Mark, int, int, float, float]], making: _Making
) -> tuple[list[CutContour], list[tuple[int, Mark, Floats, Floats]]]:
    """The contours of two shapes cut alike, and the marks on them: on which contour, where in both."""
    held: list[tuple[int, int]] = []
    for _, m, n, _, _ in marks:
        if all(m != x and n != y for x, y in held):
            held.append((m, n))
    cuts: list[CutContour] = []
    met: list[tuple[int, Mark, Floats, Floats]] = []
    for i, j in contours_paired(a.contours, b.contours, held):
        if i is not None and j is not None:
            own = [x for x in marks if (x[1], x[2]) == (i, j)]
            found = making.alike(a.contours[i], b.contours[j], [(p, q) for *_, p, q in own])
            making.crossed += [own[k][0].id for k in found.crossed]
            met += [
                (len(cuts), x[0], a.contours[i].at(x[3]), b.contours[j].at(x[4]))
                for k, x in enumerate(own)
                if k not in found.crossed
            ]
            cuts.append((found.first, found.second, found.closed))
        elif i is not None:
            p = _whole(a.contours[i])
            cuts.append((p, _collapsed(p, "point"), a.contours[i].closed))
        elif j is not None:
            p = _whole(b.contours[j])
            cuts.append((_collapsed(p, "point"), p, b.contours[j].closed))
    making.crossed += [x[0].id for x in marks if (x[1], x[2]) not in held]
    return cuts, met


def _whole(contour: Contour) -> Floats:
    return np.concatenate([contour.curves[:1, 0], contour.curves[:, 1:].reshape(-1, 2)])


def _alone(lone: Leaf, in_first: bool, making: _Making) -> tuple[list[CutContour], Leaf]:
    """What a shape without a partner grows from or shrinks to, and what that looks like."""
    to = making.morph.lone
    beside = _neighbour(lone, in_first, making) if to == "neighbour" else None
    cuts: list[CutContour] = []
    for n, contour in enumerate(lone.contours):
        p = _whole(contour)
        if beside is not None and n == 0:
            found = making.alike(contour, beside.contours[0])
            p, q, closed = found.first, found.second, found.closed
        else:
            q, closed = _collapsed(p, to), contour.closed
        cuts.append((p, q, closed) if in_first else (q, p, closed))
    return cuts, lone if beside is None else replace(lone, shape=beside.shape, matrix=beside.matrix)


def _collapsed(points: Floats, to: str) -> Floats:
    middle = (points.min(axis=0) + points.max(axis=0)) / 2
    if to != "line":
        return np.repeat(middle[None], len(points), axis=0)
    off = points - middle
    along = np.linalg.svd(off, full_matrices=False)[2][0]
    found: Floats = middle + (off @ along)[:, None] * along
    return found


def _neighbour(lone: Leaf, in_first: bool, making: _Making) -> Leaf | None:
    """What the nearest shape beside it, one that has a partner, is in the other drawing."""
    found: tuple[float, Leaf] | None = None
    middle = lone.look[0]
    for a, b in making.pairs:
        if a is None or b is None:
            continue
        ends = making.one[a], making.two[b]
        beside, partner = ends if in_first else ends[::-1]
        off = float(np.hypot(*(beside.look[0] - middle)))
        if found is None or off < found[0]:
            found = (off, partner)
    return None if found is None else found[1]


def _drawn(
    row: RowPair,
    cuts: Sequence[CutContour],
    met: Sequence[tuple[int, Mark, Floats, Floats]],
    looks: tuple[Leaf, Leaf],
    making: _Making,
) -> list[Node]:
    """The nodes of a shape on its way: one, or two where its fill turns from one kind of gradient to another."""
    a, b = looks
    name = a.shape.name or b.shape.name
    rule = rule_of(a, b)
    fills = alike_paints(under(a.shape.fill, a.matrix), under(b.shape.fill, b.matrix))
    stroke = alike_strokes(a, b)
    nodes: list[Node] = []
    for n in range(max(len(fills), 1)):
        fill = fills[n] if fills else None
        last = n == max(len(fills), 1) - 1
        slices = [making.points(p, q) for p, q, _ in cuts]
        closed = tuple(c for _, _, c in cuts)
        if fill is not None:
            making.paints(*fill)
        pen = stroke if last else None
        if pen is not None:
            making.paints(pen[0].paint, pen[1].paint)
            making.number(pen[0].width, pen[1].width)
        verbs = "".join("M" + "C" * ((len(p) - 1) // 3) + ("Z" if c else "") for p, _, c in cuts)
        blank = (0.0,) * (2 * sum(len(p) for p, _, _ in cuts))
        nodes.append(
            Shape(
                name=name,
                outline=Outline(verbs=verbs, points=blank),
                rule=rule,
                fill=fill[0] if fill else None,
                stroke=pen[0] if pen else None,
            )
        )
        making.going.append(Going(row[0], row[1], tuple(slices), closed, fill is not None, name))
        for at, mark, p, q in met:
            base = slices[at].start
            point = base + int(np.abs(np.stack([cuts[at][0] - p, cuts[at][1] - q], axis=1)).sum(axis=(1, 2)).argmin())
            making.met.append(
                Met(mark.id, point, (float(p[0]), float(p[1])), (float(q[0]), float(q[1])), mark.stays / 100)
            )
    return nodes


# Layers and pictures


def _layers_of(row: RowPair, one: Sequence[Leaf], two: Sequence[Leaf]) -> tuple[int, int]:
    a = one[row[0]].layer if row[0] is not None else None
    b = two[row[1]].layer if row[1] is not None else None
    return (
        (a if a is not None else b or 0, b if b is not None else a or 0) if a is not None or b is not None else (0, 0)
    )


@dataclass(frozen=True)
class _Around:
    """What lies round the shapes of a layer, with all that is round it: how opaque it is, its clips, and how it blends."""

    opacity: float = 1.0
    clips: tuple[tuple[tuple[Contour, ...], Rule], ...] = ()
    blend: Blend = "normal"
    isolated: bool = False


def _around(art: Art, pivot: Point) -> list[_Around]:
    """By the numbers of layers as `leaves` counts them."""
    found = [_Around()]

    def look(nodes: Sequence[Node], m: Affine, within: _Around) -> None:
        for node in nodes:
            if not isinstance(node, Layer):
                continue
            own, inner = within, m @ node.matrix
            if node.counts:
                clips = tuple((tuple(contours_of(c.outline, inner)), c.rule) for c in node.clips)
                blend = within.blend if node.blend == "normal" else node.blend
                own = _Around(within.opacity * node.opacity, within.clips + clips, blend, node.isolated)
                found.append(own)
            look(node.nodes, inner, own)

    look(art.nodes, Affine.shift(-pivot[0], -pivot[1]), _Around())
    return found


def _layer(
    rows: Sequence[RowPair],
    layers: tuple[int, int],
    fades: tuple[list[_Around], list[_Around]],
    making: _Making,
) -> Layer:
    only_a = all(b is None for _, b in rows)
    only_b = all(a is None for a, _ in rows)
    a = fades[0][layers[0]] if not only_b and layers[0] < len(fades[0]) else fades[1][layers[1]]
    b = fades[1][layers[1]] if not only_a and layers[1] < len(fades[1]) else a
    making.number(a.opacity, b.opacity)
    clips: list[Clip] = []
    for n in range(max(len(a.clips), len(b.clips))):
        first = a.clips[n] if n < len(a.clips) else (_wide(b.clips[n][0]), b.clips[n][1])
        second = b.clips[n] if n < len(b.clips) else (_wide(a.clips[n][0]), a.clips[n][1])
        cuts: list[CutContour] = []
        for i, j in contours_paired(first[0], second[0]):
            if i is not None and j is not None:
                found = making.alike(first[0][i], second[0][j])
                cuts.append((found.first, found.second, True))
            else:
                p = _whole(first[0][i]) if i is not None else _whole(second[0][j])  # type: ignore[index]
                q = _collapsed(p, "point")
                cuts.append((p, q, True) if i is not None else (q, p, True))
        slices = [making.points(p, q) for p, q, _ in cuts]
        if slices:
            making.going.append(Going(None, None, tuple(slices), (True,) * len(cuts), False))
        verbs = "".join("M" + "C" * ((len(p) - 1) // 3) + "Z" for p, _, _ in cuts)
        blank = (0.0,) * (2 * sum(len(p) for p, _, _ in cuts))
        clips.append(Clip(outline=Outline(verbs=verbs, points=blank), rule=first[1]))
    nodes = [n for row in rows for n in _shape(row, making)]
    return Layer(opacity=a.opacity, clips=tuple(clips), blend=a.blend, isolated=a.isolated, nodes=tuple(nodes))


def _wide(contours: Sequence[Contour]) -> tuple[Contour, ...]:
    """A box far around what a clip shows, which clips nothing of it."""
    p = np.concatenate([c.line for c in contours]) if contours else np.zeros((1, 2))
    low, high = p.min(axis=0), p.max(axis=0)
    air = 2 * float((high - low).max()) + 10
    (l, t), (r, b) = low - air, high + air
    corners = [np.array(c, dtype=np.float64) for c in ((l, t), (r, t), (r, b), (l, b))]
    curves = [straight(p, q) for p, q in zip(corners, [*corners[1:], corners[0]], strict=True)]
    return (Contour(np.array(curves), True),)


def _pictures(art: Art, pivot: Point, making: _Making, opacity: tuple[float, float]) -> list[Node]:
    """The pictures of a drawing, faded in or out: pixels can't become others."""
    found: list[Node] = []

    def look(nodes: Sequence[Node], m: Affine, part: float) -> None:
        for node in nodes:
            if isinstance(node, Picture):
                making.number(opacity[0] * part, opacity[1] * part)
                found.append(Layer(matrix=m, opacity=opacity[0] * part, nodes=(node,)))
            elif isinstance(node, Layer):
                look(node.nodes, m @ node.matrix, part * node.opacity)

    look(art.nodes, Affine.shift(-pivot[0], -pivot[1]), 1.0)
    return found
