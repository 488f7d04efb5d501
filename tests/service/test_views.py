"""What a window that looks at a puppet is sent when a command is tried: only what differs from what it knows."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from bench.scenes import production
from sorvan.core.change.commands import COMMAND
from sorvan.core.plan import long_performances
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.plan.scene import AtRest, InMotion
from sorvan.picture.studio import Studio
from sorvan.service.letters.messages import (
    FROM_PAGE,
    MotionReport,
    PlanLetter,
    PlanPart,
    Playhead,
    PoseLetter,
    Spacing,
    TryPose,
)
from sorvan.service.windows import drawn
from sorvan.service.windows.views import WatchedScene

DOCUMENTS, KEPT = production(6, 12)


@pytest.fixture
def view() -> WatchedScene:
    made = WatchedScene(DOCUMENTS, AtRest(puppet="tree"), 1, Studio(lambda id: KEPT[id][1]))
    made.start()
    return made


def tried(view: WatchedScene, do: str, **fields: Any) -> dict[str, Any]:
    command = {"do": do, "puppet": "tree", **fields}
    (letter,) = view.try_command(FROM_PAGE.validate_python({"type": "try-command", "n": 7, "command": command}))
    assert isinstance(letter, PoseLetter) and letter.n == 7
    after = view.documents.puppet("tree")
    # Trying leaves no trace.
    assert after is DOCUMENTS.puppet("tree")
    return letter.wire()


def worlds(wire: dict[str, Any]) -> np.ndarray:
    return np.frombuffer(wire["worlds"], dtype="<f4").reshape(-1, 6)


def test_a_piece_that_only_moves_sends_places_and_numbers(view: WatchedScene) -> None:
    before = Evaluation.full(DOCUMENTS.puppet("tree"))
    wire = tried(view, "shift-pieces", pieces=["tree-5"], dx=30, dy=-4)
    assert not {"items", "joints", "limits"} & wire.keys()
    row = before.rig.row["tree-5"]
    moved = worlds(wire)
    assert moved[row, 4:] == pytest.approx(before.worlds[row, 4:, 0] + [30, -4], abs=1e-3)
    assert np.delete(moved, row, axis=0) == pytest.approx(np.delete(before.worlds[:, :, 0], row, axis=0), abs=1e-3)
    assert wire["places"]["tree-5"][:2] == pytest.approx(before.worlds[row, 4:, 0] + [30, -4])


@pytest.mark.parametrize(
    ("do", "fields"),
    [
        ("step-piece", {"piece": "tree-2", "to": "front"}),
        ("set-pieces", {"pieces": ["tree-3"], "hidden": True}),
        ("set-look", {"pieces": ["tree-3"], "opacity": 0.5}),
        ("set-masks", {"pieces": ["tree-3"], "masks": {"tree-1": "inside"}}),
    ],
)
def test_what_looks_different_sends_its_items_too(view: WatchedScene, do: str, fields: dict[str, Any]) -> None:
    wire = tried(view, do, **fields)
    assert len(wire["items"]) == 6 and "joints" not in wire
    by_piece = {i["piece"]: i for i in wire["items"]}
    match do:
        case "step-piece":
            assert [i["piece"] for i in wire["items"]][2:4] == ["tree-3", "tree-2"]
        case "set-pieces":
            assert by_piece["tree-3"]["hidden"] and not by_piece["tree-2"]["hidden"]
        case "set-look":
            assert by_piece["tree-3"]["opacity"] == 0.5
        case "set-masks":
            assert len(by_piece["tree-3"]["masks"]) == 1


def test_a_new_joint_sends_the_joints_and_a_pulled_range_its_limits(view: WatchedScene) -> None:
    joint = {"id": "twig", "at": [600, 300], "parent": "tree-4"}
    wire = tried(view, "add-joints", joints=[joint])
    assert "twig" in wire["joints"] and "items" not in wire
    assert len(worlds(wire)) == len(wire["joints"])
    wire = tried(view, "set-joints", joints=["tree-1"], limits={"low": -10, "high": 25})
    assert wire["limits"] == {"tree-1": (-10, 25)}
    assert not {"items", "joints"} & wire.keys()


def test_a_command_on_the_watched_motion_is_tried_at_a_frame_of_it() -> None:
    motion = next(DOCUMENTS.motions("tree"))
    view = WatchedScene(DOCUMENTS, InMotion(motion=motion.id, backdrop=False), 1, Studio(lambda id: KEPT[id][1]))
    view.start()
    key = {"joint": "tree-5", "kind": "turn", "frame": 3, "value": [77]}
    command = {"do": "set-keys", "motion": motion.id, "keys": [key]}
    (letter,) = view.try_command(
        FROM_PAGE.validate_python({"type": "try-command", "n": 9, "command": command, "frame": 3})
    )
    after = COMMAND.validate_python(command).apply(DOCUMENTS)
    whole = Evaluation.full(after.puppet("tree"), after.motion(motion.id), production=after.production)
    assert isinstance(letter, PoseLetter) and letter.frame == 3
    assert worlds(letter.wire()) == pytest.approx(whole.worlds[:, :, 3], abs=1e-3)
    assert view.documents.motion(motion.id) is motion


def test_a_very_long_motion_is_sent_in_parts_those_at_the_playhead_first(monkeypatch: pytest.MonkeyPatch) -> None:
    documents, kept = production(6, 120)
    motion = next(documents.motions("tree"))
    target, studio = InMotion(motion=motion.id), Studio(lambda id: kept[id][1])
    whole = WatchedScene(documents, target, 1, studio)
    (plan, *_) = whole.start()
    monkeypatch.setattr(long_performances, "MOST_HELD", 0)
    monkeypatch.setattr(drawn, "PART_BYTES", 0)
    view = WatchedScene(documents, target, 1, studio, frame=60)
    first, *others = view.start()
    assert isinstance(first, PlanLetter) and isinstance(plan, PlanLetter) and first.sent == (48, 96)
    assert not any(isinstance(letter, Spacing) and letter.channels for letter in others)
    report = next(letter for letter in others if isinstance(letter, MotionReport))
    assert [f.check for f in report.findings or ()] == ["too-long"]
    # The hand is on frame 5 by now: that part comes before what was to come.
    assert view.attend(Playhead(frame=5)) == []
    came, spaced = {first.sent: first.matrices}, set[str]()
    order: list[tuple[int, int]] = []
    while view.busy:
        for letter in view.more():
            if isinstance(letter, PlanPart):
                order.append((letter.start, letter.stop))
                came[letter.start, letter.stop] = letter.matrices
            elif isinstance(letter, Spacing):
                spaced |= letter.channels.keys()
    assert order[0] == (0, 48) and sorted(came)[-1][1] == first.frames
    assert b"".join(came[span] for span in sorted(came)) == plan.matrices
    assert spaced == motion.channels.keys()
    # A key sends only the parts that it touches, and a hand is answered as ever.
    after = COMMAND.validate_python(
        {
            "do": "set-keys",
            "motion": motion.id,
            "keys": [{"joint": "tree-5", "kind": "turn", "frame": 2, "value": [50]}],
        }
    ).apply(documents)
    sent = view.follow(after, 2)
    parts = [letter for letter in sent if isinstance(letter, PlanPart)]
    assert [(p.start, p.stop) for p in parts] == [(0, 48)] and parts[0].seq == 2
    (pose,) = view.try_pose(TryPose(n=1, frame=70, tried={"tree-5.turn": (9.0,)}))
    (other,) = whole.try_pose(TryPose(n=1, frame=70, tried={"tree-5.turn": (9.0,)}))
    assert isinstance(pose, PoseLetter) and isinstance(other, PoseLetter) and pose.matrices == other.matrices
