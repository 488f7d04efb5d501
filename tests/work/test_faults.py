"""Films whose render is struck by faults: nothing is lost, it says what is wrong, and the film is the same in the end."""

from __future__ import annotations

import io
import subprocess
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import av
import httpx
import pytest
from sqlalchemy import text

from sorvan.store.cluster import Cluster, restart
from sorvan.store.database import connect
from tests.conftest import Service, change
from tests.interchange.noises import hum, sound
from tests.service.test_kill import prepared
from tests.service.test_voices import bring as bring_sound


def film(service: Service, frames: int = 150) -> tuple[httpx.Client, str]:
    """A production whose film has two shots that dissolve, with a sound over the cut."""
    client = service.client()
    production, pieces = prepared(client)

    def do(**command: Any) -> None:
        done = change(client, production, command)
        assert done.status_code == 200, done.text

    do(do="add-motion", id="m", puppet="a", name="flap", length=24, cycle=True)
    turns = [{"joint": pieces[0], "kind": "turn", "frame": f, "value": [v]} for f, v in ((0, 0), (12, 60))]
    do(do="set-keys", motion="m", keys=turns)
    do(do="add-shot", id="s", name="Over the quay", length=frames)
    do(do="set-shot", shot="s", stage="final")
    for n in range(5):
        do(do="add-cast", shot="s", cast={"kind": "member", "id": f"c{n}", "puppet": "a", "at": [200 * n, 300]})
        do(do="set-span", shot="s", cast=f"c{n}", span={"id": "p", "motion": "m", "start": 0, "frames": frames})
    sounding = bring_sound(client, production, sound(hum(4.0)), "hum.wav", shot="s", at="4.0")
    assert sounding.status_code == 201, sounding.text
    do(do="duplicate-shot", shot="s", id="t")
    do(do="set-shot", shot=client.get(f"/productions/{production}").json()["documents"][0]["shots"][1],
       join={"kind": "dissolve", "frames": 12})  # fmt: skip
    return client, production


def order(client: httpx.Client, production: str) -> str:
    made = client.post(f"/productions/{production}/renders", json={"format": "mp4", "width": 320})
    assert made.status_code == 201, made.text
    return str(made.json()["id"])


def now(client: httpx.Client, production: str, render: str) -> dict[str, Any]:
    answer = client.get(f"/productions/{production}/renders")
    if answer.status_code != 200:
        return {"state": "away", "done": 0}
    return next(r for r in answer.json() if r["id"] == render)


def until(
    client: httpx.Client, production: str, render: str, wanted: Callable[[dict[str, Any]], bool]
) -> dict[str, Any]:
    end = time.monotonic() + 120
    while not wanted(found := now(client, production, render)):
        assert time.monotonic() < end, found
        time.sleep(0.05)
    return found


def fetched(client: httpx.Client, production: str, render: str) -> bytes:
    answer = client.get(f"/productions/{production}/renders/{render}/file")
    assert answer.status_code == 200, answer.text
    return answer.content


def test_a_film_comes_out_the_same_over_a_killed_service_and_a_database_that_goes_away(
    serve: Callable[..., Service], cluster: Cluster
) -> None:
    service = serve()
    client, production = film(service)
    undisturbed = order(client, production)
    until(client, production, undisturbed, lambda r: r["state"] == "done")
    struck = order(client, production)
    until(client, production, struck, lambda r: r["done"] > 30)
    service.kill()
    service.start()
    client = service.client()
    found = now(client, production, struck)
    assert found["state"] in ("running", "waiting", "done") and found["done"] > 0
    restart(cluster, 2.0)
    over = until(client, production, struck, lambda r: r["state"] in ("done", "failed"))
    assert over["state"] == "done" and over["done"] == over["total"] == 2 * 150 - 12
    whole = fetched(client, production, struck)
    assert whole == fetched(client, production, undisturbed)
    with av.open(io.BytesIO(whole)) as made:
        assert [s.type for s in made.streams] == ["video", "audio"]


@pytest.fixture
def no_room(database: str) -> Iterator[Callable[[bool], None]]:
    """Lets the database say, as it does when its disk is full, that a part can't be kept; and lets it have room."""
    engine = connect(database)

    def say(full: bool) -> None:
        with engine.begin() as db:
            db.execute(text("DROP TRIGGER IF EXISTS no_room ON render_parts"))
            if full:
                raising = "RAISE EXCEPTION 'could not extend file: No space left on device' USING ERRCODE = '53100'"
                db.execute(
                    text(
                        f"CREATE OR REPLACE FUNCTION no_room() RETURNS trigger AS $$ BEGIN {raising}; END $$ LANGUAGE plpgsql"
                    )
                )
                when = "WHEN (NEW.data IS NOT NULL)"
                db.execute(
                    text(
                        f"CREATE TRIGGER no_room BEFORE UPDATE ON render_parts FOR EACH ROW {when} EXECUTE FUNCTION no_room()"
                    )
                )

    yield say
    engine.dispose()


def test_without_room_in_the_database_a_render_says_so_and_goes_on_when_there_is(
    serve: Callable[..., Service], no_room: Callable[[bool], None]
) -> None:
    service = serve()
    client, production = film(service)
    undisturbed = order(client, production)
    until(client, production, undisturbed, lambda r: r["state"] == "done")
    struck = order(client, production)
    until(client, production, struck, lambda r: r["done"] > 30)
    no_room(True)
    failed = until(client, production, struck, lambda r: r["state"] in ("failed", "done"))
    assert failed["state"] == "failed" and "disk of the database is full" in failed["message"]
    # Once there is room it goes on with what is missing; nothing else was lost meanwhile.
    no_room(False)
    assert client.post(f"/productions/{production}/renders/{struck}/again").status_code == 200
    assert until(client, production, struck, lambda r: r["state"] in ("done", "failed"))["state"] == "done"
    assert fetched(client, production, struck) == fetched(client, production, undisturbed)


def test_without_room_for_the_file_fetching_says_so_and_succeeds_when_there_is(
    serve: Callable[..., Service], tmp_path: Path
) -> None:
    service = serve()
    client, production = film(service, 60)
    render = order(client, production)
    until(client, production, render, lambda r: r["state"] == "done")
    films = tmp_path / "home" / "renders"
    films.mkdir(parents=True, exist_ok=True)
    mounted = subprocess.run(["mount", "-t", "tmpfs", "-o", "size=4k", "none", str(films)], capture_output=True)
    if mounted.returncode:
        pytest.skip("no file system may be mounted here")
    try:
        answer = client.get(f"/productions/{production}/renders/{render}/file")
        assert answer.status_code == 507 and answer.json()["kind"] == "disk-full"
        assert "Make room" in answer.json()["remedy"] and not list(films.iterdir()), "no half of a film is left"
        assert now(client, production, render)["state"] == "done"
    finally:
        subprocess.run(["umount", str(films)], check=True)
    assert fetched(client, production, render)[4:8] == b"ftyp"
