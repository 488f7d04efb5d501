"""Drawings that become others: which point becomes which, all frames at once, and a mark that a hand moves."""

from __future__ import annotations

import time

import numpy as np

from bench.page import DISPLAY_FRAME, opened, waited
from bench.scenes import report, seconds
from sorvan.core.model.art import Art, Flat, Outline, Shape
from sorvan.core.model.puppet import Mark, Morph
from sorvan.core.morph.contour import Contour, straight
from sorvan.core.morph.correspond import alike
from sorvan.core.morph.making import ready
from sorvan.core.morph.match import ContourSeen, costs
from sorvan.demo.quay import build

SHAPES, FRAMES = 30, 48


def outline(count: int, seed: int) -> np.ndarray:
    """A wavering outline of so many corners, `(n, 2)`."""
    random = np.random.default_rng(seed)
    angles = np.linspace(0, 2 * np.pi, count, endpoint=False)
    radius = 60 + sum(random.normal(0, 12 / k) * np.cos(k * angles + random.uniform(0, 6)) for k in range(1, 7))
    return np.stack([radius * np.cos(angles), radius * np.sin(angles)], axis=1)


def contour(corners: np.ndarray) -> Contour:
    return Contour(np.array([straight(a, b) for a, b in zip(corners, np.roll(corners, -1, axis=0), strict=True)]), True)


def correspondence() -> None:
    """Two outlines of 400 points, every begin and both directions searched, against looking at all their pairs once."""
    one, two = contour(outline(400, 1)), contour(outline(400, 2))
    ours = seconds(lambda: alike(one, two), 3)
    a, b = (ContourSeen.of(c, np.arange(400.0)) for c in (one, two))
    pairs = seconds(lambda: costs(a, b), 5)
    report(
        "correspondence, 400 × 400",
        f"{ours * 1e3:.0f} ms",
        ours / pairs,
        "the time to price every pair of points once",
        "none set",
    )


def drawn(seed: int) -> Art:
    """A drawing of many shapes, with curves."""
    nodes = []
    for n in range(SHAPES):
        p = outline(12, 100 * seed + n) * 0.4 + np.array([120 * (n % 6), 120 * (n // 6)])
        points = [*p[0]]
        for k in range(12):
            a, b = p[k], p[(k + 1) % 12]
            points += [*(a + (b - a) / 3 + 4), *(b - (b - a) / 3 + 4), *b]
        colour = f"#{(40 * n + 30 * seed) % 256:02x}{(90 + 5 * n) % 256:02x}80ff"
        nodes.append(Shape(outline=Outline(verbs="M" + "C" * 12 + "Z", points=tuple(points)), fill=Flat(colour=colour)))
    return Art(bounds=(-80, -80, 700, 600), nodes=tuple(nodes))


def frames() -> None:
    """A marked morph of 30 shapes over 48 frames, points and colours, against mixing as many bare numbers."""
    one, two = drawn(1), drawn(2)
    marks = {
        f"m{n}": Mark(
            id=f"m{n}", first=(120.0 * (n % 6) + 24, 120.0 * (n // 6)), second=(120.0 * (n % 6) + 24, 120.0 * (n // 6))
        )
        for n in range(SHAPES)
    }
    parts = np.linspace(0, 1, FRAMES)
    for way in ("straight", "turn", "swing"):
        morph = Morph(id="m", first="a", second="b", marks=marks, way=way)
        began = time.perf_counter()
        made = ready(one, two, ((0, 0), (0, 0)), morph)
        preparing = time.perf_counter() - began
        ours = seconds(lambda made=made: (made.points_at(parts), made.looks_at(parts)), 15)
        a, b = made.points
        bare = seconds(lambda a=a, b=b: a[:, :, None] + parts * (b - a)[:, :, None], 15)
        report(
            f"morph, {SHAPES} shapes × {FRAMES} frames, {way}",
            f"{ours * 1e3:.2f} ms (made ready in {preparing * 1e3:.0f} ms)",
            ours / bare,
            "the time of mixing the bare points with NumPy",
            "none set",
        )


def mark() -> None:
    """A match mark pulled in the browser: from the pointer to the in-between and its outline drawn anew."""
    documents, kept = build()
    with opened(documents, kept, 1280, 800) as page:
        page.locator(".left .dropdown-toggle, .left [aria-haspopup]").first.click()
        page.locator(".dropdown-menu.show").get_by_text("Steam whistle").click()
        page.get_by_title("Select all keys of steam, drawing").click()
        page.get_by_role("button", name="Match marks and ways").click()
        page.wait_for_selector(".morph-row:not([data-busy])")
        sign = page.locator(".lineup.morph").nth(2).locator("[data-mark='3']")
        box = sign.bounding_box()
        assert box is not None
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        page.mouse.move(x, y)
        page.mouse.down()
        for n in range(200):
            page.mouse.move(x + 6 * np.cos(n / 9), y + 6 * np.sin(n / 9))
            page.wait_for_timeout(24)
        page.mouse.up()
        waits = waited(page)
    late = float(np.percentile(waits, 95))
    report("a mark pulled, p95", f"{late:.1f} ms", late / DISPLAY_FRAME, "one display frame at 60 Hz", "≤ 1")


def main() -> None:
    correspondence()
    frames()
    mark()


if __name__ == "__main__":
    main()
