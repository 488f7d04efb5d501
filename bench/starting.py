"""How long the program takes until it does something, against loading the libraries that it can't do without."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from bench.scenes import report
from sorvan.store.cluster import ensure, stop
from tests.conftest import Service, empty_database

ROUNDS = 5


def main() -> None:
    """`sorvan --help`, `sorvan list`, and a service until it answers."""
    with tempfile.TemporaryDirectory() as place:
        Path(place).chmod(0o755)
        cluster = ensure(Path(place) / "db")
        try:
            # Once for the tables.
            url = empty_database(cluster)
            environment = {**os.environ, "SORVAN_DATABASE_URL": url, "SORVAN_HOME": place}

            def sorvan(*words: str) -> Callable[[], object]:
                command = [sys.executable, "-m", "sorvan.cli", *words]
                return lambda: subprocess.run(command, env=environment, check=True, capture_output=True)

            def serve() -> object:
                service = Service(url, Path(place))
                service.start()
                return service.kill

            for name, work, libraries, goal in (
                ("sorvan --help", sorvan("--help"), "typer", "≤ 4"),
                ("sorvan list", sorvan("list"), "sqlalchemy, psycopg, pydantic", "≤ 2"),
                ("a service until it answers", serve, "fastapi, numpy, sqlalchemy, skia", "≤ 2"),
            ):
                bare = [sys.executable, "-c", f"import {libraries}"]
                own, other = _least(work), _least(lambda bare=bare: subprocess.run(bare, check=True))  # type: ignore[misc]
                report(name, f"{own:.2f} s", own / other, f"import {libraries} ({other:.2f} s)", goal)
        finally:
            stop(cluster, "immediate")


def _least(work: Callable[[], object]) -> float:
    """Seconds that some work takes, when least disturbed; what it gives, if that can be called, is called after."""
    found: list[float] = []
    for _ in range(ROUNDS):
        began = time.perf_counter()
        after = work()
        found.append(time.perf_counter() - began)
        if callable(after):
            after()
    return min(found)


if __name__ == "__main__":
    main()
