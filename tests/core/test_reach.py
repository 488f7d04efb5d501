"""Reach: known answers by the law of cosines, and what must hold for any limb and target."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorvan.core.errors import Refusal
from sorvan.core.model.documents import Documents
from sorvan.core.model.production import Production
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.rig.reach import softened
from tests.core.worlds import do

UPPER, LOWER = 100.0, 80.0


def limb(places: list[tuple[float, float]], **reach: Any) -> Documents:
    """A limb of joints at these places, hung on one another, that reaches with its last."""
    documents = Documents({"p": Production(id="p", name="Quay")})
    documents = do(documents, {"do": "add-puppet", "id": "a", "name": "Gull"})
    joints = [
        {"id": f"j{i}", "name": f"joint {i}", "at": at, "parent": f"j{i - 1}" if i else None}
        for i, at in enumerate(places)
    ]
    documents = do(documents, {"do": "add-joints", "puppet": "a", "joints": joints})
    end = f"j{len(places) - 1}"
    add = {"do": "add-reach", "puppet": "a", "id": "c", "name": "leg", "anchor": "j0", "end": end, "handle": "h"}
    documents = do(documents, {**add, "follow": reach.pop("follow", False)})
    chain = documents.puppet("a").chains["c"].model_copy(update=reach)
    documents = do(documents, {"do": "set-chain", "puppet": "a", "chain": chain.model_dump()})
    return do(documents, {"do": "add-motion", "id": "m", "puppet": "a", "name": "step", "length": 40})


BENT = [(0.0, 0.0), (UPPER, 0.0), (UPPER + LOWER * math.cos(0.5), LOWER * math.sin(0.5))]


def moved(documents: Documents, *frames: tuple[int, float, float], handle: str = "h") -> Documents:
    """The handle keyed at these frames, to places on the stage."""
    rest = documents.puppet("a").joints[handle].rest
    keys = [{"joint": handle, "kind": "move", "frame": f, "value": [x - rest.x, y - rest.y]} for f, x, y in frames]
    return do(documents, {"do": "set-keys", "motion": "m", "keys": keys})


def places(documents: Documents) -> np.ndarray:
    """Where the joints are: `(joints, frames)` as complex numbers."""
    e = Evaluation.full(documents.puppet("a"), documents.motion("m"))
    count = sum(id.startswith("j") for id in e.skeleton.ids)
    rows = [e.rig.row[f"j{i}"] for i in range(count)]
    return e.worlds[rows, 4] + 1j * e.worlds[rows, 5]


def test_two_bones_bend_as_the_law_of_cosines_says() -> None:
    # A triangle with sides 100, 80 and 60 is right-angled: 60² + 80² = 100².
    found = places(moved(limb(BENT), (0, 60.0, 0.0)))[:, 0]
    # By hand: the angle at the anchor has cosine (100² + 60² - 80²) / (2·100·60) = 0.6. The limb
    # bends clockwise (its rest turns down, y is down), so the knee lies on the other side: up.
    assert found[1] == pytest.approx(100 * (0.6 - 0.8j), abs=1e-6)
    assert found[2] == pytest.approx(60, abs=1e-6)


def test_the_bend_side_can_be_told() -> None:
    other = places(moved(limb(BENT, bend="counter-clockwise"), (0, 60.0, 0.0)))[:, 0]
    assert other[1] == pytest.approx(100 * (0.6 + 0.8j), abs=1e-6)


@given(st.floats(25, 165), st.floats(-math.pi, math.pi), st.integers(2, 5))
def test_a_limb_meets_a_target_within_its_length(distance: float, angle: float, bones: int) -> None:
    step = (UPPER + LOWER) / bones
    bent = [(0.0, 0.0)]
    for i in range(bones):
        bent.append((bent[-1][0] + step * math.cos(0.5 * i), bent[-1][1] + step * math.sin(0.5 * i)))
    target = distance * np.exp(1j * angle)
    documents = moved(limb(bent), (0, target.real, target.imag))
    found = places(documents)[:, 0]
    assert found[0] == 0
    assert np.abs(np.diff(found)) == pytest.approx([step] * bones)
    assert abs(found[-1] - target) < (1e-6 if bones == 2 else 0.05)


@given(st.floats(1, 1000), st.floats(0.01, 0.4), st.floats(0, 1))
def test_the_soft_limit_is_never_left_and_never_hurries(length: float, soft: float, rest: float) -> None:
    away = np.linspace(0, 3 * length, 4000)
    found = softened(away, length, soft, rest * length)
    speed = np.diff(found) / np.diff(away)
    assert found.max() <= length * (1 + 1e-12)
    assert speed.max() <= 1 + 1e-6
    assert speed.min() >= -1e-9


def test_nothing_pops_when_the_target_leaves_the_limbs_length() -> None:
    documents = moved(limb(BENT), (0, 120.0, 0.0), (39, 320.0, 0.0))
    found = places(documents)
    steps = np.abs(np.diff(found, axis=1))
    target = 200 / 39
    assert steps[2].max() <= target + 1e-6
    # The knee flies straight without a soft limit (its speed has no bound there).
    assert steps[1].max() < 4 * target


def test_from_turned_to_reached_goes_without_a_jump() -> None:
    documents = moved(limb(BENT), (0, 20.0, 90.0))
    keys = [{"joint": "c", "kind": "reach", "frame": f, "value": [v]} for f, v in ((0, 0.0), (10, 0.0), (30, 100.0))]
    keys += [{"joint": "j0", "kind": "turn", "frame": 0, "value": [-40.0]}]
    documents = do(documents, {"do": "set-keys", "motion": "m", "keys": keys})
    found = places(documents)
    e = Evaluation.full(documents.puppet("a"), documents.motion("m"))
    both = e.reached["c"]
    assert found[:, 10] == pytest.approx(both.turned[:, 10])
    assert found[:, 30] == pytest.approx(both.reached[:, 30])
    assert found[2, 30] == pytest.approx(20 + 90j, abs=1e-6)
    whole = abs(found[2, 30] - found[2, 10])
    assert np.abs(np.diff(found[2, 10:31])).max() < 0.15 * whole


@given(st.integers(2, 4), st.floats(-200, 200), st.floats(-200, 200))
def test_no_joint_leaves_its_limits(bones: int, x: float, y: float) -> None:
    line = [(60.0 * i, 12.0 * (i % 2)) for i in range(bones + 1)]
    documents = limb(line)
    for i in range(bones):
        limits = {"do": "set-joints", "puppet": "a", "joints": [f"j{i}"], "limits": {"low": -50, "high": 35}}
        documents = do(documents, limits)
    e = Evaluation.full(*(lambda d: (d.puppet("a"), d.motion("m")))(moved(documents, (0, x, y))))
    rest = Evaluation.full(documents.puppet("a"))
    for i in range(bones):
        row = e.rig.row[f"j{i}"]
        now, then = (math.atan2(s.places.settled[row, 1, 0], s.places.settled[row, 0, 0]) for s in (e, rest))
        turned = math.degrees(math.remainder(now - then, math.tau))
        assert -50.001 <= turned <= 35.001


def test_a_foot_follows_its_handle_and_stays_while_the_hips_move() -> None:
    hips = [(0.0, -40.0), (0.0, 0.0), (26.0, 88.0), (0.0, 176.0)]
    documents = limb(hips)
    chain = {"id": "c", "name": "leg", "joints": ["j1", "j2", "j3"], "handle": "h", "follow": True}
    documents = do(documents, {"do": "set-chain", "puppet": "a", "chain": chain})
    keys = [{"joint": "j0", "kind": "move", "frame": f, "value": [v / 2, v]} for f, v in ((0, 0.0), (20, 25.0))]
    keys += [{"joint": "j0", "kind": "turn", "frame": f, "value": [v]} for f, v in ((0, 0.0), (20, 9.0))]
    documents = do(documents, {"do": "set-keys", "motion": "m", "keys": keys})
    e = Evaluation.full(documents.puppet("a"), documents.motion("m"))
    foot = e.worlds[e.rig.row["j3"]]
    assert np.ptp(foot, axis=1) == pytest.approx(np.zeros(6), abs=1e-6)
    assert np.ptp(e.worlds[e.rig.row["j2"], 4]) > 3


def test_handles_may_hang_on_handles_and_a_circle_is_refused() -> None:
    documents = limb([(0.0, 0.0), (6.0, 90.0), (0.0, 180.0)], follow=True)
    heel = {"id": "heel", "name": "heel", "at": [-20, 190], "handle": True}
    documents = do(documents, {"do": "add-joints", "puppet": "a", "joints": [heel]})
    documents = do(documents, {"do": "link-joint", "puppet": "a", "joint": "h", "parent": "heel"})
    documents = do(
        documents,
        {"do": "set-keys", "motion": "m", "keys": [{"joint": "heel", "kind": "turn", "frame": 0, "value": [-30]}]},
    )
    # The heel turns by 30° and takes the handle, 20 to the right and 10 above, with it.
    ankle = -20 + 190j + (20 - 10j) * np.exp(-1j * math.pi / 6)
    assert places(documents)[2, 0] == pytest.approx(ankle, abs=1e-6)
    with pytest.raises(Refusal) as refused:
        do(documents, {"do": "link-joint", "puppet": "a", "joint": "heel", "parent": "j1"})
    assert refused.value.kind == "loop"


def test_a_handle_of_the_world_stays_when_the_puppet_is_moved() -> None:
    documents = limb(BENT)
    documents = do(documents, {"do": "link-joint", "puppet": "a", "joint": "h", "world": True})
    keys = [{"joint": "puppet", "kind": "move", "frame": 0, "value": [30.0, 10.0]}]
    documents = do(documents, {"do": "set-keys", "motion": "m", "keys": keys})
    found = places(documents)[:, 0]
    assert found[0] == pytest.approx(30 + 10j)
    assert found[2] == pytest.approx(BENT[2][0] + 1j * BENT[2][1], abs=1e-6)


def test_a_limb_that_may_stretch_meets_a_far_target() -> None:
    found = places(moved(limb(BENT, stretch=2.0), (0, 0.0, 300.0)))[:, 0]
    assert found[2] == pytest.approx(300j, abs=1e-6)
    assert abs(found[1]) / abs(found[2] - found[1]) == pytest.approx(UPPER / LOWER)


def test_a_limb_at_rest_lies_as_drawn_even_when_straight() -> None:
    for line in (BENT, [(0.0, 0.0), (100.0, 0.0), (180.0, 0.0)], [(0.0, 0.0), (60.0, 0.0), (120.0, 5.0), (180.0, 0.0)]):
        found = places(limb(line))
        assert found[:, 0] == pytest.approx([x + 1j * y for x, y in line], abs=1e-5)


def natural(bones: int, bend: float, limits: tuple[float, float] | None = None, **reach: Any) -> Documents:
    """A limb of ever shorter bones, each bent from the one before by so many radians; its joints but the
    first turn within these limits."""
    line, way, total = [(0.0, 0.0)], 0.0, 0.0
    for i in range(bones):
        long = 60 * 0.85**i
        line.append((line[-1][0] + long * math.cos(way), line[-1][1] + long * math.sin(way)))
        way, total = way + bend, total + long
    documents = limb(line, **reach)
    for i in range(1, bones) if limits else ():
        given = {"low": limits[0], "high": limits[1]}
        documents = do(documents, {"do": "set-joints", "puppet": "a", "joints": [f"j{i}"], "limits": given})
    return documents


def along(documents: Documents, path: np.ndarray) -> Documents:
    """The handle keyed along a path, a place a frame."""
    documents = do(documents, {"do": "set-motion", "motion": "m", "length": len(path)})
    return moved(documents, *((f, z.real, z.imag) for f, z in enumerate(path)))


@given(
    st.integers(2, 6),
    st.floats(0.15, 0.8),
    st.sampled_from([None, (-20.0, 100.0)]),
    st.floats(0.35, 0.85),
    st.floats(-math.pi, math.pi),
)
def test_a_target_that_moves_smoothly_never_makes_a_limb_jump(
    bones: int, bend: float, limits: tuple[float, float] | None, far: float, angle: float
) -> None:
    length = sum(60 * 0.85**i for i in range(bones))
    round_ = np.linspace(0, 2 * math.pi, 97)
    path = far * length * np.exp(1j * angle) + 20 * np.cos(round_) + 10j * np.sin(round_)
    found = places(along(natural(bones, bend, limits), path))
    step = np.abs(np.diff(path)).max()
    assert np.abs(np.diff(found, axis=1)).max() < 6 * step
    directions = np.angle(np.diff(found, axis=0))
    turns = np.abs(np.angle(np.exp(1j * np.diff(directions, axis=1))))
    assert np.degrees(turns.max()) < 9


@given(st.integers(3, 6), st.floats(0.15, 0.8), st.data())
def test_what_a_limb_can_reach_within_its_limits_it_reaches(bones: int, bend: float, data: st.DataObject) -> None:
    """Targets made from poses that the limits allow."""
    documents = natural(bones, bend, (-20.0, 100.0), soft=0.0)
    path: list[complex] = []
    for _ in range(24):
        way, end = data.draw(st.floats(-math.pi, math.pi)), 0j
        for i in range(bones):
            way += bend + math.radians(data.draw(st.floats(-20, 100))) if i else 0.0
            end += 60 * 0.85**i * np.exp(1j * way)
        path.append(end)
    found = places(along(documents, np.array(path)))[-1]
    missed = np.abs(found - np.array(path)) > 0.5
    assert missed.sum() <= 1


def test_limits_that_forbid_one_bend_leave_the_other() -> None:
    documents = limb(BENT)
    # The knee may only straighten and bend the other way.
    limits = {"low": -175, "high": 0}
    documents = do(documents, {"do": "set-joints", "puppet": "a", "joints": ["j1"], "limits": limits})
    found = places(moved(documents, (0, 60.0, 0.0)))[:, 0]
    assert found[2] == pytest.approx(60, abs=1e-6)
    assert found[1] == pytest.approx(100 * (0.6 + 0.8j), abs=1e-6)


@given(st.integers(2, 5), st.floats(-170, 170), st.floats(1, 99))
def test_a_part_blended_limb_never_flips_while_its_handle_goes_round(bones: int, turn: float, percent: float) -> None:
    documents = natural(bones, 0.3, soft=0.0)
    length = sum(60 * 0.85**i for i in range(bones))
    path = 0.5 * length * np.exp(1j * np.linspace(0, 2 * math.pi, 121))
    documents = along(documents, path)
    keys = [{"joint": "c", "kind": "reach", "frame": 0, "value": [percent]}]
    keys += [{"joint": "j0", "kind": "turn", "frame": 0, "value": [turn]}]
    documents = do(documents, {"do": "set-keys", "motion": "m", "keys": keys})
    found = places(documents)
    e = Evaluation.full(documents.puppet("a"), documents.motion("m"))
    end = e.reached["c"].turned[-1]
    wanted = end + percent / 100 * (path - end)
    # No limb comes nearer to its anchor than its bones differ.
    near = np.abs(wanted) > 0.12 * length
    assert found[-1][near] == pytest.approx(wanted[near], abs=0.5)
    # Around the anchor any limb turns quickly.
    clear = np.minimum(np.abs(wanted[1:]), np.abs(wanted[:-1])) > 0.25 * length
    steps = np.abs(np.diff(found, axis=1))[:, clear]
    assert steps.max(initial=0) < 6 * np.abs(np.diff(path)).max()


@given(st.integers(2, 5), st.lists(st.floats(-90, 90), min_size=5, max_size=5), st.booleans())
def test_a_reach_of_nothing_is_the_turned_limb_and_comes_there_without_a_pop(
    bones: int, turned: list[float], follow: bool
) -> None:
    documents = moved(natural(bones, 0.3, follow=follow), (0, 20.0, 70.0))
    keys = [{"joint": "c", "kind": "reach", "frame": f, "value": [v]} for f, v in ((0, 0.0), (39, 1.0))]
    keys += [{"joint": f"j{i}", "kind": "turn", "frame": 0, "value": [turned[i]]} for i in range(bones)]
    documents = do(documents, {"do": "set-keys", "motion": "m", "keys": keys})
    found = places(documents)
    e = Evaluation.full(documents.puppet("a"), documents.motion("m"))
    assert found[:, 0] == pytest.approx(e.reached["c"].turned[:, 0], abs=1e-6)
    # A knee leaves straight quickly; a pop would be the length of a bone (50 and more).
    assert np.abs(np.diff(found, axis=1)).max() < 8.0
