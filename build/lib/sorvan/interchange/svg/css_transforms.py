"""Transforms as CSS writes them (CSS Transforms 1): with units, and about an origin."""

from __future__ import annotations

import math
import re

from sorvan.core.geometry import IDENTITY, Affine
from sorvan.interchange.svg.outline import length, transform_step

_FUNCTION = re.compile(r"\b([A-Za-z]{1,12})\s*\(([^()]*)\)")
_ANGLES = {"deg": 1.0, "grad": 0.9, "rad": 180 / math.pi, "turn": 360.0}
_ANGLE = re.compile(r"\s*([-+]?(?:\d+(?:\.\d*)?|\.\d+)(?:[eE][-+]?\d{1,3})?)\s*(deg|grad|rad|turn|)\s*", re.IGNORECASE)
_SIDES = {"left": 0.0, "top": 0.0, "center": 0.5, "right": 1.0, "bottom": 1.0}


def css_transform(text: str, view: tuple[float, float]) -> Affine:
    """The transform of a list of functions; none, if there is a mistake in it. Percentages are of the view."""
    if _FUNCTION.sub("", text).strip():
        return IDENTITY
    result = IDENTITY
    for name, body in _FUNCTION.findall(text):
        step = _step(name.lower(), [part.strip() for part in body.split(",")], view)
        if step is None:
            return IDENTITY
        result = result @ step
    return result


def _step(name: str, parts: list[str], view: tuple[float, float]) -> Affine | None:
    width, height = view
    plain = [length(p, 1.0, math.nan) for p in parts]
    turns = [math.nan if (a := _degrees(p)) is None else a for p in parts]
    match name, len(parts):
        case "translate", 1 | 2:
            return Affine.shift(length(parts[0], width), length(parts[1], height) if len(parts) > 1 else 0.0)
        case "translatex", 1:
            return Affine.shift(length(parts[0], width), 0.0)
        case "translatey", 1:
            return Affine.shift(0.0, length(parts[0], height))
        case "scalex" | "scaley", 1:
            name, n = "scale", [plain[0], 1.0] if name == "scalex" else [1.0, plain[0]]
        case "rotate" | "rotatez", 1:
            name, n = "rotate", turns
        case "skewx" | "skewy", 1:
            name, n = {"skewx": "skewX", "skewy": "skewY"}[name], turns
        case "skew", 1 | 2:
            slant = [math.tan(math.radians(a)) for a in turns]
            name, n = "matrix", [1.0, slant[1] if len(slant) > 1 else 0.0, slant[0], 1.0, 0.0, 0.0]
        case "matrix" | "scale", _:
            n = plain
        case _:
            return None
    return None if any(map(math.isnan, n)) else transform_step(name, n)


def _degrees(text: str) -> float | None:
    found = _ANGLE.fullmatch(text)
    if found is None or (not found.group(2) and float(found.group(1)) != 0):
        return None
    return float(found.group(1)) * _ANGLES.get(found.group(2).lower(), 1.0)


def origin_of(text: str, view: tuple[float, float]) -> tuple[float, float]:
    """The place that a transform leaves where it is, by `transform-origin` (§6); percentages are of the view."""
    words = text.split()[:2]
    if not words:
        return (0.0, 0.0)
    if words[0] in ("top", "bottom") or (len(words) > 1 and words[1] in ("left", "right")):
        words.reverse()
        words = words if len(words) > 1 else ["center", *words]
    words = words if len(words) > 1 else [*words, "center"]
    x, y = (
        _SIDES[word] * whole if word in _SIDES else length(word, whole) for word, whole in zip(words, view, strict=True)
    )
    return (x, y)
