"""Affine maps, singly and in blocks, against NumPy's matrices."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from sorvan.core.errors import Refusal
from sorvan.core.geometry import (
    IDENTITY,
    MIRROR,
    Affine,
    column,
    compose_blocks,
    inverse_block,
    moved,
    near,
    placed_block,
)
from sorvan.core.geometry.curves import Cubic

places = st.floats(-1e3, 1e3)
angles = st.floats(-720, 720)
skews = st.floats(-60, 60)
scales = st.one_of(st.floats(0.05, 8), st.floats(-8, -0.05))
frames = st.builds(Affine.placed, places, places, angles, skews, scales, scales)


def matrix(m: Affine) -> np.ndarray:
    return np.array([[m.a, m.c, m.e], [m.b, m.d, m.f], [0, 0, 1]])


@given(frames, frames, places, places)
def test_composing_is_the_product_of_matrices(m: Affine, n: Affine, x: float, y: float) -> None:
    both = m @ n
    assert matrix(both) == pytest.approx(matrix(m) @ matrix(n), rel=1e-9, abs=1e-6)
    assert both.place((x, y)) == pytest.approx(m.place(n.place((x, y))), rel=1e-9, abs=1e-6)
    assert both.determinant == pytest.approx(m.determinant * n.determinant, rel=1e-6, abs=1e-9)
    # An arrow is the way between two places.
    (ax, ay), (bx, by) = m.place((0, 0)), m.place((x, y))
    assert m.arrow((x, y)) == pytest.approx((bx - ax, by - ay), rel=1e-9, abs=1e-6)
    assert m.at == m.place((0, 0))


@given(frames, places, places)
def test_an_inverse_undoes_and_what_is_flat_has_none(m: Affine, x: float, y: float) -> None:
    assume(abs(m.determinant) > 1e-3)
    assert m.inverse().place(m.place((x, y))) == pytest.approx((x, y), rel=1e-6, abs=1e-4)
    assert near(m @ m.inverse(), IDENTITY, 1e-6)
    with pytest.raises(Refusal) as refused:
        Affine.placed(x, y, 30, 0, 0, 1).inverse()
    assert refused.value.kind == "flat"


@given(places, places, angles, skews, scales, scales)
def test_what_is_typed_is_read_back_as_a_frame_that_looks_the_same(
    x: float, y: float, angle: float, skew: float, sx: float, sy: float
) -> None:
    m = Affine.placed(x, y, angle, skew, sx, sy)
    again = m.placement()
    assert near(Affine.placed(*again), m, 1e-6)
    assert again[:2] == (x, y) and again[5] > 0
    if sx > 0 and sy > 0:
        assert again[4:] == pytest.approx((sx, sy), rel=1e-6)
        assert math.cos(math.radians(again[2] - angle)) == pytest.approx(1, abs=1e-9)


def test_known_maps() -> None:
    quarter = Affine.placed(10, 20, 90, 0, 2, 3)
    # y points down: a quarter turn clockwise takes right to down.
    assert quarter.place((1, 0)) == pytest.approx((10, 22))
    assert quarter.place((0, 1)) == pytest.approx((7, 20))
    assert Affine.shift(3, -4).place((1, 1)) == (4, -3)
    assert Affine.mirror(50).place((20, 7)) == (80, 7)
    assert Affine.mirror(0) == MIRROR
    assert Affine.placed(0, 0, 0, 45, 1, 1).place((0, 2)) == pytest.approx((2, 2))


@given(st.lists(st.tuples(places, places, angles, skews, scales, scales), min_size=1, max_size=5), frames)
def test_blocks_hold_the_very_numbers_of_single_maps(
    given_: list[tuple[float, float, float, float, float, float]], outer: Affine
) -> None:
    numbers = np.array(given_)
    block = np.empty((1, 6, len(given_)))
    x, y, angle, skew, sx, sy = (numbers[None, :, i] for i in range(6))
    # A joint keeps its slant: it is one number for all frames.
    placed_block(x, y, angle, skew[:, :1], sx, sy, block)
    for f, (px, py, turn, _, wide, high) in enumerate(given_):
        want = Affine.placed(px, py, turn, given_[0][3], wide, high)
        assert block[0, :, f] == pytest.approx(want, rel=1e-9, abs=1e-9)
    out = np.empty_like(block)
    compose_blocks(column(outer)[None], block, out)
    one = np.empty((1, 6, 1))
    for f in range(len(given_)):
        assert out[0, :, f] == pytest.approx(outer @ Affine(*block[0, :, f]), rel=1e-9, abs=1e-6)
        compose_blocks(column(outer)[None], block[:, :, f : f + 1], one)
        # To the last bit, whichever frames are asked for.
        assert np.array_equal(one[0, :, 0], out[0, :, f])
    back = np.empty_like(block)
    compose_blocks(inverse_block(block[0])[None], block, back)
    assert back[0] == pytest.approx(np.repeat(column(IDENTITY), len(given_), axis=1), abs=1e-6)


@given(frames, st.lists(st.tuples(places, places), min_size=1, max_size=6))
def test_many_points_go_where_each_goes(m: Affine, points: list[tuple[float, float]]) -> None:
    assert moved(np.array(points), m) == pytest.approx(np.array([m.place(p) for p in points]), rel=1e-9, abs=1e-6)


@pytest.mark.parametrize("size", [1e-300, 1e-146, 1e-30, 1.0, 1e12])
def test_a_curve_of_any_size_has_its_length(size: float) -> None:
    """Terms that are nothing beside the others must not make them infinite."""
    points = ((0.0, 0.0), (size, 3.5e-147), (2 * size, 0.0), (3 * size, 0.0))
    assert Cubic(points).length == pytest.approx(3 * size, rel=1e-6, abs=1e-145)
    assert Cubic(((0.0, 0.0), (0.0, 0.0), (0.0, 0.0), (0.0, 0.0))).length == 0
