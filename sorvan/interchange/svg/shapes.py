"""Elements of a drawing as art nodes."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace
from xml.etree.ElementTree import Element

import skia

from sorvan.core.errors import Refusal
from sorvan.core.geometry import IDENTITY, Affine
from sorvan.core.model.art import Box, Clip, Layer, Node, Outline, Rule, Shape
from sorvan.interchange import limits
from sorvan.interchange.svg.css_transforms import css_transform, origin_of
from sorvan.interchange.svg.guard import href, local
from sorvan.interchange.svg.names import name_of
from sorvan.interchange.svg.outline import length, parse_transform, shape_outline, transformed, view_box, view_transform
from sorvan.interchange.svg.paint import NeedsPicture, Paints, reference
from sorvan.interchange.svg.skia_paths import from_path
from sorvan.interchange.svg.style import INITIAL, OWN, Sheets, Style, number
from sorvan.picture.paint import path_of

SHAPES = frozenset(("path", "rect", "circle", "ellipse", "line", "polyline", "polygon"))
CONTAINERS = frozenset(("g", "a", "svg", "switch"))
UNSEEN = frozenset(
    ("defs", "style", "title", "desc", "metadata", "symbol", "clipPath", "mask", "marker", "pattern", "filter",
     "linearGradient", "radialGradient", "view", "cursor", "font", "")
)  # fmt: skip
_PICTURES = {"image": "an embedded picture", "text": "text", "foreignObject": "foreign content"}


@dataclass(frozen=True)
class Inherited:
    """What holds where an element stands: its transform to the frame, the style it inherits, and how large what it is
    drawn in is, of which percentages are."""

    ctm: Affine
    style: Style
    view: tuple[float, float]


class Shapes:
    """Turns the elements of one drawing into nodes. Raises `NeedsPicture` for what vectors can't say."""

    def __init__(
        self,
        by_id: Mapping[str, Element],
        sheets: Sheets,
        where: str,
        working: Callable[[], None] = lambda: None,
    ) -> None:
        self.by_id, self.sheets, self.where = by_id, sheets, where
        self.paints = Paints(by_id, sheets)
        self.working = working
        """Told now and then that there is work being done."""
        self.uses = self.made = self.clipped = 0
        self.known: dict[tuple[Element, Affine, tuple[float, float], int], tuple[skia.Path, Clip | None]] = {}

    def _too_much(self, what: str, remedy: str) -> Refusal:
        return Refusal(what, where=self.where, remedy=remedy, kind="too-large")

    def enter(self, element: Element, state: Inherited) -> Inherited:
        """The state inside an element: its own transform and style on top."""
        style = self.sheets.style(element, state.style)
        return replace(state, ctm=state.ctm @ self._own_transform(element, style, state.view), style=style)

    def _own_transform(self, element: Element, style: Style, view: tuple[float, float]) -> Affine:
        """What moves an element: its style, if that says anything (CSS Transforms 1, §5), else its attribute."""
        given = style["transform"]
        if not given:
            return parse_transform(element.get("transform"))
        if given == "none":
            return IDENTITY
        if style["transform-box"] != "view-box":
            raise NeedsPicture("a transform about its own box")
        (x, y), step = origin_of(style["transform-origin"], view), css_transform(given, view)
        return Affine.shift(x, y) @ step @ Affine.shift(-x, -y)

    def nodes(self, element: Element, state: Inherited, within: tuple[str, ...] = ()) -> list[Node]:
        """The element and everything in it, in frame units."""
        name = local(element)
        if name in UNSEEN or not _spoken(element):
            return []
        inside = self.enter(element, state)
        if inside.style["display"] == "none":
            return []
        if name in _PICTURES:
            raise NeedsPicture(_PICTURES[name])
        for key, what in (("filter", "a filter"), ("mask", "a mask"), ("mix-blend-mode", "a blend mode")):
            if inside.style[key] not in ("none", "normal"):
                raise NeedsPicture(what)
        if name in SHAPES:
            found = self._shape(element, inside)
        elif name == "use":
            found = self._use(element, inside, within)
        elif name in CONTAINERS:
            found = (
                self._viewport(element, None, inside, within)
                if name == "svg"
                else self._children(element, inside, within)
            )
        else:
            return []
        return self.wrapped(found, element, inside)

    def wrapped(self, nodes: list[Node], element: Element, inside: Inherited) -> list[Node]:
        """The nodes under the element's own opacity and clip, as one layer if it has either."""
        opacity = number(inside.style["opacity"])
        clips = self.clips(element, inside)
        if not nodes or (opacity == 1 and not clips):
            return nodes
        return [Layer(opacity=opacity, clips=clips, nodes=tuple(nodes))]

    def reach(self, element: Element, state: Inherited, within: tuple[str, ...] = ()) -> Iterator[Box]:
        """Boxes, in frame units, that shapes and pictures fill whatever they are painted with; text has none."""
        name = local(element)
        if name in UNSEEN or not _spoken(element):
            return
        inside = self.enter(element, state)
        if name in SHAPES or name == "image":
            outline = (
                shape_outline(element, inside.view, inside.style)
                if name in SHAPES
                else _picture_outline(element, inside.view)
            )
            if outline is not None:
                l, t, r, b = _box(transformed(outline, inside.ctm))
                air = length(inside.style["stroke-width"]) * math.sqrt(abs(inside.ctm.determinant))
                wide = 0.0 if inside.style["stroke"] == "none" else air
                yield (l - wide, t - wide, r + wide, b + wide)
        elif name == "use":
            id = href(element)[1:]
            target = self.by_id.get(id)
            if target is not None and id not in within and len(within) < limits.DEPTH // 2:
                width, height = inside.view
                shift = Affine.shift(length(element.get("x"), width), length(element.get("y"), height))
                placed = replace(inside, ctm=inside.ctm @ shift)
                for part in target if local(target) == "symbol" else (target,):
                    yield from self.reach(part, placed, (*within, id))
        else:
            for child in element:
                yield from self.reach(child, self._into(element, None, inside)[0] if name == "svg" else inside, within)

    def check_count(self, root: Element) -> None:
        """Raises `Refusal` if there are too many shapes once everything that is repeated is."""
        known: dict[Element, int] = {}

        def count(element: Element, depth: int) -> int:
            if element in known:
                return known[element]
            # What is being counted uses itself: that draws nothing more.
            known[element] = 0
            target = self.by_id.get(href(element)[1:]) if local(element) == "use" else None
            found = int(local(element) in SHAPES) + sum(count(child, depth + 1) for child in element)
            if target is not None and depth < 4 * limits.DEPTH:
                found += 1 + count(target, depth + 1)
            known[element] = min(found, 2 * limits.SHAPES)
            return known[element]

        if count(root, 0) > limits.SHAPES:
            raise self._too_much(
                f"The drawing has more than {limits.SHAPES:,} shapes, those that it repeats counted as often.",
                "Split it into several files, or make it simpler.",
            )

    def _children(self, element: Element, inside: Inherited, within: tuple[str, ...]) -> list[Node]:
        found: list[Node] = []
        for child in element:
            if not _spoken(child):
                continue
            found.extend(self.nodes(child, inside, within))
            if local(element) == "switch" and local(child) not in UNSEEN:
                break
        return found

    def _into(self, element: Element, use: Element | None, inside: Inherited) -> tuple[Inherited, Clip]:
        """Into a nested `svg`, or a `symbol` as it is used: the state in it, and its edge (SVG 2 §8.3, §5.5)."""
        width, height = inside.view

        def side(key: str, whole: float) -> float:
            told = (use.get(key) if use is not None else None) or inside.style.get(key) or element.get(key)
            return length(told if told != "auto" else None, whole, whole)

        w, h = side("width", width), side("height", height)
        x, y = (
            (length(element.get("x"), width), length(element.get("y"), height)) if local(element) == "svg" else (0, 0)
        )
        edge = Outline(verbs="MLLLZ", points=(x, y, x + w, y, x + w, y + h, x, y + h))
        ctm = inside.ctm @ Affine.shift(x, y)
        box = view_box(element)
        if w > 0 and h > 0:
            ctm = ctm @ view_transform(element, w, h)
        state = replace(inside, ctm=ctm, view=(box[2], box[3]) if box else (w, h))
        return state, Clip(outline=transformed(edge, inside.ctm))

    def _viewport(
        self, element: Element, use: Element | None, inside: Inherited, within: tuple[str, ...]
    ) -> list[Node]:
        """What is in a nested `svg` or a used `symbol`, which ends at its edge unless it may overflow."""
        state, edge = self._into(element, use, inside)
        if edge.outline.points[0] == edge.outline.points[2] and edge.outline.points[1] == edge.outline.points[3]:
            return []
        found = self._children(element, state, within)
        if not found or inside.style["overflow"] in ("visible", "auto"):
            return found
        return [Layer(clips=(edge,), nodes=tuple(found))]

    def _use(self, element: Element, inside: Inherited, within: tuple[str, ...]) -> list[Node]:
        id = href(element)[1:]
        target = self.by_id.get(id)
        self.uses += 1
        if self.uses > limits.USES:
            raise self._too_much(
                f"The drawing repeats parts of itself more than {limits.USES:,} times.",
                "Turn the repeated parts into plain shapes.",
            )
        if self.uses % 64 == 0:
            self.working()
        if target is None or id in within or len(within) > limits.DEPTH // 2:
            return []
        width, height = inside.view
        shift = Affine.shift(length(element.get("x"), width), length(element.get("y"), height))
        placed = replace(inside, ctm=inside.ctm @ shift)
        if local(target) in ("symbol", "svg"):
            entered = self.enter(target, placed)
            found = self._viewport(target, element, entered, (*within, id))
            return self.wrapped(found, target, entered)
        return self.nodes(target, placed, (*within, id))

    def _shape(self, element: Element, state: Inherited) -> list[Node]:
        style = state.style
        self.made += 1
        if self.made % 64 == 0:
            self.working()
        outline = shape_outline(element, state.view, style)
        if outline is None or style["visibility"] != "visible":
            return []
        if any(style[f"marker-{end}"] != "none" for end in ("start", "mid", "end")):
            raise NeedsPicture("line markers")
        if state.ctm.determinant == 0:
            return []
        box = _box(outline)
        scale = _even_scale(state.ctm)
        fixed = style["vector-effect"] == "non-scaling-stroke"
        baked = scale is not None or style["stroke"] == "none" or fixed
        ctm = state.ctm if baked else IDENTITY
        fill = self.paints.paint(style["fill"], style, number(style["fill-opacity"]), box, ctm, state.view)
        stroke = None
        if style["stroke"] != "none":
            stroke = self.paints.stroke(style, box, ctm, 1.0 if fixed or not baked else scale or 1.0, state.view)
        if fill is None and stroke is None:
            return []
        rule = _rule(style["fill-rule"])
        drawn = transformed(outline, ctm)
        stroke_first = stroke is not None and fill is not None and style["paint-order"].startswith("stroke")
        shapes: list[Node]
        whole = Shape(name=name_of(element), outline=drawn, rule=rule, fill=fill, stroke=stroke)
        shapes = [whole.changed(fill=None), whole.changed(stroke=None)] if stroke_first else [whole]
        return shapes if baked else [Layer(matrix=state.ctm, nodes=tuple(shapes))]

    def clips(self, element: Element, inside: Inherited) -> tuple[Clip, ...]:
        """The clip an element asks for, in frame units."""
        pointed = reference(inside.style["clip-path"])
        if pointed is None:
            if inside.style["clip-path"] != "none":
                raise NeedsPicture("a clip shape written in CSS")
            return ()
        target = self.by_id.get(pointed[0])
        if target is None or local(target) != "clipPath":
            return ()
        base = inside
        if target.get("clipPathUnits") == "objectBoundingBox":
            outline = shape_outline(element, inside.view, inside.style) if local(element) in SHAPES else None
            if outline is None:
                raise NeedsPicture("a clip sized to a group")
            left, top, right, bottom = _box(outline)
            base = replace(inside, ctm=inside.ctm @ Affine(right - left, 0, 0, bottom - top, left, top))
        path, single = self._clip_path(target, base, 0)
        if single is not None:
            return (single,)
        return (from_path(path),)

    def _clip_path(self, clip: Element, base: Inherited, depth: int) -> tuple[skia.Path, Clip | None]:
        """All shapes of a clipPath united; the second value is set when it is one plain shape."""
        if depth > 4:
            raise NeedsPicture("clips within clips")
        # What lies in a clip is worked out once for all that it clips.
        key = (clip, base.ctm, base.view, depth)
        if key not in self.known:
            self.known[key] = self._united(clip, base, depth)
        return self.known[key]

    def _united(self, clip: Element, base: Inherited, depth: int) -> tuple[skia.Path, Clip | None]:
        blank = replace(base, style={**INITIAL, **OWN})
        inside = self.enter(clip, blank)
        parts: list[Clip] = []
        for child in clip:
            parts.extend(self._clip_parts(child, inside, depth))
        nested = reference(inside.style["clip-path"])
        outer = self.by_id.get(nested[0]) if nested else None
        if len(parts) == 1 and outer is None:
            return path_of(parts[0].outline, parts[0].rule), parts[0]
        together = skia.OpBuilder()
        for part in parts:
            self._clips_cost(len(part.outline.verbs) * len(parts))
            together.add(path_of(part.outline, part.rule), skia.PathOp.kUnion_PathOp)
        united = together.resolve() or skia.Path()
        if outer is not None and local(outer) == "clipPath":
            limit, _ = self._clip_path(outer, base, depth + 1)
            self._clips_cost(united.countVerbs() + limit.countVerbs())
            united = skia.Op(united, limit, skia.PathOp.kIntersect_PathOp) or united
        return united, None

    def _clips_cost(self, segments: int) -> None:
        """Count what clips take to be worked out, which grows with the segments that may cross one another."""
        self.clipped += segments
        self.working()
        if self.clipped > limits.CLIPS:
            raise self._too_much(
                "The drawing clips its parts by more shapes than can be worked out.",
                "Clip by a few simple shapes, or cut the parts themselves.",
            )

    def _clip_parts(self, child: Element, state: Inherited, depth: int) -> list[Clip]:
        name = local(child)
        inside = self.enter(child, state)
        if name in UNSEEN or inside.style["display"] == "none" or inside.style["visibility"] != "visible":
            return []
        if name == "use":
            target = self.by_id.get(href(child)[1:])
            shift = Affine.shift(length(child.get("x"), inside.view[0]), length(child.get("y"), inside.view[1]))
            moved = replace(inside, ctm=inside.ctm @ shift)
            return [] if target is None or depth > 4 else self._clip_parts(target, moved, depth + 1)
        if name not in SHAPES:
            raise NeedsPicture("a clip made of something other than shapes")
        outline = shape_outline(child, inside.view, inside.style)
        if outline is None:
            return []
        rule = _rule(inside.style["clip-rule"])
        part = Clip(outline=transformed(outline, inside.ctm), rule=rule)
        own = reference(inside.style["clip-path"])
        target = self.by_id.get(own[0]) if own else None
        if target is not None and local(target) == "clipPath":
            limit, _ = self._clip_path(target, inside, depth + 1)
            self._clips_cost(len(part.outline.verbs) + limit.countVerbs())
            both = skia.Op(path_of(part.outline, part.rule), limit, skia.PathOp.kIntersect_PathOp)
            return [from_path(both)] if both is not None else []
        return [part]


def _spoken(element: Element) -> bool:
    """Whether an element is for those who see this (SVG 1.1 §5.8.5): English is as good as none."""
    languages = element.get("systemLanguage")
    spoken = languages is None or any(w.strip().lower().split("-")[0] == "en" for w in languages.split(","))
    return spoken and not (element.get("requiredExtensions") or "").strip()


def _picture_outline(element: Element, view: tuple[float, float]) -> Outline | None:
    """The place of an embedded picture; one whose size is not given may be as large as the view."""
    x, y = length(element.get("x"), view[0]), length(element.get("y"), view[1])
    w, h = length(element.get("width"), view[0], view[0]), length(element.get("height"), view[1], view[1])
    return Outline(verbs="MLLL", points=(x, y, x + w, y, x + w, y + h, x, y + h)) if w > 0 and h > 0 else None


def _rule(word: str) -> Rule:
    return "evenodd" if word == "evenodd" else "nonzero"


def _box(outline: Outline) -> Box:
    b = path_of(outline).computeTightBounds()
    return (b.left(), b.top(), b.right(), b.bottom())


def _even_scale(m: Affine) -> float | None:
    """The scale of a transform that keeps shapes similar; None for one that does not."""
    a, b, c, d = m[:4]
    first, second = math.hypot(a, b), math.hypot(c, d)
    tolerance = 1e-4 * max(first, second)
    if abs(first - second) > tolerance or abs(a * c + b * d) > tolerance * max(first, second):
        return None
    return first
