"""One drawing becoming another: which point becomes which, the way between, and what goes wrong on it."""

from __future__ import annotations

import math
import tracemalloc
from functools import cache
from itertools import pairwise
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorvan.core.geometry import Affine, Floats
from sorvan.core.model.art import Art, Clip, Flat, Layer, Linear, Outline, Picture, Shape, Stop, Stroke
from sorvan.core.model.puppet import Mark, Morph, Pairing
from sorvan.core.morph import way
from sorvan.core.morph.colours import between, oklab, srgb
from sorvan.core.morph.contour import Contour, area_of, contours_of, place, straight
from sorvan.core.morph.correspond import alike
from sorvan.core.morph.looks import settled
from sorvan.core.morph.making import ready
from sorvan.core.morph.match import ContourSeen, costs, matched
from sorvan.core.morph.ready import Ready
from sorvan.core.morph.trouble import SLIGHT, advice, troubles
from tests.core.shelf import drawing, polygon

STEPS = np.linspace(0, 1, 13)
NOUGHT = ((0.0, 0.0), (0.0, 0.0))


def contour(*points: tuple[float, float], closed: bool = True) -> Contour:
    """A polygon, or a line of straight parts."""
    corners = np.array(points, dtype=np.float64)
    ends = np.roll(corners, -1, axis=0)
    return Contour(
        np.array([straight(a, b) for a, b in zip(corners, ends, strict=True)][: None if closed else -1]), closed
    )


def star(*radii: float, x: float = 0.0, y: float = 0.0, turn: float = 0.0) -> list[tuple[float, float]]:
    """A polygon round a middle, its corners so far from it."""
    angles = [2 * math.pi * k / len(radii) + math.radians(turn) for k in range(len(radii))]
    return [(x + r * math.cos(a), y + r * math.sin(a)) for r, a in zip(radii, angles, strict=True)]


def morph(way: str = "straight", *marks: tuple[Any, Any], **more: Any) -> Morph:
    """How one drawing becomes another, with marks from a place to a place."""
    held = {f"k{n}": Mark(id=f"k{n}", first=a, second=b) for n, (a, b) in enumerate(marks)}
    return Morph(id="m", first="a", second="b", way=way, marks=held, **more)


def outline_at(found: Ready, part: float) -> Floats:
    """The corners of the first shape on its way."""
    own = found.going[0].contours[0]
    points: Floats = found.points_at(np.array([part]))[own][:-1:3, :, 0]
    return points


SQUARE = contour((0, 0), (100, 0), (100, 100), (0, 100))
BOX = drawing(polygon((0, 0), (100, 0), (100, 100), (0, 100)))


def least_by_trying_all(one: ContourSeen, two: ContourSeen) -> float:
    """The least work over every way there is, and every begin."""
    steps, n, m = costs(one, two), len(one.turns), len(two.turns)

    def begun(begin: int) -> float:
        @cache
        def left(i: int, j: int) -> float:
            if (i, j) == (n, m):
                return 0.0
            return min(
                (
                    float(work[i % n, (j + begin) % m]) + left(i + p, j + q)
                    for (p, q), work in steps.items()
                    if i + p <= n and j + q <= m
                ),
                default=math.inf,
            )

        return left(0, 0)

    return min(begun(k) for k in range(m))


radii = st.lists(st.floats(20, 90), min_size=3, max_size=7)


@given(radii, radii)
def test_the_least_work_is_that_of_all_ways_there_are(one: list[float], two: list[float]) -> None:
    a, b = (ContourSeen.of(contour(*star(*r)), np.arange(len(r), dtype=np.float64)) for r in (one, two))
    work, path = matched(a, b)
    assert work == pytest.approx(least_by_trying_all(a, b), abs=1e-9)
    steps = np.diff(path, axis=0)
    assert (steps >= 0).all()
    assert (path[-1] - path[0]).tolist() == [len(one), len(two)]


@given(radii, radii)
def test_contours_cut_alike_are_still_what_they_were(one: list[float], two: list[float]) -> None:
    a, b = contour(*star(*one)), contour(*star(*two, x=300, turn=20))
    found = alike(a, b)
    for points, whole in ((found.first, a), (found.second, b)):
        assert np.allclose(points[0], points[-1], atol=1e-9)
        assert abs(area_of(points[:-1:3])) == pytest.approx(abs(whole.area), rel=1e-9)
        for corner in whole.curves[:, 0]:
            assert np.hypot(*(points[::3] - corner).T).min() < 1e-9


def test_curves_cut_in_parts_run_where_they_ran() -> None:
    circle = contours_of(Outline(verbs="MCCZ", points=(0, 50, 0, -16, 100, -16, 100, 50, 100, 116, 0, 116, 0, 50)))[0]
    places = np.array([0.0, 0.3, 0.8, 1.0, 1.5, 2.0])
    points = circle.cut(places)
    for k, (low, high) in enumerate(pairwise(places)):
        part = points[3 * k : 3 * k + 4]
        for t in (0.0, 0.25, 0.7, 1.0):
            assert np.allclose(place(part, np.array([t]))[0], circle.at(low + (high - low) * t), atol=1e-9)


def test_a_square_that_becomes_itself_a_quarter_further_turns_and_does_not_shrink() -> None:
    corners = [(0, 0), (100, 0), (100, 100), (0, 100)]
    marks = [(corners[k], corners[(k + 1) % 4]) for k in range(4)]
    for how in ("turn", "swing"):
        found = ready(BOX, BOX, NOUGHT, morph(how, *marks))
        for part in (0.25, 0.5, 0.75):
            square = outline_at(found, part)
            assert area_of(square) == pytest.approx(10_000, abs=1e-6)
        # Half way it stands on a corner: 50 · √2 from the middle.
        assert sorted(np.round(outline_at(found, 0.5)[:, 1], 6).tolist()) == pytest.approx(
            [50 - 50 * math.sqrt(2), 50, 50, 50 + 50 * math.sqrt(2)]
        )
    shrunk = ready(BOX, BOX, NOUGHT, morph("straight", *marks))
    assert area_of(outline_at(shrunk, 0.5)) == pytest.approx(5_000)
    assert [t.kind for t in troubles(shrunk, STEPS)] == ["shrinks"]
    assert troubles(found, STEPS) == []


@given(radii, st.floats(-300, 300), st.floats(-300, 300), st.sampled_from(["straight", "turn", "swing"]))
def test_a_copy_set_elsewhere_moves_straight(sizes: list[float], dx: float, dy: float, how: str) -> None:
    there = drawing(polygon(*star(*sizes)))
    gone = drawing(polygon(*star(*sizes, x=dx, y=dy)))
    found = ready(there, gone, NOUGHT, morph(how))
    points = found.points_at(STEPS)
    for k, part in enumerate(STEPS):
        assert np.allclose(points[:, :, k], points[:, :, 0] + part * np.array([dx, dy]), atol=1e-6)


def test_one_corner_more_comes_out_of_the_side_it_stands_on() -> None:
    house = drawing(polygon((0, 0), (50, -40), (100, 0), (100, 100), (0, 100)))
    found = ready(BOX, house, NOUGHT, morph())
    own = found.going[0].own
    roof = int(np.hypot(*(found.points[1, own] - (50, -40)).T).argmin())
    x, y = found.points[0, own][roof]
    assert (abs(x - 50), y) == (pytest.approx(0, abs=6), pytest.approx(0))
    for corner in ((0, 0), (100, 0), (100, 100), (0, 100)):
        at = int(np.hypot(*(found.points[0, own] - corner).T).argmin())
        assert tuple(found.points[1, own][at]) == pytest.approx(corner)


@given(radii, radii, st.integers(0, 6), st.integers(0, 6), st.sampled_from(["straight", "turn", "swing"]))
def test_marks_are_met(one: list[float], two: list[float], i: int, j: int, how: str) -> None:
    a, b = star(*one), star(*two, x=40, y=-120, turn=35)
    first = a[i % len(a)]
    # A mark beside the outline lies on the nearest place of it: here the middle of a side, from within.
    p, q = np.array(b[j % len(b)]), np.array(b[(j + 1) % len(b)])
    second = tuple((p + q) / 2)
    found = ready(drawing(polygon(*a)), drawing(polygon(*b)), NOUGHT, morph(how, (first, second)))
    assert len(found.met) == 1
    met = found.met[0]
    points = found.points_at(np.array([0.0, 1.0]))
    assert points[met.point, :, 0] == pytest.approx(first, abs=1e-6)
    assert points[met.point, :, 1] == pytest.approx(second, abs=1e-2)


@given(radii, radii, st.sampled_from(["straight", "turn", "swing"]))
def test_the_other_way_round_is_the_same_backwards(one: list[float], two: list[float], how: str) -> None:
    a, b = drawing(polygon(*star(*one), fill="#aa3311ff")), drawing(polygon(*star(*two, x=20), fill="#1133aaff"))
    there = morph(how, (star(*one)[0], star(*two, x=20)[1]))
    forth, back = ready(a, b, NOUGHT, there), ready(b, a, NOUGHT, there.turned())
    for part in (0.0, 0.3, 1.0):
        lines = []
        for found, at in ((forth, part), (back, 1 - part)):
            corners = outline_at(found, at)
            lines.append((abs(area_of(corners)), *corners.mean(axis=0), len(corners)))
        if part in (0.0, 1.0):
            assert lines[0][0] == pytest.approx(lines[1][0], rel=1e-6)
        looks = [f.looks_at(np.array([at]))[:, 0] for f, at in ((forth, part), (back, 1 - part))]
        assert np.allclose(looks[0], looks[1], atol=1 / 255 + 1e-9)
    assert there.turned().turned() == there


@given(st.lists(st.floats(0, 2 * math.pi), min_size=4, max_size=9, unique_by=lambda a: round(a, 1)), st.data())
def test_between_two_convex_shapes_nothing_crosses(angles: list[float], data: st.DataObject) -> None:
    others = data.draw(st.lists(st.floats(0, 2 * math.pi), min_size=4, max_size=9, unique_by=lambda a: round(a, 1)))
    rings = [[(80 * math.cos(a), 50 * math.sin(a)) for a in sorted(some)] for some in (angles, others)]
    # What lies on one side of the middle alone would leave a sliver.
    if any(max(np.diff([*sorted(s), sorted(s)[0] + 2 * math.pi])) > 2.6 for s in (angles, others)):
        return
    found = ready(*(drawing(polygon(*r)) for r in rings), NOUGHT, morph())
    assert [t.kind for t in troubles(found, STEPS) if t.kind in ("crosses", "turned-over")] == []


def test_colours_mix_evenly_to_the_eye_or_by_levels() -> None:
    # Ottosson's own table: pure red is L 0.628, a 0.225, b 0.126.
    assert oklab(np.array([1.0, 0, 0])) == pytest.approx([0.62796, 0.22486, 0.12585], abs=1e-4)
    assert srgb(oklab(np.array([0.2, 0.5, 0.9]))) == pytest.approx([0.2, 0.5, 0.9], abs=1e-6)
    red, blue = np.array([[1.0, 0, 0, 1]]), np.array([[0.0, 0, 1, 0.5]])
    half = np.array([0.5])
    assert between(red, blue, half, even=False)[0, :, 0] == pytest.approx([0.5, 0, 0.5, 0.75])
    lab = (oklab(red[0, :3]) + oklab(blue[0, :3])) / 2
    assert between(red, blue, half, even=True)[0, :3, 0] == pytest.approx(srgb(lab))
    clear = np.array([[0.0, 1, 0, 0]])
    assert between(red, clear, half, even=False)[0, :, 0] == pytest.approx([1, 0, 0, 0.5])


def shape(outline: Outline, **more: Any) -> Shape:
    return Shape(outline=outline, **more)


def ring(size: float, hole: float, x: float = 0.0) -> Outline:
    """A square with a square hole."""
    points: list[float] = []
    for half, round_ in ((size, 1), (hole, -1)):
        for sx, sy in ((-1, -1), (round_, -round_), (1, 1), (-round_, round_)):
            points += [x + half * sx, half * sy]
    return Outline(verbs="MLLLZMLLLZ", points=tuple(points))


def test_holes_gradients_and_lines_go_along() -> None:
    run = [Stop(at=0, colour="#ff0000ff"), Stop(at=1, colour="#0000ffff")]
    one = drawing(
        shape(ring(50, 20), fill=Linear(start=(-50, 0), end=(50, 0), stops=tuple(run))),
    )
    two = drawing(
        shape(
            ring(80, 60, x=200),
            fill=Linear(start=(120, 0), end=(280, 0), stops=(*run, Stop(at=1, colour="#00ff00ff"))[:2]),
            stroke=Stroke(paint=Flat(colour="#000000ff"), width=8),
        ),
    )
    found = ready(one, two, NOUGHT, morph(colours="srgb"))
    half = found.drawing(0.5)
    (node,) = half.nodes
    assert isinstance(node, Shape)
    assert node.rule == "evenodd"
    areas = sorted(abs(c.area) for c in contours_of(node.outline))
    assert areas == pytest.approx([80.0**2, 130.0**2])
    assert isinstance(node.fill, Linear)
    assert (node.fill.start, node.fill.end) == ((35.0, 0.0), (165.0, 0.0))
    assert node.stroke is not None
    assert node.stroke.width == pytest.approx(4.0, abs=0.01)
    ends = found.drawing(0.0).nodes[0], found.drawing(1.0).nodes[0]
    assert isinstance(ends[0], Shape)
    assert ends[0].fill == Linear(start=(-50, 0), end=(50, 0), stops=tuple(run))


def test_clips_and_fading_layers_go_along() -> None:
    def scene(x: float, opacity: float) -> Art:
        clip = Clip(outline=Outline(verbs="MLLLZ", points=(x, 0, x + 40, 0, x + 40, 40, x, 40)))
        inner = polygon((x - 20, -20), (x + 60, -20), (x + 60, 60), (x - 20, 60))
        assert isinstance(inner, Shape)
        return Art(
            bounds=(x, 0, x + 40, 40),
            nodes=(Layer(matrix=Affine.shift(5, 0), opacity=opacity, clips=(clip,), nodes=(inner,)),),
        )

    found = ready(scene(0, 1.0), scene(100, 0.5), NOUGHT, morph())
    (layer,) = found.drawing(0.5).nodes
    assert isinstance(layer, Layer)
    assert layer.opacity == pytest.approx(0.75)
    (clip,) = contours_of(layer.clips[0].outline)
    assert clip.line.min(axis=0) == pytest.approx((55, 0))
    (inner,) = layer.nodes
    assert isinstance(inner, Shape)
    assert contours_of(inner.outline)[0].line.min(axis=0) == pytest.approx((35, -20))


def parts(*places: tuple[float, str]) -> Art:
    """Small squares at these x, each in its colour."""
    return drawing(*(polygon((x, 0), (x + 20, 0), (x + 20, 20), (x, 20), fill=colour) for x, colour in places))


RED, BLUE, GREEN = "#cc2222ff", "#2244ccff", "#22aa44ff"


def test_shapes_pair_by_place_size_colour_and_name_and_as_they_are_told() -> None:
    one, two = parts((0, RED), (100, BLUE)), parts((90, BLUE), (10, RED))
    found = ready(one, two, NOUGHT, morph())
    assert {(g.first, g.second) for g in found.going} == {(0, 1), (1, 0)}
    told = ready(one, two, NOUGHT, morph(pairs=(Pairing(first=0, second=0),)))
    assert {(g.first, g.second) for g in told.going} == {(0, 0), (1, 1)}
    named = [a.changed(nodes=tuple(n.changed(name=w) for n, w in zip(a.nodes, words, strict=True)))
             for a, words in ((one, ("puff", "wisp")), (two, ("puff", "wisp")))]  # fmt: skip
    assert {(g.first, g.second) for g in ready(*named, NOUGHT, morph()).going} == {(0, 0), (1, 1)}
    # A mark says which are partners too.
    marked = ready(one, two, NOUGHT, morph("straight", ((0, 0), (90, 0))))
    assert (0, 0) in {(g.first, g.second) for g in marked.going}


@pytest.mark.parametrize("lone", ["point", "line", "neighbour"])
def test_what_is_alone_comes_out_of_a_point_a_line_or_its_neighbour(lone: str) -> None:
    found = ready(parts((0, RED)), parts((0, RED), (200, GREEN)), NOUGHT, morph(lone=lone))
    new = next(g for g in found.going if g.first is None)
    start, end = (found.points_at(np.array([t]))[new.own][:, :, 0] for t in (0.0, 1.0))
    assert (end.min(axis=0), end.max(axis=0)) == (pytest.approx((200, 0)), pytest.approx((220, 20)))
    extent = np.ptp(start, axis=0)
    if lone == "point":
        assert extent == pytest.approx((0, 0))
        assert start[0] == pytest.approx((210, 10))
    elif lone == "line":
        assert np.linalg.matrix_rank(start - start.mean(axis=0), tol=1e-6) == 1
    else:
        assert (start.min(axis=0), start.max(axis=0)) == (pytest.approx((0, 0)), pytest.approx((20, 20)))
        assert found.drawing(0.0).nodes[-1].fill == Flat(colour=RED)  # type: ignore[union-attr]


def test_marks_that_cross_are_told_and_left_out() -> None:
    corners = [(0, 0), (100, 0), (100, 100), (0, 100)]
    found = ready(BOX, BOX, NOUGHT, morph("straight", *((corners[k], corners[(0, 2, 1, 3)[k]]) for k in range(4))))
    assert found.crossed
    assert len(found.met) + len(found.crossed) == 4


@given(st.lists(st.tuples(st.floats(0, 1), st.floats(0, 1)), min_size=2, max_size=5))
def test_marks_may_lie_as_close_together_as_they_like(places: list[tuple[float, float]]) -> None:
    corners = star(60, 80, 70, 50, 90)
    p, q = np.array(corners[0]), np.array(corners[1])
    marks = [(tuple(p + (q - p) * a * 0.05), tuple(p + (q - p) * b * 0.05)) for a, b in sorted(places)]
    shape_ = drawing(polygon(*corners))
    found = ready(shape_, shape_, NOUGHT, morph("straight", *marks))
    assert {m.id for m in found.met} | set(found.crossed) == {f"k{n}" for n in range(len(marks))}
    for met in found.met:
        assert found.points[0, met.point] == pytest.approx(met.first, abs=1e-6)
        assert found.points[1, met.point] == pytest.approx(met.second, abs=1e-6)


def test_a_mark_that_stays_holds_its_place_and_what_lies_far_goes_on() -> None:
    tall = drawing(polygon((0, 0), (100, 0), (150, -200), (50, -200)))
    held = morph("straight", ((0, 0), (0, 0)), ((50, -200), (50, -200)))
    foot = held.marks["k0"].changed(first=(0, 0), second=(40, 0), stays=50)
    found = ready(
        drawing(polygon((0, 0), (100, 0), (100, -100), (0, -100))), tall.changed(), NOUGHT,
        morph("straight").changed(marks={"k0": foot}),
    )  # fmt: skip
    at = found.met[0].point
    points = found.points_at(np.array([0.0, 0.25, 0.5, 0.75, 1.0]))
    assert pytest.approx(np.zeros((3, 2)), abs=1e-9) == points[at, :, :3].T
    assert points[at, 0, 4] == pytest.approx(found.met[0].second[0])
    assert 0 < points[at, 0, 3] < points[at, 0, 4]


def test_what_travels_against_the_main_movement_is_seen_and_a_mark_that_mends_it_is_proposed() -> None:
    rising = [(40, 0), (60, 0), (70, -40), (60, -80), (40, -80), (30, -40)]
    higher = [(40, -100), (60, -100), (75, -150), (60, -200), (40, -200), (25, -150)]
    # Top marked with foot: the smoke turns over on its way up.
    wrong = morph("straight", (rising[0], higher[3]), (rising[3], higher[0]))
    arts = [drawing(polygon(*p)) for p in (rising, higher)]
    found = {t.kind: t for t in troubles(ready(*arts, NOUGHT, wrong), STEPS)}
    assert found
    assert all(t.amounts.max() > 0 and len(t.amounts) == len(STEPS) for t in found.values())
    assert all(np.all((t.amounts == 0) | (t.amounts > SLIGHT)) for t in found.values())
    assert troubles(ready(*arts, NOUGHT, morph()), STEPS) == []
    half = morph("straight", (rising[0], higher[3]))
    for one in advice(*arts, NOUGHT, half, STEPS):
        mended = half.changed(marks={**half.marks, one.mark.id: one.mark})
        after = troubles(ready(*arts, NOUGHT, mended), STEPS)
        assert sum(t.amounts.max() + t.amounts.mean() for t in after) == pytest.approx(one.after, abs=1e-6)
        assert one.after < 0.8 * one.before


@given(radii, radii, st.floats(0, 1), st.sampled_from(["straight", "turn", "swing"]))
def test_an_in_between_is_the_drawing_that_the_points_and_the_look_make(
    one: list[float], two: list[float], part: float, how: str
) -> None:
    found = ready(drawing(polygon(*star(*one))), drawing(polygon(*star(*two))), ((3.0, 4.0), (-2.0, 9.0)), morph(how))
    at = np.array([part])
    made = settled(found.art, found.points_at(at)[:, :, 0], found.looks_at(at)[:, 0])
    assert made == found.drawing(part)
    (node,) = made.nodes
    assert isinstance(node, Shape)
    assert np.allclose(np.array(node.outline.points).reshape(-1, 2), found.points_at(at)[:, :, 0], atol=1e-4)


@given(st.lists(st.tuples(st.floats(-99, 99), st.floats(-99, 99)), min_size=3, max_size=9), st.floats(-180, 180))
def test_the_best_turn_is_found(points: list[tuple[float, float]], angle: float) -> None:
    p = np.array(points) - np.mean(points, axis=0)
    if np.abs(p).max() < 1:
        return
    a = math.radians(angle)
    turned = p @ np.array([[math.cos(a), math.sin(a)], [-math.sin(a), math.cos(a)]])
    assert math.remainder(way.turned_by(p, turned) - a, math.tau) == pytest.approx(0, abs=1e-6)


def test_outlines_of_thousands_of_corners_keep_them_all_and_take_little_room() -> None:
    wave = [60 + 20 * math.sin(k / 9) + (k * 7919 % 13) for k in range(3000)]
    one, two = contour(*star(*wave)), contour(*star(*wave[:2400], x=40, turn=3))
    tracemalloc.start()
    found = alike(one, two, [(100.5, 90.25), (2000.0, 1500.0)])
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    assert peak < 300e6
    for points, whole in ((found.first, one), (found.second, two)):
        assert {tuple(p) for p in np.round(whole.curves[:, 0], 6)} <= {tuple(p) for p in np.round(points[::3], 6)}
        assert abs(area_of(points[:-1:3])) == pytest.approx(abs(whole.area), rel=1e-9)
    assert not found.crossed
    assert len(alike(one, two).first) > 9000


def test_pictures_can_not_become_one_another_and_fade() -> None:
    ids = ("a" * 64, "b" * 64)
    one, two = (drawing(Picture(asset=id, box=(0, 0, 40, 30))) for id in ids)
    found = ready(one, two, ((20.0, 15.0), (20.0, 15.0)), morph())
    assert found.points_at(STEPS).shape == (0, 2, len(STEPS))
    first, second = found.drawing(0.25).nodes
    assert isinstance(first, Layer) and isinstance(second, Layer)
    assert (first.opacity, second.opacity) == (pytest.approx(0.75), pytest.approx(0.25))
    assert [n.asset for layer in (first, second) for n in layer.nodes if isinstance(n, Picture)] == list(ids)
    assert troubles(found, STEPS) == []
