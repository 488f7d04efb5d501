"""The `sorvan` command, on a database of its own."""

from __future__ import annotations

import os
import subprocess
import sys
import zipfile
from pathlib import Path

import av
import pytest

from tests.service.test_http import GULL


@pytest.fixture
def sorvan(database: str, tmp_path: Path):  # type: ignore[no-untyped-def]
    """Run the command; returns what it printed, said on stderr, and its exit code."""
    (tmp_path / "gull.svg").write_bytes(GULL)

    def run(*words: str) -> subprocess.CompletedProcess[str]:
        environment = {**os.environ, "SORVAN_DATABASE_URL": database, "SORVAN_HOME": str(tmp_path / "home")}
        return subprocess.run(
            [sys.executable, "-m", "sorvan.cli", *words], capture_output=True, text=True, cwd=tmp_path, env=environment
        )

    return run


def test_from_art_to_film_on_the_command_line(sorvan, tmp_path: Path) -> None:  # type: ignore[no-untyped-def]
    assert sorvan("import", "gull.svg", "--production", "Quay").stdout == "2 pieces brought into “gull” of “Quay”.\n"
    assert "gull: 2 pieces" in sorvan("list").stdout
    assert sorvan("export", "Quay", "--out", "quay.zip").returncode == 0
    with zipfile.ZipFile(tmp_path / "quay.zip") as file:
        body = file.read("production.json").decode()
        puppet, assets = (
            body.split('"puppets"')[1].split('"id": "')[1].split('"')[0],
            {n: file.read(n) for n in file.namelist()},
        )
    motion = f'"motions": [{{"kind": "motion", "id": "m", "name": "flap", "puppet": "{puppet}", "length": 9}}]'
    assets["production.json"] = (
        body.replace('"motions": []', motion).replace('"name": "Quay"', '"name": "Pier"').encode()
    )
    with zipfile.ZipFile(tmp_path / "pier.zip", "w") as file:
        for name, data in assets.items():
            file.writestr(name, data)
    assert sorvan("load", "pier.zip").returncode == 0
    done = sorvan(
        "render", "Pier", "--motion", "flap", "--out", "flap.mp4", "--from", "2", "--to", "7", "--width", "320"
    )
    assert done.stdout == "flap.mp4: 6 frames, 320 × 180 px\n", done.stderr
    with av.open(str(tmp_path / "flap.mp4")) as film:
        assert sum(1 for _ in film.decode(video=0)) == 6
    narrow = sorvan("render", "Pier", "--motion", "flap", "--out", "narrow.mp4", "--width", "3")
    assert narrow.returncode == 1 and "can't be less than 16" in narrow.stderr


@pytest.mark.parametrize(
    ("words", "code", "said"),
    [
        (("render", "Nowhere", "--motion", "x", "--out", "a.mp4"), 3, "There is no production “Nowhere”"),
        (("render", "Nowhere", "--motion", "x", "--out", "a.avi"), 1, "not something to render to"),
        (("import", "missing.svg", "--production", "Quay"), 1, "can't be read: No such file"),
        (("load", "gull.svg"), 1, "not a whole Sorvan archive"),
        (("import",), 2, "Missing"),
    ],
)
def test_what_fails_says_so_on_stderr_and_in_the_exit_code(sorvan, words, code: int, said: str) -> None:  # type: ignore[no-untyped-def]
    done = sorvan(*words)
    assert done.returncode == code
    assert said in done.stderr
    assert not done.stdout
