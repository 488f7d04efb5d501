"""The live socket: what a window sees, and how a hand reaches the puppet."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Any

import httpx
import msgspec
import numpy as np
import pytest
from websockets.sync.client import ClientConnection, connect

from tests.conftest import PATIENCE, Service, change
from tests.service.test_http import bring, documents, svg


class Window:
    """A page, as far as the service can tell."""

    def __init__(self, service: Service, production: str) -> None:
        address = service.address.replace("http", "ws")
        self.socket: ClientConnection = connect(
            f"{address}/api/productions/{production}/live", origin=service.address, legacy=True, max_size=None
        )

    def send(self, type: str, **message: Any) -> None:
        self.socket.send(msgspec.msgpack.encode({"type": type, **message}))

    def until(self, *types: str) -> dict[str, Any]:
        """The next message of one of these types."""
        while True:
            message: dict[str, Any] = msgspec.msgpack.decode(self.socket.recv(timeout=PATIENCE))
            if message["type"] in types:
                return message


def numbers(block: bytes, things: int) -> np.ndarray:
    return np.frombuffer(block, "<f4").reshape(-1, things, 6)


@pytest.fixture
def quay(shared: Service) -> Iterator[tuple[Service, httpx.Client, str, dict[str, str]]]:
    service, client = shared, shared.client()
    production = client.post("/productions", json={"name": "Quay"}).json()["id"]
    change(client, production, {"do": "set-production", "width": 100, "height": 100})
    change(client, production, {"do": "add-puppet", "id": "a", "name": "Gull"})
    art = svg(
        '<g id="body"><rect x="10" y="40" width="40" height="20"/></g><g id="wing"><rect x="40" y="45" width="40" height="10"/></g>'
    )
    bring(client, production, "a", art)
    ids = {p["name"]: p["id"] for p in documents(client, production)["a"]["pieces"].values()}
    change(client, production, {"do": "link-joint", "puppet": "a", "joint": ids["wing"], "parent": ids["body"]})
    change(client, production, {"do": "add-motion", "id": "m", "puppet": "a", "name": "flap", "length": 24})
    keys = [{"joint": ids["wing"], "kind": "turn", "frame": f, "value": [v]} for f, v in ((0, 0), (10, 90), (20, 0))]
    change(client, production, {"do": "set-keys", "motion": "m", "keys": keys})
    yield service, client, production, ids


def test_a_window_gets_the_whole_plan_and_then_only_what_changes(quay: Any) -> None:
    service, client, production, ids = quay
    window = Window(service, production)
    assert [d["kind"] for d in window.until("snapshot")["documents"]] == ["production", "puppet", "motion"]
    window.send("watch", target={"kind": "motion", "motion": "m", "blocking": False})
    plan = window.until("plan")
    assert plan["frames"] == 24
    matrices = numbers(plan["matrices"], 2).copy()
    row = [i["piece"] for i in plan["items"]].index(ids["wing"])
    for frame in (0, 5, 10):
        a = math.radians(frame * 9)
        assert matrices[frame, row, :4] == pytest.approx(
            (math.cos(a), math.sin(a), -math.sin(a), math.cos(a)), abs=1e-6
        )
    spacing = window.until("spacing")["channels"][f"{ids['wing']}.turn"]
    assert spacing["gaps"][0][:2] == [0, 10]
    assert np.frombuffer(spacing["values"], "<f8")[5] == pytest.approx(45)

    key = {"joint": ids["wing"], "kind": "turn", "frame": 20, "value": [30]}
    change(client, production, {"do": "set-keys", "motion": "m", "keys": [key]})
    part = window.until("part")
    assert (part["start"], part["stop"]) == (11, 24)
    matrices[11:24] = numbers(part["matrices"], 2)
    again = Window(service, production)
    again.send("watch", target={"kind": "motion", "motion": "m", "blocking": False})
    assert np.array_equal(matrices, numbers(again.until("plan")["matrices"], 2))


def test_a_hand_on_the_puppet_gets_the_core_s_pose_and_leaves_no_trace(quay: Any) -> None:
    service, client, production, ids = quay
    before = documents(client, production)
    window = Window(service, production)
    window.send("watch", target={"kind": "motion", "motion": "m", "blocking": False})
    plan = window.until("plan")
    row = plan["joints"].index(ids["wing"])
    pin = numbers(plan["worlds"], 3)[0, row, 4:]
    window.send("grab", frame=0, joint=ids["wing"], pull="turn", at=[float(pin[0]) + 15, float(pin[1])], tried={})
    window.send("drag", n=1, at=[float(pin[0]), float(pin[1]) + 15])
    pose = window.until("pose")
    assert pose["tried"] == {f"{ids['wing']}.turn": [90.0]}
    world = numbers(pose["worlds"], 3)[0, row]
    assert world == pytest.approx((0, 1, -1, 0, pin[0], pin[1]), abs=1e-4)
    window.send(
        "try-command", n=2, command={"do": "shift-pieces", "puppet": "a", "pieces": [ids["body"]], "dx": 7, "dy": 0}
    )
    assert window.until("pose")["places"][ids["body"]][0] == pytest.approx(37)
    assert documents(client, production) == before


def test_blocking_holds_poses_and_keeps_the_keys(quay: Any) -> None:
    service, _, production, ids = quay
    window = Window(service, production)
    window.send("watch", target={"kind": "motion", "motion": "m", "blocking": True})
    plan = window.until("plan")
    row = [i["piece"] for i in plan["items"]].index(ids["wing"])
    turns = np.degrees(np.arctan2(*numbers(plan["matrices"], 2)[:, row, 1::-1].T))
    assert turns == pytest.approx([0] * 10 + [90] * 10 + [0] * 4, abs=1e-4)


def test_other_windows_see_changes_and_nonsense_is_answered_in_words(quay: Any) -> None:
    service, client, production, _ = quay
    one, other = Window(service, production), Window(service, production)
    seq = other.until("snapshot")["seq"]
    change(client, production, {"do": "set-puppet", "puppet": "a", "name": "Herring gull"})
    told = other.until("changed")
    assert told["seq"] == seq + 1
    assert told["writes"] == [{"document": "a", "path": ["name"], "has": True, "after": "Herring gull"}]
    one.send("watch", target={"kind": "rest", "puppet": "nobody"})
    assert "There is no puppet" in one.until("refused")["what"]
    one.send("watch", target={"kind": "rest", "puppet": "a"})
    one.until("plan")
    one.send("grab", frame=0, joint="x", pull="juggle", at=[0, 0], tried={})
    assert "pull" in one.until("refused")["where"]
    client.delete(f"/productions/{production}")
    assert one.until("removed")


def test_a_foreign_page_gets_no_socket(quay: Any) -> None:
    service, _, production, _ = quay
    with pytest.raises(Exception, match=r"403|rejected"):
        connect(
            f"{service.address.replace('http', 'ws')}/api/productions/{production}/live", origin="http://ferry.example"
        )
