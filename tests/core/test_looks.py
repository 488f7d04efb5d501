"""Drawings, masks, colours, swatches, shapes and dials, by known answers."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from sorvan.core.art.colours import colours_in, corrected, corrected_levels, dressed
from sorvan.core.art.drawn import art_of, ellipse, segments, smoothed, with_corner, with_point, without_point
from sorvan.core.art.outlines import contours
from sorvan.core.change.shapes import drawn_arts
from sorvan.core.errors import Refusal
from sorvan.core.geometry import Affine
from sorvan.core.model.art import Picture
from sorvan.core.model.art import Shape as Drawn
from sorvan.core.model.documents import Documents
from sorvan.core.model.production import Production
from sorvan.core.model.puppet import Correction, Puppet
from sorvan.core.model.shape import EditableShape
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.rig.skeleton import piece_worlds
from tests.core.shelf import Shelf, drawing, polygon
from tests.core.worlds import do


def world(*ids: str, apart: float = 8, corner: float = 0) -> Documents:
    documents = Documents({"p": Production(id="p", name="Quay")})
    documents = do(documents, {"do": "add-puppet", "id": "a", "name": "Gull"})
    pieces = [
        {
            "id": id,
            "name": id,
            "at": [100 + apart * i, 100],
            "drawing": {
                "id": "d",
                "name": id,
                "art": "0" * 64,
                "pivot": [10 + corner + i, 5 + corner],
                "bounds": [corner, corner, corner + 20, corner + 10],
            },
        }
        for i, id in enumerate(ids)
    ]
    documents = do(documents, {"do": "add-pieces", "puppet": "a", "pieces": pieces})
    return do(documents, {"do": "add-motion", "id": "m", "puppet": "a", "name": "talk", "length": 10})


def edit(documents: Documents, do_: str, **fields: Any) -> Documents:
    return do(documents, {"do": do_, "puppet": "a", **fields})


def mouths() -> Documents:
    documents = world("smile", "open", "shut", "cheek")
    return edit(documents, "gather-drawings", piece="smile", others=["open", "shut"])


def held(documents: Documents, id: str = "smile") -> Any:
    return documents.puppet("a").pieces[id]


def test_gathered_pieces_become_drawings_that_stay_where_they_stood() -> None:
    before, after = world("smile", "open", "shut", "cheek"), mouths()
    assert sorted(after.puppet("a").pieces) == ["cheek", "smile"]
    assert [(d.name, d.number) for d in held(after).drawings] == [("smile", 0), ("open", 1), ("shut", 2)]
    for d in held(after).drawings:
        shown = edit(after, "show-drawing", piece="smile", drawing=d.id)
        was, now = piece_worlds(before.puppet("a"))[d.name], piece_worlds(shown.puppet("a"))["smile"]
        for corner in ((0, 0), (20, 10)):
            assert now.place(corner) == pytest.approx(was.place(corner))


@given(st.permutations(range(1, 12)), st.booleans())
def test_gathered_drawings_stay_as_they_are_numbered_by_name(order: list[int], keyed: bool) -> None:
    letters = "A O E S R T L U M F X"
    documents = world(*(f"m{n}" for n in order))
    names = {f"m{n}": f"{n} {letters.split()[n - 1]}" for n in order}
    for id, name in names.items():
        documents = edit(documents, "set-pieces", pieces=[id], name=name)
    if keyed:
        key = {"joint": f"m{order[0]}", "kind": "show", "frame": 2, "value": [0]}
        documents = do(documents, {"do": "set-keys", "motion": "m", "keys": [key]})
    documents = edit(documents, "gather-drawings", piece=f"m{order[0]}", others=[f"m{n}" for n in order[1:]])
    gathered = held(documents, f"m{order[0]}")
    # By what the pieces were called last, in the animator's order; what showed still shows.
    assert [d.name for d in gathered.drawings] == [names[f"m{n}"] for n in range(1, 12)]
    assert gathered.shown().name == names[f"m{order[0]}"]
    # Their numbers too, unless a key holds another already.
    numbers = [d.number for d in gathered.drawings]
    assert numbers == list(range(1, 12)) if not keyed else gathered.shown().number == 0


@pytest.mark.parametrize("cut", [True, False])
def test_pictures_without_a_place_are_laid_on_the_piece_they_are_gathered_into_and_no_others(cut: bool) -> None:
    corner = 0 if cut else 7
    documents = world("smile", "open", "shut", apart=60, corner=corner)
    before = {id: world_.place((10 + corner, 5 + corner)) for id, world_ in piece_worlds(documents.puppet("a")).items()}
    documents = edit(documents, "gather-drawings", piece="smile", others=["open", "shut"])
    for d in held(documents).drawings:
        shown = edit(documents, "show-drawing", piece="smile", drawing=d.id)
        middle = piece_worlds(shown.puppet("a"))["smile"].place((10 + corner, 5 + corner))
        assert middle == pytest.approx(before["smile" if cut else d.name])


def test_a_key_goes_on_choosing_its_drawing_when_they_are_reordered() -> None:
    keyed = do(mouths(), {"do": "set-keys", "motion": "m", "keys": [
        {"joint": "smile", "kind": "show", "frame": f, "value": [v]} for f, v in ((2, 2), (6, 1))
    ]})  # fmt: skip

    def shown(documents: Documents) -> list[str]:
        e = Evaluation.full(documents.puppet("a"), documents.motion("m"))
        row = e.puppet.order.index("smile")
        return [held(documents).drawings[i].name for i in e.shown[row]]

    # Before the first key it is as at rest; a drawing is chosen at its key, not on the way to it.
    assert shown(keyed) == ["smile"] * 2 + ["shut"] * 4 + ["open"] * 4
    ids = [d.id for d in held(keyed).drawings]
    turned = edit(keyed, "order-drawings", piece="smile", order=[ids[2], ids[0], ids[1]])
    assert shown(turned) == shown(keyed)
    assert held(turned).shown().name == "smile"
    # What shows decides where the pivot is, frame by frame.
    e = Evaluation.full(keyed.puppet("a"), keyed.motion("m"))
    row = e.puppet.order.index("smile")
    pivots = [held(keyed).drawings[i].pivot for i in e.shown[row]]
    at = [Affine(*e.pieces[row, :, f]).place(pivots[f]) for f in range(10)]
    assert at == [pytest.approx((100, 100))] * 10


def test_guide_lines_bring_drawings_to_one_height() -> None:
    documents = mouths()
    ids = [d.id for d in held(documents).drawings]
    for id, guide in zip(ids, (4.0, 7.5, 1.0), strict=True):
        documents = edit(documents, "set-drawing", piece="smile", drawing=id, guide=guide)
    lined = held(edit(documents, "register-drawings", piece="smile", to=ids[0], by="guide"))
    # A guide lies on the stage at pivot plus guide less the drawing's own pivot.
    heights = [d.guide - d.pivot[1] for d in lined.drawings]
    assert heights == pytest.approx([heights[0]] * 3)
    # Upright lines bring them together across; a drawing without one stays where it is across.
    across = documents
    for id, upright in zip(ids[:2], (3.0, 8.5), strict=True):
        across = edit(across, "set-drawing", piece="smile", drawing=id, upright=upright)
    both = held(edit(across, "register-drawings", piece="smile", to=ids[0], by="guide")).drawings
    assert [d.guide - d.pivot[1] for d in both] == pytest.approx([heights[0]] * 3)
    assert both[1].upright - both[1].pivot[0] == pytest.approx(both[0].upright - both[0].pivot[0])
    assert both[2].pivot[0] == held(documents).drawings[2].pivot[0]
    middles = held(edit(documents, "register-drawings", piece="smile", to=ids[1], by="middle"))
    centres = [
        ((d.bounds[0] + d.bounds[2]) / 2 - d.pivot[0], (d.bounds[1] + d.bounds[3]) / 2 - d.pivot[1])
        for d in middles.drawings
    ]
    assert centres == [pytest.approx(centres[1])] * 3
    # One edge brings them together one way, and leaves the other.
    for edge, way in (("left", 0), ("right", 0), ("top", 1), ("bottom", 1)):
        for n, id in enumerate(ids):
            documents = edit(documents, "set-drawing", piece="smile", drawing=id, dx=3 * n + 1, dy=7 - 2 * n)
        before = held(documents).drawings
        after = held(edit(documents, "register-drawings", piece="smile", to=ids[1], by=edge)).drawings
        side = way if edge in ("left", "top") else way + 2
        assert [d.bounds[side] - d.pivot[way] for d in after] == pytest.approx(
            [before[1].bounds[side] - before[1].pivot[way]] * 3
        )
        assert [d.pivot[1 - way] for d in after] == [d.pivot[1 - way] for d in before]
    bare = edit(documents, "set-drawing", piece="smile", drawing=ids[2], guide=None)
    with pytest.raises(Refusal):
        edit(bare, "register-drawings", piece="smile", to=ids[2], by="guide")


def test_a_guide_line_begins_where_it_is_likely_wanted_and_is_moved_from_where_it_is() -> None:
    documents = mouths()
    first = held(documents).drawings[0]
    assert first.bounds == (0, 0, 20, 10)

    def nudged(documents: Documents, line: str, **by: float) -> Documents:
        return edit(documents, "nudge-guide", piece="smile", drawing=first.id, line=line, **by)

    both = nudged(nudged(documents, "guide"), "upright", by=-1.5)
    assert (held(both).drawings[0].guide, held(both).drawings[0].upright) == (3.33, 8.5)
    # Two pulls, each of which knows nothing of the other, add up.
    assert held(nudged(nudged(both, "guide", by=2.0), "guide", by=0.5)).drawings[0].guide == pytest.approx(5.83)


def test_twins_that_share_have_one_set_of_drawings_until_one_gets_its_own() -> None:
    documents = edit(mouths(), "mirror-pieces", ids={"smile": "twin"}, share=True)
    new = {"id": "x", "name": "kiss", "art": "1" * 64, "pivot": [3, 3], "bounds": [0, 0, 6, 6]}
    documents = edit(documents, "add-drawings", piece="twin", drawings=[new])
    assert held(documents).drawings == held(documents, "twin").drawings
    before = piece_worlds(documents.puppet("a"))
    moved = edit(documents, "set-pivot", piece="smile", x=111, y=93)
    assert held(moved).drawings == held(moved, "twin").drawings
    for id in ("smile", "twin"):
        assert piece_worlds(moved.puppet("a"))[id].place((2, 3)) == pytest.approx(before[id].place((2, 3)))
    own = edit(moved, "share-drawings", pieces=["twin"], share=False)
    less = edit(own, "remove-drawings", piece="twin", drawings=["x"])
    assert len(held(less).drawings) == 4 and len(held(less, "twin").drawings) == 3
    with pytest.raises(Refusal):
        edit(less, "remove-drawings", piece="twin", drawings=[d.id for d in held(less, "twin").drawings])


def test_new_art_keeps_pivot_joint_and_keys() -> None:
    documents = do(
        mouths(),
        {"do": "set-keys", "motion": "m", "keys": [{"joint": "smile", "kind": "turn", "frame": 3, "value": [9]}]},
    )
    renewed = [{"piece": "smile", "drawing": "d", "art": "7" * 64, "bounds": [1, 1, 30, 12]}]
    after = edit(documents, "renew-art", renewed=renewed)
    assert held(after).drawings[0].art == "7" * 64
    assert held(after).drawings[0].pivot == held(documents).drawings[0].pivot
    assert after.puppet("a").joints == documents.puppet("a").joints and after.motion("m") == documents.motion("m")


def test_masks_may_nest_but_never_turn_in_a_circle() -> None:
    documents = world("face", "eye", "pupil")
    documents = edit(documents, "set-masks", pieces=["pupil"], masks={"eye": "inside"})
    documents = edit(documents, "set-masks", pieces=["eye"], masks={"face": "outside"})
    items = Evaluation.full(documents.puppet("a"), production=documents.production).items
    assert [i.masks for i in items] == [(), ((0, False),), ((1, True),)]
    with pytest.raises(Refusal) as refused:
        edit(documents, "set-masks", pieces=["face"], masks={"pupil": "inside"})
    assert "mask itself" in refused.value.what
    gone = edit(documents, "remove-pieces", pieces=["eye"])
    assert held(gone, "pupil").masks == ()


def test_a_hidden_group_hides_what_is_in_it() -> None:
    documents = edit(world("a1", "a2", "b"), "group-pieces", pieces=["a1", "a2"], group="g", name="arm")
    hidden = edit(documents, "set-group", group="g", hidden=True)
    assert [i.hidden for i in Evaluation.full(hidden.puppet("a"), production=hidden.production).items] == [
        True,
        True,
        False,
    ]


def test_colours_are_corrected_as_worked_out_by_hand() -> None:
    assert corrected("#808080ff", Correction()) == "#808080ff"
    assert corrected("#80402011", Correction(brightness=10)) == "#9a5a3a11"  # 128 + 25.5, 64 + 25.5, 32 + 25.5, rounded
    assert corrected("#ff0080ff", Correction(contrast=-100)) == "#808080ff"
    assert corrected("#404040ff", Correction(gamma=2)) == "#808080ff"  # sqrt(64/255)·255 = 127.7
    assert corrected("#000000ff", Correction(tint="#ff8000ff", amount=50)) == "#804000ff"
    levels = np.arange(256, dtype=np.uint8)[:, None].repeat(3, axis=1)
    brighter = corrected_levels(levels, Correction(brightness=20, contrast=30, gamma=1.4))
    assert np.all(np.diff(brighter.astype(int), axis=0) >= 0)


def test_a_piece_wears_its_swatches_and_its_correction_and_its_art_stays_as_it_is() -> None:
    shelf = Shelf()
    pixels = np.full((2, 2, 4), 100, dtype=np.uint8)
    art = drawing(
        polygon((0, 0), (9, 0), (9, 9), fill="#112233ff"),
        polygon((0, 0), (5, 0), (5, 5), fill="#11223380"),
        Picture(asset=shelf.picture(pixels), box=(0, 0, 2, 2)),
    )
    id = shelf.keep(art)
    assert colours_in(art) == ["fill:#112233ff", "fill:#11223380"]
    documents = world("coat")
    documents = do(documents, {"do": "set-swatch", "swatch": {"id": "navy", "name": "Navy", "colour": "#0000ffff"}})
    for which in colours_in(art):
        documents = edit(documents, "link-swatch", pieces=["coat"], which=which, swatch="navy")

    def worn(documents: Documents) -> list[str]:
        coat = held(documents, "coat")
        look = dressed(coat, coat.shown().model_copy(update={"art": id}), documents.production, shelf)
        return colours_in(shelf.art(look))

    assert worn(documents) == ["fill:#0000ffff", "fill:#0000ff80"]
    red = do(documents, {"do": "set-swatch", "swatch": {"id": "navy", "name": "Navy", "colour": "#ff0000ff"}})
    assert worn(red) == ["fill:#ff0000ff", "fill:#ff000080"]
    tinted = edit(red, "set-look", pieces=["coat"], colour={"tint": "#000000ff", "amount": 100}, opacity=0.4)
    assert worn(tinted) == ["fill:#000000ff", "fill:#00000080"]
    assert Evaluation.full(tinted.puppet("a"), production=tinted.production).items[0].opacity == 0.4
    bare = do(red, {"do": "remove-swatch", "swatch": "navy"})
    assert worn(bare) == colours_in(art) and shelf.art(id) == art


points = st.tuples(st.floats(0, 400), st.floats(0, 400))


def test_a_drawn_rectangle_and_ellipse_measure_what_was_dragged() -> None:
    documents = world("x")
    box = {"id": "r", "name": "box", "kind": "rectangle", "points": [[100, 50], [40, 90]], "width": 4}
    documents = edit(documents, "draw-shape", **box)
    oval = {"id": "e", "name": "oval", "kind": "ellipse", "points": [[0, 0], [60, 40]], "stroke": None}
    documents = edit(documents, "draw-shape", **oval)
    puppet = documents.puppet("a")
    assert puppet.pieces["r"].shown().bounds == (38, 48, 102, 92)
    art = art_of(puppet.pieces["e"].shown().shape)  # type: ignore[arg-type]
    node = art.nodes[0]
    assert isinstance(node, Drawn)
    assert shapely.Polygon(contours(node.outline)[0]).area == pytest.approx(math.pi * 30 * 20, rel=0.01)
    assert puppet.pieces["e"].shown().art in drawn_arts(documents)
    with pytest.raises(Refusal):
        edit(documents, "draw-shape", **{**box, "id": "t", "points": [[1, 1], [1.5, 1]]})


@given(st.tuples(points, points).filter(lambda p: math.dist(*p) > 20), points)
def test_a_point_added_on_an_edge_changes_nothing_to_see(ends: Any, near: Any) -> None:
    if min(abs(ends[0][0] - ends[1][0]), abs(ends[0][1] - ends[1][1])) < 4:
        return
    shape = EditableShape(kind="ellipse", points=ellipse(*ends))
    more = with_point(shape, near)

    def area(s: EditableShape) -> Any:
        node = art_of(s).nodes[0]
        assert isinstance(node, Drawn)
        return shapely.Polygon(contours(node.outline)[0])

    assert len(more.points) == 5
    assert area(shape).symmetric_difference(area(more)).area < 0.012 * area(shape).area
    assert len(without_point(more, 2).points) == 4


def test_points_can_be_moved_made_corners_and_made_smooth() -> None:
    documents = edit(world("x"), "draw-shape", id="r", name="box", kind="rectangle", points=[[0, 0], [40, 40]])
    documents = edit(documents, "edit-shape", piece="r", edit="move", point=2, at=[80, 70])
    shape = held(documents, "r").shown().shape
    assert (shape.points[2].x, shape.points[2].y) == (80, 70)
    # By so much, however the piece is turned and sized: on the stage it goes where it is sent.
    documents = edit(documents, "place-piece", piece="r", x=10, y=20, angle=90, sx=2, sy=1)
    place = piece_worlds(documents.puppet("a"))["r"].place
    before = place((80, 70))
    documents = edit(documents, "edit-shape", piece="r", edit="shift", point=2, at=[6, -4])
    moved = held(documents, "r").shown().shape.points[2]
    after = piece_worlds(documents.puppet("a"))["r"].place((moved.x, moved.y))
    assert (after[0] - before[0], after[1] - before[1]) == pytest.approx((6, -4), abs=2e-3)
    documents = edit(documents, "edit-shape", piece="r", edit="move", point=2, at=before)
    shape = held(documents, "r").shown().shape
    assert with_corner(shape, 2, smooth=True).points[2].smooth
    curved = segments(with_corner(shape, 2, smooth=True))
    assert curved[1][2] != curved[1][3]
    assert segments(shape)[1][2] == segments(shape)[1][3]
    for _ in range(1):
        documents = edit(documents, "edit-shape", piece="r", edit="remove", point=0)
    with pytest.raises(Refusal):
        edit(documents, "edit-shape", piece="r", edit="remove", point=0)
    with pytest.raises(Refusal) as refused:
        edit(documents, "edit-shape", piece="x", edit="add", at=[1, 1])
    assert "not drawn here" in refused.value.what


@given(st.lists(points, min_size=2, max_size=60), st.floats(0.5, 20))
def test_a_hand_drawn_line_is_never_further_from_what_is_kept_than_asked(line: Any, within: float) -> None:
    kept = smoothed(line, within)
    chords = shapely.LineString([(p.x, p.y) for p in kept]) if len(kept) > 1 else shapely.Point(line[0])
    assert max(chords.distance(shapely.Point(p)) for p in line) <= within + 0.002
    assert len(kept) <= len(line)


def dialled() -> Documents:
    documents = mouths()
    stops = [
        {"at": -10, "values": {"cheek.turn": [-20], "cheek.move": [0, 4], "smile.show": [2]}},
        {"at": 0},
        {"at": 10, "values": {"cheek.turn": [40], "smile.show": [1], "cheek.scale": [2, 1]}},
    ]
    dial = {"id": "mood", "name": "mood", "low": -10, "high": 10, "rest": 0, "stops": stops}
    return edit(documents, "set-dial", dial=dial)


def test_a_dial_drives_turns_moves_sizes_and_drawings_between_its_stops() -> None:
    documents = dialled()
    keys = [{"joint": "mood", "kind": "dial", "frame": f, "value": [v]} for f, v in ((0, -10.0), (4, 10.0), (9, 10.0))]
    keys += [{"joint": "cheek", "kind": "turn", "frame": 0, "value": [5.0]}]
    documents = do(documents, {"do": "set-keys", "motion": "m", "keys": keys})
    e = Evaluation.full(documents.puppet("a"), documents.motion("m"))
    turn = e.values["cheek.turn"][0]
    assert turn[:6] == pytest.approx([-15, -5, 5, 25, 45, 45])
    assert e.values["cheek.move"][1][:3] == pytest.approx([4, 2, 0])
    assert e.values["cheek.scale"][0][:6] == pytest.approx([1, 1, 1, 1.5, 2, 2])
    row = e.puppet.order.index("smile")
    assert [held(documents).drawings[i].name for i in e.shown[row, :6]] == [
        "shut",
        "shut",
        "smile",
        "smile",
        "open",
        "open",
    ]


def test_a_dial_at_rest_changes_nothing_and_joints_keep_their_limits_under_it() -> None:
    documents = dialled()
    rest = Evaluation.full(documents.puppet("a"))
    assert np.array_equal(rest.pieces, Evaluation.full(mouths().puppet("a")).pieces)
    tried = rest.pose(0, {"mood.dial": (0.0,)})
    assert tried.pieces == pytest.approx(rest.pieces)
    limited = edit(documents, "set-joints", joints=["cheek"], limits={"low": -5, "high": 12})
    turned = Evaluation.full(limited.puppet("a")).pose(0, {"mood.dial": (10.0,)})
    assert turned.values["cheek.turn"][0, 0] == 12
    without = edit(limited, "remove-dial", dial="mood")
    assert without.puppet("a").dials == {}
    with pytest.raises(Refusal):
        edit(documents, "set-dial", dial={"id": "d", "name": "d", "stops": [{"at": 0, "values": {"gone.turn": [1]}}]})


def test_a_reference_is_laid_under_the_work_and_is_no_part_of_what_is_drawn() -> None:
    laid = {"pictures": ["5" * 64], "width": 40, "height": 30}
    documents = edit(world("x"), "set-reference", reference=laid)
    assert documents.picture_assets() == {"5" * 64}
    assert len(Evaluation.full(documents.puppet("a"), production=documents.production).items) == 1
    assert isinstance(documents.puppet("a"), Puppet)
    assert edit(documents, "set-reference", reference=None).picture_assets() == frozenset()
