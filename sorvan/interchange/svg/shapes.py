"""Elements of a drawing as art nodes."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import contextmanager
from functools import lru_cache
from typing import Protocol
from xml.etree.ElementTree import Element

from sorvan.core.errors import Refusal
from sorvan.core.geometry import IDENTITY, Affine
from sorvan.core.model.art import BLENDS, Blend, Layer, Node, Shape
from sorvan.interchange import limits
from sorvan.interchange.svg.clips import Clips, rule_of
from sorvan.interchange.svg.embedded import Embedded
from sorvan.interchange.svg.guard import href, local
from sorvan.interchange.svg.names import name_of
from sorvan.interchange.svg.outline import shape_outline, transformed
from sorvan.interchange.svg.paint import NeedsPicture, Paints
from sorvan.interchange.svg.places import CONTAINERS, SHAPES, UNSEEN, ElementPlaces, Inherited, box_of, spoken
from sorvan.interchange.svg.style import Style, number

_PICTURES = {"text": "text", "foreignObject": "foreign content"}


class CannotDraw(Exception):
    """The rasteriser gave up on something."""


class Draws(Protocol):
    """Draws elements as a picture."""

    def draw(self, elements: Sequence[Element], state: Inherited) -> list[Node]:
        """The elements, all in one place among others, with everything that applies to them. Raises `CannotDraw`."""


class Shapes:
    """Turns the elements of one drawing into nodes: those that vectors can't say into pictures, and no others.

    `fallen` tells why there are pictures, and `plain` what could not be drawn as one and so lost something, since
    they were last emptied.
    """

    def __init__(
        self,
        places: ElementPlaces,
        pictures: Draws,
        embedded: Embedded,
        where: str,
        working: Callable[[], None] = lambda: None,
    ) -> None:
        self.places, self.pictures, self.embedded, self.where = places, pictures, embedded, where
        self.paints = Paints(places.by_id, places.sheets)
        self.clips = Clips(places, where, working)
        self.working = working
        """Told now and then that there is work being done."""
        self.uses = self.made = 0
        self.fallen: list[str] = []
        self.plain: list[str] = []
        self.shown: set[Element] = set()
        """What is brought in although it is hidden."""
        self._without_effects = False

    def _too_much(self, what: str, remedy: str) -> Refusal:
        return Refusal(what, where=self.where, remedy=remedy, kind="too-large")

    def all(self, elements: Iterable[Element], inside: Inherited, within: tuple[str, ...] = ()) -> list[Node]:
        """The elements one after the other, in frame units; those next to each other that have to be pictures are one."""
        found: list[Node] = []
        waiting: list[tuple[Element, str]] = []
        for element in elements:
            try:
                nodes = self._vectors(element, inside, within)
            except NeedsPicture as reason:
                waiting.append((element, str(reason)))
                continue
            if nodes:
                found.extend(self._pictured(waiting, inside, within))
                found.extend(nodes)
                waiting.clear()
        return [*found, *self._pictured(waiting, inside, within)]

    def _pictured(self, waiting: list[tuple[Element, str]], state: Inherited, within: tuple[str, ...]) -> list[Node]:
        if not waiting:
            return []
        elements, reasons = [e for e, _ in waiting], [reason for _, reason in waiting]
        if not self._without_effects:
            try:
                nodes = self.pictures.draw(elements, state)
                self.fallen.extend(reasons if nodes else ())
                return nodes
            except CannotDraw:
                self.plain.extend(reasons)
        with self.plainly():
            return [node for element in elements for node in self._or_nothing(element, state, within)]

    @contextmanager
    def plainly(self) -> Iterator[None]:
        """Leave effects out for a while."""
        before, self._without_effects = self._without_effects, True
        try:
            yield
        finally:
            self._without_effects = before

    def _or_nothing(self, element: Element, state: Inherited, within: tuple[str, ...]) -> list[Node]:
        try:
            return self._vectors(element, state, within)
        except NeedsPicture:
            return []

    def _vectors(self, element: Element, state: Inherited, within: tuple[str, ...]) -> list[Node]:
        """The element and everything in it, in frame units; raises `NeedsPicture` where it can't be kept as it is."""
        name = local(element)
        if name in UNSEEN or not spoken(element):
            return []
        inside = self.places.enter(element, state)
        if inside.style["display"] == "none" and element not in self.shown:
            return []
        if name in _PICTURES:
            raise NeedsPicture(_PICTURES[name])
        if inside.style["filter"] != "none" and not self._without_effects:
            raise NeedsPicture("a filter")
        if name in SHAPES:
            found = self._shape(element, inside)
        elif name == "use":
            found = self._use(element, inside, within)
        elif name == "image":
            found = self.embedded.nodes(element, inside)
        elif name in CONTAINERS:
            found = (
                self._viewport(element, None, inside, within)
                if name == "svg"
                else self.all(_shown_of(element), inside, within)
            )
        else:
            return []
        return self.wrapped(found, element, inside)

    def wrapped(self, nodes: list[Node], element: Element, inside: Inherited) -> list[Node]:
        """The nodes under the element's own opacity, blend mode, clip and mask, as one layer if it has any of them."""
        if not nodes:
            return nodes
        style = inside.style
        opacity, blend = number(style["opacity"]), blend_of(style)
        clipped = style["clip-path"] != "none" or style["mask"] != "none"
        if opacity == 1 and blend == "normal" and not clipped and style["isolation"] != "isolate":
            return nodes
        try:
            clips = self.clips.of(element, inside) if clipped else ()
        except NeedsPicture:
            if not self._without_effects:
                raise
            clips = ()
        # What is clipped or set apart blends among itself only (Compositing 1, §2.1.1).
        apart = (clipped or style["isolation"] == "isolate") and any(map(blends, nodes))
        if opacity == 1 and blend == "normal" and not clips and not apart:
            return nodes
        return [Layer(opacity=opacity, clips=clips, blend=blend, isolated=apart, nodes=tuple(nodes))]

    def check_count(self, root: Element) -> None:
        """Raises `Refusal` if there are too many shapes once everything that is repeated is."""
        known: dict[Element, int] = {}
        kinds = Counter(map(local, root.iter()))
        if not kinds["use"] and sum(kinds[kind] for kind in SHAPES) <= limits.SHAPES:
            return

        def count(element: Element, depth: int) -> int:
            if element in known:
                return known[element]
            # What is being counted uses itself: that draws nothing more.
            known[element] = 0
            target = self.places.by_id.get(href(element)[1:]) if local(element) == "use" else None
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

    def _viewport(
        self, element: Element, use: Element | None, inside: Inherited, within: tuple[str, ...]
    ) -> list[Node]:
        """What is in a nested `svg` or a used `symbol`, which ends at its edge unless it may overflow."""
        entered = self.places.into(element, use, inside)
        if entered is None:
            return []
        state, edge = entered
        found = self.all(element, state, within)
        if not found or inside.style["overflow"] in ("visible", "auto"):
            return found
        return [Layer(clips=(edge,), nodes=tuple(found))]

    def _use(self, element: Element, inside: Inherited, within: tuple[str, ...]) -> list[Node]:
        id = href(element)[1:]
        target = self.places.by_id.get(id)
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
        placed = self.places.used_at(element, inside)
        if local(target) in ("symbol", "svg"):
            entered = self.places.enter(target, placed)
            found = self._viewport(target, element, entered, (*within, id))
            return self.wrapped(found, target, entered)
        return self.all((target,), placed, (*within, id))

    def _shape(self, element: Element, state: Inherited) -> list[Node]:
        style = state.style
        self.made += 1
        if self.made % 64 == 0:
            self.working()
        outline = shape_outline(element, state.view, style)
        if outline is None or style["visibility"] != "visible":
            return []
        marked = not style["marker-start"] == style["marker-mid"] == style["marker-end"] == "none"
        if marked and not self._without_effects:
            raise NeedsPicture("line markers")
        # Gradients only may be measured by it.
        box = box_of(outline) if "url(" in style["fill"] or "url(" in style["stroke"] else (0.0, 0.0, 0.0, 0.0)
        scale = _even_scale(state.ctm)
        if not scale and state.ctm.determinant == 0:
            return []
        fixed = style["vector-effect"] == "non-scaling-stroke"
        baked = scale is not None or style["stroke"] == "none" or fixed
        ctm = state.ctm if baked else IDENTITY
        fill = self.paints.paint(style["fill"], style, number(style["fill-opacity"]), box, ctm, state.view)
        stroke = None
        if style["stroke"] != "none":
            stroke = self.paints.stroke(style, box, ctm, 1.0 if fixed or not baked else scale or 1.0, state.view)
        if fill is None and stroke is None:
            return []
        stroke_first = stroke is not None and fill is not None and _stroke_first(style["paint-order"])
        shapes: list[Node]
        # Of thousands most have no name: what is not told takes no room.
        whole = Shape(outline=transformed(outline, ctm), rule=rule_of(style["fill-rule"]), fill=fill, stroke=stroke)
        if name := name_of(element):
            whole = whole.changed(name=name)
        shapes = [whole.changed(fill=None), whole.changed(stroke=None)] if stroke_first else [whole]
        return shapes if baked else [Layer(matrix=state.ctm, nodes=tuple(shapes))]


def blend_of(style: Style) -> Blend:
    """How an element is laid on what is under it; a mode that is not known is none."""
    found = style["mix-blend-mode"]
    return found if found in BLENDS else "normal"  # type: ignore[return-value]


def blends(node: Node) -> bool:
    """Whether a node is laid on what is under it other than plainly."""
    if not isinstance(node, Layer):
        return False
    if node.blend != "normal":
        return True
    return node.opacity == 1 and not node.isolated and any(map(blends, node.nodes))


def _shown_of(element: Element) -> Iterable[Element]:
    """What of an element may be shown: of a `switch`, the first that is for whoever looks."""
    if local(element) != "switch":
        return element
    return [child for child in element if local(child) not in UNSEEN and spoken(child)][:1]


def _stroke_first(order: str) -> bool:
    """Whether the line lies under the fill (SVG 2 §13.8); what is not named comes last, in the usual order."""
    words = [word for word in order.split() if word in ("fill", "stroke", "markers")]
    usual = [word for word in ("fill", "stroke", "markers") if word not in words]
    placed = [*words, *usual]
    return placed.index("stroke") < placed.index("fill")


@lru_cache(maxsize=256)
def _even_scale(m: Affine) -> float | None:
    """The scale of a transform that keeps shapes similar; None for one that does not."""
    a, b, c, d = m[:4]
    first, second = math.hypot(a, b), math.hypot(c, d)
    tolerance = 1e-4 * max(first, second)
    if abs(first - second) > tolerance or abs(a * c + b * d) > tolerance * max(first, second):
        return None
    return first
