"""Beyond this machine nobody is told anything without signing in, or of what is not theirs to see."""

from __future__ import annotations

import os
import subprocess
import threading
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import httpx
import msgspec
import pytest
from sqlalchemy import Engine, select, text
from websockets.exceptions import ConnectionClosed, InvalidStatus
from websockets.sync.client import ClientConnection, connect

from sorvan.core.model.documents import Documents
from sorvan.core.model.production import Production
from sorvan.demo.quay import build, load_demo
from sorvan.service import signing_in
from sorvan.service.signing_in import COOKIE, LASTS, OPEN, SHORTEST, SIGN_IN_FIRST, TRIES, WITHIN, hashed
from sorvan.store import accounts, assets, log
from sorvan.store.cluster import Cluster
from sorvan.store.database import connect as reached
from sorvan.store.database import migrate
from sorvan.store.tables import changes, signed_in, users
from tests import begun
from tests.conftest import ELSEWHERE, ROOT, Service, change, empty_database, until

PEOPLE = ("Ada", "Bram", "Cleo", "Dov")
"""The owner, who may edit, who may look, and a stranger."""


def password(name: str) -> str:
    return f"the ferry of {name}"


def sorvan(database: str, *words: str, typed: str = "") -> subprocess.CompletedProcess[str]:
    return begun.run(words, {**os.environ, "SORVAN_DATABASE_URL": database}, ROOT, typed)


@pytest.fixture(scope="module")
def quay(cluster: Cluster, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Service]:
    """A service that is reached from elsewhere, with a production that is Ada's, and shared."""
    database = empty_database(cluster)
    engine = reached(database)
    migrate(engine)
    documents, kept = build()
    assets.put(engine, kept)
    log.create(engine, documents)
    people = [accounts.User(name.lower(), name) for name in PEOPLE]
    # What is nobody's is the first one's.
    assert [accounts.add(engine, user, hashed(password(user.name))) for user in people] == [1, 0, 0, 0]
    accounts.share(engine, "quay", "bram", "edit")
    accounts.share(engine, "quay", "cleo", "look")
    service = Service(
        database, tmp_path_factory.mktemp("people"), more=("--reached-as", "quay.example", "--reached-as", ELSEWHERE)
    )
    service.start()
    yield service
    service.kill()
    engine.dispose()


def as_(service: Service, name: str | None) -> httpx.Client:
    """A browser in which somebody has signed in, or nobody."""
    client = service.client()
    if name:
        answer = client.post("/session", json={"name": name.upper(), "password": password(name)})
        assert answer.status_code == 200 and answer.json() == {"sign_in": True, "user": name}
    return client


def page(service: Service, client: httpx.Client) -> ClientConnection:
    held = client.cookies.get(COOKIE)
    return connect(
        f"{service.address.replace('http', 'ws')}/api/productions/quay/live",
        origin=service.address,  # type: ignore[arg-type]
        additional_headers={"Cookie": f"{COOKIE}={held}"} if held else None,
        max_size=None,
        legacy=True,
    )


def closed_with(socket: ClientConnection) -> int:
    with pytest.raises(ConnectionClosed) as closed:
        while True:
            socket.recv(timeout=20)
    assert closed.value.rcvd is not None
    return closed.value.rcvd.code


def routes(service: Service, client: httpx.Client) -> list[tuple[str, str]]:
    """Every route there is, with things of the demo production in its path."""
    whole = client.get(f"{service.address}/openapi.json").json()
    documents = client.get("/productions/quay").json()["documents"]
    puppet = next(d for d in reversed(documents) if d["kind"] == "puppet")
    piece = next(iter(puppet["pieces"].values()))
    names = {d["kind"]: d["id"] for d in documents} | {
        "puppet": puppet["id"], "piece": piece["id"], "drawing": piece["drawings"][0]["id"],
        "production": "quay", "asset": "0" * 64, "render": "none", "change": "none-at-all", "rig": "none"
    }  # fmt: skip
    return [
        (method.upper(), path.format(**names))
        for path, methods in whole["paths"].items()
        for method in methods
        if method in ("get", "post", "put", "delete", "patch")
    ]


def test_every_route_and_socket_without_signing_in_as_a_stranger_as_one_who_may_look_and_as_one_who_may_edit(
    quay: Service,
) -> None:
    owner = as_(quay, "Ada")
    every = routes(quay, owner)
    assert len(every) > 40 and all(p.startswith("/api/") for _, p in every)
    before = owner.get("/productions/quay").json()
    nobody, stranger, looker, editor = (as_(quay, name) for name in (None, "Dov", "Cleo", "Bram"))
    for method, path in every:
        of_quay = path.startswith("/api/productions/quay")
        url = f"{quay.address}{path}"
        if (method, path) not in OPEN:
            answer = nobody.request(method, url)
            assert answer.status_code == 401 and answer.json()["kind"] == "not-signed-in", (method, path)
        if of_quay:
            answer = stranger.request(method, url)
            assert answer.status_code == 404 and "production “quay”" in answer.json()["detail"], (method, path)
            answer = looker.request(method, url)
            # Where one works is one's own matter, also for who may only look.
            refused = method != "GET" and not path.endswith("/lately")
            assert (answer.status_code == 403) == refused, (method, path, answer.text)
            if (method == "DELETE" and path == "/api/productions/quay") or ("shares" in path and method == "PUT"):
                assert editor.request(method, url).status_code == 403
    assert nobody.get(f"{quay.address}/openapi.json").status_code == 401
    assert [p["id"] for p in stranger.get("/productions").json()] == []
    assert [(p["id"], p["may"]) for p in looker.get("/productions").json()] == [("quay", "look")]
    # Every letter there is, from one who may only look, changes nothing; nobody and a stranger get none across.
    letters = client_letters(quay, owner, before)
    for client in (nobody, stranger):
        socket = page(quay, client)
        assert closed_with(socket) == SIGN_IN_FIRST
    socket = page(quay, looker)
    for letter in letters:
        socket.send(msgspec.msgpack.encode(letter))
    socket.send(msgspec.msgpack.encode({"type": "try-pose", "n": 99, "frame": 0, "tried": {}}))
    while msgspec.msgpack.decode(socket.recv(timeout=20)).get("n") != 99:
        pass
    socket.close()
    assert owner.get("/productions/quay").json() == before
    # Everybody comes back to where they were themselves.
    assert looker.put("/productions/quay/lately", json={"motion": "wave", "frame": 17}).status_code == 204
    assert looker.get("/productions/quay/lately").json()["frame"] == 17
    assert owner.get("/productions/quay/lately").json() == {"puppet": None, "motion": None, "shot": None, "frame": 0}
    # Who may edit does; who made something owns it.
    assert change(editor, "quay", {"do": "set-production", "name": "Quay by night"}).status_code == 200
    own = stranger.post("/productions", json={"name": "Lighthouse"}).json()["id"]
    assert [(p["id"], p["may"]) for p in stranger.get("/productions").json()] == [(own, "own")]
    assert owner.get(f"/productions/{own}").status_code == 404


@pytest.mark.parametrize("ending", ["%0A", "%0D", "%0A%0A", "%00", "%E2%80%A8", "%C2%85", "%0Ax"])
def test_no_path_is_read_differently_by_who_lets_through_and_who_answers(quay: Service, ending: str) -> None:
    owner, stranger = as_(quay, "Ada"), as_(quay, "Dov")
    before = owner.get("/productions/quay").json()
    share = {"name": "Dov", "may": "edit"}
    for method, path, sent in (
        ("GET", "", None), ("GET", "/archive", None), ("GET", "/shares", None), ("GET", "/renders", None),
        ("GET", "/overview", None), ("PUT", "/shares", share), ("DELETE", "", None),
        ("POST", "/changes", {"id": "stolen-1", "window": "w", "base": 0, "command": {"do": "set-production", "name": "Mine"}}),
    ):  # fmt: skip
        for client in (stranger, owner):
            answer = client.request(method, f"/productions/quay{path}{ending}", json=sent)
            assert answer.status_code == 404, (method, path, ending, answer.text)
    with pytest.raises(InvalidStatus):
        connect(
            f"{quay.address.replace('http', 'ws')}/api/productions/quay/live{ending}",
            origin=quay.address,  # type: ignore[arg-type]
            additional_headers={"Cookie": f"{COOKIE}={stranger.cookies[COOKIE]}"},
            legacy=True,
        )
    assert owner.get("/productions/quay").json() == before


def test_everybody_has_a_shelf_and_takes_puppets_only_from_what_they_may_see(quay: Service) -> None:
    owner, stranger, looker = (as_(quay, name) for name in ("Ada", "Dov", "Cleo"))
    saved = owner.post("/productions/quay/rigs", json={"puppet": "gull", "name": "Gull"})
    assert saved.status_code == 201, saved.text
    rig = saved.json()["id"]
    assert [r["rig"]["name"] for r in owner.get("/rigs").json()] == ["Gull"]
    assert looker.get("/rigs").json() == []
    assert looker.get(f"/rigs/{rig}/picture").status_code == 404
    assert looker.delete(f"/rigs/{rig}").status_code == 404
    for client, source, answers in (
        (owner, {"rig": rig}, 200),
        (looker, {"rig": rig}, 404),
        (looker, {"production": "quay", "puppet": "gull"}, 200),
        (stranger, {"production": "quay", "puppet": "gull"}, 404),
    ):
        own = client.post("/productions", json={"name": "Pier"}).json()["id"]
        sent = {"purpose": "bring", "source": source, "change": f"bring-it-{own[:8]}", "window": "test", "base": 0}
        answer = client.post(f"/productions/{own}/reuse", json=sent)
        assert answer.status_code == answers, answer.text
        puppets = [d["name"] for d in client.get(f"/productions/{own}").json()["documents"] if d["kind"] == "puppet"]
        assert puppets == (["Gull"] if answers == 200 else [])
    assert owner.delete(f"/rigs/{rig}").status_code == 204


def client_letters(service: Service, client: httpx.Client, whole: dict[str, Any]) -> list[dict[str, Any]]:
    motion = next(d for d in whole["documents"] if d["kind"] == "motion")
    kinds = client.get(f"{service.address}/openapi.json").json()["components"]["schemas"]
    given: dict[str, dict[str, Any]] = {
        "watch": {"target": {"kind": "motion", "motion": motion["id"]}},
        "grab": {"joint": "puppet", "pull": "turn", "at": [0, 0]},
        "drag": {"n": 1, "at": [5, 5]},
        "try-pose": {"n": 2, "frame": 0, "tried": {"puppet.turn": [4]}},
        "try-command": {"n": 3, "command": {"do": "set-motion", "motion": motion["id"], "name": "Stolen"}},
        "look-at-mesh": {"piece": "none", "joint": None},
        "look-at-way": {"joint": "puppet"},
        "look-at-morph": {"n": 4, "piece": "none", "first": "a", "second": "b"},
        "playhead": {"frame": 3},
    }
    assert given.keys() == kinds["FromPage"]["discriminator"]["mapping"].keys()
    return [{"type": type, **fields} for type, fields in given.items()]


def test_who_did_what_is_in_the_log_and_told_with_undo(quay: Service) -> None:
    owner, editor = as_(quay, "Ada"), as_(quay, "Bram")
    done = change(editor, "quay", {"do": "set-production", "name": "Quay by night"}).json()
    assert done["undo"]["who"] == "Bram"
    told = owner.get("/productions/quay").json()["undo"]
    assert (told["label"], told["who"]) == (done["label"], "Bram")
    turn = {"id": "turn-back-1", "window": "w", "target": told["seq"]}
    assert owner.post("/productions/quay/undo", json=turn).json()["redo"]["who"] == "Bram"
    with reached(quay.database).connect() as db:
        rows = db.execute(
            select(changes.c.kind, changes.c.who)
            .where(changes.c.production == "quay")
            .order_by(changes.c.seq.desc())
            .limit(2)
        ).all()
    assert [tuple(row) for row in rows] == [("undo", "Ada"), ("do", "Bram")]


def test_sharing_is_the_owners_and_works_at_once(quay: Service) -> None:
    owner, stranger = as_(quay, "Ada"), as_(quay, "Dov")
    found = owner.get("/productions/quay/shares").json()
    assert found == {"owner": "Ada", "others": {"Bram": "edit", "Cleo": "look"}, "people": ["Bram", "Cleo", "Dov"]}
    assert owner.put("/productions/quay/shares", json={"name": "Dov", "may": "look"}).status_code == 200
    assert stranger.get("/productions/quay").status_code == 200
    socket = page(quay, stranger)
    assert msgspec.msgpack.decode(socket.recv(timeout=20))["type"] == "snapshot"
    # Taken back, it goes from under an open window too.
    owner.put("/productions/quay/shares", json={"name": "Dov", "may": None})
    assert stranger.get("/productions/quay").status_code == 404
    assert closed_with(socket) == SIGN_IN_FIRST
    assert owner.put("/productions/quay/shares", json={"name": "Ada", "may": "look"}).status_code == 409
    assert owner.put("/productions/quay/shares", json={"name": "Nobody", "may": "look"}).status_code == 404


def test_the_cookie_is_for_the_service_alone_and_worth_nothing_after_signing_out(quay: Service) -> None:
    client = as_(quay, "Cleo")
    held = client.cookies[COOKIE]
    answer = service_answer = client.post("/session", json={"name": "Cleo", "password": password("Cleo")})
    cookie = service_answer.headers["set-cookie"].lower()
    assert "httponly" in cookie and "samesite=strict" in cookie and "path=/" in cookie
    assert f"max-age={int(LASTS.total_seconds())}" in cookie and "secure" not in cookie
    through_tls = client.post(
        "/session",
        json={"name": "Cleo", "password": password("Cleo")},
        headers={"X-Forwarded-Proto": "https", "Host": "quay.example"},
    )
    assert "secure" in through_tls.headers["set-cookie"].lower()
    # What is kept of it is no use to who reads the database.
    with reached(quay.database).connect() as db:
        kept = set(db.execute(select(signed_in.c.token)).scalars())
        words = set(db.execute(select(users.c.password)).scalars())
    assert held not in kept and signing_in.token_hash(held) in kept
    assert all(w.startswith("$argon2id$") for w in words) and answer.status_code == 200
    other = httpx.Client(base_url=client.base_url, cookies={COOKIE: held})
    socket = page(quay, other)
    assert other.get("/productions").status_code == 200
    assert other.delete("/session").status_code == 204
    assert httpx.get(f"{client.base_url}productions", cookies={COOKIE: held}).status_code == 401
    assert closed_with(socket) == SIGN_IN_FIRST
    for nonsense in ("", "x", "a" * 9000, '"; drop', "é"):
        raw = {"Cookie": f"{COOKIE}={nonsense}".encode("latin-1")}
        assert httpx.get(f"{client.base_url}productions", headers=raw).status_code == 401  # type: ignore[arg-type]


def test_beyond_this_machine_nothing_starts_without_people(database: str, tmp_path: Path) -> None:
    migrate(reached(database))
    refused = sorvan(database, "serve", "--host", "0.0.0.0", "--port", "0")
    assert refused.returncode == 1 and "sorvan user add NAME" in refused.stderr
    short = sorvan(database, "user", "add", "Ada", "--password-file", "-", typed="short")
    assert short.returncode == 1 and "at least 10 letters" in short.stderr
    assert sorvan(database, "user", "add", "Ada", "--password-file", "-", typed=password("Ada")).returncode == 0
    twice = sorvan(database, "user", "add", "ADA", "--password-file", "-", typed=password("Ada"))
    assert twice.returncode == 1 and "already" in twice.stderr
    assert sorvan(database, "user", "list").stdout.split() == ["Ada"]
    service = Service(database, tmp_path / "home", more=("--host", "0.0.0.0"))
    service.start()
    try:
        assert httpx.get(f"{service.address}/api/productions").status_code == 401
        foreign = httpx.get(f"{service.address}/api/session", headers={"Host": "elsewhere.example"})
        assert foreign.status_code == 403
        client = as_(service, "Ada")
        assert (
            sorvan(database, "user", "password", "Ada", "--password-file", "-", typed="another one now").returncode == 0
        )
        assert client.get("/productions").status_code == 401
        assert sorvan(database, "user", "remove", "Ada").returncode == 0
        assert client.post("/session", json={"name": "Ada", "password": "another one now"}).status_code == 401
    finally:
        service.kill()


def test_on_this_machine_nobody_signs_in(shared: Service) -> None:
    client = shared.client()
    assert client.get("/session").json() == {"sign_in": False, "user": None}
    assert client.get("/productions").status_code == 200


def test_a_user_may_be_removed_and_what_was_theirs_given_to_another(engine: Engine) -> None:
    ada, bram = accounts.User("a", "Ada"), accounts.User("b", "Bram")
    assert accounts.add(engine, ada, "x") == 0
    accounts.add(engine, bram, "x")
    log.create(engine, Documents({"p": Production(id="p", name="Quay")}), owner="a")
    accounts.share(engine, "p", "b", "look")
    assert accounts.visible(engine, "b") == {"p": "look"}
    accounts.remove(engine, "a")
    assert accounts.sharing(engine, "p") == accounts.Sharing(None, {"Bram": "look"})
    accounts.give(engine, "p", "b")
    assert accounts.may(engine, "b", "p") == "own" and accounts.sharing(engine, "p").others == {}


def test_what_nobody_signed_in_for_is_the_first_ones_who_may(engine: Engine) -> None:
    log.create(engine, Documents({"early": Production(id="early", name="Quay")}))
    assert accounts.sharing(engine, "early").owner is None
    for name in ("Zoe", "Ada"):
        accounts.add(engine, accounts.User(name.lower(), name), "x")
    load_demo(engine)
    assert {accounts.sharing(engine, p.id).owner for p in log.listed(engine)} == {"Zoe"}


def test_a_production_made_while_the_first_user_is_added_is_theirs(
    engine: Engine, monkeypatch: pytest.MonkeyPatch
) -> None:
    half, go_on, put = threading.Event(), threading.Event(), log._put

    def slowly(*given: Any) -> None:
        half.set()
        assert go_on.wait(20)
        put(*given)

    monkeypatch.setattr(log, "_put", slowly)
    with ThreadPoolExecutor(2) as others:
        making = others.submit(log.create, engine, Documents({"p": Production(id="p", name="Quay")}))
        assert half.wait(20)
        adding = others.submit(accounts.add, engine, accounts.User("ada", "Ada"), "x")
        until(lambda: waiting_for_a_lock(engine))
        go_on.set()
        making.result()
        assert adding.result() == 1
    assert accounts.sharing(engine, "p").owner == "Ada"


def waiting_for_a_lock(engine: Engine) -> bool:
    with engine.connect() as db:
        return bool(db.scalar(text("SELECT count(*) FROM pg_locks WHERE NOT granted")))


def test_guessing_is_slowed_down_and_tells_nothing(quay: Service, tmp_path: Path) -> None:
    # A service of its own: whoever guesses keeps everybody at the same address waiting.
    guessed = Service(quay.database, tmp_path, more=("--reached-as", "quay.example"))
    guessed.start()
    try:
        _guess(guessed.client())
    finally:
        guessed.kill()


def _guess(client: httpx.Client) -> None:
    there, not_there = (
        client.post("/session", json={"name": name, "password": "not the right one"}) for name in ("Ada", "Zoe")
    )
    assert there.status_code == not_there.status_code == 401 and there.json() == not_there.json()
    for _ in range(TRIES - 1):
        client.post("/session", json={"name": "ada", "password": "not the right one"})
    answer = client.post("/session", json={"name": "Ada", "password": password("Ada")})
    assert answer.status_code == 429 and "Wait" in answer.json()["remedy"]
    # Others can still come in, until too much comes from one address.
    assert client.post("/session", json={"name": "Bram", "password": password("Bram")}).status_code == 200
    codes = [
        client.post("/session", json={"name": f"guess {n}", "password": "not the right one"}).status_code
        for n in range(4 * TRIES)
    ]
    assert codes[0] == 401 and codes[-1] == 429
    readme = " ".join((ROOT / "README.md").read_text().split())
    assert f"After {TRIES} wrong passwords for a name, or {4 * TRIES} from one address" in readme and WITHIN == 60
    assert f"a password of {SHORTEST} letters or more" in readme


def test_the_demo_is_loaded_into_what_is_empty_and_it_is_said_when_it_is_not(engine: Engine) -> None:
    assert load_demo(engine) and load_demo(engine), "a second start finds it"
    assert len(log.listed(engine)) == 1
    log.remove(engine, log.listed(engine)[0].id)
    log.create(engine, Documents({"p": Production(id="p", name="Lighthouse")}))
    assert not load_demo(engine) and [p.name for p in log.listed(engine)] == ["Lighthouse"]
