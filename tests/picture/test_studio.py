"""The studio keeps within its bytes, lets nothing go that is held, and makes anew what was let go."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from sorvan.core.model.art import Art, Flat, Outline, Shape
from sorvan.picture.studio import Studio, weight_of

EDGE = 40


def art(n: int, points: int = 200) -> Art:
    numbers = tuple(float(n + i) for i in range(2 * points))
    outline = Outline(verbs="M" + "L" * (points - 1), points=numbers)
    return Art(bounds=(0, 0, 9, 9), nodes=(Shape(outline=outline, fill=Flat(colour="#ff0000ff")),))


SIZE = len(art(0).model_dump_json())


def asked_for(studio: Studio, n: int) -> str:
    """A made drawing as an evaluation asks for it: by what it is made of."""
    return studio.kept(("art", n), lambda: studio.keep(art(n)))


def test_what_is_held_stays_and_what_went_is_made_anew() -> None:
    studio = Studio(lambda _: b"", most_made=8 * SIZE)
    window = object()
    held = [asked_for(studio, n) for n in range(3)]
    studio.hold(window, held)
    for n in range(3, EDGE):
        asked_for(studio, n)
        assert studio.weight[0] <= 9 * SIZE
    assert all(studio.made(id) for id in held)
    aside = Studio(lambda _: b"")
    gone = next(n for n in range(3, EDGE) if studio.made(asked_for(aside, n)) is None)
    id = asked_for(studio, gone)
    assert studio.made(id) is not None and studio.art(id) == art(gone)
    studio.release(window)
    for n in range(EDGE, 2 * EDGE):
        asked_for(studio, n)
    assert not any(studio.made(id) for id in held)


def test_one_thing_too_many_does_not_clear_what_is_kept() -> None:
    studio, made = Studio(lambda _: b"", most_made=4 * SIZE), []

    def mesh() -> np.ndarray:
        made.append(1)
        return np.zeros((100, 2))

    for n in range(20):
        asked_for(studio, n)
        studio.kept("mesh", mesh)
    assert len(made) == 1


@given(st.lists(st.integers(1, 4000), min_size=1, max_size=60))
def test_what_is_kept_is_counted_in_bytes_not_in_entries(sizes: list[int]) -> None:
    studio = Studio(lambda _: b"", most_kept=200_000)
    for n, size in enumerate(sizes):
        studio.kept(n, lambda size=size: np.zeros(size))
        assert studio.weight[1] <= max(200_000, 8 * size)
    newest = len(sizes) - 1
    again: list[int] = []
    studio.kept(newest, lambda: again.append(1))
    assert not again


def test_weights_follow_what_is_inside() -> None:
    assert weight_of(np.zeros(1000)) == 8000
    assert weight_of({"a": np.zeros(1000), "b": [np.zeros(10), "x" * 100]}) > 8000 + 80 + 100
    small, large = (weight_of(art(0, points)) for points in (10, 1000))
    assert 900 * 2 * 8 < large - small < 1100 * 2 * 64
