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


def test_a_version_of_a_drawing_is_touched_up_and_its_original_stays(shared: Service) -> None:
    client = shared.client()
    production = client.post("/productions", json={"name": "Quay"}).json()["id"]
    change(client, production, {"do": "set-production", "width": 100, "height": 100})
    change(client, production, {"do": "add-puppet", "id": "a", "name": "Buoy"})
    assert bring(client, production, "a", BUOY, "buoy.svg").status_code == 200
    buoy = {p["name"]: p["id"] for p in documents(client, production)["a"]["pieces"].values()}["buoy"]
    change(client, production, {"do": "add-motion", "id": "m", "puppet": "a", "name": "bob", "length": 1})
    before = still(client, production)
    first = documents(client, production)["a"]["pieces"][buoy]["drawings"][0]
    of = {"puppet": "a", "piece": buoy}
    copy = {"do": "copy-drawing", **of, "drawing": first["id"], "id": "v2"}
    assert change(client, production, copy).is_success
    assert np.array_equal(before, still(client, production)), "a copy looks the same"

    def touched(**touch: Any) -> httpx.Response:
        base = client.get(f"/productions/{production}").json()["seq"]
        asked = {**of, "drawing": "v2", "touch": touch, "change": uuid.uuid4().hex, "window": "w", "base": base}
        return client.post(f"/productions/{production}/touch-up", json=asked)

    def parts() -> list[dict[str, Any]]:
        answer = client.get(f"/productions/{production}/puppets/a/pieces/{buoy}/drawings/v2/parts")
        assert answer.is_success, answer.text
        found: list[dict[str, Any]] = answer.json()
        return found

    assert [(p["part"], p["fill"]) for p in parts()] == [(0, "#cc2222ff"), (1, "#ffffffff"), (2, "#222222ff")]
    # The round part is wiped through upright, past the edges; what lies beside the line stays.
    assert touched(edit="wipe", points=[[50, 0], [50, 100]], width=10).is_success
    wiped = still(client, production)
    clear = np.array([*wiped[1, 1]])
    assert (wiped[30:78, 47:53] == clear).all()
    assert np.array_equal(wiped[:, :43], before[:, :43]) and np.array_equal(wiped[:, 57:], before[:, 57:])
    # The band goes to the very back and is painted; the round is left out. A part is shifted as the hand goes.
    assert touched(edit="order", part=1, to=0).is_success
    assert touched(edit="part", part=1, fill="#2288ffff").is_success
    assert touched(edit="part", part=0, out=True).is_success
    assert touched(edit="shift", part=1, by=[0, 20]).is_success
    assert [(p["part"], p["change"]["out"], p["fill"]) for p in parts()] == [
        (1, False, "#2288ffff"), (0, True, "#cc2222ff"), (2, False, "#222222ff"),
    ]  # fmt: skip
    band = still(client, production)
    assert (band[50, 25] == clear).all() and band[70, 25, 2] > band[70, 25, 0] + 60
    assert touched(edit="draw", points=[[20, 90], [80, 90]], width=4, colour="#103010ff").is_success
    assert still(client, production)[90, 50].tolist()[:3] == [0x10, 0x30, 0x10]

    # What was outlines is outlines still.
    made = documents(client, production)["a"]["pieces"][buoy]["drawings"][1]["art"]
    assert '"kind":"picture"' not in client.get(f"/assets/{made}").text

    everything = touched(edit="wipe", points=[[0, 50], [100, 50]], width=300)
    assert everything.status_code == 422 and "would be left" in everything.json()["detail"]
    gone = touched(edit="lift", line=7)
    assert gone.status_code in (404, 409, 422) and "gone" in gone.json()["detail"]

    # Of very many parts none is told by itself; lines go on it all the same.
    many = svg('<g id="net">' + "".join(f'<path d="M{n % 100} 0V90" stroke="#222"/>' for n in range(501)) + "</g>")
    change(client, production, {"do": "add-puppet", "id": "b", "name": "Net"})
    bring(client, production, "b", many, "net.svg")
    (net,) = documents(client, production)["b"]["pieces"].values()
    where = f"puppets/b/pieces/{net['id']}/drawings/{net['drawings'][0]['id']}/parts"
    refused = client.get(f"/productions/{production}/{where}")
    assert refused.status_code == 422 and "501 parts, more than" in refused.json()["detail"]

    # A new version of the file is touched up again; the original is the new one as it came.
    told = renewed(client, production, BUOY.replace(b"#fff", b"#fc2"))
    assert told["changed"] == ["buoy"]
    assert (still(client, production)[70, 25] == band[70, 25]).all(), "painted as before, where it was shifted to"
    held = documents(client, production)["a"]["pieces"][buoy]["drawings"]
    assert [d["name"] for d in held] == ["buoy", "buoy 2"] and held[0]["retouch"] is None
    assert held[1]["retouch"]["of"] == held[0]["art"]
    # The archive takes the original along, so that it can be put back there too.
    archive = client.get(f"/productions/{production}/archive").content
    with zipfile.ZipFile(io.BytesIO(archive)) as file:
        assert any(held[0]["art"] in name for name in file.namelist())
    assert touched(edit="restore").is_success
    whole = documents(client, production)["a"]["pieces"][buoy]["drawings"][1]
    assert whole["art"] == held[0]["art"] and whole["retouch"] is None
    assert {p["change"]["out"] for p in parts()} == {False}
