"""The fast evaluation against the plain one, and in parts against the whole."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from sorvan.core.model.documents import Documents
from sorvan.core.model.production import Production
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.plan.scene import AtRest, InMotion, Staged
from tests.core.worlds import Oracle, changed, do, piece, productions, rigged


@given(st.data())
def test_all_frames_at_once_equal_one_frame_at_a_time(data: st.DataObject) -> None:
    documents = data.draw(productions())
    for tag in range(data.draw(st.integers(1, 14))):
        documents = changed(data.draw, documents, tag)
    # What is planted is measured by itself.
    puppet, motion = documents.puppet("a"), documents.motion("m").changed(plants={})
    fast, plain = Evaluation.full(puppet, motion), Oracle(puppet, motion)
    curved = any(k.tangents for c in motion.channels.values() for k in c.keys.values())
    for frame in range(motion.length):
        expected = plain.pieces(frame)
        for row, id in enumerate(puppet.order):
            got, want = fast.pieces[row, :, frame], np.array(expected[id])
            # Of the numbers' own size: linked scales may make them large. The length of a curve with a
            # sharp corner in it can be measured only so well.
            near = 3e-7 if curved else 1e-9
            assert np.abs(got - want).max() <= near * max(1.0, np.abs(want).max()), (frame, id)


@given(st.data())
def test_working_out_only_what_changed_gives_exactly_the_whole(data: st.DataObject) -> None:
    documents = data.draw(productions())
    evaluation = Evaluation.full(documents.puppet("a"), documents.motion("m"))
    for tag in range(data.draw(st.integers(1, 14))):
        documents = data.draw(st.sampled_from([changed, changed, rigged]))(data.draw, documents, tag)
        puppet, motion = documents.puppet("a"), documents.motion("m")
        before = evaluation
        evaluation, touched = before.after(puppet, motion)
        whole = Evaluation.full(puppet, motion)
        assert np.array_equal(evaluation.pieces, whole.pieces)
        assert np.array_equal(evaluation.worlds, whole.worlds)
        assert np.array_equal(evaluation.shown, whole.shown)
        assert np.array_equal(evaluation.places.order, whole.places.order)
        assert np.array_equal(evaluation.places.opacity, whole.places.opacity)
        for id, limb in whole.reached.items():
            assert np.array_equal(evaluation.reached[id].reached, limb.reached)
        if before.pieces.shape == whole.pieces.shape:
            kept = np.ones(whole.pieces.shape, dtype=bool)
            kept[list(touched.pieces), :, touched.start : touched.stop] = False
            assert np.array_equal(whole.pieces[kept], before.pieces[kept]), "something changed that was not told of"


@given(st.data())
def test_a_scene_brought_up_to_date_is_the_scene_worked_out_from_nothing(data: st.DataObject) -> None:
    """A motion before a backdrop that changes too: plans are equal to the last bit, and what is said to be new is all."""
    documents = data.draw(productions())
    documents = do(documents, {"do": "add-puppet", "id": "b", "name": "Quay"})
    wall = [{**piece(f"w{i}", 9.0 * i, 4.0), "name": f"wall {i}"} for i in range(2)]
    documents = do(documents, {"do": "add-pieces", "puppet": "b", "pieces": wall})
    target: AtRest | InMotion = data.draw(
        st.sampled_from([InMotion(motion="m"), AtRest(puppet="a"), AtRest(puppet="b")])
    )
    staged = Staged.full(documents, target)
    for tag in range(data.draw(st.integers(1, 8))):
        match data.draw(st.sampled_from(["puppet", "wall", "backdrop", "colour"])):
            case "puppet":
                documents = data.draw(st.sampled_from([changed, rigged]))(data.draw, documents, tag)
            case "wall":
                shift = {"do": "shift-pieces", "puppet": "b", "pieces": ["w1"], "dx": 3.0 * tag, "dy": 1.0}
                documents = do(documents, shift)
            case "backdrop":
                documents = do(documents, {"do": "set-production", "backdrop": data.draw(st.sampled_from([None, "b"]))})
            case "colour":
                swatch = {"do": "set-swatch", "swatch": {"id": f"s{tag}", "name": "rope", "colour": "#806040ff"}}
                documents = do(documents, swatch)
        before, whole = staged.plan(), Staged.full(documents, target)
        brought = staged.after(documents, target)
        staged, touched = brought if brought is not None else (whole, None)
        now, wanted = staged.plan(), whole.plan()
        assert len(now.cels) == len(wanted.cels) and now.frames == whole.frames
        for own, other in zip(now.cels, wanted.cels, strict=True):
            assert own.items == other.items
            for field in ("matrices", "shown", "order", "opacity"):
                assert np.array_equal(getattr(own, field), getattr(other, field)), field
        for own, old, t in zip(now.cels, before.cels, touched or (), strict=touched is not None):
            new = np.zeros(own.matrices.shape, dtype=bool)
            new[list(t.pieces), :, t.start : t.stop] = True
            if own.matrices.shape == old.matrices.shape:
                assert np.array_equal(own.matrices[~new], old.matrices[~new])
            else:
                assert new.all()


@given(st.data())
def test_one_frame_by_itself_equals_that_frame_of_the_whole(data: st.DataObject) -> None:
    documents = data.draw(productions())
    for tag in range(8):
        documents = data.draw(st.sampled_from([changed, rigged]))(data.draw, documents, tag)
    puppet, motion = documents.puppet("a"), documents.motion("m")
    whole = Evaluation.full(puppet, motion)
    frame = data.draw(st.integers(0, motion.length - 1))
    assert np.array_equal(whole.pose(frame, {}).pieces[:, :, 0], whole.pieces[:, :, frame])


def test_a_moved_key_touches_only_its_own_stretch_and_limb() -> None:
    documents = _two_arms()
    before = Evaluation.full(documents.puppet("a"), documents.motion("m"))
    documents = do(documents, {"do": "set-keys", "motion": "m", "keys": [_turn("arm", 20, 50)]})
    after, touched = before.after(documents.puppet("a"), documents.motion("m"))
    assert (touched.start, touched.stop) == (11, 30)
    assert {after.puppet.order[row] for row in touched.pieces} == {"arm", "hand"}


def _turn(joint: str, frame: int, degrees: float) -> dict[str, object]:
    return {"joint": joint, "kind": "turn", "frame": frame, "value": [degrees]}


def _two_arms() -> Documents:
    documents = Documents({"p": Production(id="p", name="Quay")})
    documents = do(documents, {"do": "add-puppet", "id": "a", "name": "Gull"})
    pieces = [piece("body", 0, 0), piece("arm", 10, 0), piece("hand", 20, 0), piece("other", -10, 0)]
    documents = do(documents, {"do": "add-pieces", "puppet": "a", "pieces": pieces})
    for child, parent in (("arm", "body"), ("hand", "arm"), ("other", "body")):
        documents = do(documents, {"do": "link-joint", "puppet": "a", "joint": child, "parent": parent})
    documents = do(documents, {"do": "add-motion", "id": "m", "puppet": "a", "name": "wave", "length": 48})
    keys = [_turn("arm", f, v) for f, v in ((0, 0), (10, 5), (20, 10), (30, 20), (47, 0))]
    return do(documents, {"do": "set-keys", "motion": "m", "keys": keys})


@given(st.data())
def test_a_tried_pose_is_the_frame_that_keying_it_would_give(data: st.DataObject) -> None:
    documents = data.draw(productions())
    for tag in range(8):
        documents = data.draw(st.sampled_from([changed, rigged, rigged]))(data.draw, documents, tag)
    puppet, motion = documents.puppet("a"), documents.motion("m")
    if not puppet.joints:
        return
    frame = data.draw(st.integers(0, motion.length - 1))
    owners = [(j, "turn", 1) for j in puppet.joints] + [(j, "move", 2) for j in [*puppet.joints, "puppet"]]
    owners += [(c, "reach", 1) for c in puppet.chains] + [(d, "dial", 1) for d in puppet.dials]
    # A key of a channel that comes late is seen later than where it is set.
    late = {id for id, channel in motion.channels.items() if channel.delay}
    owners = [o for o in owners if f"{o[0]}.{o[1]}" not in late]
    chosen = data.draw(st.lists(st.sampled_from(owners), min_size=1, max_size=3, unique=True))
    keys = [
        {"joint": id, "kind": kind, "frame": frame, "value": [data.draw(st.floats(-80, 80)) for _ in range(count)]}
        for id, kind, count in chosen
    ]
    tried = {f"{k['joint']}.{k['kind']}": tuple(k["value"]) for k in keys}
    keyed = do(documents, {"do": "set-keys", "motion": "m", "keys": keys})
    pose = Evaluation.full(puppet, motion).pose(frame, tried)
    whole = Evaluation.full(keyed.puppet("a"), keyed.motion("m"))
    assert np.allclose(pose.pieces[:, :, 0], whole.pieces[:, :, frame], rtol=1e-9, atol=1e-7)
    assert np.allclose(pose.worlds[:, :, 0], whole.worlds[:, :, frame], rtol=1e-9, atol=1e-7)
