"""Drawings that become others over a span of frames: as keys, in the plan, and in shots."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorvan.core.errors import Refusal
from sorvan.core.model.art import Art, Picture
from sorvan.core.model.channel import Channel, Key
from sorvan.core.model.documents import Documents
from sorvan.core.model.production import Production
from sorvan.core.model.shot import Member, Shot, Span
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.plan.scene import cel_of
from sorvan.core.shot.scene import InShot, ShotScene
from sorvan.core.timing.channels import at, drawings_at
from tests.core.shelf import Shelf, drawing, polygon
from tests.core.worlds import do, eases, piece


def steam(*changes: str | None, cycle: bool = False, ease: Any = None) -> tuple[Documents, Shelf]:
    """A puff of steam in three drawings, each a square as far up as its number has it, keyed every eight frames."""
    shelf = Shelf()
    documents = Documents({"p": Production(id="p", name="Quay")})
    documents = do(documents, {"do": "add-puppet", "id": "a", "name": "Steam"})
    documents = do(documents, {"do": "add-pieces", "puppet": "a", "pieces": [piece("q0", 100, 100), piece("q1", 0, 0)]})
    puppet = documents.puppet("a")
    held = puppet.pieces["q0"]
    first = held.drawings[0]
    drawn = tuple(
        first.changed(
            id=f"d{n}", name=f"puff {n}", number=n,
            art=shelf.keep(drawing(polygon((0, -50 * n), (20, -50 * n), (20, 20 - 50 * n), (0, 20 - 50 * n)))),
            bounds=(0, -50 * n, 20, 20 - 50 * n),
        )
        for n in range(3)
    )  # fmt: skip
    documents = documents.with_(puppet.with_pieces(held.changed(drawings=drawn)))
    documents = do(
        documents, {"do": "add-motion", "id": "m", "name": "Rise", "puppet": "a", "length": 24, "cycle": cycle}
    )
    motion = documents.motion("m")
    given = {"ease": ease} if ease else {}
    keys = {8 * n: Key(value=(float(n),), change=c, **given) for n, c in enumerate(changes)}
    channel = Channel(joint="q0", kind="show", keys=keys)
    return documents.with_(motion.with_channels(channel)), shelf


def evaluated(documents: Documents, shelf: Shelf) -> Evaluation:
    return Evaluation.full(documents.puppet("a"), documents.motion("m"), False, documents.production, shelf)


def test_a_gap_holds_cuts_half_way_or_becomes_the_next() -> None:
    documents, _ = steam("morph", "cut", "hold")
    channel = documents.motion("m").channels["q0.show"]
    number, becoming, come = drawings_at(channel, np.arange(24), 24, False)
    assert number.tolist() == [0] * 8 + [1] * 4 + [2] * 12
    assert becoming.tolist() == [0] + [1] * 7 + [1] * 4 + [2] * 12
    assert come.tolist() == [0, *(k / 8 for k in range(1, 8)), *[0] * 16]
    assert at(channel, np.arange(24), 24, False)[0].tolist() == number.tolist()
    # Only blocked, every drawing is held.
    assert drawings_at(channel, np.arange(24), 24, False, blocking=True)[0].tolist() == [0] * 8 + [1] * 8 + [2] * 8
    late = channel.changed(delay=1.5)
    assert drawings_at(late, np.arange(24), 24, False)[2][3] == pytest.approx(1.5 / 8)


def test_round_a_loop_the_last_becomes_the_first_again() -> None:
    documents, shelf = steam("morph", "morph", "morph", cycle=True)
    found = evaluated(documents, shelf)
    cel = cel_of(found)
    row = found.puppet.order.index("q0")
    tops = []
    for frame in range(24):
        shown = int(cel.shown[row, frame])
        moved = cel.moved(row, shown, frame)
        points = moved[0] if moved else None
        matrix = cel.matrices[row, :, frame]
        y = points[:, 1].min() if points is not None else [0, -50, -100][shown]
        tops.append(float(matrix[3] * y + matrix[5]))
    up = [-50 * k / 8 for k in range(17)]
    down = [-100 + 100 * k / 8 for k in range(1, 8)]
    assert np.array(tops) - tops[0] == pytest.approx([*up, *down], abs=1e-6)


def test_at_its_keys_the_drawings_themselves_are_shown() -> None:
    documents, shelf = steam("morph", "morph", None)
    found = evaluated(documents, shelf)
    row = found.puppet.order.index("q0")
    assert found.shown[row, [0, 8, 16, 23]].tolist() == [0, 1, 2, 2]
    arts = found.items[row].arts
    assert len(arts) == 5
    assert set(found.shown[row, 1:8].tolist()) == {3}
    assert set(found.shown[row, 9:16].tolist()) == {4}
    # Without drawings to look at, each stays until the next.
    blind = Evaluation.full(documents.puppet("a"), documents.motion("m"))
    assert blind.shown[row].tolist() == [0] * 8 + [1] * 8 + [2] * 8


changes = st.sampled_from([None, "hold", "cut", "morph"])


@given(st.lists(changes, min_size=3, max_size=3), st.data())
def test_what_is_worked_out_anew_is_what_a_full_evaluation_gives(gaps: list[str | None], data: st.DataObject) -> None:
    documents, shelf = steam(*gaps, cycle=data.draw(st.booleans()), ease=data.draw(eases))
    before = evaluated(documents, shelf)
    commands = [
        {"do": "change-gaps", "motion": "m", "keys": [{"channel": "q0.show", "frame": 8}], "change": data.draw(changes) or "hold"},
        {"do": "ease-gaps", "motion": "m", "keys": [{"channel": "q0.show", "frame": 0}], "ease": data.draw(eases)},
        {"do": "show-at", "motion": "m", "frame": data.draw(st.integers(0, 23)), "piece": "q0", "drawing": data.draw(st.integers(0, 2))},
        {"do": "set-keys", "motion": "m", "keys": [{"joint": "q1", "kind": "turn", "frame": 3, "value": [30]}]},
        {"do": "set-morph", "puppet": "a", "piece": "q0", "first": "d0", "second": "d1", "way": "swing"},
    ]  # fmt: skip
    after = do(documents, data.draw(st.sampled_from(commands)))
    found, touched = before.after(after.puppet("a"), after.motion("m"), after.production)
    whole = evaluated(after, shelf)
    assert np.array_equal(found.shown, whole.shown)
    assert found.items == whole.items
    assert found.going.keys() == whole.going.keys()
    for key, moving in whole.going.items():
        assert np.array_equal(moving.points, found.going[key].points)
        assert np.array_equal(moving.frames, found.going[key].frames)
    outside = [f for f in range(24) if not touched.start <= f < touched.stop]
    assert np.array_equal(before.shown[:, outside], whole.shown[:, outside])


def test_a_frame_by_itself_shows_what_the_plan_does() -> None:
    documents, shelf = steam("morph", "morph", None)
    whole = evaluated(documents, shelf)
    row = whole.puppet.order.index("q0")
    for frame in (0, 3, 12):
        pose = whole.pose(frame, {"q1.turn": (20.0,)})
        assert pose.shown[row, 0] == whole.shown[row, frame]
        assert pose.items == whole.items
        moved, there = (
            cel_of(pose).moved(row, pose.shown[row, 0], 0),
            cel_of(whole).moved(row, whole.shown[row, frame], frame),
        )
        assert (moved is None) == (there is None)
        if moved is not None and there is not None:
            assert np.array_equal(moved[0], there[0])
    # A drawing that is tried is shown, whatever would become what.
    assert whole.pose(3, {"q0.show": (2.0,)}).shown[row, 0] == 2


def test_a_shot_plays_it_at_half_the_speed_between_its_frames() -> None:
    documents, shelf = steam("morph", "morph", None)
    span = Span(id="s", motion="m", start=0, frames=40, speed=50)
    member = Member(id="c", puppet="a", name="Steam", at=(0, 0), spans={"s": span})
    shot = Shot(id="h", name="Quay", length=40, stage="final", cast={"c": member}, order=("c",))
    documents = documents.with_(shot)
    scene = ShotScene.full(documents, InShot(shot="h"), shelf)
    own, motion = scene.acted[0].evaluation, evaluated(documents, shelf)
    row = own.puppet.order.index("q0")
    assert own.shown[row, 0:32:2].tolist() == motion.shown[row, :16].tolist()
    parts = own.places.becoming[row].parts
    assert parts[1:16].tolist() == pytest.approx([k / 16 for k in range(1, 16)])
    # Keys laid over the shot choose, and then nothing becomes anything.
    laid = Channel(joint="q0", kind="show", keys={0: Key(value=(2.0,))})
    over = documents.with_(shot.changed(cast={"c": member.changed(over={"q0.show": laid})}))
    assert set(ShotScene.full(over, InShot(shot="h"), shelf).acted[0].evaluation.shown[row].tolist()) == {2}


def test_marks_and_ways_are_kept_with_the_pair_of_drawings_and_go_with_them() -> None:
    documents, _ = steam("morph", None)
    pair = {"puppet": "a", "piece": "q0", "first": "d0", "second": "d1"}
    mark = {"id": "k", "first": [0, 0], "second": [0, -50]}
    after = do(documents, {"do": "set-mark", **pair, "mark": mark})
    after = do(after, {"do": "set-morph", **pair, "way": "turn", "colours": "srgb"})
    held = after.puppet("a").pieces["q0"]
    (kept,) = held.morphs.values()
    assert (kept.way, kept.colours, list(kept.marks)) == ("turn", "srgb", ["k"])
    # Seen from the other side it is the same pair, turned round.
    back = {**pair, "first": "d1", "second": "d0"}
    moved = do(after, {"do": "set-mark", **back, "mark": {"id": "k", "first": [20, -50], "second": [20, 0]}})
    (kept,) = moved.puppet("a").pieces["q0"].morphs.values()
    there = kept if kept.first == "d0" else kept.turned()
    assert (there.marks["k"].first, there.marks["k"].second) == ((20, 0), (20, -50))
    assert moved.puppet("a").pieces["q0"].morph("d0", "d1").way == "turn"
    assert not do(moved, {"do": "remove-mark", **pair, "mark": "k"}).puppet("a").pieces["q0"].morph("d0", "d1").marks
    with pytest.raises(Refusal):
        do(documents, {"do": "remove-mark", **pair, "mark": "k"})
    with pytest.raises(Refusal):
        do(documents, {"do": "set-morph", **pair, "second": "d0", "way": "turn"})
    gone = do(after, {"do": "remove-drawings", "puppet": "a", "piece": "q0", "drawings": ["d1"]})
    assert gone.puppet("a").pieces["q0"].morphs == {}


def test_a_key_put_on_the_way_goes_on_that_way_and_turned_round_keys_take_their_changes_along() -> None:
    documents, _ = steam("morph", "cut", None)
    put = do(documents, {"do": "show-at", "motion": "m", "frame": 4, "piece": "q0", "drawing": 2})
    assert put.motion("m").channels["q0.show"].keys[4].change == "morph"
    all_ = [{"channel": "q0.show", "frame": f} for f in (0, 8, 16)]
    keys = do(documents, {"do": "reverse-keys", "motion": "m", "keys": all_}).motion("m").channels["q0.show"].keys
    assert {f: (k.value[0], k.change) for f, k in keys.items()} == {0: (2, "cut"), 8: (1, "morph"), 16: (0, None)}
    held = [{"channel": "q0.show", "frame": 0}]
    eased = do(documents, {"do": "ease-gaps", "motion": "m", "keys": held, "ease": {"kind": "hold"}})
    again = do(eased, {"do": "change-gaps", "motion": "m", "keys": held, "change": "morph"})
    # On a hold nothing would become of it.
    assert again.motion("m").channels["q0.show"].keys[0].ease.kind == "even"
    turned = do(
        documents,
        {"do": "set-keys", "motion": "m", "keys": [{"joint": "q1", "kind": "turn", "frame": 0, "value": [3]}]},
    )
    with pytest.raises(Refusal):
        do(
            turned,
            {"do": "change-gaps", "motion": "m", "keys": [{"channel": "q1.turn", "frame": 0}], "change": "morph"},
        )


def hanging(attach: str, shelf: Shelf, arts: Sequence[Art]) -> Documents:
    """An arm along x over two joints becomes one twice as thick; its far half hangs down all the time."""
    documents = Documents({"p": Production(id="p", name="Quay")})
    documents = do(documents, {"do": "add-puppet", "id": "a", "name": "Arm"})
    documents = do(documents, {"do": "add-pieces", "puppet": "a", "pieces": [piece("arm", 0, 0), piece("low", 100, 0)]})
    documents = do(documents, {"do": "link-joint", "puppet": "a", "joint": "low", "parent": "arm"})
    puppet = documents.puppet("a")
    held = puppet.pieces["arm"]
    drawn = tuple(
        held.drawings[0].changed(
            id=f"d{n}", number=n, name=f"arm {n}", pivot=(0, 0), bounds=(-10, -thick, 210, thick),
            art=shelf.keep(art),
        )
        for n, (thick, art) in enumerate(zip((10.0, 20.0), arts, strict=True))
    )  # fmt: skip
    documents = documents.with_(puppet.with_pieces(held.changed(drawings=drawn)))
    bends: dict[str, Any] = {"kind": "bend", "joints": ["arm", "low"]}
    if attach == "sheet":
        bends = {"kind": "sheet", "handles": ["arm", "low"]}
    documents = do(documents, {"do": "set-attach", "puppet": "a", "piece": "arm", "attach": bends})
    documents = do(documents, {"do": "add-motion", "id": "m", "name": "Swell", "puppet": "a", "length": 9})
    show = Channel(joint="arm", kind="show", keys={0: Key(value=(0.0,), change="morph"), 8: Key(value=(1.0,))})
    hang = Channel(joint="low", kind="turn", keys={0: Key(value=(90.0,))})
    turned = Channel(joint="arm", kind="turn", keys={0: Key(value=(0.0,)), 8: Key(value=(40.0,))})
    return documents.with_(documents.motion("m").with_channels(show, hang, turned))


@pytest.mark.parametrize("attach", ["bend", "sheet"])
def test_what_bends_goes_on_bending_while_it_becomes_another(attach: str) -> None:
    shelf = Shelf()
    arts = [drawing(polygon((-10, -thick), (210, -thick), (210, thick), (-10, thick))) for thick in (10.0, 20.0)]
    documents = hanging(attach, shelf, arts)
    found = evaluated(documents, shelf)
    cel = cel_of(found)
    row = found.puppet.order.index("arm")

    def seen(frame: int) -> np.ndarray:
        """Where the outline lies on the stage."""
        moved = cel.moved(row, int(cel.shown[row, frame]), frame)
        assert moved is not None
        a, b, c, d, e, f = cel.matrices[row, :, frame]
        x, y = moved[0].T
        return np.stack([a * x + c * y + e, b * x + d * y + f], axis=1)

    # From frame to frame nothing jumps: from the first drawing, over the in-betweens, to the second.
    boxes = np.array([[*seen(f).min(axis=0), *seen(f).max(axis=0)] for f in range(9)])
    assert np.abs(np.diff(boxes, axis=0)).max() < 40
    assert np.abs(np.diff(boxes, n=2, axis=0)).max() < 6
    if attach == "bend":
        # The far half hangs: it reaches its length below the elbow.
        assert boxes[1][3] > 80
    partly, _ = found.after(
        documents.puppet("a"),
        documents.motion("m").with_channels(Channel(joint="low", kind="turn", keys={0: Key(value=(60.0,))})),
    )
    whole = Evaluation.full(partly.puppet, partly.motion, False, documents.production, shelf)
    for key, moving in whole.going.items():
        assert np.array_equal(moving.points, partly.going[key].points)


@pytest.mark.parametrize("attach", ["bend", "sheet"])
def test_pictures_that_bend_fade_into_one_another(attach: str) -> None:
    shelf = Shelf()
    arts = [
        drawing(Picture(asset=shelf.picture(np.full((2 * n, 220, 4), n, np.uint8)), box=(-10, -n, 220, 2 * n)))
        for n in (10, 20)
    ]
    found = evaluated(hanging(attach, shelf, arts), shelf)
    (moving,) = found.going.values()
    assert moving.points.shape[:2] == (0, 2)
    assert np.allclose(moving.looks.sum(axis=0), 1) and np.all(np.diff(moving.looks[0]) < 0)


def test_who_shares_drawings_becomes_others_as_these_do() -> None:
    documents, _ = steam(None)
    own = {"do": "set-morph", "puppet": "a", "piece": "q0", "first": "d0", "second": "d1", "way": "swing"}
    documents = do(documents, own)
    shared = do(documents, {"do": "share-drawings", "puppet": "a", "pieces": ["q1", "q0"], "share": True})
    pieces = shared.puppet("a").pieces
    assert pieces["q0"].drawings == pieces["q1"].drawings and pieces["q0"].morphs == {}
    other = do(documents, {"do": "share-drawings", "puppet": "a", "pieces": ["q0", "q1"], "share": True})
    pieces = other.puppet("a").pieces
    assert pieces["q1"].morph("d0", "d1").way == "swing"
