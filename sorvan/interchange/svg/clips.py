"""Clip paths, and masks that only clip."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from xml.etree.ElementTree import Element

import skia

from sorvan.core.errors import Refusal
from sorvan.core.geometry import Affine
from sorvan.core.model.art import Clip, Outline, Rule
from sorvan.interchange import limits
from sorvan.interchange.svg.guard import href, local
from sorvan.interchange.svg.outline import length, shape_outline, transformed
from sorvan.interchange.svg.paint import NeedsPicture, reference
from sorvan.interchange.svg.places import SHAPES, UNSEEN, ElementPlaces, Inherited, spoken
from sorvan.interchange.svg.skia_paths import from_path
from sorvan.interchange.svg.style import FIRST, colour, number
from sorvan.picture.paint import path_of

_MASK_BOX = {"x": "-10%", "y": "-10%", "width": "120%", "height": "120%"}


class Clips:
    """The clips of one drawing, each worked out once. Raises `NeedsPicture` for what outlines can't say, and `Refusal` for
    what takes too long."""

    def __init__(self, places: ElementPlaces, where: str, working: Callable[[], None]) -> None:
        self.places, self.where, self.working = places, where, working
        self._cost = 0
        self._masks: dict[tuple[Element, Affine, tuple[float, float]], Clip | None] = {}
        self._known: dict[tuple[Element, Affine, tuple[float, float], int], tuple[skia.Path, Clip | None]] = {}

    def of(self, element: Element, inside: Inherited) -> tuple[Clip, ...]:
        """What an element's clip path and mask leave of it, in frame units."""
        return (*self._clip(element, inside), *self._mask(element, inside))

    def _clip(self, element: Element, inside: Inherited) -> tuple[Clip, ...]:
        pointed = reference(inside.style["clip-path"])
        if pointed is None:
            if inside.style["clip-path"] != "none":
                raise NeedsPicture("a clip shape written in CSS")
            return ()
        target = self.places.by_id.get(pointed[0])
        if target is None or local(target) != "clipPath":
            return ()
        if target.get("clipPathUnits") == "objectBoundingBox":
            inside = self._in_box(element, inside)
        path, single = self._path(target, inside, 0)
        return (single,) if single is not None else (from_path(path),)

    def _in_box(self, element: Element, inside: Inherited) -> Inherited:
        """The state in which an element's own box is one unit wide and high."""
        box = self.places.own_box(element, inside.style, inside.view)
        if box is None:
            raise NeedsPicture("a clip sized to what it clips")
        left, top, right, bottom = box
        return replace(inside, ctm=inside.ctm @ Affine(right - left, 0, 0, bottom - top, left, top), view=(1.0, 1.0))

    def _mask(self, element: Element, inside: Inherited) -> tuple[Clip, ...]:
        """A mask that shows what is within some outlines whole and nothing else; any other needs a picture."""
        if inside.style["mask"] == "none":
            return ()
        pointed = reference(inside.style["mask"])
        target = self.places.by_id.get(pointed[0]) if pointed else None
        if target is None or local(target) != "mask":
            if pointed is None:
                raise NeedsPicture("a mask written in CSS")
            return ()
        units = target.get("maskContentUnits")
        of = self._in_box(element, inside) if units == "objectBoundingBox" else inside
        # What lies in a mask, too, is worked out once for all that it masks.
        key = (target, of.ctm, of.view)
        if key not in self._masks:
            self._masks[key] = self._unmasked(target, of)
        shown = self._masks[key]
        if shown is None:
            raise NeedsPicture("a mask")
        edge = self._in_box(element, inside) if target.get("maskUnits") != "userSpaceOnUse" else inside
        x, y, w, h = (
            length(target.get(key, _MASK_BOX[key]), edge.view[n % 2])
            for n, key in enumerate(("x", "y", "width", "height"))
        )
        region = transformed(Outline(verbs="MLLLZ", points=(x, y, x + w, y, x + w, y + h, x, y + h)), edge.ctm)
        return (shown, Clip(outline=region))

    def _unmasked(self, mask: Element, of: Inherited) -> Clip | None:
        """What a mask shows whole; None if it shows anything in part."""
        inside = replace(of, style=self.places.sheets.computed(mask))
        if any(inside.style[key] != "none" for key in ("mask", "clip-path", "filter")):
            return None
        by_alpha = inside.style["mask-type"] == "alpha"
        try:
            parts = [part for child in mask for part in self._mask_parts(child, inside, by_alpha)]
        except NeedsPicture:
            return None
        return parts[0] if len(parts) == 1 else from_path(self._union(parts))

    def _mask_parts(self, child: Element, state: Inherited, by_alpha: bool) -> list[Clip]:
        name = local(child)
        if name in UNSEEN or not spoken(child):
            return []
        inside = self.places.enter(child, state)
        style = inside.style
        if style["display"] == "none":
            return []
        plain = all(style[key] == "none" for key in ("mask", "clip-path", "filter")) and number(style["opacity"]) == 1
        if name == "g" and plain:
            return [part for inner in child for part in self._mask_parts(inner, inside, by_alpha)]
        if name == "use" and plain and (target := self.places.by_id.get(href(child)[1:])) is not None:
            return (
                self._mask_parts(target, self.places.used_at(child, inside), by_alpha)
                if local(target) in SHAPES
                else self._other()
            )
        if name not in SHAPES or not plain or style["stroke"] != "none":
            return self._other()
        if style["visibility"] != "visible" or style["fill"] == "none":
            return []
        found = colour(style["fill"], style, number(style["fill-opacity"]))
        if found is None or not (found == "#ffffffff" or (by_alpha and found.endswith("ff"))):
            return self._other()
        outline = shape_outline(child, inside.view, style)
        return [Clip(outline=transformed(outline, inside.ctm), rule=rule_of(style["fill-rule"]))] if outline else []

    def _other(self) -> list[Clip]:
        raise NeedsPicture("a mask")

    def _path(self, clip: Element, base: Inherited, depth: int) -> tuple[skia.Path, Clip | None]:
        """All shapes of a clipPath united; the second value is set when it is one plain shape."""
        if depth > 4:
            raise NeedsPicture("clips within clips")
        # What lies in a clip is worked out once for all that it clips.
        key = (clip, base.ctm, base.view, depth)
        if key not in self._known:
            self._known[key] = self._united(clip, base, depth)
        return self._known[key]

    def _united(self, clip: Element, base: Inherited, depth: int) -> tuple[skia.Path, Clip | None]:
        inside = self.places.enter(clip, replace(base, style=FIRST))
        parts: list[Clip] = []
        for child in clip:
            parts.extend(self._parts(child, inside, depth))
        nested = reference(inside.style["clip-path"])
        outer = self.places.by_id.get(nested[0]) if nested else None
        if len(parts) == 1 and outer is None:
            return path_of(parts[0].outline, parts[0].rule), parts[0]
        united = self._union(parts)
        if outer is not None and local(outer) == "clipPath":
            limit, _ = self._path(outer, base, depth + 1)
            self._spend(united.countVerbs() + limit.countVerbs())
            united = skia.Op(united, limit, skia.PathOp.kIntersect_PathOp) or united
        return united, None

    def _union(self, parts: Sequence[Clip]) -> skia.Path:
        together = skia.OpBuilder()
        for part in parts:
            self._spend(len(part.outline.verbs) * len(parts))
            together.add(path_of(part.outline, part.rule), skia.PathOp.kUnion_PathOp)
        return together.resolve() or skia.Path()

    def _spend(self, segments: int) -> None:
        """Count what clips take to be worked out, which grows with the segments that may cross one another."""
        self._cost += segments
        self.working()
        if self._cost > limits.CLIPS:
            raise Refusal(
                "The drawing clips its parts by more shapes than can be worked out.",
                where=self.where,
                remedy="Clip by a few simple shapes, or cut the parts themselves.",
                kind="too-large",
            )

    def _parts(self, child: Element, state: Inherited, depth: int) -> list[Clip]:
        name = local(child)
        inside = self.places.enter(child, state)
        if name in UNSEEN or inside.style["display"] == "none" or inside.style["visibility"] != "visible":
            return []
        if name == "use":
            target = self.places.by_id.get(href(child)[1:])
            moved = self.places.used_at(child, inside)
            # It may show a shape itself, not another group or `use` (SVG 1.1 §14.3.5).
            direct = target is not None and local(target) in (*SHAPES, "text")
            return self._parts(target, moved, depth) if target is not None and direct else []
        if name not in SHAPES:
            raise NeedsPicture("a clip made of something other than shapes")
        outline = shape_outline(child, inside.view, inside.style)
        if outline is None:
            return []
        part = Clip(outline=transformed(outline, inside.ctm), rule=rule_of(inside.style["clip-rule"]))
        own = reference(inside.style["clip-path"])
        target = self.places.by_id.get(own[0]) if own else None
        if target is not None and local(target) == "clipPath":
            limit, _ = self._path(target, inside, depth + 1)
            self._spend(len(part.outline.verbs) + limit.countVerbs())
            both = skia.Op(path_of(part.outline, part.rule), limit, skia.PathOp.kIntersect_PathOp)
            return [from_path(both)] if both is not None else []
        return [part]


def rule_of(word: str) -> Rule:
    """A fill or clip rule as it is written."""
    return "evenodd" if word == "evenodd" else "nonzero"
