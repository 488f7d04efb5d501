"""Feet that stay where they are planted, and travel matched to the stride, measured on what is drawn."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorvan.core.errors import Refusal
from sorvan.core.model.documents import Documents
from sorvan.core.motion.hand import grip
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.plan.ground_contact import tracks
from sorvan.core.rig.anatomy import anatomy
from tests.core.walkers import hand_made, key, keyed, walker
from tests.core.worlds import do

figures = st.fixed_dictionaries(
    {
        "leg": st.floats(0.35, 0.6),
        "shin": st.floats(0.7, 1.4),
        "foot": st.sampled_from([0.0, 0.3, 0.6]),
        "toes": st.booleans(),
        "facing": st.sampled_from([1, -1]),
        "lean": st.sampled_from([0.0, 12.0]),
    }
)


def planted(documents: Documents, joint: str, start: int, frames: int, **more: Any) -> Documents:
    plant = {"do": "plant-foot", "motion": "m", "id": f"p{start}", "joint": joint, "start": start, "frames": frames}
    return do(documents, plant | more)


def near_foot(documents: Documents) -> Any:
    """The near leg's foot over time."""
    puppet, motion = documents.puppet("a"), documents.motion("m")
    leg = next(leg for leg in anatomy(puppet).legs if leg.side == "left")
    return tracks(Evaluation.full(puppet, motion), [leg])[0]


def last_of(documents: Documents) -> str:
    leg = next(leg for leg in anatomy(documents.puppet("a")).legs if leg.side == "left")
    return leg.foot or leg.bones[-1]


@given(figures, st.data())
def test_a_planted_foot_stays_while_the_body_goes_down_leans_and_turns(
    figure: dict[str, Any], data: st.DataObject
) -> None:
    documents = walker(**figure)
    size = anatomy(documents.puppet("a")).leg
    value = lambda low, high: data.draw(st.floats(low, high))  # noqa: E731
    documents = keyed(
        documents,
        key("body", "move", 0, 0, 0.15 * size),
        key("body", "move", 9, value(-0.12, 0.12) * size, value(0.15, 0.3) * size),
        key("body", "turn", 9, value(-12, 12)),
        key("near0-thigh", "turn", 5, value(-15, 15)),
        key("puppet", "move", 14, value(-0.08, 0.08) * size, 0),
    )
    documents = planted(documents, last_of(documents), 2, 15, flat=True, fade=0)
    foot = near_foot(documents)
    inside = slice(2, 17)
    for place in (foot.heel, foot.toe):
        assert np.abs(place[inside] - place[2]).max() < 1e-3
    assert np.abs(foot.lowest[inside] - anatomy(documents.puppet("a")).ground).max() < 1e-3


@given(figures, st.floats(-25, 0), st.floats(5, 40))
def test_a_foot_rolls_from_heel_to_toe_and_what_it_stands_on_stays(
    figure: dict[str, Any], strike: float, off: float
) -> None:
    documents = walker(**figure | {"foot": 0.4})
    puppet = documents.puppet("a")
    size, way, ground = anatomy(puppet).leg, figure["facing"], anatomy(puppet).ground
    documents = keyed(
        documents,
        key("body", "move", 0, 0, 0.12 * size),
        key("near0-foot", "turn", 0, way * strike),
        key("near0-foot", "turn", 8, 0.0),
        key("near0-foot", "turn", 14, 0.0),
        key("near0-foot", "turn", 20, way * off),
    )
    documents = planted(documents, "near0-foot", 0, 21, fade=0)
    foot = near_foot(documents)
    footing = Evaluation.full(puppet, documents.motion("m")).rig.footing(puppet, "near0-foot")
    world = Evaluation.full(puppet, documents.motion("m")).worlds
    row = Evaluation.full(puppet, documents.motion("m")).rig.row["near0-foot"]
    assert np.abs(foot.heel[:15] - foot.heel[0]).max() < 1e-3, "it stands on its heel, then flat"
    assert abs(foot.heel[0].imag - ground) < 1e-3
    ball = footing.ball
    m = world[row]
    x, y = footing.at_rest[footing.foot].inverse().place((ball.real, ball.imag))
    over = m[0] * x + m[2] * y + m[4] + 1j * (m[1] * x + m[3] * y + m[5])
    assert np.abs(over[8:21] - over[8]).max() < 1e-3, "then it rolls over its ball"
    assert foot.lowest[:21].max() < ground + 1e-3, "nothing of it goes into the ground"
    assert (foot.heel[20].imag < ground - 1) == (off > 0)


@pytest.mark.parametrize("runs", [0.0, -6.0, 4.0])
def test_on_ground_that_runs_a_foot_goes_along_round_the_seam(runs: float) -> None:
    documents = do(walker(lean=12.0), {"do": "set-ground", "motion": "m", "runs": runs})
    documents = keyed(documents, key("body", "move", 0, 0, 30))
    documents = planted(documents, "near0-foot", 20, 8, fade=0)
    foot = near_foot(documents)
    turn = [20, 21, 22, 23, 0, 1, 2, 3]
    steps = np.diff(foot.heel[turn].real)
    assert np.abs(steps - runs).max() < 1e-3
    assert np.abs(np.diff(foot.heel[4:20].real)).max() < 1e-9, "elsewhere the leg only hangs"


def test_a_foot_is_led_to_its_place_and_let_go_without_a_jump() -> None:
    documents = keyed(
        walker(lean=12.0),
        key("body", "move", 0, 0, 20),
        key("near0-thigh", "turn", 0, 30),
        key("near0-thigh", "turn", 12, -30),
    )
    loose = near_foot(documents)
    documents = planted(documents, "near0-foot", 8, 5, fade=4)
    held = near_foot(documents)
    apart = np.abs(held.heel - loose.heel)
    assert apart[3] == 0 and apart[17] == 0 and np.abs(held.heel[8:13] - held.heel[8]).max() < 1e-3
    share = apart[8:13].max()
    assert share > 5 and np.abs(np.diff(apart)).max() < 0.6 * share


def test_two_plants_of_one_foot_take_turns() -> None:
    documents = keyed(
        walker(lean=12.0),
        key("body", "move", 0, 0, 30),
        key("near0-thigh", "turn", 0, 20),
        key("near0-thigh", "turn", 12, -20),
    )
    documents = planted(documents, "near0-foot", 2, 4, fade=1, flat=True)
    documents = planted(documents, "near0-foot", 10, 4, fade=1, flat=True)
    foot = near_foot(documents)
    assert np.abs(foot.heel[2:6] - foot.heel[2]).max() < 1e-3 and np.abs(foot.heel[10:14] - foot.heel[10]).max() < 1e-3
    assert abs(foot.heel[2] - foot.heel[10]) > 20


def test_a_hand_can_be_planted_and_only_where_a_bone_can_turn() -> None:
    documents = keyed(walker(), key("body", "turn", 0, 0), key("body", "turn", 12, 12))
    forearm = "near-forearm"
    documents = planted(documents, forearm, 0, 10, fade=0)
    e = Evaluation.full(documents.puppet("a"), documents.motion("m"))
    place = e.worlds[e.rig.row[forearm]][4:6, :10]
    assert np.abs(place - place[:, :1]).max() < 1e-3
    with pytest.raises(Refusal, match="hangs on no bone"):
        planted(documents, "body", 0, 4)


def test_limits_are_kept_even_where_the_foot_can_then_not_stay() -> None:
    documents = do(
        walker(lean=12.0),
        {"do": "set-joints", "puppet": "a", "joints": ["near0-shin"], "limits": {"low": -5, "high": 5}},
    )
    documents = keyed(documents, key("body", "move", 0, 0, 0), key("body", "move", 12, 0, 80))
    documents = planted(documents, "near0-foot", 0, 24, fade=0)
    e = Evaluation.full(documents.puppet("a"), documents.motion("m"))
    local = e.places.planted[e.rig.row["near0-shin"]]
    rest = documents.puppet("a").joints["near0-shin"].rest.angle
    assert np.abs(np.rad2deg(np.arctan2(local[1], local[0])) - rest).max() < 5.001


@given(
    st.fixed_dictionaries(
        {"shin": st.floats(0.8, 1.2), "facing": st.sampled_from([1, -1]), "lean": st.just(10.0), "foot": st.just(0.3)}
    ),
    st.floats(12, 22),
    st.floats(-5, 5),
    st.sampled_from(["spot", "forward"]),
)
def test_matched_travel_leaves_no_slide_in_a_walk_made_by_hand(
    figure: dict[str, Any], thigh: float, sway: float, travel: str
) -> None:
    documents = hand_made(figure, thigh, sway)
    before = documents.motion("m")
    documents = do(documents, {"do": "match-travel", "motion": "m", "travel": travel})
    puppet, motion = documents.puppet("a"), documents.motion("m")
    joints = {p.joint for p in motion.plants.values()}
    assert joints == {"near0-foot", "far0-foot"}
    # A hand then changes the body: what stands still stands.
    documents = keyed(documents, key("body", "move", 3, sway, 0.06 * anatomy(puppet).leg + 9))
    motion = documents.motion("m")
    evaluation = Evaluation.full(puppet, motion)
    stride = -motion.ground.runs * 24 if travel == "spot" else motion.channels["puppet.move"].keys[24].value[0]
    assert stride * figure["facing"] > 0.5 * anatomy(puppet).leg * np.sin(np.radians(thigh))
    ground = anatomy(puppet).ground
    feet = {t.leg.foot: t for t in tracks(evaluation, anatomy(puppet).legs)}
    for plant in motion.plants.values():
        foot, frames = feet[plant.joint], np.arange(plant.start, plant.start + plant.frames) % 24
        round_ = (np.arange(plant.start, plant.start + plant.frames) // 24) * (stride if travel == "forward" else 0)
        steps = np.diff(foot.heel[frames].real + round_) - motion.ground.runs
        rolled = np.diff(foot.toe[frames].real + round_) - motion.ground.runs
        assert np.minimum(np.abs(steps), np.abs(rolled)).max() < 0.1
        assert foot.lowest[frames].max() < ground + 0.1 and foot.lowest[frames].min() > ground - 0.1
    assert {id: c.keys for id, c in before.channels.items()}.keys() <= motion.channels.keys()
    again = do(documents, {"do": "match-travel", "motion": "m", "travel": travel}).motion("m")
    assert len(again.plants) == len(motion.plants)


def test_plants_go_with_time_that_is_moved_about_and_with_joints_that_go() -> None:
    documents = planted(walker(), "near0-foot", 6, 4)
    later = do(documents, {"do": "insert-time", "motion": "m", "at": 3, "frames": 5}).motion("m")
    assert (later.plants["p6"].start, later.plants["p6"].frames) == (11, 4)
    inside = do(documents, {"do": "insert-time", "motion": "m", "at": 8, "frames": 5}).motion("m")
    assert (inside.plants["p6"].start, inside.plants["p6"].frames) == (6, 9)
    gone = do(documents, {"do": "remove-pieces", "puppet": "a", "pieces": ["near0-foot"]})
    assert not gone.motion("m").plants


@pytest.mark.parametrize(("joint", "by"), [("puppet", -3.0), ("puppet", 4.5), ("near0-foot", -5.0)])
def test_what_is_moved_near_the_ground_snaps_to_it_and_farther_away_follows_the_hand(joint: str, by: float) -> None:
    documents = keyed(walker(lean=12.0), key("puppet", "move", 0, 0, -40), key("near0-foot", "move", 0, 0, 0))
    pose = Evaluation.full(documents.puppet("a"), documents.motion("m")).pose(0, {})
    free, held = (grip(pose, joint, "move", (600, 500), snap) for snap in (False, True))
    foot = lambda hand, at: near(pose.pose(0, hand.at(at)))  # noqa: E731

    def near(e: Evaluation) -> float:
        return float(next(t for t in tracks(e, anatomy(e.puppet).legs) if t.leg.side == "left").lowest[0])

    ground = anatomy(pose.puppet).ground
    assert near(pose) == pytest.approx(ground - 40)
    # The hand stops a little above or below the ground.
    assert foot(held, (650, 540 + by)) == pytest.approx(ground, abs=0.01)
    assert foot(free, (650, 540 + by)) == pytest.approx(ground + by, abs=0.01)
    assert foot(held, (650, 520)) == pytest.approx(ground - 20, abs=0.01)
