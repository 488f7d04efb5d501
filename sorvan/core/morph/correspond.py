"""Two contours cut alike: into as many curves each, of which the n-th becomes the n-th."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from sorvan.core.geometry import Floats
from sorvan.core.morph.contour import Contour, counted, straight
from sorvan.core.morph.match import COARSE, MOST_PLACES, ContourSeen, Path, costs, least, matched
from sorvan.core.morph.recall import Recall, afresh

WITHIN = 0.006
"""The part of a contour by which places between two cuts may miss each other."""
FINE = 1 / 30
"""The longest part of a contour between two cuts, where it is to be cut finely."""


@dataclass(frozen=True, eq=False)
class Alike:
    """Two contours cut alike: points `(3 · curves + 1, 2)` of each, the work by which the first becomes the second, and
    which of the marks that were given could not be kept, since they cross others."""

    first: Floats
    second: Floats
    closed: bool
    work: float
    crossed: tuple[int, ...] = ()


def alike(
    one: Contour,
    two: Contour,
    marks: Sequence[tuple[float, float]] = (),
    fine: bool = False,
    kept: Recall = afresh,
) -> Alike:
    """The way of least work from one contour to the other. `marks` are places on the two that become one another,
    as `Contour.nearest` counts; of marks that cross, those that come first are kept. `fine`: cut in small parts
    throughout; what lies between marks may be had from `kept`."""
    if one.closed != two.closed:
        one, two = _closed(one), _closed(two)
    left, crossed = list(range(len(marks))), list[int]()
    while True:
        found = _of_least_work(one, two, [marks[k] for k in left], fine, kept)
        if found is not None:
            return Alike(*found, tuple(sorted(crossed)))
        # The first that crosses those before it goes.
        for n in range(1, len(left) + 1):
            if n == len(left) or not _in_order(one.closed, [marks[k] for k in left[: n + 1]]):
                crossed.append(left.pop(min(n, len(left) - 1)))
                break


def _closed(contour: Contour) -> Contour:
    if contour.closed:
        return contour
    start, end = contour.curves[0, 0], contour.curves[-1, 3]
    if np.abs(start - end).max() < 1e-9:
        return Contour(contour.curves, True)
    return Contour(np.concatenate([contour.curves, straight(end, start)[None]]), True)


def _in_order(closed: bool, marks: Sequence[tuple[float, float]]) -> bool:
    row = sorted(marks)
    places = [b for _, b in row]
    if len({a for a, _ in row}) != len(row) or len(set(places)) != len(places):
        return False
    for way in (places, places[::-1]):
        falls = sum(b < a for a, b in pairwise(way))
        if falls == 0 or (closed and falls == 1 and way[-1] < way[0]):
            return True
    return False


def _of_least_work(
    one: Contour, two: Contour, marks: Sequence[tuple[float, float]], fine: bool, kept: Recall
) -> tuple[Floats, Floats, bool, float] | None:
    """The points of both, whether they are closed, and the work; None if the marks cross."""
    if not _in_order(one.closed, marks):
        return None
    tries: list[tuple[float, Path, Floats, Floats, ContourSeen, ContourSeen, Contour]] = []
    ways: tuple[Contour, ...] = (two, two.turned())
    if not marks and one.closed:
        ways = (min(ways, key=lambda other: _roughly(one, other)[0]),)
    for other in ways:
        turned = other is not two
        found = _matched(one, other, [(a, _turned(b, two) if turned else b) for a, b in marks], kept)
        if found is not None:
            tries.append((*found, other))
    if not tries:
        return None
    work, path, here, there, seen, other_seen, other = min(tries, key=lambda t: t[0])
    pairs = _filled(path, seen, other_seen)
    rows, columns = _with_corners(
        _counting_on(here, pairs[:, 0], one), _counting_on(there, pairs[:, 1], other), one, other
    )
    keep = _knots(rows, columns, one, other, marks, FINE if fine else 1.0)
    return one.cut(rows[keep]), other.cut(columns[keep]), one.closed, work


def _turned(where: float, contour: Contour) -> float:
    n = len(contour.curves)
    found = n - where
    return 0.0 if contour.closed and found >= n else found


def _matched(
    one: Contour, two: Contour, marks: Sequence[tuple[float, float]], kept: Recall
) -> tuple[float, Path, Floats, Floats, ContourSeen, ContourSeen] | None:
    here, there = (
        _some(contour.looked_at(stops), stops)
        for contour, stops in ((one, tuple(a for a, _ in marks)), (two, tuple(b for _, b in marks)))
    )
    a, b = ContourSeen.of(one, here), ContourSeen.of(two, there)
    if marks:
        row = sorted((int(np.flatnonzero(here == p)[0]), int(np.flatnonzero(there == q)[0])) for p, q in marks)
        try:
            work, path = matched(a, b, row, kept)
        except ValueError:
            return None
    elif one.closed and max(len(here), len(there)) > COARSE:
        work, path = least(costs(a, b), len(here), len(there), _begins(one, two, there))
    else:
        work, path = matched(a, b)
    return work, path, here, there, a, b


def _some(where: Floats, stops: tuple[float, ...]) -> Floats:
    """The places, or of very many an even choice with these stops among them: comparing takes the product of both."""
    if len(where) <= MOST_PLACES:
        return where
    few = np.linspace(0, len(where) - 1, MOST_PLACES).astype(int)
    return np.unique(np.concatenate([where[few], stops]))


def _roughly(one: Contour, two: Contour) -> tuple[float, float, int]:
    """The least work between a few places of the two, which place of the second the first's first becomes, and how
    many there are."""
    some, few = (
        w[np.unique(np.linspace(0, len(w), COARSE, endpoint=False).astype(int))] if len(w) > COARSE else w
        for w in (one.looked_at(), two.looked_at())
    )
    work, path = matched(ContourSeen.of(one, some), ContourSeen.of(two, few))
    return work, float(few[path[0, 1] % len(few)]), len(few)


def _begins(one: Contour, two: Contour, there: Floats) -> Path:
    """Places of the second that the first place of the first may become: those about the best of a few."""
    _, begin, few = _roughly(one, two)
    best = int(np.searchsorted(there, begin))
    about = len(there) // few + 1
    return np.unique((best + np.arange(-about, about + 1)) % len(there)).astype(np.intp)


def _filled(path: Path, one: ContourSeen, two: ContourSeen) -> Floats:
    """The pairs of a way with one for every place that a step passes over: rows and columns, of which parts have gone
    by as of the lengths."""
    found: list[tuple[float, float]] = [(float(path[0, 0]), float(path[0, 1]))]
    for (i, j), (k, l) in pairwise(path.tolist()):
        if k - i > 1:
            far = np.cumsum(one.parts[np.arange(i, k) % len(one.parts)])
            found += [(float(i + n + 1), j + (l - j) * float(far[n] / far[-1])) for n in range(k - i - 1)]
        elif l - j > 1:
            far = np.cumsum(two.parts[np.arange(j, l) % len(two.parts)])
            found += [(i + (k - i) * float(far[n] / far[-1]), float(j + n + 1)) for n in range(l - j - 1)]
        found.append((float(k), float(l)))
    return np.array(found)


def _counting_on(where: Floats, rows: Floats, contour: Contour) -> Floats:
    """Places by their rows, whole or in parts, which count on when a closed contour is gone round."""
    n = len(where)
    if contour.closed:
        below = np.floor(rows).astype(int)
        low, high = (where[k % n] + len(contour.curves) * (k // n) for k in (below, below + 1))
        found: Floats = low + (rows - below) * (high - low)
        return found
    return np.interp(rows, np.arange(n), where)


def _with_corners(rows: Floats, columns: Floats, one: Contour, two: Contour) -> tuple[Floats, Floats]:
    """Pairs of places with every corner of both among them: one that was not compared becomes what lies as far between
    those beside it."""
    missed_a, missed_b = (np.setdiff1d(np.arange(np.ceil(w[0]), np.floor(w[-1]) + 1), w) for w in (rows, columns))
    if not (missed_a.size or missed_b.size):
        return rows, columns
    here, there = _beside(missed_b, columns, two, rows, one), _beside(missed_a, rows, one, columns, two)
    pairs = np.unique(
        np.concatenate([np.c_[rows, columns], np.c_[missed_a, there], np.c_[here, missed_b]]),
        axis=0,
    )
    return pairs[:, 0], np.maximum.accumulate(pairs[:, 1])


def _beside(missed: Floats, own: Floats, one: Contour, others: Floats, two: Contour) -> Floats:
    """What places of one contour between its own become on the other: never past those beside it, even by a rounding,
    and a corner itself where they come within one."""
    found = _placed(np.interp(_share(missed, one), _share(own, one), _share(others, two)), two)
    corner = np.round(found)
    found = np.where(np.abs(found - corner) < 1e-9, corner, found)
    after = np.searchsorted(own, missed)
    return np.clip(found, others[after - 1], others[after])


def _placed(share: Floats, contour: Contour) -> Floats:
    """Where on a contour these parts of its length have gone by; closed ones count on."""
    far = np.concatenate([[0.0], np.cumsum(contour.lengths)]) / max(contour.length, 1e-12)
    n, rounds = len(contour.curves), np.floor(share) if contour.closed else np.zeros(len(share))
    found: Floats = np.interp(share - rounds, far, np.arange(n + 1)) + n * rounds
    return found


def _knots(
    rows: Floats, columns: Floats, one: Contour, two: Contour, marks: Sequence[tuple[float, float]], longest: float
) -> Path:
    """Which of the pairs the contours are cut at: their corners and marks, and so many more that nothing between two
    of them misses its partner by much, and no part of a contour is longer than `longest`."""
    a, b = _share(rows, one), _share(columns, two)
    corner_a, corner_b = counted(rows), counted(columns)
    # Where one waits for the other, its corner counts where that begins and where it ends.
    starts_a, starts_b = np.diff(rows, prepend=np.nan) != 0, np.diff(columns, prepend=np.nan) != 0
    ends_a, ends_b = np.diff(rows, append=np.nan) != 0, np.diff(columns, append=np.nan) != 0
    keep = (corner_a & (starts_a | ends_a)) | (corner_b & (starts_b | ends_b))
    for p, _ in marks:
        keep |= (np.abs(rows % len(one.curves) - p) < 1e-9) & (starts_a | ends_a)
    keep[[0, -1]] = True
    stops = np.flatnonzero(keep).tolist()
    waiting = list(pairwise(stops))
    while waiting:
        i, j = waiting.pop()
        if j - i < 2:
            continue
        da, db = a[j] - a[i], b[j] - b[i]
        off = np.abs((a[i + 1 : j] - a[i]) * db - (b[i + 1 : j] - b[i]) * da) / max(float(np.hypot(da, db)), 1e-12)
        worst = int(off.argmax())
        if off[worst] <= WITHIN and max(da, db) > longest:
            worst = (j - i - 1) // 2
            off[worst] = np.inf
        if off[worst] > WITHIN:
            k = i + 1 + worst
            keep[k] = True
            waiting += [(i, k), (k, j)]
    return np.flatnonzero(keep)


def _share(where: Floats, contour: Contour) -> Floats:
    """The part of a contour's length that has gone by at these places; closed ones count on."""
    far = np.concatenate([[0.0], np.cumsum(contour.lengths)])
    n, whole = len(contour.curves), max(contour.length, 1e-12)
    rounds = np.floor(where / n) if contour.closed else np.zeros(len(where))
    found: Floats = np.interp(where - rounds * n, np.arange(n + 1), far) / whole + rounds
    return found
