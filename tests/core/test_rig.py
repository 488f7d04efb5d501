"""The skeleton: drawing it, riding on it, mirroring it, sides and roles."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from sorvan.core.checks.rig import findings
from sorvan.core.errors import Refusal
from sorvan.core.geometry import near
from sorvan.core.model.documents import Documents
from sorvan.core.model.production import Production
from sorvan.core.model.puppet import Bend, Limits, Puppet
from sorvan.core.rig.names import side_of, sideless, twin_name
from sorvan.core.rig.roles import role_by_name, roles_of
from sorvan.core.rig.sides import middles_of, twins
from sorvan.core.rig.skeleton import piece_worlds, rest_worlds
from tests.core.hung import figure, found, id_of, mended
from tests.core.worlds import changed, do, piece, productions


@pytest.mark.parametrize(
    ("name", "side"),
    [
        ("L arm", "left"), ("arm_l", "left"), ("arm.R", "right"), ("leftHand", "left"), ("UpperArmR", "right"), ("right-foot", "right"),
        ("front leg", "right"), ("back arm", "left"), ("near wing", "right"), ("far_hand", "left"),
        ("arm_Lt", "left"), ("handRt", "right"), ("paw FL", "left"), ("leg_br", "right"), ("near front leg", "right"),
        ("front far leg", "left"), ("linker Arm", "left"), ("Oberschenkel rechts", "right"), ("jambe gauche", "left"),
        ("bras droit", "right"), ("mano izquierda", "left"), ("pierna derecha", "right"), ("gamba sx", "left"),
        ("piede destro", "right"), ("rechter voet", "right"), ("vasen käsi", "left"), ("oikea jalka", "right"),
        ("flag", "centre"), ("fr", "centre"),
        ("back", "centre"), ("front hair", "centre"), ("collar", "centre"), ("lamp", "centre"), ("Rudder", "centre"),
    ],
)  # fmt: skip
def test_sides_are_read_in_the_usual_habits(name: str, side: str) -> None:
    assert side_of(name) == side
    if side != "centre":
        other = "right" if side == "left" else "left"
        assert side_of(twin_name(name, other)) == other  # type: ignore[arg-type]
        assert sideless(twin_name(name, other)) == sideless(name)  # type: ignore[arg-type]
        assert twin_name(twin_name(name, other), side) == name or "droit" in name  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("name", "role"),
    [
        ("left thigh", "thigh"), ("upper_leg.L", "thigh"), ("LowerArmR", "lower arm"), ("forearm", "lower arm"), ("knee l", "shin"),
        ("hand", "hand"), ("left hip", "thigh"), ("hips", "pelvis"), ("torso", "spine"), ("shoe R", "foot"), ("knee pad", None),
        ("arm band", None), ("lantern", None), ("left arm", "upper arm"),
        ("toe ring", None), ("handbag", None), ("hand bag L", None), ("neck tie", None), ("leg warmer R", None),
        ("Kopf", "head"), ("linker Oberarm", "upper arm"), ("Unterschenkel rechts", "shin"), ("Fuß L", "foot"), ("Flügel", "wing"),
        ("tête", "head"), ("avant-bras gauche", "lower arm"), ("main droite", "hand"), ("main body", "spine"), ("cuisse", "thigh"),
        ("antebrazo izquierdo", "lower arm"), ("pie derecho", "foot"), ("pie", None), ("rodilla", "shin"),
        ("coscia destra", "thigh"), ("testa", "head"), ("linker bovenbeen", "thigh"), ("hoofd", "head"),
        ("vasen käsi", "hand"), ("reisi", "thigh"), ("pää", "head"),
    ],
)  # fmt: skip
def test_roles_are_read_from_names(name: str, role: str | None) -> None:
    assert role_by_name(name) == role


def joints_named(*names: str) -> Documents:
    documents = Documents({"p": Production(id="p", name="Quay")})
    documents = do(documents, {"do": "add-puppet", "id": "a", "name": "Gull"})
    joints = [{"id": id_of(n), "name": n, "at": [10.0 * i, 0]} for i, n in enumerate(names)]
    return do(documents, {"do": "add-joints", "puppet": "a", "joints": joints})


@pytest.mark.parametrize(
    "pairs",
    [
        {"left-arm-1": "right-arm-1", "left-arm-2": "right-arm-2", "left-arm-3": "right-arm-3"},
        {"arm01_l": "arm01_r", "arm02_l": "arm02_r", "arm10_l": "arm10_r"},
        {"paw-FL": "paw-FR", "paw-BL": "paw-BR"},
        {"far-front-leg": "near-front-leg", "far-back-leg": "near-back-leg"},
        {"wing_Lt": "wing_Rt", "wing-2_Lt": "wing-2_Rt"},
        {"hand-L": "hand-R-copy"},
        {"bras-gauche": "bras-droit", "jambe-gauche": "jambe-droite"},
    ],
)
def test_twins_are_told_apart_by_all_of_their_names(pairs: dict[str, str]) -> None:
    found = twins(joints_named(*(n for pair in pairs.items() for n in pair)).puppet("a"))
    assert found == {**pairs, **{b: a for a, b in pairs.items()}}


def test_a_sound_rig_with_numbered_limbs_has_nothing_to_mend() -> None:
    """Arms of three joints each under numbered names, as other people name them."""
    documents = joints_named("body", *(f"{s} arm {n}" for s in ("left", "right") for n in (1, 2, 3)))
    links = {f"{s}-arm-{n}": "body" if n == 1 else f"{s}-arm-{n - 1}" for s in ("left", "right") for n in (1, 2, 3)}
    documents = do(documents, {"do": "relink-joints", "puppet": "a", "links": links})
    assert found(documents) == {}


def test_pieces_that_mirror_one_another_without_a_side_in_their_names_are_offered_as_twins() -> None:
    where = {"body": (200.0, 100.0), "limb": (160.0, 120.0), "limb copy": (240.0, 120.0), "layer 7": (170.0, 220.0),
             "layer 8": (230.0, 220.0), "hat": (150.0, 20.0)}  # fmt: skip
    documents = Documents({"p": Production(id="p", name="Quay")})
    documents = do(documents, {"do": "add-puppet", "id": "a", "name": "Porter"})
    made = [{**piece(id_of(n), *at), "name": n} for n, at in where.items()]
    documents = do(documents, {"do": "add-pieces", "puppet": "a", "pieces": made})
    # Nothing is taken for a twin by itself.
    assert twins(documents.puppet("a")) == {}
    offer = found(documents)["nameless-twins"]
    assert set(offer.joints) == {"limb", "limb-copy", "layer-7", "layer-8"}
    assert offer.mend is not None and offer.mend.label(documents) == "Name 2 pairs left and right"
    after = mended(documents, "nameless-twins")
    assert twins(after.puppet("a"))["limb-copy"] == "limb" and twins(after.puppet("a"))["layer-7"] == "layer-8"
    assert after.puppet("a").pieces["limb"].name == "right limb"
    assert after.puppet("a").pieces["limb-copy"].side == after.puppet("a").joints["limb-copy"].side == "left"
    assert "nameless-twins" not in found(after)


def test_what_is_held_by_a_hand_or_worn_on_it_is_no_hand() -> None:
    documents = joints_named("left arm", "left forearm", "handbag")
    documents = do(documents, {"do": "link-joint", "puppet": "a", "joint": "left-forearm", "parent": "left-arm"})
    documents = do(documents, {"do": "link-joint", "puppet": "a", "joint": "handbag", "parent": "left-forearm"})
    assert roles_of(documents.puppet("a")) == {"left-arm": "upper arm", "left-forearm": "lower arm"}


def test_roles_are_guessed_from_where_joints_hang_and_give_way_to_what_is_told() -> None:
    documents = Documents({"p": Production(id="p", name="Quay")})
    documents = do(documents, {"do": "add-puppet", "id": "a", "name": "Stick"})
    line = [
        ("body", None),
        ("arm 1", "body"),
        ("arm 2", "arm 1"),
        ("joint 9", "arm 2"),
        ("leg L", "body"),
        ("joint 4", "leg L"),
    ]
    joints = [
        {"id": id_of(n), "name": n, "at": [0, 40 * i], "parent": id_of(p) if p else None}
        for i, (n, p) in enumerate(line)
    ]
    documents = do(documents, {"do": "add-joints", "puppet": "a", "joints": joints})
    roles = roles_of(documents.puppet("a"))
    assert [roles.get(id_of(n)) for n, _ in line] == ["spine", "upper arm", "lower arm", "hand", "thigh", "shin"]
    told = do(documents, {"do": "set-joints", "puppet": "a", "joints": ["joint-9"], "role": "tail"})
    assert roles_of(told.puppet("a"))["joint-9"] == "tail"
    free = do(told, {"do": "set-joints", "puppet": "a", "joints": ["joint-9"], "role": None})
    assert roles_of(free.puppet("a"))["joint-9"] == "hand"


def places(puppet: Puppet) -> dict[str, Any]:
    """Where everything that shows is."""
    return piece_worlds(puppet)


@given(productions(), st.data())
def test_whatever_is_done_to_the_skeleton_no_piece_moves(documents: Documents, data: st.DataObject) -> None:
    number = st.floats(-300, 300).map(lambda v: round(v, 2))
    for tag in range(4):
        puppet = documents.puppet("a")
        joints, pieces = sorted(puppet.joints), sorted(puppet.pieces)
        one = data.draw(st.sampled_from(joints))
        commands: list[dict[str, Any]] = [
            {
                "do": "add-joints",
                "joints": [{"id": f"x{tag}", "name": "x", "at": [data.draw(number), data.draw(number)], "parent": one}],
            },
            {"do": "move-joints", "joints": [one], "dx": data.draw(number), "dy": data.draw(number)},
            {"do": "remove-joints", "joints": [one]},
            {"do": "insert-joint", "id": f"i{tag}", "name": "i", "above": one},
            {"do": "ride-pieces", "pieces": [data.draw(st.sampled_from(pieces))], "joint": one},
            {"do": "relink-joints", "links": {one: data.draw(st.sampled_from([*joints, None]))}},
        ]
        before = places(puppet)
        try:
            documents = do(documents, {"puppet": "a", **data.draw(st.sampled_from(commands))})
        except Refusal:
            continue
        after = places(documents.puppet("a"))
        assert after.keys() == before.keys()
        for id, m in before.items():
            for corner in ((0, 0), (20, 10)):
                assert math.dist(m.place(corner), after[id].place(corner)) < 1e-5


def test_a_piece_that_rides_on_a_drawn_joint_moves_without_it_and_leaves_no_joint_behind() -> None:
    documents = figure()
    bone = {"id": "bone", "name": "bone", "at": [200, 90], "parent": "chest"}
    documents = do(documents, {"do": "add-joints", "puppet": "a", "joints": [bone]})
    documents = do(documents, {"do": "ride-pieces", "puppet": "a", "pieces": ["head"], "joint": "bone"})
    puppet = documents.puppet("a")
    assert puppet.pieces["head"].joint == "bone" and "head" not in puppet.joints
    shifted = do(documents, {"do": "shift-pieces", "puppet": "a", "pieces": ["head"], "dx": 7, "dy": -3}).puppet("a")
    assert rest_worlds(shifted)["bone"] == rest_worlds(puppet)["bone"]
    old, new = places(puppet)["head"], places(shifted)["head"]
    assert np.array(new) - np.array(old) == pytest.approx(np.array([0, 0, 0, 0, 7, -3]), abs=1e-9)
    pivot = do(documents, {"do": "set-pivot", "puppet": "a", "piece": "head", "x": 190, "y": 70}).puppet("a")
    assert near(places(pivot)["head"], old, 1e-9)


def test_the_other_side_of_a_limb_that_bends_and_reaches_does_so_too() -> None:
    documents = Documents({"p": Production(id="p", name="Quay")})
    documents = do(documents, {"do": "add-puppet", "id": "a", "name": "Porter"})
    documents = do(
        documents,
        {
            "do": "add-pieces",
            "puppet": "a",
            "pieces": [piece("body", 100, 100), {**piece("arm", 120, 110), "name": "left arm"}],
        },
    )
    documents = do(documents, {"do": "link-joint", "puppet": "a", "joint": "arm", "parent": "body"})
    bones = [("elbow", "left elbow", [130, 115], "arm"), ("wrist", "left wrist", [139, 119], "elbow")]
    joints = [{"id": i, "name": n, "at": at, "parent": p} for i, n, at, p in bones]
    documents = do(documents, {"do": "add-joints", "puppet": "a", "joints": joints})
    documents = do(
        documents, {"do": "set-joints", "puppet": "a", "joints": ["elbow"], "limits": {"low": -10, "high": 130}}
    )
    bend = {"kind": "bend", "joints": ["arm", "elbow", "wrist"]}
    documents = do(documents, {"do": "set-attach", "puppet": "a", "piece": "arm", "attach": bend})
    reach = {"id": "c", "name": "left reach", "anchor": "arm", "end": "wrist", "handle": "h"}
    documents = do(documents, {"do": "add-reach", "puppet": "a", **reach})
    documents = do(
        documents, {"do": "mirror-pieces", "puppet": "a", "ids": {"arm": "arm2"}, "line": 100, "share": True}
    )
    puppet = documents.puppet("a")
    twin = puppet.pieces["arm2"]
    assert isinstance(twin.attach, Bend) and twin.attach.joints[0] == "arm2" and len(set(twin.attach.joints)) == 3
    names = {puppet.joints[j].name for j in twin.attach.joints[1:]}
    assert names == {"right elbow", "right wrist"}
    worlds = rest_worlds(puppet)
    for mine, other in twins(puppet).items():
        assert worlds[mine][4] + worlds[other][4] == pytest.approx(200)
        assert worlds[mine][5] == pytest.approx(worlds[other][5])
    assert puppet.joints[twin.attach.joints[1]].limits == Limits(low=-130, high=10)
    assert len(puppet.chains) == 2 and puppet.pieces["arm"].shared == twin.shared == "arm"
    assert findings(puppet) == []


@pytest.mark.parametrize(("side", "named"), [("left", "right reach"), ("right", "left reach")])
def test_the_other_side_of_a_limb_whose_name_tells_no_side_is_named_by_where_it_is(side: str, named: str) -> None:
    documents = joints_named("arm", "elbow", "wrist")
    for child, parent in (("elbow", "arm"), ("wrist", "elbow")):
        documents = do(documents, {"do": "link-joint", "puppet": "a", "joint": child, "parent": parent})
    documents = do(documents, {"do": "set-joints", "puppet": "a", "joints": ["arm", "elbow", "wrist"], "side": side})
    documents = do(documents, {"do": "add-pieces", "puppet": "a", "pieces": [piece("sleeve", 5, 0)]})
    documents = do(documents, {"do": "set-pieces", "puppet": "a", "pieces": ["sleeve"], "side": side})
    bend = {"kind": "bend", "joints": ["arm", "elbow", "wrist"]}
    documents = do(documents, {"do": "set-attach", "puppet": "a", "piece": "sleeve", "attach": bend})
    reach = {"id": "c", "name": "reach", "anchor": "arm", "end": "wrist", "handle": "h"}
    documents = do(documents, {"do": "add-reach", "puppet": "a", **reach})
    documents = do(documents, {"do": "mirror-pieces", "puppet": "a", "ids": {"sleeve": "s2"}, "line": -60})
    assert {c.name for c in documents.puppet("a").chains.values()} == {"reach", named}


def test_the_other_side_is_made_in_the_body_or_in_a_line_that_was_set_and_what_was_there_gets_its_side() -> None:
    def box(id: str, x: float, wide: float, tall: float) -> dict[str, Any]:
        made = piece(id, x, 300)
        made["drawing"] |= {"bounds": [0, 0, wide, tall], "pivot": [wide / 2, tall / 2]}
        return made

    boxes = [box("wall", 640, 400, 300), box("vase", 645, 20, 40), box("ivy", 697, 900, 900), box("door", 540, 40, 90)]
    boxes += [box("arm", 628, 20, 80), box("palm", 644, 20, 20)]
    documents = do(Documents({"p": Production(id="p", name="Quay")}), {"do": "add-puppet", "id": "a", "name": "House"})
    documents = do(documents, {"do": "add-pieces", "puppet": "a", "pieces": boxes})
    documents = do(documents, {"do": "set-pieces", "puppet": "a", "pieces": ["ivy"], "hidden": True})

    def other_side(documents: Documents, **ids: str) -> Puppet:
        return do(documents, {"do": "mirror-pieces", "puppet": "a", "ids": ids}).puppet("a")

    def at(puppet: Puppet, id: str) -> float:
        return rest_worlds(puppet)[id].e

    # In the pin of the wall, the largest that shows: not in the mean of all that is nowhere else.
    house = other_side(documents, door="twin")
    assert at(house, "twin") == pytest.approx(2 * 640 - 540)
    assert [(house.pieces[id].side, house.joints[id].side) for id in ("door", "twin")] == [
        ("left",) * 2,
        ("right",) * 2,
    ]
    # A sky behind everything gives way to the wall that the door is in, and is what a star in it is mirrored in.
    behind = do(
        documents, {"do": "add-pieces", "puppet": "a", "pieces": [box("sky", 700, 1400, 1200), box("star", 300, 9, 9)]}
    )
    behind = do(behind, {"do": "order-pieces", "puppet": "a", "pieces": ["sky"]})
    assert middles_of(behind.puppet("a"), ["door", "star"]) == pytest.approx({"door": 640, "star": 700})
    # A body goes before what is larger.
    bodied = do(documents, {"do": "set-joints", "puppet": "a", "joints": ["vase"], "role": "spine"})
    assert at(other_side(bodied, door="twin"), "twin") == pytest.approx(2 * 645 - 540)
    # What is mirrored together goes to one side together, on whichever side of the line its parts lie.
    limb = other_side(documents, arm="arm2", palm="palm2")
    assert {limb.pieces[id].side for id in ("arm", "palm")} == {"left"}
    assert {limb.pieces[id].side for id in ("arm2", "palm2")} == {"right"}
    # A line that was set, and taken back; sized with the puppet, it goes along.
    given = do(documents, {"do": "set-puppet", "puppet": "a", "axis": 600})
    assert at(other_side(given, door="twin"), "twin") == pytest.approx(660)
    assert middles_of(given.puppet("a"), ["door", "arm"]) == {"door": 600, "arm": 600}
    # What is made to match its twin matches it in that line too.
    twice = do(given, {"do": "mirror-pieces", "puppet": "a", "ids": {"door": "twin"}})
    moved = do(twice, {"do": "place-joint", "puppet": "a", "joint": "door", "at": [520, 300]})
    assert at(do(moved, {"do": "match-twin", "puppet": "a", "joint": "door"}).puppet("a"), "twin") == pytest.approx(680)
    back = do(given, {"do": "set-puppet", "puppet": "a", "axis": "middle"})
    assert back.puppet("a") == documents.puppet("a")
    # On the line nothing has a side.
    on = do(documents, {"do": "set-puppet", "puppet": "a", "axis": 645})
    assert other_side(on, vase="v2").pieces["vase"].side == "centre"


@given(productions(), st.data())
def test_matching_a_twin_twice_changes_nothing_more(documents: Documents, data: st.DataObject) -> None:
    documents = changed(data.draw, documents, 0)
    ids = {id: f"{id}m" for id in sorted(documents.puppet("a").pieces)[:2]}
    assume(ids)
    documents = do(documents, {"do": "mirror-pieces", "puppet": "a", "ids": ids})
    pairs = twins(documents.puppet("a"))
    for id in pairs:
        try:
            once = do(documents, {"do": "match-twin", "puppet": "a", "joint": id})
        except Refusal:
            continue
        again = do(once, {"do": "match-twin", "puppet": "a", "joint": id})
        for j, m in rest_worlds(once.puppet("a")).items():
            assert near(m, rest_worlds(again.puppet("a"))[j], 1e-6)
