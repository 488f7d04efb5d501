"""Splitting pieces into their parts, and joining pieces into one."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorvan.core.art.parting import parts_of, together
from sorvan.core.change.parting import JoinPieces, NewPart, SplitPiece
from sorvan.core.change.rig import LinkJoint
from sorvan.core.errors import Refusal
from sorvan.core.geometry import Affine
from sorvan.core.model.art import Art, Flat, Layer, Outline, Shape
from sorvan.core.model.documents import Documents
from sorvan.core.model.production import Production
from sorvan.core.model.puppet import Drawing, Joint, Piece, Placement, Puppet
from sorvan.core.rig.skeleton import piece_worlds, rest_worlds

HEX = "0123456789abcdef"


def square(x: float, y: float, colour: str = "#336699ff") -> Shape:
    points = (x, y, x + 9, y, x + 9, y + 9, x, y + 9)
    return Shape(outline=Outline(verbs="MLLLZ", points=points), fill=Flat(colour=colour))


def drawing(id: str, box: tuple[float, float, float, float], art: int = 0) -> Drawing:
    pivot = ((box[0] + box[2]) / 2, (box[1] + box[3]) / 2)
    return Drawing(id=id, name=id, art=HEX[art] * 64, pivot=pivot, bounds=box)


def puppet() -> Puppet:
    """A turned and stretched body, an arm that hangs on it, and a hand on that."""
    joints = {
        "body": Joint(id="body", name="body", rest=Placement(x=300, y=200, angle=30, sx=1.2, sy=0.8)),
        "arm": Joint(id="arm", name="arm", parent="body", rest=Placement(x=40, y=-5, angle=-70)),
        "hand": Joint(id="hand", name="hand", parent="arm", rest=Placement(x=2, y=60)),
    }
    pieces = {
        id: Piece(
            id=id, name=id, joint=id, drawings=(drawing(id, (0, 0, 40, 20), n),), fit=Placement(sx=2, sy=2, angle=n * 9)
        )
        for n, id in enumerate(joints)
    }
    return Puppet(id="a", name="Gull", joints=joints, pieces=pieces, order=("body", "arm", "hand"))


def corners(of: Puppet, id: str, box: tuple[float, float, float, float]) -> list[float]:
    world = piece_worlds(of)[id]
    return [v for corner in ((box[0], box[1]), (box[2], box[3])) for v in world.place(corner)]


@given(st.lists(st.tuples(*[st.floats(0, 30), st.floats(0, 20)]), min_size=1, max_size=6))
def test_parts_stay_where_they_were_and_hang_on_the_piece(places: list[tuple[float, float]]) -> None:
    before = puppet()
    kept = before.pieces["arm"].drawings[0]
    boxes = [(x, y, x + 9, y + 7) for x, y in places]
    parts = tuple(NewPart(id=f"p{n}", name="part", drawing=drawing(f"d{n}", box)) for n, box in enumerate(boxes))
    after = SplitPiece(puppet="a", piece="arm", kept=kept.changed(art="f" * 64), parts=parts).on(before)
    for n, box in enumerate(boxes):
        assert corners(after, f"p{n}", box) == pytest.approx(corners(before, "arm", box), abs=1e-6)
        assert after.joints[f"p{n}"].parent == "arm"
        # It turns about its own middle.
        middle = piece_worlds(before)["arm"].place(((box[0] + box[2]) / 2, (box[1] + box[3]) / 2))
        assert rest_worlds(after)[f"p{n}"].at == pytest.approx(middle, abs=1e-6)
    assert after.order == ("body", "arm", *(p.id for p in parts), "hand")
    assert after.joints["arm"] == before.joints["arm"] and after.pieces["arm"].drawings[0].art == "f" * 64
    assert len({p.name for p in after.pieces.values()}) == len(after.pieces)


def test_what_hung_on_joined_pieces_hangs_on_the_one_that_stays() -> None:
    before = puppet()
    documents = Documents({"p": Production(id="p", name="Quay"), "a": before})
    new = before.pieces["body"].drawings[0].changed(art="e" * 64)
    after = JoinPieces(puppet="a", into="body", others=("arm",), drawing=new).apply(documents).puppet("a")
    assert set(after.pieces) == {"body", "hand"} and set(after.joints) == {"body", "hand"}
    assert after.joints["hand"].parent == "body"
    box = (0.0, 0.0, 40.0, 20.0)
    assert corners(after, "hand", box) == pytest.approx(corners(before, "hand", box), abs=1e-6)
    # Joined into what hung on it, the rest hangs there too, and nothing hangs on itself.
    new = before.pieces["hand"].drawings[0].changed(art="e" * 64)
    other = LinkJoint(puppet="a", joint="body", parent=None).on(before)
    documents = Documents({"p": Production(id="p", name="Quay"), "a": other})
    after = JoinPieces(puppet="a", into="hand", others=("arm", "body"), drawing=new).apply(documents).puppet("a")
    assert set(after.joints) == {"hand"} and after.joints["hand"].parent is None
    assert corners(after, "hand", box) == pytest.approx(corners(before, "hand", box), abs=1e-6)


def test_pieces_with_several_drawings_are_neither_split_nor_joined() -> None:
    before = puppet()
    many = before.pieces["arm"].changed(
        drawings=(drawing("one", (0, 0, 9, 9)), drawing("two", (0, 0, 9, 9)).changed(number=1))
    )
    held = before.with_pieces(many)
    part = NewPart(id="x", name="x", drawing=drawing("y", (0, 0, 1, 1)))
    with pytest.raises(Refusal, match="can't be split, because it has several drawings"):
        SplitPiece(puppet="a", piece="arm", kept=many.drawings[0], parts=(part,)).on(held)
    documents = Documents({"p": Production(id="p", name="Quay"), "a": held})
    with pytest.raises(Refusal, match="can't be joined"):
        JoinPieces(puppet="a", into="body", others=("arm",), drawing=before.pieces["body"].drawings[0]).apply(documents)


def test_parts_keep_what_lies_round_all_of_them() -> None:
    first, second = square(0, 0), square(20, 0, "#ff0000ff")
    around = Layer(matrix=Affine.shift(5, 0), opacity=0.5, nodes=(Layer(blend="multiply", nodes=(first, second)),))
    parts = parts_of(Art(bounds=(5, 0, 34, 9), nodes=(around,)))
    assert [part.nodes[0].nodes for part in parts] == [(first,), (second,)]  # type: ignore[union-attr]
    assert all(part.opacity == 0.5 and part.nodes[0].blend == "multiply" for part in parts)  # type: ignore[union-attr]
    one = Art(bounds=(0, 0, 9, 9), nodes=(first,))
    both = together([(one, Affine(1, 0, 0, 1, 0, 0), 1.0), (one, Affine(0, 2, -2, 0, 50, 0), 0.25)])
    assert both.bounds == (0, 0, 50, 18)
    assert both.nodes[0] == first and isinstance(both.nodes[1], Layer) and both.nodes[1].opacity == 0.25
