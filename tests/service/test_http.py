"""The service over HTTP: changes, conflicts, undo, imports, renders, and what it refuses."""

from __future__ import annotations

import io
import time
import zipfile
from fractions import Fraction
from typing import Any

import av
import httpx
import numpy as np
import pytest

from sorvan.core.model.documents import DOCUMENT, Documents
from sorvan.core.model.production import Production
from sorvan.interchange.pictures import decode
from tests.conftest import Service, change
from tests.core.worlds import Oracle
from tests.interchange.art import svg
from tests.interchange.test_hostile import BAD

GULL = svg(
    '<g id="body"><rect x="10" y="40" width="40" height="20" fill="#333333"/></g>'
    '<g id="wing"><rect x="40" y="45" width="40" height="10" fill="#ff0000"/></g>'
)


@pytest.fixture
def client(shared: Service) -> httpx.Client:
    return shared.client()


def bring(
    client: httpx.Client, production: str, puppet: str, data: bytes, name: str = "gull.svg", **more: Any
) -> httpx.Response:
    base = client.get(f"/productions/{production}").json()["seq"]
    fields = {"puppet": puppet, "change": f"import-{time.monotonic_ns()}", "window": "test", "base": str(base), **more}
    return client.post(f"/productions/{production}/art", data=fields, files=[("files", (name, data))])


@pytest.fixture
def gull(client: httpx.Client) -> tuple[httpx.Client, str]:
    """A production of 100 by 100 units with a gull of two linked pieces and a motion."""
    production = client.post("/productions", json={"name": "Quay"}).json()["id"]
    assert change(client, production, {"do": "set-production", "width": 100, "height": 100}).status_code == 200
    assert change(client, production, {"do": "add-puppet", "id": "a", "name": "Gull"}).status_code == 200
    report = bring(client, production, "a", GULL).json()
    assert report["pieces"] == ["body", "wing"]
    assert (
        change(
            client, production, {"do": "add-motion", "id": "m", "puppet": "a", "name": "flap", "length": 12}
        ).status_code
        == 200
    )
    return client, production


def documents(client: httpx.Client, production: str) -> dict[str, Any]:
    return {d["id"]: d for d in client.get(f"/productions/{production}").json()["documents"]}


def wing(client: httpx.Client, production: str) -> str:
    return next(p["id"] for p in documents(client, production)["a"]["pieces"].values() if p["name"] == "wing")


def test_a_change_sent_twice_is_made_once(gull: tuple[httpx.Client, str]) -> None:
    client, production = gull
    shift = {"do": "shift-pieces", "puppet": "a", "pieces": [wing(client, production)], "dx": 5, "dy": 0}
    first = change(client, production, shift, id="the-same-change").json()
    again = change(client, production, shift, id="the-same-change").json()
    assert again["seq"] == first["seq"]
    assert client.get(f"/productions/{production}").json()["seq"] == first["seq"]


def test_two_windows_are_carried_over_or_told_of_each_other(gull: tuple[httpx.Client, str]) -> None:
    client, production = gull
    id, base = wing(client, production), client.get(f"/productions/{production}").json()["seq"]
    rename = {"do": "set-pieces", "puppet": "a", "pieces": [id], "name": "wing tip"}
    assert change(client, production, rename, window="one", base=base).status_code == 200
    hide = {"do": "set-pieces", "puppet": "a", "pieces": [id], "hidden": True}
    assert change(client, production, hide, window="two", base=base).status_code == 200
    other_name = {"do": "set-pieces", "puppet": "a", "pieces": [id], "name": "feather"}
    refused = change(client, production, other_name, window="two", base=base)
    assert refused.status_code == 409
    assert refused.headers["content-type"] == "application/problem+json"
    assert refused.json()["mine"] == "Rename “wing tip”"
    assert refused.json()["theirs"] == ["Rename “wing”"]
    assert documents(client, production)["a"]["pieces"][id]["name"] == "wing tip"
    assert documents(client, production)["a"]["pieces"][id]["hidden"]


def test_undo_and_redo_walk_the_whole_history(gull: tuple[httpx.Client, str]) -> None:
    client, production = gull
    states, seen = [documents(client, production)], 0

    def turn(way: str) -> httpx.Response:
        target = client.get(f"/productions/{production}").json()[way]
        nonlocal seen
        seen += 1
        return client.post(
            f"/productions/{production}/{way}",
            json={"id": f"turn-{seen:06}", "window": "test", "target": target["seq"] if target else 0},
        )

    for step in range(4):
        shift = {"do": "shift-pieces", "puppet": "a", "pieces": [wing(client, production)], "dx": step + 1, "dy": 0}
        change(client, production, shift)
        states.append(documents(client, production))
    for state in reversed(states[:-1]):
        assert turn("undo").status_code == 200
        assert documents(client, production) == state
    for state in states[1:3]:
        assert turn("redo").status_code == 200
        assert documents(client, production) == state
    change(client, production, {"do": "set-puppet", "puppet": "a", "name": "Herring gull"})
    assert turn("redo").json()["detail"] == "There is nothing to redo."
    while client.get(f"/productions/{production}").json()["undo"]:
        assert turn("undo").status_code == 200
    assert list(documents(client, production)) == [production]
    stale = client.post(f"/productions/{production}/undo", json={"id": "turn-late", "window": "test", "target": 3})
    assert stale.status_code == 409


@pytest.mark.parametrize("name", BAD)
def test_bad_files_are_problems_and_change_nothing(gull: tuple[httpx.Client, str], name: str) -> None:
    client, production = gull
    before = client.get(f"/productions/{production}").json()
    data, words, _ = BAD[name]
    answer = bring(client, production, "a", data, "bad.svg", loose="true")
    assert 400 <= answer.status_code < 500
    assert answer.headers["content-type"] == "application/problem+json"
    assert words in answer.json()["detail"]
    assert client.get(f"/productions/{production}").json() == before


def test_unnamed_shapes_are_offered_first(gull: tuple[httpx.Client, str]) -> None:
    client, production = gull
    bare = svg('<circle cx="20" cy="20" r="9"/><rect width="9" height="9"/>')
    before = client.get(f"/productions/{production}").json()
    offered = bring(client, production, "a", bare).json()
    assert (offered["offer"], offered["ack"]) == (2, None)
    assert client.get(f"/productions/{production}").json() == before
    assert bring(client, production, "a", bare, loose="true").json()["pieces"] == ["circle 1", "rect 2"]


def test_a_render_is_drawn_where_the_plan_says(gull: tuple[httpx.Client, str]) -> None:
    client, production = gull
    id = wing(client, production)
    keys = [{"joint": id, "kind": "turn", "frame": f, "value": [v]} for f, v in ((0, 0), (10, 90))]
    change(client, production, {"do": "set-keys", "motion": "m", "keys": keys})
    order = {"motion": "m", "format": "png", "first": 1, "last": 11, "width": 200, "clear": True}
    data = fetched(client, production, order)
    found = Documents({"p": Production(id="p", name="x")}).with_(
        *[DOCUMENT.validate_python(d) for d in documents(client, production).values()]
    )
    oracle = Oracle(found.puppet("a"), found.motion("m"))
    with zipfile.ZipFile(io.BytesIO(data)) as file:
        assert file.namelist() == [f"frame-{n:04}.png" for n in range(1, 12)]
        for frame in (0, 5, 10):
            pixels = decode(file.read(f"frame-{frame + 1:04}.png"), "frame")
            assert pixels.shape == (200, 200, 4)
            ys, xs = np.nonzero((pixels[:, :, 0] > 200) & (pixels[:, :, 3] > 200))
            a, b, c, d, e, f = oracle.pieces(frame)[id]
            middle = (a * 60 + c * 50 + e, b * 60 + d * 50 + f)
            # The wing's own middle, where it is not covered, seen at two pixels a unit.
            assert (xs.mean() / 2, ys.mean() / 2) == pytest.approx(middle, abs=0.6)
            assert pixels[2, 2, 3] == 0


def fetched(client: httpx.Client, production: str, order: dict[str, Any]) -> bytes:
    """Order a render, wait for it, fetch it."""
    answer = client.post(f"/productions/{production}/renders", json=order)
    assert answer.status_code == 201, answer.text
    render = answer.json()
    for _ in range(400):
        (now,) = [r for r in client.get(f"/productions/{production}/renders").json() if r["id"] == render["id"]]
        if now["state"] not in ("waiting", "running"):
            break
        time.sleep(0.1)
    assert now["state"] == "done", now
    return client.get(f"/productions/{production}/renders/{render['id']}/file").content


def test_a_film_has_its_frames_rate_and_even_sides(gull: tuple[httpx.Client, str]) -> None:
    client, production = gull
    change(client, production, {"do": "set-production", "rate": {"numerator": 24000, "denominator": 1001}})
    data = fetched(client, production, {"motion": "m", "format": "mp4", "width": 151})
    with av.open(io.BytesIO(data)) as film:
        stream = film.streams.video[0]
        assert (stream.width, stream.height) == (152, 152)
        assert stream.average_rate == Fraction(24000, 1001)
        assert sum(1 for _ in film.decode(stream)) == 12


def test_a_render_can_be_cancelled_and_leaves_nothing(gull: tuple[httpx.Client, str]) -> None:
    client, production = gull
    change(client, production, {"do": "set-motion", "motion": "m", "length": 5000})
    render = client.post(f"/productions/{production}/renders", json={"motion": "m", "width": 1920}).json()
    address = f"/productions/{production}/renders/{render['id']}"
    assert client.get(f"{address}/file").status_code == 409
    client.post(f"{address}/cancel")
    for _ in range(100):
        state = client.get(f"/productions/{production}/renders").json()[0]["state"]
        if state == "cancelled":
            break
        time.sleep(0.1)
    assert state == "cancelled"
    assert client.delete(address).status_code == 204
    assert client.get(f"/productions/{production}/renders").json() == []


@pytest.mark.parametrize(
    ("order", "words"),
    [
        ({"motion": "m", "first": 9, "last": 3}, "Frames 9 to 3 are not all there."),
        ({"motion": "m", "last": 13}, "Frames 1 to 13 are not all there."),
        ({"motion": "gone"}, "There is no motion “gone” here any more."),
        ({"motion": "m", "width": 3}, "can't be less than 16"),
    ],
)
def test_orders_that_make_no_sense(gull: tuple[httpx.Client, str], order: dict[str, Any], words: str) -> None:
    client, production = gull
    answer = client.post(f"/productions/{production}/renders", json=order)
    assert answer.headers["content-type"] == "application/problem+json"
    assert words in answer.json()["detail"]


def test_only_its_own_pages_are_answered(client: httpx.Client) -> None:
    assert client.get("/productions", headers={"Host": "ferry.example"}).status_code == 403
    assert (
        client.post("/productions", json={"name": "Foreign"}, headers={"Origin": "http://ferry.example"}).status_code
        == 403
    )
    assert "Foreign" not in [p["name"] for p in client.get("/productions").json()]


def test_art_is_never_served_as_something_to_run(gull: tuple[httpx.Client, str]) -> None:
    client, production = gull
    art = next(iter(documents(client, production)["a"]["pieces"].values()))["drawings"][0]["art"]
    answer = client.get(f"/assets/{art}")
    assert answer.headers["x-content-type-options"] == "nosniff"
    assert "sandbox" in answer.headers["content-security-policy"]
    assert client.get(f"/assets/{'0' * 64}").status_code == 404


def test_many_drawings_come_in_one_answer_and_what_is_not_there_keeps_none_back(
    gull: tuple[httpx.Client, str],
) -> None:
    client, production = gull
    pieces = documents(client, production)["a"]["pieces"].values()
    arts = [d["art"] for p in pieces for d in p["drawings"]]
    together = client.get("/arts", params={"ids": ",".join(arts)})
    assert together.json() == {id: client.get(f"/assets/{id}").json() for id in arts}
    assert (
        together.headers["content-type"] == "application/json"
        and "sandbox" in together.headers["content-security-policy"]
    )
    assert "immutable" in together.headers["cache-control"]
    # A picture is no drawing; what is not there may come to be.
    rest = client.get("/arts", params={"ids": f"{arts[0]},{'0' * 64}"})
    assert list(rest.json()) == [arts[0]] and rest.headers["cache-control"] == "no-store"
    for odd in ("", "x", arts[0][:-1], ",".join([arts[0]] * 65), f"{arts[0]}\n"):
        assert client.get("/arts", params={"ids": odd}).status_code in (400, 422), odd


def test_an_archive_goes_out_and_comes_in_as_a_production_of_its_own(gull: tuple[httpx.Client, str]) -> None:
    client, production = gull
    data = client.get(f"/productions/{production}/archive").content
    loaded = client.post("/productions/archive", files={"file": ("quay.zip", data)}).json()
    assert loaded["id"] != production
    ours, theirs = documents(client, production), documents(client, loaded["id"])
    ours[loaded["id"]] = ours.pop(production) | {"id": loaded["id"]}
    assert ours == theirs
    broken = client.post("/productions/archive", files={"file": ("quay.zip", data[:99])})
    assert broken.status_code == 422


def test_what_is_not_there_is_said_to_be_missing(gull: tuple[httpx.Client, str]) -> None:
    client, production = gull
    link = {"do": "link-swatch", "puppet": "a", "pieces": [wing(client, production)], "which": "fill:#ff0000ff"}
    answer = change(client, production, {**link, "swatch": "gone"})
    assert (answer.status_code, answer.json()["kind"]) == (404, "missing")
    assert "There is no swatch" in answer.json()["detail"]
    answer = client.get("/nowhere/at/all")
    assert answer.status_code == 404
    assert answer.headers["content-type"] == "application/problem+json"
    assert "/api/nowhere/at/all" in answer.json()["detail"]


def test_a_production_removed_while_it_is_drawn_stops_nobody_else(client: httpx.Client) -> None:
    def production(length: int) -> str:
        id: str = client.post("/productions", json={"name": "Quay"}).json()["id"]
        change(client, id, {"do": "add-puppet", "id": "a", "name": "Gull"})
        bring(client, id, "a", GULL)
        change(client, id, {"do": "add-motion", "id": "m", "puppet": "a", "name": "flap", "length": length})
        return id

    long, short = production(2000), production(3)
    first = client.post(f"/productions/{long}/renders", json={"motion": "m"}).json()["id"]
    end = time.monotonic() + 30
    while not client.get(f"/productions/{long}/renders").json()[0]["done"]:
        assert time.monotonic() < end
        time.sleep(0.05)
    second = client.post(f"/productions/{short}/renders", json={"motion": "m", "format": "png"}).json()["id"]
    assert client.delete(f"/productions/{long}").status_code == 204
    assert client.get(f"/productions/{long}/renders/{first}/file").status_code == 404
    end = time.monotonic() + 30
    while (state := client.get(f"/productions/{short}/renders").json()[0]["state"]) != "done":
        assert state in ("waiting", "running") and time.monotonic() < end
        time.sleep(0.1)
    assert client.get(f"/productions/{short}/renders/{second}/file").status_code == 200


def test_moved_keys_are_where_the_answer_says_also_round_a_cycle(gull: tuple[httpx.Client, str]) -> None:
    client, production = gull
    id = wing(client, production)
    change(client, production, {"do": "set-motion", "motion": "m", "cycle": True})
    keys = [{"joint": id, "kind": "turn", "frame": f, "value": [f]} for f in (1, 10)]
    change(client, production, {"do": "set-keys", "motion": "m", "keys": keys})
    held = [{"channel": f"{id}.turn", "frame": f} for f in (1, 10)]
    answer = change(client, production, {"do": "move-keys", "motion": "m", "keys": held, "by": 5}).json()
    assert [k["frame"] for k in answer["keys"]] == [6, 3]
    assert sorted(map(int, documents(client, production)["m"]["channels"][f"{id}.turn"]["keys"])) == [0, 3, 6]
