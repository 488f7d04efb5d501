"""Names of joints and pieces: words, sides, twins and roles, in the habits and languages people have."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorvan.core.model.base import LONGEST_NAME
from sorvan.core.rig import lexicon
from sorvan.core.rig.names import SIDES, by_depth, fitted, plain_name, side_of, sideless, twin_name, words
from sorvan.core.rig.roles import role_by_name
from sorvan.core.rig.sides import other

styles = st.sampled_from(["{s} {w} {n}", "{w}_{n}_{s}", "{w}.{s}.{n}", "{s}-{w}-{n}", "{w} {n} ({s})"])
side_words = st.sampled_from(sorted(SIDES))
limb_words = st.sampled_from(sorted(lexicon.LIMBS - SIDES.keys()))


@given(styles, side_words, limb_words, st.integers(0, 99))
def test_the_other_side_has_the_same_name_but_for_the_side(style: str, side: str, limb: str, n: int) -> None:
    name = style.format(s=side, w=limb, n=n)
    here = side_of(name)
    assert here == SIDES[side]
    twin = twin_name(name, other(here))
    assert side_of(twin) == other(here)
    assert sideless(twin) == sideless(name) and str(n) in sideless(name)
    # There and back it speaks of the same side in the same language.
    assert side_of(twin_name(twin, here)) == here
    assert not by_depth(name)


@given(st.text(max_size=60), st.sampled_from(["left", "right", "centre"]))
def test_any_name_can_be_read(name: str, side: str) -> None:
    found = words(name)
    assert all(w == w.lower() and w for w in found)
    assert side_of(name) in ("left", "right", "centre")
    assert len(twin_name(name or "x", side)) <= LONGEST_NAME  # type: ignore[arg-type]
    assert len(sideless(name)) <= len(found) + 1
    role_by_name(name)


def test_words_are_read_alike_however_they_are_written() -> None:
    for name in ("UpperArmL2", "upper_arm.l 2", "Upper Arm (L) 02", "upper-arm-l-2"):
        assert words(name) == ["upper", "arm", "l", "2"]
    assert words("Flügel") == ["flugel"] and words("Fuß") == ["fus"] and words("tête") == ["tete"]
    assert words("каска 3") == ["каска", "3"]


def test_no_word_stands_for_two_roles_or_for_a_limb_and_a_thing() -> None:
    listed = [w for words_ in lexicon._BY_ROLE.values() for w in words_.split()]
    assert len(listed) == len(set(listed)) == len(lexicon.ROLES)
    assert not set(listed) & lexicon.WHOLE_LIMBS.keys()
    assert not (set(listed) | lexicon.WHOLE_LIMBS.keys()) & lexicon.WORN
    assert set(listed) | lexicon.WHOLE_LIMBS.keys() >= lexicon.AMBIGUOUS
    assert SIDES.keys() >= lexicon.NATIVE
    # All as they are read: small letters without accents.
    assert all(words(w) == [w] for w in (*listed, *lexicon.WORN, *SIDES))


@pytest.mark.parametrize(
    ("name", "plain"),
    [
        ("arm copy", "arm"), ("arm copy 3", "arm"), ("leg 12", "leg"), ("arm", "arm"), ("7", "7"), ("copy", "copy"),
        ("Kopie 2", "Kopie"), ("limb_2_", "limb"), ("big arm kopie", "big arm"),
    ],
)  # fmt: skip
def test_what_a_duplicate_got_behind_its_name_is_left_out(name: str, plain: str) -> None:
    assert plain_name(name) == plain


@given(st.text(min_size=1, max_size=300), st.text(max_size=20))
def test_a_fitted_name_is_short_enough_and_keeps_its_ending(name: str, ending: str) -> None:
    found = fitted(name, ending)
    assert len(found) <= LONGEST_NAME and found.endswith(ending)
