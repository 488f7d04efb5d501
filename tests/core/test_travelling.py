"""How one of the cast comes to do something, and the way along which it is carried: what is begun where nothing is told."""

from __future__ import annotations

from typing import Any

import pytest

from sorvan.core.errors import Refusal
from sorvan.core.model.documents import Documents
from sorvan.core.model.shot import Member
from tests.core.staging import on_stage, strolling
from tests.core.worlds import do

WHO = {"shot": "s", "cast": "c"}


def member(documents: Documents) -> Member:
    found = documents.shot("s").cast["c"]
    assert isinstance(found, Member)
    return found


def way(documents: Documents) -> list[tuple[float, float]]:
    travel = member(documents).travel
    return [v.at for v in travel.way] if travel else []


@pytest.mark.parametrize(("mirror", "end"), [(False, 500.0), (True, -500.0)])
def test_a_way_begins_to_where_one_looks_and_goes_straight_on(mirror: bool, end: float) -> None:
    documents = do(on_stage(strolling()), {"do": "set-cast", **WHO, "mirror": mirror})
    documents = do(documents, {"do": "begin-way", **WHO})
    assert way(documents) == [(0, 0), (end, 0)]
    # What was drawn already is not drawn anew.
    documents = do(documents, {"do": "set-way-point", **WHO, "point": 1, "at": [None, 40]})
    assert way(do(documents, {"do": "begin-way", **WHO})) == [(0, 0), (end, 40)]
    longer = do(documents, {"do": "extend-way", **WHO})
    assert way(longer) == [(0, 0), (end, 40), (2 * end, 80)]
    assert way(do(longer, {"do": "remove-way-point", **WHO, "point": 1})) == [(0, 0), (2 * end, 80)]
    corner = do(longer, {"do": "set-way-point", **WHO, "point": 1, "smooth": False})
    travel = member(corner).travel
    assert travel is not None and [v.smooth for v in travel.way] == [True, False, True]
    assert way(corner) == way(longer)


@pytest.mark.parametrize(
    ("command", "kind"),
    [
        ({"do": "extend-way"}, "missing"),
        ({"do": "remove-way-point", "point": 0}, "missing"),
        ({"do": "set-way-point", "point": 3, "smooth": True}, "missing"),
    ],
)
def test_a_way_that_is_not_there_has_no_points(command: dict[str, Any], kind: str) -> None:
    with pytest.raises(Refusal) as refused:
        do(on_stage(strolling()), {**command, **WHO})
    assert refused.value.kind == kind


def test_two_points_of_a_way_stay() -> None:
    documents = do(on_stage(strolling()), {"do": "begin-way", **WHO})
    with pytest.raises(Refusal, match="two points at least"):
        do(documents, {"do": "remove-way-point", **WHO, "point": 0})


def test_what_one_of_the_cast_does_next_lasts_as_long_as_there_is_room() -> None:
    """The shot has 96 frames; the stroll is a cycle, the nod of 10 frames is none."""
    documents = strolling()
    documents = do(documents, {"do": "add-motion", "id": "nod", "puppet": "a", "name": "Nod", "length": 10})
    documents = on_stage(documents)

    def spans(commands: list[tuple[str, str, int]]) -> list[tuple[Any, ...]]:
        found = documents
        for id, motion, frame in commands:
            found = do(found, {"do": "add-span", **WHO, "id": id, "motion": motion, "frame": frame})
        told = sorted(member(found).spans.values(), key=lambda s: s.start)
        return [(s.motion, s.start, s.frames, s.play, s.blend) for s in told]

    length = documents.shot("s").length
    first = spans([("x", "m", 30)])
    assert first == [("m", 0, length, "loop", 0)], "the first begins with the shot"
    assert spans([("x", "nod", 30)]) == [("nod", 0, 10, "once", 0)]
    both = spans([("x", "nod", 0), ("y", "m", 40)])
    assert both == [("nod", 0, 10, "once", 0), ("m", 40, length - 40, "loop", 6)], "another comes in from it"
    between = spans([("x", "nod", 0), ("y", "m", 40), ("z", "m", 20)])
    assert between[1] == ("m", 20, 20, "loop", 6), "until the next"
    tight = spans([("x", "nod", 0), ("y", "m", 40), ("z", "nod", 37)])
    assert tight[1] == ("nod", 37, 3, "once", 2), "and no longer in coming than in all"
    with pytest.raises(Refusal):
        spans([("x", "nod", 0), ("x", "m", 40)])
