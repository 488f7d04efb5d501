"""The harbour in layers, wider than the stage, for shots in which the camera goes along: dusk, a far shore, water, a
ferry, the quay, and ropes close in front."""

from __future__ import annotations

from sorvan.demo.paper import cut, dot, drawing, flat, limb, line, piece, ring

NAVY, BLUE, RED, CREAM, BRASS = "#203a56", "#2b4a6b", "#c2523c", "#f5e6c8", "#dca540"
LEFT, RIGHT = -900, 2300
"""How far the layers reach across, in stage units."""

SKY = (
    '<linearGradient id="dusk" x1="0" y1="0" x2="0" y2="1"><stop offset="0" stop-color="#23395b"/>'
    '<stop offset=".36" stop-color="#56688a"/><stop offset=".62" stop-color="#d79a6d"/>'
    '<stop offset=".78" stop-color="#f0c48a"/></linearGradient>'
)
SEA = (
    '<linearGradient id="deep" x1="0" y1="0" x2="0" y2="1"><stop offset="0" stop-color="#6f94a1"/>'
    '<stop offset="1" stop-color="#2f5669"/></linearGradient>'
)


def dusk_svg() -> bytes:
    """The evening sky: stars, the moon, and clouds of torn paper."""
    stars = "".join(
        dot(LEFT + (n * 379) % (RIGHT - LEFT), -260 + (n * 211) % 430, 1.6 + n % 3 * 0.7, "#fdf3e2") for n in range(70)
    )
    clouds = "".join(
        flat(f"M{x} {y}q30 -32 80 -18q30 -28 80 -6q50 -8 60 24z", "#f3dcc0", 0.5)
        for x, y in ((-560, 150), (-120, 96), (240, 176), (700, 110), (1260, 150), (1700, 92), (2000, 180))
    )
    return drawing(
        piece("sky", f'<rect x="{LEFT}" y="-420" width="{RIGHT - LEFT}" height="1200" fill="url(#dusk)"/>'),
        piece("stars", stars),
        piece("moon", flat(ring(930, 122, 78, 78), "#fff3d0", 0.22), cut(ring(930, 122, 48, 48), "#fff0c9", lift=1)),
        piece("clouds", clouds),
        defs=SKY,
    )


def shore_svg() -> bytes:
    """Hills on the other side, with a few lights."""
    back = "".join(f"Q{x + 160} {330 + x % 70} {x + 320} {392 - x % 40}" for x in range(LEFT, RIGHT, 320))
    front = "".join(f"Q{x + 130} {388 + x % 30} {x + 260} {424 - x % 24}" for x in range(LEFT, RIGHT, 260))
    lights = "".join(dot(x, 428 + x % 13, 2.6, "#ffe09a") for x in range(LEFT + 60, RIGHT, 137))
    return drawing(
        piece("far hills", cut(f"M{LEFT} 400{back}V640H{LEFT}Z", "#5f7d82", lift=0)),
        piece("near hills", flat(f"M{LEFT} 428{front}V640H{LEFT}Z", "#48666d"), lights),
    )


def water_svg() -> bytes:
    """The water, and three rows of waves that drift."""
    rows = []
    for n, (y, width, gap) in enumerate(((482, 40, 170), (516, 58, 230), (556, 80, 310))):
        waves = "".join(
            line(f"M{x} {y + x % 17}q{width / 4:g} -8 {width / 2:g} 0t{width / 2:g} 0", "#dbe7e4", 2.6 + n * 0.5, 0.5)
            for x in range(LEFT, RIGHT, gap)
        )
        rows.append(piece(f"waves {n + 1}", waves))
    return drawing(
        piece("water", f'<rect x="{LEFT}" y="446" width="{RIGHT - LEFT}" height="190" fill="url(#deep)"/>'),
        *rows,
        defs=SEA,
    )


def ferry_svg() -> bytes:
    """The ferry, large, with a chimney, and its light on the water."""
    windows = "".join(cut(ring(x, 395, 8, 8), "#ffdf9c", lift=1) for x in range(480, 800, 46))
    panes = "".join(cut(f"M{x} 330H{x + 26}V354H{x}Z", "#ffdf9c", lift=1) for x in range(530, 720, 40))
    return drawing(
        piece("reflection", flat("M430 500Q640 516 850 500L820 540Q640 552 470 540Z", "#ffe6ad", 0.16)),
        piece("chimney", cut("M652 226H700V322H652Z", NAVY, lift=2), flat("M652 246H700V268H652Z", BRASS)),
        piece("mast", cut(limb(800, 214, 2.5, 800, 420, 4), "#5b4336", lift=2),
              cut("M800 216Q840 222 866 236Q836 244 800 246Z", "#2f8b80", lift=1.5)),
        piece("cabin", cut("M510 314H744V372H510Z", CREAM, lift=2), panes),
        piece("deck", cut("M450 366H812V424H450Z", CREAM, lift=2), windows, line("M450 366H812", RED, 4, 0.8)),
        piece("hull", cut("M400 414H884Q872 470 836 502H452Q410 470 400 414Z", RED, lift=3), line("M400 414H884", CREAM, 6, 0.95),
              line("M424 456Q640 468 866 456", "#8f3829", 3, 0.6)),
    )  # fmt: skip


def quay_svg() -> bytes:
    """The planks of the quay, lamps, the booth with its clock, and bollards."""
    planks = "".join(
        line(f"M{x} 600L{x - (640 - x) * 0.16:.0f} 760", "#8a6a4f", 3, 0.55) for x in range(LEFT, RIGHT, 92)
    )
    return drawing(
        piece("planks", cut(f"M{LEFT} 590H{RIGHT}V1000H{LEFT}Z", "#b28a68", lift=-4), planks,
              line(f"M{LEFT} 594H{RIGHT}", "#e4c7a2", 6, 0.8)),
        piece("lamps", *(
            cut(limb(x, 290, 5, x, 606, 7), BLUE) + cut(f"M{x - 20} 602H{x + 20}L{x + 26} 620H{x - 26}Z", NAVY)
            + flat(ring(x, 272, 84, 84), "#ffe09a", 0.2) + cut(f"M{x - 16} 252H{x + 16}L{x + 10} 292H{x - 10}Z", "#ffe6ad", lift=1)
            + cut(f"M{x - 22} 254L{x} 234L{x + 22} 254Z", NAVY, lift=1)
            for x in (-420, 340, 1240, 1990)
        )),
        piece("booth",
              cut("M1440 330H1660V612H1440Z", "#c9614a"),
              "".join(line(f"M{x} 350V604", "#8f3829", 2, 0.35) for x in range(1470, 1660, 34)),
              cut("M1416 334L1448 276H1652L1684 334Z", NAVY),
              cut("M1476 376H1624V470H1476Z", "#f9ecd2", lift=1), flat("M1486 386H1614V460H1486Z", "#ffdf9c"),
              cut("M1462 468H1638V486H1462Z", "#8a5a3b", lift=3),
              cut(ring(1550, 308, 22, 22), CREAM, lift=1), line("M1550 308V293M1550 308H1538", NAVY, 3)),
        piece("bollards", *(
            cut(f"M{x - 22} 556Q{x - 22} 542 {x} 542Q{x + 22} 542 {x + 22} 556L{x + 18} 622H{x - 18}Z", NAVY)
            + line(f"M{x - 20} 574Q{x} 584 {x + 20} 574", "#e9d3a8", 6)
            for x in (-120, 760, 1780)
        )),
    )  # fmt: skip


def ropes_svg() -> bytes:
    """Posts and slack ropes close in front, dark against the evening."""
    posts = list(range(LEFT, RIGHT, 360))
    ropes = "".join(line(f"M{a} 640Q{a + 180} 712 {a + 360} 640", "#16222f", 12, 0.95) for a in posts[:-1])
    return drawing(
        piece("rope", ropes),
        piece("posts", *(cut(f"M{x - 17} 596Q{x} 582 {x + 17} 596V820H{x - 17}Z", "#1b2a3a", lift=2) for x in posts)),
    )


def puff_svg() -> bytes:
    """A puff of steam."""
    return drawing(
        piece("puff",
              flat("M600 560Q592 528 622 520Q630 490 662 500Q696 494 700 526Q722 540 704 564Q690 590 654 580Q612 590 600 560Z", "#fdf6ea", 0.9),
              flat("M616 560Q612 538 634 534Q642 514 664 520Q650 540 660 566Q636 578 616 560Z", "#d8d3cc", 0.55)),
    )  # fmt: skip


LETTERS = {
    "T": "M0 0H6M3 0V10", "H": "M0 0V10M6 0V10M0 5H6", "E": "M6 0H0V10H6M0 5H4.6", "L": "M0 0V10H6",
    "A": "M0 10L3 0L6 10M1.1 6.6H4.9", "S": "M6 1.6C5 -0.6 0 -0.6 0 2.5C0 5.5 6 4.6 6 7.6C6 10.6 1 10.6 0 8.4",
    "F": "M6 0H0V10M0 5H4.6", "R": "M0 10V0H3.4C7 0 7 5 3.4 5H0M2.8 5L6 10", "Y": "M0 0L3 5L6 0M3 5V10",
}  # fmt: skip
"""Painted letters, each six wide and ten high, as strokes."""
SIGN = (640.0, -60.0)
"""Where the sign's ropes meet, above the picture."""


def sign_svg() -> bytes:
    """The name of the ferry's last round, painted on a board that hangs on two ropes."""
    size, wide = 5.6, 50.0
    words = ("THE", "LAST", "FERRY")
    letters = [(c, n) for n, c in enumerate(" ".join(words)) if c != " "]
    left = 640 - (len(" ".join(words)) * wide - wide / 3) / 2
    painted = "".join(
        f'<g transform="translate({left + n * wide:g} 172) scale({size:g})">{line(LETTERS[c], "#fbe6b4", 1.5)}</g>'
        for c, n in letters
    )
    board = "M232 148Q640 138 1048 148L1054 252Q640 262 226 252Z"
    return drawing(
        piece("sign",
              line("M640 -60L300 150M640 -60L980 150", "#3a2c22", 6),
              cut(board, "#2f5d62", lift=6), line("M244 158Q640 149 1036 158L1041 242Q640 251 239 242Z", "#e8c98a", 3, 0.9),
              "".join(cut(ring(x, 166, 8, 8), "#e8c98a", lift=2) for x in (300, 980)), painted),
    )  # fmt: skip


PUFF = (650.0, 580.0)
FERRY = (640.0, 500.0)
"""Where a puff begins to rise, and where the ferry lies in the water."""
