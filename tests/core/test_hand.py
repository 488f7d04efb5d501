"""A pulling hand: what it makes of the joint it holds."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorvan.core.change.pieces import place_of
from sorvan.core.geometry import Affine, near
from sorvan.core.model.puppet import ROOT
from sorvan.core.motion.hand import grip
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.rig.names import side_of, twin_name
from tests.core.test_changes import quay
from tests.core.worlds import do, productions


def test_a_piece_follows_the_hand_round_its_pin_and_keeps_winding() -> None:
    documents = quay()
    rest = Evaluation.full(documents.puppet("a"))
    held = grip(rest, "wing", "turn", (150, 90))  # 10 units right of the pin at (140, 90)
    turns = []
    for degrees in range(0, 541, 45):
        a = math.radians(degrees)
        turns.append(held.at((140 + 30 * math.cos(a), 90 + 30 * math.sin(a)))["wing.turn"][0])
    assert turns == pytest.approx(range(0, 541, 45), abs=1e-3)
    assert held.at((140, 90 - 30), whole_steps=True)["wing.turn"][0] % 15 == 0


def test_under_a_mirrored_parent_the_piece_still_follows_the_hand() -> None:
    documents = do(quay(), {"do": "mirror-pieces", "puppet": "a", "ids": {"tip": "tip2"}})
    documents = do(documents, {"do": "link-joint", "puppet": "a", "joint": "tip2", "parent": "body"})
    documents = do(documents, {"do": "add-motion", "id": "n", "puppet": "a", "name": "x", "length": 1})
    keys = [{"joint": "body", "kind": "scale", "frame": 0, "value": [-1, 1]}]
    documents = do(documents, {"do": "set-keys", "motion": "n", "keys": keys})
    flipped = Evaluation.full(documents.puppet("a"), documents.motion("n"))
    row = flipped.skeleton.ids.index("tip2")
    pin = (flipped.worlds[row, 4, 0], flipped.worlds[row, 5, 0])
    held = grip(flipped.pose(0, {}), "tip2", "turn", (pin[0] + 10, pin[1]))
    tried = held.at((pin[0], pin[1] + 10))
    world = flipped.pose(0, tried).worlds[row, :, 0]
    before = flipped.worlds[row, :, 0]
    # The point that was held, 10 right of the pin, now lies 10 below it.
    local = Affine(*before).inverse().place((pin[0] + 10, pin[1]))
    assert Affine(*world).place(local) == pytest.approx((pin[0], pin[1] + 10), abs=1e-3)


@given(st.data())
def test_moving_brings_what_was_held_under_the_hand(data: st.DataObject) -> None:
    documents = data.draw(productions())
    rest = Evaluation.full(documents.puppet("a"))
    joint = data.draw(st.sampled_from([*documents.puppet("a").joints, ROOT]))
    dx, dy = data.draw(st.floats(-100, 100)), data.draw(st.floats(-100, 100))
    tried = grip(rest, joint, "move", (7, 9)).at((7 + dx, 9 + dy))
    row = rest.skeleton.ids.index(joint)
    before, after = rest.worlds[row, 4:, 0], rest.pose(0, tried).worlds[row, 4:, 0]
    assert after - before == pytest.approx((dx, dy), abs=0.02)


def test_the_whole_puppet_turns_about_where_it_stands() -> None:
    documents = do(quay(), {"do": "set-puppet", "puppet": "a", "origin": [100, 200]})
    rest = Evaluation.full(documents.puppet("a"))
    tried = grip(rest, ROOT, "turn", (100, 100)).at((200, 200))
    assert tried == {"puppet.turn": (90.0,)}
    row = rest.skeleton.ids.index("body")
    assert rest.pose(0, tried).worlds[row, 4:, 0] == pytest.approx((200, 200))


@given(
    *[st.floats(-400, 400)] * 2,
    st.floats(-170, 170),
    st.floats(-50, 50),
    st.floats(0.1, 5),
    st.floats(0.1, 5),
    st.booleans(),
)
def test_typed_numbers_and_transforms_go_both_ways(
    x: float, y: float, angle: float, skew: float, sx: float, sy: float, flip: bool
) -> None:
    m = Affine.placed(x, y, angle, skew, -sx if flip else sx, sy)
    assert near(Affine.placed(*m.placement()), m, 1e-9)
    assert near(m @ m.inverse(), (1, 0, 0, 1, 0, 0), 1e-9)


def test_pulling_a_loose_piece_turns_and_scales_it_about_its_pin() -> None:
    pull = {"do": "pull-piece", "puppet": "a", "piece": "wing", "grabbed": [150, 90]}
    turned = do(quay(), {**pull, "pull": "turn", "hand": [140, 100], "whole_steps": False})
    assert place_of(turned.puppet("a"), "wing") == pytest.approx((140, 90, 90, 0, 1, 1))
    scaled = do(quay(), {**pull, "pull": "scale", "hand": [160, 90], "whole_steps": True})
    assert place_of(scaled.puppet("a"), "wing") == pytest.approx((140, 90, 0, 0, 2, 2))


@pytest.mark.parametrize(
    ("name", "side", "twin"),
    [
        ("left hand", "left", "right hand"),
        ("L_arm", "left", "R_arm"),
        ("arm.R", "right", "arm.L"),
        ("Leg_Right", "right", "Leg_Left"),
        ("lamp", "centre", "left lamp"),
        ("collar", "centre", "left collar"),
        ("5 R", "centre", "left 5 R"),
        ("L", "centre", "left L"),
    ],
)
def test_sides_are_read_from_names(name: str, side: str, twin: str) -> None:
    assert side_of(name) == side
    assert twin_name(name, "right" if side == "left" else "left") == twin
