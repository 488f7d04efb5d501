"""The conductor's mouths: ten that speak, and ten that speak sadly."""

from __future__ import annotations

from sorvan.demo.paper import cut, flat, line, ring

LIPS, INSIDE, TONGUE, TEETH, SHADE = "#8d3b35", "#5a1f22", "#d9705f", "#fbf3e4", "#c98a6d"
X, Y = 640.0, 227.0
"""The middle of the upper lip, in stage units: it stays while the jaw moves."""
NAMES = (
    "rest", "pressed", "tucked", "narrow", "tongue up", "wide", "half open", "open", "round open", "pucker",
)  # fmt: skip
MOODS = ("plain", "sad")
PIECES = tuple(f"mouth {'sad ' if mood == 'sad' else ''}{name}" for mood in MOODS for name in NAMES)
"""The pieces that become drawings of the mouth, in the order of their numbers."""


def mouth_art() -> dict[str, str]:
    """What each of these pieces is cut from."""
    found: dict[str, str] = {}
    for mood in MOODS:
        # Corners are pulled up a little when all is well, and down when it is not.
        corner = -1.5 if mood == "plain" else 3.5
        drawn = (
            _rest(mood), _pressed(corner), _tucked(corner), _narrow(corner), _tongue_up(corner),
            _open(19, 9, corner, teeth=4.4), _open(13, 11, corner, teeth=2.6), _open(15.5, 18, corner, 3.4, tongue=True),
            _round(10.5, 9.5, corner), _pucker(corner),
        )  # fmt: skip
        prefix = "mouth sad " if mood == "sad" else "mouth "
        found |= {f"{prefix}{name}": art for name, art in zip(NAMES, drawn, strict=True)}
    return found


def _bow(half: float, corner: float, rise: float = 2.0) -> str:
    """The upper lip from corner to corner: half its width, how far its corners hang, how far its middle rises."""
    return f"M{X - half:g} {Y + corner + 1.5:g}Q{X - half * 0.45:g} {Y - rise:g} {X:g} {Y:g}Q{X + half * 0.45:g} {Y - rise:g} {X + half:g} {Y + corner + 1.5:g}"


def _shape(half: float, opening: float, corner: float) -> str:
    """The whole opening: the upper lip, and the lower one so far below it."""
    low = Y + opening
    return (
        f"{_bow(half, corner)}C{X + half * 0.9:g} {low - opening * 0.25:g} {X + half * 0.55:g} {low:g} {X:g} {low:g}"
        f"C{X - half * 0.55:g} {low:g} {X - half * 0.9:g} {low - opening * 0.25:g} {X - half:g} {Y + corner + 1.5:g}Z"
    )


def _lip(half: float, opening: float, corner: float) -> str:
    return line(_shape(half, opening, corner), LIPS, 2.8)


def _below(opening: float) -> str:
    """The shade under the lower lip."""
    return line(
        f"M{X - 6:g} {Y + opening + 5:g}Q{X:g} {Y + opening + 7:g} {X + 6:g} {Y + opening + 5:g}", SHADE, 2, 0.7
    )


def _teeth(half: float, corner: float, high: float) -> str:
    """The upper row, so far down from the lip."""
    inside = half - 2.5
    return flat(
        f"M{X - inside:g} {Y + corner * 0.5 + 1:g}Q{X - half * 0.4:g} {Y - 0.5:g} {X:g} {Y + 0.5:g}"
        f"Q{X + half * 0.4:g} {Y - 0.5:g} {X + inside:g} {Y + corner * 0.5 + 1:g}L{X + inside - 2:g} {Y + high:g}"
        f"Q{X:g} {Y + high + 1.6:g} {X - inside + 2:g} {Y + high:g}Z",
        TEETH,
    )


def _rest(mood: str) -> str:
    if mood == "plain":
        return line(f"M{X - 17:g} {Y + 1.5:g}Q{X:g} {Y + 13:g} {X + 17:g} {Y + 1.5:g}", LIPS, 3.6) + line(
            f"M{X - 20:g} {Y + 0.5:g}Q{X - 18:g} {Y + 0.5:g} {X - 16:g} {Y + 3:g}M{X + 20:g} {Y + 0.5:g}Q{X + 18:g} {Y + 0.5:g} {X + 16:g} {Y + 3:g}",
            SHADE,
            2,
            0.8,
        )
    return line(f"M{X - 15:g} {Y + 8:g}Q{X:g} {Y - 1.5:g} {X + 15:g} {Y + 8:g}", LIPS, 3.6) + _below(5)


def _pressed(corner: float) -> str:
    seam = f"M{X - 14:g} {Y + 4 + corner:g}Q{X - 6:g} {Y + 2.5:g} {X:g} {Y + 3.6:g}Q{X + 6:g} {Y + 2.5:g} {X + 14:g} {Y + 4 + corner:g}"
    lips = f"M{X - 14:g} {Y + 4 + corner:g}Q{X - 6:g} {Y - 1:g} {X:g} {Y + 1:g}Q{X + 6:g} {Y - 1:g} {X + 14:g} {Y + 4 + corner:g}Q{X:g} {Y + 10.5:g} {X - 14:g} {Y + 4 + corner:g}Z"
    return cut(lips, "#b9574c", lift=0) + line(seam, LIPS, 2.6) + _below(5)


def _tucked(corner: float) -> str:
    return (
        flat(_shape(14, 8, corner), INSIDE)
        + _teeth(14, corner, 6)
        + line(_bow(14, corner), LIPS, 2.8)
        + cut(f"M{X - 12:g} {Y + 5.5:g}Q{X:g} {Y + 3.6:g} {X + 12:g} {Y + 5.5:g}Q{X + 8:g} {Y + 10.5:g} {X:g} {Y + 10.5:g}Q{X - 8:g} {Y + 10.5:g} {X - 12:g} {Y + 5.5:g}Z", "#b9574c", lift=0)
        + _below(9)
    )  # fmt: skip


def _narrow(corner: float) -> str:
    return (
        flat(_shape(15, 8, corner), TEETH)
        + line(f"M{X - 12:g} {Y + 4 + corner * 0.3:g}Q{X:g} {Y + 5:g} {X + 12:g} {Y + 4 + corner * 0.3:g}", SHADE, 1.4)
        + _lip(15, 8, corner)
        + _below(7)
    )


def _tongue_up(corner: float) -> str:
    tip = f"M{X - 7:g} {Y + 10.5:g}Q{X - 6:g} {Y + 2.2:g} {X:g} {Y + 2:g}Q{X + 6:g} {Y + 2.2:g} {X + 7:g} {Y + 10.5:g}Z"
    return (
        flat(_shape(13, 12, corner), INSIDE)
        + _teeth(13, corner, 3)
        + flat(tip, TONGUE)
        + _lip(13, 12, corner)
        + _below(10)
    )


def _open(half: float, opening: float, corner: float, teeth: float, tongue: bool = False) -> str:
    low = Y + opening
    lying = f"M{X - half * 0.55:g} {low - 2:g}Q{X - half * 0.5:g} {low - opening * 0.42:g} {X:g} {low - opening * 0.38:g}Q{X + half * 0.5:g} {low - opening * 0.42:g} {X + half * 0.55:g} {low - 2:g}Q{X:g} {low:g} {X - half * 0.55:g} {low - 2:g}Z"
    return (
        flat(_shape(half, opening, corner), INSIDE)
        + _teeth(half, corner, teeth)
        + (flat(lying, TONGUE) if tongue or opening > 10 else "")
        + _lip(half, opening, corner)
        + (_below(opening) if opening < 14 else "")
    )


def _round(wide: float, high: float, corner: float) -> str:
    y = Y + high - 1 + corner * 0.3
    return (
        flat(ring(X, y, wide, high), INSIDE)
        + flat(ring(X, y + high * 0.55, wide * 0.6, high * 0.36), TONGUE)
        + line(ring(X, y, wide, high), LIPS, 3.4)
    )


def _pucker(corner: float) -> str:
    y = Y + 6 + corner * 0.4
    creases = f"M{X - 11:g} {y - 4:g}Q{X - 9:g} {y:g} {X - 11:g} {y + 4:g}M{X + 11:g} {y - 4:g}Q{X + 9:g} {y:g} {X + 11:g} {y + 4:g}"
    return (
        cut(ring(X, y, 8.5, 8), "#b9574c", lift=0) + flat(ring(X, y, 3.6, 3.8), INSIDE) + line(creases, SHADE, 1.8, 0.8)
    )
