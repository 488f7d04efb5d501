"""Bending: weights, meshes and sheets, by known answers and by what must hold for any drawing."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import Any

import numpy as np
import pytest
import shapely
from hypothesis import assume, given
from hypothesis import strategies as st

from sorvan.core.art.outlines import contours, grain, moved, silhouette
from sorvan.core.deform.bend import Bones, bend_ready, bent, weighted
from sorvan.core.deform.mesh import embedded, mesh_over
from sorvan.core.deform.sheet import sheet_ready, solved, solver_on, solver_over
from sorvan.core.deform.weights import normalised
from sorvan.core.errors import Refusal
from sorvan.core.geometry import Affine
from sorvan.core.model.art import Art, Layer, Mesh, Picture, Shape
from sorvan.core.model.documents import Documents
from sorvan.core.model.production import Production
from sorvan.core.model.puppet import Bend, BendSheet, Dab
from sorvan.core.plan.evaluate import Evaluation
from tests.conftest import costly
from tests.core.shelf import Shelf, drawing, polygon
from tests.core.worlds import do

HALF = 20.0
ARM = drawing(polygon((0, -HALF), (200, -HALF), (200, HALF), (0, HALF)))
SHELF = Shelf()


def elbow(degrees: float, joints: int = 2) -> np.ndarray:
    """The joints' moves when an elbow at (100, 0) is turned."""
    a = math.radians(degrees)
    co, si = math.cos(a), math.sin(a)
    moves = np.zeros((joints, 6, 1))
    moves[:, :, 0] = (1, 0, 0, 1, 0, 0)
    moves[1, :, 0] = (co, si, -si, co, 100 - 100 * co, -100 * si)
    return moves


def turned_about(at: tuple[float, float], degrees: float) -> Any:
    return Affine.shift(*at) @ Affine.placed(0, 0, degrees, 0, 1, 1) @ Affine.shift(-at[0], -at[1])


def arm(bend: Bend, art: Art = ARM) -> Any:
    shape = silhouette(art, SHELF)
    bones = Bones(("upper", "lower"), ((0.0, 0.0), (100.0, 0.0)), (-1, 0))
    held = weighted(shape, bones, bend)
    return held, bend_ready(art, held, bones, bend)


def outline_of(ready: Any, points: np.ndarray) -> shapely.Polygon:
    shape = ready.skin.art.nodes[0]
    moved = shape.outline.model_copy(update={"points": tuple(points[:, :, 0].ravel())})
    return shapely.Polygon(contours(moved)[0])


@pytest.mark.parametrize("degrees", [-90, -45, 30, 90])
def test_an_arm_bends_at_the_first_try(degrees: float) -> None:
    _, ready = arm(Bend(joints=("upper", "lower")))
    after = outline_of(ready, bent(ready, elbow(degrees)))
    assert after.is_valid, "the outline crosses itself"
    assert after.area == pytest.approx(200 * 2 * HALF, rel=0.1)
    # Both ends of the limb are moved rigidly: they keep their thickness.
    a = math.radians(degrees)
    tip = np.array([100 + 100 * math.cos(a), 100 * math.sin(a)])
    corners = [tip + side * HALF * np.array([-math.sin(a), math.cos(a)]) for side in (1, -1)]
    for corner in [*corners, (0, HALF), (0, -HALF)]:
        assert after.exterior.distance(shapely.Point(corner)) < 0.6


@pytest.mark.parametrize("degrees", [-179, -120, 60, 150, 170])
def test_a_bend_keeps_its_thickness_however_far_it_goes(degrees: float) -> None:
    _, ready = arm(Bend(joints=("upper", "lower")))
    after = bent(ready, elbow(degrees))[:, :, 0]
    joint = np.array([100.0, 0.0])
    # Everything is as far from the joint as it was, and turned about it by its share of the turn.
    before = ready.skin.points
    assert np.hypot(*(after - joint).T) == pytest.approx(np.hypot(*(before - joint).T), abs=1e-9)
    share = np.radians(degrees) * ready.weights[:, 1]
    way = (before - joint) @ np.array([1, 1j]) * np.exp(1j * share)
    assert (after - joint) @ np.array([1, 1j]) == pytest.approx(way, abs=1e-9)
    # As it was when moves were blended: it collapses.
    _, flat = arm(Bend(joints=("upper", "lower"), roundness=0))
    thin = np.hypot(*(bent(flat, elbow(degrees))[:, :, 0] - joint).T)
    middle = np.argmin(np.abs(ready.weights[:, 1] - 0.5))
    assert thin[middle] == pytest.approx(abs(math.cos(math.radians(degrees / 2))) * HALF, rel=0.1, abs=0.6)


def test_a_bend_that_is_stretched_mirrored_and_wound_up_goes_as_its_bones_do() -> None:
    bones = Bones(("a", "b", "c", "d"), ((0.0, 0.0), (50.0, 0.0), (100.0, 0.0), (150.0, 0.0)), (-1, 0, 1, 2))
    held = weighted(silhouette(ARM, SHELF), bones, Bend(joints=bones.joints))
    ready = bend_ready(ARM, held, bones, Bend(joints=bones.joints))
    # A spiral of three times 110 degrees: no point may take the short way round from the first bone to the last.
    worlds, at = [Affine(1, 0, 0, 1, 0, 0)], Affine(1, 0, 0, 1, 0, 0)
    for x in (50.0, 100.0, 150.0):
        at = at @ turned_about((x, 0.0), 110)
        worlds.append(at)
    moves = np.array(worlds)[:, :, None]
    points = bent(ready, moves)[:, :, 0]
    steps = np.hypot(*np.diff(points, axis=0).T)
    assert steps.max() < 3 * np.hypot(*np.diff(ready.skin.points, axis=0).T).max()
    # Seen in a mirror, all is the mirror image.
    mirror = Affine(-1, 0, 0, 1, 30, 0)
    mirrored = bent(ready, np.array([mirror @ w for w in worlds])[:, :, None])[:, :, 0]
    assert mirrored == pytest.approx(points * [-1, 1] + [30, 0], abs=1e-9)
    # All bones stretched alike stretch the whole.
    grown = bent(ready, np.array([Affine(2, 0.3, 0, 0.5, 4, 5)] * 4)[:, :, None])[:, :, 0]
    x, y = ready.skin.points.T
    assert grown == pytest.approx(np.stack([2 * x + 4, 0.3 * x + 0.5 * y + 5], 1), abs=1e-9)


def test_points_are_added_where_the_arm_bends_and_not_along_its_ends() -> None:
    _, ready = arm(Bend(joints=("upper", "lower")))
    x = ready.skin.points[:, 0]
    assert len(x) > 30
    near = ((x > 60) & (x < 140)).sum()
    assert near > 2 * ((x <= 60) | (x >= 140)).sum()
    # What was added lies on the outline as drawn.
    assert (
        outline_of(ready, ready.skin.points[:, :, None]).symmetric_difference(shapely.box(0, -HALF, 200, HALF)).area
        < 1e-3
    )


def test_weights_share_one_and_are_the_same_on_both_sides_of_the_arm() -> None:
    held, _ = arm(Bend(joints=("upper", "lower")))
    assert held.weights.sum(axis=1) == pytest.approx(np.ones(len(held.weights)))
    assert held.weights.min() >= 0
    grid = np.array([(x, y) for x in range(10, 200, 15) for y in (4.0, 12.0, 18.0)])
    above, below = held.at(grid)[:, 1], held.at(grid * [1, -1])[:, 1]
    assert above == pytest.approx(below, abs=0.06)
    mirrored = held.at(np.array([200, 0]) + grid * [-1, 1])[:, 0]
    assert above == pytest.approx(mirrored, abs=0.06)
    assert held.at(np.array([[100.0, 0.0]]))[0] == pytest.approx([0.5, 0.5], abs=0.05)
    assert held.at(np.array([[10.0, 0.0], [190.0, 0.0]]))[:, 1] == pytest.approx([0, 1], abs=0.01)


def trousers() -> Art:
    """Two legs side by side, close together, joined at the hips."""
    return drawing(polygon((0, 0), (100, 0), (98, 200), (53, 200), (50, 40), (47, 200), (2, 200)))


def test_no_limb_drags_its_neighbour() -> None:
    art = trousers()
    shape = silhouette(art, SHELF)
    places = ((50.0, 10.0), (25.0, 30.0), (25.0, 110.0), (75.0, 30.0), (75.0, 110.0))
    bones = Bones(("hips", "lt", "ls", "rt", "rs"), places, (-1, 0, 1, 0, 3))
    bend = Bend(joints=bones.joints)
    held = weighted(shape, bones, bend)
    ready = bend_ready(art, held, bones, bend)
    moves = np.tile(np.array([1.0, 0, 0, 1, 0, 0])[None, :, None], (5, 1, 1))
    # The left knee is turned by 90°.
    moves[2, :, 0] = (0, 1, -1, 0, 25 + 110, 110 - 25)
    after = bent(ready, moves)[:, :, 0]
    right = ready.skin.points[:, 0] > 52
    assert np.abs(after[right] - ready.skin.points[right]).max() < 1
    left_foot = (ready.skin.points[:, 1] > 190) & ~right
    assert np.abs(after[left_foot] - ready.skin.points[left_foot]).min() > 20


def beside(gap: float, torso: float = 160.0) -> list[tuple[float, float]]:
    """A torso, 550 high, with an arm hanging close beside it, joined at the shoulder."""
    inner, outer = torso + gap, torso + gap + 60
    return [(0, 0), (outer, 0), (outer, 400), (inner, 400), (inner, 70), (torso, 70), (torso, 550), (0, 550)]


def as_picture(corners: list[tuple[float, float]]) -> Art:
    shape = shapely.Polygon(corners)
    width, height = (int(v) + 1 for v in shape.bounds[2:])
    yy, xx = np.mgrid[0:height, 0:width] + 0.5
    shapely.prepare(shape)
    pixels = np.zeros((height, width, 4), dtype=np.uint8)
    pixels[shapely.contains_xy(shape, xx, yy)] = (10, 20, 30, 255)
    return drawing(Picture(asset=SHELF.picture(pixels), box=(0, 0, width, height)))


@pytest.mark.parametrize(("gap", "picture"), [(1, False), (2, False), (8, False), (2, True), (4, True), (8, True)])
def test_an_arm_drawn_close_beside_the_body_is_not_glued_to_it(gap: int, picture: bool) -> None:
    art = as_picture(beside(gap)) if picture else drawing(polygon(*beside(gap)))
    shoulder = 160 + gap + 30.0
    places = ((80.0, 450.0), (80.0, 150.0), (shoulder, 40.0), (shoulder, 220.0))
    bones = Bones(("pelvis", "chest", "arm", "forearm"), places, (-1, 0, 1, 2))
    bend = Bend(joints=bones.joints)
    shape = silhouette(art, SHELF)
    ready = bend_ready(art, weighted(shape, bones, bend, grain(art, SHELF)), bones, bend)
    raised = turned_about((shoulder, 40.0), -60)
    moves = np.tile(np.array([1.0, 0, 0, 1, 0, 0])[None, :, None], (4, 1, 1))
    moves[2:, :, 0] = raised
    rest, after = ready.skin.points, bent(ready, moves)[:, :, 0]
    low = rest[:, 1] > 150
    torso, hanging = low & (rest[:, 0] < 160.5), low & (rest[:, 0] > 160 + gap - 0.5)
    assert np.abs(after[torso] - rest[torso]).max() < 8
    assert np.abs(after[hanging] - moved(rest[hanging], raised)).max() < 25


@pytest.mark.parametrize("degrees", [0, 45, 90, 120])
def test_what_lies_beyond_a_last_joint_follows_it_however_the_limb_is_bent(degrees: float) -> None:
    a = math.radians(degrees)
    elbow_, hand = (120.0, 0.0), (120 + 120 * math.cos(a), 120 * math.sin(a))
    shape = shapely.LineString([(0, 0), elbow_, hand]).buffer(16, join_style="mitre")
    art = drawing(polygon(*np.array(shape.exterior.coords)[:-1].tolist()))
    bones = Bones(("upper", "lower"), ((0.0, 0.0), elbow_), (-1, 0))
    held = weighted(silhouette(art, SHELF), bones, Bend(joints=bones.joints))
    ready = bend_ready(art, held, bones, Bend(joints=bones.joints))
    moves = np.tile(np.array([1.0, 0, 0, 1, 0, 0])[None, :, None], (2, 1, 1))
    moves[1, :, 0] = turned_about(elbow_, 60)
    after = bent(ready, moves)[:, :, 0]
    tip = np.hypot(*(ready.skin.points - hand).T) < 24
    assert after[tip] == pytest.approx(moved(ready.skin.points[tip], tuple(moves[1, :, 0])), abs=2.0)


def test_a_reach_radius_limits_a_joint_and_painting_gives_and_takes() -> None:
    near, far = np.array([[118.0, 15.0]]), np.array([[150.0, 0.0]])
    free, _ = arm(Bend(joints=("upper", "lower")))
    painted, _ = arm(Bend(joints=("upper", "lower"), dabs=(Dab(joint="upper", x=150, y=0, radius=30, amount=1),)))
    assert free.at(far)[0, 0] < 0.02
    assert painted.at(far)[0, 0] > 0.9
    assert painted.at(near)[0] == pytest.approx(free.at(near)[0], abs=0.2)
    assert painted.weights.sum(axis=1) == pytest.approx(np.ones(len(painted.weights)))
    wing = drawing(polygon((0, -80), (200, -80), (200, 80), (0, 80)))
    wide, _ = arm(Bend(joints=("upper", "lower")), wing)
    slim, _ = arm(Bend(joints=("upper", "lower"), reach={"lower": 40.0}), wing)
    edge = np.array([[110.0, 75.0]])
    assert wide.at(edge)[0, 1] > 0.3
    assert slim.at(edge)[0, 1] < 0.05


def test_a_picture_bends_as_a_vector_does() -> None:
    pixels = np.zeros((60, 240, 4), dtype=np.uint8)
    pixels[10:50, 20:220] = (200, 80, 40, 255)
    art = drawing(Picture(asset=SHELF.picture(pixels), box=(-20, -30, 240, 60)))
    held, ready = arm(Bend(joints=("upper", "lower")), art)
    mesh = ready.skin.art.nodes[0]
    assert isinstance(mesh, Mesh)
    after = bent(ready, elbow(90))[:, :, 0]
    tip = ready.skin.points[:, 0] > 180
    turned = np.stack([100 - ready.skin.points[tip, 1], ready.skin.points[tip, 0] - 100], axis=1)
    assert after[tip] == pytest.approx(turned, abs=0.5)
    assert len(held.mesh.triangles) * 3 == len(mesh.triangles)


def test_layers_clips_and_curves_become_points_in_the_order_the_painters_meet_them() -> None:
    inner = polygon((0, 0), (50, 0), (50, 20), (0, 20))
    assert isinstance(inner, Shape)
    layer = Layer(matrix=(2, 0, 0, 1, 0, -10), opacity=0.5, nodes=(inner,))
    art = Art(bounds=(0, -20, 200, 20), nodes=(*ARM.nodes, layer))
    _, ready = arm(Bend(joints=("upper", "lower")), art)
    first, second = ready.skin.art.nodes
    assert isinstance(first, Shape) and isinstance(second, Layer) and isinstance(second.nodes[0], Shape)
    count = len(first.outline.points) // 2
    assert ready.skin.points[:count].ravel() == pytest.approx(first.outline.points, abs=1e-3)
    assert ready.skin.points[count:].ravel() == pytest.approx(second.nodes[0].outline.points, abs=1e-3)
    # The layer's scale is in its points now: twice as wide.
    assert second.matrix == (1, 0, 0, 1, 0, 0)
    assert ready.skin.points[count:, 0].max() == pytest.approx(100)


blobs = st.lists(st.tuples(st.floats(25, 60), st.floats(25, 60)), min_size=5, max_size=12)


def blob(radii: list[tuple[float, float]]) -> shapely.Polygon:
    count = len(radii)
    return shapely.Polygon(
        [
            (100 + r[i % 2] * math.cos(math.tau * i / count), 100 + r[i % 2] * math.sin(math.tau * i / count))
            for i, r in enumerate(radii)
        ]
    )


@given(blobs, st.integers(60, 600), st.floats(1, 6))
def test_a_mesh_covers_all_that_shows_with_triangles_that_do_not_overlap(
    radii: Any, wanted: int, margin: float
) -> None:
    shape = blob(radii)
    mesh = mesh_over(shape, wanted, margin)
    triangles = shapely.polygons(mesh.vertices[mesh.triangles])
    whole = shapely.union_all(triangles)
    assert shape.difference(whole.buffer(1e-9)).area < 1e-9
    assert whole.area == pytest.approx(sum(t.area for t in triangles), rel=1e-6)
    assert whole.difference(shape.buffer(margin * 2)).area < 0.02 * whole.area
    assert 0.4 * wanted < len(mesh.triangles) < 3 * wanted + 120
    assert mesh.smallest_angle() > 0.5


def sharp_corners(outline: Any) -> Any:
    """Where an outline turns in less than 61 degrees, on either side of it."""
    found = [(1e9, 1e9)]
    for ring in (r for part in shapely.get_parts(outline) for r in (part.exterior, *part.interiors)):
        p = complex_(np.array(ring.coords)[:-1])
        one, two = np.roll(p, 1) - p, np.roll(p, -1) - p
        sharp = p[np.abs(np.angle(one / two)) < np.deg2rad(61)]
        found += [(c.real, c.imag) for c in sharp]
    return np.array(found)


@given(
    blobs,
    st.integers(60, 600),
    st.floats(1, 6),
    st.lists(st.tuples(st.floats(20, 180), st.floats(20, 180)), max_size=6),
)
def test_an_even_mesh_has_no_narrow_corner_but_where_the_outline_has_one(
    radii: Any, wanted: int, margin: float, pins: Any
) -> None:
    shape = blob(radii)
    # Two handles on one spot are one.
    assume(all(math.dist(a, b) > 4 for i, a in enumerate(pins) for b in pins[:i]))
    mesh = mesh_over(shape, wanted, margin, pins, even=True)
    triangles = shapely.polygons(mesh.vertices[mesh.triangles])
    whole = shapely.union_all(triangles)
    assert shape.difference(whole.buffer(1e-9)).area < 1e-9
    assert whole.area == pytest.approx(sum(t.area for t in triangles), rel=1e-6)
    assert len(mesh.triangles) < 4 * wanted + 120
    corners = mesh.vertices[mesh.triangles]
    sides = np.stack([np.hypot(*(corners[:, k] - corners[:, k - 1]).T) for k in range(3)], axis=1)
    area = np.array([t.area for t in triangles])
    narrow = np.rad2deg(np.arcsin(np.minimum(2 * area * sides.min(axis=1) / sides.prod(axis=1), 1))) < 15
    sharp = sharp_corners(whole)
    for triangle, side in zip(corners[narrow], sides[narrow], strict=True):
        away = np.hypot(*(triangle[:, None] - sharp[None]).transpose(2, 0, 1)).min()
        assert away <= 2 * side.max(), triangle


def test_no_visible_pixel_lies_outside_the_mesh() -> None:
    rng = np.random.default_rng(9)
    yy, xx = np.mgrid[0:90, 0:140]
    alpha = (np.hypot(xx - 60, yy - 45) < 34) | ((np.abs(yy - 45) < 9) & (xx > 20) & (xx < 132))
    alpha |= rng.random(alpha.shape) > 0.9995
    pixels = np.zeros((90, 140, 4), dtype=np.uint8)
    pixels[alpha] = (10, 20, 30, 255)
    art = drawing(Picture(asset=SHELF.picture(pixels), box=(0, 0, 140, 90)))
    mesh = mesh_over(silhouette(art, SHELF), 300, 3)
    covered = shapely.union_all(shapely.polygons(mesh.vertices[mesh.triangles])).buffer(1e-9)
    shapely.prepare(covered)
    outside = ~shapely.covers(covered, shapely.box(xx[alpha], yy[alpha], xx[alpha] + 1, yy[alpha] + 1))
    assert outside.sum() == 0


def test_places_in_a_mesh_are_given_back_by_their_weights() -> None:
    mesh = mesh_over(shapely.box(0, 0, 100, 60), 120, 2)
    points = np.random.default_rng(1).uniform((0, 0), (100, 60), (80, 2))
    lies = embedded(mesh, points)
    assert lies @ mesh.vertices == pytest.approx(points)
    assert np.asarray(lies.sum(axis=1)).ravel() == pytest.approx(np.ones(80))


LEG = shapely.union_all([shapely.box(0, 0, 40, 200), shapely.box(0, 180, 90, 210)])
PINS = [(20.0, 10.0), (20.0, 100.0), (20.0, 180.0), (8.0, 205.0), (60.0, 205.0), (84.0, 200.0)]


def complex_(points: Any) -> np.ndarray:
    p = np.asarray(points, dtype=float)
    return p[:, 0] + 1j * p[:, 1]


@pytest.mark.parametrize("angle", [0.3, -1.2, 2.9])
def test_turning_all_handles_turns_the_sheet_rigidly(angle: float) -> None:
    solver = solver_over(LEG, BendSheet(handles=("a",), triangles=300), PINS)
    rest = complex_(PINS)
    turned = (rest - (20 + 10j)) * np.exp(1j * angle) + (50 + 70j)
    found = solved(solver, turned[:, None], np.ones(1, dtype=complex), 0, 1)[:, 0]
    wanted = (complex_(solver.mesh.vertices) - (20 + 10j)) * np.exp(1j * angle) + (50 + 70j)
    assert np.abs(found - wanted).max() < 1e-6


def test_handles_at_rest_leave_the_sheet_as_it_is_and_are_met_when_they_move() -> None:
    solver = solver_over(LEG, BendSheet(handles=("a",), triangles=300), PINS)
    rest = complex_(PINS)
    still = solved(solver, rest[:, None], np.ones(1, dtype=complex), 0, 1)[:, 0]
    assert np.abs(still - complex_(solver.mesh.vertices)).max() < 1e-9
    moved = rest.copy()
    moved[5] += 6 - 25j
    found = solved(solver, moved[:, None], np.ones(1, dtype=complex), 0, 1)[:, 0]
    assert np.abs(found[:6] - moved).max() < 1e-9
    # The toe rises; the hip does not notice.
    far = solver.mesh.vertices[:, 1] < 60
    assert np.abs(found[far] - complex_(solver.mesh.vertices)[far]).max() < 0.2


def test_a_knee_bends_a_sheet_and_keeps_its_area() -> None:
    solver = solver_over(LEG, BendSheet(handles=("a",), triangles=500), PINS)
    rest = complex_(PINS)
    knee = rest[1]
    bentlegs = np.where(np.arange(6) > 1, (rest - knee) * np.exp(1.0j) + knee, rest)
    found = solved(solver, bentlegs[:, None], np.ones(1, dtype=complex), 0, 1)[:, 0]
    t = solver.mesh.triangles
    a, b = found[t[:, 1]] - found[t[:, 0]], found[t[:, 2]] - found[t[:, 0]]
    areas = (a.conj() * b).imag / 2
    assert areas.sum() == pytest.approx(solver.mesh.area(), rel=0.06)
    assert (areas < 0).sum() <= 0.01 * len(areas)


@given(
    st.tuples(st.floats(60, 120), st.floats(-40, 160)),
    st.floats(0.8, 9),
    st.integers(80, 500),
    st.floats(-math.pi, math.pi),
    st.complex_numbers(max_magnitude=40, allow_nan=False),
)
def test_a_speck_that_no_handle_holds_goes_with_what_is_next_to_it(
    at: tuple[float, float], radius: float, wanted: int, turn: float, pull: complex
) -> None:
    speck = shapely.Point(at).buffer(radius)
    solver = solver_over(shapely.union_all([LEG, speck]), BendSheet(handles=("a",), triangles=wanted), PINS)
    rest, vertices = complex_(PINS), complex_(solver.mesh.vertices)
    still = solved(solver, rest[:, None], np.ones(1, dtype=complex), 0, 1)[:, 0]
    assert np.abs(still - vertices).max() < 1e-6
    whole = rest * np.exp(1j * turn)
    found = solved(solver, whole[:, None], np.ones(1, dtype=complex), 0, 1)[:, 0]
    assert np.abs(found - vertices * np.exp(1j * turn)).max() < 1e-3
    pulled = rest.copy()
    pulled[3:] += pull
    found = solved(solver, pulled[:, None], np.ones(1, dtype=complex), 0, 1)[:, 0]
    own = shapely.distance(shapely.points(solver.mesh.vertices), speck) < 6
    if (shapely.distance(shapely.Point(at), LEG) - radius) > 12:
        # It keeps its shape, and stays about as far from the rest as it was.
        middle = found[own].mean() - vertices[own].mean()
        assert abs(np.abs(found[own] - found[own].mean()) - np.abs(vertices[own] - vertices[own].mean())).max() < 1.5
        assert abs(middle) < 3 * abs(pull) + 1


@costly(10)
@given(st.integers(0, 30), st.integers(1, 12))
def test_some_frames_of_a_sheet_are_exactly_those_of_all(start: int, count: int) -> None:
    solver = solver_on(mesh_over(LEG, 150, 4, PINS), len(PINS))
    frames = 43
    rest = complex_(PINS)
    wave = rest[:, None] + np.outer(np.linspace(0, 1, 6), 20 * np.sin(np.arange(frames) / 5)) * (1 + 0.5j)
    lone = np.ones(frames, dtype=complex)
    whole = solved(solver, wave, lone, 0, frames)
    stop = min(frames, start + count)
    assert np.array_equal(solved(solver, wave, lone, start, stop), whole[:, start:stop])


def test_a_vector_drawing_lies_in_its_sheet() -> None:
    art = drawing(polygon((0, 0), (40, 0), (40, 200), (0, 200)))
    solver = solver_over(silhouette(art, SHELF), BendSheet(handles=("a", "b"), triangles=200), [(20, 10), (20, 190)])
    ready = sheet_ready(art, solver)
    assert ready.lies @ solver.mesh.vertices == pytest.approx(ready.skin.points, abs=1e-6)
    steps = [np.hypot(*(b - a)) for a, b in pairwise(ready.skin.points)]
    assert max(steps) < 20


def test_a_drawing_with_nothing_in_it_says_so() -> None:
    with pytest.raises(Refusal) as refused:
        silhouette(Art(bounds=(0, 0, 1, 1), nodes=()), SHELF)
    assert "nothing in it" in refused.value.what


def test_faint_weights_go_and_the_rest_share_one() -> None:
    found = normalised(np.array([[0.5, 0.499, 0.001], [0.0, 0.0, 0.0]]))
    assert found[0] == pytest.approx([0.5 / 0.999, 0.499 / 0.999, 0])
    assert found[1] == pytest.approx([1 / 3] * 3)


def bending_puppet() -> tuple[Documents, Shelf]:
    """An arm of one piece over two joints, and a leg on a sheet of three handles, on one body."""
    shelf = Shelf()
    arm_id, leg_id = shelf.keep(ARM), shelf.keep(drawing(polygon((0, 0), (30, 0), (30, 120), (0, 120))))
    documents = Documents({"p": Production(id="p", name="Quay")})
    documents = do(documents, {"do": "add-puppet", "id": "a", "name": "Gull"})

    def new(id: str, art: str, pivot: list[float], at: list[float]) -> dict[str, Any]:
        bounds = shelf.art(art).bounds
        return {
            "id": id,
            "name": id,
            "at": at,
            "drawing": {"id": "d", "name": id, "art": art, "pivot": pivot, "bounds": bounds},
        }

    pieces = [new("arm", arm_id, [0, 0], [100, 100]), new("leg", leg_id, [15, 5], [60, 200])]
    documents = do(documents, {"do": "add-pieces", "puppet": "a", "pieces": pieces})
    joints = [{"id": "elbow", "name": "elbow", "at": [200, 100], "parent": "arm"}]
    documents = do(documents, {"do": "add-joints", "puppet": "a", "joints": joints})
    documents = do(documents, {"do": "bend-piece", "puppet": "a", "piece": "arm"})
    handles = [
        {"id": f"h{i}", "name": f"handle {i}", "at": at, "handle": True, "parent": parent}
        for i, (at, parent) in enumerate((([60, 205], "leg"), ([60, 260], "leg"), ([60, 310], "h1")))
    ]
    documents = do(documents, {"do": "add-joints", "puppet": "a", "joints": handles, "sheet": "leg"})
    return do(documents, {"do": "add-motion", "id": "m", "puppet": "a", "name": "wave", "length": 40}), shelf


def test_a_puppet_evaluates_its_bending_pieces_and_again_only_where_keys_touch() -> None:
    documents, shelf = bending_puppet()
    bend = documents.puppet("a").pieces["arm"].attach
    assert isinstance(bend, Bend) and bend.joints == ("arm", "elbow")
    keys = [{"joint": "elbow", "kind": "turn", "frame": f, "value": [v]} for f, v in ((0, 0.0), (20, 90.0), (39, 0.0))]
    keys += [
        {"joint": "h2", "kind": "move", "frame": f, "value": [v, 0.0]} for f, v in ((0, 0.0), (10, 30.0), (39, 0.0))
    ]
    keyed = do(documents, {"do": "set-keys", "motion": "m", "keys": keys})
    before = Evaluation.full(keyed.puppet("a"), keyed.motion("m"), arts=shelf)
    arm_points, leg_points = before.points
    # At frame 21 the elbow is square: the hand's edge stands straight below it.
    far = before.rig.benders[0].ready.skin.points[:, 0] > 199
    assert arm_points[far, 1, 20] == pytest.approx(100, abs=0.5)
    assert np.ptp(leg_points[:, 0, 10] - leg_points[:, 0, 0]) > 20
    for joint, kind, frame, value in (
        ("elbow", "turn", 30, [20.0]),
        ("h1", "move", 15, [5.0, 1.0]),
        ("arm", "move", 3, [9.0, 2.0]),
    ):
        change = {
            "do": "set-keys",
            "motion": "m",
            "keys": [{"joint": joint, "kind": kind, "frame": frame, "value": value}],
        }
        keyed = do(keyed, change)
        after, touched = before.after(keyed.puppet("a"), keyed.motion("m"))
        full = Evaluation.full(keyed.puppet("a"), keyed.motion("m"), arts=shelf)
        assert touched.stop > touched.start
        assert np.array_equal(after.pieces, full.pieces)
        for a, b in zip(after.points, full.points, strict=True):
            assert np.array_equal(a, b)
        before = after
    frame = before.pose(20, {})
    for a, b in zip(frame.points, before.points, strict=True):
        assert a[:, :, 0] == pytest.approx(b[:, :, 20], abs=1e-6)


def test_a_bending_piece_goes_with_its_puppet_wherever_that_goes() -> None:
    documents, shelf = bending_puppet()
    rest = Evaluation.full(documents.puppet("a"), None, arts=shelf)
    whole = Affine.placed(30, -20, 40, 0, 1.5, 1.5)
    keys = [
        {"joint": "puppet", "kind": "turn", "frame": 0, "value": [40.0]},
        {"joint": "puppet", "kind": "move", "frame": 0, "value": [30.0, -20.0]},
        {"joint": "puppet", "kind": "scale", "frame": 0, "value": [1.5, 1.5]},
    ]
    keyed = do(documents, {"do": "set-keys", "motion": "m", "keys": keys})
    moved = Evaluation.full(keyed.puppet("a"), keyed.motion("m"), arts=shelf)
    assert whole != Affine.shift(30, -20)
    for a, b in zip(rest.points, moved.points, strict=True):
        assert b[:, :, 0] == pytest.approx(a[:, :, 0], abs=1e-6)


def test_a_handle_turns_the_patch_around_it_and_the_rest_gives() -> None:
    toe = 5
    sheet = BendSheet(handles=tuple("abcdef"), triangles=300, turning={"f": 14.0})
    solver = solver_over(LEG, sheet, PINS)
    rest, v = complex_(solver.mesh.vertices[:6]), complex_(solver.mesh.vertices)
    near = np.abs(v - rest[toe]) <= 14
    assert near.sum() >= 5, "however coarse the mesh is"
    turns = np.ones((6, 1), dtype=complex)
    turns[toe] = np.exp(0.6j)
    found = solved(solver, rest[:, None], turns, 0, 1)[:, 0]
    assert found[near] == pytest.approx((rest[toe] + turns[toe] * (v - rest[toe]))[near], abs=1e-9)
    # Far from it nothing stirs, and in between no triangle turns over.
    assert np.abs(found - v)[np.abs(v - rest[toe]) > 80].max() < 1.0
    corners = found[solver.mesh.triangles]
    areas = ((corners[:, 1] - corners[:, 0]).conj() * (corners[:, 2] - corners[:, 0])).imag
    assert areas.min() > 0
    # Without a patch a handle that is only turned does nothing.
    plain = solver_over(LEG, sheet.changed(turning={}), PINS)
    still = complex_(plain.mesh.vertices)
    assert solved(plain, complex_(plain.mesh.vertices[:6])[:, None], turns, 0, 1)[:, 0] == pytest.approx(
        still, abs=1e-6
    )


@given(st.integers(0, 2**32 - 1), st.integers(4, 400), st.integers(0, 40))
def test_each_point_goes_with_the_triangle_around_it_or_the_nearest(seed: int, wanted: int, count: int) -> None:
    shape = shapely.union_all(
        [shapely.box(0, 0, 60, 300), shapely.box(0, 260, 140, 310), shapely.Point(200, 40).buffer(9)]
    )
    mesh = mesh_over(shape, wanted, 2)
    points = np.random.default_rng(seed).uniform((-60, -60), (260, 360), (count, 2))
    rows, near = mesh.within(points)
    assert rows.shape == near.shape == (count, 3)
    assert (near[:, :, None] * mesh.vertices[rows]).sum(axis=1) == pytest.approx(points, abs=1e-6)
    triangles = shapely.polygons(mesh.vertices[mesh.triangles])
    for point, own, weights in zip(shapely.points(points), rows, near, strict=True):
        far = shapely.distance(triangles, point)
        assert shapely.distance(shapely.polygons(mesh.vertices[own]), point) == pytest.approx(far.min(), abs=1e-9)
        assert far.min() > 0 or weights.min() > -1e-9
