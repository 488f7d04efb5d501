"""What is very long or very deep: a motion sent in parts, and a chain of thousands of joints."""

from __future__ import annotations

import resource
import subprocess
import sys
import time

from bench.scenes import changed, production, report
from sorvan.core.model.documents import Documents
from sorvan.core.model.production import Production
from sorvan.core.plan.scene import AtRest, InMotion
from sorvan.picture.studio import NOTHING, Studio
from sorvan.service.windows.views import WatchedScene

PIECES, FRAMES = 503, 20_000
MB = 1024 * 1024


def _peak() -> int:
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024


def send() -> None:
    """Evaluate it and make every letter of it, as for one window; run by itself, so that its memory can be told."""
    documents, kept = production(PIECES, FRAMES)
    view = WatchedScene(documents, InMotion(motion="tree-m"), 1, Studio(lambda id: kept[id][1]))
    before = _peak()
    began = time.perf_counter()
    view.start()
    first = time.perf_counter() - began
    sent = 0
    while view.busy:
        sent += sum(len(getattr(letter, "matrices", b"")) for letter in view.more())
    print(_peak(), _peak() - before, first, time.perf_counter() - began, sent)


def motion() -> None:
    """503 joints × 20,000 frames, sent whole to a window."""
    done = subprocess.run(
        [sys.executable, "-c", "from bench import long; long.send()"], capture_output=True, text=True, check=True
    )
    peak, more, first, whole, _ = map(float, done.stdout.split())
    held = FRAMES * 8 * 6 * 3 * PIECES
    what = f"{PIECES} joints × {FRAMES} frames, one window"
    report(
        what,
        f"{peak / MB:.0f} MB",
        more / held,
        "the memory of holding it worked out (above what the rest takes)",
        "≤ 1 GB",
    )
    report(f"{what}, first part", f"{first:.2f} s", first / whole, "the time of all parts", "≤ 0.5")


def _chain(joints: int) -> float:
    began = time.perf_counter()
    documents = Documents({"bench": Production(id="bench", name="Bench")})
    documents = changed(documents, {"do": "add-puppet", "id": "a", "name": "Rope"})
    links = [
        {"id": f"j{i}", "name": f"link {i}", "at": [i, i % 2], "parent": f"j{i - 1}" if i else None}
        for i in range(joints)
    ]
    for start in range(0, joints, 500):
        documents = changed(documents, {"do": "add-joints", "puppet": "a", "joints": links[start : start + 500]})
    WatchedScene(documents, AtRest(puppet="a"), 1, Studio(lambda _: NOTHING.model_dump_json().encode())).start()
    return time.perf_counter() - began


def chain() -> None:
    """A chain of 3,000 joints drawn and opened, against one of 300."""
    short, long = _chain(300), _chain(3000)
    report("a chain of 3,000 joints, drawn and opened", f"{long:.2f} s", long / short, "the time of one of 300", "≤ 30")


if __name__ == "__main__":
    motion()
    chain()
