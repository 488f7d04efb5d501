"""What is installed from a wheel is the whole program, with its page."""

from __future__ import annotations

import shutil
import subprocess
import sys
import sysconfig
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Page, expect

from tests.browser.hands import bench, drawn
from tests.conftest import ROOT, Service


def test_a_wheel_is_installed_and_serves_the_demo_from_elsewhere(
    database: str, tmp_path: Path, new_page: Callable[..., Page]
) -> None:
    # From a copy: what an earlier build left beside the code would be in the wheel too.
    source = tmp_path / "source"
    shutil.copytree(ROOT / "sorvan", source / "sorvan", ignore=shutil.ignore_patterns("__pycache__"))
    shutil.copy(ROOT / "pyproject.toml", source)
    building = [sys.executable, "-m", "pip", "wheel", "--no-deps", "--no-build-isolation", "--quiet"]
    subprocess.run([*building, "--wheel-dir", tmp_path, source], check=True, capture_output=True, cwd=tmp_path)
    (wheel,) = tmp_path.glob("sorvan-*.whl")
    subprocess.run([sys.executable, "-m", "venv", "--without-pip", tmp_path / "new"], check=True)
    python = tmp_path / "new/bin/python"
    # The libraries are those that are here already; the program itself is only what the wheel brings.
    asked = [python, "-c", "import sysconfig; print(sysconfig.get_path('purelib'))"]
    own = subprocess.run(asked, check=True, capture_output=True, text=True).stdout.strip()
    Path(own, "libraries.pth").write_text(sysconfig.get_path("purelib") + "\n")
    pip = [sys.executable, "-m", "pip", "--python", python]
    subprocess.run([*pip, "install", "--quiet", "--no-deps", "--no-index", wheel], check=True)
    program = (str(tmp_path / "new/bin/sorvan"),)
    service = Service(database, tmp_path / "home", demo=True, program=program, place=tmp_path)
    service.start()
    try:
        page = new_page()
        page.goto(service.address)
        page.get_by_role("button", name="Open Last ferry at nine", exact=True).click()
        bench(page, "Motion")
        drawn(page)
        expect(page.get_by_role("heading", level=1)).to_contain_text("Motion")
    finally:
        service.kill()
