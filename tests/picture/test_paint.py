"""The painter and the film settings, against pixels and numbers worked out by hand."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from numpy.typing import NDArray

from sorvan.core.errors import Refusal
from sorvan.core.model.art import Art, Clip, Flat, Layer, Linear, Node, Outline, Radial, Shape, Stop, Stroke
from sorvan.core.plan.plan import Item
from sorvan.picture.film import frames_in, size_for
from sorvan.picture.paint import Painter, Surface
from tests.plans import still

RED, BLUE = Flat(colour="#ff0000ff"), Flat(colour="#0000ffff")


def box(left: float, top: float, right: float, bottom: float) -> Outline:
    return Outline(verbs="MLLLZ", points=(left, top, right, top, right, bottom, left, bottom))


def painted(
    *nodes: Node, matrix: tuple[float, ...] = (1, 0, 0, 1, 0, 0), hidden: bool = False, clear: bool = True
) -> NDArray[np.uint8]:
    """The nodes as one piece on a surface of 20 by 20 units, one pixel a unit."""
    data = Art(bounds=(0, 0, 20, 20), nodes=nodes).model_dump_json().encode()
    item = Item("p", "x", ("art",), ((0, 0, 20, 20),), hidden)
    plan = still((20, 20), (item,), matrix=matrix, paper="#00ff00ff")
    return Surface(20, 20).draw(Painter(lambda _: data), plan, 0, clear)


def test_a_fill_covers_its_pixels_and_half_of_those_it_halves() -> None:
    pixels = painted(Shape(outline=box(2, 2, 8.5, 6), fill=RED))
    assert pixels[3, 3].tolist() == [255, 0, 0, 255]
    assert pixels[3, 8].tolist() == pytest.approx([255, 0, 0, 128], abs=2)
    assert pixels[3, 9].tolist() == [0, 0, 0, 0]
    assert (pixels[:, :, 3] > 0).sum() == 7 * 4


def test_the_two_fill_rules() -> None:
    twice = Outline(verbs="MLLLZ" * 2, points=box(0, 0, 12, 12).points + box(4, 4, 8, 8).points)
    assert painted(Shape(outline=twice, fill=RED))[6, 6, 3] == 255
    assert painted(Shape(outline=twice, fill=RED, rule="evenodd"))[6, 6, 3] == 0


def test_a_layer_fades_its_nodes_together_and_a_clip_cuts_them() -> None:
    over = (Shape(outline=box(0, 0, 12, 12), fill=RED), Shape(outline=box(4, 4, 16, 16), fill=BLUE))
    pixels = painted(Layer(opacity=0.5, clips=(Clip(outline=box(0, 0, 20, 10)),), nodes=over))
    assert pixels[2, 2].tolist() == pytest.approx([255, 0, 0, 128], abs=1)
    # Where they overlap the red below does not shine through the blue.
    assert pixels[8, 8].tolist() == pytest.approx([0, 0, 255, 128], abs=1)
    assert pixels[14, 14, 3] == 0


def test_gradients_have_their_colours_where_they_belong() -> None:
    stops = (Stop(at=0, colour="#000000ff"), Stop(at=1, colour="#ffffffff"))
    line = Linear(start=(0, 0), end=(20, 0), stops=stops)
    grey = painted(Shape(outline=box(0, 0, 20, 20), fill=line))[:, :, 0]
    # The middle of pixel n lies at n + 1/2 of 20.
    assert grey[10] == pytest.approx([(n + 0.5) / 20 * 255 for n in range(20)], abs=1.5)
    ring = Radial(focus=(10, 10), centre=(10, 10), radius=10, stops=stops)
    round_ = painted(Shape(outline=box(0, 0, 20, 20), fill=ring))[:, :, 0]
    assert round_[10, 15] == pytest.approx(np.hypot(5.5, 0.5) / 10 * 255, abs=2)
    assert round_[0, 0] == 255, "beyond the circle the last colour goes on"


@pytest.mark.parametrize(("cap", "reach"), [("butt", 15), ("square", 17), ("round", 17)])
def test_strokes_have_their_width_and_caps(cap: Any, reach: int) -> None:
    line = Outline(verbs="ML", points=(5, 10, 15, 10))
    pixels = painted(Shape(outline=line, stroke=Stroke(paint=RED, width=4, cap=cap)))
    assert [int(y) for y in np.flatnonzero(pixels[:, 10, 3])] == [8, 9, 10, 11]
    assert int(np.flatnonzero(pixels[10, :, 3])[-1]) + 1 == reach


def test_dashes_leave_gaps() -> None:
    line = Outline(verbs="ML", points=(0, 10, 20, 10))
    row = painted(Shape(outline=line, stroke=Stroke(paint=RED, width=4, dash=(4, 2), dash_offset=1)))[10, :, 3]
    assert [int(x) for x in np.flatnonzero(row == 0)] == [3, 4, 9, 10, 15, 16]


def test_a_mirroring_transform_mirrors_and_a_hidden_piece_is_not_drawn() -> None:
    shape = Shape(outline=box(1, 1, 5, 5), fill=RED)
    assert np.array_equal(painted(shape, matrix=(-1, 0, 0, 1, 20, 0)), painted(shape)[:, ::-1])
    assert painted(shape, hidden=True)[:, :, 3].max() == 0
    assert painted(shape, hidden=True, clear=False)[0, 0].tolist() == [0, 255, 0, 255]


def test_ranges_are_as_users_count() -> None:
    assert frames_in(48, None, None) == (0, 48)
    assert frames_in(48, 5, 5) == (4, 5)
    for first, last in ((0, 4), (5, 4), (1, 49)):
        with pytest.raises(Refusal, match="are not all there"):
            frames_in(48, first or -1, last)


def test_sizes_keep_the_shape_and_films_have_even_sides() -> None:
    assert size_for(1280, 720, None, "mp4") == (1280, 720)
    assert size_for(1280, 720, 641, "png") == (641, 361)
    assert size_for(1280, 720, 641, "mp4") == (642, 362)
    with pytest.raises(Refusal):
        size_for(100, 5000, 1000, "png")
