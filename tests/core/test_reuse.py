"""Motions done by other puppets, and rigs put on other art."""

from __future__ import annotations

from fractions import Fraction
from functools import cache
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorvan.core.errors import Refusal
from sorvan.core.model.documents import Documents
from sorvan.core.model.kit import Kit
from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import Limits, Puppet
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.plan.ground_contact import tracks
from sorvan.core.plan.travel import ground_of
from sorvan.core.reuse.carrying import CarriedMotion, carried
from sorvan.core.reuse.fitting import fitted
from sorvan.core.reuse.links import hinted, linked
from sorvan.core.reuse.pins import pins_for
from sorvan.core.rig.anatomy import anatomy
from sorvan.core.rig.roles import roles_of
from sorvan.core.rig.skeleton import rest_worlds
from sorvan.picture.studio import Studio
from tests.conftest import costly
from tests.core.walkers import hand_made, key, keyed, part, planned, walker
from tests.core.worlds import do
from tests.loose import opened, reused, rigged
from tests.loose_figures import COUNTED, ENGLISH, GERMAN, Loose, biped, dog, told

figures = st.fixed_dictionaries(
    {
        "height": st.sampled_from([260.0, 420.0, 500.0, 640.0]),
        "leg": st.sampled_from([0.34, 0.45, 0.5, 0.62]),
        "shin": st.sampled_from([0.75, 1.0, 1.4]),
        "foot": st.sampled_from([0.0, 0.3, 0.6]),
        "ankle": st.sampled_from([0.04, 0.06, 0.12]),
        "facing": st.sampled_from([1, -1]),
        "toes": st.booleans(),
    }
)


@cache
def walking(thigh: float, travel: str = "") -> Documents:
    """A walk by hand, its travel matched to its stride if that is told."""
    documents = hand_made({"facing": 1}, thigh, 0)
    return do(documents, {"do": "match-travel", "motion": "m", "travel": travel}) if travel else documents


def carry(documents: Documents, target: Puppet) -> CarriedMotion:
    source = documents.puppet("a")
    links = linked(source, target)
    return carried(documents.motion("m"), source, target, links, "new", Fraction(24))


def standing(puppet: Puppet, motion: Motion) -> tuple[Any, Any]:
    """By foot, in which frames it stands, and by how much it slides in each; in parts of the leg."""
    evaluation, ground = Evaluation.full(puppet, motion), ground_of(motion, puppet)
    channel = motion.channels.get("puppet.move")
    travel = channel.keys[motion.length].value[0] - channel.keys[0].value[0] if channel else 0.0
    feet = tracks(evaluation, anatomy(puppet).legs)
    slides = [np.abs(t.slide(ground, motion.ground.runs, motion.cycle, travel)) for t in feet]
    return np.array([t.stands(ground) for t in feet]), np.array(slides) / anatomy(puppet).leg


@given(figures, st.sampled_from(["spot", "forward"]), st.sampled_from([16.0, 22.0]))
def test_feet_of_other_proportions_stand_when_those_of_the_first_do(
    figure: dict[str, Any], travel: str, thigh: float
) -> None:
    # Without feet, straight legs don't tell which way it faces.
    figure = figure if figure["foot"] else {**figure, "facing": 1}
    documents = walking(thigh, travel)
    target = walker(**figure).puppet("a")
    made = carry(documents, target).motion
    source = documents.puppet("a")
    before, _ = standing(source, documents.motion("m"))
    after, slides = standing(target, made)
    size = anatomy(target).leg / anatomy(source).leg
    way = size * figure["facing"]
    # Where a heel is lifted, feet of other lengths rise a frame sooner or later.
    assert (before & ~after).sum(axis=1).max() <= 1
    assert (slides * (before & np.roll(before, -1, axis=1))).max() < 2e-3
    assert made.ground.runs == pytest.approx(way * documents.motion("m").ground.runs, abs=1e-5)
    if travel == "forward":
        own = documents.motion("m").channels["puppet.move"].keys[24].value[0]
        assert made.channels["puppet.move"].keys[24].value[0] == pytest.approx(way * own, abs=1e-3)


@costly(8)
@given(figures)
def test_a_puppet_does_its_own_motion_just_as_it_was(figure: dict[str, Any]) -> None:
    figure = {k: v for k, v in figure.items() if k != "height"}
    documents = hand_made({**figure, "foot": figure["foot"] or 0.3}, 20, 0)
    made = carry(documents, documents.puppet("a")).motion
    assert made.changed(id="m") == documents.motion("m")


@costly(8)
@given(st.sampled_from([0.5, 2.0, 1.7]), st.sampled_from([1, -1]))
def test_in_another_size_turns_stay_and_moves_grow(size: float, facing: int) -> None:
    documents = hand_made({"facing": 1, "foot": 0.3}, 20, 7)
    target = walker(height=500.0 * size, foot=0.3, facing=facing).puppet("a")
    made = carry(documents, target).motion
    for id, channel in documents.motion("m").channels.items():
        for frame, held in channel.keys.items():
            now = made.channels[id].keys[frame].value
            if channel.kind == "turn":
                assert now == pytest.approx([facing * v for v in held.value], abs=0.05)
            else:
                assert now == pytest.approx([facing * size * held.value[0], size * held.value[1]], abs=0.01)


def test_a_planned_walk_is_planned_anew_and_the_hand_s_keys_come_along() -> None:
    documents = keyed(planned(walker()), key("head", "turn", 5, 12.0))
    target = walker(leg=0.62, height=600.0, shin=1.3).puppet("a")
    made = carry(documents, target)
    recipe, own = made.motion.recipes["g"], documents.motion("m").recipes["g"]
    assert made.motion.channels["head.turn"].keys[5].value == (12.0,)
    assert recipe.said != own.said or recipe == own
    stands, slides = standing(target, made.motion)
    assert slides.max() < 2e-3
    assert (stands.sum(axis=1) >= 12).all()
    again = do(
        documents.with_(target.changed(id="b"), made.motion.changed(puppet="b")),
        {"do": "do-recipe", "motion": "new", "recipe": {**recipe.model_dump(mode="json"), "bounce": 9.0}},
    )
    assert again.motion("new").channels["head.turn"].keys[5].value == (12.0,)


def test_what_hangs_otherwise_at_rest_points_the_same_way_in_motion() -> None:
    # The target's forearms stick out forward at rest; the source's hang.
    documents = keyed(
        walker(),
        key("near-upper-arm", "turn", 0, -30.0), key("near-upper-arm", "turn", 12, 40.0),
        key("near-forearm", "turn", 0, -20.0), key("near-forearm", "turn", 12, 0.0),
    )  # fmt: skip
    documents = do(documents, {"do": "add-pieces", "puppet": "a", "pieces": [hand_at(documents, 0.0)]})
    documents = do(documents, {"do": "link-joint", "puppet": "a", "joint": "hand", "parent": "near-forearm"})
    other = do(walker(), {"do": "add-pieces", "puppet": "a", "pieces": [hand_at(documents, 90.0)]})
    other = do(other, {"do": "link-joint", "puppet": "a", "joint": "hand", "parent": "near-forearm"})
    target = other.puppet("a")
    made = carry(documents, target).motion
    before, after = (Evaluation.full(p, m) for p, m in ((documents.puppet("a"), documents.motion("m")), (target, made)))
    for frame in (0, 6, 12):
        ways = []
        for e in (before, after):
            row = {id: n for n, id in enumerate(e.skeleton.ids)}
            a, b = (e.worlds[row[j], 4, frame] + 1j * e.worlds[row[j], 5, frame] for j in ("near-forearm", "hand"))
            ways.append(np.angle(b - a))
        assert ways[1] == pytest.approx(ways[0], abs=1e-4)


def hand_at(documents: Documents, forward: float) -> dict[str, Any]:
    """A near hand at the end of the forearm, which hangs, or points so many degrees forward."""
    x, y = rest_worlds(documents.puppet("a"))["near-forearm"].at
    turn = np.deg2rad(90 - forward)
    at = [float(x + 85 * np.cos(turn)), float(y + 85 * np.sin(turn))]
    drawing = {"id": "d", "name": "hand", "art": "0" * 64, "pivot": [5, 5], "bounds": [0, 0, 10, 10]}
    return {"id": "hand", "name": "near hand", "drawing": drawing, "at": at}


def reaching() -> Documents:
    """A walker whose near leg is led by a handle."""
    leg = {"id": "c", "name": "near leg", "anchor": "near0-thigh", "end": "near0-foot", "handle": "h"}
    return do(walker(lean=8.0), {"do": "add-reach", "puppet": "a", **leg})


def test_limbs_that_reach_become_turns_where_the_other_puppet_has_none() -> None:
    documents = reaching()
    documents = keyed(
        documents,
        key("h", "move", 0, 0.0, 0.0), key("h", "move", 8, 60.0, -30.0), key("h", "move", 16, -25.0, -6.0),
    )  # fmt: skip
    source, motion = documents.puppet("a"), documents.motion("m")
    target = walker(lean=8.0, height=750.0).puppet("a")
    made = carry(documents, target)
    assert {"near0-thigh.turn", "near0-shin.turn"} <= made.motion.channels.keys()
    assert not any(c.endswith(".reach") for c in made.motion.channels)
    own, its = Evaluation.full(source, motion), Evaluation.full(target, made.motion)
    for frame in (0, 8, 16):
        at = [e.worlds[e.skeleton.ids.index("near0-foot"), 4:6, frame] for e in (own, its)]
        assert at[1] - [643, 650] == pytest.approx(1.5 * (at[0] - [643, 650]), abs=0.1)
    # Its hips are at 643.
    # And back: what turns the leg of one that reaches lets go of its handle.
    back = carried(made.motion, target, source, linked(target, source), "back", Fraction(24)).motion
    assert back.channels["c.reach"].keys[0].value == (0.0,)
    again = Evaluation.full(source, back)
    for frame in (0, 8, 16):
        row = own.skeleton.ids.index("near0-foot")
        assert again.worlds[row, 4:6, frame] == pytest.approx(own.worlds[row, 4:6, frame], abs=0.1)


def test_what_has_no_answer_is_told_and_nothing_else_is_lost() -> None:
    documents = keyed(walker(), key("head", "turn", 0, 5.0), key("near-forearm", "turn", 3, 9.0))
    made = carry(documents, walker(arms=False).puppet("a"))
    assert {*made.motion.channels} == {"head.turn"}
    assert made.said == ("Nothing here answers to “near forearm” (2 keys).",)


HABITS = {
    "German": told(GERMAN, {"left": "links", "right": "rechts"}, "{part} {side}"),
    "counted": told(COUNTED, ENGLISH, "{part} {side}"),
}


@pytest.mark.parametrize("habit", [*HABITS, "no names"])
def test_a_rig_finds_its_places_on_art_named_otherwise_or_not_at_all(habit: str) -> None:
    source, ids = rigged(biped(told({}, ENGLISH)))
    target, studio, others = opened(biped(HABITS.get(habit, told({}, ENGLISH))), habit in HABITS)
    found = linked(source, hinted(target, studio)).joints
    assert found == dict(zip(ids.values(), others.values(), strict=True))


@pytest.mark.parametrize("named", [False, True])
def test_what_lies_to_the_left_takes_what_lies_to_the_left_whatever_each_side_is_called(named: bool) -> None:
    # Named as the paper has it: what lies to the left is the left.
    source, ids = rigged(biped(told({}, {"left": "right", "right": "left"})))
    for toes, sides in ((0.0, ENGLISH), (0.6, {"left": "back", "right": "front"})):
        target, studio, theirs = opened(biped(told({}, sides), 0.8, toes=toes), named)
        found = linked(source, hinted(target, studio)).joints
        for bone in ("hand", "lower arm", "thigh", "shin", "foot"):
            for side, paper in (("left", "right"), ("right", "left")):
                assert found[ids[f"{paper} {bone}"]] == theirs[f"{sides[side]} {bone}"]
        # What names told there is told here, so that legs are legs and walk.
        made = fitted(source, target, found, pins_for(source, target, found)).puppet
        assert {found[j]: r for j, r in roles_of(source).items() if j in found}.items() <= roles_of(made).items()
        assert len(anatomy(made).legs) == 2


def test_in_the_mirror_left_stays_left() -> None:
    source, ids = rigged(biped(told({}, ENGLISH), 0.8, toes=0.6))
    # The same figure drawn as it is seen in a mirror, named as it is.
    target, studio, theirs = opened(biped(told({}, {"left": "right", "right": "left"}), 0.8, toes=-0.6))
    found = linked(source, hinted(target, studio)).joints
    assert all(found[ids[name]] == theirs[name] for name in ids if name in theirs)


def test_a_rig_is_put_on_other_art_and_what_does_not_fit_is_told() -> None:
    source, ids = rigged(biped(told({}, ENGLISH)))
    target, _, others = opened(biped(HABITS["German"]))
    bare = {others["Hand links"], others["Hals"]}
    pieces = {id: p for id, p in target.pieces.items() if id not in bare}
    target = target.changed(
        pieces=pieces,
        joints={id: j for id, j in target.joints.items() if id not in bare},
        order=tuple(id for id in target.order if id not in bare),
    )
    joints = linked(source, target).joints
    made = fitted(source, target, joints, pins_for(source, target, joints))
    assert {source.joints[j].name for j in made.lacking} == {"left hand", "neck"}
    german = {name: made.puppet.joints[id] for name, id in others.items() if id in made.puppet.joints}
    assert german["Unterarm links"].parent == others["Oberarm links"]
    # The head, whose neck is not there, hangs on what carries that.
    assert german["Kopf"].parent == others["Oberkörper"]
    assert german["Kopf"].limits == source.joints[ids["head"]].limits
    worlds, own = rest_worlds(made.puppet), rest_worlds(source)
    for one, other in joints.items():
        assert worlds[other].at == pytest.approx(own[one].at, abs=0.02)


def test_a_rig_never_goes_over_what_was_set_by_hand() -> None:
    source, _ = rigged(biped(told({}, ENGLISH)))
    target, _, others = opened(biped(HABITS["German"]))
    documents = Documents({"p": walker().production, "a": target})
    hand, head = others["Hand links"], others["Kopf"]
    documents = do(documents, {"do": "link-joint", "puppet": "a", "joint": hand, "parent": head})
    documents = do(documents, {"do": "set-joints", "puppet": "a", "joints": [head], "role": "tail"})
    documents = do(documents, {"do": "set-joints", "puppet": "a", "joints": [head], "limits": {"low": -3, "high": 4}})
    target = documents.puppet("a")
    joints = linked(source, target, {}).joints
    made = fitted(source, target, {**joints}, pins_for(source, target, joints))
    assert made.puppet.joints[hand].parent == head
    assert made.puppet.joints[hand].rest == target.joints[hand].rest
    assert (made.puppet.joints[head].role, made.puppet.joints[head].limits) == ("tail", target.joints[head].limits)
    assert any("hung by hand" in s for s in made.said)


def test_a_rig_for_something_else_is_refused() -> None:
    source, _ = rigged(dog())
    with pytest.raises(Refusal, match="Nothing of “Figure” answers"):
        fitted(source, opened(biped(told({}, ENGLISH)))[0], {}, {})


def test_no_part_of_one_body_is_taken_for_another() -> None:
    found = reused()
    assert [(f.rig, f.art, f.wrong) for f in found if f.wrong] == []
    assert sum(f.right for f in found) > 50 * sum(len(f.open) for f in found)


def test_a_puppet_is_taken_along_whole_and_keeps_its_time_at_another_rate() -> None:
    documents = planned(walker())
    documents = do(documents, {"do": "set-swatch", "swatch": {"id": "s", "name": "coat", "colour": "#224466ff"}})
    kit = Kit.of(documents, "a")
    there = Documents({"q": documents.production.changed(id="q", swatches={}, rate={"numerator": 12})})
    command = {"do": "bring-puppet", "kit": kit.model_dump(mode="json"), "ids": {"a": "b", "m": "n"}}
    found = do(there, command)
    assert found.motion("n").length == 12
    assert found.motion("n").puppet == "b"
    assert found.motion("n").ground.runs == pytest.approx(2 * documents.motion("m").ground.runs)
    twice = do(found, {**command, "ids": {"a": "c", "m": "o"}})
    assert [p.name for p in twice.puppets()] == ["Porter", "Porter 2"]
    assert twice.puppet("c").changed(id="b", name="Porter") == found.puppet("b")


def test_a_limb_drawn_slantwise_turns_at_its_end() -> None:
    def figure(out: float) -> Loose:
        made = Loose()
        made.box("torso", (250, 200, 350, 420))
        made.limb(
            "left arm",
            (340, 230),
            (340 + 150 * out, 230 + 150 * (1 - out)),
            30,
            "torso",
        )
        made.round("head", (300, 140), 50, "torso")
        return made

    source, ids = rigged(figure(0.0))
    target, studio, others = opened(figure(0.8))
    arts = Both(studio, opened(figure(0.0))[1])
    arm = others["left arm"]
    pins = pins_for(source, target, {ids["left arm"]: arm, ids["torso"]: others["torso"]}, arts)  # type: ignore[arg-type]
    assert pins[arm] == pytest.approx((340, 230), abs=3)
    box = pins_for(source, target, {ids["left arm"]: arm})
    assert abs(box[arm][0] - 340) > 30, "the box around it tells nothing of that"


class Both:
    """Two studios in one."""

    def __init__(self, one: Studio, other: Studio) -> None:
        self.studios = one, other

    def art(self, id: str) -> Any:
        try:
            return self.studios[0].art(id)
        except KeyError:
            return self.studios[1].art(id)

    def alpha(self, picture: str) -> Any:
        return self.studios[0].alpha(picture)

    def kept(self, key: Any, make: Any) -> Any:
        return self.studios[0].kept(key, make)


def test_bones_are_made_only_for_what_is_there() -> None:
    source, ids = rigged(biped(told({}, ENGLISH)))
    documents = Documents({"p": walker().production, "a": source})
    grip = {"id": "grip", "name": "grip", "at": [390, 430], "parent": ids["left hand"]}
    documents = do(documents, {"do": "add-joints", "puppet": "a", "joints": [grip]})
    target, _, others = opened(biped(HABITS["German"]))
    joints = dict(linked(documents.puppet("a"), target).joints)
    assert fitted(documents.puppet("a"), target, joints, {}).made == ()
    # Once something that is there hangs on it, it is made.
    head = {"do": "link-joint", "puppet": "a", "joint": ids["head"], "parent": "grip"}
    made = fitted(do(documents, head).puppet("a"), target, joints, {})
    assert made.made == ("grip",)
    assert made.puppet.joints[others["Kopf"]].parent == made.links.joints["grip"]


def test_a_knee_gives_the_one_way_that_its_limits_leave_it() -> None:
    documents = walker(lean=-10.0)
    assert {leg.bend for leg in anatomy(documents.puppet("a")).legs} == {-1.0}, "as it is drawn"
    shins = ["near0-shin", "far0-shin"]
    told_so = do(documents, {"do": "set-joints", "puppet": "a", "joints": shins, "limits": {"low": 0, "high": 140}})
    assert {leg.bend for leg in anatomy(told_so.puppet("a")).legs} == {1.0}
    said = planned(told_so).motion("m").recipes["g"].said
    assert not any("can't make" in s for s in said)


def test_twins_get_the_same_limits_and_heels_lie_under_their_feet() -> None:
    source, ids = rigged(biped(told({}, ENGLISH)))
    documents = Documents({"p": walker().production, "a": source})
    foot = ids["left foot"]
    x, y = rest_worlds(source)[foot].at
    heel = {"id": "heel", "name": "left heel", "at": [x - 6, y + 14], "handle": True}
    documents = do(documents, {"do": "add-joints", "puppet": "a", "joints": [heel]})
    reach = {"do": "add-reach", "puppet": "a", "id": "c", "name": "left leg", "anchor": ids["left thigh"], "end": foot}
    documents = do(documents, {**reach, "handle": "ankle"})
    documents = do(documents, {"do": "link-joint", "puppet": "a", "joint": "ankle", "parent": "heel"})
    source = documents.puppet("a")
    made = biped(told(GERMAN, {"left": "links", "right": "rechts"}, "{part} {side}"), 1.4)
    target, _, others = opened(made)
    joints = linked(source, target).joints
    found = fitted(source, target, joints, pins_for(source, target, joints))
    own, its = rest_worlds(source), rest_worlds(found.puppet)
    new = found.links.joints["heel"]
    assert its[new].f - its[others["Fuß links"]].f == pytest.approx(14, abs=0.5)
    assert its[new].e - its[others["Fuß links"]].e == pytest.approx(-6, abs=0.5)
    assert own["heel"].f == pytest.approx(y + 14)
    for name in ("Oberarm", "Unterarm", "Unterschenkel"):
        left, right = (found.puppet.joints[others[f"{name} {side}"]].limits for side in ("links", "rechts"))
        if left is not None:
            assert right == Limits(low=-left.high, high=-left.low)


def test_a_walk_planned_for_a_view_is_for_none_where_there_are_no_views() -> None:
    documents = walker()
    turn = {"id": "t", "name": "turn", "high": 360, "turns": True, "stops": [{"at": 0}, {"at": 90, "name": "side"}]}
    documents = planned(do(documents, {"do": "set-dial", "puppet": "a", "dial": turn}), seen=90)
    assert documents.motion("m").seen == 90
    made = carry(documents, walker(height=400.0).puppet("a")).motion
    assert (made.seen, made.recipes["g"].seen) == (None, None)
    assert len(made.channels) > 5


def test_a_turnaround_is_not_put_on_art_of_one_view() -> None:
    documents = walker()
    side = {"id": "s", "name": "head side", "art": "1" * 64, "pivot": [5, 5], "bounds": [0, 0, 9, 9]}
    documents = do(documents, {"do": "add-drawings", "puppet": "a", "piece": "head", "drawings": [side]})
    turn = {
        "id": "t",
        "name": "turn",
        "high": 360,
        "turns": True,
        "stops": [{"at": 0}, {"at": 90, "values": {"head.show": [1]}}],
    }
    documents = do(documents, {"do": "set-dial", "puppet": "a", "dial": turn})
    source, target = documents.puppet("a"), walker(height=400.0).puppet("a")
    joints = linked(source, target).joints
    made = fitted(source, target, joints, {})
    assert made.puppet.dials == {}
    assert any("no drawings of its other views" in s for s in made.said)


def test_a_piece_that_comes_to_ride_on_a_bone_leaves_its_joint_and_the_keys_on_it() -> None:
    """In the rig the scarf rides on the chest; in the art it lies loose, and somebody has keyed it."""
    scarf = part("scarf", "scarf", (640, 300), (-20, 0, 20, 60))
    documents = do(walker(), {"do": "add-pieces", "puppet": "a", "pieces": [scarf]})
    ridden = do(documents, {"do": "ride-pieces", "puppet": "a", "pieces": ["scarf"], "joint": "chest"})
    loose = keyed(
        do(walker(arms=False), {"do": "add-pieces", "puppet": "a", "pieces": [scarf]}), key("scarf", "turn", 0, 9.0)
    )
    source, target = ridden.puppet("a"), loose.puppet("a")
    assert "scarf" not in source.joints and "scarf" in target.joints
    kit = Kit.of(ridden.without("m"), "a").model_dump(mode="json")
    joints = {j: j for j in ("body", "chest", "head")}
    done = do(loose, {"do": "put-rig", "puppet": "a", "kit": kit, "joints": joints})
    assert done.puppet("a").pieces["scarf"].joint == "chest"
    assert "scarf" not in done.puppet("a").joints and not done.motion("m").channels


def test_a_foot_held_by_its_handle_is_planted_where_nothing_else_would_hold_it() -> None:
    documents = reaching()
    documents = keyed(documents, *(key("body", "move", f, 0.0, y) for f, y in ((0, 4.0), (8, 34.0), (16, 12.0))))
    target = walker(lean=8.0, height=750.0).puppet("a")
    made = carry(documents, target)
    assert any("planted in 1 stance" in s for s in made.said)
    stands, slides = standing(target, made.motion)
    assert stands[0].all() and slides[0].max() < 2e-3
    loose, _ = standing(target, made.motion.changed(plants={}))
    assert not loose[0].all(), "between its keys it would leave the ground"


def test_what_the_hand_took_away_of_a_recipe_stays_away_for_another_puppet_too() -> None:
    documents = hand_made({"facing": 1}, 20, 0)
    follow = {"kind": "follow", "id": "f", "name": "Head", "joints": ["head"], "end": 23}
    documents = do(documents, {"do": "do-recipe", "motion": "m", "recipe": follow})
    gone = {"channel": "head.turn", "frame": 4}
    documents = do(documents, {"do": "remove-keys", "motion": "m", "keys": [gone]})
    assert documents.motion("m").recipes["f"].left_out
    target = walker(height=700.0).puppet("a")
    made = carry(documents, target).motion
    again = do(
        documents.with_(target, made), {"do": "do-recipe", "motion": "new", "recipe": {**follow, "frequency": 2.0}}
    )
    assert 4 not in again.motion("new").channels["head.turn"].keys
    assert 6 in again.motion("new").channels["head.turn"].keys
