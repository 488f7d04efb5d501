"""Paths on the stage: where their keys and handles lie, and pulling them."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorvan.core.errors import Refusal
from sorvan.core.model.documents import Documents
from sorvan.core.motion.ways import way_keys
from sorvan.core.plan.evaluate import Evaluation
from tests.core.walkers import key, keyed, walker
from tests.core.worlds import do


def moving(lean: float = 0.0, flip: float = 1.0, joint: str = "head") -> Documents:
    """A joint on a smooth path, carried by a chest that leans and a puppet that may be turned round."""
    documents = do(walker(), {"do": "set-motion", "motion": "m", "length": 40, "cycle": False})
    documents = keyed(
        documents, key("chest", "turn", 0, lean), key("chest", "turn", 39, -lean), key("puppet", "scale", 0, flip, 1)
    )
    documents = keyed(
        documents, *(key(joint, "move", f, x, y) for f, x, y in ((0, 0, 0), (15, 60, -40), (35, 120, 30)))
    )
    keys = [{"channel": f"{joint}.move", "frame": f} for f in (0, 15, 35)]
    return do(documents, {"do": "shape-path", "motion": "m", "keys": keys, "tangents": {}})


def seen(documents: Documents, joint: str = "head") -> tuple[Evaluation, dict[int, Any]]:
    e = Evaluation.full(documents.puppet("a"), documents.motion("m"))
    return e, {k.frame: k for k in way_keys(e, joint)}


def pull(documents: Documents, frame: int, to: tuple[float, float], joint: str = "head", **more: Any) -> Documents:
    return do(documents, {"do": "pull-way", "motion": "m", "joint": joint, "frame": frame, "to": list(to), **more})


@given(
    st.floats(-40, 40),
    st.sampled_from([1.0, -1.0, 0.7]),
    st.sampled_from(["head", "puppet"]),
    st.floats(200, 900),
    st.floats(100, 600),
)
def test_a_key_lies_where_its_joint_is_and_goes_where_it_is_pulled(
    lean: float, flip: float, joint: str, x: float, y: float
) -> None:
    documents = moving(lean, flip, joint)
    e, keys = seen(documents, joint)
    for frame, k in keys.items():
        m = e.worlds[e.rig.row[joint] if joint != "puppet" else 0, :, frame]
        ox, oy = e.puppet.origin if joint == "puppet" else (0.0, 0.0)
        at = (m[0] * ox + m[2] * oy + m[4], m[1] * ox + m[3] * oy + m[5])
        assert np.allclose(k.at, at, atol=1e-6)
    _, after = seen(pull(documents, 15, (x, y), joint), joint)
    assert np.allclose(after[15].at, (x, y), atol=1e-3)


@given(
    st.floats(-40, 40),
    st.sampled_from([1.0, -1.0]),
    st.sampled_from(["before", "after"]),
    st.floats(-90, 90),
    st.floats(20, 90),
)
def test_a_pulled_handle_goes_to_the_hand_and_the_other_stays_in_line_and_as_long(
    lean: float, flip: float, end: str, dx: float, dy: float
) -> None:
    documents = moving(lean, flip)
    _, keys = seen(documents)
    at = keys[15].at
    to = (at[0] + dx, at[1] + dy)
    _, after = seen(pull(documents, 15, to, end=end))
    held, other = (getattr(after[15], e) for e in (end, "after" if end == "before" else "before"))
    assert np.allclose(held, to, atol=1e-3) and np.allclose(after[15].at, at, atol=1e-9)
    one, two = complex(*held) - complex(*at), complex(*other) - complex(*at)
    assert abs((two / one).imag) < 1e-3 and (two / one).real < 0
    before = complex(*getattr(keys[15], "after" if end == "before" else "before")) - complex(*at)
    assert abs(two) == pytest.approx(abs(before), abs=1e-3)
    _, alone = seen(pull(documents, 15, to, end=end, alone=True))
    kept = getattr(alone[15], "after" if end == "before" else "before")
    assert np.allclose(kept, getattr(keys[15], "after" if end == "before" else "before"), atol=1e-3)


def test_a_key_that_is_gone_is_not_pulled() -> None:
    with pytest.raises(Refusal, match="gone"):
        pull(moving(), 9, (1, 1))
