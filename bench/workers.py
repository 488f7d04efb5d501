"""Two render workers against one, on the same render."""

from __future__ import annotations

import os
import secrets
import subprocess
import sys
import tempfile
import time
from datetime import UTC, datetime
from pathlib import Path

from sqlalchemy import Engine

from bench.scenes import production, report
from sorvan.picture.order import RenderOrder, stretches
from sorvan.store import assets, log, renders
from sorvan.store.cluster import ensure, stop
from sorvan.store.database import connect, migrate
from sorvan.store.renders import Render, Stretch
from tests.conftest import empty_database

FRAMES = 960


def main() -> None:
    """60 pieces, 960 frames at 1280 × 720, drawn by one worker, then by two."""
    with tempfile.TemporaryDirectory() as place:
        Path(place).chmod(0o755)
        cluster = ensure(Path(place) / "db")
        address = empty_database(cluster)
        engine = connect(address)
        migrate(engine)
        documents, kept = production(60, FRAMES)
        assets.put(engine, kept)
        log.create(engine, documents)
        environment = {**os.environ, "SORVAN_DATABASE_URL": address, "SORVAN_HOME": place}
        started: list[subprocess.Popen[bytes]] = []
        times: list[float] = []
        try:
            for _ in range(2):
                started.append(subprocess.Popen([sys.executable, "-m", "sorvan.cli", "worker"], env=environment))
                _render(engine, first=1, last=96)
                times.append(_render(engine))
        finally:
            for process in started:
                process.terminate()
                process.wait()
            engine.dispose()
            stop(cluster, "immediate")
    report(
        f"two workers, {FRAMES} frames", f"{FRAMES / times[1]:.0f} frames/s", times[0] / times[1], "one worker", "≥ 1.8"
    )


def _render(engine: Engine, **span: int) -> float:
    """Order a render and wait until it is done; the seconds that took."""
    documents = log.load(engine, "bench").documents
    order = RenderOrder.model_validate({"motion": "tree-m", **span})
    settings = order.settings(documents)
    parts = [Stretch(n, a, b) for n, (a, b) in enumerate(stretches(settings))]
    total = settings.stop - settings.start
    now = datetime.now(UTC)
    render = Render(secrets.token_hex(8), "bench", "", order.model_dump(), "waiting", 0, total, "", "", now)
    began = time.perf_counter()
    renders.add(engine, render, documents, parts)
    while not renders.get(engine, render.id).over:
        time.sleep(0.02)
    assert renders.get(engine, render.id).state == "done"
    return time.perf_counter() - began


if __name__ == "__main__":
    main()
