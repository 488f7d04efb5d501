"""Pictures embedded in a drawing: they keep their own pixels."""

from __future__ import annotations

from collections.abc import Callable
from xml.etree.ElementTree import Element

from sorvan.core.errors import Refusal
from sorvan.core.geometry import Affine
from sorvan.core.model.art import Clip, Layer, Node, Outline, Picture
from sorvan.interchange.pictures import decode
from sorvan.interchange.svg.guard import data_of, href
from sorvan.interchange.svg.outline import fit_transform, length, transformed, units_of
from sorvan.interchange.svg.places import Inherited
from sorvan.picture.images import png_of

KeepAsset = Callable[[str, bytes], str]


class Embedded:
    """The embedded pictures of one drawing, each kept once."""

    def __init__(self, where: str, keep: KeepAsset) -> None:
        self.where, self.keep = where, keep
        self._known: dict[str, tuple[str, int, int] | None] = {}

    def nodes(self, element: Element, inside: Inherited) -> list[Node]:
        """An `image` in frame units (SVG 2 §12.3); nothing where it has no room or can't be read."""
        style, (width, height) = inside.style, inside.view
        kept = self._picture(href(element))
        if kept is None or style["visibility"] != "visible" or inside.ctm.determinant == 0:
            return []
        asset, across, down = kept
        units = units_of(style)

        def side(key: str, whole: float) -> float:
            told = style.get(key) or element.get(key)
            return length(told if told != "auto" else None, whole, -1.0, units)

        w, h = side("width", width), side("height", height)
        # A side that is not given follows from the other by the picture (CSS Images 3, §5.2).
        if w < 0 and h < 0:
            w, h = float(across), float(down)
        elif w < 0:
            w = h * across / down
        elif h < 0:
            h = w * down / across
        if w == 0 or h == 0:
            return []
        x = length(style.get("x") or element.get("x"), width, 0.0, units)
        y = length(style.get("y") or element.get("y"), height, 0.0, units)
        asked = element.get("preserveAspectRatio")
        fit = Affine.shift(x, y) @ fit_transform((0.0, 0.0, float(across), float(down)), asked, w, h)
        picture = Picture(asset=asset, box=(0.0, 0.0, float(across), float(down)))
        clips: tuple[Clip, ...] = ()
        if (asked or "").endswith("slice") and style["overflow"] not in ("visible", "auto"):
            edge = Outline(verbs="MLLLZ", points=(x, y, x + w, y, x + w, y + h, x, y + h))
            clips = (Clip(outline=transformed(edge, inside.ctm)),)
        m = inside.ctm @ fit
        found: Node = Layer(matrix=m, nodes=(picture,))
        if m.b == 0 and m.c == 0 and m.a > 0 and m.d > 0:
            found = picture.changed(box=(m.e, m.f, across * m.a, down * m.d))
        return [Layer(clips=clips, nodes=(found,))] if clips else [found]

    def _picture(self, link: str) -> tuple[str, int, int] | None:
        if link not in self._known:
            self._known[link] = self._read(link)
        return self._known[link]

    def _read(self, link: str) -> tuple[str, int, int] | None:
        if not link.lower().startswith("data:image/"):
            return None
        try:
            pixels = decode(data_of(link), self.where)
        except Refusal:
            return None
        return self.keep("image/png", png_of(pixels)), pixels.shape[1], pixels.shape[0]
