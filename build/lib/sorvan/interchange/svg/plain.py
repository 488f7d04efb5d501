"""A copy of a drawing that holds nothing but drawing: what the rasteriser is given."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from xml.etree.ElementTree import Element

from sorvan.interchange.svg.guard import SVG, href, local
from sorvan.interchange.svg.vocabulary import ATTRIBUTES, ELEMENTS, PLACING, SPACE

Styles = Callable[[Element], Mapping[str, str]]


def unstyled(_: Element) -> Mapping[str, str]:
    """No style but what attributes say."""
    return {}


def plain(element: Element, style_of: Styles = unstyled, empty: bool = False) -> Element:
    """The element with what in it draws (with nothing, if `empty`), and with the style that it is told to have written
    on it. References are kept only to the drawing itself and to data; no other name, in any namespace, is carried over."""
    kept = {k: v for k, v in element.attrib.items() if k in ATTRIBUTES or k == SPACE}
    style = style_of(element)
    # The rasteriser reads these from attributes only.
    kept.update((key, value) for key, value in style.items() if key in PLACING)
    if words := ";".join(f"{key}:{value}" for key, value in style.items() if key not in PLACING):
        kept["style"] = words
    link = href(element)
    if link.startswith("#") or (local(element) == "image" and link.lower().startswith("data:image/")):
        kept["href"] = link
    copy = Element(SVG + local(element), kept)
    if empty:
        return copy
    copy.text, copy.tail = element.text, element.tail
    for child in element:
        if local(child) in ELEMENTS:
            copy.append(plain(child, style_of))
        elif child.tail and child.tail.strip():
            # Text between elements belongs to what is around it.
            if len(copy):
                copy[-1].tail = (copy[-1].tail or "") + child.tail
            else:
                copy.text = (copy.text or "") + child.tail
    return copy
