"""Where in-betweens go wrong, how badly, and which marks would mend it.

For every shape on its way: an outline that crosses itself, one that is turned over, one that loses area, and parts that
travel against the main movement. Each is told as an amount between 0 and 1 at every part of the way that is looked at.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
import shapely

from sorvan.core.geometry import Floats, Point
from sorvan.core.kept import kept
from sorvan.core.model.art import Art, Layer
from sorvan.core.model.puppet import Mark, Morph
from sorvan.core.morph.contour import Contour, place
from sorvan.core.morph.making import ready
from sorvan.core.morph.match import ContourSeen
from sorvan.core.morph.pairs import Leaf, leaves
from sorvan.core.morph.ready import Going, Ready
from sorvan.core.morph.way import meeting

TroubleKind = Literal["crosses", "turned-over", "shrinks", "against"]
SLIGHT = 0.004
"""The amounts up to which a step has none of a trouble that others have."""
LEAST: dict[TroubleKind, float] = {"crosses": SLIGHT, "turned-over": 0.5, "shrinks": 0.12, "against": 0.12}
"""The amounts up to which it is no trouble: parts of the area that lie in loops; turned over or not; of the area lost;
parts of the outline that go the wrong way."""
STILL = 0.04
"""The part of a drawing's size by which all of it must move at least for there to be a main movement."""
BACK = 0.2
"""How fast, beside the main movement, a part goes against it before it counts."""
_T = np.linspace(0, 1, 5)[:-1]


@dataclass(frozen=True, eq=False)
class Trouble:
    """One thing that goes wrong with a shape (its place among those that go): by how much at each part of the way, and
    where it is seen at the worst of them (units in which the pivots lie at nought)."""

    kind: TroubleKind
    going: int
    amounts: Floats
    at: Point

    @property
    def worst(self) -> int:
        """The step at which it is worst."""
        return int(self.amounts.argmax())


@dataclass(frozen=True, eq=False)
class Advice:
    """A mark that would mend something: the trouble there is without it and with it (0: none)."""

    mark: Mark
    before: float
    after: float


def troubles(of: Ready, parts: Floats) -> list[Trouble]:
    """What goes wrong at these parts of the way, 0 first and 1 last."""
    return _troubles(of, parts, main_movement(of))


STEPS = np.linspace(0, 1, 17)
"""The parts of the way that are looked at where nobody says at which."""


@kept()
def usual(of: Ready) -> list[Trouble]:
    """What goes wrong at these parts of the way."""
    return troubles(of, STEPS)


def main_movement(of: Ready) -> Floats:
    """How all of it moves from the first drawing to the second, `(2,)` units: every part of the outlines as much as it
    is long; nothing, if that is little beside the whole."""
    total, weight = np.zeros(2), 0.0
    for one in of.going:
        if one.first is None or one.second is None:
            continue
        a, b = of.points[0, one.own], of.points[1, one.own]
        long = meeting(a) + meeting(b)
        total += long @ (b - a)
        weight += float(long.sum())
    found = total / weight if weight else total
    size = max(of.box[2] - of.box[0], of.box[3] - of.box[1], 1e-9)
    return found if float(np.hypot(*found)) > STILL * size else np.zeros(2)


def _troubles(of: Ready, parts: Floats, main: Floats) -> list[Trouble]:
    points = of.points_at(parts)
    found: list[Trouble] = []
    for n, one in enumerate(of.going):
        # Where one fill fades into another the same outline comes twice.
        if n and of.going[n - 1].first == one.first and of.going[n - 1].second == one.second and one.first is not None:
            continue
        for own, closed in zip(one.contours, one.closed, strict=True):
            if closed and one.filled:
                found += _of_area(n, points[own], parts, one)
        found += _against(n, points[one.own], parts, main, one)
    return found


def _lines(points: Floats) -> Floats:
    """Contours `(3 · curves + 1, 2, k)` as lines of points, `(k, m, 2)`."""
    k = points.shape[2]
    curves = np.stack([points[0:-1:3], points[1::3], points[2::3], points[3::3]], axis=1).transpose(3, 0, 1, 2)
    return place(curves[:, :, None], _T).reshape(k, -1, 2)


def _areas(lines: Floats) -> Floats:
    x, y = lines[..., 0] - lines[:, :1, 0], lines[..., 1] - lines[:, :1, 1]
    found: Floats = (x * np.roll(y, -1, axis=1) - np.roll(x, -1, axis=1) * y).sum(axis=1) / 2
    return found


def _of_area(n: int, points: Floats, parts: Floats, one: Going) -> list[Trouble]:
    lines = _lines(points)
    areas = _areas(lines)
    found: list[Trouble] = []
    rings = shapely.linearrings(np.concatenate([lines, lines[:, :1]], axis=1))
    crossing = ~shapely.is_simple(rings)
    if not (crossing[0] or crossing[-1]):
        loops = np.zeros(len(parts))
        where: list[Point] = [(0.0, 0.0)] * len(parts)
        for k in np.flatnonzero(crossing):
            polygon = shapely.polygons(rings[k])
            covered = float(shapely.area(shapely.make_valid(polygon)))
            largest = max(covered, abs(float(areas[k])), 1e-12)
            loops[k] = min(abs(covered - abs(float(areas[k]))) / largest, 1.0)
            where[k] = _crossing(polygon, lines[k])
        if loops.max() > LEAST["crosses"]:
            found.append(Trouble("crosses", n, clear(loops), where[int(loops.argmax())]))
    middles = lines.mean(axis=1)
    if areas[0] * areas[-1] > 0:
        over = (areas * areas[0] < 0).astype(np.float64)
        if over.any():
            found.append(Trouble("turned-over", n, over, _pair(middles[int(over.argmax())])))
    if one.first is not None and one.second is not None and not found:
        # A shape that only grows has the mix of the roots of its areas throughout.
        root = np.sqrt(np.abs(areas[0])) * (1 - parts) + np.sqrt(np.abs(areas[-1])) * parts
        lost = np.clip(1 - np.abs(areas) / np.maximum(root**2, 1e-12), 0, 1)
        if lost.max() > LEAST["shrinks"]:
            found.append(Trouble("shrinks", n, clear(lost), _pair(middles[int(lost.argmax())])))
    return found


def clear(amounts: Floats) -> Floats:
    """Amounts without those that are slight."""
    found: Floats = np.where(amounts > SLIGHT, amounts, 0.0)
    return found


def _crossing(polygon: shapely.Polygon, line: Floats) -> Point:
    """Where an outline crosses itself."""
    reason = str(shapely.is_valid_reason(polygon))
    if "[" in reason:
        x, y = reason.split("[")[1].rstrip("]").split(" ")[:2]
        return (float(x), float(y))
    return _pair(line.mean(axis=0))


def _pair(p: Floats) -> Point:
    return (float(p[0]), float(p[1]))


def _against(n: int, points: Floats, parts: Floats, main: Floats, one: Going) -> list[Trouble]:
    speed = float(np.hypot(*main))
    if one.first is None or one.second is None or len(parts) < 2:
        return []
    if speed <= 0:
        return []
    steps = np.diff(points, axis=2) / np.maximum(np.diff(parts), 1e-9)
    along = (steps * (main / speed)[None, :, None]).sum(axis=1)
    back = along < -BACK * speed
    weight = meeting(points[:, :, 0]) + meeting(points[:, :, -1])
    share = (back * weight[:, None]).sum(axis=0) / max(float(weight.sum()), 1e-12)
    amounts = np.concatenate([share, share[-1:]])
    if amounts.max() <= LEAST["against"]:
        return []
    step = int(share.argmax())
    worst = int(np.where(back[:, step], along[:, step], np.inf).argmin())
    return [Trouble("against", n, clear(amounts), _pair(points[worst, :, step]))]


def weight_of(found: Sequence[Trouble]) -> float:
    """How bad troubles are together: what each is at its worst and on the whole."""
    return float(sum(t.amounts.max() + t.amounts.mean() for t in found))


# Marks that would mend it


def advice(
    first: Art, second: Art, pivots: tuple[Point, Point], morph: Morph, parts: Floats, most: int = 3
) -> list[Advice]:
    """Marks that would mend what goes wrong, the best first: between corners, or between the ends of shapes, that do
    not become one another as it is."""
    whole = ready(first, second, pivots, morph)
    main = main_movement(whole)
    bad = _troubles(whole, parts, main)
    one, two = leaves(first, pivots[0]), leaves(second, pivots[1])
    found: list[Advice] = []
    for n in sorted({t.going for t in bad}):
        going = whole.going[n]
        if going.first is None or going.second is None:
            continue
        before = weight_of([t for t in bad if t.going == n])
        a, b = one[going.first], two[going.second]
        alone = _alone(a, b, pivots, whole, going, morph)
        for k, (p, q) in enumerate(_candidates(a, b, whole, going)):
            mark = Mark(
                id=f"advised-{n}-{k}",
                first=(round(p[0] + pivots[0][0], 3), round(p[1] + pivots[0][1], 3)),
                second=(round(q[0] + pivots[1][0], 3), round(q[1] + pivots[1][1], 3)),
            )
            tried = alone(mark)
            if mark.id in tried.crossed:
                continue
            after = weight_of(_troubles(tried, parts, main))
            if after < 0.8 * before:
                found.append(Advice(mark, before, after))
    return sorted(found, key=lambda x: x.after - x.before)[:most]


def _alone(
    a: Leaf, b: Leaf, pivots: tuple[Point, Point], whole: Ready, going: Going, morph: Morph
) -> Callable[[Mark], Ready]:
    """These two shapes made ready by themselves, with the marks that are on them and one more."""
    on = {m.id for m in whole.met if going.own.start <= m.point < going.own.stop}
    bounds = (0.0, 0.0, 1.0, 1.0)
    arts = [Art(bounds=bounds, nodes=(Layer(matrix=leaf.matrix, nodes=(leaf.shape,)),)) for leaf in (a, b)]

    def moved(mark: Mark) -> Mark:
        return mark.changed(
            first=(mark.first[0] - pivots[0][0], mark.first[1] - pivots[0][1]),
            second=(mark.second[0] - pivots[1][0], mark.second[1] - pivots[1][1]),
        )

    def tried(more: Mark) -> Ready:
        marks = {m.id: moved(m) for m in (*(m for m in morph.marks.values() if m.id in on), more)}
        return ready(arts[0], arts[1], ((0.0, 0.0), (0.0, 0.0)), morph.changed(marks=marks, pairs=()))

    return tried


def _candidates(a: Leaf, b: Leaf, whole: Ready, going: Going) -> list[tuple[Floats, Floats]]:
    """Places of two shapes that could be marked, which do not become one another already."""
    largest = [max(leaf.contours, key=lambda c: abs(c.area)) for leaf in (a, b)]
    size = max(float(np.ptp(c.line, axis=0).max()) for c in largest)
    pairs: list[tuple[Floats, Floats]] = []
    # Where each reaches farthest up, down, left, right and between.
    for k in range(8):
        way = np.array([np.cos(k * np.pi / 4), np.sin(k * np.pi / 4)])
        pairs.append((_farthest(largest[0], way), _farthest(largest[1], way)))
    corners = [_corners(c) for c in largest]
    for p, turn in corners[0][:8]:
        there = _relative(p, largest[0])
        best = min(
            corners[1],
            key=lambda c: float(np.hypot(*(_relative(c[0], largest[1]) - there))) + abs(c[1] - turn),
            default=None,
        )
        if best is not None and best[1] * turn > 0:
            pairs.append((p, best[0]))
    kept: list[tuple[Floats, Floats]] = []
    for p, q in pairs:
        marked = any(np.hypot(*(np.array(m.first) - p)) < 0.04 * size for m in whole.met)
        if marked or _becomes(whole, going, p, q) < 0.03 * size:
            continue
        if all(np.hypot(*(p - x)) + np.hypot(*(q - y)) > 0.04 * size for x, y in kept):
            kept.append((p, q))
    return kept


def _farthest(contour: Contour, way: Floats) -> Floats:
    line = contour.line
    found: Floats = line[int((line @ way).argmax())]
    return found


def _corners(contour: Contour) -> list[tuple[Floats, float]]:
    """The sharpest corners, and how much the contour turns there (half turns)."""
    where = np.arange(len(contour.curves), dtype=np.float64)
    seen = ContourSeen.of(contour, where)
    rows = [i for i in np.argsort(-np.abs(seen.turns)).tolist() if abs(seen.turns[i]) > 0.12]
    return [(contour.at(float(i)), float(seen.turns[i])) for i in rows]


def _relative(p: Floats, contour: Contour) -> Floats:
    low, high = contour.line.min(axis=0), contour.line.max(axis=0)
    found: Floats = (p - low) / np.maximum(high - low, 1e-9)
    return found


def _becomes(whole: Ready, going: Going, p: Floats, q: Floats) -> float:
    """How far what is at `p` in the first drawing arrives from `q` in the second."""
    a, b = whole.points[0, going.own], whole.points[1, going.own]
    at = int(np.hypot(*(a - p).T).argmin())
    return float(np.hypot(*(b[at] - q)))
