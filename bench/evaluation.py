"""Evaluating all frames at once, and working out one moved key."""

from __future__ import annotations

import time

import numpy as np

from bench.scenes import changed, production, puppet, report, seconds
from sorvan.core.model.documents import Documents
from sorvan.core.model.production import Production
from sorvan.core.plan.evaluate import Evaluation
from tests.core.worlds import Oracle

PIECES, FRAMES = 60, 240


def full() -> None:
    """60 pieces × 240 frames against the plain per-frame evaluator and bare matrix products."""
    documents, _ = production(PIECES, FRAMES)
    tree, motion = documents.puppet("tree"), documents.motion("tree-m")
    ours = seconds(lambda: Evaluation.full(tree, motion), 25)
    oracle = Oracle(tree, motion)
    began = time.perf_counter()
    for frame in range(0, FRAMES, 24):
        oracle.pieces(frame)
    plain = (time.perf_counter() - began) * 24
    # Two products for every piece and frame: joint on parent, and piece on joint.
    a, b = np.random.default_rng(9).random((2, FRAMES * PIECES, 3, 3))
    bare = seconds(lambda: (np.matmul(a, b), np.matmul(b, a)), 25)
    report(
        f"full evaluation, {PIECES} × {FRAMES}",
        f"{ours * 1e3:.2f} ms",
        plain / ours,
        "as fast as the plain evaluator",
        "≥ 100",
    )
    report(
        f"full evaluation, {PIECES} × {FRAMES}",
        f"{ours * 1e3:.2f} ms",
        ours / bare,
        "the time of bare NumPy matrix products",
        "≤ 3",
    )


def one_key() -> None:
    """One key moved among ten puppets over 2,880 frames, against evaluating all of it."""
    frames, many = 2880, 10
    documents = Documents({"bench": Production(id="bench", name="Bench")})
    for i in range(many):
        whole, motion, _ = puppet(f"p{i}", 40, frames, (100 + 100 * i, 360), keys=60)
        documents = documents.with_(whole, motion)

    def everything() -> list[Evaluation]:
        return [Evaluation.full(documents.puppet(f"p{i}"), documents.motion(f"p{i}-m")) for i in range(many)]

    whole_time = seconds(everything, 3)
    evaluations = everything()
    times = []
    for n in range(30):
        began = time.perf_counter()
        key = {"joint": "p3-5", "kind": "turn", "frame": 48 * (n % 50), "value": [n + 0.5]}
        documents = changed(documents, {"do": "set-keys", "motion": "p3-m", "keys": [key]})
        evaluations = [
            e.after(documents.puppet(f"p{i}"), documents.motion(f"p{i}-m"))[0] for i, e in enumerate(evaluations)
        ]
        times.append(time.perf_counter() - began)
    ours = float(np.median(times))
    report(
        f"one key, {many} puppets × {frames} frames",
        f"{ours * 1e3:.2f} ms",
        ours / whole_time,
        "the time of evaluating it all",
        "≤ 50 ms",
    )


if __name__ == "__main__":
    full()
    one_key()
