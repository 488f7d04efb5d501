"""A puppet seen from all round: views on one dial, the second half the first in the mirror."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorvan.core.checks.turning import findings_of_views
from sorvan.core.errors import Refusal
from sorvan.core.model.channel import Channel, Key
from sorvan.core.model.documents import Documents
from sorvan.core.model.production import Production
from sorvan.core.model.puppet import Dial, DialStop, Puppet
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.rig.views import drawn_by_view, offered_views, view_of
from tests.core.shelf import Shelf
from tests.core.test_becoming import steam
from tests.core.worlds import do, piece


def view(at: float, name: str, **more: Any) -> DialStop:
    return DialStop(at=at, name=name, **more)


def turning(*views: DialStop, **more: Any) -> tuple[Documents, Shelf]:
    """A puppet of a body with three drawings and a hand that hangs on it, on a turnaround of these views."""
    documents, shelf = steam(None)
    documents = do(documents, {"do": "link-joint", "puppet": "a", "joint": "q1", "parent": "q0"})
    dial = Dial(id="t", name="turn", low=0, high=360, rest=0, turns=True, stops=views, **more)
    documents = do(documents, {"do": "set-dial", "puppet": "a", "dial": dial.model_dump(mode="json")})
    blank = documents.motion("m")
    return documents.with_(blank.changed(channels={}, length=361)), shelf


def turned(
    documents: Documents, shelf: Shelf | None, *channels: Channel, way: tuple[float, float] = (0.0, 360.0)
) -> Evaluation:
    """The turn dial goes evenly over the motion, a degree a frame."""
    keys = {0: Key(value=(way[0],)), 360: Key(value=(way[1],))}
    motion = documents.motion("m").with_channels(Channel(joint="t", kind="dial", keys=keys), *channels)
    return Evaluation.full(documents.puppet("a"), motion, False, documents.production, shelf)


def shown(e: Evaluation) -> list[int]:
    found: list[int] = e.shown[e.puppet.order.index("q0")].tolist()
    return found


FRONT, SIDE, BACK = (
    view(0, "front"),
    view(90, "side", values={"q0.show": (1.0,)}),
    view(180, "back", values={"q0.show": (2.0,), "q1.opacity": (0.0,)}),
)
OTHER = view(270, "other side", of=90, flips=True)


def test_the_nearest_view_is_held_all_round() -> None:
    e = turned(*turning(FRONT, SIDE, BACK, OTHER))
    assert shown(e) == [0] * 45 + [1] * 90 + [2] * 90 + [1] * 90 + [0] * 46
    mirrored = e.worlds[0, 0] < 0
    assert mirrored.tolist() == [False] * 225 + [True] * 90 + [False] * 46
    # What is not seen from behind is clear there, and there alone.
    hand = e.places.opacity[e.puppet.order.index("q1")]
    assert hand.tolist() == [1] * 135 + [0] * 90 + [1] * 136
    # Round and round, either way.
    back = turned(*turning(FRONT, SIDE, BACK, OTHER), way=(360.0, 0.0))
    assert shown(back)[1:] == shown(e)[::-1][1:]
    again = turned(*turning(FRONT, SIDE, BACK, OTHER), way=(720.0, 1080.0))
    assert shown(again) == shown(e)


def test_views_become_one_another_where_that_is_asked_for() -> None:
    e = turned(
        *turning(FRONT, view(90, "side", values={"q0.show": (1.0,), "q1.move": (30.0, -10.0)}), BACK, between="morph")
    )
    on = e.places.becoming[e.puppet.order.index("q0")]
    assert on.pairs == ((0, 1), (1, 2), (2, 0))
    assert on.parts[91:180] == pytest.approx([k / 90 for k in range(1, 90)])
    at_rest = turned(*turning(FRONT)).worlds[e.rig.row["q1"]]
    moved = e.worlds[e.rig.row["q1"]]
    for frame, part in ((0, 0.0), (45, 0.5), (90, 1.0), (135, 0.5), (180, 0.0)):
        assert moved[4:, frame] - at_rest[4:, frame] == pytest.approx((30 * part, -10 * part))


def test_the_second_half_is_the_first_in_the_mirror_until_it_is_changed() -> None:
    side = view(90, "side", values={"q0.show": (1.0,), "q1.move": (30.0, -10.0), "q1.turn": (20.0,)}, shorten=0.5)
    documents, shelf = turning(FRONT, side, BACK, OTHER)
    swing = Channel(joint="q1", kind="turn", keys={0: Key(value=(40.0,))})
    e = turned(documents, shelf, swing)
    origin = documents.puppet("a").origin[0]
    hand = e.worlds[e.rig.row["q1"]]
    mirror = hand[:, 270].copy()
    # Mirrored in the line through where the puppet stands: x, and what x becomes, turn round.
    mirror[[0, 2]] *= -1
    mirror[4] = 2 * origin - mirror[4]
    assert mirror == pytest.approx(hand[:, 90])
    # A motion's swing is half as wide there, on top of how the hand hangs in that view.
    angle = float(np.degrees(np.arctan2(hand[1, 90], hand[0, 90])))
    assert angle == pytest.approx(20 + 0.5 * 40)
    # What is changed later in the first half is so in the second too, but what was changed there itself.
    stops = {s.at: s for s in documents.puppet("a").dials["t"].stops}
    later = side.changed(values={**side.values, "q1.move": (50.0, 0.0)})
    own = stops[270].changed(values={"q1.turn": (-5.0,)})
    dial = documents.puppet("a").dials["t"].changed(stops=(FRONT, later, BACK, own))
    assert dial.view(own).values == {**later.values, "q1.turn": (-5.0,)}
    assert dial.view(own).shorten == 0.5


def test_what_a_motion_shows_itself_is_shown_in_every_view() -> None:
    documents, shelf = turning(FRONT, SIDE, BACK, OTHER)
    e = turned(documents, shelf, Channel(joint="q0", kind="show", keys={0: Key(value=(2.0,)), 120: Key(value=(-1.0,))}))
    assert shown(e)[:120] == [2] * 120
    assert shown(e)[120] == 1


@given(
    st.lists(st.integers(0, 359), min_size=1, max_size=6, unique=True),
    st.floats(-900, 900),
    st.sampled_from(["hold", "morph"]),
)
def test_at_a_view_it_is_just_that_view(places: list[int], angle: float, between: str) -> None:
    views = tuple(
        view(float(p), f"v{p}", values={"q1.turn": (float(p % 50),), "q1.order": (float(n % 2),)})
        for n, p in enumerate(places)
    )
    documents, shelf = turning(*views, between=between)
    for n, place in enumerate(places):
        pose = Evaluation.full(documents.puppet("a"), None, False, documents.production, shelf).pose(
            0, {"t.dial": (float(place) + 720 * (n - 2),)}
        )
        assert pose.values["q1.turn"][0, 0] == pytest.approx(place % 50)
        assert pose.values["q1.order"][0, 0] == n % 2
    somewhere = Evaluation.full(documents.puppet("a"), None, False, documents.production, shelf).pose(
        0, {"t.dial": (angle,)}
    )
    turns = [p % 50 for p in places]
    assert min(turns) - 1e-6 <= somewhere.values["q1.turn"][0, 0] <= max(turns) + 1e-6


@pytest.mark.parametrize("wrong", [
    {"stops": [{"at": 0}, {"at": 0}]},
    {"stops": [{"at": 360}]},
    {"stops": [{"at": 0}, {"at": 90, "of": 45}]},
    {"stops": [{"at": 0}, {"at": 90, "of": 0}, {"at": 180, "of": 90}]},
    {"high": 180},
])  # fmt: skip
def test_views_that_make_no_turn_are_refused(wrong: dict[str, Any]) -> None:
    documents, _ = turning(FRONT)
    dial = {"id": "t", "name": "turn", "low": 0, "high": 360, "rest": 0, "turns": True, "stops": [{"at": 0}], **wrong}
    with pytest.raises(Refusal):
        do(documents, {"do": "set-dial", "puppet": "a", "dial": dial})


def test_a_dial_that_fades_a_piece_leaves_it_whole_at_its_rest() -> None:
    documents, shelf = turning(FRONT)
    stops = [{"at": 0, "values": {}}, {"at": 100, "values": {"q1.opacity": [0]}}]
    documents = do(documents, {"do": "set-dial", "puppet": "a", "dial": {"id": "f", "name": "fade", "stops": stops}})
    whole: Puppet = documents.puppet("a")
    rest = Evaluation.full(whole, None, False, documents.production, shelf)
    row = whole.order.index("q1")
    for at, part in ((0.0, 1.0), (25.0, 0.75), (100.0, 0.0)):
        assert rest.pose(0, {"f.dial": (at,)}).places.opacity[row, 0] == pytest.approx(part)


def views(documents: Documents) -> dict[float, DialStop]:
    return {s.at: s for s in documents.puppet("a").dials["t"].stops}


def test_a_turn_is_made_view_by_view_and_its_second_half_in_one_step() -> None:
    documents, _ = steam(None)
    documents = do(documents, {"do": "add-turnaround", "puppet": "a", "id": "t"})
    documents = do(documents, {"do": "add-view", "puppet": "a", "dial": "t", "at": 90, "name": "side"})
    side = {"puppet": "a", "dial": "t", "at": 90}
    documents = do(documents, {"do": "keep-view", **side, "tried": {"q0.show": [1], "q1.turn": [20], "t.dial": [90]}})
    # What is tried comes on top of what is kept.
    documents = do(documents, {"do": "keep-view", **side, "tried": {"q1.turn": [5], "q1.scale": [0.5, 1]}})
    assert views(documents)[90].values == {"q0.show": (1,), "q1.turn": (25,), "q1.scale": (0.5, 1)}
    documents = do(documents, {"do": "add-view", "puppet": "a", "dial": "t", "at": 135, "name": "three-quarter back"})
    assert views(documents)[135].values == views(documents)[90].values, "as a copy of the one before"
    documents = do(documents, {"do": "flip-views", "puppet": "a", "dial": "t"})
    assert sorted(views(documents)) == [0, 90, 135, 225, 270]
    assert (views(documents)[270].of, views(documents)[270].flips) == (90, True)
    # The mirror stands below the middle: the puppet reaches from -3 to 117 across, and down to 116.
    assert documents.puppet("a").origin == (57, 116)
    # A view that is put elsewhere takes along what is made of it; one that goes, too.
    documents = do(documents, {"do": "set-view", **side, "to": 80, "shorten": 0.4})
    assert views(documents)[280].of == 80
    dial = documents.puppet("a").dials["t"]
    assert dial.view(views(documents)[280]).shorten == 0.4
    own = {"puppet": "a", "dial": "t", "at": 280}
    documents = do(documents, {"do": "keep-view", **own, "tried": {"q1.turn": [-30]}})
    assert views(documents)[280].values == {"q1.turn": (-5,)}
    gone = do(documents, {"do": "remove-view", "puppet": "a", "dial": "t", "at": 80})
    assert sorted(views(gone)) == [0, 135, 225]
    for wrong in (
        {"do": "add-turnaround", "puppet": "a", "id": "u"},
        {"do": "add-view", "puppet": "a", "dial": "t", "at": 135, "name": "again"},
        {"do": "set-view", "puppet": "a", "dial": "t", "at": 0, "to": 10},
        {"do": "remove-view", "puppet": "a", "dial": "t", "at": 0},
        {"do": "remove-view", "puppet": "a", "dial": "t", "at": 33},
        {"do": "flip-views", "puppet": "a", "dial": "t"},
        {"do": "keep-view", "puppet": "a", "dial": "gone", "at": 0, "tried": {}},
    ):
        with pytest.raises(Refusal):
            do(documents, wrong)
    # Untold, the usual views come one after the other, then what halves the widest gap.
    usual = do(steam(None)[0], {"do": "add-turnaround", "puppet": "a", "id": "t"})
    for _ in range(5):
        usual = do(usual, {"do": "add-view", "puppet": "a", "dial": "t"})
    assert [(s.at, s.name) for s in views(usual).values()] == [
        (0, "front"), (45, "three-quarter"), (90, "side"), (135, "three-quarter back"), (180, "back"), (270, "270°"),
    ]  # fmt: skip
    # What a view speaks of goes with it.
    without = do(documents, {"do": "remove-pieces", "puppet": "a", "pieces": ["q1"]})
    assert set(views(without)[80].values) == {"q0.show"}
    assert views(without)[280].of == 80


def found(documents: Documents) -> list[tuple[str, str]]:
    return [(f.check, f.text) for f in findings_of_views(documents.puppet("a"))]


def test_views_are_looked_through_for_what_is_missing_jumps_or_changes_sides() -> None:
    show = {"q0.show": (1.0,)}
    good = turning(
        FRONT, view(45, "three-quarter", values=show), view(90, "side", values=show), view(180, "back", values=show)
    )[0]
    assert found(good) == []
    gap = turning(
        FRONT,
        view(45, "three-quarter", values=show),
        view(90, "side"),
        view(135, "rear", values=show),
        view(180, "back", values=show),
    )[0]
    assert [c for c, _ in found(gap)] == ["missing in a view"]
    assert "“side”" in found(gap)[0][1]
    # What is not seen there is missed by nobody.
    unseen = view(90, "side", values={"q0.opacity": (0.0,)})
    assert not found(turning(FRONT, view(45, "three-quarter", values=show), unseen, view(180, "back", values=show))[0])
    # From between two views near by that show it, it should be seen.
    near = view(90, "side", values={"q0.opacity": (0.0,)})
    unseen = turning(FRONT, view(45, "three-quarter", values=show), near, view(135, "rear", values=show))[0]
    assert [c for c, _ in found(unseen)] == ["missing in a view"]

    # The hand hangs 100 units beside and below what it hangs on. Turned by a quarter it goes across by as much as 141
    # units, and never up or down; half of its bone more is a jump.
    for far, told in (
        ((200.0, 0.0), []), ((220.0, 0.0), ["jump between views"] * 2), ((-90.0, 60.0), []),
        ((0.0, 75.0), ["jump between views"] * 2),
    ):  # fmt: skip
        moved = turning(FRONT, view(90, "side", values={"q1.move": far}), BACK.changed(values={}))[0]
        assert [c for c, _ in found(moved)] == told

    for orders, told in (((0, 1.5, 1.5), []), ((0, 1.5, 0), ["order flips twice"])):
        stops = [view(90.0 * n, f"v{n}", values={"q1.order": (float(o),)}) for n, o in enumerate(orders)]
        assert [c for c, _ in found(turning(*stops)[0])] == told

    flipped = turning(FRONT, SIDE, OTHER)[0]
    assert found(flipped) == []
    badge = do(flipped, {"do": "set-joints", "puppet": "a", "joints": ["q1"], "side": "left"})
    badge = do(badge, {"do": "set-pieces", "puppet": "a", "pieces": ["q1"], "side": "left"})
    assert [c for c, _ in found(badge)] == ["changes sides"]
    # Marked, it counts wherever it is; one click turns it the right way round, if it carries nothing else.
    marked = do(flipped, {"do": "set-pieces", "puppet": "a", "pieces": ["q1"], "one_way": True})
    (told,) = findings_of_views(marked.puppet("a"))
    assert told.mend is not None
    mended = told.mend.apply(marked)
    assert found(mended) == []
    assert mended.puppet("a").dials["t"].stops[-1].values == {"q1.scale": (-1, 1)}
    hidden = do(badge, {"do": "keep-view", "puppet": "a", "dial": "t", "at": 270, "tried": {"q1.opacity": [0]}})
    assert found(hidden) == []


@pytest.mark.parametrize(("name", "at", "rest"), [
    ("head side", 90, "head"), ("side_head", 90, "head"), ("Head (back)", 180, "Head"), ("head.3/4", 45, "head"),
    ("head-front", 0, "head"), ("head 3-4 back", 135, "head"), ("rear three-quarter arm left", 135, "arm left"),
    ("arm_profile_left", 90, "arm left"), ("hand 34", 45, "hand"), ("front", 0, ""),
])  # fmt: skip
def test_names_tell_the_view(name: str, at: float, rest: str) -> None:
    told = view_of(name)
    assert told is not None
    assert (told[0], told[2]) == (at, rest)


@pytest.mark.parametrize("name", ["head", "inside", "sidecar", "backpack", "frontier", "arm 134"])
def test_names_that_tell_no_view_tell_none(name: str) -> None:
    assert view_of(name) is None


def test_pieces_named_by_view_become_views_foot_on_foot() -> None:
    documents = Documents({"p": Production(id="p", name="Quay")})
    documents = do(documents, {"do": "add-puppet", "id": "a", "name": "Porter"})
    # Drawn beside one another, 300 units apart; the side view stands 10 units lower.
    sheet = [
        ("head front", 100, 100),
        ("coat front", 100, 200),
        ("side_coat", 400, 210),
        ("head side", 400, 110),
        ("coat back", 700, 200),
        ("cap", 100, 80),
    ]
    pieces = [{**piece(f"p{n}", x, y), "name": name} for n, (name, x, y) in enumerate(sheet)]
    documents = do(documents, {"do": "add-pieces", "puppet": "a", "pieces": pieces})
    made = do(documents, {"do": "gather-views", "puppet": "a", "dial": "t"})
    held = made.puppet("a").pieces
    assert [p.name for p in held.values()] == ["head front", "coat front", "cap"]
    assert [len(p.drawings) for p in held.values()] == [2, 3, 1]
    # The head was drawn before the coat from the front, and behind it from the side.
    assert {s.at: (s.name, s.values) for s in made.puppet("a").dials["t"].stops} == {
        0: ("front", {}),
        90: ("side", {"p0.show": (1,), "p1.show": (1,), "p0.order": (1.3333,)}),
        180: ("back", {"p0.opacity": (0,), "p1.show": (2,)}),
    }
    # Where the front stood, all of the side stands now: their pivots lie on one another.
    for p in (held["p0"], held["p1"]):
        assert p.drawings[1].pivot == pytest.approx(p.drawings[0].pivot)
    with pytest.raises(Refusal):
        do(made, {"do": "gather-views", "puppet": "a", "dial": "t"})


def test_groups_tell_the_view_of_what_is_in_them() -> None:
    """Of two pieces of one name the second came in with a number; what has numbers of its own keeps them."""
    documents = Documents({"p": Production(id="p", name="Quay")})
    documents = do(documents, {"do": "add-puppet", "id": "a", "name": "Porter"})
    groups = [{"id": "f", "name": "Front"}, {"id": "s", "name": "Side view"}]
    inside = [("head", "f"), ("hand 1", "f"), ("hand 2", "f"), ("cap", None),
              ("head", "s"), ("hand 1", "s"), ("hand 2", "s"), ("cap", "s")]  # fmt: skip
    pieces = [{**piece(f"p{n}", 10 * n, 0), "name": name, "group": g} for n, (name, g) in enumerate(inside)]
    documents = do(documents, {"do": "add-pieces", "puppet": "a", "pieces": pieces, "groups": groups})
    puppet = documents.puppet("a")
    assert puppet.pieces["p4"].name == "head 2"
    by = drawn_by_view(puppet)
    assert by["head"] == {0.0: "p0", 90.0: "p4"}
    assert by["cap"] == {0.0: "p3", 90.0: "p7"}
    assert sorted(len(v) for v in by.values()) == [2, 2, 2, 2]
    # One thing that has another behind it is not seen from all round.
    hairs = [{**piece(f"q{n}", 10 * n, 0), "name": name} for n, name in enumerate(("hair", "hair back", "1 A", "2 O"))]
    other = do(documents, {"do": "add-puppet", "id": "b", "name": "Guard"})
    other = do(other, {"do": "add-pieces", "puppet": "b", "pieces": hairs})
    assert offered_views(other.puppet("b")) == {} and offered_views(puppet) == by
    made = do(documents, {"do": "gather-views", "puppet": "a", "dial": "t"}).puppet("a")
    assert [d.name for d in made.pieces["p0"].drawings] == ["front", "side"]


def test_what_becomes_a_view_turns_about_its_own_pin_there() -> None:
    """Drawn over one another: an arm that hangs elsewhere from the side stays where it was drawn, and so does its pin."""
    documents = Documents({"p": Production(id="p", name="Quay")})
    documents = do(documents, {"do": "add-puppet", "id": "a", "name": "Porter"})
    sheet = [("coat front", 100, 100), ("coat side", 102, 100), ("arm front", 60, 90), ("arm side", 95, 84)]
    pieces = [{**piece(f"p{n}", x, y), "name": name} for n, (name, x, y) in enumerate(sheet)]
    documents = do(documents, {"do": "add-pieces", "puppet": "a", "pieces": pieces})
    before = Evaluation.full(documents.puppet("a"))
    drawn_at = before.pieces[before.puppet.order.index("p3"), :, 0]
    made = Evaluation.full(do(documents, {"do": "gather-views", "puppet": "a", "dial": "t"}).puppet("a"))
    side = made.pose(0, {"t.dial": (90.0,)})
    assert tuple(side.worlds[side.rig.row["p2"], 4:, 0]) == pytest.approx((95, 84))
    assert side.pieces[side.puppet.order.index("p2"), :, 0] == pytest.approx(drawn_at)


def test_what_is_seen_from_behind_only_is_not_seen_as_it_is_rigged() -> None:
    """A piece that the front lacks is there from where it was drawn alone, with the dial at rest too."""
    documents = Documents({"p": Production(id="p", name="Quay")})
    documents = do(documents, {"do": "add-puppet", "id": "a", "name": "Porter"})
    names = ("coat front", "coat side", "coat back", "pack side", "pack back")
    pieces = [{**piece(f"p{n}", 100, 100), "name": name} for n, name in enumerate(names)]
    documents = do(documents, {"do": "add-pieces", "puppet": "a", "pieces": pieces})
    documents = do(documents, {"do": "gather-views", "puppet": "a", "dial": "t"})
    puppet = documents.puppet("a")
    rest = Evaluation.full(puppet)
    row = puppet.order.index("p3")
    assert rest.places.opacity[row, 0] == 0
    for at, seen in ((0.0, 0), (90.0, 1), (180.0, 1)):
        assert rest.pose(0, {"t.dial": (at,)}).places.opacity[row, 0] == seen


def test_in_a_view_a_joint_lies_elsewhere_and_what_hangs_on_it_stays() -> None:
    documents, shelf = turning(FRONT, SIDE, BACK, OTHER)

    def at(e: Evaluation, joint: str) -> tuple[float, float]:
        return tuple(e.worlds[e.rig.row[joint], 4:, 0])

    before = Evaluation.full(documents.puppet("a"), None, False, documents.production, shelf)
    told = {"puppet": "a", "dial": "t", "at": 90, "joint": "q0", "x": 40, "y": 25}
    placed = do(documents, {"do": "place-in-view", **told})
    after = Evaluation.full(placed.puppet("a"), None, False, placed.production, shelf)
    assert np.array_equal(before.pieces, after.pieces), "as it is rigged all is as it was"
    one, two = (e.pose(0, {"t.dial": (90.0,)}) for e in (before, after))
    assert at(two, "q0") == pytest.approx((40, 25))
    assert two.pieces[:, :, 0] == pytest.approx(one.pieces[:, :, 0]), "pictures stay"
    assert at(two, "q1") == pytest.approx(at(one, "q1")), "and so does what hangs on it"
    # In the mirror it lies on the other side; from behind, where it lay.
    x = documents.puppet("a").origin[0]
    assert at(after.pose(0, {"t.dial": (270.0,)}), "q0") == pytest.approx((2 * x - 40, 25))
    assert at(after.pose(0, {"t.dial": (180.0,)}), "q0") == pytest.approx(at(before, "q0"))
    # Told in the mirror, it is so there alone.
    own = do(placed, {"do": "place-in-view", **told, "at": 270, "x": 2 * x - 60})
    turned = Evaluation.full(own.puppet("a"), None, False, own.production, shelf)
    assert at(turned.pose(0, {"t.dial": (270.0,)}), "q0") == pytest.approx((2 * x - 60, 25))
    assert at(turned.pose(0, {"t.dial": (90.0,)}), "q0") == pytest.approx((40, 25))
    for wrong in ({"at": 0}, {"at": 33}, {"joint": "gone"}):
        with pytest.raises(Refusal):
            do(documents, {"do": "place-in-view", **told, **wrong})


def test_arms_and_legs_can_swing_less_than_the_rest() -> None:
    documents, _ = turning(FRONT, view(90, "side", shorten=0.5))
    documents = do(documents, {"do": "set-joints", "puppet": "a", "joints": ["q1"], "role": "hand"})
    documents = do(documents, {"do": "set-view", "puppet": "a", "dial": "t", "at": 90, "arms": 0.25})
    pose = Evaluation.full(documents.puppet("a")).pose(0, {"t.dial": (90.0,), "q0.turn": (40.0,), "q1.turn": (40.0,)})
    assert (pose.values["q0.turn"][0, 0], pose.values["q1.turn"][0, 0]) == (20, 10)
