"""The Motion bench's own work: planned walks, the planner under a slider, the sheet, cards and onion skin."""

from __future__ import annotations

import time
from collections.abc import Callable

import numpy as np
from playwright.sync_api import Page

from bench.page import DISPLAY_FRAME, opened
from bench.scenes import changed, leaf, report, seconds
from sorvan.core.model.base import asset_id
from sorvan.core.model.channel import Channel, Key
from sorvan.core.model.documents import Documents
from sorvan.core.model.motion import Motion, Pose
from sorvan.core.model.puppet import Drawing, Piece, Puppet
from sorvan.core.plan.evaluate import Evaluation
from sorvan.interchange.archive import KeptFiles
from sorvan.picture.studio import ART_MEDIA
from tests.core.walkers import planned, walker
from tests.core.worlds import Oracle

RATE = 240
"""Frames that a sheet's display frames are looked at for."""


def walking(pieces: int = 60) -> tuple[Documents, KeptFiles]:
    """A planned walk of a figure of so many pieces: what a walker has, and things worn on all of it."""
    documents = walker(toes=True, lean=10.0)
    data = leaf(3).model_dump_json().encode()
    art = asset_id(data)
    held = documents.puppet("a")
    made: dict[str, Piece] = {}
    for p in held.pieces.values():
        box = p.drawings[0].bounds
        made[p.id] = p.model_copy(
            update={"drawings": (Drawing(id="d", name="leaf", art=art, pivot=p.drawings[0].pivot, bounds=box),)}
        )
    joints = list(held.joints)
    for n in range(pieces - len(made)):
        drawing = Drawing(id="d", name="leaf", art=art, pivot=(0, 0), bounds=(-2, -24, 92, 24))
        made[f"worn{n}"] = Piece(id=f"worn{n}", name=f"worn {n}", joint=joints[n % len(joints)], drawings=(drawing,))
    whole = held.changed(pieces=made, order=tuple(made))
    return planned(documents.with_(whole), frames=24), {art: (ART_MEDIA, data)}


def full() -> None:
    """A planned walk of 60 pieces, against the plain evaluator and bare matrix products."""
    documents, _ = walking()
    puppet, motion = documents.puppet("a"), documents.motion("m")
    ours = seconds(lambda: Evaluation.full(puppet, motion), 25)
    oracle = Oracle(puppet, motion)
    began = time.perf_counter()
    for frame in range(motion.length):
        oracle.pieces(frame)
    plain = time.perf_counter() - began
    a, b = np.random.default_rng(9).random((2, motion.length * len(puppet.order), 3, 3))
    bare = seconds(lambda: (np.matmul(a, b), np.matmul(b, a)), 25)
    report(
        "planned walk, 60 × 24, all of it",
        f"{ours * 1e3:.2f} ms",
        plain / ours,
        "as fast as the plain evaluator",
        "≥ 20",
    )
    report(
        "planned walk, 60 × 24, all of it",
        f"{ours * 1e3:.2f} ms",
        ours / bare,
        "the time of bare NumPy matrix products",
        "look at it",
    )


def one_key() -> None:
    """One key of a planned walk's arm, with its feet planted, against evaluating all."""
    documents, _ = walking()
    documents = changed(documents, {"do": "match-travel", "motion": "m"})
    puppet = documents.puppet("a")
    evaluation = Evaluation.full(puppet, documents.motion("m"))
    whole = seconds(lambda: Evaluation.full(puppet, documents.motion("m")), 25)
    times = []
    for n in range(60):
        key = {"joint": "near-forearm", "kind": "turn", "frame": n % 24, "value": [-20 - n]}
        documents = changed(documents, {"do": "set-keys", "motion": "m", "keys": [key]})
        began = time.perf_counter()
        evaluation, _ = evaluation.after(puppet, documents.motion("m"))
        times.append(time.perf_counter() - began)
    ours = float(np.median(times))
    report(
        "planted walk, 60 × 24, one key", f"{ours * 1e3:.2f} ms", ours / whole, "the time of evaluating it all", "≤ 1"
    )


def planner() -> None:
    """A slider of the planner: from its movement to the whole cycle drawn anew, against display frames."""
    documents, kept = walking()
    with opened(documents, kept, 1280, 800) as page:
        page.get_by_role("button", name="gait", exact=True).click()
        slider = page.get_by_role("slider", name="Bounce")
        slider.scroll_into_view_if_needed()
        waits = slider.evaluate(
            """async (slider) => {
              const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value").set;
              const waits = [];
              for (let i = 0; i < 60; i++) {
                performance.clearMarks();
                const began = performance.now();
                set.call(slider, String(2 + (i % 12)));
                slider.dispatchEvent(new Event("input", { bubbles: true }));
                while (!performance.getEntriesByName("sorvan:tried").length && performance.now() - began < 2000)
                  await new Promise((go) => setTimeout(go, 1));
                waits.push(performance.getEntriesByName("sorvan:tried")[0]?.startTime - began);
                await new Promise((go) => setTimeout(go, 30));
              }
              return waits.filter((w) => w !== null);
            }"""
        )
    wait = float(np.percentile(waits[10:], 95))
    report(
        "planner's slider to the new cycle, p95",
        f"{wait:.1f} ms",
        wait / DISPLAY_FRAME,
        "one display frame at 60 Hz",
        "≤ 2",
    )


def crowded() -> tuple[Documents, KeptFiles]:
    """A motion of 200 threads and 1,000 frames with 20,000 keys, and 50 poses."""
    documents, kept = walking(20)
    puppet = documents.puppet("a")
    first = next(iter(puppet.joints))
    joints = dict(puppet.joints)
    for n in range(200 - 5):
        joints[f"x{n}"] = puppet.joints[first].model_copy(
            update={"id": f"x{n}", "name": f"thread {n}", "parent": first}
        )
    wide = puppet.changed(joints=joints)
    channels = {}
    for n, joint in enumerate([*joints][:200]):
        keys = {f: Key(value=(float((f * 7 + n) % 40),)) for f in range(n % 10, 1000, 10)}
        channels[f"{joint}.turn"] = Channel(joint=joint, kind="turn", keys=keys)
    poses = {f: Pose(label=f"pose {f // 20}") for f in range(0, 1000, 20)}
    motion = Motion(id="m", name="crowd", puppet="a", length=1000, channels=channels, poses=poses)
    bare = Puppet.model_validate(wide.model_dump() | {"chains": {}})
    return documents.with_(bare, motion), kept


FRAMES = """(act) => new Promise((done) => {
  const body = document.querySelector(".timing-body");
  const times = [];
  let n = 0;
  const step = (now) => {
    times.push(now);
    if (n++ >= %d) return done(times);
    (%s)(body, n);
    requestAnimationFrame(step);
  };
  requestAnimationFrame(step);
})"""
ACTS = {
    "scrolled across": "(body, n) => { body.scrollLeft += n % 80 < 40 ? 60 : -60; }",
    "scrolled down": "(body, n) => { body.scrollTop += n % 160 < 80 ? 45 : -45; }",
    "zoomed": "(body, n) => body.dispatchEvent(new WheelEvent('wheel', { deltaY: n % 40 < 20 ? -60 : 60, ctrlKey: true, clientX: 700, clientY: 650, bubbles: true, cancelable: true }))",
}


def _late(times: list[float]) -> float:
    """The part of display frames that were met."""
    gaps = np.diff(np.array(times))[10:]
    return float((gaps < 1.5 * DISPLAY_FRAME).mean())


def _worked(page: Page, act: Callable[[], float]) -> tuple[float, float]:
    """What an act answers, and the work of the page's own thread meanwhile for every frame looked at (ms)."""
    session = page.context.new_cdp_session(page)
    session.send("Performance.enable")

    def worked() -> float:
        told = session.send("Performance.getMetrics")["metrics"]
        return 1000 * next(float(m["value"]) for m in told if m["name"] == "TaskDuration")

    before = worked()
    answer = act()
    return answer, (worked() - before) / RATE


def sheet_and_cards() -> None:
    """The sheet of 200 threads × 1,000 frames × 20,000 keys in motion, and 50 thumbnails, against display frames."""
    documents, kept = crowded()
    with opened(documents, kept, 1280, 800) as page:
        page.wait_for_function(
            "() => [...document.querySelectorAll('.pose-thumb')].filter((c) => c.getContext('2d').getImageData(0, 0, c.width, c.height).data.some((v) => v > 0)).length > 10"
        )
        made = page.evaluate("document.querySelectorAll('.pose-thumb').length")
        thumbs = page.evaluate("performance.getEntriesByName('sorvan:thumbnail').map((m) => m.detail)")
        page.get_by_label("Wider frames").click()
        # Cards that have never been seen are drawn when they first come into the window: that is another figure.
        first = {name: _late(page.evaluate(FRAMES % (RATE, act))) for name, act in ACTS.items()}
        for act in ACTS.values():
            page.evaluate(FRAMES % (RATE, act))
        report(
            "sheet, 20,000 keys, seen for the first time",
            f"{min(first.values()) * 100:.1f} % on time",
            min(first.values()),
            "the display frames due",
            "look at it",
        )
        for name, act in ACTS.items():
            part, work = _worked(page, lambda act=act: _late(page.evaluate(FRAMES % (RATE, act))))
            what = f"{part * 100:.1f} % on time, {work:.1f} ms of work"
            report(f"sheet, 20,000 keys, {name}", what, part, "the display frames due", "1.0")
        report("sheet, 20,000 keys, boxes drawn", *_boxes(page))
    whole = float(np.sum(thumbs)) if thumbs else float("nan")
    report(
        f"{made} thumbnails drawn", f"{whole:.0f} ms in all", whole / max(made, 1) / DISPLAY_FRAME,
        "one display frame each", "≤ 0.5",
    )  # fmt: skip


def _boxes(page: Page) -> tuple[str, float, str, str]:
    area = page.get_by_role("grid", name="Keys by frame").bounding_box()
    assert area is not None
    page.evaluate(
        "window.__times = []; const look = (now) => { window.__times.push(now); window.__look = requestAnimationFrame(look); }; window.__look = requestAnimationFrame(look);"
    )
    for n in range(6):
        page.mouse.move(area["x"] + 20, area["y"] + 20)
        page.mouse.down()
        for i in range(30):
            page.mouse.move(area["x"] + 20 + i * 25, area["y"] + 20 + (i + n) * 3)
            page.wait_for_timeout(8)
        page.mouse.up()
    times = page.evaluate("cancelAnimationFrame(window.__look), window.__times")
    part = _late(times)
    return f"{part * 100:.1f} % on time", part, "the display frames due", "1.0"


def onion() -> None:
    """Six frames of onion skin, each one drawn for the first time, against half a display frame each."""
    documents, kept = walking()
    with opened(documents, kept, 1280, 800) as page:

        def painted(step: int) -> float:
            page.evaluate("performance.clearMarks()")
            for n in range(12):
                frame = page.get_by_label("Frame", exact=True)
                frame.fill(str((n * step) % 24 + 1))
                frame.press("Enter")
                page.wait_for_timeout(60)
            found = page.evaluate("performance.getEntriesByName('sorvan:painted').map((m) => m.detail)")
            return float(np.median(found))

        bare = painted(7)
        page.locator(".stage").focus()
        page.evaluate(
            "localStorage.setItem('sorvan-onion', JSON.stringify({ on: true, before: 3, after: 3, every: 1 }))"
        )
        page.reload()
        page.wait_for_selector(".stage canvas[data-drawn]")
        page.wait_for_timeout(2000)
        cold = painted(7)
        near = painted(1)
    for name, cost in (("all six new", cold), ("one new, as when stepping", near)):
        each = max(cost - bare, 0) / 6
        report(
            f"onion skin of six, {name}",
            f"{cost:.1f} ms, {bare:.1f} without",
            each / DISPLAY_FRAME,
            "one display frame for each skin",
            "≤ 0.5",
        )


def main() -> None:
    """All of it."""
    full()
    one_key()
    planner()
    sheet_and_cards()
    onion()


if __name__ == "__main__":
    main()
