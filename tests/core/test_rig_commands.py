"""What rig commands leave behind, and how they refuse: in words that name the thing and say what to do."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from sorvan.core.errors import Refusal
from sorvan.core.geometry import Affine, near
from sorvan.core.model.documents import Documents
from sorvan.core.model.production import Production
from sorvan.core.model.puppet import Bend, BendSheet
from sorvan.core.motion.hand import grip, joint_under, turning
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.rig.skeleton import piece_worlds, rest_worlds
from tests.core.shelf import Shelf, drawing, polygon
from tests.core.worlds import changed, do, piece, productions


def edit(documents: Documents, do_: str, **fields: Any) -> Documents:
    return do(documents, {"do": do_, "puppet": "a", **fields})


def leg() -> Documents:
    """Hips with a leg of three drawn joints that reaches, a boot that bends over two of them, a lace on a
    sheet, and a motion that keys a bit of everything."""
    documents = Documents({"p": Production(id="p", name="Quay")})
    documents = do(documents, {"do": "add-puppet", "id": "a", "name": "Porter"})
    pieces = [piece("hips", 100, 100), piece("boot", 100, 200), piece("lace", 110, 220)]
    documents = edit(documents, "add-pieces", pieces=pieces)
    line = [
        ("hip", [100, 110], "hips"),
        ("knee", [110, 160], "hip"),
        ("ankle", [100, 210], "knee"),
        ("toe", [130, 214], "ankle"),
    ]
    joints = [{"id": n, "name": f"left {n}", "at": at, "parent": p} for n, at, p in line]
    documents = edit(documents, "add-joints", joints=joints)
    documents = edit(documents, "set-attach", piece="boot", attach={"kind": "bend", "joints": ["knee", "ankle", "toe"]})
    handles = [{"id": f"s{i}", "name": f"lace {i}", "at": [110 + 5 * i, 220], "handle": True} for i in range(2)]
    documents = edit(documents, "add-joints", joints=handles, sheet="lace")
    documents = edit(documents, "add-reach", id="c", name="left leg", anchor="hip", end="ankle", handle="h")
    dial = {"id": "d", "name": "kick", "stops": [{"at": 0}, {"at": 50, "values": {"knee.turn": [30]}}]}
    documents = edit(documents, "set-dial", dial=dial)
    documents = do(documents, {"do": "add-motion", "id": "m", "puppet": "a", "name": "step", "length": 20})
    keys = [
        {"joint": j, "kind": k, "frame": 3, "value": [1.0] * n}
        for j, k, n in (("knee", "turn", 1), ("h", "move", 2), ("c", "reach", 1), ("d", "dial", 1), ("toe", "turn", 1))
    ]
    return do(documents, {"do": "set-keys", "motion": "m", "keys": keys})


REFUSED: list[tuple[dict[str, Any], str]] = [
    ({"do": "add-reach", "id": "x", "name": "x", "anchor": "toe", "end": "hip", "handle": "y"}, "does not hang on"),
    ({"do": "add-reach", "id": "x", "name": "x", "anchor": "hip", "end": "hip", "handle": "y"}, "does not hang on"),
    ({"do": "add-reach", "id": "c", "name": "x", "anchor": "hip", "end": "knee", "handle": "y"}, "reaches already"),
    ({"do": "add-reach", "id": "x", "name": "x", "anchor": "knee", "end": "toe", "handle": "y"}, "reach in a circle"),
    ({"do": "add-reach", "id": "x", "name": "x", "anchor": "ankle", "end": "toe", "handle": "hips", "uses": True}, "not for a joint"),
    ({"do": "add-reach", "id": "x", "name": "x", "anchor": "hip", "end": "gone", "handle": "y"}, "no joint “gone”"),
    ({"do": "link-joint", "joint": "ankle", "parent": "hips"}, "does not hang on"),
    ({"do": "link-joint", "joint": "hip", "parent": "toe"}, "already hangs on it"),
    ({"do": "link-joint", "joint": "knee", "world": True}, "Only a handle"),
    ({"do": "link-joint", "joint": "h", "parent": "knee"}, "reach in a circle"),
    ({"do": "relink-joints", "links": {"hip": "toe"}}, "would hang on itself"),
    ({"do": "remove-joints", "joints": ["hips"]}, "hangs on nothing else"),
    ({"do": "remove-joints", "joints": ["gone"]}, "no joint “gone”"),
    ({"do": "ride-pieces", "pieces": ["lace"], "joint": "h"}, "not on a handle"),
    ({"do": "set-attach", "piece": "hips", "attach": {"kind": "bend", "joints": ["hip", "h"]}}, "not over handles"),
    ({"do": "set-attach", "piece": "hips", "attach": {"kind": "bend", "joints": ["hip", "hip"]}}, "named twice"),
    ({"do": "set-attach", "piece": "hips", "attach": {"kind": "sheet", "handles": ["gone"]}}, "no joint “gone”"),
    ({"do": "bend-piece", "piece": "lace"}, "fewer than two joints"),
    ({"do": "paint-weights", "piece": "hips", "dabs": [{"joint": "hip", "x": 0, "y": 0, "radius": 3, "amount": 1}]}, "does not bend"),
    ({"do": "paint-weights", "piece": "boot", "dabs": [{"joint": "hip", "x": 0, "y": 0, "radius": 3, "amount": 1}]}, "that joint"),
    ({"do": "remove-chain", "chain": "gone"}, "no chain"),
    ({"do": "remove-dial", "dial": "gone"}, "no dial"),
    ({"do": "match-twin", "joint": "knee"}, "no twin"),
    ({"do": "add-joints", "joints": [{"id": "hip", "name": "x", "at": [0, 0]}]}, "there already"),
    ({"do": "set-masks", "pieces": ["boot"], "masks": {"boot": "inside"}}, "mask itself"),
    ({"do": "link-swatch", "pieces": ["boot"], "which": "fill:#112233ff", "swatch": "gone"}, "no swatch"),
    ({"do": "set-group", "group": "gone", "hidden": True}, "no group"),
    ({"do": "gather-drawings", "piece": "boot", "others": ["boot"]}, "into itself"),
    ({"do": "order-drawings", "piece": "boot", "order": ["d", "e"]}, "no longer the same"),
    ({"do": "show-drawing", "piece": "boot", "drawing": "gone"}, "no drawing"),
    ({"do": "draw-shape", "id": "s", "name": "s", "kind": "polygon", "points": [[0, 0], [9, 0], [9, 9]], "fill": None, "stroke": None}, "needs a fill or a line"),
]  # fmt: skip


@pytest.mark.parametrize(("command", "words"), REFUSED, ids=[w for _, w in REFUSED])
def test_what_cannot_be_is_refused_in_words_and_changes_nothing(command: dict[str, Any], words: str) -> None:
    documents = leg()
    with pytest.raises(Refusal) as refused:
        do(documents, {"puppet": "a", **command})
    assert words in refused.value.what or words in refused.value.sentence()
    assert refused.value.what.endswith(".")
    assert documents.by_id == leg().by_id


def test_a_removed_joint_leaves_limbs_bends_and_keys_that_still_make_sense() -> None:
    documents = edit(leg(), "remove-joints", joints=["ankle"])
    puppet = documents.puppet("a")
    assert puppet.joints["toe"].parent == "knee"
    assert puppet.chains["c"].joints == ("hip", "knee")
    boot = puppet.pieces["boot"].attach
    assert isinstance(boot, Bend) and boot.joints == ("knee", "toe")
    documents = edit(documents, "remove-joints", joints=["knee"])
    assert documents.puppet("a").chains == {} and documents.puppet("a").pieces["boot"].attach is None
    assert set(documents.motion("m").channels) == {"h.move", "d.dial", "toe.turn"}
    laces = edit(documents, "remove-joints", joints=["s0"]).puppet("a").pieces["lace"].attach
    assert isinstance(laces, BendSheet) and laces.handles == ("s1",)
    gone = edit(documents, "remove-joints", joints=["s0", "s1", "h"]).puppet("a")
    assert gone.pieces["lace"].attach is None
    Evaluation.full(gone, documents.motion("m"))


def test_a_joint_put_between_belongs_to_the_limb_that_reaches_over_it() -> None:
    documents = edit(leg(), "insert-joint", id="mid", name="left calf", above="ankle")
    puppet = documents.puppet("a")
    assert puppet.chains["c"].joints == ("hip", "knee", "mid", "ankle")
    assert rest_worlds(puppet)["mid"].at == pytest.approx((105, 185))
    assert puppet.joints["mid"].side == "left"


def test_removing_a_piece_keeps_joints_that_others_need_and_its_own_go() -> None:
    documents = leg()
    puppet = edit(documents, "remove-pieces", pieces=["boot", "lace"]).puppet("a")
    assert {"hip", "knee", "ankle", "toe", "h"} <= set(puppet.joints) and "lace" not in puppet.joints
    assert puppet.chains and list(puppet.pieces) == ["hips"]
    # The hips' own joint carries the leg that reaches, but is no part of it: what hung on it hangs on.
    bare = edit(documents, "remove-pieces", pieces=["hips"]).puppet("a")
    assert "hips" not in bare.joints and bare.joints["hip"].parent is None


def test_removing_a_chain_or_a_dial_takes_its_keys_and_leaves_its_handle() -> None:
    documents = edit(leg(), "remove-chain", chain="c")
    assert "h" in documents.puppet("a").joints and "c.reach" not in documents.motion("m").channels
    documents = edit(documents, "remove-dial", dial="d")
    assert set(documents.motion("m").channels) == {"knee.turn", "h.move", "toe.turn"}


def test_a_name_that_speaks_of_a_side_puts_a_joint_or_piece_there() -> None:
    documents = edit(leg(), "set-joints", joints=["toe"], name="right toe")
    assert documents.puppet("a").joints["toe"].side == "right"
    documents = edit(documents, "set-pieces", pieces=["lace"], name="boot lace L")
    assert documents.puppet("a").pieces["lace"].side == "left" == documents.puppet("a").joints["lace"].side
    told = edit(documents, "set-joints", joints=["toe"], name="left toe", side="centre")
    assert told.puppet("a").joints["toe"].side == "centre"


def test_a_hand_keeps_a_joint_within_its_limits() -> None:
    documents = edit(leg(), "set-joints", joints=["hip"], limits={"low": -20, "high": 35})
    documents = edit(documents, "remove-chain", chain="c")
    pose = Evaluation.full(documents.puppet("a"))
    held = grip(pose, "hip", "turn", (100, 160))
    about = rest_worlds(documents.puppet("a"))["hip"].place((0, 0))
    for degrees, kept in ((10, 10), (60, 35), (-50, -20), (20, 20)):
        a = math.radians(90 + degrees)
        place = (about[0] + 50 * math.cos(a), about[1] + 50 * math.sin(a))
        assert held.at(place)["hip.turn"][0] == pytest.approx(kept, abs=0.01)


def test_a_hand_on_a_bare_tip_turns_what_it_hangs_on() -> None:
    puppet = leg().puppet("a")
    assert turning(puppet, "toe") == "ankle"
    # What carries a piece, or more of the limb, turns itself; so do handles.
    assert [turning(puppet, j) for j in ("hips", "knee", "h", "puppet")] == ["hips", "knee", "h", "puppet"]


def test_a_hand_on_a_bending_piece_holds_what_moves_there_even_while_it_is_bent() -> None:
    shelf = Shelf()
    art = shelf.keep(drawing(polygon((0, -10), (200, -10), (200, 10), (0, 10))))
    documents = Documents({"p": Production(id="p", name="Quay")})
    documents = do(documents, {"do": "add-puppet", "id": "a", "name": "Gull"})
    new = {
        "id": "wing",
        "name": "wing",
        "at": [100, 100],
        "drawing": {"id": "d", "name": "wing", "art": art, "pivot": [0, 0], "bounds": [0, -10, 200, 10]},
    }
    documents = edit(documents, "add-pieces", pieces=[new])
    documents = edit(documents, "add-joints", joints=[{"id": "tip", "name": "tip", "at": [200, 100], "parent": "wing"}])
    documents = edit(documents, "bend-piece", piece="wing")
    rest = Evaluation.full(documents.puppet("a"), None, arts=shelf)
    assert joint_under(rest, "wing", (130, 104)) == "wing"
    assert joint_under(rest, "wing", (280, 96)) == "tip"
    bent = rest.pose(0, {"tip.turn": (90.0,)})
    assert joint_under(bent, "wing", (200, 180)) == "tip"
    assert np.ptp(bent.points[0][:, 1, 0]) > 90
    with pytest.raises(Refusal):
        joint_under(rest, "gone", (0, 0))


def test_moving_one_way_keeps_to_the_longer_part() -> None:
    documents = leg()
    for command, fields in (("shift-pieces", {"pieces": ["lace"]}), ("move-joints", {"joints": ["h"]})):
        node = "lace" if command == "shift-pieces" else "h"
        before = rest_worlds(documents.puppet("a"))[node].at
        for dx, dy, wanted in ((9, -4, (9, 0)), (3, -4, (0, -4))):
            after = edit(documents, command, **fields, dx=dx, dy=dy, one_way=True)
            now = rest_worlds(after.puppet("a"))[node].at
            assert (now[0] - before[0], now[1] - before[1]) == pytest.approx(wanted)


@given(productions(), st.data(), st.floats(-200, 200), st.floats(-200, 200))
def test_a_plain_copy_lies_and_hangs_and_moves_as_what_it_is_a_copy_of(
    documents: Documents, data: st.DataObject, dx: float, dy: float
) -> None:
    documents = changed(data.draw, documents, 0)
    puppet = documents.puppet("a")
    assume(puppet.pieces)
    ids = {id: f"{id[:20]}-copy" for id in data.draw(st.sets(st.sampled_from(sorted(puppet.pieces)), min_size=1))}
    after = edit(documents, "copy-pieces", ids=ids, dx=dx, dy=dy).puppet("a")
    was, now = piece_worlds(puppet), piece_worlds(after)
    for id, copy in ids.items():
        assert near(now[copy], Affine.shift(dx, dy) @ was[id], 1e-3) and near(now[id], was[id], 1e-6)
        one, other = puppet.pieces[id], after.pieces[copy]
        assert other.drawings == one.drawings and other.side == one.side and other.name != one.name
        assert (other.joint != one.joint) == one.owns_joint() or one.joint in after.pieces[id].attach.nodes
    # All that was there is as it was, and lies behind or before its copies as it did.
    assert {id: after.pieces[id] for id in puppet.pieces} == dict(puppet.pieces)
    assert {id: after.joints[id] for id in puppet.joints} == dict(puppet.joints)
    assert [id for id in after.order if id in puppet.pieces] == list(puppet.order)
    assert [id for id in after.order if id in ids.values()] == [ids[id] for id in puppet.order if id in ids]


@pytest.mark.parametrize(
    "some", [("hips",), ("boot",), ("lace",), ("hips", "boot"), ("hips", "lace"), ("boot", "lace")]
)
def test_a_part_of_a_figure_is_copied_with_what_is_its_own(some: tuple[str, ...]) -> None:
    documents = leg()
    after = edit(documents, "copy-pieces", ids={id: f"{id}2" for id in some})
    Evaluation.full(after.puppet("a"), after.motion("m"))
    before = documents.puppet("a")
    made = {id: j for id, j in after.puppet("a").joints.items() if id not in before.joints}
    # Three pins, the three joints of a boot and the hip when both it hangs between are there; two handles of a sheet; a
    # leg's handle with the whole leg.
    whole = {"hips", "boot"} <= set(some)
    counts = {"hips": 1, "boot": 3, "lace": 3}
    assert len(made) == sum(counts[id] for id in some) + 2 * whole
    assert len(after.puppet("a").chains) == 1 + whole


def test_a_copied_leg_reaches_and_bends_as_the_leg_does() -> None:
    documents = leg()
    ids = {"hips": "hips2", "boot": "boot2", "lace": "lace2"}
    documents = edit(documents, "copy-pieces", ids=ids, dx=300, dy=0)
    puppet = documents.puppet("a")
    old, new = (puppet.pieces[id].attach for id in ("boot", "boot2"))
    assert old is not None and new is not None and not set(old.nodes) & set(new.nodes)
    twin = dict(zip(old.nodes, new.nodes, strict=True))
    keys = [
        {"joint": j, "kind": "turn", "frame": 0, "value": [30]}
        for node in old.nodes
        for j in (node, twin[node])
        if not puppet.joints[j].handle
    ]
    documents = do(documents, {"do": "set-keys", "motion": "m", "keys": keys})
    at = Evaluation.full(documents.puppet("a"), documents.motion("m"))
    for one, other in twin.items():
        a, b = (at.worlds[at.rig.row[id], :, 0] for id in (one, other))
        assert np.allclose(b - a, [0, 0, 0, 0, 300, 0], atol=1e-3)


def test_a_piece_steps_to_the_front_and_to_the_back_and_stays_at_the_ends() -> None:
    documents = leg()
    order = list(documents.puppet("a").order)
    assert order == ["hips", "boot", "lace"]
    front = edit(documents, "step-piece", piece="boot", to="front")
    assert front.puppet("a").order == ("hips", "lace", "boot")
    assert edit(front, "step-piece", piece="boot", to="front").puppet("a").order == ("hips", "lace", "boot")
    assert edit(documents, "step-piece", piece="boot", to="back").puppet("a").order == ("boot", "hips", "lace")


@given(
    width=st.floats(10, 4000),
    height=st.floats(10, 4000),
    at=st.tuples(st.floats(-900, 2000), st.floats(-900, 2000)),
    turn=st.one_of(st.just(0.0), st.floats(-180, 180)),
    flat=st.floats(0.2, 5),
)
def test_a_piece_covers_all_of_the_stage_or_is_seen_whole_on_it_however_it_lay(
    width: float, height: float, at: tuple[float, float], turn: float, flat: float
) -> None:
    stage = Production(id="p", name="Quay")
    sky = piece("sky", *at)
    sky["drawing"] |= {"bounds": [0, 0, width, height]}
    documents = do(Documents({"p": stage}), {"do": "add-puppet", "id": "a", "name": "Sky"})
    documents = edit(documents, "add-pieces", pieces=[sky])
    documents = edit(documents, "place-piece", piece="sky", angle=turn, sx=flat)

    def corners(after: Documents) -> np.ndarray:
        """The drawing's corners on the stage, in order round it."""
        puppet = after.puppet("a")
        m = rest_worlds(puppet)["sky"] @ puppet.pieces["sky"].in_joint()
        l, t, r, b = puppet.pieces["sky"].shown().bounds
        return np.array([m.place(c) for c in ((l, t), (r, t), (r, b), (l, b))])

    def beyond(after: Documents) -> np.ndarray:
        """How far each of the stage's corners lies inside of each of the drawing's edges, in units."""
        found, size = corners(after), (stage.width, stage.height)
        edges = np.roll(found, -1, axis=0) - found
        inward = np.stack([-edges[:, 1], edges[:, 0]], axis=1) / np.linalg.norm(edges, axis=1)[:, None]
        ends = np.array([(x, y) for x in (0, size[0]) for y in (0, size[1])])
        return np.asarray(np.einsum("ck,ek->ce", ends, inward) - np.einsum("ek,ek->e", found, inward))

    covered, fitted = (edit(documents, "fill-stage", piece="sky", how=how) for how in ("cover", "fit"))
    # Nothing of the stage is bare, and not a bit more than that is cut off.
    assert abs(beyond(covered).min()) < 0.02
    seen = corners(fitted)
    low, high = seen.min(axis=0), seen.max(axis=0)
    assert (low > -0.02).all() and (high < np.array([stage.width, stage.height]) + 0.02).all()
    assert min(low[0] + stage.width - high[0], low[1] + stage.height - high[1]) < 0.04
    for after in (covered, fitted):
        assert corners(after).mean(axis=0) == pytest.approx([stage.width / 2, stage.height / 2], abs=0.02)
        # As it was turned, and as wide for its height.
        before, now = (np.diff(corners(d), axis=0)[:2] for d in (documents, after))
        assert np.linalg.norm(now[0]) / np.linalg.norm(now[1]) == pytest.approx(
            np.linalg.norm(before[0]) / np.linalg.norm(before[1]), rel=2e-3
        )
        assert now[0] / np.linalg.norm(now[0]) == pytest.approx(before[0] / np.linalg.norm(before[0]), abs=2e-3)


def test_drawn_joints_are_numbered_and_never_hang_on_a_handle() -> None:
    documents = edit(leg(), "add-joints", joints=[{"id": "n1", "at": [0, 0], "parent": "h"}])
    documents = edit(documents, "add-joints", joints=[{"id": "n2", "at": [5, 0], "parent": "h", "handle": True}])
    documents = edit(documents, "add-joints", joints=[{"id": "n3", "at": [9, 0], "parent": "n1"}])
    joints = documents.puppet("a").joints
    assert [(joints[j].name, joints[j].parent) for j in ("n1", "n2", "n3")] == [
        ("joint 1", None), ("handle 1", "h"), ("joint 2", "n1"),
    ]  # fmt: skip


def test_feet_that_reach_stay_in_the_world_and_hands_do_not_unless_told() -> None:
    def made(end: str, **told: Any) -> tuple[bool, bool]:
        documents = edit(leg(), "remove-chain", chain="c")
        documents = edit(documents, "set-joints", joints=["ankle"], role="foot")
        after = edit(documents, "add-reach", id="x", name="x", anchor="hip", end=end, handle="y", **told)
        return after.puppet("a").joints["y"].world, after.puppet("a").chains["x"].follow

    assert made("ankle") == (True, True)
    assert made("knee") == (False, False)
    assert made("ankle", world=False, follow=True) == (False, True)


def test_a_pose_is_kept_where_a_dial_stands_and_the_nearest_stop_goes() -> None:
    documents = edit(leg(), "set-dial", dial={"id": "e", "name": "bow", "low": -10, "high": 10, "rest": 0})
    tried = {"knee.turn": [12.0], "e.dial": [4.0], "c.reach": [30.0]}
    documents = edit(documents, "keep-stop", dial="e", at=8, tried=tried)
    stops = documents.puppet("a").dials["e"].stops
    # What dials and limbs do is not a dial's to drive; at rest nothing is changed.
    assert [(s.at, s.values) for s in stops] == [(0, {}), (8, {"knee.turn": (12.0,)})]
    documents = edit(documents, "keep-stop", dial="e", at=8, tried={"hip.turn": [-3.0]})
    documents = edit(documents, "keep-stop", dial="e", at=-99, tried={"hip.turn": [5.0]})
    stops = documents.puppet("a").dials["e"].stops
    assert [s.at for s in stops] == [-10, 0, 8]
    assert stops[2].values == {"knee.turn": (12.0,), "hip.turn": (-3.0,)}
    documents = edit(documents, "remove-stop", dial="e", at=6.5)
    assert [s.at for s in documents.puppet("a").dials["e"].stops] == [-10, 0]
    bare = edit(leg(), "set-dial", dial={"id": "e", "name": "bow"})
    with pytest.raises(Refusal):
        edit(bare, "remove-stop", dial="e", at=0)


@pytest.mark.parametrize("mirrored", [False, True])
@pytest.mark.parametrize("turned", [0.0, 35.0])
def test_an_end_of_a_range_is_pulled_to_where_the_hand_points(mirrored: bool, turned: float) -> None:
    """A shin that hangs straight down from the knee, its thigh turned, and perhaps mirrored."""
    documents = Documents({"p": Production(id="p", name="Quay")})
    documents = do(documents, {"do": "add-puppet", "id": "a", "name": "Porter"})
    line = [("hip", [0, 0], None), ("knee", [0, 50], "hip"), ("ankle", [0, 100], "knee")]
    documents = edit(documents, "add-joints", joints=[{"id": n, "name": n, "at": at, "parent": p} for n, at, p in line])
    documents = edit(documents, "set-joints", joints=["knee"], limits={"low": -20, "high": 40})
    tried = {"hip.turn": [turned], **({"hip.scale": [-1.0, 1.0]} if mirrored else {})}
    pose = Evaluation.full(documents.puppet("a")).pose(0, {k: tuple(v) for k, v in tried.items()})
    # Where the ankle is with the knee turned by 40°: there the hand points.
    bent = Evaluation.full(documents.puppet("a")).pose(
        0, {k: tuple(v) for k, v in tried.items()} | {"knee.turn": (40.0,)}
    )
    hand = [float(v) for v in bent.worlds[pose.rig.row["ankle"], 4:, 0]]
    pulled = {"joint": "knee", "hand": hand, "tried": tried}
    low = edit(documents, "pull-limit", end="low", **pulled).puppet("a").joints["knee"].limits
    high = edit(documents, "pull-limit", end="high", **pulled).puppet("a").joints["knee"].limits
    assert low is not None and (low.low, low.high) == (40, 40)
    assert high is not None and (high.low, high.high) == (-20, 40)
    steps = edit(documents, "pull-limit", end="high", whole_steps=True, **pulled).puppet("a").joints["knee"].limits
    assert steps is not None and steps.high == 45
    # Further round, the turn nearest to where the end was is meant.
    wide = edit(documents, "set-joints", joints=["knee"], limits={"low": -20, "high": 390})
    round_ = edit(wide, "pull-limit", end="high", **pulled).puppet("a").joints["knee"].limits
    assert round_ is not None and round_.high == 400


def test_the_whole_pose_is_what_every_keyed_channel_holds_and_what_is_tried() -> None:
    documents = leg()
    keys = [{"joint": "knee", "kind": "turn", "frame": 13, "value": [11.0]}]
    documents = do(documents, {"do": "set-keys", "motion": "m", "keys": keys})
    before = Evaluation.full(documents.puppet("a"), documents.motion("m"))
    documents = do(documents, {"do": "key-pose", "motion": "m", "frame": 8, "tried": {"hips.turn": [7.0]}})
    channels = documents.motion("m").channels
    assert all(8 in c.keys for c in channels.values())
    assert channels["hips.turn"].keys[8].value == (7.0,)
    assert channels["knee.turn"].keys[8].value == pytest.approx((6.0,))
    after = Evaluation.full(documents.puppet("a"), documents.motion("m"))
    for id, values in before.keyed.items():
        assert after.keyed[id][:, 8] == pytest.approx(values[:, 8], abs=1e-4)
