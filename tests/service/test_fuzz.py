"""The API as its own description says, with values nobody would send: whatever comes, the answer is no fault.

A longer run by hand: `SORVAN_FUZZ=200 SORVAN_FUZZ_PHASES=coverage,fuzzing .venv/bin/pytest tests/service/test_fuzz.py`.
"""

from __future__ import annotations

import os
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

from tests.conftest import ROOT, Service


def test_no_answer_is_a_fault_and_everything_can_be_opened_afterwards(
    serve: Callable[..., Service], tmp_path: Path
) -> None:
    service = serve(demo=True)
    client = service.client()
    report, described = tmp_path / "faults.txt", tmp_path / "openapi.json"
    described.write_bytes(client.get(f"{service.address}/openapi.json").content)
    command = [
        str(Path(sys.executable).parent / "schemathesis"),
        "run",
        str(described),
        "--url",
        service.address,
        "--checks",
        "not_a_server_error",
        "--phases",
        os.environ.get("SORVAN_FUZZ_PHASES", "fuzzing"),
        "--max-examples",
        os.environ.get("SORVAN_FUZZ", "2"),
        "--request-timeout",
        "120",
        "--seed",
        "9",
        "--continue-on-failure",
        "--suppress-health-check",
        "all",
        "--no-color",
        # The production is to be there to the end.
        "--exclude-operation-id-regex",
        "^remove_production",
    ]
    environment = {
        **os.environ,
        "SORVAN_FUZZED": f"{service.address}/api/productions/quay",
        "SCHEMATHESIS_HOOKS": "tests.service.fuzz_hooks",
        "PYTHONPATH": str(ROOT),
    }
    done = subprocess.run(command, env=environment, cwd=tmp_path, capture_output=True, text=True)
    report.write_text(done.stdout)
    assert done.returncode == 0, done.stdout[-9000:]
    assert "passed" in done.stdout
    assert client.get("/health").json() == {"database": True}
    # What is stored can be loaded: by a service that knows nothing of it yet.
    service.kill()
    again = serve()
    whole = again.client().get("/productions/quay")
    assert whole.status_code == 200 and len(whole.json()["documents"]) > 10
