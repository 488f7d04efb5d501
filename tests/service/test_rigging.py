"""Rigs over HTTP and socket: what the page is told of them, new versions of art, shapes, references."""

from __future__ import annotations

import zipfile
from io import BytesIO
from typing import Any

import httpx
import msgspec
import numpy as np
import pytest

from sorvan.interchange.pictures import decode
from tests.conftest import Service, change
from tests.interchange.art import openraster, patch, png, svg
from tests.service.test_http import bring, documents, fetched
from tests.service.test_live import Window, numbers

ARM = svg(
    '<g id="left arm"><rect x="20" y="40" width="60" height="12" fill="#ff0000"/></g>'
    '<g id="cover"><rect x="50" y="0" width="50" height="100" fill="#0000ff"/></g>'
)


@pytest.fixture
def arm(shared: Service) -> tuple[httpx.Client, str, dict[str, str]]:
    """An arm of one piece over a shoulder and an elbow, masked by a hidden cover, with a limb that reaches."""
    client = shared.client()
    production = client.post("/productions", json={"name": "Arm"}).json()["id"]
    do(client, production, {"do": "set-production", "width": 100, "height": 100})
    do(client, production, {"do": "add-puppet", "id": "a", "name": "Porter"})
    bring(client, production, "a", ARM, "arm.svg")
    ids = {p["name"]: p["id"] for p in documents(client, production)["a"]["pieces"].values()}
    joints = [
        {"id": n, "name": f"left {n}", "at": at, "parent": p}
        for n, at, p in (("shoulder", [22, 46], None), ("elbow", [50, 46], "shoulder"), ("wrist", [78, 46], "elbow"))
    ]
    do(client, production, {"do": "add-joints", "puppet": "a", "joints": joints})
    do(client, production, {"do": "bend-piece", "puppet": "a", "piece": ids["left arm"]})
    do(client, production, {"do": "add-motion", "id": "m", "puppet": "a", "name": "lift", "length": 12})
    return client, production, ids


def do(client: httpx.Client, production: str, command: dict[str, Any]) -> dict[str, Any]:
    done = change(client, production, command)
    assert done.status_code == 200, done.text
    found: dict[str, Any] = done.json()
    return found


def test_a_window_is_sent_where_bent_points_lie_and_a_film_shows_them_there(arm: Any, shared: Service) -> None:
    client, production, ids = arm
    key = {"joint": "elbow", "kind": "turn", "frame": 0, "value": [-90]}
    do(client, production, {"do": "set-keys", "motion": "m", "keys": [key]})
    do(client, production, {"do": "set-pieces", "puppet": "a", "pieces": [ids["cover"]], "hidden": True})
    window = Window(shared, production)
    window.send("watch", target={"kind": "motion", "motion": "m", "blocking": False})
    plan = window.until("plan")
    (bent,) = plan["points"]
    assert plan["items"][bent["item"]]["piece"] == ids["left arm"]
    points = np.frombuffer(bent["data"], "<f4").reshape(12, bent["count"], 2)
    # The forearm is twelve wide, and keeps that round the elbow.
    assert points[0].max(axis=0)[0] == pytest.approx(56.5, abs=1)
    assert points[0].min(axis=0)[1] == pytest.approx(16, abs=0.5)
    # What the page draws with is had like any art, and is no longer the four corners that came in.
    art = client.get(f"/assets/{plan['items'][bent['item']]['arts'][0]}").json()
    assert len(art["nodes"][0]["outline"]["points"]) == 2 * bent["count"] > 40
    film = fetched(client, production, {"motion": "m", "format": "png", "clear": True})
    with zipfile.ZipFile(BytesIO(film)) as file:
        pixels = decode(file.read("frame-0001.png"), "frame")
    assert pixels[30, 50].tolist() == [255, 0, 0, 255] and pixels[46, 30].tolist() == [255, 0, 0, 255]
    assert pixels[46, 70, 3] == 0

    # One more key: only its frames come, with their points; then a mask, which is drawn in the film.
    key = {"joint": "elbow", "kind": "turn", "frame": 6, "value": [0]}
    do(client, production, {"do": "set-keys", "motion": "m", "keys": [key]})
    part = window.until("part")
    assert (part["start"], part["stop"]) == (1, 12)
    new = np.frombuffer(part["points"][0]["data"], "<f4").reshape(11, bent["count"], 2)
    assert new[-1].max(axis=0)[0] == pytest.approx(80, abs=0.3)
    do(
        client,
        production,
        {"do": "set-masks", "puppet": "a", "pieces": [ids["left arm"]], "masks": {ids["cover"]: "inside"}},
    )
    with zipfile.ZipFile(BytesIO(fetched(client, production, {"motion": "m", "format": "png", "clear": True}))) as file:
        masked = decode(file.read("frame-0007.png"), "frame")
    assert (masked[:, :50, 3] == 0).all() and (masked[:, :, 3] == 255).sum() == pytest.approx(30 * 12, abs=14)


def test_a_hand_on_a_bending_piece_holds_the_joint_under_it(arm: Any, shared: Service) -> None:
    _, production, ids = arm
    window = Window(shared, production)
    window.send("watch", target={"kind": "rest", "puppet": "a"})
    window.until("plan")
    for at, joint in (([75, 42], "elbow"), ([30, 50], None)):
        window.send("grab", frame=0, joint="shoulder", piece=ids["left arm"], pull="turn", at=at, tried={})
        window.send("drag", n=1, at=[60, 20], whole_steps=False)
        answers = [window.until("grabbed", "pose") for _ in range(2 if joint else 1)]
        if joint:
            assert answers[0] == {"type": "grabbed", "joint": joint}
        assert list(answers[-1]["tried"]) == [f"{joint or 'shoulder'}.turn"]


def test_a_window_at_rest_is_told_of_findings_roles_twins_and_costs(arm: Any, shared: Service) -> None:
    client, production, ids = arm
    reach = {"id": "c", "name": "arm", "anchor": "shoulder", "end": "wrist", "handle": "h"}
    do(client, production, {"do": "add-reach", "puppet": "a", **reach})
    window = Window(shared, production)
    window.send("watch", target={"kind": "rest", "puppet": "a"})
    plan = window.until("plan")
    turned, reached, blend = plan["reached"]["c"]
    assert np.frombuffer(blend, "<f4") == [100]
    assert np.frombuffer(turned, "<f4") == pytest.approx(np.frombuffer(reached, "<f4"), abs=1e-3)
    rig = window.until("rig")
    assert rig["roles"]["shoulder"] == "upper arm" and rig["roles"]["wrist"] == "hand"
    assert rig["colours"][ids["left arm"]] == ["fill:#ff0000ff"]
    (bend,) = rig["bends"]
    assert bend["piece"] == ids["left arm"] and bend["points"] > 20 and bend["milliseconds"] > 0
    finding = next(f for f in rig["findings"] if f["check"] == "straight")
    assert finding["mend"] is None
    # A handle pulled down: the wrist follows, and what is tried leaves no trace.
    window.send("grab", frame=0, joint="h", pull="move", at=[78, 46], tried={})
    window.send("drag", n=1, at=[60, 70], whole_steps=False)
    pose = window.until("pose")
    wrist = numbers(pose["worlds"], len(plan["joints"]))[0, plan["joints"].index("wrist")]
    assert wrist[4:] == pytest.approx([60, 70], abs=0.01)
    assert documents(client, production)["a"]["joints"]["h"]["rest"]["x"] == pytest.approx(78)
    # The mesh with one joint's weights, as the brush sees it.
    window.send("look-at-mesh", piece=ids["left arm"], joint="elbow")
    mesh = window.until("mesh")
    vertices = np.frombuffer(mesh["vertices"], "<f4").reshape(-1, 2)
    weights = np.frombuffer(mesh["weights"], "<f4")
    assert weights[vertices[:, 0] > 60].mean() > 0.3 > weights[vertices[:, 0] < 40].max()
    # A mend that a finding offers is a change like any other.
    change(client, production, {"do": "link-joint", "puppet": "a", "joint": "shoulder", "parent": None})
    do(client, production, {"do": "set-joints", "puppet": "a", "joints": ["elbow"], "limits": {"low": 0, "high": 150}})
    assert all(f["check"] != "straight" for f in window.until("rig")["findings"])


def test_a_shape_drawn_here_is_there_for_every_reader_and_can_be_tried_first(arm: Any, shared: Service) -> None:
    client, production, _ = arm
    window = Window(shared, production)
    window.send("watch", target={"kind": "rest", "puppet": "a"})
    window.until("plan")
    draw = {
        "do": "draw-shape",
        "puppet": "a",
        "id": "s",
        "name": "box",
        "kind": "ellipse",
        "points": [[10, 10], [40, 30]],
    }
    window.send("try-command", n=3, command=draw)
    tried = window.until("pose")
    art = next(i for i in tried["items"] if i["piece"] == "s")["arts"][0]
    assert client.get(f"/assets/{art}").status_code == 200
    assert "s" not in documents(client, production)["a"]["pieces"]
    do(client, production, draw)
    drawn = documents(client, production)["a"]["pieces"]["s"]["drawings"][0]
    assert drawn["art"] == art and drawn["shape"]["kind"] == "ellipse"
    archive = client.get(f"/productions/{production}/archive").content
    with zipfile.ZipFile(BytesIO(archive)) as file:
        assert f"assets/{art}.json" in file.namelist()


def test_a_new_version_is_looked_at_before_it_is_taken(arm: Any) -> None:
    client, production, ids = arm
    joints = documents(client, production)["a"]["joints"]
    newer = ARM.replace(b'height="12"', b'height="16"').replace(b"cover", b"shade")
    look = bring(client, production, "a", newer, "arm.svg", purpose="new-version", dry="true").json()
    assert (look["changed"], look["added"], look["vanished"], look["ack"]) == (["left arm"], ["shade"], ["cover"], None)
    done = bring(client, production, "a", newer, "arm.svg", purpose="new-version").json()
    assert done["ack"]["label"].startswith("Take the new version")
    puppet = documents(client, production)["a"]
    assert puppet["pieces"][ids["left arm"]]["drawings"][0]["bounds"][3] == 56
    assert {k: puppet["joints"][k] for k in joints} == joints
    undone = client.post(
        f"/productions/{production}/undo", json={"id": "undo-new-version", "window": "t", "target": done["ack"]["seq"]}
    )
    assert undone.status_code == 200
    assert documents(client, production)["a"]["pieces"][ids["left arm"]]["drawings"][0]["bounds"][3] == 52


def test_drawings_and_references_come_in_where_they_are_wanted(arm: Any, shared: Service) -> None:
    client, production, ids = arm
    ora = openraster(
        '<layer name="fist" src="a.png" x="70" y="40"/>', {"a.png": png(patch(9, 9, (1, 1, 8, 8), (9, 200, 9)))}
    )
    window = Window(shared, production)
    window.until("snapshot")
    more = bring(client, production, "a", ora, "fist.ora", purpose="drawings", target=ids["left arm"])
    assert more.status_code == 200, more.text
    told = window.until("import")
    assert told["window"] == "test" and told["part"] == 1
    names = [d["name"] for d in documents(client, production)["a"]["pieces"][ids["left arm"]]["drawings"]]
    assert names == ["left arm", "fist"]
    sheet = png(patch(200, 100, (10, 10, 50, 50), (1, 2, 3)))
    laid = bring(client, production, "a", sheet, "model sheet.png", purpose="reference")
    assert laid.status_code == 200, laid.text
    reference = documents(client, production)["a"]["reference"]
    assert (reference["width"], reference["height"]) == (200, 100) and reference["opacity"] == 0.5
    assert client.get(f"/assets/{reference['pictures'][0]}").headers["content-type"] == "image/png"
    out = client.get(f"/productions/{production}/archive").content
    again = client.post("/productions/archive", files={"file": ("a.zip", out)}).json()["id"]
    assert documents(client, again)["a"]["reference"] == reference
    bad = bring(
        client, production, "a", svg('<g id="a"><rect width="4" height="4"/></g>'), "a.svg", purpose="reference"
    )
    assert bad.status_code == 415 and "no picture" in bad.json()["detail"]


def test_a_refusal_over_the_socket_is_told_and_the_window_goes_on(arm: Any, shared: Service) -> None:
    _, production, ids = arm
    window = Window(shared, production)
    window.send("watch", target={"kind": "rest", "puppet": "a"})
    window.until("plan")
    window.send(
        "try-command",
        n=1,
        command={"do": "set-masks", "puppet": "a", "pieces": [ids["cover"]], "masks": {ids["cover"]: "inside"}},
    )
    assert "mask itself" in window.until("refused")["what"]
    window.socket.send(msgspec.msgpack.encode({"type": "look-at-mesh", "piece": "gone"}))
    assert "any more" in window.until("refused")["what"]
    window.send("try-pose", n=2, frame=0, tried={"elbow.turn": [10]})
    assert window.until("pose")["n"] == 2
