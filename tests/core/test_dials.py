"""Dials: blinks made of what is there, and stops at rest, by known answers."""

from __future__ import annotations

from typing import Any

import pytest

from sorvan.core.errors import Refusal
from sorvan.core.geometry import Affine, near
from sorvan.core.model.documents import Documents
from sorvan.core.model.production import Production
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.rig.blinks import blink_parts
from tests.core.worlds import do


def edit(documents: Documents, do_: str, **fields: Any) -> Documents:
    return do(documents, {"do": do_, "puppet": "a", **fields})


def eyes(hidden: bool = True) -> Documents:
    """A face with an eye that is drawn open and shut, another with a lid over it, and an empty motion."""
    documents = do(Documents({"p": Production(id="p", name="Quay")}), {"do": "add-puppet", "id": "a", "name": "Gull"})
    made = [
        {"id": id, "name": name, "at": [x, 50], "hidden": hidden and id == "lid",
         "drawing": {"id": "d", "name": name, "art": "0" * 64, "pivot": [0, 0], "bounds": [0, 0, 20, 10]}}
        for id, name, x in (("eye", "left eye", 0), ("far", "right eye", 40), ("lid", "right eyelid", 40))
    ]  # fmt: skip
    documents = edit(documents, "add-pieces", pieces=made)
    shut = {"id": "s", "name": "closed", "art": "1" * 64, "pivot": [0, 0], "bounds": [0, 0, 20, 10]}
    documents = edit(documents, "add-drawings", piece="eye", drawings=[shut])
    return do(documents, {"do": "add-motion", "id": "m", "puppet": "a", "name": "look", "length": 96})


def seen_at(documents: Documents, place: float | None) -> dict[str, tuple[int, float]]:
    """The drawing and the opacity of each piece with a dial at a place, or without a key on it."""
    puppet = documents.puppet("a")
    tried = {} if place is None else {"b.dial": (place,)}
    pose = Evaluation.full(puppet, documents.motion("m")).pose(0, tried)
    return {
        id: (int(pose.shown[row, 0]), 0.0 if puppet.unseen(puppet.pieces[id]) else float(pose.places.opacity[row, 0]))
        for row, id in enumerate(puppet.order)
    }


@pytest.mark.parametrize("hidden", [True, False])
def test_a_blink_is_made_of_what_is_there_by_its_names(hidden: bool) -> None:
    documents = eyes(hidden)
    told = blink_parts(documents.puppet("a")).model_dump()
    assert told == {"only_shut": ("lid",), "only_open": (), "drawings": {"eye": 1}}
    documents = edit(documents, "make-blink", dial="b", **told)
    open_ = {"eye": (0, 1.0), "far": (0, 1.0), "lid": (0, 0.0)}
    # Open without a key, and up to half way; then shut, with nothing half seen.
    assert seen_at(documents, None) == seen_at(documents, 0) == seen_at(documents, 49) == open_
    assert seen_at(documents, 50) == seen_at(documents, 100) == {"eye": (1, 1.0), "far": (0, 1.0), "lid": (0, 1.0)}
    # The recipe of blinks finds it, and shuts the eyes with it.
    recipe = {"do": "begin-recipe", "motion": "m", "id": "r", "kind": "blink"}
    assert do(documents, recipe).motion("m").recipes["r"].dial == "b"  # type: ignore[union-attr]
    with pytest.raises(Refusal, match="Nothing is chosen"):
        edit(documents, "make-blink", dial="c")


def test_a_stop_at_rest_holds_what_it_shows() -> None:
    documents = edit(eyes(), "set-dial", dial={"id": "b", "name": "open", "low": 0, "high": 3})
    keys = [{"joint": "far", "kind": "move", "frame": 2, "value": [0, 5]}]
    documents = do(documents, {"do": "set-keys", "motion": "m", "keys": keys})
    before = Evaluation.full(documents.puppet("a"), documents.motion("m")).worlds[:, :, 2]
    # At 1 it was drawn; at rest it is to be higher, smaller and shut, with the lid over it.
    documents = edit(documents, "keep-stop", dial="b", at=1, tried={})
    rest = {"far.move": (0.0, -28.0), "far.scale": (1.0, 0.5), "far.turn": (10.0,), "eye.show": (1.0,)}
    documents = edit(documents, "keep-stop", dial="b", at=0, tried=rest)
    documents = edit(documents, "keep-stop", dial="b", at=2, tried={"lid.opacity": (100.0,)})

    def eye(place: float | None) -> Affine:
        pose = Evaluation.full(documents.puppet("a")).pose(0, {} if place is None else {"b.dial": (place,)})
        return Affine(*pose.worlds[pose.rig.row["far"], :, 0])

    high, drawn = Affine.placed(40, 22, 10, 0, 1, 0.5), Affine.placed(40, 50, 0, 0, 1, 1)
    assert near(eye(None), high, 1e-9) and near(eye(0), high, 1e-9) and near(eye(1), drawn, 1e-9)
    assert seen_at(documents, None)["eye"][0] == seen_at(documents, 0)["eye"][0] == 1
    # What was hidden in the file is shown by the dial, and nowhere else.
    assert [seen_at(documents, at)["lid"][1] for at in (None, 0, 1, 2, 3)] == [0, 0, 0, 1, 1]
    # A key of a motion means the same place as before.
    after = Evaluation.full(documents.puppet("a"), documents.motion("m"))
    row = after.rig.row["far"]
    assert after.worlds[row, 4:, 2] == pytest.approx(before[row, 4:])
