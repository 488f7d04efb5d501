"""Silhouettes: of outlines with their lines, of pictures down to the pixel, and how coarsely they are traced."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from sorvan.core.art.outlines import RAGGED, contours, grain, silhouette
from sorvan.core.geometry import Affine
from sorvan.core.model.art import Art, Flat, Layer, Outline, Picture, Shape, Stroke
from tests.core.shelf import Shelf, drawing, polygon

SHELF = Shelf()


def picture(alpha: np.ndarray, box: tuple[float, float, float, float]) -> Art:
    pixels = np.zeros((*alpha.shape, 4), dtype=np.uint8)
    pixels[alpha] = (40, 80, 120, 255)
    return drawing(Picture(asset=SHELF.picture(pixels), box=box))


def test_each_segment_has_its_own_points_in_their_order() -> None:
    outline = Outline(verbs="MLQCZML", points=tuple(float(i) for i in range(2 * 9)))
    assert [(v, s.start, s.stop) for v, s in outline.segments()] == [
        ("M", 0, 1), ("L", 1, 2), ("Q", 2, 4), ("C", 4, 7), ("Z", 7, 7), ("M", 7, 8), ("L", 8, 9),
    ]  # fmt: skip


def test_curves_are_taken_along_their_way() -> None:
    # A quarter circle as one cubic, and the same way as a quadratic that bulges less.
    k = 0.5522847498
    cubic = Outline(verbs="MC", points=(1, 0, 1, k, k, 1, 0, 1))
    (line,) = contours(cubic)
    assert np.hypot(*line.T) == pytest.approx(np.ones(len(line)), abs=3e-4)
    (flat,) = contours(Outline(verbs="MQ", points=(1, 0, 1, 1, 0, 1)))
    assert flat[4] == pytest.approx((0.75, 0.75))
    (shifted,) = contours(cubic, Affine.placed(10, 0, 90, 0, 2, 2))
    assert shifted[0] == pytest.approx((10, 2)) and shifted[-1] == pytest.approx((8, 0))


def test_a_line_adds_its_width_and_a_layer_its_scale_and_its_clip() -> None:
    square = polygon((0, 0), (10, 0), (10, 10), (0, 10))
    assert isinstance(square, Shape)
    inked = square.changed(stroke=Stroke(paint=Flat(colour="#000000ff"), width=2))
    assert silhouette(drawing(square), SHELF).area == pytest.approx(100)
    assert silhouette(drawing(inked), SHELF).area == pytest.approx(144, abs=1)
    half = Outline(verbs="MLLLZ", points=(0, 0, 5, 0, 5, 10, 0, 10))
    layer = Layer(matrix=Affine(2, 0, 0, 3, 1, 1), nodes=(square,), clips=({"outline": half},))
    found = silhouette(Art(bounds=(0, 0, 30, 40), nodes=(layer,)), SHELF)
    assert found.bounds == pytest.approx((1, 1, 11, 31))
    assert found.area == pytest.approx(300)


@given(st.integers(0, 10_000), st.integers(6, 70), st.integers(6, 70), st.floats(0.2, 4))
def test_a_picture_s_silhouette_covers_every_pixel_and_little_more(
    seed: int, width: int, height: int, size: float
) -> None:
    rng = np.random.default_rng(seed)
    yy, xx = np.mgrid[0:height, 0:width]
    alpha = np.hypot((xx - width / 2) / width, (yy - height / 2) / height) < rng.uniform(0.1, 0.5)
    alpha |= rng.random(alpha.shape) > 0.97
    alpha[height // 2, width // 2] = True
    box = (3.0, -2.0, width * size, height * size)
    art = picture(alpha, box)
    found = silhouette(art, SHELF)
    assert grain(art, SHELF) == pytest.approx(size)
    pixels = shapely.union_all(
        shapely.box(
            3 + xx[alpha] * size, -2 + yy[alpha] * size, 3 + (xx[alpha] + 1) * size, -2 + (yy[alpha] + 1) * size
        )
    )
    assert pixels.difference(found).area < 1e-9 * pixels.area
    # Stairs are made slopes, by no more than a cell across and down.
    assert found.hausdorff_distance(pixels) < size * 1.4143


def test_a_slope_of_pixels_is_a_slope_and_a_gap_stays_open() -> None:
    yy, xx = np.mgrid[0:200, 0:200]
    slope = silhouette(picture(yy > xx * 0.7, (0, 0, 200, 200)), SHELF)
    # Stairs would have two corners a pixel.
    assert shapely.get_num_coordinates(slope) < 160
    split = np.abs(xx - 100 - (yy > 120)) > 1
    assert shapely.get_num_geometries(silhouette(picture(split, (0, 0, 200, 200)), SHELF)) == 2


def test_what_is_too_ragged_is_traced_more_coarsely_and_outlines_have_no_grain() -> None:
    noise = np.random.default_rng(2).random((600, 600)) > 0.6
    art = picture(noise, (0, 0, 600, 600))
    assert shapely.get_num_coordinates(silhouette(art, SHELF)) <= RAGGED
    assert grain(art, SHELF) > 1
    scaled = Layer(matrix=Affine(0, 3, -2, 0, 0, 0), nodes=art.nodes)
    assert grain(Art(bounds=(0, 0, 9, 9), nodes=(scaled,)), SHELF) == pytest.approx(3 * grain(art, SHELF))
    assert grain(drawing(polygon((0, 0), (9, 0), (9, 9))), SHELF) == 0
