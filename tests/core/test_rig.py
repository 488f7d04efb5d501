"""The skeleton: drawing it, riding on it, mirroring it, roles, and the checks that find mistakes."""

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
from sorvan.core.rig.sides import twins
from sorvan.core.rig.skeleton import piece_worlds, rest_worlds
from tests.core.worlds import changed, do, piece, productions

PLACES: dict[str, tuple[float, float]] = {
    "hips": (200, 200),
    "chest": (200, 120),
    "head": (200, 80),
    **{f"{side} {part}": (200 + way * dx, y) for side, way in (("left", 1), ("right", -1)) for part, dx, y in (
        ("upper arm", 30, 110), ("forearm", 45, 160), ("hand", 55, 205), ("thigh", 18, 205), ("shin", 20, 290), ("foot", 22, 370),
    )},
}  # fmt: skip
LINKS: dict[str, str | None] = {
    "hips": None,
    "chest": "hips",
    "head": "chest",
    **{f"{s} {c}": p if p in PLACES else f"{s} {p}" for s in ("left", "right") for c, p in (
        ("upper arm", "chest"), ("forearm", "upper arm"), ("hand", "forearm"), ("thigh", "hips"), ("shin", "thigh"), ("foot", "shin"),
    )},
}  # fmt: skip


def figure(
    links: dict[str, str | None] | None = None, places: dict[str, tuple[float, float]] | None = None
) -> Documents:
    """A figure of loose pieces, one a joint, hung together as told. Ids are the names with dashes."""
    where = {**PLACES, **(places or {})}
    documents = Documents({"p": Production(id="p", name="Quay")})
    documents = do(documents, {"do": "add-puppet", "id": "a", "name": "Porter"})
    made = [{**piece(id_of(n), *at), "name": n} for n, at in where.items()]
    for one in made:
        # In the middle of what it turns: the feet point to no side.
        one["drawing"]["pivot"] = [10, 4]
    documents = do(documents, {"do": "add-pieces", "puppet": "a", "pieces": made})
    for name, parent in {**LINKS, **(links or {})}.items():
        if parent is not None:
            link = {"do": "link-joint", "puppet": "a", "joint": id_of(name), "parent": id_of(parent)}
            documents = do(documents, link)
    return documents


def id_of(name: str) -> str:
    return name.replace(" ", "-")


def found(documents: Documents) -> dict[str, Any]:
    return {f.check: f for f in findings(documents.puppet("a"))}


def mended(documents: Documents, check: str) -> Documents:
    mend = found(documents)[check].mend
    assert mend is not None
    return mend.apply(documents)


def test_a_sound_figure_has_nothing_to_find() -> None:
    assert found(figure()) == {}


def test_an_arm_hung_on_the_head_is_found_and_hung_on_the_chest() -> None:
    documents = figure({"left upper arm": "head"})
    assert set(found(documents)) == {"wrong-hold"}
    after = mended(documents, "wrong-hold")
    assert after.puppet("a").joints["left-upper-arm"].parent == "chest"
    assert found(after) == {}


@pytest.mark.parametrize(
    ("part", "on", "wanted"),
    [
        ("left forearm", "head", "left upper arm"),
        ("right hand", "left shin", "right forearm"),
        ("left upper arm", "right shin", "chest"),
        ("left shin", "right hand", "left thigh"),
        ("right thigh", "head", "hips"),
    ],
)
def test_any_part_of_a_limb_on_the_wrong_part_of_a_body_is_found(part: str, on: str, wanted: str) -> None:
    documents = figure({part: on})
    (finding,) = [f for f in findings(documents.puppet("a")) if f.check == "wrong-hold"]
    assert finding.joints == (id_of(part), id_of(on))
    assert mended(documents, "wrong-hold").puppet("a").joints[id_of(part)].parent == id_of(wanted)
    # Drawn joints, with no pieces of their own, are seen as well.
    bare = documents.puppet("a").changed(pieces={}, order=())
    assert "wrong-hold" in {f.check for f in findings(bare)}


FACE: dict[str, tuple[float, float]] = {
    "neck": (200, 100), "mouth": (200, 90), "hat": (200, 60), "left brow": (207, 72), "left eye": (207, 78),
    "left pupil": (207, 78), "left lid": (207, 76), "scarf": (200, 104),
}  # fmt: skip
ON_FACE: dict[str, str | None] = {
    "neck": "chest", "head": "neck", "mouth": "head", "hat": "head", "left brow": "head", "left eye": "head",
    "left pupil": "left eye", "left lid": "head", "scarf": "neck",
}  # fmt: skip


@pytest.mark.parametrize(
    ("part", "on"),
    [("mouth", "neck"), ("left brow", "hat"), ("left lid", "left pupil"), ("left eye", "chest"), ("hat", "neck")],
)
def test_a_part_of_a_face_beside_the_head_is_found_and_hung_on_it(part: str, on: str) -> None:
    assert found(figure(ON_FACE, FACE)) == {}
    documents = figure({**ON_FACE, part: on}, FACE)
    assert [f.text for f in findings(documents.puppet("a"))][:1] == [f"“{part}” hangs on “{on}”, and not on the head."]
    assert mended(documents, "off-face").puppet("a").joints[id_of(part)].parent == "head"


def test_a_body_is_never_to_be_hung_on_an_arm() -> None:
    """A chest that came loose under its own arm, with everything else on that."""
    documents = figure({"hips": "left upper arm", "chest": None, "left upper arm": None})
    for finding in findings(documents.puppet("a")):
        after = mended(documents, finding.check) if finding.mend else documents
        roles, joints = roles_of(after.puppet("a")), after.puppet("a").joints
        newly = [id for id, j in joints.items() if j.parent != documents.puppet("a").joints[id].parent]
        assert not any(roles[id] in ("spine", "pelvis") and roles.get(joints[id].parent or "") in LIMBS for id in newly)


LIMBS = ("upper arm", "lower arm", "hand", "thigh", "shin", "foot")


def test_a_raised_arm_beside_the_head_is_no_mistake() -> None:
    raised = {"left upper arm": (215.0, 95.0), "left forearm": (214.0, 70.0), "left hand": (212.0, 40.0)}
    assert "wrong-hold" not in found(figure(places=raised))


def test_a_left_shin_hung_on_the_right_thigh_is_found_and_goes_to_its_own() -> None:
    documents = figure({"left shin": "right thigh"})
    assert "wrong-side" in found(documents)
    after = mended(documents, "wrong-side")
    assert after.puppet("a").joints["left-shin"].parent == "left-thigh"
    assert found(after) == {}


def test_crossed_legs_are_no_mistake() -> None:
    crossed = {"left shin": (190.0, 290.0), "left foot": (170.0, 370.0)}
    assert set(found(figure(places=crossed))) <= {"twins-differ"}
    assert "wrong-side" not in found(figure(places=crossed))
    assert "sides-swapped" not in found(figure(places=crossed))


def test_a_leg_drawn_from_foot_to_hip_is_found_and_turned_round() -> None:
    documents = figure({"left foot": "hips", "left shin": "left foot", "left thigh": "left shin"})
    before = piece_worlds(documents.puppet("a"))
    assert "upside-down" in found(documents)
    after = mended(documents, "upside-down")
    joints = after.puppet("a").joints
    assert [joints[f"left-{p}"].parent for p in ("thigh", "shin", "foot")] == ["hips", "left-thigh", "left-shin"]
    assert found(after) == {}
    now = piece_worlds(after.puppet("a"))
    assert all(near(before[id], now[id], 1e-6) for id in before)


def test_a_figure_that_stands_on_one_foot_is_not_upside_down() -> None:
    # The whole figure hangs on its foot, so that it turns about it; the leg still runs hip to foot.
    documents = figure()
    assert "upside-down" not in found(documents)
    handstand = figure(places={n: (x, 400 - y) for n, (x, y) in PLACES.items()})
    assert "upside-down" not in found(handstand)


def test_a_loose_piece_is_found_and_hung_on_what_it_lies_on() -> None:
    documents = figure({"head": None})
    assert set(found(documents)) == {"loose"}
    assert found(documents)["loose"].pieces == ("head",)
    assert found(mended(documents, "loose")) == {}


def test_a_loose_leg_is_hung_where_its_twin_hangs_and_a_loose_arm_on_the_chest() -> None:
    leg = mended(figure({"left thigh": None}), "loose").puppet("a")
    assert leg.joints["left-thigh"].parent == "hips"
    arm = figure({"left upper arm": None, "right upper arm": None})
    after = mended(arm, "loose")
    assert found(mended(after, "loose")) == {}


def test_two_puppets_worth_of_pieces_are_not_loose() -> None:
    half = {"chest": None}
    assert "loose" not in found(figure(half))


def test_twins_that_differ_are_found_in_links_limits_and_places() -> None:
    links = figure({"right forearm": "chest"})
    assert "twins-differ" in found(links)
    assert found(mended(links, "twins-differ")) == {}
    limits = {"do": "set-joints", "puppet": "a", "joints": ["left-forearm"], "limits": {"low": -120, "high": 5}}
    limited = do(figure(), limits)
    assert "twins-differ" in found(limited)
    after = mended(limited, "twins-differ")
    assert after.puppet("a").joints["right-forearm"].limits == Limits(low=-5, high=120)
    assert found(after) == {}
    low = figure(places={"left shin": (220.0, 330.0)})
    assert "twins-differ" in found(low)
    assert "twins-differ" not in found(mended(low, "twins-differ"))


def test_twins_behind_one_another_are_alike_and_not_mirrored() -> None:
    documents = Documents({"p": Production(id="p", name="Quay")})
    documents = do(documents, {"do": "add-puppet", "id": "a", "name": "Dog"})
    line = [("body", [100, 100], None), ("near leg", [140, 120], "body"), ("near knee", [150, 160], "near-leg"),
            ("far leg", [130, 118], "body"), ("far knee", [180, 150], "far-leg")]  # fmt: skip
    joints = [{"id": id_of(n), "name": n, "at": at, "parent": p} for n, at, p in line]
    documents = do(documents, {"do": "add-joints", "puppet": "a", "joints": joints})
    documents = do(
        documents, {"do": "set-joints", "puppet": "a", "joints": ["near-knee"], "limits": {"low": -5, "high": 90}}
    )
    assert "twins-differ" in found(documents)
    after = mended(documents, "twins-differ").puppet("a")
    assert after.joints["far-knee"].limits == Limits(low=-5, high=90)
    # As far from the far leg as the near knee is from the near one.
    assert rest_worlds(after)["far-knee"].at == pytest.approx((140, 158))
    assert findings(after) == []


def test_a_limb_that_is_posed_as_a_whole_is_like_its_twin() -> None:
    raised = {"left upper arm": (230.0, 110.0), "left forearm": (262.0, 70.0), "left hand": (268.0, 20.0)}
    assert found(figure(places=raised)) == {}


def test_a_pair_the_wrong_way_round_is_pointed_out() -> None:
    swapped = {n: (400 - x, y) for n, (x, y) in PLACES.items() if "thigh" in n or "shin" in n or "foot" in n}
    ears = {"left ear": (212.0, 72.0), "right ear": (188.0, 72.0)}
    hung = dict.fromkeys(ears, "head")
    assert "sides-swapped" in found(figure(hung, {**swapped, **ears}))
    assert "sides-swapped" not in found(figure(hung, ears))
    # A whole figure seen from behind has all its pairs that way: nothing is wrong with it.
    behind = {n: (400 - x, y) for n, (x, y) in {**PLACES, **ears}.items()}
    assert "sides-swapped" not in found(figure(hung, behind))


def test_two_thighs_on_one_side_are_found() -> None:
    documents = figure()
    names = {"right-thigh": "left thigh rear", "right-shin": "left shin rear", "right-foot": "left foot rear"}
    for id, name in names.items():
        documents = do(documents, {"do": "set-pieces", "puppet": "a", "pieces": [id], "name": name, "side": "left"})
    assert "same-side" in found(documents)
    after = mended(documents, "same-side")
    sides = {after.puppet("a").joints[i].side for i in ("left-thigh", "right-thigh")}
    assert sides == {"left", "right"}


def test_a_straight_leg_that_reaches_is_pointed_out_until_it_is_told_which_way_to_bend() -> None:
    straight = {"left thigh": (218.0, 205.0), "left shin": (218.0, 290.0), "left foot": (218.0, 370.0)}
    reach = {"id": "c", "name": "leg", "anchor": "left-thigh", "end": "left-foot", "handle": "h"}
    documents = do(figure(places=straight), {"do": "add-reach", "puppet": "a", **reach})
    assert "straight" in found(documents)
    chain = documents.puppet("a").chains["c"].model_copy(update={"bend": "clockwise"})
    told = do(documents, {"do": "set-chain", "puppet": "a", "chain": chain.model_dump()})
    assert "straight" not in found(told)
    bent = figure(places={"left shin": (232.0, 290.0)})
    assert "straight" not in found(do(bent, {"do": "add-reach", "puppet": "a", **reach}))


def test_a_piece_that_bends_over_joints_apart_is_pointed_out_and_hung_together() -> None:
    bend = {"do": "set-attach", "puppet": "a", "piece": "head", "attach": {"kind": "bend", "joints": ["chest", "head"]}}
    assert found(do(figure(), bend)) == {}
    torn = do(figure({"head": None}), bend)
    finding = found(torn)["torn"]
    assert finding.joints == ("head",) and finding.pieces == ("head",)
    assert mended(torn, "torn").puppet("a").joints["head"].parent == "chest"
    assert found(mended(torn, "torn")) == {}
    # A piece whose first joint hangs on nothing, and carries the rest, is whole.
    alone = {
        "do": "set-attach",
        "puppet": "a",
        "piece": "hips",
        "attach": {"kind": "bend", "joints": ["hips", "chest"]},
    }
    assert "torn" not in found(do(figure(), alone))


def test_a_pivot_far_from_its_piece_is_pointed_out() -> None:
    documents = do(figure(), {"do": "set-pivot", "puppet": "a", "piece": "head", "x": 380, "y": 40})
    assert "far-pivot" in found(documents)
    # A pivot just outside, as of a flag on its pole, is quite usual.
    assert "far-pivot" not in found(
        do(figure(), {"do": "set-pivot", "puppet": "a", "piece": "head", "x": 203, "y": 92})
    )


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
