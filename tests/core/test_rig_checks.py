"""The checks of a rig: what they find, what they leave alone, and what their mends make of it."""

from __future__ import annotations

import pytest

from sorvan.core.checks.rig import findings
from sorvan.core.geometry import near
from sorvan.core.model.documents import Documents
from sorvan.core.model.production import Production
from sorvan.core.model.puppet import Limits
from sorvan.core.rig.roles import roles_of
from sorvan.core.rig.skeleton import piece_worlds, rest_worlds
from tests.core.hung import PLACES, figure, found, id_of, mended
from tests.core.worlds import do


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
