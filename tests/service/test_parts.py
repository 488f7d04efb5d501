"""Drawings taken apart while they come in, and pieces split and joined afterwards."""

from __future__ import annotations

import io
import json
import re
import uuid
import zipfile
from typing import Any

import httpx
import numpy as np

from sorvan.interchange.pictures import decode
from tests.conftest import Service, change
from tests.interchange.art import svg
from tests.service.test_http import bring, documents, fetched

BUOY = svg(
    '<g id="buoy"><g opacity=".6"><circle cx="50" cy="50" r="30" fill="#c22"/><rect x="20" y="45" width="60" height="10" fill="#fff"/>'
    '<path d="M45 20H55V5H45Z" fill="#222"/></g></g><g id="lamp"><circle cx="50" cy="8" r="6" fill="#fd6"/></g>'
)


def sent(client: httpx.Client, production: str, way: str, *pieces: str) -> httpx.Response:
    base = client.get(f"/productions/{production}").json()["seq"]
    asked = {"change": uuid.uuid4().hex, "window": "w", "base": base, "puppet": "a", "pieces": pieces}
    return client.post(f"/productions/{production}/{way}", json=asked)


def still(client: httpx.Client, production: str) -> np.ndarray:
    """The puppet as it is rendered."""
    with zipfile.ZipFile(io.BytesIO(fetched(client, production, {"motion": "m", "format": "png"}))) as file:
        return decode(file.read(sorted(file.namelist())[0]), "frame").astype(int)


def test_a_piece_is_split_and_joined_again_and_looks_the_same(shared: Service) -> None:
    client = shared.client()
    production = client.post("/productions", json={"name": "Quay"}).json()["id"]
    change(client, production, {"do": "set-production", "width": 100, "height": 100})
    change(client, production, {"do": "add-puppet", "id": "a", "name": "Buoy"})
    assert bring(client, production, "a", BUOY).status_code == 200
    ids = {p["name"]: p["id"] for p in documents(client, production)["a"]["pieces"].values()}
    change(client, production, {"do": "add-motion", "id": "m", "puppet": "a", "name": "bob", "length": 1})
    key = {"joint": ids["buoy"], "kind": "turn", "frame": 0, "value": [25]}
    assert change(client, production, {"do": "set-keys", "motion": "m", "keys": [key]}).status_code == 200
    assert change(
        client, production, {"do": "link-joint", "puppet": "a", "joint": ids["lamp"], "parent": ids["buoy"]}
    ).is_success
    before = still(client, production)

    lamp = sent(client, production, "split", ids["lamp"])
    assert lamp.status_code == 422 and "one part only" in lamp.json()["detail"]
    assert sent(client, production, "split", ids["buoy"]).status_code == 200
    puppet = documents(client, production)["a"]
    assert [puppet["pieces"][id]["name"] for id in puppet["order"]] == ["buoy", "buoy 2", "buoy 3", "lamp"]
    new = [id for id in puppet["order"] if id not in ids.values()]
    assert all(puppet["joints"][id]["parent"] == ids["buoy"] for id in new)
    # Parts of what is faded as one are faded each: only where they lie over one another is it seen.
    after = still(client, production)
    assert (np.abs(before - after).max(axis=2) > 60).mean() < 0.001
    assert (np.abs(before - after).max(axis=2) > 3).mean() < 0.12

    split = after
    joined = sent(client, production, "join", ids["buoy"], *new)
    assert joined.status_code == 200
    puppet = documents(client, production)["a"]
    assert set(puppet["pieces"]) == set(ids.values())
    assert np.abs(split - still(client, production)).max() <= 3
    art = client.get(f"/assets/{puppet['pieces'][ids['buoy']]['drawings'][0]['art']}").json()
    assert len(art["nodes"]) == 3


def test_the_parts_of_a_drawing_are_told_and_those_that_are_chosen_come_in(shared: Service) -> None:
    client = shared.client()
    production = client.post("/productions", json={"name": "Quay"}).json()["id"]
    change(client, production, {"do": "add-puppet", "id": "a", "name": "Buoy"})
    files = {"file": ("buoy.svg", BUOY, "image/svg+xml")}
    told = client.post(
        f"/productions/{production}/art/parts", files=files, data={"change": uuid.uuid4().hex, "window": "w"}
    )
    assert told.status_code == 200
    parts = told.json()
    assert [part["name"] for part in parts["tree"]] == ["buoy", "lamp"] and parts["named"]
    assert parts["tree"][0]["picture"].startswith("data:image/png;base64,")
    assert documents(client, production)["a"]["pieces"] == {}
    chosen = [{"name": "mast", "parts": ["0/0/2"]}, {"name": "rest", "parts": ["0/0/0", "1"]}]
    brought = bring(client, production, "a", BUOY, "buoy.svg", chosen=json.dumps(chosen))
    assert brought.status_code == 200, brought.text
    assert sorted(p["name"] for p in documents(client, production)["a"]["pieces"].values()) == ["mast", "rest"]
    assert "to fit the stage" in brought.json()["sized"]
    picture = {"file": ("a.png", b"\x89PNG\r\n\x1a\n", "image/png")}
    refused = client.post(
        f"/productions/{production}/art/parts", files=picture, data={"change": uuid.uuid4().hex, "window": "w"}
    )
    assert refused.status_code == 415 and "Only of a drawing" in refused.json()["detail"]


def renewed(client: httpx.Client, production: str, data: bytes) -> dict[str, Any]:
    answer = bring(client, production, "a", data, "buoy.svg", purpose="new-version")
    assert answer.status_code == 200, answer.text
    found: dict[str, Any] = answer.json()
    return found


def colours(client: httpx.Client, production: str) -> dict[str, set[str]]:
    """The fills of every piece, by its name."""
    return {
        p["name"]: set(re.findall('"colour":"(#[0-9a-f]{8})"', client.get(f"/assets/{p['drawings'][0]['art']}").text))
        for p in documents(client, production)["a"]["pieces"].values()
    }


def test_a_new_version_is_chosen_from_split_and_copied_as_the_one_before(shared: Service) -> None:
    client = shared.client()
    production = client.post("/productions", json={"name": "Quay"}).json()["id"]
    change(client, production, {"do": "add-puppet", "id": "a", "name": "Buoy"})
    chosen = [{"name": "mast", "parts": ["0/0/2"]}, {"name": "float", "parts": ["0/0/0", "0/0/1"]}]
    assert bring(client, production, "a", BUOY, "buoy.svg", chosen=json.dumps(chosen)).status_code == 200
    ids = {p["name"]: p["id"] for p in documents(client, production)["a"]["pieces"].values()}
    twin = {"do": "mirror-pieces", "puppet": "a", "ids": {ids["mast"]: "twin"}}
    assert change(client, production, twin).status_code == 200
    assert sent(client, production, "split", ids["float"]).status_code == 200
    told = renewed(client, production, BUOY.replace(b"#222", b"#284").replace(b"#fff", b"#28f"))
    assert (sorted(told["changed"]), told["added"], told["vanished"]) == (["float", "mast"], [], [])
    found = colours(client, production)
    assert found["float"] == {"#cc2222ff"} and found["float 2"] == {"#2288ffff"}, "each part as it was split"
    assert [c for name, c in found.items() if "mast" in name] == [{"#228844ff"}] * 2, "both of the twins"

    # With one part less what was split stays, and the page is told why; what is gone altogether has vanished.
    less = svg('<g id="buoy"><g opacity=".6"><circle cx="50" cy="50" r="20" fill="#c22"/></g></g>')
    told = renewed(client, production, less)
    assert told["vanished"] == ["mast"] and told["added"] == []
    assert any("“float” was split or joined here" in note for note in told["notes"])
    assert colours(client, production) == found


def test_what_was_joined_stays_in_a_new_version_and_does_not_come_in_twice(shared: Service) -> None:
    client = shared.client()
    production = client.post("/productions", json={"name": "Quay"}).json()["id"]
    change(client, production, {"do": "add-puppet", "id": "a", "name": "Buoy"})
    assert bring(client, production, "a", BUOY, "buoy.svg").status_code == 200
    ids = {p["name"]: p["id"] for p in documents(client, production)["a"]["pieces"].values()}
    assert sent(client, production, "join", ids["buoy"], ids["lamp"]).status_code == 200
    before = documents(client, production)["a"]
    told = renewed(client, production, BUOY.replace(b"#fd6", b"#6df"))
    assert (told["changed"], told["added"], told["vanished"]) == ([], [], [])
    assert any("“buoy” was split or joined here" in note for note in told["notes"])
    assert documents(client, production)["a"] == before
