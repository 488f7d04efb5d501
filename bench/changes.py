"""What a change costs over HTTP, and a try over the socket, however large the production is."""

from __future__ import annotations

import secrets
import tempfile
import time
from pathlib import Path
from statistics import median, quantiles

import httpx
import msgspec
from websockets.sync.client import connect

from bench.scenes import production, puppet, report
from sorvan.core.model.documents import Documents
from sorvan.core.model.production import Production
from sorvan.interchange.archive import KeptFiles, write_archive
from sorvan.store.cluster import ensure, stop
from tests.conftest import Service, empty_database

DISPLAY_FRAME = 1000 / 60
TIMES = 60


def main() -> None:
    """One key on a large and a small motion; a dragged piece among 200."""
    with tempfile.TemporaryDirectory() as place:
        Path(place).chmod(0o755)
        cluster = ensure(Path(place) / "db")
        service = Service(empty_database(cluster), Path(place) / "home")
        service.start()
        try:
            _one_key(service)
            _tries(service)
        finally:
            service.kill()
            stop(cluster, "immediate")


def _loaded(client: httpx.Client, documents: Documents, kept: KeptFiles) -> str:
    archive = {"file": ("bench.zip", write_archive(documents, kept))}
    return str(client.post("/productions/archive", files=archive).json()["id"])


def _one_key(service: Service) -> None:
    with service.client() as client:
        times: dict[str, list[float]] = {"small": [], "large": []}
        ids, bytes_ = {}, 0
        for size, (channels, keys) in {"small": (10, 10), "large": (180, 100)}.items():
            whole, motion, kept = puppet("tree", channels, 2 * keys + 4, (500, 360), keys)
            documents = Documents({"bench": Production(id="bench", name="Bench")}).with_(whole, motion)
            ids[size] = _loaded(client, documents, kept)
        # Turn about, so that whatever else the machine does falls on both alike.
        for n in range(TIMES):
            for size, id in ids.items():
                key = {"joint": f"tree-{n % 9}", "kind": "turn", "frame": n % 20, "value": [n + 0.5]}
                command = {"do": "set-keys", "motion": "tree-m", "keys": [key]}
                body = {"id": secrets.token_hex(8), "window": "bench", "base": n, "command": command}
                began = time.perf_counter()
                answer = client.post(f"/productions/{id}/changes", json=body)
                times[size].append(time.perf_counter() - began)
                bytes_ = max(bytes_, len(answer.content)) if size == "large" else bytes_
    large, small = median(times["large"][5:]), median(times["small"][5:])
    against = "the same on 10 channels × 10 keys"
    report("one key on 180 channels × 100 keys, HTTP", f"{large * 1e3:.2f} ms", large / small, against, "≤ 1.5")
    report("its answer", f"{bytes_} bytes", bytes_ / 4096, "4 KB", "≤ 1")


def _tries(service: Service) -> None:
    documents, kept = production(200, 48)
    with service.client() as client:
        id = _loaded(client, documents, kept)
    address = service.address.replace("http", "ws")
    with connect(f"{address}/api/productions/{id}/live", origin=service.address, max_size=None) as socket:  # type: ignore[arg-type]

        def until(kind: str) -> None:
            while msgspec.msgpack.decode(socket.recv())["type"] != kind:
                pass

        socket.send(msgspec.msgpack.encode({"type": "watch", "target": {"kind": "rest", "puppet": "tree"}}))
        until("plan")
        times = []
        for n in range(2 * TIMES):
            command = {"do": "shift-pieces", "puppet": "tree", "pieces": ["tree-5"], "dx": n, "dy": 0}
            began = time.perf_counter()
            socket.send(msgspec.msgpack.encode({"type": "try-command", "n": n, "command": command}))
            until("pose")
            times.append((time.perf_counter() - began) * 1000)
    late = quantiles(times[10:], n=20)[-1]
    report("a try at 200 pieces, p95", f"{late:.1f} ms", late / DISPLAY_FRAME, "one display frame", "≤ 1")


if __name__ == "__main__":
    main()
