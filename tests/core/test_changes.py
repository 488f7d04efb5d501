"""Changes: undone exactly, linked without a jump, and refused for a reason."""

from __future__ import annotations

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from sorvan.core.change.commands import COMMAND
from sorvan.core.change.writes import difference, disturbs, patched, replayed
from sorvan.core.errors import Refusal
from sorvan.core.geometry import near
from sorvan.core.model.documents import DOCUMENT, Documents
from sorvan.core.model.production import Production
from sorvan.core.model.puppet import Puppet
from sorvan.core.rig.skeleton import piece_worlds
from tests.core.worlds import changed, do, in_order, piece, productions, rigged


@given(st.data())
def test_undoing_any_list_of_changes_restores_the_documents_exactly(data: st.DataObject) -> None:
    states = [data.draw(productions())]
    done = []
    for tag in range(data.draw(st.integers(1, 12))):
        some = data.draw(st.sampled_from([changed, rigged, rigged]))
        states.append(some(data.draw, states[-1], tag))
        done.append(difference(states[-2], states[-1]))
        for document in states[-1].by_id.values():
            assert DOCUMENT.validate_python(document.model_dump(mode="json")) == document
    now = states[-1]
    for before, writes in zip(reversed(states[:-1]), reversed(done), strict=True):
        now = patched(now, [w.reversed() for w in reversed(writes)])
        assert in_order(now) == in_order(before)
    for after, writes in zip(states[1:], done, strict=True):
        now = patched(now, writes)
        assert in_order(now) == in_order(after)


@given(st.data())
def test_linking_in_any_order_leaves_every_piece_where_it_is(data: st.DataObject) -> None:
    documents = data.draw(productions())
    places = piece_worlds(documents.puppet("a"))
    ids = sorted(documents.puppet("a").joints)
    for _ in range(data.draw(st.integers(1, 12))):
        child, parent = data.draw(st.sampled_from(ids)), data.draw(st.sampled_from([None, *ids]))
        try:
            documents = do(documents, {"do": "link-joint", "puppet": "a", "joint": child, "parent": parent})
        except Refusal as refusal:
            assert refusal.kind == "loop"
        now = piece_worlds(documents.puppet("a"))
        assert all(near(now[id], places[id], 1e-6) for id in places)


@given(st.data())
def test_setting_a_pivot_moves_nothing(data: st.DataObject) -> None:
    documents = data.draw(productions())
    before = piece_worlds(documents.puppet("a"))
    id = data.draw(st.sampled_from(sorted(before)))
    assume(abs(before[id].determinant) > 1e-3)
    x, y = data.draw(st.floats(-300, 300)), data.draw(st.floats(-300, 300))
    documents = do(documents, {"do": "set-pivot", "puppet": "a", "piece": id, "x": x, "y": y})
    after = piece_worlds(documents.puppet("a"))
    assert all(near(after[k], before[k], 1e-6) for k in before)


def quay() -> Documents:
    documents = Documents({"p": Production(id="p", name="Quay")})
    documents = do(documents, {"do": "add-puppet", "id": "a", "name": "Gull"})
    pieces = [piece("body", 100, 100), piece("left wing", 140, 90) | {"id": "wing"}, piece("tip", 180, 90)]
    pieces[1]["name"] = "left wing"
    documents = do(documents, {"do": "add-pieces", "puppet": "a", "pieces": pieces})
    documents = do(documents, {"do": "link-joint", "puppet": "a", "joint": "wing", "parent": "body"})
    documents = do(documents, {"do": "link-joint", "puppet": "a", "joint": "tip", "parent": "wing"})
    return do(documents, {"do": "add-motion", "id": "m", "puppet": "a", "name": "flap", "length": 24})


def test_a_loop_is_refused_with_the_names_of_both() -> None:
    with pytest.raises(
        Refusal, match="“piece body” cannot hang on “piece tip”, because “piece tip” already hangs on it"
    ):
        do(quay(), {"do": "link-joint", "puppet": "a", "joint": "body", "parent": "tip"})


def test_mirrored_pieces_keep_their_places_to_one_another() -> None:
    # The body is the nearest centre joint that the wing hangs on, so its pin at x = 100 is the middle.
    documents = do(quay(), {"do": "mirror-pieces", "puppet": "a", "ids": {"wing": "wing2", "tip": "tip2"}})
    puppet = documents.puppet("a")
    assert puppet.pieces["wing2"].name == "right wing"
    assert puppet.pieces["wing2"].side == "right"
    assert puppet.joints["wing2"].parent == "body"
    assert puppet.joints["tip2"].parent == "wing2"
    worlds = piece_worlds(puppet)
    for one, other in (("wing", "wing2"), ("tip", "tip2")):
        a, b, c, d, e, f = worlds[one]
        assert near(worlds[other], (-a, b, -c, d, 200 - e, f), 1e-9)


def test_removing_a_piece_hands_its_children_on_and_drops_its_keys() -> None:
    documents = quay()
    keys = [{"joint": j, "kind": "turn", "frame": 0, "value": [5]} for j in ("wing", "tip")]
    documents = do(documents, {"do": "set-keys", "motion": "m", "keys": keys})
    before = piece_worlds(documents.puppet("a"))
    documents = do(documents, {"do": "remove-pieces", "puppet": "a", "pieces": ["wing"]})
    assert documents.puppet("a").joints["tip"].parent == "body"
    assert near(piece_worlds(documents.puppet("a"))["tip"], before["tip"], 1e-9)
    assert set(documents.motion("m").channels) == {"tip.turn"}


def test_a_new_key_takes_the_ease_of_the_gap_it_falls_in() -> None:
    slow = {"kind": "slow", "out": 30, "into": 70}
    documents = do(quay(), {"do": "set-keys", "motion": "m", "keys": [
        {"joint": "tip", "kind": "turn", "frame": 0, "value": [0], "ease": slow},
        {"joint": "tip", "kind": "turn", "frame": 20, "value": [9]},
    ]})  # fmt: skip
    documents = do(
        documents,
        {"do": "set-keys", "motion": "m", "keys": [{"joint": "tip", "kind": "turn", "frame": 8, "value": [4]}]},
    )
    assert documents.motion("m").channels["tip.turn"].keys[8].ease.model_dump() == slow


def test_keys_move_round_the_seam_of_a_cycle_and_not_off_the_end_of_a_motion() -> None:
    documents = do(
        quay(), {"do": "set-keys", "motion": "m", "keys": [{"joint": "tip", "kind": "turn", "frame": 20, "value": [9]}]}
    )
    move = {"do": "move-keys", "motion": "m", "keys": [{"channel": "tip.turn", "frame": 20}], "by": 6}
    with pytest.raises(Refusal, match="leave the motion's 24 frames"):
        do(documents, move)
    documents = do(documents, {"do": "set-motion", "motion": "m", "cycle": True})
    assert list(do(documents, move).motion("m").channels["tip.turn"].keys) == [0, 2]


def test_changes_disturb_each_other_only_where_they_touch_the_same() -> None:
    base = quay()

    def wrote(command: dict[str, object]) -> object:
        return difference(base, do(base, command))

    turn = {"do": "set-keys", "motion": "m", "keys": [{"joint": "tip", "kind": "turn", "frame": 0, "value": [5]}]}
    other = {"do": "set-keys", "motion": "m", "keys": [{"joint": "wing", "kind": "turn", "frame": 0, "value": [5]}]}
    rename = {"do": "set-pieces", "puppet": "a", "pieces": ["tip"], "name": "wing tip"}
    hide = {"do": "set-pieces", "puppet": "a", "pieces": ["tip"], "hidden": True}
    gone = {"do": "remove-puppet", "puppet": "a"}
    assert disturbs(wrote(turn), wrote(turn))
    assert not disturbs(wrote(turn), wrote(other))
    assert not disturbs(wrote(rename), wrote(hide))
    assert disturbs(wrote(rename), wrote(gone))


@pytest.mark.parametrize(
    "command",
    [
        {"do": "set-keys", "motion": "m", "keys": [{"joint": "tip", "kind": "turn", "frame": 24, "value": [5]}]},
        {"do": "set-keys", "motion": "m", "keys": [{"joint": "nobody", "kind": "turn", "frame": 0, "value": [5]}]},
        {"do": "place-piece", "puppet": "a", "piece": "tip", "x": 0, "y": 0, "angle": 0, "sx": 0, "sy": 1},
        {"do": "set-pieces", "puppet": "a", "pieces": ["tip", "wing"], "name": "both"},
        {"do": "remove-keys", "motion": "m", "keys": [{"channel": "tip.turn", "frame": 3}]},
        {"do": "shift-pieces", "puppet": "nobody", "pieces": ["tip"], "dx": 1, "dy": 1},
    ],
)
def test_what_cannot_be_done_is_refused_in_words(command: dict[str, object]) -> None:
    with pytest.raises(Refusal) as refused:
        do(quay(), command)
    assert refused.value.what.endswith(".")


def test_every_command_says_what_it_is() -> None:
    documents = do(
        quay(), {"do": "set-keys", "motion": "m", "keys": [{"joint": "tip", "kind": "turn", "frame": 4, "value": [5]}]}
    )
    command = COMMAND.validate_python(
        {"do": "shift-pieces", "puppet": "a", "pieces": ["wing", "tip"], "dx": 1, "dy": 0}
    )
    assert command.label(documents) == "Move 2 pieces"
    command = COMMAND.validate_python(
        {"do": "set-keys", "motion": "m", "keys": [{"joint": "tip", "kind": "turn", "frame": 4, "value": [5]}]}
    )
    assert command.label(documents) == "Key “piece tip” at frame 5"


def test_what_an_older_version_wrote_down_can_still_be_taken_back() -> None:
    before = quay()
    new = [piece("bill", 200, 90)]
    after = do(before, {"do": "add-pieces", "puppet": "a", "pieces": new})
    later = ("attach", "masks", "shared", "opacity", "colour", "swatches", "shows")
    writes = [
        w.model_copy(update={"after": {k: v for k, v in w.after.items() if k not in later}})
        if w.path == ("pieces", "bill")
        else w
        for w in difference(before, after)
    ]
    assert in_order(patched(after, [w.reversed() for w in reversed(writes)])) == in_order(before)
    moved = do(after, {"do": "set-pieces", "puppet": "a", "pieces": ["bill"], "name": "beak"})
    with pytest.raises(Refusal):
        patched(moved, [w.reversed() for w in reversed(writes)])


def test_a_key_set_since_stands_in_the_way_of_taking_back_its_channel() -> None:
    def key(frame: int) -> dict[str, object]:
        new = {"joint": "tip", "kind": "scale", "frame": frame, "value": [2, 2]}
        return {"do": "set-keys", "motion": "m", "keys": [new]}

    before = quay()
    made = do(before, key(4))
    back = [w.reversed() for w in difference(before, made)]
    assert in_order(patched(made, back)) == in_order(before)
    with pytest.raises(Refusal):
        patched(do(made, key(9)), back)


@given(
    st.lists(st.sampled_from("abcdefgh"), unique=True),
    st.lists(st.sampled_from("abcdefgh"), unique=True),
    st.integers(0, 7),
)
def test_entries_come_and_go_in_their_places(one: list[str], other: list[str], at: int) -> None:
    """Undone, everything stands where it did; what a change put among others comes to stand there too."""
    stays = [id for id in one if id in other]
    new = [id for id in other if id not in one]
    wanted = stays[:at] + new + stays[at:]
    before, after = (
        Documents({"p": Production(id="p", name="Quay"), **{id: Puppet(id=id, name=id) for id in ids}})
        for ids in (one, wanted)
    )
    writes = difference(before, after)
    assert list(patched(before, writes).by_id) == list(after.by_id)
    back = [w.reversed() for w in reversed(writes)]
    assert list(patched(after, back).by_id) == list(before.by_id)
    on_disk = {id: d.model_dump(mode="json") for id, d in after.by_id.items()}
    for write in back:
        replayed(on_disk, [write])
    assert list(on_disk) == list(before.by_id)
