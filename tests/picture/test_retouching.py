"""Drawings touched up, against pixels worked out line by line."""

from __future__ import annotations

import math
from itertools import pairwise

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from numpy.typing import NDArray

from sorvan.core.art.retouching import retouched
from sorvan.core.model.art import Art, Flat, Layer, Linear, Outline, Shape, Stop, Stroke
from sorvan.core.model.retouch import DrawnLine, PartChange, Retouch
from sorvan.core.plan.plan import Item
from sorvan.interchange.svg.skia_paths import art_of, bounds_of
from sorvan.picture.paint import Painter, Surface
from tests.plans import still

SIZE = 96
RED, BLUE, INK = "#cc2222ff", "#2244ccff", "#103010ff"


def box(left: float, top: float, right: float, bottom: float) -> Outline:
    return Outline(verbs="MLLLZ", points=(left, top, right, top, right, bottom, left, bottom))


FACE = Art(
    bounds=(10, 10, 90, 90),
    nodes=(
        Shape(
            outline=box(10, 10, 86, 86),
            fill=Linear(start=(10, 0), end=(86, 0), stops=(Stop(at=0, colour=RED), Stop(at=1, colour=BLUE))),
            stroke=Stroke(paint=Flat(colour=INK), width=4),
        ),
        Layer(opacity=0.5, nodes=(Shape(outline=box(30, 30, 50, 50), fill=Flat(colour="#ffffffff")),)),
        Shape(outline=Outline(verbs="ML", points=(20, 70, 76, 70)), stroke=Stroke(paint=Flat(colour=INK), width=6)),
    ),
)


def painted(art: Art) -> NDArray[np.float64]:
    """Premultiplied colours of a drawing, one pixel a unit."""
    data = art.model_dump_json().encode()
    item = Item("p", "x", ("art",), (art.bounds,), False)
    plan = still((SIZE, SIZE), (item,), matrix=(1, 0, 0, 1, 0, 0))
    pixels = Surface(SIZE, SIZE).draw(Painter(lambda _: data), plan, 0, True).astype(float)
    pixels[:, :, :3] *= pixels[:, :, 3:] / 255
    return pixels


def distances(points: tuple[tuple[float, float], ...]) -> NDArray[np.float64]:
    """How far the middle of each pixel is from a line."""
    y, x = np.mgrid[0:SIZE, 0:SIZE] + 0.5
    found = np.full((SIZE, SIZE), np.inf)
    for (ax, ay), (bx, by) in zip(points, points[1:] or points, strict=False):
        square = (bx - ax) ** 2 + (by - ay) ** 2
        t = np.clip(((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / square, 0, 1) if square else 0.0
        found = np.minimum(found, np.hypot(x - ax - t * (bx - ax), y - ay - t * (by - ay)))
    return found


def straight(line: tuple[tuple[float, float], ...]) -> bool:
    """Whether nothing of a line is rounded by its being smoothed: it turns sharply or not at all."""
    ways = [math.atan2(b[1] - a[1], b[0] - a[0]) for a, b in pairwise(line)]
    return all(abs(math.remainder(b - a, math.tau)) > math.radians(61) for a, b in pairwise(ways))


PLACE = st.tuples(st.integers(0, SIZE), st.integers(0, SIZE)).map(lambda p: (float(p[0]), float(p[1])))
WAY = st.lists(PLACE, min_size=2, max_size=4, unique=True).map(tuple).filter(straight)
LINES = st.lists(
    st.builds(
        DrawnLine, do=st.sampled_from(["wipe", "draw"]), points=WAY, width=st.integers(5, 24), colour=st.just(INK)
    ),
    max_size=5,
)


@given(lines=LINES)
def test_what_lines_go_over_is_wiped_or_covered_in_their_turn_and_all_else_stays(lines: list[DrawnLine]) -> None:
    """Each line in turn, pixel by pixel; those that an edge crosses are left open."""
    wanted, sure = painted(FACE), np.ones((SIZE, SIZE), dtype=bool)
    for line in lines:
        far = distances(line.points)
        inside = far < line.width / 2 - 1
        wanted[inside] = (0x10, 0x30, 0x10, 255) if line.do == "draw" else 0
        sure = np.where(inside, True, np.where(far < line.width / 2 + 1.5, False, sure))
    art = art_of(retouched(FACE, Retouch(of="a" * 64, lines=tuple(lines)), bounds_of))
    found = painted(art) if art else np.zeros_like(wanted)
    # Where the sides of a bend lie over one another the painter leaves a trace of what is under them.
    assert np.abs(found - wanted)[sure].max(initial=0) <= 12
    # What holds all that shows is not too small.
    assert art is None or not found[:, :, 3][~_within(art.bounds)].any()


def _within(bounds: tuple[float, float, float, float]) -> NDArray[np.bool_]:
    y, x = np.mgrid[0:SIZE, 0:SIZE]
    return (x + 1 >= bounds[0]) & (x <= bounds[2]) & (y + 1 >= bounds[1]) & (y <= bounds[3])


@given(order=st.permutations(range(3)), gone=st.sets(st.integers(0, 2), max_size=2))
def test_parts_lie_in_the_order_told_and_those_left_out_do_not_show(order: list[int], gone: set[int]) -> None:
    how = Retouch(of="a" * 64, order=tuple(order), parts={i: PartChange(out=True) for i in gone})
    told = FACE.changed(nodes=tuple(FACE.nodes[i] for i in order if i not in gone))
    art = art_of(retouched(FACE, how, bounds_of))
    assert art is not None
    assert np.array_equal(painted(art), painted(told))


def test_a_part_is_moved_turned_and_sized_about_its_middle_and_painted_anew() -> None:
    alone = FACE.changed(nodes=(Shape(outline=box(30, 30, 50, 50), fill=Flat(colour=RED)),))
    how = Retouch(of="a" * 64, parts={0: PartChange(x=10, y=-5, turn=90, size=50, fill=BLUE, stroke=RED)})
    art = art_of(retouched(alone, how, bounds_of))
    assert art is not None
    found = painted(art)
    assert found[:, :, 3].sum() / 255 == 100, "half as wide, half as high"
    assert (found[30:40, 45:55] == (0x22, 0x44, 0xCC, 255)).all(), "about (50, 35), in blue; it has no line to paint"
