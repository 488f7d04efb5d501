"""What artists call the parts of an SVG drawing."""

from __future__ import annotations

import math
import re
from xml.etree.ElementTree import Element

from sorvan.core.model.art import Box
from sorvan.interchange.svg.guard import local
from sorvan.interchange.svg.outline import length

_COUNTED = re.compile(
    r"(g|group|layer|path|rect|rectangle|circle|ellipse|svg|use|shape|polygon|polyline|line|curve|text|image|clip|mask"
    r"|xmlid|object|vector|compound path)[-_ ]?\d+([-_. ]\d+)*_?",
    re.IGNORECASE,
)
"""Names that a program gave, by counting."""
_CODED = re.compile(r"_{1,2}x([0-9A-Fa-f]{2,4})_{1,2}")
"""A sign that no id may hold, as programs write it in one."""
_AGAIN = re.compile(r"(?<=.)_\d+_$")
"""What programs put behind an id that is there already."""


_TELLING = frozenset(("id", "data-name", "aria-label"))


def name_of(element: Element) -> str:
    """What the artist called an element: its label, title or id; empty if it was only counted."""
    for told in _told(element):
        name = _CODED.sub(lambda found: chr(int(found.group(1), 16)), told).strip()[:120]
        if name and not counted(name):
            return name
    return ""


def counted(name: str) -> bool:
    """Whether a program gave this name, by counting."""
    return _COUNTED.fullmatch(name.strip()) is not None


def _told(element: Element) -> list[str]:
    if not len(element) and _TELLING.isdisjoint(element.attrib) and "{" not in "".join(element.attrib):
        return []
    foreign = {key.rpartition("}")[2]: value for key, value in element.attrib.items() if key.startswith("{")}
    titles = [child.text or "" for child in element if local(child) == "title"]
    ids = [
        _AGAIN.sub("", found.strip())
        for found in (foreign.get("id"), element.get("id"))
        if found and not counted(found)
    ]
    plain = [element.get(key) or "" for key in ("data-name", "aria-label")]
    return [foreign.get("label") or "", *plain, *titles[:1], *ids]


def turning_place(element: Element, box: Box, scale: float) -> tuple[float, float] | None:
    """Where an element turns, if the drawing program wrote it down: a pair `transform-center-x` and `-y` in a namespace of
    its own, counted from the middle of the element's box, to the right and up, in units of which `scale` make one here."""
    told = {
        key.rpartition("}")[2][-1]: value
        for key, value in element.attrib.items()
        if key.startswith("{") and key.rpartition("}")[2] in ("transform-center-x", "transform-center-y")
    }
    across, up = (length(told.get(axis), default=math.nan) for axis in "xy")
    if not told or (math.isnan(across) and math.isnan(up)):
        return None
    x, y = (0.0 if math.isnan(v) else v * scale for v in (across, up))
    return (round((box[0] + box[2]) / 2 + x, 3), round((box[1] + box[3]) / 2 - y, 3))
