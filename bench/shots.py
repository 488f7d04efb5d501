"""Long shots: what opening one costs, and one key in it; and a production of fifty shots at a glance."""

from __future__ import annotations

import resource
import time

from bench.scenes import changed, puppet, report, seconds
from sorvan.core.checks.shots import findings
from sorvan.core.film.film import film
from sorvan.core.model.documents import Documents
from sorvan.core.model.production import Production
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.shot.scene import InShot, ShotScene
from sorvan.picture.studio import Studio
from sorvan.service.windows.shot_view import ShotView

PUPPETS, PIECES, FRAMES = 10, 40, 2880


def long_shot() -> Documents:
    """Ten puppets of forty pieces that move for two minutes."""
    documents = Documents({"bench": Production(id="bench", name="Bench")})
    for n in range(PUPPETS):
        whole, motion, _ = puppet(f"tree{n}", PIECES, 240, (100.0 + 100 * n, 360.0), keys=20)
        documents = documents.with_(whole, motion)
    documents = changed(documents, {"do": "add-shot", "id": "s", "name": "Long", "length": FRAMES})
    for n in range(PUPPETS):
        cast = {"kind": "member", "id": f"c{n}", "puppet": f"tree{n}", "at": [100 * n, 300]}
        documents = changed(documents, {"do": "add-cast", "shot": "s", "cast": cast})
        span = {"id": "p", "motion": f"tree{n}-m", "start": 0, "frames": FRAMES}
        documents = changed(documents, {"do": "set-span", "shot": "s", "cast": f"c{n}", "span": span})
    return changed(documents, {"do": "set-shot", "shot": "s", "stage": "final"})


def laid(documents: Documents, frame: int, value: float) -> Documents:
    """A key of the shot laid over one puppet's motion."""
    keys = [
        {"joint": "tree3-5", "kind": "turn", "frame": f, "value": [v]} for f, v in ((frame, value), (frame + 30, 0.0))
    ]
    return changed(documents, {"do": "key-in-shot", "shot": "s", "cast": "c3", "keys": keys})


def main() -> None:
    """Print the ratios."""
    documents, target = long_shot(), InShot(shot="s")
    whole = documents.puppet("tree3")
    motion = documents.motion("tree3-m")
    alone = seconds(lambda: Evaluation.full(whole, motion.changed(length=FRAMES)), 3)
    began = time.perf_counter()
    scene = ShotScene.full(documents, target)
    full = time.perf_counter() - began
    report(
        "2-minute shot of 10 puppets, evaluated",
        f"{full:.2f} s",
        full / (PUPPETS * alone),
        "the puppets' motions alone",
        "≤ 3 ×",
    )

    documents = laid(documents, 600, 5.0)
    found = scene.after(documents, target)
    assert found is not None
    scene, times = found[0], []
    for n in range(9):
        documents = laid(documents, 600 + 60 * n, 9.0 + n)
        began = time.perf_counter()
        found = scene.after(documents, target)
        times.append(time.perf_counter() - began)
        assert found is not None and list(found[1]) == ["c3"]
        scene = found[0]
    edit = sorted(times)[len(times) // 2]
    report("one key moved in it", f"{1000 * edit:.0f} ms", edit / full, "evaluating the shot", "≤ 50 ms here, ≤ 0.1 ×")

    view = ShotView(documents, target, 0, Studio(lambda _: b""))
    began = time.perf_counter()
    first = view.start()
    shown = time.perf_counter() - began
    sent = sum(len(v) for letter in first for v in _blocks(letter.wire()))
    report("until its first part is sent", f"{shown:.2f} s", shown / full, "evaluating the shot", "≤ 1.5 ×")
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    report("memory of the process", f"{peak:.0f} MiB", peak / 1024, "1 GiB", "≤ 1 ×")
    print(f"    ({sent / 2**20:.1f} MiB in the first letters, of {len(view.waiting) + 1} parts)")

    many = documents
    for n in range(49):
        many = changed(many, {"do": "add-shot", "id": f"s{n}", "name": f"Shot {n}", "length": 72})
        cast = {"kind": "member", "id": "c", "puppet": "tree1", "at": [300, 300]}
        many = changed(many, {"do": "add-cast", "shot": f"s{n}", "cast": cast})
        span = {"id": "p", "motion": "tree1-m", "start": 0, "frames": 72}
        many = changed(many, {"do": "set-span", "shot": f"s{n}", "cast": "c", "span": span})

    def glance() -> None:
        for part in film(many).parts:
            findings(many, part.shot)

    began = time.perf_counter()
    glance()
    cold = time.perf_counter() - began
    warm = seconds(glance, 3)
    report("50 shots at a glance, the second time", f"{1000 * warm:.0f} ms", warm / cold, "the first time", "≤ 0.2 ×")


def _blocks(value: object) -> list[bytes]:
    if isinstance(value, bytes):
        return [value]
    if isinstance(value, dict):
        return [b for v in value.values() for b in _blocks(v)]
    if isinstance(value, list | tuple):
        return [b for v in value for b in _blocks(v)]
    return []


if __name__ == "__main__":
    main()
