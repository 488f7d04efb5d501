"""Poses, charts and recipes over HTTP: what is stored, what is answered, what is refused and how it is undone."""

from __future__ import annotations

from typing import Any

import httpx
import pytest

from tests.conftest import change
from tests.service.test_http import client as client
from tests.service.test_http import documents, gull, wing

__all__ = ["gull"]

Here = tuple[httpx.Client, str]


@pytest.fixture
def flap(gull: Here) -> tuple[httpx.Client, str, str]:
    """The gull with three keys on its wing; and the wing's id."""
    client, production = gull
    id = wing(client, production)
    keys = [{"joint": id, "kind": "turn", "frame": f, "value": [v]} for f, v in ((0, 0), (4, 40), (8, -10))]
    assert change(client, production, {"do": "set-keys", "motion": "m", "keys": keys}).status_code == 200
    return client, production, id


def sent(here: tuple[httpx.Client, str, str], do: str, **fields: Any) -> httpx.Response:
    return change(here[0], here[1], {"do": do, "motion": "m", **fields})


def frames(here: tuple[httpx.Client, str, str]) -> list[int]:
    client, production, id = here
    return sorted(map(int, documents(client, production)["m"]["channels"][f"{id}.turn"]["keys"]))


@pytest.mark.parametrize(
    ("do", "fields", "landed"),
    [
        ("move-keys", {"by": 2}, [2, 6]),
        ("scale-keys", {"about": 0, "factor": 1.5}, [0, 6]),
        ("reverse-keys", {}, [4, 0]),
        ("wrap-keys", {"by": -1, "start": 0, "end": 7}, [7, 3]),
    ],
)
def test_keys_that_are_put_elsewhere_are_named_in_the_answer(
    flap: tuple[httpx.Client, str, str], do: str, fields: dict[str, Any], landed: list[int]
) -> None:
    keys = [{"channel": f"{flap[2]}.turn", "frame": f} for f in (0, 4)]
    answer = sent(flap, do, keys=keys, **fields).json()
    assert [k["frame"] for k in answer["keys"]] == landed
    assert set(landed) <= set(frames(flap))


def test_poses_and_recipes_are_stored_undone_and_done_again(flap: tuple[httpx.Client, str, str]) -> None:
    client, production, id = flap
    before = documents(client, production)["m"]
    assert sent(flap, "set-pose", frame=4, text="up").status_code == 200
    recipe = {"kind": "settle", "id": "s", "name": "settle", "channels": [f"{id}.turn"], "frame": 4, "frames": 3}
    answer = sent(flap, "do-recipe", recipe=recipe)
    assert answer.status_code == 200, answer.text
    after = documents(client, production)["m"]
    assert after["poses"]["4"]["label"] == "up" and after["recipes"]["s"]["kind"] == "settle"
    written = [k for k in after["channels"][f"{id}.turn"]["keys"].values() if k["recipe"] == "s"]
    assert written and after["recipes"]["s"]["said"]
    for way, wanted in (("undo", None), ("undo", before), ("redo", None), ("redo", after)):
        now = client.get(f"/productions/{production}").json()
        body = {"id": f"turn-{way}-{now['seq']:06}", "window": "test", "target": now[way]["seq"]}
        assert client.post(f"/productions/{production}/{way}", json=body).status_code == 200
        if wanted is not None:
            assert documents(client, production)["m"] == wanted


@pytest.mark.parametrize(
    ("do", "fields", "said"),
    [
        ("retime-pose", {"frame": 3, "frames": 2}, "There is no pose at frame 4 any more."),
        ("do-recipe", {"recipe": {"kind": "gait", "id": "g", "name": "Walk"}}, "has no legs to walk with"),
        ("do-recipe", {"recipe": {"kind": "blink", "id": "b", "name": "Blinks", "dial": "lid"}}, "dial"),
        ("remove-recipe", {"recipe": "none"}, "That recipe is gone."),
        ("ease-gaps", {"keys": [{"channel": "x.turn", "frame": 0}], "ease": {"kind": "even"}}, "no key at frame 1"),
        ("set-delay", {"channels": ["x.turn"], "delay": 2}, "has no keys any more"),
    ],
)
def test_what_cannot_be_done_is_said_with_what_to_do(
    flap: tuple[httpx.Client, str, str], do: str, fields: dict[str, Any], said: str
) -> None:
    before = documents(flap[0], flap[1])["m"]
    answer = sent(flap, do, **fields)
    assert answer.status_code in (404, 409, 422)
    assert said in answer.text
    assert documents(flap[0], flap[1])["m"] == before
