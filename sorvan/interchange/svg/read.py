"""An SVG drawing as pieces."""

from __future__ import annotations

import copy
import math
from collections.abc import Iterator
from xml.etree.ElementTree import Element, register_namespace, tostring

import numpy as np
import resvg_py
from numpy.typing import NDArray
from pydantic import ValidationError

from sorvan.core.errors import Refusal
from sorvan.core.model.art import Art, Node, Picture
from sorvan.interchange import limits
from sorvan.interchange.imported import Found, Imported, Progress, unheard
from sorvan.interchange.pictures import decode, visible_box
from sorvan.interchange.svg.guard import SVG, local, parse
from sorvan.interchange.svg.names import name_of
from sorvan.interchange.svg.outline import length, view_box, view_transform
from sorvan.interchange.svg.paint import NeedsPicture
from sorvan.interchange.svg.plain import plain
from sorvan.interchange.svg.shapes import CONTAINERS, SHAPES, UNSEEN, Inherited, Shapes
from sorvan.interchange.svg.skia_paths import art_of
from sorvan.interchange.svg.style import INITIAL, OWN, Sheets, number
from sorvan.picture.images import png_of

FONTS = {
    "font_family": "DejaVu Sans",
    "serif_family": "DejaVu Serif",
    "sans_serif_family": "DejaVu Sans",
    "monospace_family": "DejaVu Sans Mono",
}
"""What text is drawn in where its own font is not installed: without these it would vanish."""
PICTURE_SCALE = 2
"""Pixels per unit in what has to become a picture."""
GLIMPSE = 512
"""Pixels of the longer side when it is looked where something shows."""

register_namespace("", SVG[1:-1])


def read_svg(data: bytes, filename: str, loose: bool = False, progress: Progress = unheard) -> Imported:
    """The pieces of an SVG. Named groups become pieces; groups of named groups stay groups.

    Where nothing is named, the top-level shapes are offered as pieces: with `loose` they are
    taken, without it the result only says what there is. Raises `Refusal` for what can't be read.
    """
    root = parse(data, filename)
    named = any(_is_named_group(e) for e in root.iter())
    try:
        reader = _Reader(root, filename, progress)
        result = reader.result
        result.loose = not named
        reader.read_named() if named else reader.read_loose()
    except RecursionError:
        raise Refusal(
            "The drawing's styles or groups are nested too deeply.",
            where=filename,
            remedy="Save it as plain SVG in the drawing program.",
            kind="too-deep",
        ) from None
    except ValidationError:
        raise Refusal(
            "The drawing has numbers too large to be worked with.",
            where=filename,
            remedy="Scale it to the size of a page in the drawing program, and save it again.",
            kind="damaged",
        ) from None
    if not result.pieces:
        raise Refusal(
            "The drawing shows nothing.", where=filename, remedy="Check that its layers are visible, and save it again."
        )
    if result.loose and not loose:
        result.notes.insert(
            0,
            f"{filename}: no group has a name. Its {len(result.pieces)} top-level shapes can be brought in as pieces.",
        )
    return result


def _is_named_group(element: Element) -> bool:
    return local(element) == "g" and bool(name_of(element))


def _has_named_inside(element: Element) -> bool:
    return any(e is not element and _is_named_group(e) for e in element.iter())


def _drawn(element: Element) -> Iterator[Element]:
    return (child for child in element if local(child) not in UNSEEN)


class _Reader:
    def __init__(self, root: Element, filename: str, progress: Progress) -> None:
        self.root, self.filename = root, filename
        width, height = self._frame()
        self.result = Imported(filename, (width, height))
        by_id = {e.get("id", ""): e for e in reversed(list(root.iter())) if e.get("id")}
        self.sheets = Sheets(root)
        box = view_box(root) or (0.0, 0.0, width, height)
        self.shapes = Shapes(by_id, self.sheets, filename, self._working)
        self.progress = progress
        self.total = max(1, sum(map(_is_named_group, root.iter())))
        blank = Inherited(view_transform(root, width, height), {**INITIAL, **OWN}, (box[2], box[3]))
        self.top = self.shapes.enter(root, blank)
        self.shapes.check_count(root)

    def _frame(self) -> tuple[float, float]:
        _, _, bw, bh = view_box(self.root) or (0.0, 0.0, 300.0, 150.0)
        width = length(self.root.get("width"), bw)
        height = length(self.root.get("height"), bh)
        # A side that is not given follows from the other by the view box (CSS Images 3, §5.2).
        if not width:
            width = height * bw / bh if height and bh else bw
        height = height or (width * bh / bw if bw else bh)
        if not (0 < width <= 1e5 and 0 < height <= 1e5):
            raise Refusal(
                "The drawing's width, height or view box make no picture.",
                where=self.filename,
                remedy="Set the page size in the drawing program and save it again.",
                kind="damaged",
            )
        return width, height

    def read_named(self) -> None:
        self._container(self.root, self.top, (), [self.root])

    def read_loose(self) -> None:
        holder, state, chain = self.root, self.top, [self.root]
        while len(inner := list(_drawn(holder))) == 1 and local(inner[0]) in ("g", "a"):
            holder = inner[0]
            state = self.shapes.enter(holder, state)
            chain.append(holder)
        for count, child in enumerate(_drawn(holder), 1):
            name = (
                name_of(child)
                or f"{local(child).replace('g', 'group') if local(child) == 'g' else local(child)} {count}"
            )
            self._piece(name, (), [child], state, chain)

    def _container(self, holder: Element, inside: Inherited, path: tuple[str, ...], chain: list[Element]) -> None:
        """Walk a group that holds named groups: those become pieces, and so do the shapes between them."""
        between: list[Element] = []

        def flush() -> None:
            if between:
                self._piece(path[-1] if path else "loose shapes", path, list(between), inside, chain)
                between.clear()

        for child in _drawn(holder):
            kind, name = local(child), name_of(child)
            if kind in ("g", "a") and _has_named_inside(child):
                flush()
                style = self.sheets.style(child, inside.style)
                if style["display"] != "none":
                    deeper = self.shapes.enter(child, inside)
                    self._container(child, deeper, (*path, name) if name else path, [*chain, child])
            elif name and (kind in CONTAINERS or kind in SHAPES or kind in ("use", "image", "text")):
                flush()
                self._piece(name, path, [child], inside, chain)
            else:
                between.append(child)
        flush()

    def _piece(
        self, name: str, path: tuple[str, ...], elements: list[Element], state: Inherited, chain: list[Element]
    ) -> None:
        hidden = all(self.sheets.style(e, state.style)["display"] == "none" for e in elements)
        try:
            self._check_chain(chain, path or (name,))
            nodes: list[Node] = []
            for element in elements:
                nodes.extend(self.shapes.nodes(element, state))
            art = art_of(self._within_chain(nodes, chain))
        except NeedsPicture as reason:
            art = self._as_picture(elements, state, chain, name)
            self.result.notes.append(
                f"{name}: became a picture at {PICTURE_SCALE} pixels a unit, because it has {reason}."
            )
        if art is None:
            why = "it is hidden in the file" if hidden else "nothing of it shows"
            self.result.notes.append(f"{name}: left out, because {why}.")
        else:
            self.result.pieces.append(Found(name, path, art))
        self._working()

    def _working(self) -> None:
        self.progress(min(1.0, len(self.result.pieces) / self.total))

    def _check_chain(self, chain: list[Element], path: tuple[str, ...]) -> None:
        state = self.top
        for element in chain:
            state = state if element is self.root else self.shapes.enter(element, state)
            for key, what in (("filter", "a filter"), ("mask", "a mask")):
                if state.style[key] != "none":
                    raise NeedsPicture(f"{what} on the group “{name_of(element) or path[-1]}” it is in")

    def _within_chain(self, nodes: list[Node], chain: list[Element]) -> list[Node]:
        """Fade and clip a piece as the groups around it do."""
        states = [self.top]
        for element in chain[1:]:
            states.append(self.shapes.enter(element, states[-1]))
        for element, inside in reversed(list(zip(chain, states, strict=True))):
            if number(inside.style["opacity"]) < 1 and nodes:
                note = f"{name_of(element) or 'a group'}: its opacity was given to each of its pieces."
                if note not in self.result.notes:
                    self.result.notes.append(note)
            nodes = self.shapes.wrapped(nodes, element, inside)
        return nodes

    def _as_picture(self, elements: list[Element], state: Inherited, chain: list[Element], name: str) -> Art | None:
        """Draw these elements alone, with everything that applies to them, as a picture no larger than they are."""
        width, height = self.result.frame
        alone = copy.deepcopy(self.root)
        _keep_only(self.root, alone, {id(e) for e in elements}, {id(e) for e in chain})
        # The drawing lies within another as large as it is, so that percentages and its own view box stay true.
        for key, value in (("x", "0"), ("y", "0"), ("width", f"{width:g}"), ("height", f"{height:g}")):
            alone.set(key, value)
        alone.set("overflow", "visible")
        inner = plain(alone)
        # Seen small first, with half a frame of room on every side for what reaches beyond the picture's edge.
        whole = (-width / 2, -height / 2, width * 2, height * 2)
        small = GLIMPSE / max(whole[2:])
        seen = visible_box(self._rasterised(inner, whole, small, name))
        boxes = [b for e in elements for b in self.shapes.reach(e, state)]
        if seen is not None:
            l, t, r, b = ((v + edge) / small for v, edge in zip(seen, (-2, -2, 2, 2), strict=True))
            boxes.append((whole[0] + l, whole[1] + t, whole[0] + r, whole[1] + b))
        if not boxes:
            return None
        # A pattern of small tiles can't be seen so small; its shape says where it is.
        l, t = (max(whole[i], min(b[i] for b in boxes)) for i in (0, 1))
        r, b = (min(whole[i] + whole[i + 2], max(b[i + 2] for b in boxes)) for i in (0, 1))
        if not (r > l and b > t):
            return None
        box = (l, t, r - l, b - t)
        scale = float(PICTURE_SCALE)
        while box[2] * box[3] * scale * scale > limits.PIXELS / 4 and scale > 0.01:
            scale /= 2
        pixels = self._rasterised(inner, box, scale, name)
        found = visible_box(pixels)
        if found is None:
            return None
        left, top, right, bottom = found
        asset = self.result.keep("image/png", png_of(pixels[top:bottom, left:right]))
        x, y = box[0] + left / scale, box[1] + top / scale
        w, h = (right - left) / scale, (bottom - top) / scale
        return Art(bounds=(x, y, x + w, y + h), nodes=(Picture(asset=asset, box=(x, y, w, h)),))

    def _rasterised(
        self, inner: Element, box: tuple[float, float, float, float], scale: float, name: str
    ) -> NDArray[np.uint8]:
        """What shows in a box of the frame, so many pixels a unit."""
        around = Element(SVG + "svg")
        # Sides of whole pixels, so that a pixel is as wide as it is high.
        sides = [max(1, math.ceil(v * scale)) for v in box[2:]]
        around.set("viewBox", " ".join(f"{v:.9g}" for v in (*box[:2], sides[0] / scale, sides[1] / scale)))
        around.set("width", str(sides[0]))
        around.set("height", str(sides[1]))
        around.append(inner)
        try:
            png = resvg_py.svg_to_bytes(svg_string=tostring(around, encoding="unicode"), **FONTS)  # type: ignore[arg-type]
        except (MemoryError, KeyboardInterrupt, SystemExit):
            raise
        except BaseException:  # noqa: BLE001
            # A panic of the rasteriser is no ordinary exception.
            raise Refusal(
                f"“{name}” can't be drawn as a picture.", where=self.filename, remedy="Turn it into plain shapes."
            ) from None
        return decode(bytes(png), self.filename)


def _keep_only(source: Element, copied: Element, wanted: set[int], chain: set[int]) -> None:
    """Tuck everything but the wanted elements away in `defs`, where it can be used but is not drawn."""
    for index, (original, twin) in enumerate(zip(list(source), list(copied), strict=True)):
        if id(original) in wanted or local(original) in UNSEEN:
            continue
        if id(original) in chain:
            _keep_only(original, twin, wanted, chain)
            continue
        tucked = Element(SVG + "defs")
        tucked.append(twin)
        copied[index] = tucked
