"""Pulling a part of a limb that nothing was prepared for: measured on what is drawn."""

from __future__ import annotations

import itertools
import math
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorvan.core.errors import Refusal
from sorvan.core.geometry import Affine, Point
from sorvan.core.model.documents import Documents
from sorvan.core.motion.limb import take
from sorvan.core.plan.evaluate import Evaluation
from tests.core.walkers import key, keyed, walker
from tests.core.worlds import do

figures = st.fixed_dictionaries(
    {
        "leg": st.floats(0.35, 0.6),
        "shin": st.floats(0.6, 1.6),
        "hock": st.booleans(),
        "legs": st.sampled_from([2, 4]),
        "facing": st.sampled_from([1, -1]),
        "lean": st.sampled_from([0.0, 12.0]),
    }
)


def shown(documents: Documents) -> Evaluation:
    """The figure in the first frame of its motion."""
    return Evaluation.full(documents.puppet("a"), documents.motion("m")).pose(0, {})


def on_stage(pose: Evaluation, joint: str) -> Affine:
    return Affine(*pose.worlds[pose.rig.row[joint], :, 0].tolist())


def carried(before: Evaluation, after: Evaluation, joint: str, at: Point) -> Point:
    """Where a place of a joint has come to."""
    return on_stage(after, joint).place(on_stage(before, joint).inverse().place(at))


@given(figures, st.data())
def test_what_is_pulled_lies_under_the_hand_and_only_its_limb_has_turned(
    figure: dict[str, Any], data: st.DataObject
) -> None:
    documents = walker(**figure)
    value = lambda low, high: data.draw(st.floats(low, high))  # noqa: E731
    # However it is posed and turned already, and if it is seen the other way round.
    documents = keyed(
        documents,
        key("body", "turn", 0, value(-60, 60)),
        key("puppet", "scale", 0, data.draw(st.sampled_from([1.0, -1.0])), 1.0),
        *(key(j, "turn", 0, value(-40, 40)) for j in ("near0-thigh", "near0-shin", "near-upper-arm", "near-forearm")),
    )
    before = shown(documents)
    piece, begins = data.draw(st.sampled_from([("near0-foot", "near0-thigh"), ("near-forearm", "near-upper-arm")]))
    foot = piece == "near0-foot"
    held = on_stage(before, piece).place((3.0, 20.0) if foot else (0.0, 60.0))
    hold = take(before, "limb", piece, piece, held)
    # What goes where the hand goes: the ankle, since the foot stays as flat as it is; or the place held itself.
    end, centre = on_stage(before, piece).at if foot else held, on_stage(before, begins).at
    far = math.dist(centre, end)
    # Nearer than the limb is as it stands, but not too near, can be met by bending.
    angle, distance = math.radians(value(-180, 180)), far * value(0.8, 1.0)
    x, y = (centre[n] + distance * (math.cos(angle), math.sin(angle))[n] + held[n] - end[n] for n in (0, 1))
    tried = hold.at((x, y))
    after = shown(documents).pose(0, tried)
    assert math.dist(carried(before, after, piece, held), (x, y)) < 0.02 * far
    bones = ("thigh", "shin", "cannon") if figure["hock"] else ("thigh", "shin")
    limb = {f"near0-{n}.turn" for n in (*bones, "foot")} if foot else {"near-upper-arm.turn", "near-forearm.turn"}
    assert set(tried) == limb
    if foot:
        ways = [math.atan2(m.b, m.a) for m in (on_stage(before, piece), on_stage(after, piece))]
        assert math.remainder(ways[1] - ways[0], 2 * math.pi) == pytest.approx(0, abs=1e-3)


@pytest.mark.parametrize("facing", [1, -1])
@pytest.mark.parametrize("aside", [-8.0, 0.0, 8.0])
@pytest.mark.parametrize(("piece", "held", "forward"), [("near0-foot", 10.0, 1), ("near-forearm", 70.0, -1)])
def test_a_straight_limb_gives_as_its_kind_does(
    facing: int, aside: float, piece: str, held: float, forward: int
) -> None:
    """A knee goes forward and an elbow back when what hangs below is lifted, wherever across it is held."""
    documents = walker(facing=facing, lean=0.0)
    before = shown(documents)
    x, y = on_stage(before, piece).place((aside, held))
    after = before.pose(0, take(before, "limb", piece, piece, (x, y)).at((x, y - 40)))
    middle = "near0-shin" if piece == "near0-foot" else piece
    moved = on_stage(after, middle).e - on_stage(before, middle).e
    assert moved * facing * forward > 10


def test_limits_hold_and_turn_a_straight_limb_their_way() -> None:
    documents = do(
        walker(),
        {"do": "set-joints", "puppet": "a", "joints": ["near-forearm"], "limits": {"low": 0, "high": 70}},
    )
    before = shown(documents)
    x, y = on_stage(before, "near-forearm").place((0.0, 60.0))
    hold = take(before, "limb", "near-forearm", "near-forearm", (x, y))
    for lift in (20, 60, 120):
        turn = hold.at((x, y - lift))["near-forearm.turn"][0]
        assert 0 < turn <= 70
    assert hold.at((x, y - 120))["near-forearm.turn"] == (70,)


def test_a_limb_wound_round_its_shoulder_keeps_on_winding() -> None:
    before = shown(walker())
    x, y = on_stage(before, "near-forearm").place((0.0, 80.0))
    cx, cy = on_stage(before, "near-upper-arm").at
    hold = take(before, "limb", "near-forearm", "near-forearm", (x, y))
    r = 0.9 * math.dist((x, y), (cx, cy))
    turns = []
    for degrees in range(0, 721, 30):
        a = math.radians(90 + degrees)
        turns.append(hold.at((cx + r * math.cos(a), cy + r * math.sin(a)))["near-upper-arm.turn"][0])
    assert turns[-1] - turns[0] == pytest.approx(720, abs=0.01)
    assert max(abs(b - a) for a, b in itertools.pairwise(turns)) < 31


def test_a_limb_begins_where_it_is_told_to() -> None:
    before = shown(walker())
    x, y = on_stage(before, "near-forearm").place((0.0, 80.0))
    tried = take(before, "limb", "near-forearm", "near-forearm", (x, y), begins="chest").at((x + 90, y - 60))
    assert set(tried) == {"chest.turn", "near-upper-arm.turn", "near-forearm.turn"}
    alone = take(before, "limb", "near-forearm", "near-forearm", (x, y), begins="near-forearm")
    assert set(alone.at((x + 30, y))) == {"near-forearm.turn"}
    with pytest.raises(Refusal, match="doesn't hang on “head”"):
        take(before, "limb", "near-forearm", "near-forearm", (x, y), begins="head")


def test_a_limb_that_reaches_is_led_by_its_handle_and_a_planted_foot_says_so() -> None:
    documents = walker()
    reach = {"do": "add-reach", "puppet": "a", "id": "c", "name": "leg", "anchor": "near0-thigh", "end": "near0-foot"}
    led = shown(do(documents, {**reach, "handle": "h"}))
    x, y = on_stage(led, "near0-foot").place((0.0, 4.0))
    hold = take(led, "limb", "near0-foot", "near0-foot", (x, y))
    assert hold.joint == "h" and hold.at((x + 20, y - 30)) == {"h.move": (20.0, -30.0)}
    still = {"do": "plant-foot", "motion": "m", "id": "p", "joint": "near0-foot", "start": 0, "frames": 12}
    planted = shown(do(documents, still))
    with pytest.raises(Refusal, match="planted at this frame"):
        take(planted, "limb", "near0-foot", "near0-foot", (x, y))
    # What stands on it is moved all the same, and so is the other leg.
    assert take(planted, "limb", "chest", "chest", (640, 300)).at((660, 300))
    assert take(planted, "limb", "far0-foot", "far0-foot", on_stage(planted, "far0-foot").place((0.0, 4.0)))


def test_without_names_a_limb_begins_where_the_joints_branch() -> None:
    documents = walker()
    plain = {
        id: j.changed(name=f"part {n}", role=None) for n, (id, j) in enumerate(documents.puppet("a").joints.items())
    }
    documents = documents.with_(documents.puppet("a").changed(joints=plain))
    before = shown(documents)
    x, y = on_stage(before, "near-forearm").place((0.0, 80.0))
    tried = take(before, "limb", "near-forearm", "near-forearm", (x, y)).at((x + 40, y - 60))
    assert set(tried) == {"near-upper-arm.turn", "near-forearm.turn"}
