"""A production that was spoiled opens with what of it is sound, and says what it left out."""

from __future__ import annotations

import random
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorvan.core.model import stored
from sorvan.core.model.documents import Documents
from sorvan.core.model.puppet import BendSheet
from tests.core.test_documents import bodies_of, handles, quay, readable, row_of_joints
from tests.core.worlds import do


def opened(bodies: dict[str, Any]) -> stored.Opened:
    """The production, whatever is wrong with it; it holds together, and can be worked on and stored."""
    found = stored.opened(bodies, "p", "Quay")
    found.documents.hold_together(Documents({}))
    renamed = do(found.documents, {"do": "set-production", "name": "Old quay"})
    assert readable(renamed).by_id == renamed.by_id
    return found


def test_what_is_sound_is_read_as_it_is_and_nothing_is_told() -> None:
    whole = row_of_joints(5)
    assert opened(bodies_of(whole)) == stored.Opened(whole, ())


def test_what_an_older_version_let_through_is_mended_when_it_is_read() -> None:
    whole = quay()
    bodies = {id: d.model_dump(mode="json") for id, d in whole.by_id.items()}
    puppet = bodies["a"]
    puppet["joints"] |= {h["id"]: {"id": h["id"], "name": h["name"], "handle": True} for h in handles(65)}
    puppet["joints"]["h0"] |= {"world": True, "parent": "wing"}
    puppet["pieces"]["wing"] |= {
        "attach": {"kind": "sheet", "handles": [f"h{i}" for i in range(65)]},
        "group": "nowhere",
        "name": "x" * 130,
        "masks": [{"piece": "gone"}],
        "swatches": {"fill:#112233ff": "gone"},
    }
    puppet["pieces"]["tip"]["drawings"][0]["pivot"] = [2e6, 0]
    puppet["dials"] = {
        "d": {"id": "d", "name": "d", "stops": [{"at": 0, "values": {"gone.turn": [1], "tip.turn": [2]}}]}
    }
    puppet["chains"] = {"c": {"id": "c", "name": "c", "joints": ["body", "wing"], "handle": "gone"}}
    keys = {"keys": {"0": {"value": [1]}}}
    bodies["m"]["channels"] = {
        "c.reach": {"joint": "c", "kind": "reach", **keys},
        "tip.show": {"joint": "tip", "kind": "show", "outside": "repeat-and-add", **keys},
    }
    bodies["p"]["backdrop"] = "gone"
    found = stored.read(bodies.values())
    gull = found.puppet("a")
    sheet = gull.pieces["wing"].attach
    assert isinstance(sheet, BendSheet) and len(sheet.handles) == 64
    assert gull.pieces["wing"].group is None and len(gull.pieces["wing"].name) == 120
    assert gull.pieces["wing"].masks == () and gull.pieces["wing"].swatches == {}
    assert gull.pieces["tip"].drawings[0].pivot == (1e6, 0)
    assert gull.joints["h0"].parent == "wing" and not gull.joints["h0"].world
    assert [set(s.values) for s in gull.dials["d"].stops] == [{"tip.turn"}] and gull.chains == {}
    assert set(found.motion("m").channels) == {"tip.show"}
    assert found.motion("m").channels["tip.show"].outside == "repeat"
    assert found.production.backdrop is None
    renamed = do(found, {"do": "set-puppet", "puppet": "a", "name": "Old gull"})
    assert readable(renamed).by_id == renamed.by_id


def spoiled() -> list[tuple[str, Any, str, str]]:
    """Where something is put that can't be, and what is told of it; `None` takes it away."""
    gull, flap = "The puppet “Gull”: ", "The motion “flap”: "
    circle = {"id": "body", "name": "body", "parent": "tip"}
    return [
        ("a/pieces/wing/name", 7, gull + "the piece “7”", "tip body"),
        ("a/pieces/wing", "torn", gull + "the piece “wing” was left out", "tip body"),
        ("a/joints/body", circle, gull, "wing tip body"),
        ("a/joints/wing", None, "", "wing tip body"),
        ("a/pieces/wing/drawings", [], gull + "the piece “piece wing” was left out", "tip body"),
        ("a/order", ["tip", "tip", "gone"], gull + "order", "wing tip body"),
        ("a/kind", "kite", "The kite “Gull” could not be read", ""),
        ("a", 12, "The document “?” could not be read", ""),
        ("a/id", "b", "The puppet “Gull” could not be read", ""),
        ("m/length", -3, flap + "length is now 1", "wing tip body"),
        ("m/channels", {"tip.turn": {"joint": "tip", "kind": "spin"}}, flap + "the channel “tip.turn” was", "wing"),
        ("m/poses", {"3": {"label": 9}}, flap + "the card “3” › label is now empty", "wing"),
        ("m/puppet", "gone", "The motion “flap” could not be read", "wing"),
        ("p/swatches", 4, "The production “Quay”: swatches", "wing"),
        ("p/name", "", "The production “Quay”: its name or id could not be read", "wing"),
        ("p", None, "", "wing"),
    ]


@pytest.mark.parametrize(("place", "value", "told", "left"), spoiled())
def test_what_is_unsound_is_left_out_and_told(place: str, value: Any, told: str, left: str) -> None:
    bodies = bodies_of(quay())
    *way, last = place.split("/")
    at: Any = bodies
    for step in way:
        at = at[step]
    if value is None:
        del at[last]
    else:
        at[last] = value
    found = opened(bodies)
    assert found.left_out or not told
    assert told in found.left_out[0] if told else True, found.left_out
    puppets = list(found.documents.puppets())
    assert {*left.split()} <= {*puppets[0].pieces} if left else not puppets


def test_masks_in_a_circle_are_taken_off_and_others_stay() -> None:
    bodies = bodies_of(quay())
    pieces = bodies["a"]["pieces"]
    pieces["wing"]["masks"], pieces["tip"]["masks"] = [{"piece": "tip"}], [{"piece": "wing"}]
    found = opened(bodies)
    assert "The puppet “Gull”: the piece “piece wing” › masks was cut from 1 to 0." in found.left_out
    assert [len(p.masks) for p in found.documents.puppet("a").pieces.values()].count(1) == 1


def damaged(dice: random.Random, at: Any) -> None:
    """Put something else, or nothing, at a random place in plain data."""
    while True:
        keys = list(at) if isinstance(at, dict) else list(range(len(at)))
        if not keys:
            return
        key = dice.choice(keys)
        if isinstance(at[key], dict | list) and at[key] and dice.random() < 0.8:
            at = at[key]
            continue
        if dice.random() < 0.3:
            del at[key]
        else:
            at[key] = dice.choice([None, "", "gone", "body", -1, 1e300, 7, [], {}, [[]], {"id": 3}, True, "x" * 300])
        return


@given(st.integers(0, 2**32))
def test_whatever_is_damaged_the_production_opens(seed: int) -> None:
    dice = random.Random(seed)
    bodies = bodies_of(do(row_of_joints(4), {"do": "set-keys", "motion": "m", "keys": KEYS}))
    for _ in range(dice.randint(1, 6)):
        damaged(dice, bodies)
    opened(bodies)


KEYS = [
    {"joint": "j1", "kind": "turn", "frame": 3, "value": [20]},
    {"joint": "c", "kind": "reach", "frame": 4, "value": [50]},
    {"joint": "wing", "kind": "show", "frame": 5, "value": [0]},
]
