"""The private cluster: whatever is lost around it, its data is never removed."""

from __future__ import annotations

from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest
from sqlalchemy import create_engine, text

from sorvan.core.errors import Refusal
from sorvan.store.cluster import INNER, NOTE, UNFINISHED, Cluster, _data_folder, ensure, stop


@pytest.fixture
def home(tmp_path: Path) -> Iterator[Path]:
    yield tmp_path
    if (data := _data_folder(tmp_path)).exists():
        stop(Cluster(data, 0, ""), "immediate")


def said(cluster: Cluster, sql: str) -> list[str]:
    engine = create_engine(cluster.url)
    with engine.begin() as db:
        done = db.execute(text(sql))
        rows = [str(row[0]) for row in done] if done.returns_rows else []
    engine.dispose()
    return rows


def test_two_first_starts_share_one_cluster_and_its_data_outlives_every_note(home: Path) -> None:
    # What an earlier first start left when it was killed is not in the way.
    left = _data_folder(home).with_name(_data_folder(home).name + UNFINISHED)
    left.mkdir()
    (left / "PG_VERSION").write_text("15")
    with ThreadPoolExecutor(2) as both:
        one, other = both.map(ensure, (home, home))
    assert one == other and not left.exists()
    said(one, "CREATE TABLE ferry (name text)")
    said(one, "INSERT INTO ferry VALUES ('last')")
    # Without its note the data is found by the one that lies with it.
    (home / NOTE).unlink()
    assert ensure(home) == one and said(one, "SELECT name FROM ferry") == ["last"]
    (home / NOTE).write_text("gibberish")
    with pytest.raises(Refusal, match="can't be read"):
        ensure(home)
    # Data that nothing is known of is not touched.
    (home / NOTE).unlink()
    (one.data / INNER).unlink()
    for _ in range(2):
        with pytest.raises(Refusal, match="There is data in"):
            ensure(home)
    assert said(one, "SELECT name FROM ferry") == ["last"]
    assert [p.name for p in home.glob("*.password")] == []
