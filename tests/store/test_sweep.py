"""Sweeping up takes what nothing needs, and nothing else."""

from __future__ import annotations

import os
from typing import Any

import httpx
from sqlalchemy import select, text

from sorvan.store import assets
from sorvan.store.database import connect
from sorvan.store.sweep import sweep_assets, sweep_films
from sorvan.store.tables import assets as kept
from tests.conftest import Service, change
from tests.interchange.art import patch, png, svg
from tests.service.test_http import bring, documents

SIGN = '<text y="20" font-size="20">Quay</text>'
"""What becomes a picture: its drawing names another asset."""


def production(client: httpx.Client, name: str, colour: str) -> str:
    made = client.post("/productions", json={"name": name}).json()["id"]
    change(client, made, {"do": "add-puppet", "id": "a", "name": "Post"})
    art = svg(f'<g id="post"><rect width="9" height="9" fill="{colour}"/></g><g id="sign" fill="{colour}">{SIGN}</g>')
    assert bring(client, made, "a", art, "post.svg").status_code == 200
    return str(made)


def test_what_is_needed_stays_and_the_rest_goes(serve: Any, database: str) -> None:
    service: Service = serve()
    client, engine = service.client(), connect(database)

    def there() -> set[str]:
        with engine.connect() as db:
            return set(db.scalars(select(kept.c.id)))

    stays = production(client, "Quay", "#112233")
    newer = svg('<g id="post"><rect width="7" height="9" fill="#445566"/></g>')
    bring(client, stays, "a", newer, "post.svg", purpose="new-version")
    sheet = png(patch(60, 40, (2, 2, 20, 20), (9, 9, 9)))
    assert bring(client, stays, "a", sheet, "sheet.png", purpose="reference").status_code == 200
    needed = there()
    goes = production(client, "Pier", "#998877")
    # The same in two productions is needed as long as either is there.
    bring(client, goes, "a", newer, "again.svg")
    orphans = there() - needed
    assert len(orphans) >= 3
    assert client.delete(f"/productions/{goes}").status_code == 204

    assert sweep_assets(engine) == (0, 0), "what came in a moment ago stays"
    with engine.begin() as db:
        db.execute(text("UPDATE assets SET at = at - interval '2 days'"))
    again = next(iter(orphans))
    assets.put(engine, {again: assets.get(engine, again)})
    count, size = sweep_assets(engine)
    assert there() == needed | {again} and count == len(orphans) - 1 and size > 0

    # What was replaced can still be brought back, and everything be exported.
    undone = client.get(f"/productions/{stays}").json()["undo"]
    for n in range(2):
        turn = {"id": f"undo-{n}-of-it", "window": "test", "target": undone["seq"]}
        assert client.post(f"/productions/{stays}/undo", json=turn).status_code == 200
        undone = client.get(f"/productions/{stays}").json()["undo"]
    for piece in documents(client, stays)["a"]["pieces"].values():
        assert client.get(f"/assets/{piece['drawings'][0]['art']}").status_code == 200
    out = client.get(f"/productions/{stays}/archive")
    assert client.post("/productions/archive", files={"file": ("q.zip", out.content)}).status_code == 201
    engine.dispose()


def test_films_go_with_their_renders_and_half_made_ones_after_a_while(serve: Any, database: str) -> None:
    service: Service = serve()
    client, engine = service.client(), connect(database)
    made = production(client, "Quay", "#112233")
    change(client, made, {"do": "add-motion", "id": "m", "puppet": "a", "name": "Stand", "length": 4})
    order = {"motion": "m", "format": "png", "width": 16}
    ordered = client.post(f"/productions/{made}/renders", json=order)
    assert ordered.status_code == 201, ordered.text
    render = ordered.json()["id"]
    folder = service.home / "renders"
    folder.mkdir(parents=True, exist_ok=True)
    names = (f"{render}.zip", f"{render}.0badcafe", "f00f00f00f00.mp4", "f00f00f00f00.1badcafe")
    for name in names:
        (folder / name).write_bytes(b"film")
        os.utime(folder / name, (0, 0))
    (folder / "d00d00d00d00.mp4").write_bytes(b"a moment ago")
    assert sweep_films(engine, folder) == (3, 12)
    assert {f.name for f in folder.iterdir()} >= {f"{render}.zip", "d00d00d00d00.mp4"}
    assert client.delete(f"/productions/{made}").status_code == 204
    assert not (folder / f"{render}.zip").exists()
    engine.dispose()
