"""The quay's gull, cut from paper: two wings, each of one piece, that bend as it flies."""

from __future__ import annotations

from sorvan.demo.paper import cut, dot, drawing, flat, line, piece, ring

WHITE, GREY, DARK, BILL = "#f7f1e3", "#b9c4c6", "#2f3a44", "#e2a13a"
DY = 24.0
"""How far behind the near wing's shoulder the far one's lies, in units."""

SHOULDER, ELBOW, WRIST = (652.0, 300.0), (566.0, 262.0), (470.0, 254.0)

PIVOTS: dict[str, tuple[float, float]] = {
    "body": (650, 318),
    "head": (724, 300),
    "eye": (744, 286),
    "bill": (760, 296),
    "tail": (566, 330),
    "feet": (628, 350),
    "near wing": SHOULDER,
    "far wing": (SHOULDER[0] + DY, SHOULDER[1] - 6),
}
"""Where each piece turns, in stage units."""

LINKS: dict[str, str] = {
    "head": "body", "eye": "head", "bill": "head", "tail": "body", "feet": "body", "near wing": "body", "far wing": "body",
}  # fmt: skip
"""What each piece hangs on."""


def bends(wing: str) -> tuple[tuple[float, float], tuple[float, float]]:
    """Where a wing has its elbow and its wrist, in stage units."""
    dx, dy = (0.0, 0.0) if wing == "near wing" else (DY, -6.0)
    return (ELBOW[0] + dx, ELBOW[1] + dy), (WRIST[0] + dx, WRIST[1] + dy)


def _wing(name: str, dx: float, dy: float, top: str, under: str) -> str:
    def at(*numbers: float) -> str:
        return " ".join(f"{v + (dx if i % 2 == 0 else dy):g}" for i, v in enumerate(numbers))

    whole = (
        f"M{at(672, 300)}Q{at(620, 252, 566, 242)}Q{at(520, 228, 470, 232)}Q{at(400, 238, 344, 286)}"
        f"Q{at(392, 280, 424, 292)}Q{at(452, 298, 476, 294)}Q{at(500, 306, 528, 302)}Q{at(556, 318, 590, 312)}"
        f"Q{at(632, 338, 676, 322)}Z"
    )
    tip = f"M{at(470, 232)}Q{at(400, 238, 344, 286)}Q{at(392, 280, 424, 292)}Q{at(440, 262, 470, 232)}Z"
    feathers = "".join(line(f"M{at(*a)}L{at(*b)}", under, 2.2, 0.75) for a, b in (
        ((428, 288), (452, 264)), ((478, 290), (498, 262)), ((530, 298), (544, 270)), ((592, 308), (598, 280)),
    ))  # fmt: skip
    return piece(name, cut(whole, top), flat(tip, DARK), feathers)


def gull_svg() -> bytes:
    """The gull at rest on the stage, wings spread, every piece a named group."""
    return drawing(
        _wing("far wing", DY, -6, "#d6d6cc", "#9fa9aa"),
        piece("tail", cut("M588 314L512 334Q508 346 520 352L600 344Z", GREY, lift=2), line("M528 342L584 332", DARK, 2, 0.35)),
        piece("feet", line("M626 350Q612 362 596 358", BILL, 5), line("M642 352Q630 366 614 364", BILL, 5)),
        piece("body", cut("M574 328Q600 284 676 288Q726 290 748 312Q728 356 650 358Q600 356 574 328Z", WHITE),
              flat("M590 336Q650 352 734 322Q716 354 650 357Q606 354 590 336Z", GREY, 0.55)),
        piece("bill", cut("M754 288L802 300Q800 306 792 305L754 304Z", BILL, lift=1.5), line("M756 298L792 302", "#a8641f", 1.8)),
        piece("head", cut("M700 306Q696 270 730 264Q766 264 768 292Q766 316 738 320Q712 322 700 306Z", WHITE, lift=2)),
        piece("eye", dot(744, 286, 4.6, DARK), dot(745.6, 284.4, 1.4, "#ffffff"), line("M736 278Q744 273 752 277", DARK, 2, 0.7),
              flat(ring(744, 300, 3, 2), "#e8b9a0", 0.5)),
        _wing("near wing", 0, 0, GREY, "#7f8d92"),
    )  # fmt: skip
