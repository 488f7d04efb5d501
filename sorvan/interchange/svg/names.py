"""What artists call the parts of an SVG drawing."""

from __future__ import annotations

import re
from xml.etree.ElementTree import Element

from sorvan.interchange.svg.guard import local

_COUNTED = re.compile(
    r"^(g|group|layer|path|rect|circle|ellipse|svg|use|shape|polygon|line|text|image)[-_]?\d+([-_.]\d+)*$", re.I
)


def name_of(element: Element) -> str:
    """What the artist called an element: its label, title or id; empty if it was only counted."""
    for key, value in element.attrib.items():
        if (key.endswith("}label") or key in ("data-name", "aria-label")) and value.strip():
            return value.strip()[:120]
    for child in element:
        if local(child) == "title" and (child.text or "").strip():
            return (child.text or "").strip()[:120]
    id = (element.get("id") or "").strip()
    return "" if _COUNTED.match(id) else id[:120]
