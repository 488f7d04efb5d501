"""Documents hold together where they are made: what a command leaves can be stored and read again."""

from __future__ import annotations

import json
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorvan.core.change.writes import difference, patched
from sorvan.core.change.writes import replayed as replayed_on_disk
from sorvan.core.errors import Refusal
from sorvan.core.model import stored
from sorvan.core.model.documents import DOCUMENT, Documents
from sorvan.core.model.production import Production
from tests.core.worlds import changed, do, in_order, piece, productions, rigged, strained

LONG = "wing " * 24


def quay() -> Documents:
    """A production with a puppet of three pieces in a row and a motion of two keys."""
    documents = Documents({"p": Production(id="p", name="Quay")})
    documents = do(documents, {"do": "add-puppet", "id": "a", "name": "Gull"})
    pieces = [piece("body", 0, 0), piece("wing", 50, 0), piece("tip", 90, 0)]
    documents = do(documents, {"do": "add-pieces", "puppet": "a", "pieces": pieces})
    documents = do(documents, {"do": "add-motion", "id": "m", "puppet": "a", "name": "flap", "length": 24})
    for child, parent in (("wing", "body"), ("tip", "wing")):
        documents = do(documents, {"do": "link-joint", "puppet": "a", "joint": child, "parent": parent})
    return documents


def handles(count: int, start: int = 0) -> list[dict[str, Any]]:
    return [{"id": f"h{i}", "name": f"h{i}", "at": [i, 0], "handle": True} for i in range(start, start + count)]


def row_of_joints(count: int) -> Documents:
    """The quay with a limb of so many joints that reaches."""
    row = [
        {"id": f"j{i}", "name": f"j{i}", "at": [10 * i, i % 2], "parent": f"j{i - 1}" if i else None}
        for i in range(count)
    ]
    documents = do(quay(), {"do": "add-joints", "puppet": "a", "joints": row})
    reach = {"id": "c", "name": "tail", "anchor": "j0", "end": f"j{count - 1}", "handle": "h"}
    return do(documents, {"do": "add-reach", "puppet": "a", **reach})


def bodies_of(documents: Documents) -> dict[str, Any]:
    """The documents as they lie on disk, by their id."""
    found: dict[str, Any] = json.loads(json.dumps({id: d.model_dump(mode="json") for id, d in documents.by_id.items()}))
    return found


def readable(documents: Documents) -> Documents:
    """The documents as they are read back after they were stored."""
    return stored.read(bodies_of(documents).values())


def too_much() -> list[tuple[Documents, dict[str, Any], str]]:
    full = do(quay(), {"do": "add-joints", "puppet": "a", "joints": handles(64), "sheet": "wing"})
    return [
        (full, {"do": "add-joints", "joints": handles(1, 64), "sheet": "wing"}, "at most 64"),
        (row_of_joints(24), {"do": "insert-joint", "id": "new", "name": "new", "above": "j9"}, "at most 24"),
        (quay(), {"do": "set-pivot", "piece": "wing", "x": 9e5, "y": 9e5}, ""),
        (far(), {"do": "set-pivot", "piece": "wing", "x": -9e5, "y": 0}, "1e+06"),
        (quay(), {"do": "add-pieces", "pieces": [piece("n", 0, 0) | {"group": "nowhere"}]}, "group that is not there"),
        (handled(), {"do": "link-joint", "joint": "h0", "parent": "wing", "world": True}, "hangs on nothing"),
    ]


def far() -> Documents:
    return do(quay(), {"do": "shift-pieces", "puppet": "a", "pieces": ["wing"], "dx": 9e5, "dy": 0})


def handled() -> Documents:
    return do(quay(), {"do": "add-joints", "puppet": "a", "joints": handles(1)})


@pytest.mark.parametrize(("documents", "command", "words"), too_much())
def test_what_could_not_be_read_again_is_refused_in_words(
    documents: Documents, command: dict[str, Any], words: str
) -> None:
    try:
        after = do(documents, {"puppet": "a", **command})
    except Refusal as refusal:
        assert words and words in refusal.what and refusal.what.endswith("."), refusal.what
        assert refusal.remedy
    else:
        assert not words, "this was to be refused"
        assert readable(after).by_id == after.by_id


def test_the_other_side_of_a_long_name_fits_and_keeps_its_side() -> None:
    documents = do(quay(), {"do": "set-pieces", "puppet": "a", "pieces": ["wing"], "name": LONG, "side": "left"})
    for n in range(3):
        documents = do(documents, {"do": "mirror-pieces", "puppet": "a", "ids": {"wing": f"w{n}"}})
    names = [p.name for p in documents.puppet("a").pieces.values()]
    assert len(set(names)) == len(names) and max(map(len, names)) <= 120
    assert documents.puppet("a").pieces["w2"].name.startswith("right wing")
    assert readable(documents).by_id == documents.by_id


@given(st.data())
def test_whatever_a_command_leaves_is_read_again_as_it_was_from_snapshot_or_log(data: st.DataObject) -> None:
    documents = data.draw(productions())
    replayed = documents
    for tag in range(data.draw(st.integers(1, 10))):
        before = documents
        some = data.draw(st.sampled_from([changed, rigged, strained, strained]))
        documents = some(data.draw, before, tag)
        writes = difference(before, documents)
        logged = [type(w).model_validate(json.loads(w.model_dump_json())) for w in writes]
        replayed = patched(replayed, logged, sure=True)
        bodies = bodies_of(before)
        replayed_on_disk(bodies, logged)
        assert in_order(readable(documents)) == in_order(replayed) == in_order(documents)
        assert in_order(stored.read(bodies.values())) == in_order(documents)


def broken() -> dict[str, dict[str, Any]]:
    """Puppets and a motion that do not hold together, each for one reason."""
    whole = quay()
    puppet, motion = (whole.by_id[id].model_dump(mode="json") for id in ("a", "m"))
    wing = puppet["pieces"]["wing"]

    def puppet_with(**given: Any) -> dict[str, Any]:
        return {**puppet, **given}

    def wing_with(**given: Any) -> dict[str, Any]:
        return puppet_with(pieces={**puppet["pieces"], "wing": {**wing, **given}})

    chain = {"id": "c", "name": "c", "joints": ["body", "wing"], "handle": "gone"}
    loop = {"g": {"id": "g", "name": "g", "parent": "k"}, "k": {"id": "k", "name": "k", "parent": "g"}}
    dial = {"id": "d", "name": "d", "stops": [{"at": 0, "values": {"gone.turn": [1]}}]}
    key = {"joint": "tip", "kind": "turn", "keys": {"0": {"value": [1]}}}
    masked = {**puppet["pieces"], "wing": {**wing, "masks": [{"piece": "tip"}]}}
    masked["tip"] = {**puppet["pieces"]["tip"], "masks": [{"piece": "wing"}]}
    return {
        "a piece filed under another id": puppet_with(pieces={**puppet["pieces"], "wing": {**wing, "id": "fin"}}),
        "a limb whose handle is gone": puppet_with(chains={"c": chain}),
        "groups in a circle": puppet_with(groups=loop),
        "masks in a circle": puppet_with(pieces=masked),
        "a mask that is gone": wing_with(masks=[{"piece": "gone"}]),
        "a bend over a joint that is gone": wing_with(attach={"kind": "bend", "joints": ["wing", "gone"]}),
        "a reach of another joint": wing_with(
            attach={"kind": "bend", "joints": ["wing", "tip"], "reach": {"body": 4}}
        ),
        "a drawing shown that it has not": wing_with(shows="gone"),
        "two drawings of one number": wing_with(drawings=[*wing["drawings"], {**wing["drawings"][0], "id": "e"}]),
        "a dial on what is gone": puppet_with(dials={"d": dial}),
        "a joint called as the whole": puppet_with(joints={**puppet["joints"], "puppet": {"id": "puppet", "name": "x"}}),
        "a channel filed under another": {**motion, "channels": {"tip.move": key}},
        "a drawing that adds up": {
            **motion,
            "channels": {"tip.show": {**key, "kind": "show", "outside": "repeat-and-add"}},
        },
    }  # fmt: skip


@pytest.mark.parametrize("name", broken())
def test_a_document_that_does_not_hold_together_is_not_made(name: str) -> None:
    with pytest.raises(ValueError):
        DOCUMENT.validate_python(broken()[name])


def test_whatever_goes_goes_everywhere() -> None:
    documents = row_of_joints(3)
    dial = {"id": "d", "name": "d", "stops": [{"at": 0}, {"at": 1, "values": {"j1.turn": [4], "tip.turn": [9]}}]}
    documents = do(documents, {"do": "set-dial", "puppet": "a", "dial": dial})
    keys = [{"joint": id, "kind": kind, "frame": 0, "value": [1]} for id, kind in (("c", "reach"), ("j1", "turn"))]
    documents = do(documents, {"do": "set-keys", "motion": "m", "keys": keys})
    left = do(documents, {"do": "remove-joints", "puppet": "a", "joints": ["j1"]})
    assert [set(s.values) for s in left.puppet("a").dials["d"].stops] == [set(), {"tip.turn"}]
    assert set(left.motion("m").channels) == {"c.reach"}
    again = {**dial, "name": "changed", "stops": [s.model_dump() for s in left.puppet("a").dials["d"].stops]}
    assert do(left, {"do": "set-dial", "puppet": "a", "dial": again}).puppet("a").dials["d"].name == "changed"
    bare = do(documents, {"do": "remove-joints", "puppet": "a", "joints": ["h"]})
    assert bare.puppet("a").chains == {} and set(bare.motion("m").channels) == {"j1.turn"}
    whole_pose = [{"joint": j, "kind": "turn", "frame": 3, "value": [0]} for j in bare.puppet("a").joints]
    do(bare, {"do": "set-keys", "motion": "m", "keys": whole_pose})


def eyes() -> Documents:
    documents = Documents({"p": Production(id="p", name="Quay")})
    documents = do(documents, {"do": "add-puppet", "id": "a", "name": "Gull"})
    names = {"head": (0, 0), "left eye": (20, 0), "left pupil": (22, 0), "brow": (0, -9)}
    pieces = [piece(n.replace(" ", "-"), *at) | {"name": n} for n, at in names.items()]
    documents = do(documents, {"do": "add-pieces", "puppet": "a", "pieces": pieces})
    masks = {"left-eye": "inside", "head": "inside", "brow": "outside"}
    return do(documents, {"do": "set-masks", "puppet": "a", "pieces": ["left-pupil"], "masks": masks})


def test_a_mirrored_pupil_is_masked_by_the_other_eye() -> None:
    def masks_of_copy(documents: Documents, ids: dict[str, str]) -> list[tuple[str, bool]]:
        made = do(documents, {"do": "mirror-pieces", "puppet": "a", "ids": ids}).puppet("a")
        return [(m.piece, m.inside) for m in made.pieces["rp"].masks]

    together = masks_of_copy(eyes(), {"left-eye": "re", "left-pupil": "rp"})
    assert together == [("re", True), ("head", True), ("brow", False)]
    first = do(eyes(), {"do": "mirror-pieces", "puppet": "a", "ids": {"left-eye": "re"}})
    assert masks_of_copy(first, {"left-pupil": "rp"}) == together
    assert masks_of_copy(eyes(), {"left-pupil": "rp"}) == [("head", True), ("brow", False)]
