"""Parts of a drawing that vectors can't say, as pictures no larger than they are."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from xml.etree.ElementTree import Element, register_namespace, tostring

import numpy as np
import resvg_py
from numpy.typing import NDArray

from sorvan.core.errors import Refusal
from sorvan.core.geometry import IDENTITY, Affine
from sorvan.core.model.art import Box, Node, Picture
from sorvan.interchange import limits
from sorvan.interchange.pictures import decode, visible_box
from sorvan.interchange.svg.embedded import KeepAsset
from sorvan.interchange.svg.guard import SVG, local, pointed_at
from sorvan.interchange.svg.outline import ROOT_SIZE
from sorvan.interchange.svg.places import ElementPlaces, Inherited
from sorvan.interchange.svg.plain import plain
from sorvan.interchange.svg.shapes import CannotDraw
from sorvan.interchange.svg.style import INHERITED, INITIAL
from sorvan.interchange.svg.vocabulary import SPACE
from sorvan.picture.images import png_of

FONTS = {
    "font_family": "DejaVu Sans",
    "serif_family": "DejaVu Serif",
    "sans_serif_family": "DejaVu Sans",
    "monospace_family": "DejaVu Sans Mono",
}
"""What text is drawn in where its own font is not installed: without these it would vanish."""
GLIMPSE = 512
"""Pixels of the longer side when it is looked where something shows."""
FINE = 2.0
"""Pixels of a picture per unit of the stage, as the drawing is fitted to it."""
SMALLEST = 256
"""Pixels that the longer side of a picture has at least."""
TRIES = (1.0, 1.03, 0.97, 1.11)
"""How many times as fine it is tried to draw something, one after the other."""
_SETTING = frozenset(("linearGradient", "radialGradient", "pattern", "clipPath", "mask", "marker", "filter"))
"""What is pointed at keeps the style it has where it stands; what a `use` shows takes that of the `use`."""

register_namespace("", SVG[1:-1])


Fits = Callable[[tuple[float, float]], float]
"""Says how many units of the stage there will be per unit of a drawing whose frame is so large."""


def as_large(_: tuple[float, float]) -> float:
    """A stage unit for each unit of the drawing."""
    return 1.0


class LonePictures:
    """Draws elements of one drawing alone."""

    def __init__(self, places: ElementPlaces, frame: tuple[float, float], fine: float, where: str, keep: KeepAsset):
        self.places, self.frame, self.where, self.keep = places, frame, where, keep
        self.fine = fine
        """Pixels per unit of the drawing."""
        self.parents: Mapping[Element, Element] = places.sheets.parents
        self.pixels = 0

    def draw(self, elements: Sequence[Element], state: Inherited, chain: Sequence[Element] = ()) -> list[Node]:
        """The elements as a picture in frame units, with everything that applies to them and, from without to within, to
        the groups of `chain` that they are in; none if nothing of them shows. Raises `CannotDraw`."""
        inner = self._alone(elements, state, chain)
        width, height = self.frame
        # Seen small first, with half a frame of room on every side for what reaches beyond the picture's edge.
        whole = (-width / 2, -height / 2, width * 2, height * 2)
        small = GLIMPSE / max(whole[2:])
        pixels, small = self._rasterised(inner, whole, small)
        seen = visible_box(pixels)
        inside = state
        for group in chain:
            inside = self.places.enter(group, inside)
        boxes: list[Box] = [b for e in elements for b in self.places.boxes(e, inside)]
        if seen is not None:
            l, t, r, b = ((v + edge) / small for v, edge in zip(seen, (-2, -2, 2, 2), strict=True))
            boxes.append((whole[0] + l, whole[1] + t, whole[0] + r, whole[1] + b))
        if not boxes:
            return []
        # A pattern of small tiles can't be seen so small; its shape says where it is.
        l, t = (max(whole[i], min(b[i] for b in boxes)) for i in (0, 1))
        r, b = (min(whole[i] + whole[i + 2], max(b[i + 2] for b in boxes)) for i in (0, 1))
        if not (r > l and b > t):
            return []
        return self._cut(inner, (l, t, r - l, b - t), self._finest(inner, boxes))

    def _finest(self, inner: Element, boxes: list[Box]) -> float:
        """Pixels a unit beyond which filters would take long: they are worked out over all that they are on, however little
        of it shows."""
        defs, top = inner
        width, height = self.frame
        if any(map(_filtered, defs.iter())):
            # That of a mask or a pattern may be on anything.
            room = width * height
        elif any(map(_filtered, top.iter())):
            room = min(width * height, max((b[2] - b[0]) * (b[3] - b[1]) for b in boxes))
        else:
            return math.inf
        return math.sqrt(limits.PIXELS / max(room, 1e-9))

    def _cut(self, inner: Element, box: tuple[float, float, float, float], finest: float) -> list[Node]:
        """What shows in a box, left, top, width and height, as fine as it will be seen."""
        # Whole pixels for a unit, from a whole unit on: then small tiles stay crisp.
        scale = float(math.ceil(max(self.fine, min(finest, SMALLEST / max(box[2:])))))
        l, t = math.floor(box[0]), math.floor(box[1])
        box = (l, t, box[0] + box[2] - l, box[1] + box[3] - t)
        while box[2] * box[3] * scale * scale > limits.PIXELS / 4 and scale > 0.01:
            scale /= 2
        if max(box[2:]) * scale > limits.SIDE:
            scale = limits.SIDE / max(box[2:])
        pixels, scale = self._rasterised(inner, box, scale)
        found = visible_box(pixels)
        if found is None:
            return []
        self.pixels += pixels.shape[0] * pixels.shape[1]
        if self.pixels > limits.ALL_PIXELS:
            raise Refusal(
                "The drawing has so many parts that must become pictures that they can't be drawn all.",
                where=self.where,
                remedy="Leave out filters, masks, patterns or text, or split it into several files.",
                kind="too-large",
            )
        left, top, right, bottom = found
        asset = self.keep("image/png", png_of(pixels[top:bottom, left:right]))
        place = (box[0] + left / scale, box[1] + top / scale, (right - left) / scale, (bottom - top) / scale)
        return [Picture(asset=asset, box=place)]

    def _alone(self, elements: Sequence[Element], state: Inherited, chain: Sequence[Element]) -> Element:
        """The elements in a drawing of their own, in frame units, with all that they point at."""
        copies = [self._copied(element) for element in elements]
        for group in reversed(chain):
            holder = self._copied(group, empty=True)
            # The whole drawing's size and view box have had their say.
            holder.tag = SVG + "g"
            holder.extend(copies)
            copies = [holder]
        width, height = state.view
        # Percentages are of what they were of.
        view = Element(
            SVG + "svg",
            {"width": f"{width:.9g}", "height": f"{height:.9g}", "viewBox": f"0 0 {width:.9g} {height:.9g}"},
            overflow="visible",
        )
        view.extend(copies)
        top = Element(SVG + "g", {"style": _words(state.style), "transform": _matrix(state.ctm)})
        above = self.parents.get(elements[0] if not chain else chain[0])
        while above is not None:
            if SPACE in above.attrib:
                top.set(SPACE, above.attrib[SPACE])
                break
            above = self.parents.get(above)
        top.append(view)
        defs = Element(SVG + "defs")
        self._add_pointed_at(top, defs)
        alone = Element(SVG + "g")
        alone.extend((defs, top))
        return alone

    def _add_pointed_at(self, drawn: Element, defs: Element) -> None:
        there = {e.get("id") for e in drawn.iter()}
        waiting = [drawn]
        while waiting:
            for id in {id for e in waiting.pop().iter() for id in pointed_at(e)}:
                target = self.places.by_id.get(id)
                if id in there or target is None:
                    continue
                copy = self._copied(target)
                there |= {e.get("id") for e in copy.iter()}
                waiting.append(copy)
                parent = self.parents.get(target)
                if parent is not None and local(target) in _SETTING:
                    setting = Element(SVG + "g", {"style": _words(self.places.sheets.computed(parent))})
                    setting.append(copy)
                    copy = setting
                defs.append(copy)

    def _copied(self, element: Element, empty: bool = False) -> Element:
        """An element with the styles that it has in the drawing written on it, and, unless `empty`, what is in it."""
        return plain(element, self._style_of, empty)

    def _style_of(self, element: Element) -> dict[str, str]:
        """What is written on a copy: what style sheets say of the element, and where it is moved."""
        written = self.places.sheets.written(element)
        if written.pop("transform", None) is not None:
            style = self.places.sheets.computed(element)
            moved = self.places.own_transform(element, style, self.frame)
            written["transform"] = _matrix(moved)
        return written

    def _rasterised(
        self, inner: Element, box: tuple[float, float, float, float], scale: float
    ) -> tuple[NDArray[np.uint8], float]:
        """What shows in a box of the frame at about so many pixels a unit, and at how many it is."""
        for times in TRIES:
            # Sides of whole pixels, so that a pixel is as wide as it is high.
            sides = [max(1, math.ceil(v * scale * times)) for v in box[2:]]
            around = Element(SVG + "svg", {"width": str(sides[0]), "height": str(sides[1])})
            place = (*box[:2], sides[0] / (scale * times), sides[1] / (scale * times))
            around.set("viewBox", " ".join(f"{v:.9g}" for v in place))
            around.append(inner)
            try:
                png = resvg_py.svg_to_bytes(svg_string=tostring(around, encoding="unicode"), dpi=96.0, **FONTS)  # type: ignore[arg-type]
            except (MemoryError, KeyboardInterrupt, SystemExit):
                raise
            except BaseException:  # noqa: BLE001
                # A panic of the rasteriser is no ordinary exception. It miscounts pixels at some sizes only.
                continue
            return decode(bytes(png), self.where), scale * times
        raise CannotDraw


def _filtered(element: Element) -> bool:
    told = element.get("style", "")
    return "filter" in element.attrib or "filter:" in told


def _matrix(m: Affine) -> str:
    return "" if m is IDENTITY else f"matrix({' '.join(f'{v:.9g}' for v in m)})"


def _words(style: Mapping[str, str]) -> str:
    """What is inherited, where it is not as it begins."""
    return ";".join(
        f"{key}:{style[key]}" for key in INHERITED if key != ROOT_SIZE and style.get(key, "") not in ("", INITIAL[key])
    )
