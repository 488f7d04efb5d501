"""Where the elements of a drawing stand: transforms, the edges of nested drawings, and how far things reach."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from xml.etree.ElementTree import Element

from sorvan.core.geometry import IDENTITY, Affine
from sorvan.core.model.art import Box, Clip, Outline
from sorvan.interchange import limits
from sorvan.interchange.svg.css_transforms import css_transform, origin_of
from sorvan.interchange.svg.guard import href, local
from sorvan.interchange.svg.outline import (
    length,
    parse_transform,
    shape_outline,
    transformed,
    units_of,
    view_box,
    view_transform,
)
from sorvan.interchange.svg.style import Sheets, Style
from sorvan.picture.paint import path_of

SHAPES = frozenset(("path", "rect", "circle", "ellipse", "line", "polyline", "polygon"))
CONTAINERS = frozenset(("g", "a", "svg", "switch"))
UNSEEN = frozenset(
    ("defs", "style", "title", "desc", "metadata", "symbol", "clipPath", "mask", "marker", "pattern", "filter",
     "linearGradient", "radialGradient", "view", "cursor", "font", "")
)  # fmt: skip


@dataclass(frozen=True)
class Inherited:
    """What holds where an element stands: its transform to the frame, the style it inherits, and how large what it is
    drawn in is, of which percentages are."""

    ctm: Affine
    style: Style
    view: tuple[float, float]


class ElementPlaces:
    """Where the elements of one drawing stand."""

    def __init__(self, by_id: Mapping[str, Element], sheets: Sheets) -> None:
        self.by_id, self.sheets = by_id, sheets
        self._own_boxes: dict[tuple[Element, tuple[float, float], str], Box | None] = {}

    def enter(self, element: Element, state: Inherited) -> Inherited:
        """The state inside an element: its own transform and style on top."""
        style = self.sheets.style(element, state.style)
        own = self.own_transform(element, style, state.view)
        return Inherited(state.ctm if own is IDENTITY else state.ctm @ own, style, state.view)

    def own_transform(self, element: Element, style: Style, view: tuple[float, float]) -> Affine:
        """What moves an element: its style, if that says anything (CSS Transforms 1, §5), else its attribute."""
        given = style["transform"]
        if not given:
            return parse_transform(element.get("transform")) if "transform" in element.attrib else IDENTITY
        if given == "none":
            return IDENTITY
        left, top, whole = 0.0, 0.0, view
        if style["transform-box"] != "view-box" and (box := self.own_box(element, style, view)):
            left, top, whole = box[0], box[1], (box[2] - box[0], box[3] - box[1])
        (x, y), step = origin_of(style["transform-origin"], whole), css_transform(given, whole)
        return Affine.shift(left + x, top + y) @ step @ Affine.shift(-left - x, -top - y)

    def own_box(self, element: Element, style: Style, view: tuple[float, float]) -> Box | None:
        """The box of an element's fill in its own units (SVG 2 §8.10), None if it has none; text has none here."""
        # Where an element asks for its box, all that asks for one in it does so once.
        key = (element, view, style["font-size"])
        if key not in self._own_boxes:
            self._own_boxes[key] = None
            inside = Inherited(IDENTITY, style, view)
            self._own_boxes[key] = joined(self._within(element, inside, (), bare=True))
        return self._own_boxes[key]

    def boxes(
        self, element: Element, state: Inherited, within: tuple[str, ...] = (), bare: bool = False
    ) -> Iterator[Box]:
        """Boxes, in frame units, that shapes and pictures fill whatever they are painted with, with their lines unless
        `bare`; text has none."""
        if local(element) in UNSEEN or not spoken(element):
            return
        yield from self._within(element, self.enter(element, state), within, bare)

    def _within(self, element: Element, inside: Inherited, within: tuple[str, ...], bare: bool) -> Iterator[Box]:
        name = local(element)
        if name in SHAPES:
            outline = shape_outline(element, inside.view, inside.style)
            if outline is not None:
                l, t, r, b = box_of(transformed(outline, inside.ctm))
                wide = 0.0
                if not bare and inside.style["stroke"] != "none":
                    diagonal = math.hypot(*inside.view) / math.sqrt(2)
                    wide = length(inside.style["stroke-width"], diagonal, 1.0, units_of(inside.style))
                    wide *= math.sqrt(abs(inside.ctm.determinant))
                yield (l - wide, t - wide, r + wide, b + wide)
        elif name == "image":
            outline = picture_outline(element, inside.view)
            if outline is not None:
                yield box_of(transformed(outline, inside.ctm))
        elif name == "use":
            id = href(element)[1:]
            target = self.by_id.get(id)
            if target is None or id in within or len(within) > limits.DEPTH // 2:
                return
            placed = self.used_at(element, inside)
            if local(target) not in ("symbol", "svg"):
                yield from self.boxes(target, placed, (*within, id), bare)
            elif found := self.into(target, element, self.enter(target, placed)):
                for child in target:
                    yield from self.boxes(child, found[0], (*within, id), bare)
        else:
            if name == "svg":
                entered = self.into(element, None, inside)
                if entered is None:
                    return
                inside = entered[0]
            for child in element:
                yield from self.boxes(child, inside, within, bare)

    def used_at(self, use: Element, inside: Inherited) -> Inherited:
        """Where what a `use` shows begins."""
        width, height = inside.view
        shift = Affine.shift(length(use.get("x"), width), length(use.get("y"), height))
        return replace(inside, ctm=inside.ctm @ shift)

    def into(self, element: Element, use: Element | None, inside: Inherited) -> tuple[Inherited, Clip] | None:
        """Into a nested `svg`, or a `symbol` as it is used: the state in it, and its edge (SVG 2 §8.3, §5.5). None if it has
        no room."""
        width, height = inside.view

        def side(key: str, whole: float) -> float:
            told = (use.get(key) if use is not None else None) or inside.style.get(key) or element.get(key)
            return length(told if told != "auto" else None, whole, whole)

        w, h = side("width", width), side("height", height)
        if w <= 0 or h <= 0:
            return None
        x, y = (
            (length(element.get("x"), width), length(element.get("y"), height)) if local(element) == "svg" else (0, 0)
        )
        edge = Outline(verbs="MLLLZ", points=(x, y, x + w, y, x + w, y + h, x, y + h))
        box = view_box(element)
        ctm = inside.ctm @ Affine.shift(x, y) @ view_transform(element, w, h)
        state = replace(inside, ctm=ctm, view=(box[2], box[3]) if box else (w, h))
        return state, Clip(outline=transformed(edge, inside.ctm))


_ASKING = frozenset(("systemLanguage", "requiredExtensions"))


def spoken(element: Element) -> bool:
    """Whether an element is for those who see this (SVG 1.1 §5.8.5): English is as good as none."""
    if not _ASKING & element.attrib.keys():
        return True
    languages = element.get("systemLanguage")
    told = languages is None or any(w.strip().lower().split("-")[0] == "en" for w in languages.split(","))
    return told and not (element.get("requiredExtensions") or "").strip()


def picture_outline(element: Element, view: tuple[float, float]) -> Outline | None:
    """The place of an embedded picture; one whose size is not given may be as large as the view."""
    x, y = length(element.get("x"), view[0]), length(element.get("y"), view[1])
    w, h = length(element.get("width"), view[0], view[0]), length(element.get("height"), view[1], view[1])
    return Outline(verbs="MLLL", points=(x, y, x + w, y, x + w, y + h, x, y + h)) if w > 0 and h > 0 else None


def box_of(outline: Outline) -> Box:
    """The box of an outline, left, top, right, bottom."""
    if outline.points and outline.straight:
        xs, ys = outline.points[::2], outline.points[1::2]
        return (min(xs), min(ys), max(xs), max(ys))
    b = path_of(outline).computeTightBounds()
    return (b.left(), b.top(), b.right(), b.bottom())


def joined(boxes: Iterator[Box]) -> Box | None:
    """One box around all; None if there are none."""
    total: Box | None = None
    for l, t, r, b in boxes:
        total = (
            (l, t, r, b) if total is None else (min(total[0], l), min(total[1], t), max(total[2], r), max(total[3], b))
        )
    return total
