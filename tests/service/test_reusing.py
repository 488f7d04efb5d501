"""The shelf of rigs, and puppets, rigs and motions used again, over HTTP."""

from __future__ import annotations

import io
from base64 import b64decode
from typing import Any

import av
import httpx
import numpy as np
import pytest
from sqlalchemy import text

from sorvan.interchange.pictures import decode
from sorvan.store.database import connect
from sorvan.store.sweep import sweep_assets
from tests.conftest import Service, change
from tests.interchange.art import svg
from tests.loose_figures import ENGLISH, GERMAN, biped, told
from tests.service.test_http import bring, documents, fetched
from tests.service.test_rigging import do

German = told(GERMAN, {"left": "links", "right": "rechts"}, "{part} {side}")


def with_art(client: httpx.Client, name: str, art: bytes) -> str:
    """A production with a puppet `a` of loose pieces."""
    production = client.post("/productions", json={"name": name}).json()["id"]
    do(client, production, {"do": "set-production", "width": 600, "height": 700})
    do(client, production, {"do": "add-puppet", "id": "a", "name": name})
    assert bring(client, production, "a", art, "figure.svg").status_code == 200
    return str(production)


def frames_of(film: bytes) -> list[Any]:
    with av.open(io.BytesIO(film)) as opened:
        return [f.to_ndarray(format="rgb24") for f in opened.decode(video=0)]


def using(client: httpx.Client, production: str, **asked: Any) -> httpx.Response:
    whole = client.get(f"/productions/{production}").json()
    sent = {"change": f"use-it-{whole['seq']}", "window": "test", "base": whole["seq"], **asked}
    return client.post(f"/productions/{production}/reuse", json=sent)


@pytest.fixture
def porter(shared: Service) -> tuple[httpx.Client, str]:
    """A production with a figure rigged as proposed, that waves."""
    client = shared.client()
    production = with_art(client, "Porter", biped(told({}, ENGLISH)).svg())
    hangs = client.get(f"/productions/{production}/puppets/a/proposed-rig").json()["hangs"]
    do(client, production, {"do": "take-rig", "puppet": "a", "hung": [h["hung"] for h in hangs]})
    do(client, production, {"do": "add-motion", "id": "m", "puppet": "a", "name": "Wave", "length": 12, "cycle": True})
    arm = named(client, production)["left upper arm"]
    keys = [{"joint": arm, "kind": "turn", "frame": f, "value": [v]} for f, v in ((0, 0), (6, -100))]
    do(client, production, {"do": "set-keys", "motion": "m", "keys": keys})
    return client, production


def named(client: httpx.Client, production: str, puppet: str = "a") -> dict[str, str]:
    return {j["name"]: id for id, j in documents(client, production)[puppet]["joints"].items()}


def test_a_rig_is_saved_and_put_on_other_art_and_its_motion_is_seen_there_before(porter: Any, shared: Service) -> None:
    client, production = porter
    saved = client.post(f"/productions/{production}/rigs", json={"puppet": "a", "name": "Two legs"}).json()
    again = client.post(f"/productions/{production}/rigs", json={"puppet": "a", "name": "Two legs"}).json()
    assert (saved["rig"]["name"], again["rig"]["name"]) == ("Two legs", "Two legs 2")
    assert [(m["name"], m["frames"]) for m in saved["rig"]["motions"]] == [("Wave", 12)]
    picture = client.get(saved["rig"]["picture"].removeprefix("/api"))
    assert decode(picture.content, "rig").shape[0] == 192
    # The production it came from goes; what is on the shelf stays.
    assert client.delete(f"/productions/{production}").status_code == 204
    engine = connect(shared.database)
    with engine.begin() as db:
        db.execute(text("UPDATE assets SET at = at - interval '2 days'"))
    sweep_assets(engine)
    engine.dispose()

    other = with_art(client, "Träger", biped(German).svg())
    source = {"rig": saved["id"]}
    asked = {"purpose": "rig", "source": source, "puppet": "a", "motions": ["m"]}
    seen = client.post(f"/productions/{other}/fitting", json=asked).json()
    joints = named(client, other)
    pairs = {p["name"]: p for p in seen["pairs"]}
    assert pairs["left lower arm"]["other"] == joints["Unterarm links"]
    assert pairs["left lower arm"]["why"] == "by what it is for" and pairs["left lower arm"]["sure"] > 0.7
    assert (seen["over"], seen["said"], [m["name"] for m in seen["motions"]]) == ([], [], ["Wave"])
    strip = decode(b64decode(seen["picture"].partition(",")[2]), "strip")
    frames = np.split(strip, 6, axis=1)
    assert strip[:, :, 3].any() and not np.array_equal(frames[0], frames[3]), "the arm goes up"
    assert (
        client.get(f"/productions/{other}").json()["documents"][1]["joints"] == documents(client, other)["a"]["joints"]
    )

    # One joint told otherwise, and one to have none.
    swapped = {pairs["left hand"]["joint"]: joints["Hand rechts"], pairs["right hand"]["joint"]: None}
    seen = client.post(f"/productions/{other}/fitting", json={**asked, "told": swapped}).json()
    pairs = {p["name"]: p for p in seen["pairs"]}
    assert (pairs["left hand"]["other"], pairs["right hand"]["other"]) == (joints["Hand rechts"], None)
    assert (seen["over"], seen["hung"]) == ([], ["Hand links"])

    before = documents(client, other)
    done = using(client, other, **asked)
    assert done.status_code == 200, done.text
    found = documents(client, other)
    puppet, motion = found["a"], found[done.json()["motion"]]
    assert puppet["joints"][joints["Unterarm links"]]["parent"] == joints["Oberarm links"]
    assert list(motion["channels"]) == [f"{joints['Oberarm links']}.turn"]
    assert len(frames_of(fetched(client, other, {"motion": motion["id"], "format": "mp4", "width": 120}))) == 12
    ack = done.json()["ack"]
    turn = {"id": "take-it-back", "window": "test", "target": ack["seq"]}
    assert client.post(f"/productions/{other}/undo", json=turn).status_code == 200
    assert documents(client, other) == before

    for rig in (saved, again):
        assert client.delete(f"/rigs/{rig['id']}").status_code == 204
    gone = using(client, other, **asked)
    assert gone.status_code == 404 and "rig on the shelf" in gone.json()["detail"]


def test_a_puppet_goes_to_another_production_with_its_motions_and_art(porter: Any) -> None:
    client, production = porter
    other = client.post("/productions", json={"name": "Pier"}).json()["id"]
    do(client, other, {"do": "set-production", "rate": {"numerator": 12}, "width": 600, "height": 700})
    (listed,) = client.get(f"/productions/{production}/puppets").json()
    assert (listed["pieces"], listed["joints"], listed["mouths"]) == (15 + 1, 15 + 1, False)
    source = {"production": production, "puppet": "a"}
    done = using(client, other, purpose="bring", source=source, motions=["m"]).json()
    found, own = documents(client, other), documents(client, production)
    assert found[done["puppet"]] == {**own["a"], "id": done["puppet"]}
    motion = found[done["motion"]]
    assert (motion["length"], sorted(map(int, next(iter(motion["channels"].values()))["keys"]))) == (6, [0, 3])
    shown = frames_of(fetched(client, other, {"motion": done["motion"], "format": "mp4", "width": 60}))
    assert len(shown) == 6 and shown[0].std() > 10, "its art is there"
    # On a smaller stage it fills as much of it, and does the same there.
    small = client.post("/productions", json={"name": "Slip"}).json()["id"]
    do(client, small, {"do": "set-production", "width": 300, "height": 350})
    there = using(client, small, purpose="bring", source=source, motions=["m"]).json()
    assert there["said"] == "It was made for a stage of 600 × 700 units, and came at 50% of the size."
    assert done["said"] == ""
    films = [
        frames_of(fetched(client, held, {"motion": id, "format": "mp4", "width": 240}))
        for held, id in ((production, "m"), (small, there["motion"]))
    ]
    for one, two in zip(*films, strict=True):
        assert np.abs(one.astype(int) - two).mean() < 1.0 and one.std() > 10


def test_motions_are_done_by_another_puppet_of_the_production(porter: Any) -> None:
    client, production = porter
    do(client, production, {"do": "add-puppet", "id": "b", "name": "Träger"})
    assert bring(client, production, "b", biped(German).svg(), "other.svg").status_code == 200
    asked = {"purpose": "motions", "source": {"puppet": "a"}, "puppet": "b", "motions": ["m"]}
    seen = client.post(f"/productions/{production}/fitting", json=asked).json()
    assert [m["said"] for m in seen["motions"]] == [[]]
    done = using(client, production, **asked).json()
    assert done["ack"]["label"] == "Let “Träger” do “Wave” of “Porter”"
    made = documents(client, production)[done["motion"]]
    assert made["puppet"] == "b"
    assert list(made["channels"]) == [f"{named(client, production, 'b')['Oberarm links']}.turn"]


def test_what_can_t_be_used_is_refused_in_words(porter: Any) -> None:
    client, production = porter
    do(client, production, {"do": "add-puppet", "id": "b", "name": "Post"})
    assert bring(client, production, "b", svg('<g id="post"><rect width="9" height="9"/></g>')).status_code == 200
    asked = {"purpose": "rig", "source": {"puppet": "a"}, "puppet": "b"}
    answer = client.post(f"/productions/{production}/fitting", json=asked)
    assert answer.status_code == 422 and "Nothing of “Post” answers" in answer.json()["detail"]
    # Told what is not there, nothing answers: no rig, and a motion without limbs.
    nothing = {
        "puppet": "a",
        "motions": ["m"],
        "told": {"z": "y", **dict.fromkeys(named(client, production).values(), "y")},
    }
    answer = client.post(f"/productions/{production}/fitting", json={**asked, **nothing})
    assert answer.status_code == 422 and "Nothing of “Porter” answers" in answer.json()["detail"]
    answer = client.post(f"/productions/{production}/fitting", json={**asked, **nothing, "purpose": "motions"})
    assert answer.json()["motions"][0]["said"] == ["Nothing here answers to “left upper arm” (2 keys)."]
    for source, what in (
        ({"puppet": "z"}, "puppet"),
        ({}, "which puppet"),
        ({"production": "z", "puppet": "a"}, "production"),
    ):
        answer = using(client, production, purpose="bring", source=source)
        assert answer.status_code in (404, 422) and what in answer.text
    assert change(client, production, {"do": "set-puppet", "puppet": "b", "name": "Bollard"}).status_code == 200
