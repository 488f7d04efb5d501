"""Mouths that blend into one another: what is drawn between them, and in which frames."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorvan.core.model.art import Art, Flat, Outline, Shape
from sorvan.core.model.documents import Documents
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.plan.scene import cel_of
from tests.core.shelf import Shelf
from tests.core.speakers import speaker
from tests.core.worlds import do


def lips(width: float, opening: float, colour: str, curved: bool = False) -> Art:
    """Lips as a diamond, or as a lens."""
    verbs = "MCCZ" if curved else "MLLLZ"
    points = (
        (0, 0, width, -opening, width, opening, width, 0, 0, opening, 0, -opening, 0, 0)
        if curved
        else (0, 0, width / 2, -opening / 2, width, 0, width / 2, opening / 2)
    )
    shape = Shape(outline=Outline(verbs=verbs, points=tuple(map(float, points))), fill=Flat(colour=colour))
    return Art(bounds=(0, -opening, width, opening), nodes=(shape,))


def spoken(blend: int) -> tuple[Documents, Shelf]:
    """A mouth of eleven drawings, each wider than the one before, keyed on three frames."""
    shelf, documents = Shelf(), speaker(("M", 0.2), length=24)
    puppet = documents.puppet("a")
    mouth = puppet.pieces["mouth"]
    drawn = tuple(
        d.changed(art=shelf.keep(lips(10 + 2 * n, 3 + n, f"#{16 * n:02x}4080ff", curved=n == 7)))
        for n, d in enumerate(mouth.drawings)
    )
    head = puppet.pieces["head"]
    head = head.changed(drawings=(head.drawings[0].changed(art=shelf.keep(lips(9, 9, "#112233ff"))),))
    documents = documents.with_(puppet.with_pieces(mouth.changed(drawings=drawn), head))
    documents = do(documents, {"do": "set-mouth-set", "puppet": "a", "blend": blend})
    keys = [(0, 0), (6, 3), (8, 9), (12, 7), (20, 10)]
    rows = [{"joint": "mouth", "kind": "show", "frame": f, "value": [v], "ease": {"kind": "hold"}} for f, v in keys]
    return do(documents, {"do": "set-keys", "motion": "m", "keys": rows}), shelf


def shown(documents: Documents, shelf: Shelf) -> tuple[list[int], Evaluation]:
    e = Evaluation.full(documents.puppet("a"), documents.motion("m"), arts=shelf)
    row = documents.puppet("a").order.index("mouth")
    return e.shown[row].tolist(), e


def test_after_each_change_the_drawing_between_shows_for_its_frames() -> None:
    plain, _ = shown(*spoken(0))
    assert plain == [0] * 6 + [3] * 2 + [9] * 4 + [7] * 8 + [10] * 4
    documents, shelf = spoken(1)
    row, e = shown(documents, shelf)
    at = documents.puppet("a").order.index("mouth")
    item = e.items[at]
    # Only what is on its way from one to the next is made: three changes of the four.
    assert len(item.arts) == len(item.boxes) == 11 + 3
    assert [f for f in range(24) if row[f] != plain[f]] == [6, 8, 12]  # the sad one is of another mood: it is cut to
    for frame, wide in ((6, (10 + 16) / 2), (12, (28 + 24) / 2)):
        moved = cel_of(e).moved(at, row[frame], frame)
        assert moved is not None
        assert np.ptp(moved[0][:, 0]) == pytest.approx(wide, abs=0.2)
    two, _ = shown(*spoken(3))
    assert [f for f in range(24) if two[f] != plain[f]] == [6, 7, 8, 9, 10, 12, 13, 14]


def test_what_lies_between_is_seated_by_the_pivots_of_both() -> None:
    documents, shelf = spoken(1)
    _, e = shown(documents, shelf)
    row = documents.puppet("a").order.index("mouth")
    # Their pivots are at nought, and so are those of what is made of them: nothing moves.
    assert np.ptp(e.pieces[row], axis=1) == pytest.approx(np.zeros(6))


@given(st.integers(0, 3), st.lists(st.tuples(st.integers(0, 23), st.integers(0, 10)), min_size=1, max_size=6))
def test_changing_a_key_gives_what_evaluating_all_gives(blend: int, changes: list[tuple[int, int]]) -> None:
    documents, shelf = spoken(blend)
    _, e = shown(documents, shelf)
    for frame, value in changes:
        key = {"joint": "mouth", "kind": "show", "frame": frame, "value": [value]}
        documents = do(documents, {"do": "set-keys", "motion": "m", "keys": [key]})
        e, _ = e.after(documents.puppet("a"), documents.motion("m"))
    whole = shown(documents, shelf)[1]
    assert np.array_equal(e.shown, whole.shown) and np.array_equal(e.pieces, whole.pieces)
    assert e.items == whole.items and e.going.keys() == whole.going.keys()


def test_setting_how_mouths_blend_makes_the_plan_anew() -> None:
    documents, shelf = spoken(0)
    _, before = shown(documents, shelf)
    after = do(documents, {"do": "set-mouth-set", "puppet": "a", "blend": 2})
    now, touched = before.after(after.puppet("a"), after.motion("m"))
    assert touched.stop == 24 and not now.looks_like(before) and now.places.becoming
    renamed = do(after, {"do": "set-mouth", "puppet": "a", "mouth": "wide", "name": "grin"})
    again, touched = now.after(renamed.puppet("a"), renamed.motion("m"))
    assert touched.stop == 0 and again.looks_like(now)
