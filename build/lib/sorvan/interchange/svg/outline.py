"""Path data and basic shapes as outlines, and outlines under transforms."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping
from functools import lru_cache
from xml.etree.ElementTree import Element

import numpy as np

from sorvan.core.geometry import IDENTITY, Affine, moved
from sorvan.core.model.art import Outline
from sorvan.interchange.svg.guard import local
from sorvan.interchange.svg.vocabulary import GEOMETRY

_COMMAND = re.compile(r"([MmLlHhVvCcSsQqTtAaZz])([^MmLlHhVvCcSsQqTtAaZz]*)")
LARGEST = 1e9
"""The largest number that means something in a drawing; beyond it products of a few overflow."""
_NUMBER = re.compile(r"[-+]?(?:\d+(?:\.\d*)?|\.\d+)(?:[eE][-+]?\d+)?")
# Nothing is given back once it is taken, so that a long list that goes wrong is not tried in every way.
_LIST = re.compile(r"[\s,]*+(?:[-+]?(?:\d++(?:\.\d*+)?|\.\d++)(?:[eE][-+]?\d++)?[\s,]*+)*+")
_LENGTH = re.compile(r"\s*([-+]?(?:\d+(?:\.\d*)?|\.\d+)(?:[eE][-+]?\d+)?)\s*(%|[a-zA-Z]*)\s*$")
_PLAIN = re.compile(r"-?\d{1,8}(?:\.\d{1,12})?")
_GAP = re.compile(r"[\s,]*")
_FLAG = re.compile(r"[01]")
# The word begins where no letter is before it: else every letter of a long one would be tried as its beginning.
_TRANSFORM = re.compile(r"\b([A-Za-z]{1,12})\s*\(([^)]*)\)")
_UNITS = {
    "px": 1.0,
    "pt": 4 / 3,
    "pc": 16.0,
    "mm": 96 / 25.4,
    "cm": 96 / 2.54,
    "in": 96.0,
    "q": 96 / 101.6,
    "": 1.0,
}
_TAKES = {"M": 2, "L": 2, "H": 1, "V": 1, "C": 6, "S": 4, "Q": 4, "T": 2}


class Pen:
    """Writes an outline segment by segment."""

    def __init__(self) -> None:
        self.verbs: list[str] = []
        self.points: list[float] = []
        self.start = self.at = (0.0, 0.0)

    def move(self, x: float, y: float) -> None:
        self.verbs.append("M")
        self._to(x, y)
        self.start = self.at

    def line(self, x: float, y: float) -> None:
        self._segment("L", x, y)

    def quad(self, a: float, b: float, x: float, y: float) -> None:
        self._segment("Q", a, b, x, y)

    def cubic(self, a: float, b: float, c: float, d: float, x: float, y: float) -> None:
        self._segment("C", a, b, c, d, x, y)

    def cubics(self, n: list[float], relative: bool) -> tuple[float, float]:
        """Many curves, six numbers each; returns the last one's second control point."""
        if not self.verbs or self.verbs[-1] == "Z":
            self.move(*self.at)
        x, y = self.at
        points = self.points
        ox, oy = (x, y) if relative else (0.0, 0.0)
        c = d = 0.0
        for i in range(0, len(n), 6):
            c, d, x, y = n[i + 2] + ox, n[i + 3] + oy, n[i + 4] + ox, n[i + 5] + oy
            points += (n[i] + ox, n[i + 1] + oy, c, d, x, y)
            if relative:
                ox, oy = x, y
        self.verbs += "C" * (len(n) // 6)
        self.at = (x, y)
        return c, d

    def close(self) -> None:
        if self.verbs and self.verbs[-1] != "Z":
            self.verbs.append("Z")
        self.at = self.start

    def _segment(self, verb: str, *numbers: float) -> None:
        if not self.verbs or self.verbs[-1] == "Z":
            self.move(*self.at)
        self.verbs.append(verb)
        self._to(*numbers)

    def _to(self, *numbers: float) -> None:
        self.points.extend(numbers)
        self.at = (numbers[-2], numbers[-1])

    def outline(self) -> Outline | None:
        """What was written, still to be transformed, and so checked; None if nothing was."""
        if len(self.verbs) < 2:
            return None
        return Outline.model_construct(verbs="".join(self.verbs), points=tuple(self.points))


def numbers(text: str) -> list[float]:
    """The numbers in a list, up to the first that is too large to be worked with."""
    found: list[float] = []
    for match in _NUMBER.findall(text):
        value = float(match)
        if not abs(value) <= LARGEST:
            break
        found.append(value)
    return found


def view_box(element: Element) -> tuple[float, float, float, float] | None:
    """The element's `viewBox` (SVG 1.1 §7.7): left, top, width, height. None if it has none that makes sense."""
    text = element.get("viewBox") or ""
    found = numbers(text)
    if len(found) != 4 or _NUMBER.sub("", text).strip(" \t\r\n,") or found[2] <= 0 or found[3] <= 0:
        return None
    return (found[0], found[1], found[2], found[3])


def parse_path(d: str) -> Outline | None:
    """The outline of SVG path data (SVG 1.1 §8.3). Drawing stops at the first mistake, as the standard says."""
    pen = Pen()
    control: tuple[float, float] | None = None
    before = ""
    for letter, rest in _COMMAND.findall(d):
        upper, relative = letter.upper(), letter.islower()
        if upper == "Z":
            pen.close()
            before, control = "Z", None
            continue
        if not pen.verbs and upper != "M":
            break
        if upper == "A":
            arcs, whole = _arcs(rest)
            for rx, ry, turn, large, sweep, x, y in arcs:
                ox, oy = pen.at if relative else (0.0, 0.0)
                _arc(pen, rx, ry, turn, large == 1, sweep == 1, x + ox, y + oy)
            before, control = "A", None
            if not whole:
                break
            continue
        found, whole = _leading(rest)
        takes = _TAKES[upper]
        if len(found) < takes:
            break
        if upper == "C" and whole and len(found) % 6 == 0:
            control, before = pen.cubics(found, relative), "C"
            continue
        for i in range(0, len(found) - takes + 1, takes):
            part = found[i : i + takes]
            control = _draw(pen, upper, part, relative, before, control)
            before = upper
            if upper == "M":
                upper = "L"
        if len(found) % takes or not whole:
            break
    return pen.outline()


def _leading(text: str) -> tuple[list[float], bool]:
    """The numbers that a text begins with, and whether there is nothing else in it."""
    found: list[float] | None
    try:
        # Most are parted by gaps; what Python alone takes for numbers is too large, or has a line in it.
        found = [float(n) for n in text.replace(",", " ").split()] if "_" not in text else None
    except ValueError:
        found = [float(n) for n in _NUMBER.findall(text)] if _LIST.fullmatch(text) else None
    if found is not None and (not found or (max(found) <= LARGEST and min(found) >= -LARGEST)):
        return found, True
    found, at = [], 0
    while True:
        match = _NUMBER.match(text, _GAP.match(text, at).end())  # type: ignore[union-attr]
        if match is None or not abs(float(match.group())) <= LARGEST:
            return found, not text[at:].strip(" \t\r\n,")
        found.append(float(match.group()))
        at = match.end()


def _arcs(text: str) -> tuple[list[tuple[float, ...]], bool]:
    """The arcs in the text behind an A, seven numbers each, and whether there is nothing else in it. The two flags in
    their middle are one digit each, and need no gap behind them (SVG 1.1 §8.3.9)."""
    found: list[tuple[float, ...]] = []
    at = 0
    while True:
        part: list[float] = []
        for n in range(7):
            match = (_FLAG if n in (3, 4) else _NUMBER).match(text, _GAP.match(text, at).end())  # type: ignore[union-attr]
            if match is None or not abs(float(match.group())) <= LARGEST:
                return found, bool(found) and not part and not text[at:].strip(" \t\r\n,")
            part.append(float(match.group()))
            at = match.end()
        found.append(tuple(part))


def _draw(
    pen: Pen, verb: str, n: list[float], relative: bool, before: str, control: tuple[float, float] | None
) -> tuple[float, float] | None:
    """Write one segment; returns its last control point, for the smooth segment that may follow."""
    ox, oy = pen.at if relative else (0.0, 0.0)
    cx, cy = pen.at
    if verb == "H":
        pen.line(n[0] + ox, cy)
        return None
    if verb == "V":
        pen.line(cx, n[0] + oy)
        return None
    p = [v + (oy if i % 2 else ox) for i, v in enumerate(n)]
    match verb:
        case "M":
            pen.move(*p)
        case "L":
            pen.line(*p)
        case "C":
            pen.cubic(*p)
            return (p[2], p[3])
        case "S":
            a, b = _reflected(control, pen.at) if before in "CS" else pen.at
            pen.cubic(a, b, *p)
            return (p[0], p[1])
        case "Q":
            pen.quad(*p)
            return (p[0], p[1])
        case "T":
            a, b = _reflected(control, pen.at) if before in "QT" else pen.at
            pen.quad(a, b, *p)
            return (a, b)
    return None


def _reflected(control: tuple[float, float] | None, at: tuple[float, float]) -> tuple[float, float]:
    return (2 * at[0] - control[0], 2 * at[1] - control[1]) if control else at


def _arc(pen: Pen, rx: float, ry: float, turn: float, large: bool, sweep: bool, x: float, y: float) -> None:
    """An elliptical arc as cubics. Source: SVG 1.1, appendix F.6.5–F.6.6."""
    x0, y0 = pen.at
    rx, ry = abs(rx), abs(ry)
    if (x0, y0) == (x, y):
        return
    if rx == 0 or ry == 0:
        pen.line(x, y)
        return
    phi = math.radians(turn)
    co, si = math.cos(phi), math.sin(phi)
    dx, dy = (x0 - x) / 2, (y0 - y) / 2
    px, py = co * dx + si * dy, -si * dx + co * dy
    grow = (px / rx) ** 2 + (py / ry) ** 2
    if grow > 1:
        rx, ry = rx * math.sqrt(grow), ry * math.sqrt(grow)
    bottom = (rx * py) ** 2 + (ry * px) ** 2
    root = math.sqrt(max(0.0, (rx * ry) ** 2 / bottom - 1)) * (-1 if large == sweep else 1)
    qx, qy = root * rx * py / ry, -root * ry * px / rx
    cx, cy = co * qx - si * qy + (x0 + x) / 2, si * qx + co * qy + (y0 + y) / 2
    first = math.atan2((py - qy) / ry, (px - qx) / rx)
    swept = math.atan2((-py - qy) / ry, (-px - qx) / rx) - first
    if sweep and swept < 0:
        swept += 2 * math.pi
    elif not sweep and swept > 0:
        swept -= 2 * math.pi
    parts = max(1, math.ceil(abs(swept) / (math.pi / 2) - 1e-9))
    step = swept / parts
    k = 4 / 3 * math.tan(step / 4)

    def on(u: float, v: float) -> tuple[float, float]:
        return (cx + co * rx * u - si * ry * v, cy + si * rx * u + co * ry * v)

    for i in range(parts):
        a, b = first + i * step, first + (i + 1) * step
        end = (x, y) if i == parts - 1 else on(math.cos(b), math.sin(b))
        pen.cubic(
            *on(math.cos(a) - k * math.sin(a), math.sin(a) + k * math.cos(a)),
            *on(math.cos(b) + k * math.sin(b), math.sin(b) - k * math.cos(b)),
            *end,
        )


Units = tuple[float, float]
"""How large an em and a rem are, in user units."""
PLAIN: Units = (16.0, 16.0)


def units_of(style: Mapping[str, str]) -> Units:
    """How large an em and a rem are where this style holds."""
    return (float(style.get("font-size", PLAIN[0])), float(style.get(ROOT_SIZE, PLAIN[1])))


ROOT_SIZE = "-rem"
"""What a style calls the font size of the whole drawing."""


@lru_cache(maxsize=1 << 14)
def _plainly(text: str) -> float | None:
    """A number that is written plainly."""
    return float(text) if _PLAIN.fullmatch(text) else None


def length(text: str | None, whole: float = 0.0, default: float = 0.0, units: Units = PLAIN) -> float:
    """A CSS length in user units; percentages are of `whole`."""
    if not text:
        return default
    if (plain := _plainly(text)) is not None:
        return plain
    found = _LENGTH.match(text)
    if not found:
        return default
    number, unit = float(found.group(1)), found.group(2).lower()
    if not abs(number) <= LARGEST:
        return default
    if unit == "%":
        return number * whole / 100
    if unit in ("em", "ex", "rem"):
        return number * {"em": units[0], "ex": units[0] / 2, "rem": units[1]}[unit]
    return number * _UNITS.get(unit, 1.0)


NOTHING_GIVEN: Mapping[str, str] = {}


def shape_outline(
    element: Element, view: tuple[float, float], style: Mapping[str, str] = NOTHING_GIVEN
) -> Outline | None:
    """The outline of a path or basic shape (SVG 1.1 §9), whose `style` may say where it is (SVG 2 §8.2); None for an empty
    one."""
    width, height = view
    units = units_of(style)
    told = element.attrib
    if placed := style.keys() & GEOMETRY:
        told = {**told, **{key: style[key] for key in placed if style[key]}}
    given = told.get

    def x(key: str, default: float = 0.0) -> float:
        return length(given(key), width, default, units)

    def y(key: str, default: float = 0.0) -> float:
        return length(given(key), height, default, units)

    pen = Pen()
    match local(element):
        case "path":
            return parse_path(given("d") or "")
        case "rect":
            w, h = x("width"), y("height")
            if w <= 0 or h <= 0:
                return None
            if given("rx") is None and given("ry") is None:
                l, t = x("x"), y("y")
                r, b = l + w, t + h
                return Outline(verbs="MLLLZ", points=(l, t, r, t, r, b, l, b))
            # One that is not told, or can't be (CSS: negative), is as the other.
            across, down = x("rx", -1.0), y("ry", -1.0)
            rx = across if across >= 0 else max(down, 0.0)
            ry = down if down >= 0 else rx
            _rounded(pen, x("x"), y("y"), w, h, min(rx, w / 2), min(ry, h / 2))
        case "circle" | "ellipse" as kind:
            r = length(given("r"), math.hypot(width, height) / math.sqrt(2), 0.0, units)
            rx, ry = (r, r) if kind == "circle" else (x("rx"), y("ry"))
            if rx <= 0 or ry <= 0:
                return None
            _ellipse(pen, x("cx"), y("cy"), rx, ry)
        case "line":
            pen.move(x("x1"), y("y1"))
            pen.line(x("x2"), y("y2"))
        case "polyline" | "polygon" as kind:
            corners = numbers(element.get("points") or "")
            for i in range(0, len(corners) - 1, 2):
                (pen.line if i else pen.move)(corners[i], corners[i + 1])
            if kind == "polygon":
                pen.close()
    return pen.outline()


def _ellipse(pen: Pen, cx: float, cy: float, rx: float, ry: float) -> None:
    """From three o'clock on clockwise (SVG 2 §10.3), which shows in dashes."""
    k = 4 / 3 * math.tan(math.pi / 8)
    pen.move(cx + rx, cy)
    pen.cubic(cx + rx, cy + k * ry, cx + k * rx, cy + ry, cx, cy + ry)
    pen.cubic(cx - k * rx, cy + ry, cx - rx, cy + k * ry, cx - rx, cy)
    pen.cubic(cx - rx, cy - k * ry, cx - k * rx, cy - ry, cx, cy - ry)
    pen.cubic(cx + k * rx, cy - ry, cx + rx, cy - k * ry, cx + rx, cy)
    pen.close()


def _rounded(pen: Pen, x: float, y: float, w: float, h: float, rx: float, ry: float) -> None:
    if rx <= 0 or ry <= 0:
        pen.move(x, y)
        for corner in ((x + w, y), (x + w, y + h), (x, y + h)):
            pen.line(*corner)
        pen.close()
        return
    k = 4 / 3 * math.tan(math.pi / 8)
    right, bottom, ox, oy = x + w, y + h, rx * (1 - k), ry * (1 - k)
    pen.move(x + rx, y)
    pen.line(right - rx, y)
    pen.cubic(right - ox, y, right, y + oy, right, y + ry)
    pen.line(right, bottom - ry)
    pen.cubic(right, bottom - oy, right - ox, bottom, right - rx, bottom)
    pen.line(x + rx, bottom)
    pen.cubic(x + ox, bottom, x, bottom - oy, x, bottom - ry)
    pen.line(x, y + ry)
    pen.cubic(x, y + oy, x + ox, y, x + rx, y)
    pen.close()


def parse_transform(text: str | None) -> Affine:
    """An SVG transform list (SVG 1.1 §7.6) as one transform; none, if it is not one."""
    result = IDENTITY
    if _TRANSFORM.sub("", text or "").strip(" \t\r\n,"):
        # One with a mistake in it does nothing at all.
        return IDENTITY
    for name, body in _TRANSFORM.findall(text or ""):
        n, whole = _leading(body)
        step = transform_step(name, n) if whole else None
        if step is None:
            return IDENTITY
        result = result @ step
    return result


def transform_step(name: str, n: list[float]) -> Affine | None:
    """What one function of a transform list does, its lengths in user units and its angles in degrees (SVG 1.1 §7.6); None
    if it is not one."""
    match name, len(n):
        case "matrix", 6:
            return Affine(*n)
        case "translate", 1 | 2:
            return Affine.shift(n[0], n[1] if len(n) > 1 else 0.0)
        case "scale", 1 | 2:
            return Affine(n[0], 0.0, 0.0, n[-1], 0.0, 0.0)
        case "rotate", 1 | 3:
            co, si = math.cos(math.radians(n[0])), math.sin(math.radians(n[0]))
            step = Affine(co, si, -si, co, 0.0, 0.0)
            return step if len(n) == 1 else Affine.shift(n[1], n[2]) @ step @ Affine.shift(-n[1], -n[2])
        case "skewX", 1:
            return Affine(1.0, 0.0, math.tan(math.radians(n[0])), 1.0, 0.0, 0.0)
        case "skewY", 1:
            return Affine(1.0, math.tan(math.radians(n[0])), 0.0, 1.0, 0.0, 0.0)
    return None


def view_transform(element: Element, width: float, height: float) -> Affine:
    """What a `viewBox` with its `preserveAspectRatio` does (SVG 1.1 §7.7–7.8)."""
    box = view_box(element)
    return IDENTITY if box is None else fit_transform(box, element.get("preserveAspectRatio"), width, height)


def fit_transform(box: tuple[float, float, float, float], asked: str | None, width: float, height: float) -> Affine:
    """What takes a box, left, top, width and height, into a place of a size as `preserveAspectRatio` asks."""
    left, top, w, h = box
    sx, sy = width / w, height / h
    align, _, rule = (asked or "xMidYMid meet").strip().partition(" ")
    if align == "none":
        return Affine(sx, 0.0, 0.0, sy, -left * sx, -top * sy)
    scale = max(sx, sy) if rule.strip() == "slice" else min(sx, sy)
    fx = {"xMin": 0.0, "xMax": 1.0}.get(align[:4], 0.5)
    fy = {"YMin": 0.0, "YMax": 1.0}.get(align[4:], 0.5)
    return Affine(
        scale, 0.0, 0.0, scale, (width - w * scale) * fx - left * scale, (height - h * scale) * fy - top * scale
    )


def transformed(outline: Outline, m: Affine, digits: int = 4) -> Outline:
    """The outline with every point taken through `m`, rounded to `digits` places."""
    points = outline.points
    if len(points) <= FEW:
        # Rounding takes longest of all here, and most drawings of thousands of shapes are in whole units.
        if m == IDENTITY and all(v.is_integer() or round(v, digits) == v for v in points):
            return outline
        a, b, c, d, e, f = m
        found: list[float] = []
        for x, y in zip(points[::2], points[1::2], strict=True):
            found += (round(a * x + c * y + e, digits), round(b * x + d * y + f, digits))
        return Outline(verbs=outline.verbs, points=tuple(found))
    p = np.asarray(points, dtype=np.float64).reshape(-1, 2)
    return Outline(verbs=outline.verbs, points=tuple(np.round(moved(p, m), digits).ravel().tolist()))


FEW = 40
"""Numbers of an outline up to which plain arithmetic is faster than arrays."""
