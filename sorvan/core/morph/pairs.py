"""Which shape of one drawing becomes which of the other."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from sorvan.core.art.colours import rgba
from sorvan.core.geometry import IDENTITY, Affine, Floats
from sorvan.core.kept import kept
from sorvan.core.late import late
from sorvan.core.model.art import Art, Flat, Layer, Node, Paint, Shape
from sorvan.core.morph.colours import oklab
from sorvan.core.morph.contour import Contour, contours_of

optimize = late("scipy.optimize")

ALONE = 1.6
"""What it costs a pair of shapes to stay alone instead: more unlike than that they do not become one another."""


@dataclass(frozen=True, eq=False)
class Leaf:
    """A shape of a drawing: its number from the back, how it is drawn, its contours, what takes it to the drawing (its
    outline's units and its gradients'), and where it lies among its drawing's layers."""

    number: int
    shape: Shape
    contours: tuple[Contour, ...]
    matrix: Affine
    layer: int

    @cached_property
    def line(self) -> Floats:
        """All of its outline as points `(n, 2)`."""
        return np.concatenate([c.line for c in self.contours])

    @cached_property
    def look(self) -> tuple[Floats, float, Floats]:
        """Its middle, its size (the root of the area of the box around it), and its colour in OKLab."""
        line = self.line
        low, high = line.min(axis=0), line.max(axis=0)
        w, h = np.maximum(high - low, 0.02 * max(float((high - low).max()), 1e-6))
        paint = self.shape.fill or (self.shape.stroke.paint if self.shape.stroke else None)
        return (low + high) / 2, float(np.sqrt(w * h)), oklab(_mean(paint))


def _mean(paint: Paint | None) -> Floats:
    if paint is None:
        return np.zeros(3)
    colours = [paint.colour] if isinstance(paint, Flat) else [s.colour for s in paint.stops]
    found: Floats = np.array([rgba(c)[:3] for c in colours]).mean(axis=0) / 255
    return found


@kept(4)
def leaves(art: Art, pivot: tuple[float, float]) -> list[Leaf]:
    """The shapes of a drawing from the back, in units in which its pivot lies at nought. Those in layers that clip or
    fade belong to these."""
    found: list[Leaf] = []
    layers = 0

    def look(nodes: Sequence[Node], m: Affine, layer: int) -> None:
        nonlocal layers
        for node in nodes:
            if isinstance(node, Shape):
                contours = tuple(contours_of(node.outline, m))
                if contours:
                    found.append(Leaf(len(found), node, contours, m, layer))
            elif isinstance(node, Layer):
                own = layer
                if node.counts:
                    layers += 1
                    own = layers
                look(node.nodes, m @ node.matrix, own)

    look(art.nodes, Affine.shift(-pivot[0], -pivot[1]) if pivot != (0.0, 0.0) else IDENTITY, 0)
    return found


def paired(
    first: Sequence[Leaf], second: Sequence[Leaf], given: Sequence[tuple[int | None, int | None]] = ()
) -> list[tuple[int | None, int | None]]:
    """Which of the first becomes which of the second, by their places in these lists, every one once: as given, or
    those that are most alike in name, place, size and colour (the Hungarian method, Kuhn 1955). Those that are too
    unlike stay alone."""
    found = [
        (a, b)
        for a, b in given
        if (a is None or a < len(first)) and (b is None or b < len(second)) and not (a is None and b is None)
    ]
    free_a = [i for i in range(len(first)) if all(a != i for a, _ in found)]
    free_b = [j for j in range(len(second)) if all(b != j for _, b in found)]
    if free_a and free_b:
        unlike = _unlike([first[i] for i in free_a], [second[j] for j in free_b])
        rows, columns = optimize.linear_sum_assignment(np.minimum(unlike, 2 * ALONE))
        for i, j in zip(rows.tolist(), columns.tolist(), strict=True):
            if unlike[i, j] < 2 * ALONE:
                found.append((free_a[i], free_b[j]))
    taken_a, taken_b = {a for a, _ in found}, {b for _, b in found}
    found += [(i, None) for i in free_a if i not in taken_a]
    found += [(None, j) for j in free_b if j not in taken_b]
    return found


def _unlike(first: Sequence[Leaf], second: Sequence[Leaf]) -> Floats:
    looks_a, looks_b = [leaf.look for leaf in first], [leaf.look for leaf in second]
    places_a, places_b = (np.array([m for m, _, _ in looks]) for looks in (looks_a, looks_b))
    # Places count by where they lie in the whole of their drawing.
    spread = max(float(np.ptp(np.concatenate([places_a, places_b]), axis=0).max()), 1e-6)
    sizes_a, sizes_b = (np.log(np.maximum([s for _, s, _ in looks], 1e-6)) for looks in (looks_a, looks_b))
    spread = max(spread, float(np.exp(max(sizes_a.max(), sizes_b.max()))))
    off = np.hypot(*np.moveaxis(places_a[:, None] - places_b[None], 2, 0)) / spread
    size = np.abs(sizes_a[:, None] - sizes_b[None])
    hue_a, hue_b = (np.array([h for _, _, h in looks]) for looks in (looks_a, looks_b))
    colour = np.sqrt(((hue_a[:, None] - hue_b[None]) ** 2).sum(axis=2))
    unlike: Floats = 1.5 * off + 0.5 * size + 3.0 * colour
    for i, one in enumerate(first):
        for j, two in enumerate(second):
            if one.shape.name or two.shape.name:
                unlike[i, j] += -4.0 if one.shape.name == two.shape.name else 0.5
            unlike[i, j] += 0.8 * ((one.shape.fill is None) != (two.shape.fill is None))
            unlike[i, j] += 1.0 * (one.contours[0].closed != two.contours[0].closed)
            unlike[i, j] += 4.0 * (bool(one.layer) != bool(two.layer))
    return np.maximum(unlike, 0.0)


def contours_paired(
    first: Sequence[Contour], second: Sequence[Contour], held: Sequence[tuple[int, int]] = ()
) -> list[tuple[int | None, int | None]]:
    """Which contour of one shape becomes which of another's: as held, then those that are most alike in place, size
    and the way they go round, outer ones with outer ones and holes with holes."""
    if len(first) == len(second) == 1:
        return [(0, 0)]
    found: list[tuple[int | None, int | None]] = list(held)
    free_a = [i for i in range(len(first)) if all(a != i for a, _ in held)]
    free_b = [j for j in range(len(second)) if all(b != j for _, b in held)]
    if free_a and free_b:
        one, two = [first[i] for i in free_a], [second[j] for j in free_b]
        middles = [np.array([(c.line.min(axis=0) + c.line.max(axis=0)) / 2 for c in cs]) for cs in (one, two)]
        spread = max(float(np.ptp(np.concatenate([c.line for c in (*first, *second)]), axis=0).max()), 1e-6)
        cost = np.hypot(*np.moveaxis(middles[0][:, None] - middles[1][None], 2, 0)) / spread
        sizes = [np.log([max(abs(c.area), 1e-6) for c in cs]) for cs in (one, two)]
        cost = cost + 0.25 * np.abs(sizes[0][:, None] - sizes[1][None])
        holes = [np.array([_is_hole(c, all_) for c in cs]) for cs, all_ in ((one, first), (two, second))]
        cost = cost + 10.0 * (holes[0][:, None] != holes[1][None])
        rows, columns = optimize.linear_sum_assignment(cost)
        for i, j in zip(rows.tolist(), columns.tolist(), strict=True):
            if cost[i, j] < 10:
                found.append((free_a[i], free_b[j]))
    taken_a, taken_b = {a for a, _ in found}, {b for _, b in found}
    found += [(i, None) for i in free_a if i not in taken_a]
    found += [(None, j) for j in free_b if j not in taken_b]
    return found


def _is_hole(contour: Contour, among: Sequence[Contour]) -> bool:
    """Whether a contour goes round the other way than the largest does."""
    largest = max(among, key=lambda c: abs(c.area))
    return contour.area * largest.area < 0 and contour is not largest
