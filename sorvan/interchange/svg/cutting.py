"""Which parts of a drawing become pieces: as its names say, or, where it has none, as its parts lie."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from xml.etree.ElementTree import Element

from sorvan.core.errors import Refusal
from sorvan.core.model.art import Box
from sorvan.interchange import limits
from sorvan.interchange.svg.guard import href, local
from sorvan.interchange.svg.names import name_of
from sorvan.interchange.svg.places import CONTAINERS, SHAPES, UNSEEN, spoken

ElementPath = tuple[Element, ...]
"""The elements around another, from the whole drawing on; behind a `use` comes what it shows."""
HOLDERS = CONTAINERS | {"symbol", "use"}
"""What may hold others."""
FEW = 8
"""Loose shapes up to which each is a piece of its own."""
MANY = 10_000
"""Loose shapes beyond which it is not looked how they lie."""
WITHIN, SMALL = 0.95, 0.5
"""A loose shape of which so much lies within the box before it, and that is at most so large a part of that, belongs to it."""


@dataclass(frozen=True, eq=False, slots=True)
class ShownElement:
    """An element where it is shown."""

    chain: ElementPath
    element: Element


@dataclass
class CutPiece:
    """What becomes one piece: its name, the groups it is in, its parts from the back, and, if they were chosen, their
    paths."""

    name: str
    groups: tuple[str, ...]
    spots: list[ShownElement]
    paths: tuple[str, ...] = ()


@dataclass
class OfferedPart:
    """A part of a drawing as it can be chosen. `path` leads to it, by places among what is shown; that of what is left of a
    group in which there is more than can be looked through ends with a plus sign."""

    path: str
    name: str
    kind: str
    spots: list[ShownElement]
    shapes: int
    children: list[OfferedPart] = field(default_factory=list)


class Cutter:
    """The parts of one drawing, and which of them become pieces."""

    def __init__(self, root: Element, by_id: Mapping[str, Element], where: str) -> None:
        self.root, self.by_id, self.where = root, by_id, where
        self._holding: dict[Element, bool] = {}
        self._names: dict[tuple[str, ...], dict[str, list[Element]]] = {}
        self.named = self._holds_named(root)

    def parts(self, spot: ShownElement, kinds: frozenset[str] | None = None) -> list[ShownElement]:
        """What is in an element, as it is shown there; all of it, or what is of some kinds only."""
        element, chain = spot.element, (*spot.chain, spot.element)
        if len(chain) > limits.DEPTH:
            return []
        if local(element) == "use":
            target = self.by_id.get(href(element)[1:])
            if target is None or local(target) not in HOLDERS or target in chain:
                return []
            if local(target) == "use":
                return [ShownElement(chain, target)] if kinds is None or "use" in kinds else []
            return self.parts(ShownElement(chain, target), kinds)
        if local(element) not in HOLDERS:
            return []
        shown = [child for child in element if local(child) not in UNSEEN and spoken(child)]
        if local(element) == "switch":
            shown = shown[:1]
        return [ShownElement(chain, child) for child in shown if kinds is None or local(child) in kinds]

    @property
    def top(self) -> ShownElement:
        """The whole drawing."""
        return ShownElement((), self.root)

    def _holds_named(self, element: Element) -> bool:
        """Whether there is a group with a name in an element, itself left out."""
        if element not in self._holding:
            self._holding[element] = False
            self._holding[element] = any(
                self._is_named(s.element) or self._holds_named(s.element)
                for s in self.parts(ShownElement((), element), HOLDERS)
            )
        return self._holding[element]

    def _is_named(self, element: Element) -> bool:
        return local(element) in ("g", "svg") and bool(name_of(element))

    def by_name(self) -> list[CutPiece]:
        """Named groups as pieces; groups of named groups stay groups, and what lies between them goes together."""
        return list(self._in(self.top, ()))

    def _in(self, holder: ShownElement, groups: tuple[str, ...]) -> Iterator[CutPiece]:
        between: list[ShownElement] = []
        inside = groups[-1] if groups else "loose shapes"
        for spot in self.parts(holder):
            kind, name = local(spot.element), name_of(spot.element)
            if kind in HOLDERS and self._holds_named(spot.element):
                if between:
                    yield CutPiece(inside, groups, between)
                    between = []
                yield from self._in(spot, (*groups, self._own_name(groups, name, spot.element)) if name else groups)
            elif name and (kind in HOLDERS or kind in SHAPES or kind in ("image", "text")):
                if between:
                    yield CutPiece(inside, groups, between)
                    between = []
                yield CutPiece(name, groups, [spot])
            else:
                between.append(spot)
        if between:
            yield CutPiece(inside, groups, between)

    def _own_name(self, groups: tuple[str, ...], name: str, element: Element) -> str:
        """A group's name, told from those of its siblings that go by the same."""
        alike = self._names.setdefault(groups, {}).setdefault(name, [])
        if element not in alike:
            alike.append(element)
        n = alike.index(element)
        return name if n == 0 else f"{name} {n + 1}"

    def as_it_lies(self, box_of: Callable[[ShownElement], Box | None]) -> list[CutPiece]:
        """Without names: what is in the innermost group that holds all, each group a piece; of many loose shapes, those
        that lie upon the one before belong to it."""
        holder = self.top
        while len(inner := self.parts(holder)) == 1 and self.parts(inner[0]):
            holder = inner[0]
        cuts: list[CutPiece] = []
        last: Box | None = None
        for n, spot in enumerate(inner, 1):
            kind = "group" if local(spot.element) in HOLDERS else local(spot.element)
            box = box_of(spot) if FEW < len(inner) <= MANY else None
            if cuts and kind != "group" and box is not None and last is not None and _lies_upon(box, last):
                cuts[-1].spots.append(spot)
                continue
            cuts.append(CutPiece(name_of(spot.element) or f"{kind} {n}", (), [spot]))
            last = box if kind != "group" else None
        return cuts

    def tree(self) -> list[OfferedPart]:
        """The drawing's parts as they can be chosen, at most as many as can be looked through. Of a group whose parts are
        more, those that are left are one."""
        left = limits.BRANCHES
        top: list[OfferedPart] = []
        waiting: list[tuple[ShownElement, str, list[OfferedPart]]] = [(self.top, "", top)]
        # All of one depth before any of the next.
        while waiting and left > 0:
            holder, path, into = waiting.pop(0)
            inner = self.parts(holder)
            single = inner if len(inner) <= left else inner[: left - 1]
            for n, spot in enumerate(single):
                kind = local(spot.element)
                kind = "group" if kind in HOLDERS else kind
                branch = OfferedPart(f"{path}{n}", name_of(spot.element), kind, [spot], _shapes_in(spot))
                into.append(branch)
                waiting.append((spot, f"{path}{n}/", branch.children))
            left -= len(single)
            if rest := inner[len(single) :]:
                into.append(OfferedPart(f"{path}{len(single)}+", "", "rest", rest, sum(map(_shapes_in, rest))))
                left = 0
        return top

    def at(self, path: str) -> list[ShownElement]:
        """The part that a path leads to, or the several that are left of a group. Raises `Refusal` if there is none."""
        spots = [self.top]
        for step in path.split("/"):
            parts = self.parts(spots[0])
            place = step.removesuffix("+")
            if len(spots) > 1 or not place.isdecimal() or not place.isascii() or int(place) >= len(parts):
                raise Refusal(
                    "The drawing has no such part.",
                    where=self.where,
                    remedy="Look at the drawing's parts again, and choose among them.",
                    kind="missing",
                )
            spots = parts[int(place) :] if place != step else [parts[int(place)]]
        return spots

    def has(self, path: str) -> bool:
        """Whether a path leads to a part."""
        try:
            self.at(path)
        except Refusal:
            return False
        return True

    def groups_of(self, chain: ElementPath) -> tuple[str, ...]:
        """The names of the groups around a part."""
        found: tuple[str, ...] = ()
        for element in chain[1:]:
            if local(element) in HOLDERS and (name := name_of(element)):
                found = (*found, self._own_name(found, name, element))
        return found


def _shapes_in(spot: ShownElement) -> int:
    return sum(local(e) in SHAPES for e in spot.element.iter())


def _lies_upon(box: Box, under: Box) -> bool:
    area = max((box[2] - box[0]) * (box[3] - box[1]), 1e-9)
    beneath = max((under[2] - under[0]) * (under[3] - under[1]), 1e-9)
    wide = min(box[2], under[2]) - max(box[0], under[0])
    high = min(box[3], under[3]) - max(box[1], under[1])
    return area <= SMALL * beneath and wide > 0 and high > 0 and wide * high >= WITHIN * area
