"""The way between two outlines that are cut alike.

Points `(n, 2)` of both ends give points `(n, 2, k)` at `k` parts of the way. All of them meet the ends exactly.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from sorvan.core.geometry import Floats


def straight(first: Floats, second: Floats, parts: Floats) -> Floats:
    """Every point in a straight line."""
    found: Floats = first[:, :, None] + parts * (second - first)[:, :, None]
    return found


def turn(first: Floats, second: Floats, parts: Floats) -> Floats:
    """The whole turned about its middle and moved as the best turn of the first onto the second (Kabsch 1976) has it,
    by part; what that leaves over goes straight within. A turn keeps lengths and areas: nothing shrinks on the way.
    """
    weights = _weights(first) + _weights(second)
    middle, arrived = weights @ first / weights.sum(), weights @ second / weights.sum()
    angle = turned_by(first - middle, second - arrived, weights)
    a = _complex(first - middle)
    b = _complex(second - arrived) * np.exp(-1j * angle)
    shape = a[:, None] + parts * (b - a)[:, None]
    placed = shape * np.exp(1j * angle * parts)
    centre = complex(*middle) + parts * complex(*(arrived - middle))
    return _apart(placed + centre)


def meeting(points: Floats) -> Floats:
    """How long the lines are together that meet at each point of an outline, `(n,)`."""
    lines = np.hypot(*np.diff(points, axis=0).T)
    found: Floats = np.concatenate([[0.0], lines]) + np.concatenate([lines, [0.0]])
    return found


def _weights(points: Floats) -> Floats:
    """How much each point of an outline counts: by the lengths of the lines that meet at it."""
    found = meeting(points)
    return found / max(float(found.sum()), 1e-12) + 1e-12


def turned_by(first: Floats, second: Floats, weights: Floats | None = None) -> float:
    """The angle by which points about their middle must be turned to lie best on others (radians, -π to π)."""
    a, b = _complex(first), _complex(second)
    a = a if weights is None else a * weights
    total = complex(np.vdot(a, b))
    size = float(np.abs(a) @ np.abs(b))
    # Exactly half round both ways are as good: the one that turns as a clock does.
    angle = float(np.angle(total)) if abs(total) > 1e-9 * max(size, 1e-300) else 0.0
    return abs(angle) if np.pi - abs(angle) < 1e-9 else angle


def swing(first: Floats, second: Floats, parts: Floats, contours: Sequence[slice], closed: Sequence[bool]) -> Floats:
    """Length and turning of every line between points apart, so that limbs swing round their joints instead of
    shrinking; the ends of closed contours are brought together by the least change of lengths (Sederberg, Gao, Wang
    and Mu 1993, "2-D shape blending: an intrinsic solution to the vertex path problem"). It lies where `turn` has it.
    """
    frame = turn(first, second, parts)
    found = np.empty(frame.shape)
    for own, ring in zip(contours, closed, strict=True):
        found[own] = _intrinsic(first[own], second[own], parts, ring, frame[own])
    return found


def _intrinsic(first: Floats, second: Floats, parts: Floats, closed: bool, frame: Floats) -> Floats:
    if len(first) < 3:
        return frame
    a, b = _complex(first), _complex(second)
    lines_a, lines_b = np.diff(a), np.diff(b)
    lengths_a, lengths_b = np.abs(lines_a), np.abs(lines_b)
    way_a, way_b = _headings(lines_a), _headings(lines_b)
    lengths = lengths_a[:, None] + parts * (lengths_b - lengths_a)[:, None]
    way = (
        way_a[0]
        + parts * _nearest(way_b[0] - way_a[0])
        + np.concatenate(
            [
                np.zeros((1, len(parts))),
                np.cumsum(np.diff(way_a)[:, None] + parts * (np.diff(way_b) - np.diff(way_a))[:, None], axis=0),
            ]
        )
    )
    lines = lengths * np.exp(1j * way)
    if closed:
        lines = lines + _closing(np.exp(1j * way), lines.sum(axis=0), np.abs(lengths_b - lengths_a))
    points = np.concatenate([np.zeros((1, len(parts))), np.cumsum(lines, axis=0)])
    # Laid where the whole goes: turned and moved onto it as well as it can be.
    there = frame[:, 0] + 1j * frame[:, 1]
    points = points - points.mean(axis=0)
    middle = there.mean(axis=0)
    lying = (np.conj(points) * (there - middle)).sum(axis=0)
    lying = np.where(np.abs(lying) > 1e-9, lying / np.maximum(np.abs(lying), 1e-300), 1.0)
    return _apart(points * lying + middle)


def _headings(lines: np.ndarray) -> Floats:
    """Where each line heads (radians, without jumps by whole turns); one without length heads as the one before."""
    found = np.angle(lines)
    there = np.abs(lines) > 1e-9
    if not there.any():
        return np.zeros(len(lines))
    last = np.maximum.accumulate(np.where(there, np.arange(len(lines)), 0))
    last = np.where(np.arange(len(lines)) < int(np.argmax(there)), int(np.argmax(there)), last)
    return np.unwrap(found[last])


def _nearest(angle: float) -> float:
    return float((angle + np.pi) % (2 * np.pi) - np.pi)


def _closing(ways: np.ndarray, gap: np.ndarray, change: Floats) -> np.ndarray:
    """What to add to lines that head these ways so that they come back to where they began: along each, more on those
    whose length changes more (Lagrange's multipliers, equations 4 to 10 of the paper)."""
    loose = np.maximum(change, 1e-4 * max(float(change.max(initial=0.0)), 1e-9)) ** 2
    c, s = ways.real, ways.imag
    ee, ff, gg = (np.tensordot(loose, m, axes=(0, 0)) for m in (c * c, c * s, s * s))
    det = ee * gg - ff * ff
    det = np.where(np.abs(det) < 1e-18, 1e-18, det)
    u, v = gap.real, gap.imag
    one, two = (-u * gg + v * ff) / det, (u * ff - v * ee) / det
    by = loose[:, None] * (one * c + two * s)
    found: np.ndarray = by * ways
    return found


def _complex(points: Floats) -> np.ndarray:
    found: np.ndarray = points[:, 0] + 1j * points[:, 1]
    return found


def _apart(places: np.ndarray) -> Floats:
    return np.stack([places.real, places.imag], axis=1)
