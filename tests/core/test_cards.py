"""Poses on the strip and keys on the sheet: retimed, reordered, mirrored, pasted, thinned."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorvan.core.change.commands import COMMAND
from sorvan.core.errors import Refusal
from sorvan.core.model.documents import Documents
from sorvan.core.model.motion import Motion
from sorvan.core.model.production import Production
from sorvan.core.motion.cards import cards
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.rig.roles import limbs_of
from sorvan.core.timing.channels import evaluate
from tests.core.walkers import walker as figure
from tests.core.worlds import changed, do, eases, piece, productions, small, tangents

WALKER = ("body", "left arm", "right arm", "left leg", "right leg")


def walker(length: int = 24, cycle: bool = False) -> Documents:
    """A puppet with a body and two pairs of limbs beside one another, and an empty motion."""
    documents = do(
        Documents({"p": Production(id="p", name="Quay")}), {"do": "add-puppet", "id": "a", "name": "Conductor"}
    )
    places = {
        "body": (0, 0),
        "left arm": (30, -40),
        "right arm": (-30, -40),
        "left leg": (20, 40),
        "right leg": (-20, 40),
    }
    made = [piece(n.replace(" ", "-"), *places[n]) | {"name": n} for n in WALKER]
    documents = do(documents, {"do": "add-pieces", "puppet": "a", "pieces": made})
    for n in WALKER[1:]:
        side = n.split()[0]
        documents = do(documents, {"do": "set-pieces", "puppet": "a", "pieces": [n.replace(" ", "-")], "side": side})
        documents = do(documents, {"do": "set-joints", "puppet": "a", "joints": [n.replace(" ", "-")], "side": side})
    return do(
        documents, {"do": "add-motion", "id": "m", "puppet": "a", "name": "walk", "length": length, "cycle": cycle}
    )


def keyed(documents: Documents, *keys: tuple[str, str, int, list[float]]) -> Documents:
    made = [{"joint": j, "kind": k, "frame": f, "value": v} for j, k, f, v in keys]
    return do(documents, {"do": "set-keys", "motion": "m", "keys": made})


def act(documents: Documents, do_: str, **fields: Any) -> Documents:
    return do(documents, {"do": do_, "motion": "m", **fields})


def posed(documents: Documents, **turns: int) -> Documents:
    """Poses at these frames, every limb turned by a number of its own."""
    for n, (label, frame) in enumerate(turns.items()):
        for i, name in enumerate(WALKER):
            documents = keyed(documents, (name.replace(" ", "-"), "turn", frame, [10.0 * n + i]))
        documents = act(documents, "set-pose", frame=frame, text=label)
    return documents


def row(documents: Documents) -> list[tuple[int, str, int]]:
    return [(c.frame, c.pose.label, c.frames) for c in cards(documents.motion("m"))]


def turns(documents: Documents, joint: str = "body") -> dict[int, float]:
    return {f: k.value[0] for f, k in documents.motion("m").channels[f"{joint}.turn"].keys.items()}


def test_the_whole_pose_is_every_joint_and_leaves_what_was_seen_before() -> None:
    pose = {"do": "key-pose", "motion": "m", "frame": 12, "tried": {"left-arm.turn": [30], "body.move": [5, 0]}}
    before, after = walker(), do(walker(), pose)
    motion = after.motion("m")
    assert {*motion.channels} == {
        "puppet.move", "puppet.turn", "body.move", *(f"{name.replace(' ', '-')}.turn" for name in WALKER)
    }  # fmt: skip
    assert COMMAND.validate_python(pose).label(before).endswith("at frame 13: 8 threads")
    assert 12 in motion.poses and all({*c.keys} == {0, 12} for c in motion.channels.values())
    was, now = (Evaluation.full(d.puppet("a"), d.motion("m")).worlds for d in (before, after))
    np.testing.assert_array_equal(now[:, :, 0], was[:, :, 0])
    assert motion.channels["left-arm.turn"].keys[12].value == (30.0,)


@given(st.data())
def test_what_is_keyed_first_later_changes_nothing_at_the_first_frame(data: st.DataObject) -> None:
    documents = data.draw(productions())
    for tag in range(data.draw(st.integers(0, 8))):
        documents = changed(data.draw, documents, tag)
    motion, puppet = documents.motion("m"), documents.puppet("a")
    fresh = [
        {"joint": joint, "kind": kind, "frame": data.draw(st.integers(1, max(motion.length - 1, 1))), "value": value}
        for joint in puppet.joints
        for kind, value in (("turn", [40]), ("move", [9, 9]), ("scale", [2, 2]))
        if f"{joint}.{kind}" not in motion.channels
    ]
    if motion.length < 2 or not fresh:
        return
    after = do(documents, {"do": "set-keys", "motion": "m", "keys": fresh})
    was, now = (Evaluation.full(puppet, d.motion("m")).worlds for d in (documents, after))
    np.testing.assert_allclose(now[:, :, 0], was[:, :, 0], atol=1e-9)


def test_a_card_lasts_longer_and_later_poses_follow_or_the_next_gives_way() -> None:
    documents = posed(walker(), contact=0, down=6, passing=12, up=18)
    follows = act(documents, "retime-pose", frame=6, frames=9)
    assert row(follows) == [(0, "contact", 6), (6, "down", 9), (15, "passing", 6), (21, "up", 6)]
    assert follows.motion("m").length == 27 and turns(follows) == {0: 0, 6: 10, 15: 20, 21: 30}
    gives = act(documents, "retime-pose", frame=6, frames=9, follow=False)
    assert row(gives) == [(0, "contact", 6), (6, "down", 9), (15, "passing", 3), (18, "up", 6)]
    with pytest.raises(Refusal, match="only 6 frames to give"):
        act(documents, "retime-pose", frame=6, frames=12, follow=False)
    longer = act(documents, "retime-pose", frame=18, frames=10, follow=False)
    assert row(longer)[-1] == (18, "up", 10) and longer.motion("m").length == 28


@given(st.data())
def test_retimed_and_back_is_as_before(data: st.DataObject) -> None:
    documents = data.draw(productions())
    for tag in range(data.draw(st.integers(4, 10))):
        documents = changed(data.draw, documents, tag)
    documents = act(documents, "set-pose", frame=0) if not documents.motion("m").poses else documents
    motion = documents.motion("m")
    if not cards(motion):
        return
    held = data.draw(st.sampled_from(cards(motion)))
    more = held.frames + data.draw(st.integers(1, 30))
    longer = act(documents, "retime-pose", frame=held.frame, frames=more)
    back = act(longer, "retime-pose", frame=held.frame, frames=held.frames)
    assert back.motion("m") == motion


def test_a_plant_beyond_the_end_goes_along_and_comes_back_as_keys_do() -> None:
    documents = act(posed(walker(), contact=0, down=6), "plant-foot", id="f", joint="left-leg", start=20, frames=3)
    short = act(documents, "set-motion", length=12)
    longer = act(short, "retime-pose", frame=0, frames=10)
    plant = longer.motion("m").plants["f"]
    assert (plant.start, plant.frames) == (24, 3)
    assert act(longer, "retime-pose", frame=0, frames=6).motion("m") == short.motion("m")


def test_cards_are_put_elsewhere_whole_and_keep_their_lengths() -> None:
    documents = posed(walker(), contact=0, down=4, passing=12, up=18)
    moved = act(documents, "order-poses", frames=[12, 18], before=4)
    assert row(moved) == [(0, "contact", 4), (4, "passing", 6), (10, "up", 6), (16, "down", 8)]
    assert turns(moved) == {0: 0, 4: 20, 10: 30, 16: 10}
    last = act(documents, "order-poses", frames=[0])
    assert [label for _, label, _ in row(last)] == ["down", "passing", "up", "contact"]


def test_cards_are_duplicated_pasted_and_removed_with_all_their_keys() -> None:
    documents = posed(walker(), contact=0, down=6)
    twice = act(documents, "duplicate-poses", frames=[0, 6])
    assert row(twice) == [(0, "contact", 6), (6, "down", 18), (24, "contact", 6), (30, "down", 18)]
    assert turns(twice) == {0: 0, 6: 10, 24: 0, 30: 10}
    pasted = act(documents, "paste-poses", source="m", frames=[0, 6], at=12)
    assert turns(pasted) == {0: 0, 6: 10, 12: 0, 18: 10}
    with pytest.raises(Refusal, match="would leave"):
        act(documents, "paste-poses", source="m", frames=[0, 6], at=20)
    removal = {"do": "remove-poses", "motion": "m", "frames": [6]}
    assert COMMAND.validate_python(removal).label(documents) == "Remove “down” with 5 keys on 5 channels"
    gone = do(documents, removal)
    assert row(gone) == [(0, "contact", 24)] and turns(gone) == {0: 0}
    assert turns(act(documents, "remove-poses", frames=[6], keep_keys=True)) == {0: 0, 6: 10}


def test_mirrored_from_the_side_limbs_swap_from_the_front_they_are_mirror_images() -> None:
    documents = posed(walker(), contact=0)
    side = act(documents, "mirror-poses", frames=[0], view="side")
    found = {j: turns(side, j)[0] for j in ("body", "left-arm", "right-arm", "left-leg", "right-leg")}
    assert found == {"body": 0, "left-arm": 2, "right-arm": 1, "left-leg": 4, "right-leg": 3}
    front = act(documents, "mirror-poses", frames=[0])
    found = {j: turns(front, j)[0] for j in ("body", "left-arm", "right-arm", "left-leg", "right-leg")}
    assert found == {"body": 0, "left-arm": -2, "right-arm": -1, "left-leg": -4, "right-leg": -3}


@given(st.data())
def test_mirrored_twice_is_as_before(data: st.DataObject) -> None:
    documents = walker()
    names = [n.replace(" ", "-") for n in WALKER]
    for _ in range(data.draw(st.integers(1, 6))):
        kind = data.draw(st.sampled_from(["turn", "move", "scale", "show"]))
        value = [data.draw(small) for _ in range(2 if kind in ("move", "scale") else 1)]
        value = [1.0] if kind == "show" else value
        documents = keyed(
            documents, (data.draw(st.sampled_from([*names, *(["puppet"] if kind != "show" else [])])), kind, 3, value)
        )
    documents = act(documents, "set-pose", frame=3)
    view = data.draw(st.sampled_from(["side", "front"]))
    once = act(documents, "mirror-poses", frames=[3], view=view)
    twice = act(once, "mirror-poses", frames=[3], view=view)
    assert twice.motion("m") == documents.motion("m")


def test_four_poses_become_a_cycle_of_eight() -> None:
    documents = act(posed(walker(24, cycle=True), contact=0, down=3, passing=6, up=9), "mirror-half", view="side")
    assert [label for _, label, _ in row(documents)] == ["contact", "down", "passing", "up"] * 2
    left, right = (evaluate(documents.motion("m").channels[f"{s}-leg.turn"], 24, True)[0] for s in ("left", "right"))
    assert left == pytest.approx(np.roll(right, 12))
    with pytest.raises(Refusal, match="odd number"):
        act(act(documents, "set-motion", length=23), "mirror-half")


def test_a_breakdown_mixes_its_neighbours_and_beyond_on_all_or_one_limb() -> None:
    documents = posed(walker(), contact=0, passing=12)
    middle = act(documents, "break-down", first=0, second=12, at=6, percent=30)
    assert turns(middle)[6] == pytest.approx(3) and turns(middle, "left-leg")[6] == pytest.approx(6)
    assert [c.pose.breakdown for c in cards(middle.motion("m"))] == [False, True, False]
    beyond = act(documents, "break-down", first=0, second=12, at=6, percent=130, channels=["body.turn"])
    assert turns(beyond)[6] == pytest.approx(13) and 6 not in turns(beyond, "left-leg")
    with pytest.raises(Refusal, match="between its two poses"):
        act(documents, "break-down", first=0, second=12, at=12)


def test_a_pose_is_held_for_exactly_so_many_frames_and_may_creep() -> None:
    documents = posed(walker(), contact=0, passing=12)
    documents = keyed(documents, ("body", "move", 0, [0, 0]), ("body", "move", 20, [40, 0]))
    held = act(documents, "hold-pose", frame=0, frames=5)
    for channel in held.motion("m").channels.values():
        values = evaluate(channel, 24, False)
        assert np.all(values[:, :6] == values[:, :1]) and np.any(values[:, 6] != values[:, 0])
    creeping = act(documents, "hold-pose", frame=0, frames=5, drift=10)
    steps = np.diff(evaluate(creeping.motion("m").channels["body.turn"], 24, False)[0][:13])
    assert np.all(steps > 0) and steps[:5].sum() == pytest.approx(1.0) and steps.sum() == pytest.approx(10.0)
    follows = act(documents, "hold-pose", frame=0, frames=5, follow=True)
    assert row(follows) == [(0, "contact", 17), (17, "passing", 12)]


@st.composite
def keyed_motion(draw: st.DrawFn) -> Documents:
    documents = walker(draw(st.integers(20, 40)))
    frames = draw(st.lists(st.integers(2, 18), min_size=2, max_size=5, unique=True))
    for f in frames:
        key = {"joint": "body", "kind": "move", "frame": f, "value": [draw(small), draw(small)], "ease": draw(eases)}
        documents = do(documents, {"do": "set-keys", "motion": "m", "keys": [key]})
        ref = [{"channel": "body.move", "frame": f}]
        documents = act(documents, "shape-path", keys=ref, tangents=draw(tangents))
    return documents


def refs(motion: Motion) -> list[dict[str, Any]]:
    return [{"channel": id, "frame": f} for id, c in motion.channels.items() for f in c.keys]


@given(keyed_motion())
def test_reversed_in_place_twice_and_pasted_reversed_twice_is_as_before(documents: Documents) -> None:
    motion = documents.motion("m")
    channel = motion.channels["body.move"]
    values = evaluate(channel, motion.length, False)
    back = act(documents, "reverse-keys", keys=refs(motion))
    start, end = min(channel.keys), max(channel.keys)
    if all(k.ease.kind != "hold" for k in channel.keys.values()):
        turned = evaluate(back.motion("m").channels["body.move"], motion.length, False)
        assert turned[:, start : end + 1] == pytest.approx(values[:, start : end + 1][:, ::-1], abs=2e-2)
    again = act(back, "reverse-keys", keys=refs(back.motion("m")))
    found = evaluate(again.motion("m").channels["body.move"], motion.length, False)
    assert found == pytest.approx(values, abs=1e-4)
    for source, into in (("m", "n"), ("n", "o")):
        fresh = {"do": "add-motion", "id": into, "puppet": "a", "name": into, "length": motion.length}
        documents = do(documents, fresh)
        paste = {"do": "paste-keys", "motion": into, "source": source, "at": start, "reverse": True}
        documents = do(documents, paste | {"keys": refs(documents.motion(source))})
    found = evaluate(documents.motion("o").channels["body.move"], motion.length, False)
    assert found == pytest.approx(values, abs=1e-4)


def test_keys_are_scaled_about_a_point_and_wrapped_in_a_stretch() -> None:
    documents = keyed(walker(), *(("body", "turn", f, [float(f)]) for f in (4, 8, 10)))
    # The first frame holds what was seen there before.
    assert turns(documents) == {0: 0, 4: 4, 8: 8, 10: 10}
    keys = [k for k in refs(documents.motion("m")) if k["frame"]]
    assert turns(act(documents, "scale-keys", keys=keys, about=4, factor=2)) == {0: 0, 4: 4, 12: 8, 16: 10}
    with pytest.raises(Refusal, match="one frame"):
        act(documents, "scale-keys", keys=keys, about=4, factor=0.2)
    with pytest.raises(Refusal, match="leave the motion"):
        act(documents, "scale-keys", keys=keys, about=4, factor=6)
    assert turns(act(documents, "wrap-keys", keys=keys, by=3, start=4, end=11)) == {0: 0, 5: 10, 7: 4, 11: 8}


@given(keyed_motion(), st.floats(0.05, 20))
def test_thinned_keys_stay_within_their_tolerance_and_baked_ones_change_nothing(
    documents: Documents, tolerance: float
) -> None:
    motion = documents.motion("m")
    values = evaluate(motion.channels["body.move"], motion.length, False)
    stretch = {"channels": ["body.move"], "start": 0, "end": motion.length - 1}
    baked = act(documents, "bake-keys", **stretch)
    assert evaluate(baked.motion("m").channels["body.move"], motion.length, False) == pytest.approx(values, abs=1e-9)
    assert len(baked.motion("m").channels["body.move"].keys) == motion.length
    thin = act(baked, "thin-keys", **stretch, tolerance=tolerance).motion("m").channels["body.move"]
    assert np.abs(evaluate(thin, motion.length, False) - values).max() <= tolerance + 1e-9
    assert len(thin.keys) <= motion.length


def test_a_delay_grows_down_a_chain_and_can_be_written_into_the_keys() -> None:
    documents = walker(12, cycle=True)
    for child, parent in (("left-arm", "body"), ("right-arm", "left-arm")):
        documents = do(documents, {"do": "link-joint", "puppet": "a", "joint": child, "parent": parent})
    for joint in ("body", "left-arm", "right-arm"):
        documents = keyed(documents, (joint, "turn", 0, [0]), (joint, "turn", 6, [30]))
    late = act(documents, "set-delay", channels=["right-arm.turn", "body.turn", "left-arm.turn"], delay=1, growing=1.5)
    motion = late.motion("m")
    assert {c.joint: c.delay for c in motion.channels.values()} == {"body": 1, "left-arm": 2.5, "right-arm": 4}
    assert turns(late, "left-arm") == {0: 0, 6: 30}
    written = act(late, "write-delay", channels=list(motion.channels)).motion("m")
    for id, channel in motion.channels.items():
        assert written.channels[id].delay == 0
        assert evaluate(written.channels[id], 12, True) == pytest.approx(evaluate(channel, 12, True), abs=1e-9)
    assert sorted(written.channels["body.turn"].keys) == [1, 7]


def test_time_is_put_in_and_taken_out_of_everything() -> None:
    documents = posed(walker(), contact=0, down=6, passing=12)
    more = act(documents, "insert-time", at=6, frames=4)
    assert turns(more) == {0: 0, 10: 10, 16: 20} and more.motion("m").length == 28
    less = act(documents, "insert-time", at=6, frames=-6)
    assert turns(less) == {0: 0, 6: 20} and row(less) == [(0, "contact", 6), (6, "passing", 12)]


def test_a_chart_is_drawn_tick_by_tick_and_set_on_all_gaps() -> None:
    documents = keyed(walker(), *((j, "turn", f, [float(f)]) for j in ("body", "left-arm") for f in (0, 4)))
    gaps = [{"channel": f"{j}.turn", "frame": 0} for j in ("body", "left-arm")]
    drawn = act(documents, "chart-gaps", keys=gaps, of=gaps[0], tick=2, to=0.7)
    for gap in gaps:
        values = evaluate(drawn.motion("m").channels[gap["channel"]], 24, False)[0]
        assert values[:5] == pytest.approx([0, 1, 2.8, 3, 4])
    # A tick that is pulled past the next stays at it; the last may go past the pose, as an overshoot does.
    for tick, to in ((2, 1.4), (1, 0.9)):
        pulled = act(documents, "chart-gaps", keys=gaps, of=gaps[0], tick=tick, to=to)
        assert np.all(np.diff(evaluate(pulled.motion("m").channels["body.turn"], 24, False)[0, :4]) >= 0)
    past = act(documents, "chart-gaps", keys=gaps, of=gaps[0], tick=3, to=1.4)
    assert evaluate(past.motion("m").channels["body.turn"], 24, False)[0, 3] == pytest.approx(5.6)
    snapped = act(drawn, "chart-gaps", keys=gaps[:1], of=gaps[0], tick=1, to=0.3, snap=True)
    ticks = snapped.motion("m").channels["body.turn"].keys[0].ease.ticks  # type: ignore[union-attr]
    assert ticks[0] == pytest.approx((0.25, 1 / 3), abs=1e-4)
    # Retimed, the chart keeps its shape: half of the ticks lie where they lay.
    longer = act(drawn, "move-keys", keys=[{"channel": "body.turn", "frame": 4}], by=4)
    values = evaluate(longer.motion("m").channels["body.turn"], 24, False)[0]
    assert values[:9:2] == pytest.approx([0, 1, 2.8, 3, 4])
    with pytest.raises(Refusal, match="tick is gone"):
        act(documents, "chart-gaps", keys=gaps, of=gaps[0], tick=4, to=0.5)


def test_keyed_by_hand_a_place_lies_on_a_smooth_path_until_it_is_made_sharp() -> None:
    places = [(0, [0.0, 0.0]), (8, [80.0, 60.0]), (16, [160.0, 0.0])]
    documents = keyed(walker(), *(("body", "move", f, v) for f, v in places))
    smooth = evaluate(documents.motion("m").channels["body.move"], 24, False)
    assert smooth[:, 8] == pytest.approx([80, 60]) and smooth[1, 7] == pytest.approx(smooth[1, 9], abs=1e-6)
    # Rounded at the top: it is higher there than two straight lines would be.
    assert smooth[1, 7] > 52.5 + 1
    keys = refs(documents.motion("m"))
    sharp = evaluate(act(documents, "shape-path", keys=keys).motion("m").channels["body.move"], 24, False)
    assert sharp[:, 7] == pytest.approx([70, 52.5])
    with pytest.raises(Refusal, match="Only a place has a path"):
        act(keyed(documents, ("body", "turn", 0, [1])), "shape-path", keys=[{"channel": "body.turn", "frame": 0}])


def test_cards_are_found_where_most_channels_have_keys() -> None:
    documents = posed(walker(), contact=0, down=6)
    bare = act(documents, "remove-poses", frames=[0, 6], keep_keys=True)
    bare = keyed(bare, ("body", "turn", 9, [3]))
    assert [c.frame for c in cards(act(bare, "find-poses").motion("m"))] == [0, 6]
    assert [c.frame for c in cards(act(bare, "find-poses", part=10).motion("m"))] == [0, 6, 9]
    with pytest.raises(Refusal, match="No frame has keys"):
        act(walker(), "find-poses")


def test_threads_are_grouped_by_the_limb_that_they_belong_to() -> None:
    puppet = figure(foot=0.4, toes=True).puppet("a")
    limbs = limbs_of(puppet)
    assert {limbs[f"near0-{part}"] for part in ("thigh", "shin", "foot", "foot-toe")} == {"left leg"}
    assert limbs["far-forearm"] == "right arm" and limbs["chest"] == "body"
    assert limbs["puppet"] == "whole puppet" and limbs["head"] == "head"


def test_a_first_key_keeps_earlier_cards_and_can_be_held_throughout_instead() -> None:
    documents = walker()
    for frame in (4, 8, 20):
        documents = act(documents, "set-pose", frame=frame, text="here")
    documents = keyed(documents, ("body", "turn", 12, [30.0]))
    turns = {f: k.value[0] for f, k in documents.motion("m").channels["body.turn"].keys.items()}
    # Each card before it is as it was; before the first of them all is as that. What comes after goes on from it.
    assert turns == {4: 0.0, 8: 0.0, 12: 30.0}
    key = {"channel": "body.turn", "frame": 12}
    constant = act(documents, "hold-throughout", keys=[key])
    assert (evaluate(constant.motion("m").channels["body.turn"], 24, False) == 30).all()
    # A second key before the first card's leaves that card, and what is seen at first.
    earlier = keyed(documents, ("body", "turn", 2, [9.0]))
    turns = {f: k.value[0] for f, k in earlier.motion("m").channels["body.turn"].keys.items()}
    assert turns == {0: 0.0, 2: 9.0, 4: 0.0, 8: 0.0, 12: 30.0}


KEYABLE = [
    ("left-arm", "turn"),
    ("right-arm", "turn"),
    ("body", "move"),
    ("left-leg", "opacity"),
    ("right-leg", "show"),
]
ACTS = (
    "set-keys", "key-pose", "key-joints", "rest-joints", "mirror-joints", "show-at", "order-at", "put-from-book",
    "paste-keys", "paste-poses",
)  # fmt: skip


@st.composite
def keyed_anywhere(draw: st.DrawFn) -> tuple[Documents, dict[str, Any]]:
    """A motion with cards and keys wherever, and something that keys in it."""
    documents = walker(cycle=draw(st.booleans()))
    frames = st.integers(0, 23)

    def value(kind: str) -> list[float]:
        sizes = {"move": 2, "opacity": 1, "turn": 1, "show": 1}
        low = {"show": -1.0, "opacity": 0.0}.get(kind, -60.0)
        high = {"show": 0.0}.get(kind, 60.0)
        return [float(draw(st.integers(int(low), int(high)))) for _ in range(sizes[kind])]

    some = st.lists(st.tuples(st.sampled_from(KEYABLE), frames), max_size=6)
    for (joint, kind), f in draw(some):
        documents = keyed(documents, (joint, kind, f, value(kind)))
    for f in draw(st.sets(frames, max_size=4)):
        documents = act(documents, "set-pose", frame=f, text="here")
    source = keyed(walker(), *((j, k, 0, value(k)) for j, k in KEYABLE[:3]))
    source = act(act(source, "set-pose", frame=0, text="there"), "keep-in-book", id="e", name="there", frame=0)
    other = source.motion("m").changed(id="n")
    documents = documents.with_(other, documents.puppet("a").changed(book=source.puppet("a").book))
    at = draw(frames)
    joint, kind = draw(st.sampled_from(KEYABLE))
    given = {
        "set-keys": {"keys": [{"joint": joint, "kind": kind, "frame": at, "value": value(kind)}]},
        "key-pose": {"frame": at, "tried": {"left-arm.turn": [33.0]}},
        "key-joints": {"frame": at, "joints": ["left-arm", "right-leg"], "tried": {"body.move": [3.0, 4.0]}},
        "rest-joints": {"frame": at},
        "mirror-joints": {"frame": at, "joints": ["left-arm", "body"]},
        "show-at": {"frame": at, "piece": "right-leg", "drawing": -1},
        "order-at": {"frame": at, "pieces": ["left-arm"]},
        "put-from-book": {"frame": at, "entry": "e"},
        "paste-keys": {"source": "n", "keys": [{"channel": "left-arm.turn", "frame": 0}], "at": at},
        "paste-poses": {"source": "n", "frames": [0], "at": at},
    }
    name = draw(st.sampled_from(ACTS))
    return documents, {"do": name, "motion": "m", **given[name]}


@given(keyed_anywhere())
def test_what_keys_one_pose_changes_no_other_unseen(drawn: tuple[Documents, dict[str, Any]]) -> None:
    """The picture at every card and at the first frame is as it was, but for the frame that is keyed and its gaps; on a
    smooth path also those beside them, which lead to the same keys."""
    documents, command = drawn
    try:
        do(documents, command)
    except Refusal:
        # There is nothing to mirror.
        assert command["do"] == "mirror-joints"
        return
    at = command.get("frame", command.get("at", command["keys"][0]["frame"] if "keys" in command else 0))
    after = do(documents, command)
    was, now = (Evaluation.full(d.puppet("a"), d.motion("m")) for d in (documents, after))
    length, cycle = 24, after.motion("m").cycle
    beside: set[int] = {at}
    for id, channel in after.motion("m").channels.items():
        before = documents.motion("m").channels.get(id)
        if before is not None and before.keys == channel.keys:
            continue
        gaps = 2 if channel.kind == "move" else 1
        # On a ring the way on from the last key leads to the first.
        rounds = (-2 * length, -length, 0, length, 2 * length) if cycle else (0,)
        keys = sorted(f + r for f in channel.keys for r in rounds)
        earlier = [-1, *(f for f in keys if f < at)][-gaps:]
        later = [*(f for f in keys if f > at), length][:gaps]
        beside |= {f % length for f in range(earlier[0] + 1, later[-1])} - channel.keys.keys()
    for f in {0, *documents.motion("m").poses} - beside:
        assert np.allclose(was.pieces[:, :, f], now.pieces[:, :, f], atol=1e-3), (f, command)
        assert (was.shown[:, f] == now.shown[:, f]).all(), (f, command)
        for id, rest in (("left-leg.opacity", 100.0), ("left-arm.order", 0.0)):
            seen = [float(v[0, f]) if (v := e.values.get(id)) is not None else rest for e in (was, now)]
            assert seen[0] == pytest.approx(seen[1], abs=1e-3), (f, command, id)
