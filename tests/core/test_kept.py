"""What is worked out once and kept: with its owner, by all it was made of, and never too much of it."""

from __future__ import annotations

import gc
import weakref

from hypothesis import given
from hypothesis import strategies as st

from sorvan.core.kept import kept
from sorvan.core.model.puppet import Puppet
from sorvan.core.plan.turning import seen_from
from tests.core.test_turnaround import BACK, FRONT, SIDE, turning


class Owner:
    pass


class Answer:
    def __init__(self, made_of: tuple[int, ...]) -> None:
        self.made_of = made_of


@given(st.lists(st.tuples(st.integers(0, 4), st.integers(0, 1)), max_size=40), st.integers(1, 4))
def test_an_answer_is_always_made_of_what_is_asked_and_the_newest_are_kept(
    asked: list[tuple[int, int]], most: int
) -> None:
    made: list[weakref.ref[Answer]] = []

    @kept(most)
    def answered(_: Owner, *made_of: int) -> Answer:
        answer = Answer(made_of)
        made.append(weakref.ref(answer))
        return answer

    owner, newest = Owner(), list[tuple[int, int]]()
    for one in asked:
        before = len(made)
        assert answered(owner, *one).made_of == one
        assert (len(made) == before) == (one in newest)
        newest = [one, *(n for n in newest if n != one)][:most]
    assert sum(r() is not None for r in made) == len(newest)
    del owner
    assert all(r() is None for r in made)


def test_a_puppet_seen_from_a_thousand_angles_keeps_a_few() -> None:
    puppet = turning(FRONT, SIDE, BACK)[0].puppet("a").changed(name="Turntable")
    for n in range(1000):
        seen_from(puppet, n * 0.36)
    gc.collect()
    ours = [o for o in gc.get_objects() if isinstance(o, Puppet) and o.name == puppet.name and not o.dials]
    assert 0 < len(ours) <= 16
