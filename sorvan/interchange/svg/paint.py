"""Fills, strokes and gradients."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping
from functools import lru_cache
from typing import Any
from xml.etree.ElementTree import Element

from sorvan.core.geometry import Affine
from sorvan.core.model.art import Box, Flat, Linear, Paint, Radial, Stop, Stroke
from sorvan.interchange.svg.guard import href, local
from sorvan.interchange.svg.outline import length, parse_transform, units_of
from sorvan.interchange.svg.style import Sheets, Style, colour, number

_REFERENCE = re.compile(r"\s*url\(\s*['\"]?#([^'\")]+?)['\"]?\s*\)\s*(.*)$", re.DOTALL)


Viewport = tuple[float, float]


class NeedsPicture(Exception):
    """Something that can't be kept as vectors; the message says what."""


@lru_cache(maxsize=4096)
def _flat(colour: str) -> Flat:
    return Flat(colour=colour)


def reference(value: str) -> tuple[str, str] | None:
    """The id in `url(#id) fallback` and the fallback; None for any other value."""
    found = _REFERENCE.match(value) if "(" in value else None
    return (found.group(1), found.group(2).strip()) if found else None


class Paints:
    """Turns the paint words of one drawing into paints."""

    def __init__(self, by_id: Mapping[str, Element], sheets: Sheets) -> None:
        self.by_id, self.sheets = by_id, sheets

    def paint(self, value: str, style: Style, opacity: float, box: Box, ctm: Affine, view: Viewport) -> Paint | None:
        """The paint of `fill` or `stroke`. `box` is the shape's box in its own units, `ctm` takes those out; percentages
        are of the `view`."""
        pointed = reference(value)
        if pointed:
            target = self.by_id.get(pointed[0])
            if target is not None and local(target) in ("linearGradient", "radialGradient"):
                if not self._of_nothing(target, box):
                    return self._gradient(target, opacity, box, ctm, view)
                target = None
            if target is not None and local(target) == "pattern":
                raise NeedsPicture("a pattern")
            value = pointed[1] or "none"
        if value in ("none", "transparent"):
            return None
        if value.startswith("context-"):
            raise NeedsPicture("a colour taken from its context")
        found = colour(value, style, opacity)
        return _flat(found) if found and not found.endswith("00") else None

    def stroke(self, style: Style, box: Box, ctm: Affine, scale: float, view: Viewport) -> Stroke | None:
        """The stroke, with its width and dashes times `scale`."""
        diagonal = math.hypot(*view) / math.sqrt(2)
        units = units_of(style)
        width = length(style["stroke-width"], diagonal, 1.0, units) * scale
        if width <= 0:
            return None
        paint = self.paint(style["stroke"], style, number(style["stroke-opacity"]), box, ctm, view)
        if paint is None:
            return None
        dash = tuple(
            length(p, diagonal, 0.0, units) * scale
            for p in re.split(r"[\s,]+", style["stroke-dasharray"].strip())
            if p and p != "none"
        )
        if any(d < 0 for d in dash) or sum(dash) <= 0:
            dash = ()
        if len(dash) % 2:
            dash = dash * 2
        cap: Any = style["stroke-linecap"]
        join: Any = style["stroke-linejoin"]
        return Stroke(
            paint=paint,
            width=width,
            cap=cap if cap in ("butt", "round", "square") else "butt",
            join=join if join in ("miter", "round", "bevel") else "miter",
            miter=max(1.0, length(style["stroke-miterlimit"], default=4.0)),
            dash=dash,
            dash_offset=length(style["stroke-dashoffset"], diagonal, 0.0, units) * scale,
        )

    def _gradient(self, element: Element, opacity: float, box: Box, ctm: Affine, view: Viewport) -> Paint | None:
        line = self._inherited(element)

        def given(key: str) -> str | None:
            return next((e.get(key) for e in line if e.get(key) is not None), None)

        stops = self._stops(next((e for e in line if any(local(c) == "stop" for c in e)), element), opacity)
        if not stops:
            return None
        of_box = given("gradientUnits") != "userSpaceOnUse"
        width, height = (1.0, 1.0) if of_box else view
        own = parse_transform(given("gradientTransform"))
        if of_box:
            left, top, right, bottom = box
            own = Affine(right - left, 0.0, 0.0, bottom - top, left, top) @ own
        spread = given("spreadMethod")
        common: dict[str, Any] = {
            "stops": stops,
            "spread": spread if spread in ("reflect", "repeat") else "pad",
            "matrix": ctm @ own,
        }
        if local(element) == "linearGradient":
            start = (length(given("x1"), width), length(given("y1"), height))
            end = (length(given("x2"), width, width), length(given("y2"), height))
            return Flat(colour=stops[-1].colour) if start == end else Linear(start=start, end=end, **common)
        diagonal = 1.0 if of_box else math.hypot(width, height) / math.sqrt(2)
        centre = (length(given("cx"), width, width / 2), length(given("cy"), height, height / 2))
        radius = length(given("r"), diagonal, diagonal / 2)
        if radius <= 0:
            return Flat(colour=stops[-1].colour)
        focus = (length(given("fx"), width, centre[0]), length(given("fy"), height, centre[1]))
        return Radial(focus=focus, focus_radius=length(given("fr"), diagonal), centre=centre, radius=radius, **common)

    def _of_nothing(self, element: Element, box: Box) -> bool:
        """Whether a gradient is measured by a box without room: then it paints nothing (SVG 2 §8.12)."""
        line = self._inherited(element)
        units = next((e.get("gradientUnits") for e in line if e.get("gradientUnits") is not None), None)
        return units != "userSpaceOnUse" and (box[2] - box[0] <= 0 or box[3] - box[1] <= 0)

    def _inherited(self, element: Element) -> list[Element]:
        line = [element]
        while (link := href(line[-1])) and len(line) < 16:
            target = self.by_id.get(link[1:])
            if target is None or target in line:
                break
            line.append(target)
        return line

    def _stops(self, element: Element, opacity: float) -> tuple[Stop, ...]:
        stops: list[Stop] = []
        for child in element:
            if local(child) != "stop":
                continue
            style = self.sheets.computed(child)
            at = max(number(child.get("offset") or "0", 0.0), stops[-1].at if stops else 0.0)
            found = colour(style["stop-color"], style, number(style["stop-opacity"]) * opacity)
            stops.append(Stop(at=at, colour=found or "#000000ff"))
        return tuple(stops)
